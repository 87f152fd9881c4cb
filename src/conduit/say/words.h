// Keys as people read them. Files, JSON and commands keep the keys; everything that a person reads takes the
// words of the trade.
#pragma once

#include <string>
#include <string_view>

namespace conduit {

/// "reducing valve" is a pressure-reducing valve, "velocity at most" the maximum velocity; most keys are
/// their own words.
[[nodiscard]] std::string spoken(std::string_view key);
/// With "a" or "an" before it.
[[nodiscard]] std::string spokenOne(std::string_view key);

}  // namespace conduit

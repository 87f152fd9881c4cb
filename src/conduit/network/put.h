// A text put into a field of a draft, as if typed there: what every edit that takes texts is made of.
#pragma once

#include "network/network.h"

namespace conduit {

/// In place of a field: "given pressure" gives that outcome (an empty text no longer), "found bore" lets that
/// field be found ("yes") or gives it again ("no").
inline constexpr std::string_view givenPrefix = "given ", foundPrefix = "found ";

/// Reads `text` by the field table and sets it; an empty text clears the field. The Problem names element and
/// field, and its remedies are edits of that place. `units` null: every number needs its unit.
[[nodiscard]] Result<bool> putText(Draft& draft, Id id, std::string_view key, std::string_view text,
                                   const Stock* stock, const UnitSet* units);

/// A given in metres with the text that a person would have typed, to the centimetre.
[[nodiscard]] Given metresGiven(double m);

/// The SI value of a length or height given directly; empty when it is not given.
[[nodiscard]] std::optional<double> givenSi(const Values& values, std::string_view key);

}  // namespace conduit

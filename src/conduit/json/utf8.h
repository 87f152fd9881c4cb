// Characters of UTF-8 within bytes.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace conduit {

/// Length in bytes of the character that begins at `i`, 1 to 4; 0 when none does: no lead, cut off,
/// over-long, a surrogate (RFC 3629).
[[nodiscard]] std::size_t characterAt(std::string_view text, std::size_t i);
/// The first `most` bytes at most, never half a character.
[[nodiscard]] std::string cut(std::string_view text, std::size_t most);
/// With every byte that is no part of valid UTF-8 as a question mark.
[[nodiscard]] std::string plainUtf8(std::string_view text);

}  // namespace conduit

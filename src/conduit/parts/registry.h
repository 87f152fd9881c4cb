// The list of all kinds. Included only by those who turn a word into a kind.
#pragma once

#include "parts/part.h"

namespace conduit {

[[nodiscard]] std::span<const Part* const> allParts();
[[nodiscard]] const Part* findPart(std::string_view key);  // null when there is no such kind
[[nodiscard]] const Part* partByLetter(char letter);

}  // namespace conduit

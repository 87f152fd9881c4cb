// The data sheet of a sizing: what was wanted, every line with its size and what governs it, the sums, how
// good it is.
#pragma once

#include "say/page.h"
#include "sizing/search.h"

namespace conduit {

[[nodiscard]] Page sizingSheet(const SizingTask& task, const SizingProposal& proposal);

}  // namespace conduit

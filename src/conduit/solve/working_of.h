// How any found number came about: as its kind tells it, else from heads, heights and the balance, which
// every kind shares.
#pragma once

#include "solve/solution.h"

namespace conduit {

/// Every line can be worked out from its own printed numbers; the last is the size of the number that is
/// shown. Empty where the number itself is.
[[nodiscard]] std::optional<Working> workingOf(const Network& network, const Solution& solution, Id id,
                                               std::string_view outcome);

}  // namespace conduit

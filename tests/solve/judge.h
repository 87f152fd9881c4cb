// A second, plain opinion on an answer: laws, balances and states worked out again from the givens, without the solver's
// code. Slow and simple on purpose.
#pragma once

#include <string>
#include <vector>

#include "solve/solve.h"

namespace conduit::test {

/// What is wrong with a balanced answer; empty when all holds. Tolerances: heads 2e-6 m, flows 1e-8 of a point's throughput.
[[nodiscard]] std::vector<std::string> judge(const Network& network, const Solution& solution);

/// Whether any flows can meet the draws at all (one-way devices, closed devices, pieces without a head), by augmenting
/// paths on the plain graph.
[[nodiscard]] bool feasible(const Network& network);

}  // namespace conduit::test

// A second, plain opinion on an answer: laws, balances and states worked out again from the givens, without
// the solver's code. Slow and simple on purpose.
#pragma once

#include <string>
#include <vector>

#include "solve/solve.h"

namespace conduit::test {

/// What is wrong with a balanced answer; empty when all holds. Tolerances: heads 2e-6 m, flows 1e-8 of a
/// point's throughput.
[[nodiscard]] std::vector<std::string> judge(const Network& network, const Solution& solution);

/// Whether any flows can meet the draws at all (one-way devices, closed devices, pieces without a head), by
/// augmenting paths on the plain graph.
[[nodiscard]] bool feasible(const Network& network);

/// Turns a reducing, sustaining or relief valve by hand through its stroke: a plain resistance stands in its
/// place, in 60 steps from next to none to one that passes next to nothing, and the whole network is balanced
/// at each. True when it balances at every step and never reaches what the set point asks (inlet always below
/// it; behind a reducing valve always above it): then neither open nor at any opening can it do what it is
/// set to. Shut is for `feasible` to say.
[[nodiscard]] bool neverAtItsSetPoint(const Network& network, Id valve);

}  // namespace conduit::test

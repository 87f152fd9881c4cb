// From the solver's numbers to the Solution.
#pragma once

#include "solve/newton.h"
#include "solve/solution.h"

namespace conduit {

/// Room for every branch and vessel, filled with "not determined".
void makeRoom(const Network& network, const System& system, Solution& out);

/// Heads, flows, states and shares of an answer; `hanging` by solver node, as Newton has it.
void readOut(const Network& network, const System& system, const Iterate& x, const std::vector<char>& hanging, Solution& out);

/// The other way: where an earlier answer knows a flow, a head or the state of a device, `x` begins there.
void startFrom(const Solution& last, const System& system, Iterate& x);

}  // namespace conduit

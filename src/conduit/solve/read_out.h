// From the solver's numbers to the Solution.
#pragma once

#include <map>

#include "solve/newton.h"
#include "solve/solution.h"

namespace conduit {

/// Room for every branch and vessel, filled with "not determined".
void makeRoom(const Network& network, const System& system, Solution& out);

/// Heads, flows, states and shares of an answer; `hanging` by solver node, as Newton has it.
void readOut(const Network& network, const System& system, const Iterate& x, const std::vector<char>& hanging,
             Solution& out);

/// What flows in flows out: an answer whose shares do not add up to nothing (but for the rounding of its
/// balances) is called not converged.
void checkBoundary(Solution& solution);

/// Flows through joins, from what the raw nodes they tie together have over: a tree through them; `excess` by
/// raw node is used up.
void throughJoins(const System& system, std::vector<double>& excess, std::vector<double>& joinFlow);

/// The other way: where an earlier answer knows a flow, a head or the state of a device, `x` begins there.
void startFrom(const Solution& last, const System& system, Iterate& x);

/// A device without a drive that would have to lift what passes it, which nothing does: a check over every
/// branch of an answer. Pipes at tees are left out, as a joining flow may draw another along. `passes`:
/// elements made to pass a flow.
[[nodiscard]] std::optional<Problem> liftsWithoutDrive(const Network& network, const System& system,
                                                       const Solution& solution,
                                                       const std::map<Id, double>& passes);

}  // namespace conduit

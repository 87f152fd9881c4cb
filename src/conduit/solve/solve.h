// The way into the solver: a network in, a solution out. No globals; any number of threads may come in at
// once.
//
//   Solution answer = solve(network, stock);
//   if (answer.summary.usable()) ...
#pragma once

#include <map>
#include <stop_token>

#include "solve/solution.h"
#include "solve/workspace.h"

namespace conduit {

struct SolveOptions {
  const Solution* startFrom = nullptr;  // an earlier answer of a network like this one; null: cold
  UnitSet units = UnitSet::siWater();   // for the words of problems
  std::stop_token stop;
  bool record = false;     // keep every step
  std::size_t offers = 3;  // fields that could be found for what is too much, as many are offered at most
  bool notes = true;  // what is only said beside an answer: where a field would be met besides, who could run
  bool shutOff = true;  // what stands when nothing flows
  /// Elements of one branch that pass a flow, m3/s, whatever they are and however they are described; what
  /// head that takes is then read off at their ends.
  std::map<Id, double> passes{};
  /// The caller's, for this solve alone; it makes the next one cheaper. Null: everything is set up from
  /// scratch.
  Workspace* workspace = nullptr;
};

[[nodiscard]] Solution solve(const Network& network, const Stock* stock, const SolveOptions& options = {});

}  // namespace conduit

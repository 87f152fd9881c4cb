// Finds the states in which every device's own inequalities hold, with Newton inside.
#pragma once

#include "solve/newton.h"

namespace conduit {

struct StatesFound {
  Newton::End end = Newton::End::converged;
  bool consistent = true;
  std::vector<std::size_t> fighting;  // links of the devices that cannot agree
  int flips = 0;                      // changes of state on the way
  bool forced = false;  // those of `fighting` each must pass a flow that their set point forbids
  std::optional<double>
      shortOf_m{};            // by how much, with the flow passing, what it holds is then on the wrong side
  bool mustPass = false;      // those of `fighting` must pass a flow, and no set was found that lets them
  bool exhausted = false;     // every set of their states was balanced, and none holds
  std::size_t setsTried = 0;  // of states, before the search gave up
  std::vector<std::pair<std::size_t, double>>
      couldRun{};                // links at rest that cannot start, with the flow they could keep up, m3/s
  bool overChoked = false;       // more passes some valve than it can when choked: an answer on paper only
  std::vector<int> teesApart{};  // raw points of tees with whose losses no flows were found to agree
  /// Someone can be named who keeps it from an answer.
  [[nodiscard]] bool named() const { return !consistent && (!fighting.empty() || !teesApart.empty()); }
};

/// From the iterate's states and flows to a true answer, or to the devices that fight. Convex devices (those
/// that only bar backflow) are settled inside by a soft law and made exact at the end; those that hold a
/// pressure are settled outside: violated ones change, no set of states is tried twice, a set that leads
/// nowhere makes way for the one before, and when all that fails the devices that changed are tried in all
/// combinations.
[[nodiscard]] StatesFound settle(Newton& newton, const System& system, Iterate& x, std::stop_token stop);

/// Names, by link, of every inequality that the iterate breaks; empty when all hold. Judged afresh from heads
/// and flows.
[[nodiscard]] std::vector<std::size_t> brokenStates(const System& system, const Iterate& x,
                                                    const std::vector<char>& hanging);

/// The same after a small change of what is given, with the states of an answer `found` for what was given
/// before: true when they hold still. Else `x` is as it was.
[[nodiscard]] bool settleAgain(Newton& newton, const System& system, Iterate& x, std::stop_token stop,
                               StatesFound& found);

}  // namespace conduit

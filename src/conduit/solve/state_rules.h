// What each device's state asks of heads and flows: the rules that the search for states and the filling of
// pockets share.
#pragma once

#include "solve/states.h"

namespace conduit::rules {

inline constexpr double headSlack_m = 1e-6;

[[nodiscard]] double flowSlack(const Link& l);                 // a flow that is none, m3/s
[[nodiscard]] double across(const Iterate& x, const Link& l);  // head lost from end to end, m
[[nodiscard]] double target(const Iterate& x,
                            const Link& l);  // what a device that holds a head would hold now, m
[[nodiscard]] double excess(const Iterate& x,
                            const Link& l);  // held head on the wrong side of it by so much, m
[[nodiscard]] double lossAt(const Link& l, double flow_m3s);  // m, as open
[[nodiscard]] bool outside(const Link& l);                    // settled outside the convex problem
/// Whether acting can move what it holds: a head that is known already cannot be held.
[[nodiscard]] bool canHold(const System& s, const Link& l);

/// The state a holding or choking device wants to be in, seeing the heads and flow of an answer found with
/// its present state. `soft`: heads stand only as near as the rough balance.
[[nodiscard]] LinkState wanted(const System& s, const Iterate& x, const Link& l, std::size_t i,
                               bool soft = false);
/// How far from its inequality, m of head or the like: the worst changes first.
[[nodiscard]] double violation(const Iterate& x, const Link& l, std::size_t i);
/// A new state, with a flow to begin from.
void enter(const System& s, Iterate& x, std::size_t i, LinkState state);
/// From the soft answer to the exact one: what was pressed backward is shut, what was pressed past its most
/// is limiting. `flips` counts the changes; `exact`: flows and heads balance as they stand.
[[nodiscard]] Newton::End makeExact(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                                    int& flips, bool exact = false);

}  // namespace conduit::rules

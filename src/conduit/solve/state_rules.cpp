#include "solve/state_rules.h"

#include <algorithm>
#include <cmath>

#include "solve/index.h"

namespace conduit::rules {
namespace {

// In the soft problem some flow leaks back through every device that is pressed shut, a millionth of a
// moderate one a metre.
constexpr double leaksMost = 3e-4, roughSlack_m = 3e-4;  // and heads stand only as near as the rough balance
double seen(const Iterate& x, const Link& l) { return x.head_m[u(l.held)]; }
// Where the liquid boils already before a valve its own choking has no meaning.
bool boilsBefore(const Iterate& x, const Link& l, double q) {
  return (q >= 0 ? x.head_m[u(l.from)] - l.choke->baseFrom_m : x.head_m[u(l.to)] - l.choke->baseTo_m) <= 0;
}
// Whether the heads at its ends press a barring device shut. At rest without that it is open, and what it
// holds must be held.
bool pressedBack(const Iterate& x, const Link& l, double q) {
  return q <= flowSlack(l) && across(x, l) < l.noFlowDrop_m - headSlack_m;
}

}  // namespace

double flowSlack(const Link& l) { return 1e-9 * l.law->startFlow_m3s(); }
double across(const Iterate& x, const Link& l) { return x.head_m[u(l.from)] - x.head_m[u(l.to)]; }

// What a device that holds a head would hold now, and what it sees there.
double target(const Iterate& x, const Link& l) { return l.held_m + (l.over < 0 ? 0.0 : x.head_m[u(l.over)]); }
// By how much the held head is on the wrong side: above its target behind a device, below it before one.
double excess(const Iterate& x, const Link& l) {
  return l.holdsBefore ? target(x, l) - seen(x, l) : seen(x, l) - target(x, l);
}
double lossAt(const Link& l, double q) {
  double memory = 0;
  return l.law->at(q, memory).drop_m;
}
bool canHold(const System& s, const Link& l) { return !l.holds || l.over >= 0 || s.isFree(l.held); }
bool outside(const Link& l) { return l.holds || l.choke.has_value(); }  // settled outside the convex problem

// The state a holding or choking device wants to be in, seeing the heads and flow of an answer found with its
// present state.
LinkState wanted(const System& s, const Iterate& x, const Link& l, std::size_t i, bool soft) {
  const double slack_m = soft ? roughSlack_m : headSlack_m;
  const double q = x.flow_m3s[i], before = x.head_m[u(l.from)], after = x.head_m[u(l.to)];
  if (l.choke) {
    if (x.state[i] == LinkState::flowing && boilsBefore(x, l, q)) return LinkState::flowing;
    if (x.state[i] == LinkState::flowing)
      return std::abs(q) > std::abs(choked(*l.choke, q, before, after).flow_m3s) * (1 + 1e-9) + flowSlack(l)
                 ? LinkState::acting
                 : LinkState::flowing;
    const double sign = q < 0 ? -1.0 : 1.0;
    return sign * (before - after) < sign * lossAt(l, q) - slack_m ? LinkState::flowing : LinkState::acting;
  }
  if (l.from == l.to)
    return excess(x, l) > slack_m ? LinkState::shut
                                  : LinkState::flowing;  // beside a branch without loss nothing passes it
  // With its own end to hold, the head on the other side must allow it; further away one has to try.
  const double hold = target(x, l);
  const bool own = l.over < 0 && l.held == (l.holdsBefore ? l.from : l.to);
  const bool can = !own || (l.holdsBefore ? after + l.noFlowDrop_m < hold : before - l.noFlowDrop_m > hold);
  const LinkState hold_ = canHold(s, l) ? LinkState::acting : LinkState::shut;
  switch (x.state[i]) {
    case LinkState::flowing:
      return !pressedBack(x, l, q) && excess(x, l) > slack_m && can ? hold_ : LinkState::flowing;
    case LinkState::acting: {
      if (q < (soft ? -leaksMost * l.law->startFlow_m3s() : -flowSlack(l))) return LinkState::shut;
      return before - after < lossAt(l, std::max(q, 0.0)) - slack_m ? LinkState::flowing : LinkState::acting;
    }
    default:
      if (excess(x, l) < -slack_m && before - after > l.noFlowDrop_m + slack_m)
        return can && hold_ == LinkState::acting ? LinkState::acting : LinkState::flowing;
      return LinkState::shut;
  }
}

// How far from its inequality, m of head or the like: the worst changes first.
double violation(const Iterate& x, const Link& l, std::size_t i) {
  if (l.choke) return std::abs(x.flow_m3s[i]) / l.law->startFlow_m3s();
  switch (x.state[i]) {
    case LinkState::flowing: return excess(x, l);
    case LinkState::acting:
      return x.flow_m3s[i] < 0 ? -x.flow_m3s[i] / l.law->startFlow_m3s() * 10
                               : 1.0 + std::abs(target(x, l) - x.head_m[u(l.holdsBefore ? l.to : l.from)]);
    default: return -excess(x, l);
  }
}

// A new state, with a flow to begin from.
void enter(const System& s, Iterate& x, std::size_t i, LinkState state) {
  x.state[i] = state;
  if (state == LinkState::shut) x.flow_m3s[i] = 0.0;
  if (state == LinkState::flowing && x.flow_m3s[i] <= 0)
    x.flow_m3s[i] = 0.1 * s.links[i].law->startFlow_m3s();
}

// From the soft answer to the exact one: what was pressed backward is shut, what was pressed past its most is
// limiting.
Newton::End makeExact(Newton& newton, const System& s, Iterate& x, std::stop_token stop, int& flips,
                      bool exact) {
  // Shut here, by backflow alone: such a device may open again here.
  std::vector<char> barred(s.links.size(), 0);
  std::vector<std::size_t> devices;  // what may be other than open
  int bounded = 0;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    const bool bounds = l.bars || std::isfinite(l.flowMost_m3s);
    if (!bounds && !outside(l) && x.state[i] == LinkState::flowing) continue;
    devices.push_back(i);
    bounded += bounds;
    if (x.state[i] == LinkState::flowing && l.bars && x.flow_m3s[i] < 0) {
      x.flow_m3s[i] = 0.0;
      exact = false;
      barred[i] = 1;
      // At rest with nothing pressing on it a device is open, not shut: its head then follows through it.
      if (across(x, l) < l.noFlowDrop_m - headSlack_m) x.state[i] = LinkState::shut;
    } else if (x.state[i] == LinkState::flowing && x.flow_m3s[i] > l.flowMost_m3s) {
      x.flow_m3s[i] = l.flowMost_m3s;
      x.state[i] = LinkState::limiting;
      exact = false;
    } else if (!outside(l)) {
      barred[i] = 1;
    }
  }
  const auto pocket = [&](const Link& l) { return newton.hanging()[u(l.from)] || newton.hanging()[u(l.to)]; };
  for (int round = 0; round < 40 + bounded; ++round) {
    const Newton::End end =
        exact && round == 0 ? Newton::End::converged : newton.run(x, Newton::Mode::exact, stop);
    if (end != Newton::End::converged) return end;
    // A holding device that is to shut says nothing yet of what it pushes back.
    for (const std::size_t i : devices)
      if (x.state[i] == LinkState::acting && s.links[i].holds && x.flow_m3s[i] < -flowSlack(s.links[i]))
        return end;
    std::vector<std::pair<double, std::size_t>> wrong;
    for (const std::size_t i : devices) {
      const Link& l = s.links[i];
      double by = 0.0;
      if (x.state[i] == LinkState::shut && barred[i] && !pocket(l) &&
          !(l.holds && excess(x, l) >= -headSlack_m))
        by = across(x, l) - l.noFlowDrop_m - headSlack_m;
      if (x.state[i] == LinkState::limiting && !pocket(l))
        by = lossAt(l, l.flowMost_m3s) - across(x, l) - headSlack_m;
      if (x.state[i] == LinkState::flowing && l.bars && x.flow_m3s[i] < -flowSlack(l))
        by = -x.flow_m3s[i] / l.law->startFlow_m3s();
      if (x.state[i] == LinkState::flowing && x.flow_m3s[i] > l.flowMost_m3s + flowSlack(l))
        by = (x.flow_m3s[i] - l.flowMost_m3s) / l.law->startFlow_m3s();
      if (by > 0) wrong.emplace_back(-by, i);
    }
    if (wrong.empty()) return Newton::End::converged;
    std::sort(wrong.begin(), wrong.end());
    if (round >= 5) wrong.resize(1);  // all at once leads in a circle: the worst alone
    for (const auto& [by, i] : wrong) {
      ++flips;
      const Link& l = s.links[i];
      if (x.state[i] == LinkState::flowing) {
        x.state[i] = x.flow_m3s[i] < 0 ? LinkState::shut : LinkState::limiting;
        barred[i] = 1;
      } else {
        x.flow_m3s[i] =
            x.state[i] == LinkState::limiting ? 0.999 * l.flowMost_m3s : 1e-3 * l.law->startFlow_m3s();
        x.state[i] = LinkState::flowing;
      }
    }
  }
  return Newton::End::stalled;
}

}  // namespace conduit::rules

namespace conduit {

using namespace rules;

std::vector<std::size_t> brokenStates(const System& s, const Iterate& x, const std::vector<char>& hanging) {
  std::vector<std::size_t> broken;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    const bool limits = std::isfinite(l.flowMost_m3s);
    if (!l.bars && !outside(l) && !limits) continue;
    const bool pocket = hanging[u(l.from)] || hanging[u(l.to)];
    const double q = x.flow_m3s[i], slack = 10 * headSlack_m, qSlack = 10 * flowSlack(l);
    bool holds = true;
    switch (x.state[i]) {
      case LinkState::flowing:
        holds = (!l.bars || q >= -qSlack) && !(l.holds && !pocket && excess(x, l) > slack) &&
                !(limits && q > l.flowMost_m3s + qSlack);
        if (l.choke && !pocket && !boilsBefore(x, l, q))
          holds =
              holds &&
              std::abs(q) <= std::abs(choked(*l.choke, q, x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s) *
                                     (1 + 1e-8) +
                                 qSlack;
        break;
      case LinkState::acting:
        if (l.choke) {
          const double sign = q < 0 ? -1.0 : 1.0;
          holds = pocket || sign * across(x, l) >= sign * lossAt(l, q) - slack;
        } else {
          holds = canHold(s, l) && q >= -qSlack && std::abs(excess(x, l)) <= slack &&
                  (pocket || across(x, l) >= lossAt(l, std::max(q, 0.0)) - slack);
        }
        break;
      case LinkState::limiting:
        holds = q == l.flowMost_m3s && (pocket || across(x, l) >= lossAt(l, q) - slack);
        break;
      case LinkState::shut:
        if (q != 0.0) holds = false;
        if (!pocket)
          holds = holds && ((l.holds && excess(x, l) >= -slack) || across(x, l) <= l.noFlowDrop_m + slack);
        break;
    }
    if (!holds) broken.push_back(i);
  }
  return broken;
}

}  // namespace conduit

#include "solve/states.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <string>

#include "solve/union_find.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }
constexpr double headSlack_m = 1e-6;

double flowSlack(const Link& l) { return 1e-9 * l.law->startFlow_m3s(); }
double across(const Iterate& x, const Link& l) { return x.head_m[u(l.from)] - x.head_m[u(l.to)]; }

// What a device that holds a head would hold now, and what it sees there.
double target(const Iterate& x, const Link& l) { return l.held_m + (l.over < 0 ? 0.0 : x.head_m[u(l.over)]); }
double seen(const Iterate& x, const Link& l) { return x.head_m[u(l.held)]; }
// By how much the held head is on the wrong side: above its target behind a device, below it before one.
double excess(const Iterate& x, const Link& l) { return l.holdsBefore ? target(x, l) - seen(x, l) : seen(x, l) - target(x, l); }
double lossAt(const Link& l, double q) {
  double memory = 0;
  return l.law->at(q, memory).drop_m;
}
bool outside(const Link& l) { return l.holds || l.choke.has_value(); }  // settled outside the convex problem

// The state a holding or choking device wants to be in, seeing the heads and flow of an answer found with its present state.
LinkState wanted(const System& s, const Iterate& x, const Link& l, std::size_t i) {
  const double q = x.flow_m3s[i], before = x.head_m[u(l.from)], after = x.head_m[u(l.to)];
  if (l.choke) {
    if (x.state[i] == LinkState::flowing)
      return std::abs(q) > std::abs(choked(*l.choke, q, before, after).flow_m3s) * (1 + 1e-9) + flowSlack(l) ? LinkState::acting : LinkState::flowing;
    const double sign = q < 0 ? -1.0 : 1.0;
    return sign * (before - after) < sign * lossAt(l, q) - headSlack_m ? LinkState::flowing : LinkState::acting;
  }
  // With its own end to hold, the head on the other side must allow it; further away one has to try.
  const double hold = target(x, l);
  const bool own = l.over < 0 && l.held == (l.holdsBefore ? l.from : l.to);
  const bool can = !own || (l.holdsBefore ? after + l.noFlowDrop_m < hold : before - l.noFlowDrop_m > hold);
  const LinkState hold_ = l.over < 0 && !s.isFree(l.held) ? LinkState::shut : LinkState::acting;
  switch (x.state[i]) {
    case LinkState::flowing: return q > flowSlack(l) && excess(x, l) > headSlack_m && can ? hold_ : LinkState::flowing;
    case LinkState::acting: {
      if (q < -flowSlack(l)) return LinkState::shut;
      return before - after < lossAt(l, std::max(q, 0.0)) - headSlack_m ? LinkState::flowing : LinkState::acting;
    }
    default:
      if (excess(x, l) < -headSlack_m && before - after > l.noFlowDrop_m + headSlack_m) return can && hold_ == LinkState::acting ? LinkState::acting : LinkState::flowing;
      return LinkState::shut;
  }
}

// How far from its inequality, m of head or the like: the worst changes first.
double violation(const Iterate& x, const Link& l, std::size_t i) {
  if (l.choke) return std::abs(x.flow_m3s[i]) / l.law->startFlow_m3s();
  switch (x.state[i]) {
    case LinkState::flowing: return excess(x, l);
    case LinkState::acting: return x.flow_m3s[i] < 0 ? -x.flow_m3s[i] / l.law->startFlow_m3s() * 10 : 1.0 + std::abs(target(x, l) - x.head_m[u(l.holdsBefore ? l.to : l.from)]);
    default: return -excess(x, l);
  }
}

std::string keyOf(const Iterate& x, const std::vector<std::size_t>& holding) {
  std::string key;
  for (const std::size_t i : holding) key += static_cast<char>('0' + static_cast<int>(x.state[i]));
  return key;
}

// An acting device needs a head on either side that does not come through itself; where none is left it must stand open.
void keepReference(const System& s, Iterate& x, const std::vector<std::size_t>& holding) {
  const auto pins = [&](std::size_t i) { return x.state[i] == LinkState::acting && s.links[i].holds && s.links[i].over < 0; };
  for (bool again = true; again;) {
    again = false;
    if (std::none_of(holding.begin(), holding.end(), pins)) return;
    UnionFind together(u(s.nodeCount()));
    std::vector<char> held(u(s.nodeCount()), 0);
    for (std::size_t i = 0; i < s.links.size(); ++i)
      if (!pins(i)) together.join(s.links[i].from, s.links[i].to);
    for (int n = s.freeCount; n < s.nodeCount(); ++n) held[u(together.find(n))] = 1;
    for (const std::size_t i : holding)
      if (pins(i)) held[u(together.find(s.links[i].held))] = 1;
    for (const std::size_t i : holding)
      if (pins(i) && !(held[u(together.find(s.links[i].from))] && held[u(together.find(s.links[i].to))])) {
        x.state[i] = LinkState::flowing;
        again = true;
        break;
      }
  }
}

// Of several devices that hold one node only those that go furthest may act: the highest set point behind reducing ones,
// the lowest before sustaining ones. Where both kinds meet the one behind stands open.
void highestActs(const System& s, Iterate& x, const std::vector<std::size_t>& holding) {
  for (const std::size_t i : holding)
    for (const std::size_t j : holding) {
      const Link &a = s.links[i], &b = s.links[j];
      if (i == j || !a.holds || !b.holds || a.over >= 0 || b.over >= 0 || a.held != b.held || x.state[i] != LinkState::acting || x.state[j] != LinkState::acting) continue;
      if (a.holdsBefore != b.holdsBefore) x.state[a.holdsBefore ? j : i] = LinkState::flowing;
      else if (a.holdsBefore ? a.held_m > b.held_m + 1e-9 : a.held_m < b.held_m - 1e-9) x.state[i] = LinkState::shut;
    }
}

// From the soft answer to the exact one: what was pressed backward is shut, what was pressed past its most is limiting.
Newton::End makeExact(Newton& newton, const System& s, Iterate& x, std::stop_token stop, int& flips) {
  bool anyFixed = false;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    if (x.state[i] == LinkState::shut) {
      anyFixed = true;
    } else if (x.state[i] == LinkState::flowing && l.bars && x.flow_m3s[i] < 0) {
      x.flow_m3s[i] = 0.0;
      // At rest with nothing pressing on it a device is open, not shut: its head then follows through it.
      if (across(x, l) < l.noFlowDrop_m - headSlack_m) x.state[i] = LinkState::shut;
      anyFixed = true;
    } else if (x.state[i] == LinkState::flowing && x.flow_m3s[i] > l.flowMost_m3s) {
      x.flow_m3s[i] = l.flowMost_m3s;
      x.state[i] = LinkState::limiting;
      anyFixed = true;
    }
  }
  if (!anyFixed) return Newton::End::converged;
  const auto pocket = [&](const Link& l) { return newton.hanging()[u(l.from)] || newton.hanging()[u(l.to)]; };
  for (int round = 0; round < 40; ++round) {
    const Newton::End end = newton.run(x, Newton::Mode::exact, stop);
    if (end != Newton::End::converged) return end;
    std::size_t worst = s.links.size();
    double most = 0.0;
    for (std::size_t i = 0; i < s.links.size(); ++i) {
      const Link& l = s.links[i];
      if (outside(l)) continue;
      double by = 0.0;
      if (x.state[i] == LinkState::shut && !pocket(l)) by = across(x, l) - l.noFlowDrop_m - headSlack_m;
      if (x.state[i] == LinkState::limiting && !pocket(l)) by = lossAt(l, l.flowMost_m3s) - across(x, l) - headSlack_m;
      if (x.state[i] == LinkState::flowing && l.bars && x.flow_m3s[i] < -flowSlack(l)) by = -x.flow_m3s[i] / l.law->startFlow_m3s();
      if (x.state[i] == LinkState::flowing && x.flow_m3s[i] > l.flowMost_m3s + flowSlack(l)) by = (x.flow_m3s[i] - l.flowMost_m3s) / l.law->startFlow_m3s();
      if (by > most) most = by, worst = i;
    }
    if (worst == s.links.size()) return Newton::End::converged;
    ++flips;
    const Link& l = s.links[worst];
    if (x.state[worst] == LinkState::flowing) {
      x.state[worst] = x.flow_m3s[worst] < 0 ? LinkState::shut : LinkState::limiting;
    } else {
      x.flow_m3s[worst] = x.state[worst] == LinkState::limiting ? 0.999 * l.flowMost_m3s : 1e-3 * l.law->startFlow_m3s();
      x.state[worst] = LinkState::flowing;
    }
  }
  return Newton::End::stalled;
}

}  // namespace

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
        holds = (!l.bars || q >= -qSlack) && !(l.holds && !pocket && q > qSlack && excess(x, l) > slack) && !(limits && q > l.flowMost_m3s + qSlack);
        if (l.choke && !pocket) holds = holds && std::abs(q) <= std::abs(choked(*l.choke, q, x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s) * (1 + 1e-8) + qSlack;
        break;
      case LinkState::acting:
        if (l.choke) {
          const double sign = q < 0 ? -1.0 : 1.0;
          holds = pocket || sign * across(x, l) >= sign * lossAt(l, q) - slack;
        } else {
          holds = q >= -qSlack && std::abs(excess(x, l)) <= slack && (pocket || across(x, l) >= lossAt(l, std::max(q, 0.0)) - slack);
        }
        break;
      case LinkState::limiting: holds = q == l.flowMost_m3s && (pocket || across(x, l) >= lossAt(l, q) - slack); break;
      case LinkState::shut:
        if (q != 0.0) holds = false;
        if (!pocket) holds = holds && ((l.holds && excess(x, l) >= -slack) || across(x, l) <= l.noFlowDrop_m + slack);
        break;
    }
    if (!holds) broken.push_back(i);
  }
  return broken;
}

StatesFound settle(Newton& newton, const System& s, Iterate& x, std::stop_token stop) {
  StatesFound found;
  std::vector<std::size_t> holding;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (outside(s.links[i])) holding.push_back(i);
  // Barring and limiting devices are settled by the soft law: begin with none shut.
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (!outside(s.links[i])) x.state[i] = LinkState::flowing;
  std::set<std::string> tried;
  std::set<std::size_t> circle;

  // One set of states: soft, then checked. True when every holding device is content.
  auto attempt = [&](bool& content, std::vector<std::size_t>& unhappy) {
    tried.insert(keyOf(x, holding));
    found.end = newton.run(x, Newton::Mode::soft, stop);
    unhappy.clear();
    if (found.end != Newton::End::converged) return;
    for (const std::size_t i : holding)
      if (wanted(s, x, s.links[i], i) != x.state[i]) unhappy.push_back(i);
    content = unhappy.empty();
  };
  // A set of states made ready: true when it has not been tried yet.
  auto fresh = [&] {
    keepReference(s, x, holding);
    highestActs(s, x, holding);
    return !tried.contains(keyOf(x, holding));
  };
  auto finish = [&] {
    found.end = makeExact(newton, s, x, stop, found.flips);
    if (found.end != Newton::End::converged) return false;
    found.fighting = brokenStates(s, x, newton.hanging());
    return found.fighting.empty();
  };

  bool content = false;
  std::vector<std::size_t> unhappy;
  (void)fresh();
  for (int round = 0; round < 60; ++round) {
    content = false;
    attempt(content, unhappy);
    if (found.end == Newton::End::stopped) return found;
    if (content) {
      if (finish()) return found;
      break;
    }
    if (found.end != Newton::End::converged) break;
    const Iterate before = x;
    auto flip = [&](std::size_t i) {
      x.state[i] = wanted(s, before, s.links[i], i);
      if (x.state[i] == LinkState::shut) x.flow_m3s[i] = 0.0;
      if (x.state[i] == LinkState::flowing && x.flow_m3s[i] <= 0) x.flow_m3s[i] = 0.1 * s.links[i].law->startFlow_m3s();
      circle.insert(i);
      ++found.flips;
    };
    std::stable_sort(unhappy.begin(), unhappy.end(), [&](std::size_t a, std::size_t b) { return violation(before, s.links[a], a) > violation(before, s.links[b], b); });
    bool moved = false;
    if (round < 5) {
      for (const std::size_t i : unhappy) flip(i);
      moved = fresh();
    }
    for (std::size_t k = 0; !moved && k < unhappy.size(); ++k) {
      x = before;
      flip(unhappy[k]);
      moved = fresh();
    }
    if (!moved) break;
  }
  if (holding.empty()) {
    found.consistent = found.end == Newton::End::converged && found.fighting.empty();
    return found;
  }
  // The easy way failed: all combinations of the devices that kept changing (at most 6: 729 sets), the rest as they stand.
  std::vector<std::size_t> few(circle.begin(), circle.end());
  for (const std::size_t i : holding)
    if (few.size() < 6 && !circle.contains(i)) few.push_back(i);
  if (few.size() > 6) few.resize(6);
  const Iterate base = x;
  std::size_t sets = 1;
  for (std::size_t k = 0; k < few.size(); ++k) sets *= 3;
  for (std::size_t set = 0; set < sets; ++set) {
    if (stop.stop_requested()) {
      found.end = Newton::End::stopped;
      return found;
    }
    x = newton.coldStart();
    for (const std::size_t i : holding) x.state[i] = base.state[i];
    for (std::size_t k = 0, rest = set; k < few.size(); ++k, rest /= 3) x.state[few[k]] = static_cast<LinkState>(rest % 3);
    for (const std::size_t i : few)
      if (s.links[i].choke && x.state[i] == LinkState::shut) x.state[i] = LinkState::flowing;
    if (!fresh()) continue;
    content = false;
    attempt(content, unhappy);
    if (content && finish()) return found;
  }
  found.consistent = false;
  found.fighting = few;
  found.end = Newton::End::converged;
  return found;
}

}  // namespace conduit

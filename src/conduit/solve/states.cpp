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

// The state a holding device wants to be in, seeing the heads and flow of an answer found with its present state.
LinkState wanted(const Iterate& x, const Link& l, std::size_t i) {
  const double q = x.flow_m3s[i], before = x.head_m[u(l.from)], after = x.head_m[u(l.to)];
  switch (x.state[i]) {
    case LinkState::flowing: return q > flowSlack(l) && after > l.held_m + headSlack_m && before > l.held_m ? LinkState::acting : LinkState::flowing;
    case LinkState::acting: {
      if (q < -flowSlack(l)) return LinkState::shut;
      double memory = 0;
      return before - after < l.law->at(std::max(q, 0.0), memory).drop_m - headSlack_m ? LinkState::flowing : LinkState::acting;
    }
    case LinkState::shut:
      if (after < l.held_m - headSlack_m && before > after + headSlack_m) return before > l.held_m ? LinkState::acting : LinkState::flowing;
      return LinkState::shut;
  }
  return x.state[i];
}

// How far from its inequality, m of head or the like: the worst changes first.
double violation(const Iterate& x, const Link& l, std::size_t i) {
  switch (x.state[i]) {
    case LinkState::flowing: return x.head_m[u(l.to)] - l.held_m;
    case LinkState::acting: return x.flow_m3s[i] < 0 ? -x.flow_m3s[i] / l.law->startFlow_m3s() * 10 : 1.0 + l.held_m - x.head_m[u(l.from)];
    case LinkState::shut: return l.held_m - x.head_m[u(l.to)];
  }
  return 0.0;
}

std::string keyOf(const Iterate& x, const std::vector<std::size_t>& holding) {
  std::string key;
  for (const std::size_t i : holding) key += static_cast<char>('0' + static_cast<int>(x.state[i]));
  return key;
}

// An acting device needs a head before it that does not come through itself; where none is left it must stand open.
void keepReference(const System& s, Iterate& x, const std::vector<std::size_t>& holding) {
  for (bool again = true; again;) {
    again = false;
    if (std::none_of(holding.begin(), holding.end(), [&](std::size_t i) { return x.state[i] == LinkState::acting; })) return;
    UnionFind together(u(s.nodeCount()));
    std::vector<char> held(u(s.nodeCount()), 0);
    for (std::size_t i = 0; i < s.links.size(); ++i)
      if (x.state[i] != LinkState::acting) together.join(s.links[i].from, s.links[i].to);
    for (int n = s.freeCount; n < s.nodeCount(); ++n) held[u(together.find(n))] = 1;
    for (const std::size_t i : holding)
      if (x.state[i] == LinkState::acting) held[u(together.find(s.links[i].to))] = 1;
    for (const std::size_t i : holding)
      if (x.state[i] == LinkState::acting && !held[u(together.find(s.links[i].from))]) {
        x.state[i] = LinkState::flowing;
        again = true;
        break;
      }
  }
}

// Of several devices that hold one node only those with the highest set point may act.
void highestActs(const System& s, Iterate& x, const std::vector<std::size_t>& holding) {
  for (const std::size_t i : holding)
    for (const std::size_t j : holding)
      if (i != j && s.links[i].to == s.links[j].to && x.state[i] == LinkState::acting && x.state[j] == LinkState::acting && s.links[i].held_m < s.links[j].held_m - 1e-9)
        x.state[i] = LinkState::shut;
}

// From the soft answer to the exact one: what was pressed backward is shut.
Newton::End makeExact(Newton& newton, const System& s, Iterate& x, std::stop_token stop, int& flips) {
  bool anyShut = false;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    if (x.state[i] == LinkState::shut) {
      anyShut = true;
    } else if (x.state[i] == LinkState::flowing && l.bars && x.flow_m3s[i] < 0) {
      x.flow_m3s[i] = 0.0;
      // At rest with nothing pressing on it a device is open, not shut: its head then follows through it.
      if (across(x, l) < l.noFlowDrop_m - headSlack_m) x.state[i] = LinkState::shut;
      anyShut = true;
    }
  }
  if (!anyShut) return Newton::End::converged;
  for (int round = 0; round < 40; ++round) {
    const Newton::End end = newton.run(x, Newton::Mode::exact, stop);
    if (end != Newton::End::converged) return end;
    std::size_t worst = s.links.size();
    double most = 0.0;
    for (std::size_t i = 0; i < s.links.size(); ++i) {
      const Link& l = s.links[i];
      if (!l.bars || l.holds) continue;
      double by = 0.0;
      if (x.state[i] == LinkState::shut && !newton.hanging()[u(l.from)] && !newton.hanging()[u(l.to)]) by = across(x, l) - l.noFlowDrop_m - headSlack_m;
      if (x.state[i] == LinkState::flowing && x.flow_m3s[i] < -flowSlack(l)) by = -x.flow_m3s[i] / l.law->startFlow_m3s();
      if (by > most) most = by, worst = i;
    }
    if (worst == s.links.size()) return Newton::End::converged;
    ++flips;
    if (x.state[worst] == LinkState::shut) {
      x.state[worst] = LinkState::flowing;
      x.flow_m3s[worst] = 1e-3 * s.links[worst].law->startFlow_m3s();
    } else {
      x.state[worst] = LinkState::shut;
    }
  }
  return Newton::End::stalled;
}

}  // namespace

std::vector<std::size_t> brokenStates(const System& s, const Iterate& x, const std::vector<char>& hanging) {
  std::vector<std::size_t> broken;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    if (!l.bars) continue;
    const bool pocket = hanging[u(l.from)] || hanging[u(l.to)];
    const double q = x.flow_m3s[i], slack = 10 * headSlack_m;
    bool holds = true;
    switch (x.state[i]) {
      case LinkState::flowing: holds = q >= -10 * flowSlack(l) && !(l.holds && !pocket && q > 10 * flowSlack(l) && x.head_m[u(l.to)] > l.held_m + slack); break;
      case LinkState::acting: {
        double memory = 0;
        holds = q >= -10 * flowSlack(l) && std::abs(x.head_m[u(l.to)] - l.held_m) <= slack && (pocket || across(x, l) >= l.law->at(std::max(q, 0.0), memory).drop_m - slack);
        break;
      }
      case LinkState::shut:
        if (q != 0.0) holds = false;
        if (!pocket) holds = holds && (l.holds ? x.head_m[u(l.to)] >= l.held_m - slack || across(x, l) <= slack : across(x, l) <= l.noFlowDrop_m + slack);
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
    if (s.links[i].holds) holding.push_back(i);
  // Barring devices are settled by the soft law: begin with none shut.
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (!s.links[i].holds) x.state[i] = LinkState::flowing;
  std::set<std::string> tried;
  std::set<std::size_t> circle;

  // One set of states: soft, then checked. True when every holding device is content.
  auto attempt = [&](bool& content, std::vector<std::size_t>& unhappy) {
    tried.insert(keyOf(x, holding));
    found.end = newton.run(x, Newton::Mode::soft, stop);
    unhappy.clear();
    if (found.end != Newton::End::converged) return;
    for (const std::size_t i : holding)
      if (wanted(x, s.links[i], i) != x.state[i]) unhappy.push_back(i);
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
      x.state[i] = wanted(before, s.links[i], i);
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

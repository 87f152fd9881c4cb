#include "solve/pockets.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <utility>

#include "solve/index.h"
#include "solve/state_rules.h"
#include "solve/union_find.h"

namespace conduit {

using namespace rules;

namespace {

// Whether `x` is exact as `was` is, from which it differs in what rests alone: then no law need be asked but
// those of the links at what hung or hangs now, at their flows.
bool stands(Newton& newton, const System& s, Iterate& x, const Iterate& was) {
  if (newton.anyFree()) return false;
  const std::vector<char> hung = newton.hanging();
  newton.takeStates(x);
  const std::vector<char>& hangs = newton.hanging();
  constexpr double none_m3s = Newton::massTolerance * Newton::smallestFlow_m3s, none_m = 1e-10;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    const double q = x.flow_m3s[i];
    if (std::abs(q - was.flow_m3s[i]) > none_m3s) return false;
    if (!hung[u(l.from)] && !hung[u(l.to)] && !hangs[u(l.from)] && !hangs[u(l.to)]) {
      if (x.state[i] != was.state[i]) return false;
      continue;
    }
    if (std::abs(q) > none_m3s || x.state[i] == LinkState::limiting || newton.beside(i) != 0.0) return false;
    if (x.state[i] == LinkState::shut) continue;
    const double miss_m = x.state[i] == LinkState::flowing ? lossAt(l, q) - across(x, l) : excess(x, l);
    if (!(std::abs(miss_m) <= none_m) || (l.choke && x.state[i] == LinkState::acting)) return false;
  }
  return true;
}

// Pockets that several devices at rest lead into are emptied: all of those shut. What such a pocket holds
// must not depend on the way the search took to it, and filling it from nothing is one way for all. What one
// device alone leads into is decided by that one.
void emptyPockets(Newton& newton, const System& s, Iterate& x, std::stop_token stop) {
  const auto rests = [&](std::size_t i) {
    const Link& l = s.links[i];
    return (l.holds || (l.bars && !outside(l) && l.noFlowDrop_m >= 0)) && !l.free && l.from != l.to &&
           x.state[i] != LinkState::limiting && std::abs(x.flow_m3s[i]) <= flowSlack(l);
  };
  std::vector<std::size_t> resting;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (rests(i)) resting.push_back(i);
  if (resting.size() < 2) return;
  UnionFind together(u(s.nodeCount()));
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (x.state[i] != LinkState::shut && !rests(i)) together.join(s.links[i].from, s.links[i].to);
  std::vector<int> doors(u(s.nodeCount()), 0);  // by region, those with a known head far below zero
  for (int n = s.freeCount; n < s.nodeCount(); ++n)
    doors[u(together.find(n))] = -static_cast<int>(s.links.size()) * 2 - 2;
  const auto regionOf = [&](int node) -> int& { return doors[u(together.find(node))]; };
  for (const std::size_t i : resting) ++regionOf(s.links[i].from), ++regionOf(s.links[i].to);
  Iterate emptied = x;
  bool any = false;
  for (const std::size_t i : resting)
    if (x.state[i] != LinkState::shut && (regionOf(s.links[i].from) > 1 || regionOf(s.links[i].to) > 1))
      enter(s, emptied, i, LinkState::shut), any = true;
  if (!any) return;
  if (stands(newton, s, emptied, x) ||
      newton.run(emptied, Newton::Mode::exact, stop) == Newton::End::converged)
    x = std::move(emptied);
  else (void)newton.run(x, Newton::Mode::exact, stop);
}

// Lets devices fill the pockets at one of their ends: nothing flows, so that the head goes through all of a
// pocket. Of several that lead into one the highest head fills it and presses the others shut; `next` loses
// those.
void fill(const System& s, Iterate& x, const std::vector<char>& hangs,
          std::vector<std::pair<std::size_t, LinkState>>& next) {
  UnionFind together(u(s.nodeCount()));
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (const Link& l = s.links[i]; hangs[u(l.from)] && hangs[u(l.to)] && x.state[i] != LinkState::shut)
      together.join(l.from, l.to);
  const auto pocket = [&](std::size_t i) {
    return hangs[u(s.links[i].to)] ? s.links[i].to : s.links[i].from;
  };
  const auto headIn = [&](std::size_t i, LinkState state) {
    const Link& l = s.links[i];
    if (state == LinkState::acting) return target(x, l);
    return hangs[u(l.to)] ? x.head_m[u(l.from)] - l.noFlowDrop_m : x.head_m[u(l.to)] + l.noFlowDrop_m;
  };
  std::map<int, std::pair<double, std::size_t>> filledBy;  // by pocket: the head, and whose
  const auto fills = [&](std::size_t i, LinkState state) {
    return state != LinkState::shut && hangs[u(pocket(i))];
  };
  for (const auto& [i, state] : next)
    if (fills(i, state)) {
      const auto [at, first] = filledBy.try_emplace(together.find(pocket(i)), headIn(i, state), i);
      if (!first && headIn(i, state) > at->second.first) at->second = {headIn(i, state), i};
    }
  std::erase_if(next, [&](const auto& one) {
    return fills(one.first, one.second) && filledBy.at(together.find(pocket(one.first))).second != one.first;
  });
  for (const auto& [i, state] : next) x.state[i] = state, x.flow_m3s[i] = 0.0;
  if (filledBy.empty()) return;
  for (int n = 0; n < s.freeCount; ++n)
    if (hangs[u(n)])
      if (const auto at = filledBy.find(together.find(n)); at != filledBy.end())
        x.head_m[u(n)] = at->second.first;
}

void emptyAndFill(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                  const std::vector<std::size_t>& holding, bool reckonsChoking, StatesFound& found) {
  const auto content = [&](std::vector<std::size_t>& unhappy) {
    unhappy.clear();
    for (const std::size_t i : holding) {
      const Link& l = s.links[i];
      const bool pocket = newton.hanging()[u(l.from)] || newton.hanging()[u(l.to)];
      if (!(x.state[i] == LinkState::shut && pocket) && wanted(s, x, l, i) != x.state[i])
        unhappy.push_back(i);
    }
    const auto broken = brokenStates(s, x, newton.hanging());
    return unhappy.empty() && std::all_of(broken.begin(), broken.end(),
                                          [&](std::size_t i) { return !reckonsChoking && s.links[i].choke; });
  };
  // Whoever is not content with the change follows it.
  const auto follows = [&](const Iterate& was) {
    std::vector<std::size_t> unhappy;
    bool exact = stands(newton, s, x, was);
    for (int round = 0; round < 8; ++round) {
      if (makeExact(newton, s, x, stop, found.flips, std::exchange(exact, false)) != Newton::End::converged)
        return false;
      if (content(unhappy)) return true;
      if (unhappy.empty()) return false;
      const Iterate seen = x;
      for (const std::size_t i : unhappy) enter(s, x, i, wanted(s, seen, s.links[i], i));
    }
    return false;
  };
  emptyPockets(newton, s, x, stop);
  const auto& hangs = newton.hanging();
  if (std::find(hangs.begin(), hangs.end(), 1) == hangs.end() &&
      std::none_of(holding.begin(), holding.end(),
                   [&](std::size_t i) { return x.state[i] == LinkState::acting; }))
    return;
  std::vector<std::size_t> barring;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (const Link& l = s.links[i]; l.bars && !outside(l) && !l.free && l.noFlowDrop_m >= 0 && l.from != l.to)
      barring.push_back(i);
  std::set<std::size_t> refused, opened;
  bool together = true;
  for (std::size_t round = 0; round < 8 + 2 * (holding.size() + barring.size()); ++round) {
    std::vector<std::pair<std::size_t, LinkState>> next;
    for (const std::size_t i : holding) {
      const Link& l = s.links[i];
      if (refused.contains(i) || (l.over >= 0 && hangs[u(l.over)]) || l.from == l.to ||
          (!together && !next.empty()))
        continue;
      if (l.holdsBefore && x.state[i] == LinkState::acting && std::abs(x.flow_m3s[i]) <= flowSlack(l))
        next.emplace_back(i, LinkState::shut);
      if (!l.holdsBefore && l.held == l.to && x.state[i] == LinkState::shut && newton.hanging()[u(l.to)] &&
          !newton.hanging()[u(l.from)])
        next.emplace_back(
            i, x.head_m[u(l.from)] - l.noFlowDrop_m > target(x, l) ? LinkState::acting : LinkState::flowing);
      if (l.holdsBefore && l.held == l.from && x.state[i] == LinkState::shut && newton.hanging()[u(l.to)] &&
          !newton.hanging()[u(l.from)] && excess(x, l) < -headSlack_m)
        next.emplace_back(i, LinkState::flowing);
      if (!l.holdsBefore && l.held == l.to && x.state[i] == LinkState::acting &&
          std::abs(x.flow_m3s[i]) <= flowSlack(l) && newton.hanging()[u(l.from)])
        next.emplace_back(i, LinkState::shut);  // nothing is known before it that could fill what it holds
    }
    for (const std::size_t i :
         barring) {  // what bars backflow only lets its pocket fill to the head before it
      const Link& l = s.links[i];
      if (refused.contains(i) || (!together && !next.empty())) continue;
      if (x.state[i] == LinkState::shut && newton.hanging()[u(l.to)] && !newton.hanging()[u(l.from)])
        next.emplace_back(i, LinkState::flowing);
    }
    if (next.empty())  // a pocket before a holding device that is open at rest stands as what is behind it
      for (const std::size_t i : holding) {
        const Link& l = s.links[i];
        const bool ends = x.state[i] == LinkState::shut && hangs[u(l.from)] && !hangs[u(l.to)] &&
                          l.over < 0 && l.held == (l.holdsBefore ? l.from : l.to);
        const double behind_m = x.head_m[u(l.to)], hold_m = target(x, l);
        if (ends && !opened.contains(i) &&
            (l.holdsBefore ? behind_m + l.noFlowDrop_m > hold_m + headSlack_m
                           : behind_m < hold_m - headSlack_m))
          next.emplace_back(i, LinkState::flowing);
        if (!next.empty()) {  // once, and one at a time
          opened.insert(i);
          break;
        }
      }
    if (next.empty()) return;
    const Iterate before = x;
    fill(s, x, hangs, next);
    if (follows(before)) {
      refused.clear();  // what could not be before may be now
      continue;
    }
    if (next.size() == 1) refused.insert(next[0].first);
    together = false;
    x = before;
    newton.takeStates(x);
  }
}

}  // namespace

void fillPockets(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                 const std::vector<std::size_t>& holding, bool reckonsChoking, StatesFound& found) {
  if (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty()) return;
  const std::vector<LinkState> before = x.state;
  emptyAndFill(newton, s, x, stop, holding, reckonsChoking, found);
  // What was computed of pockets alone is balanced once as a whole.
  if (x.state != before) found.end = newton.run(x, Newton::Mode::exact, stop);
}

}  // namespace conduit

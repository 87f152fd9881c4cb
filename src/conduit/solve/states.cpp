#include "solve/states.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>
#include <utility>

#include "solve/determinacy.h"
#include "solve/index.h"
#include "solve/islands.h"
#include "solve/pockets.h"
#include "solve/state_rules.h"
#include "solve/union_find.h"

namespace conduit {

using namespace rules;

namespace {

// Head residual that is good enough to see by: whether a set of states holds, and which devices will not keep
// theirs.
constexpr double roughly_m = 1e-4;

std::string keyOf(const Iterate& x, const std::vector<std::size_t>& holding) {
  std::string key;
  for (const std::size_t i : holding) key += static_cast<char>('0' + static_cast<int>(x.state[i]));
  return key;
}

// An acting device needs a head on either side that does not come through itself. Where none is left it must
// stand open; at rest, with what it holds on the wrong side already, it is shut.
void keepReference(const System& s, Iterate& x, const std::vector<std::size_t>& holding,
                   std::set<std::size_t>& blocked) {
  const auto pins = [&](std::size_t i) {
    return x.state[i] == LinkState::acting && s.links[i].holds && s.links[i].over < 0;
  };
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
        const Link& l = s.links[i];
        const bool rests = std::abs(x.flow_m3s[i]) <= flowSlack(l) && excess(x, l) > headSlack_m;
        x.state[i] = rests ? LinkState::shut : LinkState::flowing;
        blocked.insert(i);
        again = true;
        break;
      }
  }
}

// Of several devices that hold one node only those that go furthest may act: the highest set point behind
// reducing ones, the lowest before sustaining ones. Where both kinds meet and the one before wants more than
// the one behind gives it is shut; else the one behind stands open.
void highestActs(const System& s, Iterate& x, const std::vector<std::size_t>& holding) {
  const auto acts = [&](std::size_t i) {
    return x.state[i] == LinkState::acting && s.links[i].holds && s.links[i].over < 0;
  };
  std::vector<std::size_t> acting;
  for (const std::size_t i : holding)
    if (acts(i)) acting.push_back(i);
  std::stable_sort(acting.begin(), acting.end(),
                   [&](std::size_t a, std::size_t b) { return s.links[a].held < s.links[b].held; });
  for (auto first = acting.begin(), last = first; first != acting.end(); first = last) {
    while (last != acting.end() && s.links[*last].held == s.links[*first].held) ++last;
    for (auto one = first; one != last; ++one)
      for (auto other = first; other != last; ++other) {
        const Link &a = s.links[*one], &b = s.links[*other];
        if (one == other || !acts(*one) || !acts(*other)) continue;
        if (a.holdsBefore != b.holdsBefore) {
          const std::size_t before = a.holdsBefore ? *one : *other, behind = a.holdsBefore ? *other : *one;
          if (s.links[before].held_m > s.links[behind].held_m)
            x.state[before] = LinkState::shut, x.flow_m3s[before] = 0.0;
          else x.state[behind] = LinkState::flowing;
        } else if (a.holdsBefore ? a.held_m > b.held_m + 1e-9 : a.held_m < b.held_m - 1e-9) {
          x.state[*one] = LinkState::shut;
        }
      }
  }
}

// The search for states of one kind of relations: with or without choking.
class Search {
 public:
  Search(Newton& newton, const System& s, Iterate& x, std::stop_token stop, std::vector<std::size_t> holding,
         bool apart = false)
      : newton_(newton), s_(s), x_(x), stop_(std::move(stop)), holding_(std::move(holding)), apart_(apart) {}

  // Depth first: of the devices that are not content all change at once while that leads on, else one, the
  // worst first; a set of states that has been tried, that cannot be balanced, or that leads nowhere makes
  // way for the next.
  StatesFound run() {
    std::vector<Spot> path;
    std::set<std::size_t> circle;
    (void)fresh();
    std::vector<std::size_t> unhappy;
    if (!holding_.empty()) {
      const Iterate start = x_;
      if (quickSearch() && attempt(unhappy)) return found_;
      x_ = start;
      tried_.clear();
    }
    const Iterate begun = x_;
    if (attempt(unhappy)) return found_;
    if (found_.end == Newton::End::stopped) return found_;
    if (!apart_ && holding_.size() > 1 && !newton_.anyFree())
      if (const auto islands = islandsOf(s_, holding_); islands.size() > 1) {
        const Iterate whole = x_;
        x_ = begun;
        if (!eachApart(islands) || attempt(unhappy) || found_.end == Newton::End::stopped) return found_;
        x_ = whole;
      }
    if (found_.end == Newton::End::converged) path.push_back({x_, unhappy, 0, false});
    for (std::size_t budget = newton_.anyFree() ? 20 : 60 + 8 * holding_.size();
         budget > 0 && !path.empty();) {
      Spot& spot = path.back();
      std::vector<std::size_t> flips;
      if (!spot.all && path.size() <= 6) spot.all = true, flips = spot.unhappy;
      else if (spot.next < spot.unhappy.size()) flips = {spot.unhappy[spot.next++]};
      if (flips.empty()) {
        path.pop_back();
        continue;
      }
      const Iterate before = spot.x;
      x_ = before;
      for (const std::size_t i : flips) flip(before, i), circle.insert(i);
      if (!fresh()) continue;
      --budget;
      if (attempt(unhappy)) return found_;
      if (found_.end == Newton::End::stopped) return found_;
      if (found_.end != Newton::End::converged || unhappy.empty()) {
        if (forced_.empty()) forced_ = flowForcedOn(s_, shutNow());
        if (!forced_.empty())
          budget = std::min<std::size_t>(budget, 20);  // there is a reason: look about a little, no more
        continue;
      }
      path.push_back({x_, unhappy, 0, false});
      if (path.size() > 40) path.erase(path.begin());
    }
    if (holding_.empty()) {
      found_.consistent = found_.end == Newton::End::converged && found_.fighting.empty();
      return found_;
    }
    if (reckonsChoking()) {
      found_.consistent = false;
      return found_;
    }
    for (const std::size_t i : blocked_)
      if (forced_.empty() && circle.contains(i)) forced_ = flowForcedOn(s_, {i});
    if (newton_.anyFree()) {  // one of several ways to find a field: others are left
      found_.consistent = false;
      return found_;
    }
    if (!forced_.empty() && (outOfReach(forced_) || standsOpen(forced_))) return contradiction(forced_);
    return combinations(circle);
  }

 private:
  struct Spot {
    Iterate x;
    std::vector<std::size_t> unhappy;
    std::size_t next;
    bool all;
  };

  // What only known heads join is searched by itself: the sets of one part are not multiplied by those of
  // another. True when every part has its states; else `found_` tells of the first that has none.
  bool eachApart(const std::vector<Island>& islands) {
    std::vector<char> searched(s_.links.size(), 0);
    for (const std::size_t i : holding_) searched[i] = 1;
    for (const Island& island : islands) {
      std::vector<std::size_t> holding;
      for (std::size_t i = 0; i < island.links.size(); ++i)
        if (searched[island.links[i]]) holding.push_back(i);
      Newton newton(island.system);
      for (std::size_t i = 0; i < island.links.size(); ++i)
        if (const double beside = newton_.beside(island.links[i]); beside != 0.0) newton.setBeside(i, beside);
      Iterate x = island.take(x_);
      x.guessed = x_.guessed;
      StatesFound found = Search(newton, island.system, x, stop_, holding, true).run();
      newton_.countSteps(newton.iterations());
      found_.flips += found.flips;
      if (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty()) {
        for (std::size_t& i : found.fighting) i = island.links[i];
        found.flips = found_.flips;
        found_ = std::move(found);
        return false;
      }
      island.put(x, x_);
    }
    x_.guessed = false;
    // Barring devices take their states again from the whole.
    for (std::size_t i = 0; i < s_.links.size(); ++i)
      if (!outside(s_.links[i])) x_.state[i] = LinkState::flowing;
    return true;
  }

  // Newton's steps with the states changed by the way: after each, whoever is not content takes the state it
  // wants. It ends at the answer more often than not, in hardly more steps than one set of states takes;
  // where it does not the search begins as if this had not been. True when all are content.
  bool quickSearch() {
    constexpr int stepsMost = 40;
    constexpr double settled_m = 1e-2;
    std::map<std::string, int> left;  // sets, and how often they were given up for another
    std::vector<std::size_t> unhappy;
    const auto any = [&] {
      unhappy.clear();
      return !content(unhappy, true);
    };
    for (const int begun = newton_.iterations(); newton_.iterations() - begun < stepsMost;) {
      const Newton::End end = newton_.run(x_, Newton::Mode::soft, stop_, settled_m, any);
      if (end != Newton::End::converged && end != Newton::End::broken) return false;
      if (end == Newton::End::converged && !any()) return true;
      if (++left[keyOf(x_, holding_)] > (end == Newton::End::converged ? 1 : 3)) return false;
      const Iterate before = x_;
      for (const std::size_t i : unhappy) flip(before, i);
      keepReference(s_, x_, holding_, blocked_);
      highestActs(s_, x_, holding_);
    }
    return false;
  }

  bool allOpen() const {
    if (newton_.anyFree()) return false;
    for (std::size_t i = 0; i < s_.links.size(); ++i)
      if (const Link& l = s_.links[i];
          l.bars || std::isfinite(l.flowMost_m3s) || outside(l) || x_.state[i] != LinkState::flowing)
        return false;
    return true;
  }
  // One set of states, balanced softly and checked; true when it is the answer.
  bool attempt(std::vector<std::size_t>& unhappy) {
    tried_.insert(keyOf(x_, holding_));
    const Iterate from = x_;
    // Where nothing can be other than open the rough problem is the exact one: one run goes all the way.
    bool exact = allOpen();
    found_.end = exact ? newton_.run(x_, Newton::Mode::exact, stop_)
                       : newton_.run(x_, Newton::Mode::soft, stop_, roughly_m);
    const auto failed = [&] {
      return found_.end == Newton::End::stalled || found_.end == Newton::End::notDefinite;
    };
    if (failed()) {
      x_ = from;
      exact = false;
      found_.end = newton_.runEased(x_, stop_, roughly_m);
    }
    if (failed()) {
      x_ = from;
      found_.end = newton_.runNested(x_, Newton::Mode::soft, stop_);
    }
    unhappy.clear();

    if (found_.end != Newton::End::converged || !content(unhappy, true)) return false;
    found_.end = makeExact(newton_, s_, x_, stop_, found_.flips, exact);
    if (found_.end != Newton::End::converged) return false;
    if (!content(unhappy,
                 false)) {  // seen only now that it is exact: go on from there, with nothing shut for good
                            // that only bars
      for (std::size_t i = 0; i < s_.links.size(); ++i)
        if (!outside(s_.links[i])) x_.state[i] = LinkState::flowing;
      return false;
    }
    found_.fighting = brokenStates(s_, x_, newton_.hanging());
    if (!reckonsChoking())
      std::erase_if(found_.fighting, [&](std::size_t i) { return s_.links[i].choke.has_value(); });
    return found_.fighting.empty();
  }
  // Proves that one of `forced` waits for a head that nothing can give: no head stands above the greatest
  // that is known and all that pumps lift at rest, where no flow is fed in.
  bool outOfReach(const std::vector<std::size_t>& forced) const {
    double most = -1e300;
    for (const double h : s_.fixedHead_m) most = std::max(most, h);
    for (const double q : s_.outflow_m3s)
      if (q < 0) return false;
    for (const Link& l : s_.links) most += std::max(0.0, -lossAt(l, 0.0));
    return std::any_of(forced.begin(), forced.end(), [&](std::size_t i) {
      return s_.links[i].holdsBefore && s_.links[i].over < 0 && s_.links[i].held_m > most + headSlack_m;
    });
  }
  // Proves that what must pass `forced` cannot: each is the only way between what it joins, so that its flow
  // is what it is however far it opens, and with all of them open, the rest in true states, one sees its head
  // on the wrong side. False when that proves nothing.
  bool standsOpen(const std::vector<std::size_t>& forced) {
    UnionFind together(u(s_.nodeCount()) + 1);
    for (int n = s_.freeCount; n < s_.nodeCount(); ++n) together.join(n, s_.nodeCount());
    for (std::size_t i = 0; i < s_.links.size(); ++i)
      if (std::find(forced.begin(), forced.end(), i) == forced.end())
        together.join(s_.links[i].from, s_.links[i].to);
    for (const std::size_t i : forced) {
      const Link& l = s_.links[i];
      const bool own = l.held == (l.holdsBefore ? l.from : l.to);
      if (!own || l.over >= 0 || together.find(l.from) == together.find(l.to)) return false;
      together.join(l.from, l.to);
    }
    System open;
    open.freeCount = s_.freeCount, open.fixedHead_m = s_.fixedHead_m, open.outflow_m3s = s_.outflow_m3s;
    open.links = s_.links, open.edges = s_.edges, open.linkEdge = s_.linkEdge;
    for (const std::size_t i : forced) open.links[i].holds = false;
    Newton newton(open);
    for (std::size_t i = 0; i < s_.links.size(); ++i)
      if (const double beside = newton_.beside(i); beside != 0.0) newton.setBeside(i, beside);
    std::vector<std::size_t> others;
    for (const std::size_t i : holding_)
      if (open.links[i].holds || open.links[i].choke) others.push_back(i);
    Iterate x = newton.coldStart();
    const StatesFound found = Search(newton, open, x, stop_, others, true).run();
    newton_.countSteps(newton.iterations());
    if (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty()) return false;
    const auto worst = std::max_element(forced.begin(), forced.end(), [&](std::size_t a, std::size_t b) {
      return excess(x, s_.links[a]) < excess(x, s_.links[b]);
    });
    if (!(excess(x, s_.links[*worst]) > headSlack_m)) return false;
    found_.shortOf_m = excess(x, s_.links[*worst]);
    return true;
  }
  // Devices that their set points shut, with a flow that has no other way.
  StatesFound contradiction(const std::vector<std::size_t>& forced) {
    found_.consistent = false;
    found_.forced = true;
    found_.fighting = forced;
    found_.end = Newton::End::converged;
    return found_;
  }
  [[nodiscard]] std::vector<std::size_t> shutNow() const {
    std::vector<std::size_t> shut;
    for (const std::size_t i : holding_)
      if (x_.state[i] == LinkState::shut) shut.push_back(i);
    return shut;
  }
  // Who wants another state, the worst first.
  bool content(std::vector<std::size_t>& unhappy, bool soft) const {
    for (const std::size_t i : holding_) {
      const Link& l = s_.links[i];
      if (x_.state[i] == LinkState::shut && (newton_.hanging()[u(l.from)] || newton_.hanging()[u(l.to)]))
        continue;  // nothing presses there
      if (wanted(s_, x_, l, i, soft) != x_.state[i]) unhappy.push_back(i);
    }
    std::stable_sort(unhappy.begin(), unhappy.end(), [&](std::size_t a, std::size_t b) {
      return violation(x_, s_.links[a], a) > violation(x_, s_.links[b], b);
    });
    return unhappy.empty();
  }
  [[nodiscard]] bool reckonsChoking() const {
    return std::any_of(holding_.begin(), holding_.end(),
                       [&](std::size_t i) { return s_.links[i].choke.has_value(); });
  }
  // A set of states made ready: true when it has not been tried yet.
  bool fresh() {
    for (const std::size_t i : holding_)
      if (x_.state[i] == LinkState::acting && !canHold(s_, s_.links[i])) enter(s_, x_, i, LinkState::shut);
    keepReference(s_, x_, holding_, blocked_);
    highestActs(s_, x_, holding_);
    return !tried_.contains(keyOf(x_, holding_));
  }
  void flip(const Iterate& before, std::size_t i) {
    enter(s_, x_, i, wanted(s_, before, s_.links[i], i));
    ++found_.flips;
  }
  // The easy way failed: all combinations of the devices that kept changing, the rest as they stand; of more
  // than six only as many as the size of the network makes quick work.
  StatesFound combinations(const std::set<std::size_t>& circle) {
    std::vector<std::size_t> few(circle.begin(), circle.end());
    for (const std::size_t i : holding_)
      if (!circle.contains(i)) few.push_back(i);
    std::size_t sets = 1, most = 0;
    while (most < few.size() && (most < 6 || sets * 3 * s_.links.size() < 1000000)) sets *= 3, ++most;
    few.resize(most);
    found_.exhausted = few.size() == holding_.size();
    const Iterate base = x_;
    std::vector<std::size_t> unhappy;
    for (std::size_t set = 0; set < sets; ++set) {
      if (stop_.stop_requested()) {
        found_.end = Newton::End::stopped;
        return found_;
      }
      x_ = newton_.coldStart();
      for (const std::size_t i : holding_) x_.state[i] = base.state[i];
      for (std::size_t k = 0, rest = set; k < few.size(); ++k, rest /= 3)
        x_.state[few[k]] = static_cast<LinkState>(rest % 3);
      for (const std::size_t i : few)
        if (s_.links[i].choke && x_.state[i] == LinkState::shut) x_.state[i] = LinkState::flowing;
      if (!fresh()) continue;
      if (attempt(unhappy)) return found_;
      // Among heads beyond 1e7 m a millionth of a metre is rounding: that a set does not hold is no proof
      // there.
      if (std::any_of(x_.head_m.begin(), x_.head_m.end(), [](double h) { return std::abs(h) > 1e7; }))
        found_.exhausted = false;
      if (found_.end != Newton::End::converged || unhappy.empty()) {
        const auto forced = flowForcedOn(s_, shutNow());
        if (!forced.empty()) forced_ = forced;
        else if (found_.end != Newton::End::cutOff)
          found_.exhausted = false;  // not balanced, and no reason why: it may have been the answer
      }
    }
    if (!forced_.empty() && found_.exhausted) return contradiction(forced_);
    found_.consistent = false;
    found_.mustPass = !forced_.empty();
    found_.fighting = forced_.empty() ? few : forced_;
    found_.setsTried = tried_.size();
    found_.end = Newton::End::converged;
    return found_;
  }

  Newton& newton_;
  const System& s_;
  Iterate& x_;
  std::stop_token stop_;
  std::vector<std::size_t> holding_;
  std::set<std::string> tried_;
  std::vector<std::size_t> forced_;
  bool apart_ = false;             // one part of a network already
  std::set<std::size_t> blocked_;  // could not act, as nothing but they join their two sides to a head
  StatesFound found_;
};

// A pump whose curve rises from no flow stands at rest before it runs: where it cannot start against what the
// network holds, that is the answer, and what it could keep up once it ran is told beside it.
void beginAtRest(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                 const std::vector<std::size_t>& holding, StatesFound& found) {
  if (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty()) return;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    if (!l.bars || l.free || x.state[i] != LinkState::flowing || !(x.flow_m3s[i] > flowSlack(l)) ||
        !l.law->mayNotStart())
      continue;
    const Iterate running = x;
    enter(s, x, i, LinkState::shut);
    bool rests =
        makeExact(newton, s, x, stop, found.flips) == Newton::End::converged && x.state[i] == LinkState::shut;
    for (const std::size_t k : holding) rests = rests && wanted(s, x, s.links[k], k) == x.state[k];
    for (const std::size_t k : rests ? brokenStates(s, x, newton.hanging()) : std::vector<std::size_t>())
      rests = rests && s.links[k].choke && !s.links[k].holds;
    if (rests) {
      found.couldRun.emplace_back(i, running.flow_m3s[i]);
    } else {
      x = running;
      (void)newton.run(x, Newton::Mode::exact, stop);
    }
  }
}

}  // namespace

StatesFound settle(Newton& newton, const System& s, Iterate& x, std::stop_token stop) {
  std::vector<std::size_t> holding, choking;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    if (s.links[i].holds) holding.push_back(i);
    if (s.links[i].choke) choking.push_back(i);
  }
  // Barring, limiting and choking devices begin open.
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (!s.links[i].holds) x.state[i] = LinkState::flowing;
  StatesFound found = Search(newton, s, x, stop, holding).run();
  bool finished = false;
  const auto finish = [&] {
    if (std::exchange(finished, true)) return;
    fillPockets(newton, s, x, stop, holding, false, found);
    beginAtRest(newton, s, x, stop, holding, found);
  };
  const auto chokes = [&] {
    return found.end == Newton::End::converged && found.consistent &&
           std::any_of(choking.begin(), choking.end(),
                       [&](std::size_t i) { return wanted(s, x, s.links[i], i) != x.state[i]; });
  };
  if (!chokes()) {
    finish();
    if (!chokes()) return found;
  }
  // Some would boil in the throat: then the choked answer, if there is one. Where what is drawn cannot pass a
  // choked valve the open answer stays, on paper only, and the valve's own check says so.
  const Iterate open = x;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (x.state[i] == LinkState::limiting || (!s.links[i].holds && x.state[i] == LinkState::shut))
      x.state[i] = LinkState::flowing;
  std::vector<std::size_t> all = holding;
  all.insert(all.end(), choking.begin(), choking.end());
  StatesFound choked = Search(newton, s, x, stop, all).run();
  fillPockets(newton, s, x, stop, holding, true, choked);
  beginAtRest(newton, s, x, stop, holding, choked);
  if (choked.end == Newton::End::stopped ||
      (choked.end == Newton::End::converged && choked.consistent && choked.fighting.empty()))
    return choked;
  x = open;
  found.overChoked = true;
  (void)newton.run(x, Newton::Mode::exact, stop);
  finish();
  return found;
}

bool settleAgain(Newton& newton, const System& s, Iterate& x, std::stop_token stop, StatesFound& found) {
  if (newton.anyFree() || found.end != Newton::End::converged || !found.consistent || !found.fighting.empty())
    return false;
  const Iterate before = x;
  const auto holds = [&](const Link& l, std::size_t i) {
    if (!outside(l) || (l.choke && !l.holds && found.overChoked)) return true;
    const bool pocket = newton.hanging()[u(l.from)] || newton.hanging()[u(l.to)];
    return (pocket && x.state[i] == LinkState::shut) || wanted(s, x, l, i) == x.state[i];
  };
  bool same = newton.run(x, Newton::Mode::exact, stop) == Newton::End::converged;
  std::vector<std::size_t> holding;
  for (std::size_t i = 0; same && i < s.links.size(); ++i) {
    same = holds(s.links[i], i);
    if (s.links[i].holds) holding.push_back(i);
  }
  for (const std::size_t i : same ? brokenStates(s, x, newton.hanging()) : std::vector<std::size_t>())
    same = same && found.overChoked && s.links[i].choke && !s.links[i].holds;
  if (!same) {
    x = before;
    return false;
  }
  fillPockets(newton, s, x, stop, holding, !found.overChoked, found);
  return true;
}

}  // namespace conduit

#include "solve/shut_off.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <queue>

#include "fields/keys.h"
#include "quantity/format.h"
#include "solve/index.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

// Ways through pumps are tried until so many points have been looked at in all.
constexpr std::size_t looksMost = 3'000'000;

struct Edge {
  int to;
  bool open;               // may be walked from here
  double most = INFINITY;  // head behind it at most
  Id valve = noId;         // that says so
};
struct Pump {
  Id id;
  int from, to;
  double lift_m;
};

NoFlow stillOf(const Network& network, const Solution& answer, Id id) {
  return network.at(id).part->atNoFlow(*ReadingOf(network, answer, id));
}
// A head counted over the height of the point that is sensed, else of `own`.
double overThere(const Network& network, const NoFlow& still, Id own) {
  const Id at = still.sensedAt.empty() ? own : network.byName(still.sensedAt);
  const Given* z = at == noId ? nullptr : network.at(at).given(key::height);
  return z ? z->value + still.head_m : INFINITY;
}
bool holdsHeads(const Element& e) { return e.part->holdsHead; }
std::optional<double> headHeld(const Solution& answer, Id id, const Element& e, Id end) {
  std::optional<double> head;
  if (e.part->ends == Ends::one) {
    if (std::isfinite(answer.heldInflow_m3s[id])) head = answer.head(end);
  } else if (answer.vesselBegin[id] < answer.vesselBegin[id + 1]) {
    head = answer.vesselHead_m[answer.vesselBegin[id]];
  }
  return head && std::isfinite(*head) ? head : std::nullopt;
}
bool feedsIn(const Element& e) {
  const Given* out = e.given(key::outflow);
  return out && out->value < 0;
}

// What an element that is more than a passing line is at no flow, as numbers; one after another. `still`: of
// one with two ends.
void addFacts(const Network& network, const Solution& answer, Id id, const NoFlow& still,
              std::vector<double>& into) {
  const Element& e = network.at(id);
  if (holdsHeads(e)) {
    for (const Id end : e.ends) into.push_back(headHeld(answer, id, e, end).value_or(-1e9));
  } else if (e.part->ends == Ends::self) {
    into.push_back(feedsIn(e));
  } else {
    into.push_back(static_cast<double>(still.way));
    into.push_back(still.way == NoFlow::Way::keeps      ? overThere(network, still, e.ends[1])
                   : still.way == NoFlow::Way::relieves ? overThere(network, still, e.ends[0])
                                                        : still.head_m);
  }
}

class Walk {
 public:
  Walk(const Network& network, const Solution& answer) : network_(network), answer_(answer) {
    number_.assign(network.bound(), -1);
    network.each([&](Id id, const Element& e) {
      if (e.part->ends == Ends::self) number_[id] = static_cast<int>(points_.size()), points_.push_back(id);
    });
    next_.resize(points_.size());
    ends_.assign(points_.size(), 0), still_m_.assign(points_.size(), NAN);
    network.each([&](Id id, const Element& e) { put(id, e); });
    capFromRelief();
    out_ = std::make_shared<ShutOff>();
    out_->head_m.assign(network.bound(), NAN), out_->by.assign(network.bound(), 0);
    out_->unknown = std::move(unknown_);
    out_->restsOn = std::move(restsOn_), out_->facts = std::move(facts_);
  }

  std::shared_ptr<const ShutOff> run() {
    std::vector<char> none(points_.size(), 0);
    // From every source by itself, the highest first: what a higher one reaches needs no other.
    std::stable_sort(seeds_.begin(), seeds_.end(),
                     [](const Seed& a, const Seed& b) { return a.head_m > b.head_m; });
    for (const Seed& s : seeds_) {
      const NoFlowWay way{.source = s.element, .source_m = s.head_m, .lifts = {}};
      const Reached reached = spread(s.node, s.head_m, way, none, s.head_m);
      for (std::size_t n = 0; n < points_.size(); ++n)
        if (!std::isnan(reached.head_m[n]) && !(still_m_[n] >= reached.head_m[n]))
          still_m_[n] = reached.head_m[n];
      onward(s.node, reached, way, none);
    }
    for (const Pump& p : displacing_) judgeDisplacing(p);
    for (const Pump& v : oneWay_) judgeOneWay(v);
    out_->pressure_pa.assign(out_->head_m.size(), NAN);
    for (const Id id : points_)
      if (const Given* z = network_.at(id).given(key::height))
        out_->pressure_pa[id] = answer_.setting.medium.pressureOf(out_->head_m[id] - z->value);
    return out_;
  }

 private:
  struct Seed {
    Id element;
    int node;
    double head_m;
  };
  struct Reached {
    std::vector<double> head_m;
    std::vector<int> before;  // the point it was reached from; its own: where it began
  };

  void join(int a, int b, bool back, double most = INFINITY, Id valve = noId) {
    next_[u(a)].push_back({b, true, most, valve});
    next_[u(b)].push_back({a, back});
  }

  void restOn(Id id, const NoFlow& still) {
    restsOn_.push_back(id);
    addFacts(network_, answer_, id, still, facts_);
  }

  void put(Id id, const Element& e) {
    if (holdsHeads(e)) {
      restOn(id, {});
      for (const Id end : e.ends)
        if (const auto head = headHeld(answer_, id, e, end)) {
          seeds_.push_back({id, number_[end], *head});
          ends_[u(number_[end])] = 1;
        }
      return;
    }
    if (e.part->ends == Ends::self) {
      if (feedsIn(e)) unknown_.push_back(id), restOn(id, {});
      return;
    }
    if (e.part->ends != Ends::two || !e.part->prepare) return;
    const int a = number_[e.ends[0]], b = number_[e.ends[1]];
    if (!e.part->atNoFlow) {
      if (a != b && !isShutByGivens(e.values)) join(a, b, true);
      return;
    }
    const NoFlow still = stillOf(network_, answer_, id);
    restOn(id, still);
    if (a == b) return;
    switch (still.way) {
      case NoFlow::Way::passes: join(a, b, true); break;
      case NoFlow::Way::forward:
        join(a, b, false);
        (e.part->lifts ? stopped_ : oneWay_).push_back({id, a, b, 0.0});
        break;
      case NoFlow::Way::shut: break;
      case NoFlow::Way::keeps: join(a, b, false, overThere(network_, still, e.ends[1]), id); break;
      case NoFlow::Way::relieves: reliefs_.push_back({id, a, overThere(network_, still, e.ends[0])}); break;
      case NoFlow::Way::lifts: pumps_.push_back({id, a, b, still.head_m}); break;
      case NoFlow::Way::displaces: displacing_.push_back({id, a, b, INFINITY}); break;
      case NoFlow::Way::unknown: unknown_.push_back(id); break;
    }
  }

  void capFromRelief() {
    cap_.assign(points_.size(), {INFINITY, noId});
    if (reliefs_.empty()) return;
    UnionFind together(points_.size());
    for (std::size_t n = 0; n < points_.size(); ++n)
      for (const Edge& e : next_[n]) {
        const auto& back = next_[u(e.to)];
        const bool both =
            e.open && e.valve == noId && std::any_of(back.begin(), back.end(), [&](const Edge& b) {
              return b.to == static_cast<int>(n) && b.open && b.valve == noId;
            });
        if (both) together.join(static_cast<int>(n), e.to);
      }
    std::vector<std::pair<double, Id>> of(points_.size(), {INFINITY, noId});
    for (const Seed& r : reliefs_)
      of[u(together.find(r.node))] = std::min(of[u(together.find(r.node))], {r.head_m, r.element});
    for (std::size_t n = 0; n < points_.size(); ++n) cap_[n] = of[u(together.find(static_cast<int>(n)))];
  }

  // What `head` at `from` reaches without a pump, outside `kept`; better heads than were known are taken.
  // `still`: a head that holds there by itself, which no relief valve can take away.
  Reached spread(int from, double head, const NoFlowWay& way, const std::vector<char>& kept,
                 double still = -INFINITY) {
    Reached r{std::vector<double>(points_.size(), NAN), std::vector<int>(points_.size(), -1)};
    std::vector<Id> valve(points_.size(), noId);  // that holds the head there
    std::priority_queue<std::pair<double, int>> front;
    std::map<Id, std::uint32_t> known;  // of `way`, by the valve that ends it
    const auto reach = [&](int node, double h, int before, Id by) {
      if (cap_[u(node)].first < h && h > still) h = cap_[u(node)].first, by = cap_[u(node)].second;
      if (r.head_m[u(node)] >= h) return;
      const Id id = points_[u(node)];
      const bool higher = !(out_->head_m[id] >= h);
      if (!higher && pumps_.empty() && oneWay_.empty()) return;
      r.head_m[u(node)] = h, r.before[u(node)] = before, valve[u(node)] = by;
      front.push({h, node});
      if (!higher) return;
      const auto [at, added] = known.try_emplace(by, static_cast<std::uint32_t>(out_->ways.size()));
      if (added) out_->ways.push_back(way), out_->ways.back().cappedBy = by;
      out_->head_m[id] = h, out_->by[id] = at->second;
    };
    reach(from, head, from, noId);
    while (!front.empty()) {
      const auto [h, node] = front.top();
      front.pop();
      if (h < r.head_m[u(node)]) continue;
      ++looks_;
      // A surface or a fixed pressure ends what comes from elsewhere.
      if (ends_[u(node)] && node != from) continue;
      for (const Edge& e : next_[u(node)]) {
        if (!e.open || kept[u(e.to)]) continue;
        if (e.most < h) reach(e.to, e.most, node, e.valve);
        else reach(e.to, h, node, valve[u(node)]);
      }
    }
    return r;
  }

  // On through each pump that is reached and not yet passed.
  void onward(int begun, const Reached& reached, const NoFlowWay& way, const std::vector<char>& kept) {
    for (const Pump& p : pumps_) {
      const double before = reached.head_m[u(p.from)];
      if (std::isnan(before) || kept[u(p.to)]) continue;
      if (std::any_of(way.lifts.begin(), way.lifts.end(),
                      [&](const NoFlowWay::Lift& l) { return l.pump == p.id; }))
        continue;
      // A surface at its suction is where it may begin, not where it may come through.
      if (ends_[u(p.from)] && p.from != begun) continue;
      if (looks_ > looksMost) {
        out_->complete = false;
        return;
      }
      std::vector<char> passed = kept;
      for (const int n : allLeadThrough(begun, p.from, reached, kept)) passed[u(n)] = 1;
      if (passed[u(p.to)]) continue;
      NoFlowWay through = way;
      through.lifts.push_back({p.id, p.lift_m});
      const Reached there = spread(p.to, before + p.lift_m, through, passed);
      if (!ends_[u(p.to)]) onward(p.to, there, through, passed);
    }
  }

  // The points that every way from `a` to `b` leads through, both among them: those of one path that no
  // detour passes by.
  std::vector<int> allLeadThrough(int a, int b, const Reached& reached, const std::vector<char>& kept) {
    std::vector<int> path;
    for (int n = b;; n = reached.before[u(n)]) {
      path.push_back(n);
      if (n == a) break;
    }
    std::reverse(path.begin(), path.end());
    std::vector<int> place(points_.size(), -1);
    for (std::size_t i = 0; i < path.size(); ++i) place[u(path[i])] = static_cast<int>(i);
    std::vector<char> seen(points_.size(), 0);
    std::vector<int> needed, open;
    int furthest = 0;
    for (std::size_t i = 0; i < path.size(); ++i) {
      if (furthest <= static_cast<int>(i)) needed.push_back(path[i]);
      open.assign(1, path[i]);
      while (!open.empty()) {
        const int n = open.back();
        open.pop_back();
        ++looks_;
        for (const Edge& e : next_[u(n)]) {
          if (place[u(e.to)] >= 0) furthest = std::max(furthest, place[u(e.to)]);
          else if (!kept[u(e.to)] && !ends_[u(e.to)] && !std::exchange(seen[u(e.to)], 1))
            open.push_back(e.to);
        }
      }
    }
    return needed;
  }

  // What a displacement pump presses on rises until something gives: the relief valve with the lowest set
  // pressure that it reaches, also through check valves.
  void judgeDisplacing(const Pump& p) {
    double least = INFINITY;
    std::vector<char> seen(points_.size(), 0);
    std::vector<int> front{p.to};
    seen[u(p.to)] = 1;
    while (!front.empty()) {
      const int n = front.back();
      front.pop_back();
      least = std::min(least, cap_[u(n)].first);
      if (ends_[u(n)]) continue;
      for (const Edge& e : next_[u(n)])
        if (e.open && e.valve == noId && !std::exchange(seen[u(e.to)], 1)) front.push_back(e.to);
    }
    if (!std::isfinite(least)) {
      out_->unprotected.push_back(p.id);
      return;
    }
    const NoFlowWay way{.source = p.id, .source_m = least, .lifts = {}};
    const std::vector<char> none(points_.size(), 0);
    const Reached reached = spread(p.to, least, way, none);
    onward(p.to, reached, way, none);
  }

  // The points before a check valve that stand lower than what is behind it without any pump: a pump that
  // stops holds nothing.
  void judgeOneWay(const Pump& v) {
    const double behind = still_m_[u(v.to)], before = still_m_[u(v.from)];
    if (std::isnan(behind) || behind <= before) return;
    ShutOff::Kept kept{v.id, behind, {}};
    std::vector<char> seen(points_.size(), 0);
    std::vector<int> front{v.from};
    seen[u(v.from)] = seen[u(v.to)] = 1;
    const auto go = [&](int to) {
      if (cap_[u(to)].first > behind && !std::exchange(seen[u(to)], 1)) front.push_back(to);
    };
    while (!front.empty()) {
      const int n = front.back();
      front.pop_back();
      kept.points.push_back(points_[u(n)]);
      if (ends_[u(n)]) continue;
      for (const Edge& e : next_[u(n)])
        if (e.open && e.valve == noId) go(e.to);
      for (const auto* pumps : {&pumps_, &stopped_})
        for (const Pump& p : *pumps)
          if (p.to == n) go(p.from);
    }
    out_->kept.push_back(std::move(kept));
  }

  const Network& network_;
  const Solution& answer_;
  std::vector<int> number_;  // by Id
  std::vector<Id> points_;
  std::vector<std::vector<Edge>> next_;
  std::vector<char> ends_;       // a surface or fixed pressure is there
  std::vector<double> still_m_;  // with every pump stopped
  std::vector<Seed> seeds_, reliefs_;
  std::vector<std::pair<double, Id>> cap_;
  std::vector<Pump> pumps_, stopped_, displacing_, oneWay_;
  std::vector<Id> unknown_, restsOn_;
  std::vector<double> facts_;
  std::shared_ptr<ShutOff> out_;
  std::size_t looks_ = 0;
};

bool anyRated(const Network& network) {
  bool any = false;
  network.each([&](Id, const Element& e) {
    any = any || e.value(limitRow(LimitId::ratingMost).key) || (e.part->geometry && e.text(key::size));
  });
  return any;
}

}  // namespace

std::shared_ptr<const ShutOff> shutOff(const Network& network, const Solution& answer, bool rated) {
  if (!answer.summary.usable() || (!rated && !anyRated(network))) return nullptr;
  return Walk(network, answer).run();
}

std::shared_ptr<const ShutOff> shutOffAsBefore(const Network& before,
                                               const std::shared_ptr<const ShutOff>& then, const Network& now,
                                               const Solution& answer) {
  if (!then || !answer.summary.usable()) return nullptr;
  const auto changed = now.changedSince(before);
  if (!changed) return nullptr;
  for (const Id id : *changed) {
    if (id == jobId) return nullptr;
    const Element &a = before.at(id), &b = now.at(id);
    if (a.part != b.part || a.ends != b.ends) return nullptr;
    if (b.part->ends == Ends::self
            ? feedsIn(a) != feedsIn(b)
            : !b.part->atNoFlow && isShutByGivens(a.values) != isShutByGivens(b.values))
      return nullptr;
  }
  std::vector<double> facts;
  facts.reserve(then->facts.size());
  for (const Id id : then->restsOn)
    addFacts(now, answer, id, now.at(id).part->atNoFlow ? stillOf(now, answer, id) : NoFlow{}, facts);
  return facts == then->facts ? then : nullptr;
}

std::string wordsOf(const NoFlowWay& way, const Network& network, const UnitSet& units) {
  std::string words = nameOf(network, way.source) + " at " + withUnit(way.source_m, Measure::head, units, 4);
  for (const NoFlowWay::Lift& l : way.lifts)
    words += fmt::format(", {} + {}", network.at(l.pump).name, withUnit(l.by_m, Measure::headDrop, units, 3));
  if (way.cappedBy != noId) words += fmt::format(", held by {}", network.at(way.cappedBy).name);
  return words;
}

}  // namespace conduit

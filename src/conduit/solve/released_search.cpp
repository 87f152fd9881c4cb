// The search for released fields from outside: every trial is a balanced network.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "quantity/format.h"
#include "quantity/root.h"
#include "solve/dense.h"
#include "solve/index.h"
#include "solve/probe.h"
#include "solve/released.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

constexpr double enough = 1e-9;  // miss of a goal over its scale

}  // namespace

// d miss of goal g / d search place of unknown k.
std::vector<std::vector<double>> Released::slopes(Trial& t, const std::vector<Unknown>& unknowns) {
  const System& s = *t.system;
  const std::size_t m = unknowns.size();
  std::vector<std::vector<double>> rows(wanted_.goals.size(), std::vector<double>(m, 0.0));
  if (!t.newton->linearise(t.x, Newton::Mode::exact)) return {};
  std::unordered_map<Id, std::vector<std::pair<int, std::size_t>>> linksOf;  // branch, link
  for (std::size_t i = 0; i < s.links.size(); ++i)
    linksOf[s.links[i].of.element].emplace_back(s.links[i].of.branch, i);
  const auto nodeOfRaw = [&](int raw) { return raw >= 0 ? s.rawToNode[u(raw)] : -1; };
  // The outcomes' own slopes, once.
  struct Along {
    std::size_t goal;
    std::vector<std::pair<std::size_t, double>> flows;  // by link
    std::vector<std::pair<int, double>> heads;          // by node
  };
  std::vector<Along> along;
  for (std::size_t g = 0; g < wanted_.goals.size(); ++g) {
    const Goal& goal = wanted_.goals[g];
    const Element& e = t.network->at(goal.element);
    Probe probe(*t.network, t.solution, goal.element);
    Along a{g, {}, {}};
    if (const auto it = linksOf.find(goal.element); it != linksOf.end())
      for (const auto& [branch, i] : it->second) {
        BranchReading& b = probe.branches()[u(branch)];
        const double q = b.flow_m3s.value_or(0.0),
                     h = 1e-5 * std::max(std::abs(q), 1e-3 * s.links[i].law->startFlow_m3s());
        a.flows.emplace_back(i, probe.slope(*goal.outcome, b.flow_m3s, h));
        a.heads.emplace_back(s.links[i].from, probe.slope(*goal.outcome, b.headFrom_m, 1e-4));
        a.heads.emplace_back(s.links[i].to, probe.slope(*goal.outcome, b.headTo_m, 1e-4));
      }
    const int raw = e.part->ends == Ends::self                     ? s.pointRaw[goal.element]
                    : e.part->ends == Ends::one && !e.ends.empty() ? s.pointRaw[e.ends[0]]
                                                                   : -1;
    if (const int n = nodeOfRaw(raw); n >= 0) {
      a.heads.emplace_back(n, probe.slope(*goal.outcome, probe.reading().head_m, 1e-4));
      if (probe.reading().inflow_m3s) {  // what a held head feeds in is what its links carry away
        const double by = probe.slope(*goal.outcome, probe.reading().inflow_m3s, 1e-6);
        for (std::size_t i = 0; i < s.links.size(); ++i) {
          if (s.links[i].rawFrom == raw) a.flows.emplace_back(i, by);
          if (s.links[i].rawTo == raw) a.flows.emplace_back(i, -by);
        }
      }
    }
    along.push_back(std::move(a));
  }
  std::vector<double> head, flow;
  for (std::size_t k = 0; k < m; ++k) {
    const Unknown& unknown = unknowns[k];
    const Field& f = *unknown.field;
    const double at = toSearch(f, unknown.value), h = 1e-5 * unit(f);
    const double above = fromSearch(f, at + h), below = fromSearch(f, at - h);
    // Who feels it: the element itself, and for the section of a line also what is set into the pipes it
    // meets.
    std::vector<Id> touched{unknown.element};
    if (f.feltBeside)
      t.network->each([&](Id id, const Element& e) {
        if (id == unknown.element || !e.part->prepare || e.part->ends == Ends::self) return;
        for (const Id end : e.ends)
          for (const Id mine : t.network->at(unknown.element).ends)
            if (end == mine && (touched.empty() || touched.back() != id)) touched.push_back(id);
      });
    std::vector<double> widestUp = t.solution.widestBore_m, widestDown = widestUp;
    if (f.feltBeside) {
      Unknown up = unknown, down = unknown;
      up.value = above, down.value = below;
      widestUp = widestBores(filled(*t.network, std::span(&up, 1)), setting_),
      widestDown = widestBores(filled(*t.network, std::span(&down, 1)), setting_);
    }
    const Values valuesUp = valuesWith(t.network->at(unknown.element), setting_.stock, unknown, above),
                 valuesDown = valuesWith(t.network->at(unknown.element), setting_.stock, unknown, below);
    Newton::Change change;
    for (const Id id : touched) {
      const Element& element = t.network->at(id);
      Values scratch;
      const bool own = id == unknown.element;
      const Prepared a = element.part->prepare(own ? valuesUp : valuesOf(element, setting_.stock, scratch),
                                               setting_, endPlaces(*t.network, element, setting_, widestUp));
      const Prepared b =
          element.part->prepare(own ? valuesDown : valuesOf(element, setting_.stock, scratch), setting_,
                                endPlaces(*t.network, element, setting_, widestDown));
      if (!a.missing.empty() || !b.missing.empty() || a.problem || b.problem ||
          a.branches.size() != b.branches.size() || a.vessels.size() != b.vessels.size())
        continue;
      if (const auto it = linksOf.find(id); it != linksOf.end())
        for (const auto& [branch, i] : it->second) {
          const Law *lawUp = a.branches[u(branch)].law.get(), *lawDown = b.branches[u(branch)].law.get();
          if (!lawUp || !lawDown) continue;
          double memory1 = 0, memory2 = 0;
          const double q = t.x.flow_m3s[i];
          if (const double d = (lawUp->at(q, memory1).drop_m - lawDown->at(q, memory2).drop_m) / (2 * h);
              d != 0.0)
            change.drop.emplace_back(i, d);
          if (std::isfinite(lawUp->flowMost_m3s()))
            change.limit.emplace_back(i, (lawUp->flowMost_m3s() - lawDown->flowMost_m3s()) / (2 * h));
          if (const auto holdUp = lawUp->hold(), holdDown = lawDown->hold(); holdUp && holdDown)
            change.held.emplace_back(i, (holdUp->head_m - holdDown->head_m) / (2 * h));
        }
      const auto moveHead = [&](int raw, double d) {
        if (const int n = nodeOfRaw(raw); n >= 0 && !s.isFree(n) && d != 0.0) change.head.emplace_back(n, d);
      };
      const auto moveFlow = [&](int raw, double d) {
        if (const int n = nodeOfRaw(raw); n >= 0 && s.isFree(n) && d != 0.0)
          change.outflow.emplace_back(n, -d);
      };
      const Element& e = t.network->at(id);
      const int raw = e.part->ends == Ends::self ? s.pointRaw[id]
                      : !e.ends.empty()          ? s.pointRaw[e.ends[0]]
                                                 : -1;
      if (a.holdsHead_m && b.holdsHead_m) moveHead(raw, (*a.holdsHead_m - *b.holdsHead_m) / (2 * h));
      moveFlow(raw, (a.inflow_m3s - b.inflow_m3s) / (2 * h));
      for (std::size_t v = 0; v < a.vessels.size(); ++v) {
        if (a.vessels[v].head_m && b.vessels[v].head_m)
          moveHead(s.vesselBegin[id] + static_cast<int>(v),
                   (*a.vessels[v].head_m - *b.vessels[v].head_m) / (2 * h));
        moveFlow(s.vesselBegin[id] + static_cast<int>(v),
                 (a.vessels[v].inflow_m3s - b.vessels[v].inflow_m3s) / (2 * h));
      }
    }
    t.newton->respond(t.x, change, head, flow);
    for (const Along& a : along) {
      double sum = 0.0;
      for (const auto& [i, by] : a.flows) sum += by * flow[i];
      for (const auto& [n, by] : a.heads) sum += by * head[u(n)];
      const Goal& goal = wanted_.goals[a.goal];
      if (goal.element == unknown.element) {  // the outcome's own dependence on the field
        Probe probe(*t.network, t.solution, goal.element);
        probe.reading().values = &valuesUp;
        const double plus = probe.of(*goal.outcome);
        probe.reading().values = &valuesDown;
        const double minus = probe.of(*goal.outcome);
        if (std::isfinite(plus) && std::isfinite(minus)) sum += (plus - minus) / (2 * h);
      }
      rows[a.goal][k] = sum / scaleOf(*goal.outcome, goal.target);
    }
  }
  return rows;
}

// A field that decides nothing where a trial stands: it moves no goal there, or only as others do. Empty when
// each decides.
std::optional<std::size_t> Released::idle(std::vector<std::vector<double>> rows,
                                          const std::vector<Unknown>& unknowns) const {
  const std::size_t m = unknowns.size();
  for (std::size_t k = 0; k < m; ++k) {
    double most = 0.0;
    for (const auto& row : rows) most = std::max(most, std::abs(row[k]) * unit(*unknowns[k].field));
    if (most <= 1e-13) return k;
  }
  for (std::size_t g = 0; g < m; ++g) {
    double most = 0.0;
    for (std::size_t k = 0; k < m; ++k)
      rows[g][k] *= unit(*unknowns[k].field), most = std::max(most, std::abs(rows[g][k]));
    if (most < 1e-13) return 0;
    for (double& v : rows[g]) v /= most;
    rows[g].push_back(0.0);
  }
  std::size_t at = 0;
  return solveDense(rows, &at) ? std::nullopt : std::optional(at);
}

// One step of the search along `step` (in search places over unit), cut back until it gains; false when it
// cannot.
bool Released::advance(Trial& best, std::vector<Unknown>& unknowns, const std::vector<double>& step,
                       int trials) {
  double share = 1.0;  // no further than some units at once, and within the range of the search
  for (const double d : step) share = std::min(share, 2.3 / std::max(std::abs(d), 1e-300));
  for (int trial = 0; trial < trials; ++trial, share *= 0.4) {
    std::vector<Unknown> next = unknowns;
    bool moved = false;
    for (std::size_t k = 0; k < next.size(); ++k) {
      const Field& f = *next[k].field;
      next[k].value = std::clamp(fromSearch(f, toSearch(f, next[k].value) + share * step[k] * unit(f)),
                                 lowest(f), highest(f));
      moved =
          moved || std::abs(toSearch(f, next[k].value) - toSearch(f, unknowns[k].value)) > 1e-14 * unit(f);
    }
    if (!moved) return false;
    Trial t = attempt(next, &best, instead_, wanted_.goals);
    if (t.good && t.worst() < best.worst() * (1 - 0.05 * share)) {
      best = std::move(t);
      unknowns = std::move(next);
      return true;
    }
  }
  return false;
}

// Newton over the unknowns from where they stand, and where its step gains nothing the steps between it and
// steepest descent (Levenberg 1944, Marquardt 1963), with what presses against the end of its range left out.
// True when every goal is met and the fields decide it. `best` ends as the best trial.
bool Released::search(Trial& best, std::vector<Unknown>& unknowns) {
  const std::size_t m = unknowns.size();
  if (!best.system) best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  if (!best.good) return false;
  if (m == 0) return true;
  const double dense = static_cast<double>(m * m * m);
  for (int round = 0; round < 60; ++round) {
    if (options_.stop.stop_requested()) return false;
    if (spent()) return best.worst() <= 1e-7;
    work_ += 500.0 * static_cast<double>(m * best.system->links.size()) + 2 * dense;
    const bool met = best.worst() <= enough;
    if (met && round > 0) return true;
    auto rows = slopes(best, unknowns);
    if (rows.empty()) return met;
    const auto idles = idle(rows, unknowns);  // asked of a search that is at its goal from the beginning too
    if (met && idles) singular_ = {decidesNothing(unknowns[*idles])};
    if (met) return !idles;
    for (auto& row : rows)
      for (std::size_t k = 0; k < m; ++k) row[k] *= unit(*unknowns[k].field);
    auto newton = rows;
    for (std::size_t g = 0; g < m; ++g) {
      double most = 0.0;
      for (const double v : rows[g]) most = std::max(most, std::abs(v));
      most = std::max(most, 1e-300);
      for (double& v : newton[g]) v /= most;
      newton[g].push_back(-best.miss[g] / most);
    }
    std::vector<double> step(m, 0.0);
    bool better = false;
    if (!idles && solveDense(newton)) {
      for (std::size_t k = 0; k < m; ++k) step[k] = newton[k][m];
      better = advance(best, unknowns, step, m == 1 ? 12 : 6);
    }
    for (double damp = 1e-3; !better && m > 1 && damp < 1e4 && !spent(); damp *= 30) {
      work_ += 2 * dense;
      std::vector<double> downhill(m, 0.0);
      for (std::size_t k = 0; k < m; ++k)
        for (std::size_t g = 0; g < m; ++g) downhill[k] -= rows[g][k] * best.miss[g];
      std::vector<std::vector<double>> normal(m, std::vector<double>(m + 1, 0.0));
      for (std::size_t k = 0; k < m; ++k) {
        const Field& f = *unknowns[k].field;
        const double v = unknowns[k].value;
        const bool pressed = (downhill[k] > 0 && v >= highest(f)) || (downhill[k] < 0 && v <= lowest(f));
        for (std::size_t l = 0; l < m; ++l)
          for (std::size_t g = 0; g < m; ++g) normal[k][l] += pressed ? 0.0 : rows[g][k] * rows[g][l];
        normal[k][k] = pressed ? 1.0 : normal[k][k] * (1 + damp) + 1e-300;
        normal[k][m] = pressed ? 0.0 : downhill[k];
        double most = 0.0;
        for (std::size_t l = 0; l < m; ++l) most = std::max(most, std::abs(normal[k][l]));
        for (double& x : normal[k]) x /= most;
      }
      if (!solveDense(normal)) continue;
      for (std::size_t k = 0; k < m; ++k) step[k] = normal[k][m];
      better = advance(best, unknowns, step, 2);
    }
    if (!better) return best.worst() <= 1e-7;
  }
  return best.worst() <= enough * 100;
}

// For one unknown: looks at places all over its range for two beside one another between which the miss
// changes its sign, the nearest to the start first, and closes in on the goal there.
bool Released::bracket(Trial& best, std::vector<Unknown>& unknowns) {
  const Field& f = *unknowns[0].field;
  constexpr int places = 12;
  const double low = toSearch(f, std::max(f.least, lowest(f))), high = toSearch(f, f.most),
               start = toSearch(f, wanted_.unknowns[0].start);
  struct Place {
    double at, miss;
  };
  std::vector<Place> seen;
  const auto missAt = [&](double at, Trial* keep) {
    std::vector<Unknown> k = wanted_.unknowns;
    k[0].value = fromSearch(f, at);
    Trial t = attempt(k, nullptr, instead_, wanted_.goals);
    const double miss = t.good ? t.miss[0] : NAN;
    if (keep) *keep = std::move(t), unknowns = std::move(k);
    return miss;
  };
  std::vector<double> at{start};  // evenly over the range, and close to the start closely
  for (int k = 0; k <= places; ++k) at.push_back(low + (high - low) * k / places);
  for (double step = 0.03 * unit(f); step < high - low; step *= 3)
    for (const double side : {start - step, start + step})
      if (side > low && side < high) at.push_back(side);
  std::sort(at.begin(), at.end());
  for (const double a : at) {
    if (options_.stop.stop_requested()) return false;
    if (const double miss = missAt(a, nullptr); std::isfinite(miss)) seen.push_back({a, miss});
  }
  std::optional<std::size_t> between;
  for (std::size_t k = 0; k + 1 < seen.size(); ++k)
    if ((seen[k].miss < 0) != (seen[k + 1].miss < 0))
      if (!between || std::abs(seen[k].at - start) < std::abs(seen[*between].at - start)) between = k;
  if (!between) {
    if (seen.empty()) return false;
    // None: the place that comes nearest, drawn together from both sides.
    const auto least = std::min_element(seen.begin(), seen.end(), [](const Place& a, const Place& b) {
      return std::abs(a.miss) < std::abs(b.miss);
    });
    double from = least == seen.begin() ? least->at : (least - 1)->at,
           to = least + 1 == seen.end() ? least->at : (least + 1)->at;
    Place nearest = *least;
    for (int k = 0; k < 24 && to - from > 1e-5 * unit(f); ++k) {
      const bool left = k % 2 == 0;
      const double place = left ? from + 0.381966 * (to - from) : to - 0.381966 * (to - from),
                   miss = missAt(place, nullptr);
      if (!std::isfinite(miss)) break;
      if (std::abs(miss) < std::abs(nearest.miss)) {
        (place < nearest.at ? to : from) = nearest.at;
        nearest = {place, miss};
      } else {
        (place < nearest.at ? from : to) = place;
      }
    }
    nearest_ = {fromSearch(f, nearest.at), nearest.miss};
    return false;
  }
  const Place a = seen[*between], b = seen[*between + 1];
  const auto place = halved(a.at, b.at, {.within = 1e-6 * unit(f)}, [&](double x) -> std::optional<bool> {
    const double miss = missAt(x, nullptr);
    return std::isfinite(miss) ? std::optional((miss < 0) == (a.miss < 0)) : std::nullopt;
  });
  if (!place) return false;
  Trial t;
  (void)missAt(*place, &t);
  if (!search(t, unknowns)) return false;
  best = std::move(t);
  return true;
}

std::optional<double> Released::another(Trial& answer, const Unknown& unknown) {
  const Field& f = *unknown.field;
  const auto rows = slopes(answer, std::vector{unknown});
  if (rows.empty() || rows[0][0] == 0.0) return std::nullopt;
  const double here = toSearch(f, unknown.value), rising = rows[0][0] > 0 ? 1.0 : -1.0;
  const auto missAt = [&](double place) {
    Unknown k = unknown;
    k.value = fromSearch(f, place);
    const Trial t = attempt({k}, &answer, instead_, wanted_.goals);
    return t.good ? t.miss[0] : NAN;
  };
  // Beside the answer the miss has the sign of its slope on one side and the other on the other; where the
  // end of the range says the opposite it has come back through nothing.
  for (const double end : {toSearch(f, f.most), toSearch(f, std::max(f.least, lowest(f)))}) {
    const double sign = end > here ? rising : -rising;
    if (std::abs(end - here) < 1e-3 * unit(f) || !(missAt(end) * sign < 0)) continue;
    double near = here, far = end;  // the miss has `sign` behind `near`
    for (double step = 1e-3 * (end - here); near == here && std::abs(step) <= std::abs(end - here); step *= 2)
      if (const double miss = missAt(here + step); miss * sign > 0) near = here + step;
    if (near == here) continue;
    const auto place = halved(near, far, {.within = 1e-9 * unit(f)}, [&](double x) -> std::optional<bool> {
      const double miss = missAt(x);
      return std::isfinite(miss) ? std::optional(miss * sign > 0) : std::nullopt;
    });
    return place ? std::optional(fromSearch(f, *place)) : std::nullopt;
  }
  return std::nullopt;
}

// From `best`, a trial at the start; then from the kept values if it began from the last answer; then
// elsewhere: larger and smaller by a decade, or other parts of the range; then all over the range of a single
// field. What moves nothing at the start (the set point of a valve that stands open) may well move it
// elsewhere; where all that is wanted is there whatever a field is, that field is not found.
bool Released::find(Trial& best, std::vector<Unknown>& unknowns) {
  bool met = search(best, unknowns);
  if (!met && warm_ && !options_.stop.stop_requested()) {  // the last answer led astray: begin afresh
    warm_ = false;
    singular_.clear();
    unknowns = wanted_.unknowns;
    best = attempt(unknowns, nullptr, instead_, wanted_.goals);
    met = search(best, unknowns);
  }
  const bool single = unknowns.size() == 1;
  if (met && single &&
      !within(unknowns[0], unknowns[0].value)) {  // there may be another answer within the range
    Trial within;
    std::vector<Unknown> other = unknowns;
    if (bracket(within, other)) best = std::move(within), unknowns = other;
  }
  if (met || unknowns.empty()) return met;
  // Elsewhere: all together larger or smaller, or in other parts of the range; several fields then each for
  // itself, at places that a fixed rule scatters.
  const int starts = single ? 4 : 4 + 4 * static_cast<int>(std::min<std::size_t>(unknowns.size(), 6)),
            enoughTrials = trials_ + 80 + 20 * static_cast<int>(unknowns.size());
  for (int start = 0; !met && singular_.empty() && start < starts && trials_ < enoughTrials && !spent() &&
                      !options_.stop.stop_requested();
       ++start) {
    static constexpr double decades[] = {0.1, 10, 0.01, 100}, shares[] = {0.25, 0.75, 0.05, 0.95};
    std::vector<Unknown> other = start < 4 ? wanted_.unknowns : scattered(wanted_.unknowns, start - 3);
    for (Unknown& k : other) {
      const Field& f = *k.field;
      if (start < 4)
        k.value = std::clamp(usesLogScale(f)               ? k.start * decades[start]
                             : f.measure == Measure::ratio ? shares[start]
                                                           : k.start + (shares[start] - 0.5) * 20 * unit(f),
                             lowest(f), highest(f));
    }
    Trial t;
    met = search(t, other);
    if (met || (t.good && (!best.good || t.worst() < best.worst()))) best = std::move(t), unknowns = other;
  }
  if (!met && singular_.empty() && single && !options_.stop.stop_requested()) met = bracket(best, unknowns);
  if (met) singular_.clear();
  return met;
}

// Fields found outside their legal range, and goals that cannot be met at all: findings with what would be
// reached.
std::vector<Problem> Released::beyond(Trial& best, const std::vector<Unknown>& unknowns, bool met) {
  std::size_t worst = 0;
  for (std::size_t g = 1; g < best.miss.size(); ++g)
    if (std::abs(best.miss[g]) > std::abs(best.miss[worst])) worst = g;
  if (!met && unknowns.size() > 1) return {notFound(best, unknowns, worst)};
  std::vector<Problem> problems;
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    const Field& f = *unknowns[k].field;
    if (met && within(unknowns[k], unknowns[k].value)) continue;
    // The goal that this unknown moves most is the one it cannot meet.
    std::size_t about = worst;
    if (met)
      if (const auto rows = slopes(best, unknowns); !rows.empty())
        for (std::size_t g = 0; g < rows.size(); ++g)
          if (std::abs(rows[g][k]) > std::abs(rows[about][k])) about = g;
    const Goal& goal = wanted_.goals[about];
    const auto at = [&](double value) {
      std::vector<Unknown> bound = unknowns;
      bound[k].value = value;
      const Trial t = attempt(bound, nullptr, instead_, {});
      return t.good ? read(goal, t.solution, *t.network) : NAN;
    };
    const double atLeast = at(std::max(f.least, lowest(f))), atMost = at(f.most);
    const double reached =
                     nearest_ ? goal.target + nearest_->second * scaleOf(*goal.outcome, goal.target) : NAN,
                 by = std::abs(reached - goal.target);
    const bool within = !met && nearest_ && !(by > 0.999 * std::abs(atLeast - goal.target)) &&
                        !(by > 0.999 * std::abs(atMost - goal.target));
    problems.push_back(within ? withinRange(unknowns[k], goal, nearest_->first, reached)
                              : outOfReach(unknowns[k], met ? std::optional(unknowns[k].value) : std::nullopt,
                                           goal, atLeast, atMost));
  }
  return problems;
}

}  // namespace conduit

#include "solve/released.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "quantity/format.h"
#include "solve/dense.h"
#include "solve/determinacy.h"
#include "solve/read_out.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }

double scaleOf(const Goal& g) {
  switch (g.outcome->measure) {
    case Measure::gaugePressure:
    case Measure::absolutePressure:
    case Measure::pressureDrop: return 1e4;
    case Measure::volumeFlow: return std::max(std::abs(g.target), 1e-5);
    default: return std::max(std::abs(g.target), 1e-2);
  }
}
constexpr double enough = 1e-9;  // miss of a goal over its scale

// A reading that may be altered number by number.
class Probe {
 public:
  Probe(const Network& network, const Solution& solution, Id id) : of_(network, solution, id), reading_(*of_) {
    branches_.assign(reading_.branches.begin(), reading_.branches.end());
    vessels_.assign(reading_.vesselHeads.begin(), reading_.vesselHeads.end());
    reading_.branches = branches_;
    reading_.vesselHeads = vessels_;
  }
  Probe(const Probe&) = delete;
  Probe& operator=(const Probe&) = delete;
  [[nodiscard]] double of(const Outcome& outcome) const { return outcome.of(reading_).value_or(NAN); }
  std::vector<BranchReading>& branches() { return branches_; }
  Reading& reading() { return reading_; }
  // d outcome / d number, central.
  double slope(const Outcome& outcome, std::optional<double>& number, double h) {
    if (!number) return 0.0;
    const double kept = *number;
    number = kept + h;
    const double up = of(outcome);
    number = kept - h;
    const double down = of(outcome);
    number = kept;
    return std::isfinite(up) && std::isfinite(down) ? (up - down) / (2 * h) : 0.0;
  }

 private:
  ReadingOf of_;
  Reading reading_;
  std::vector<BranchReading> branches_;
  std::vector<std::optional<double>> vessels_;
};

// What an element holds with one field at a trial value.
Values valuesWith(const Element& e, const Stock* stock, const Unknown& k, double value) {
  Values scratch;
  Values all = valuesOf(e, stock, scratch);
  all.set(k.field->key, Given{value, Basis::direct, ""});
  return all;
}

}  // namespace

Released::Released(const Network& network, const Setting& setting, Wanted wanted, const SolveOptions& options)
    : network_(network), setting_(setting), options_(options), wanted_(std::move(wanted)) {
  local_ = takeLocal(network, setting, wanted_, instead_);
}

double Released::Trial::worst() const {
  double most = 0.0;
  for (const double m : miss) most = std::max(most, std::isfinite(m) ? std::abs(m) : 1e30);
  return most;
}

double Released::read(const Goal& goal, const Solution& solution, const Network& network) const { return Probe(network, solution, goal.element).of(*goal.outcome); }

// Balances the network with every unknown at its value. `near` is an earlier trial to begin from.
Released::Trial Released::attempt(const std::vector<Unknown>& unknowns, const Trial* near, const GivenInstead& instead, const std::vector<Goal>& goals) {
  Trial t;
  std::vector<Unknown> all = unknowns;
  for (const Local& l : local_) all.push_back(l.unknown);
  t.network = filled(network_, all);
  t.solution.setting = setting_;
  t.solution.widestBore_m = widestBores(*t.network, setting_);
  SetUp set = setUp(*t.network, setting_, t.solution.widestBore_m, instead);
  t.problems = std::move(set.problems);
  t.system = std::make_unique<System>(std::move(set.system));
  const System& s = *t.system;
  makeRoom(*t.network, s, t.solution);
  if (t.problems.empty()) t.problems = determinacy(*t.network, s, options_.units);
  if (!t.problems.empty()) return t;
  t.newton = std::make_unique<Newton>(s);
  if (options_.record) t.newton->keepRecord(&steps_);
  t.x = t.newton->coldStart();
  if (warm_ && !near) startFrom(*options_.startFrom, s, t.x);
  if (near && near->good && near->x.flow_m3s.size() == s.links.size() && near->system->freeCount == s.freeCount) {
    t.x.flow_m3s = near->x.flow_m3s;
    t.x.state = near->x.state;
    std::copy(near->x.head_m.begin(), near->x.head_m.begin() + s.freeCount, t.x.head_m.begin());
    t.x.guessed = false;
  }
  t.found = settleWithTees(*t.newton, s, t.x, options_.stop, setting_.medium.gravity_ms2);
  iterations_ += t.newton->iterations();
  if (t.found.end != Newton::End::converged || !t.found.consistent || !t.found.fighting.empty()) return t;
  readOut(*t.network, s, t.x, t.newton->hanging(), t.solution);
  t.good = true;
  for (const Goal& g : goals) t.miss.push_back((read(g, t.solution, *t.network) - g.target) / scaleOf(g));
  return t;
}

// d miss of goal g / d search place of unknown k.
std::vector<std::vector<double>> Released::slopes(Trial& t, const std::vector<Unknown>& unknowns) {
  const System& s = *t.system;
  const std::size_t m = unknowns.size();
  std::vector<std::vector<double>> rows(wanted_.goals.size(), std::vector<double>(m, 0.0));
  if (!t.newton->linearise(t.x, Newton::Mode::exact)) return {};
  std::unordered_map<Id, std::vector<std::pair<int, std::size_t>>> linksOf;  // branch, link
  for (std::size_t i = 0; i < s.links.size(); ++i) linksOf[s.links[i].of.element].emplace_back(s.links[i].of.branch, i);
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
        const double q = b.flow_m3s.value_or(0.0), h = 1e-5 * std::max(std::abs(q), 1e-3 * s.links[i].law->startFlow_m3s());
        a.flows.emplace_back(i, probe.slope(*goal.outcome, b.flow_m3s, h));
        a.heads.emplace_back(s.links[i].from, probe.slope(*goal.outcome, b.headFrom_m, 1e-4));
        a.heads.emplace_back(s.links[i].to, probe.slope(*goal.outcome, b.headTo_m, 1e-4));
      }
    const int raw = e.part->ends == Ends::self ? s.pointRaw[goal.element] : e.part->ends == Ends::one && !e.ends.empty() ? s.pointRaw[e.ends[0]] : -1;
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
    // Who feels it: the element itself, and for a bore also what is set into the pipes it meets.
    std::vector<Id> touched{unknown.element};
    if (f.measure == Measure::bore)
      t.network->each([&](Id id, const Element& e) {
        if (id == unknown.element || !e.part->prepare || e.part->ends == Ends::self) return;
        for (const Id end : e.ends)
          for (const Id mine : t.network->at(unknown.element).ends)
            if (end == mine && (touched.empty() || touched.back() != id)) touched.push_back(id);
      });
    std::vector<double> widestUp = t.solution.widestBore_m, widestDown = widestUp;
    if (f.measure == Measure::bore) {
      Unknown up = unknown, down = unknown;
      up.value = above, down.value = below;
      widestUp = widestBores(filled(*t.network, std::span(&up, 1)), setting_), widestDown = widestBores(filled(*t.network, std::span(&down, 1)), setting_);
    }
    const Values valuesUp = valuesWith(t.network->at(unknown.element), setting_.stock, unknown, above),
                 valuesDown = valuesWith(t.network->at(unknown.element), setting_.stock, unknown, below);
    Newton::Change change;
    for (const Id id : touched) {
      const Element& element = t.network->at(id);
      Values scratch;
      const bool own = id == unknown.element;
      const Prepared a = element.part->prepare(own ? valuesUp : valuesOf(element, setting_.stock, scratch), setting_, endPlaces(*t.network, element, setting_, widestUp));
      const Prepared b = element.part->prepare(own ? valuesDown : valuesOf(element, setting_.stock, scratch), setting_, endPlaces(*t.network, element, setting_, widestDown));
      if (!a.lacks.empty() || !b.lacks.empty() || a.problem || b.problem || a.branches.size() != b.branches.size() || a.vessels.size() != b.vessels.size()) continue;
      if (const auto it = linksOf.find(id); it != linksOf.end())
        for (const auto& [branch, i] : it->second) {
          const Law *lawUp = a.branches[u(branch)].law.get(), *lawDown = b.branches[u(branch)].law.get();
          if (!lawUp || !lawDown) continue;
          double memory1 = 0, memory2 = 0;
          const double q = t.x.flow_m3s[i];
          if (const double d = (lawUp->at(q, memory1).drop_m - lawDown->at(q, memory2).drop_m) / (2 * h); d != 0.0) change.drop.emplace_back(i, d);
          if (std::isfinite(lawUp->flowMost_m3s())) change.limit.emplace_back(i, (lawUp->flowMost_m3s() - lawDown->flowMost_m3s()) / (2 * h));
          if (const auto holdUp = lawUp->hold(), holdDown = lawDown->hold(); holdUp && holdDown) change.held.emplace_back(i, (holdUp->head_m - holdDown->head_m) / (2 * h));
        }
      const auto moveHead = [&](int raw, double d) {
        if (const int n = nodeOfRaw(raw); n >= 0 && !s.isFree(n) && d != 0.0) change.head.emplace_back(n, d);
      };
      const auto moveFlow = [&](int raw, double d) {
        if (const int n = nodeOfRaw(raw); n >= 0 && s.isFree(n) && d != 0.0) change.outflow.emplace_back(n, -d);
      };
      const Element& e = t.network->at(id);
      const int raw = e.part->ends == Ends::self ? s.pointRaw[id] : !e.ends.empty() ? s.pointRaw[e.ends[0]] : -1;
      if (a.holdsHead_m && b.holdsHead_m) moveHead(raw, (*a.holdsHead_m - *b.holdsHead_m) / (2 * h));
      moveFlow(raw, (a.inflow_m3s - b.inflow_m3s) / (2 * h));
      for (std::size_t v = 0; v < a.vessels.size(); ++v) {
        if (a.vessels[v].head_m && b.vessels[v].head_m) moveHead(s.vesselBegin[id] + static_cast<int>(v), (*a.vessels[v].head_m - *b.vessels[v].head_m) / (2 * h));
        moveFlow(s.vesselBegin[id] + static_cast<int>(v), (a.vessels[v].inflow_m3s - b.vessels[v].inflow_m3s) / (2 * h));
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
      rows[a.goal][k] = sum / scaleOf(goal);
    }
  }
  return rows;
}

// Whether the released fields and the givens have to do with one another: each field moves something, each given is moved
// by something, and no given only repeats what others say. Else `singular_` tells.
bool Released::belong(std::vector<std::vector<double>> rows, const std::vector<Unknown>& unknowns) {
  const std::size_t m = unknowns.size();
  singular_.clear();
  for (std::size_t k = 0; k < m; ++k) {  // a released field that moves nothing that is given
    double most = 0.0;
    for (const auto& row : rows) most = std::max(most, std::abs(row[k]) * unit(*unknowns[k].field));
    if (most > 1e-13) continue;
    const std::string name = network_.at(unknowns[k].element).name, key(unknowns[k].field->key);
    singular_.push_back({{name, key},
                         fmt::format("the {} of {} has no influence on what is given: they do not belong together", key, name),
                         {{fmt::format("Give the {} of {} again", key, name), {{name, "found " + key, "no"}}, {name, key}}}});
  }
  for (std::size_t g = 0; g < m; ++g) {
    double most = 0.0;
    for (std::size_t k = 0; k < m; ++k) rows[g][k] *= unit(*unknowns[k].field), most = std::max(most, std::abs(rows[g][k]));
    const std::string name = network_.at(wanted_.goals[g].element).name, key(wanted_.goals[g].outcome->key);
    if (most < 1e-13) {
      if (singular_.empty())
        singular_.push_back({{name, key},
                             fmt::format("nothing that is to be found has an influence on the {} of {}", key, name),
                             {{fmt::format("Do not give the {} of {}", key, name), {{name, "given " + key, ""}}, {name, key}}}});
      return false;
    }
    for (double& v : rows[g]) v /= most;
    rows[g].push_back(0.0);
  }
  if (!singular_.empty()) return false;
  std::size_t at = 0;
  if (solveDense(rows, &at)) return true;
  const std::string name = network_.at(unknowns[at].element).name, key(unknowns[at].field->key);
  std::string others;
  for (const Goal& g : wanted_.goals) others += fmt::format("{}the {} of {}", others.empty() ? "" : ", ", g.outcome->key, network_.at(g.element).name);
  singular_.push_back({{name, key},
                       fmt::format("the {} of {} changes what is given ({}) only as others do: the givens repeat or contradict one another", key, name, others),
                       {{fmt::format("Give the {} of {} again", key, name), {{name, "found " + key, "no"}}, {name, key}}}});
  return false;
}

// One step of the search along `step` (in search places over unit), cut back until it gains; false when it cannot.
bool Released::advance(Trial& best, std::vector<Unknown>& unknowns, const std::vector<double>& step, int trials) {
  double share = 1.0;  // no further than some units at once, and within the range of the search
  for (const double d : step) share = std::min(share, 2.3 / std::max(std::abs(d), 1e-300));
  for (int trial = 0; trial < trials; ++trial, share *= 0.4) {
    std::vector<Unknown> next = unknowns;
    bool moved = false;
    for (std::size_t k = 0; k < next.size(); ++k) {
      const Field& f = *next[k].field;
      next[k].value = std::clamp(fromSearch(f, toSearch(f, next[k].value) + share * step[k] * unit(f)), lowest(f), highest(f));
      moved = moved || std::abs(toSearch(f, next[k].value) - toSearch(f, unknowns[k].value)) > 1e-14 * unit(f);
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

// Newton over the unknowns from where they stand, and where its step gains nothing the steps between it and steepest descent
// (Levenberg 1944, Marquardt 1963), with what presses against the end of its range left out. True when every goal is met
// and the fields decide it. `best` ends as the best trial.
bool Released::search(Trial& best, std::vector<Unknown>& unknowns) {
  const std::size_t m = unknowns.size();
  if (!best.system) best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  if (!best.good) return false;
  if (m == 0) return true;
  for (int round = 0; round < 60; ++round) {
    if (options_.stop.stop_requested()) return false;
    const bool met = best.worst() <= enough;
    if (met && round > 0) return true;
    auto rows = slopes(best, unknowns);
    if (rows.empty()) return met;
    if (!belong(rows, unknowns)) return false;  // asked of a search that is at its goal from the beginning too
    if (met) return true;
    for (auto& row : rows)
      for (std::size_t k = 0; k < m; ++k) row[k] *= unit(*unknowns[k].field);
    auto newton = rows;
    for (std::size_t g = 0; g < m; ++g) {
      double most = 0.0;
      for (const double v : rows[g]) most = std::max(most, std::abs(v));
      for (double& v : newton[g]) v /= most;
      newton[g].push_back(-best.miss[g] / most);
    }
    std::vector<double> step(m, 0.0);
    if (!solveDense(newton)) return false;
    for (std::size_t k = 0; k < m; ++k) step[k] = newton[k][m];
    bool better = advance(best, unknowns, step, m == 1 ? 12 : 6);
    for (double damp = 1e-3; !better && m > 1 && damp < 1e4; damp *= 30) {
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

// For one unknown: looks at places all over its range for two beside one another between which the miss changes its sign,
// the nearest to the start first, and closes in on the goal there.
bool Released::bracket(Trial& best, std::vector<Unknown>& unknowns) {
  const Field& f = *unknowns[0].field;
  constexpr int places = 12;
  const double low = toSearch(f, std::max(f.least, lowest(f))), high = toSearch(f, f.most), start = toSearch(f, wanted_.unknowns[0].start);
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
    const auto least = std::min_element(seen.begin(), seen.end(), [](const Place& a, const Place& b) { return std::abs(a.miss) < std::abs(b.miss); });
    double from = least == seen.begin() ? least->at : (least - 1)->at, to = least + 1 == seen.end() ? least->at : (least + 1)->at;
    Place nearest = *least;
    for (int k = 0; k < 24 && to - from > 1e-5 * unit(f); ++k) {
      const bool left = k % 2 == 0;
      const double place = left ? from + 0.381966 * (to - from) : to - 0.381966 * (to - from), miss = missAt(place, nullptr);
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
  Place a = seen[*between], b = seen[*between + 1];
  for (int k = 0; k < 60 && std::abs(b.at - a.at) > 1e-6 * unit(f); ++k) {
    const double middle = (a.at + b.at) / 2, miss = missAt(middle, nullptr);
    if (!std::isfinite(miss)) return false;
    ((miss < 0) == (a.miss < 0) ? a : b) = {middle, miss};
  }
  Trial t;
  (void)missAt((a.at + b.at) / 2, &t);
  if (!search(t, unknowns)) return false;
  best = std::move(t);
  return true;
}

// The fields of the local pairs, from the flows and heads that are now known.
void Released::settleLocal(const Trial& trial, std::vector<Problem>& problems) {
  for (Local& l : local_) {
    const Element& e = trial.network->at(l.unknown.element);
    const Field& f = *l.unknown.field;
    if (e.part->ends == Ends::self) {
      // What is left over at the held point leaves (or enters) there.
      const int raw = trial.system->pointRaw[l.unknown.element];
      double over = 0.0;
      const System& s = *trial.system;
      for (std::size_t i = 0; i < s.links.size(); ++i) over += trial.x.flow_m3s[i] * ((s.links[i].rawTo == raw) - (s.links[i].rawFrom == raw));
      for (const KnownBranch& k : s.known) over += k.flow_m3s * ((k.rawTo == raw) - (k.rawFrom == raw));
      for (std::size_t j = 0; j < s.joins.size(); ++j) {
        const auto b = trial.solution.branch(s.joins[j].of.element, u(s.joins[j].of.branch));
        over += b.flow_m3s.value_or(0.0) * ((s.joins[j].rawTo == raw) - (s.joins[j].rawFrom == raw));
      }
      const auto given = [&](std::string_view key) {
        const Given* g = network_.at(l.unknown.element).values.get<Given>(key);
        return g ? resolve(*g, Measure::volumeFlow, setting_.medium) : 0.0;
      };
      l.unknown.value = f.key == "inflow" ? -(over - given("outflow")) : over + given("inflow");
      if (l.unknown.value < 0 && f.least >= 0) problems.push_back(outOfReach(l.unknown, l.unknown.value, l.goal, NAN, NAN));
      continue;
    }
    const BranchReading b = trial.solution.branch(l.unknown.element, 0);
    if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) {
      problems.push_back({{e.name, std::string(f.key)}, fmt::format("the heads on both sides of {} are not determined, so its {} cannot be found", e.name, f.key), {}});
      continue;
    }
    const double q = *b.flow_m3s, drop = *b.headFrom_m - *b.headTo_m;
    const auto places = endPlaces(*trial.network, e, setting_, trial.solution.widestBore_m);
    const auto law = [&](double value) { return e.part->prepare(valuesWith(e, setting_.stock, l.unknown, value), setting_, places); };
    // What must come to nothing: by the loss itself, else by what the device holds, else by the most it lets pass.
    const auto miss = [&](double value) -> double {
      const Prepared p = law(value);
      if (p.branches.empty() || !p.branches[0].law) return NAN;
      const Law& here = *p.branches[0].law;
      double memory = 0;
      if (f.key == "set point" || f.key == "difference")
        if (const auto hold = here.hold()) return hold->head_m - (hold->before ? *b.headFrom_m : *b.headTo_m);
      if (std::isfinite(here.flowMost_m3s()) && f.measure == Measure::volumeFlow) return here.flowMost_m3s() - q;
      if (p.branches[0].shut) return q > 0 ? 1e30 : q < 0 ? -1e30 : 0.0;
      const double sign = q < 0 ? -1.0 : 1.0;
      double short_ = sign * (here.at(q, memory).drop_m - drop);
      if (const auto choke = here.choke()) {  // or by the flow at which it chokes, whichever asks for more
        const Choked most = choked(*choke, q, *b.headFrom_m, *b.headTo_m);
        short_ = std::max(short_, (std::abs(q) - std::abs(most.flow_m3s)) / std::abs(most.slope_m2s));
      }
      return sign * short_;
    };
    double low = toSearch(f, lowest(f)), high = toSearch(f, highest(f)), atLow = miss(fromSearch(f, low)), atHigh = miss(fromSearch(f, high));
    std::optional<double> root;
    if (std::isfinite(atLow) && std::isfinite(atHigh) && (atLow < 0) != (atHigh < 0)) {
      // Bisection and the secant by turns: sure, and to rounding.
      for (int step = 0; step < 200 && high - low > 1e-15 * std::max(std::abs(low), std::abs(high)); ++step) {
        double middle = (low + high) / 2;
        if (step % 3 != 2 && std::abs(atHigh - atLow) > 0)
          middle = std::clamp(low - atLow * (high - low) / (atHigh - atLow), low + 1e-3 * (high - low), high - 1e-3 * (high - low));
        const double here = miss(fromSearch(f, middle));
        if (here == 0.0) {
          low = high = middle;
          break;
        }
        if ((here < 0) == (atLow < 0)) low = middle, atLow = here;
        else high = middle, atHigh = here;
      }
      root = fromSearch(f, (low + high) / 2);
    }
    const double slack = 1e-9 * (f.most - f.least);
    if (root && *root >= f.least - slack && *root <= f.most + slack) {
      l.unknown.value = std::clamp(*root, f.least, f.most);
      continue;
    }
    // At the ends of its range, what would the outcome be?
    GivenInstead without = instead_;
    without.flows.erase(l.unknown.element);
    const auto at = [&](double value) {
      Local kept = l;
      l.unknown.value = value;
      const Trial t = attempt(wanted_.unknowns, nullptr, without, {});
      l = kept;
      return t.good ? read(l.goal, t.solution, *t.network) : NAN;
    };
    problems.push_back(outOfReach(l.unknown, root, l.goal, at(std::max(f.least, lowest(f))), at(f.most)));
  }
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
  // Beside the answer the miss has the sign of its slope on one side and the other on the other; where the end of the range
  // says the opposite it has come back through nothing.
  for (const double end : {toSearch(f, f.most), toSearch(f, std::max(f.least, lowest(f)))}) {
    const double sign = end > here ? rising : -rising;
    if (std::abs(end - here) < 1e-3 * unit(f) || !(missAt(end) * sign < 0)) continue;
    double near = here, far = end;  // the miss has `sign` behind `near`
    for (double step = 1e-3 * (end - here); near == here && std::abs(step) <= std::abs(end - here); step *= 2)
      if (const double miss = missAt(here + step); miss * sign > 0) near = here + step;
    if (near == here) continue;
    for (int k = 0; k < 60 && std::abs(far - near) > 1e-9 * unit(f); ++k) {
      const double middle = (near + far) / 2, miss = missAt(middle);
      if (!std::isfinite(miss)) return std::nullopt;
      (miss * sign > 0 ? near : far) = middle;
    }
    return fromSearch(f, (near + far) / 2);
  }
  return std::nullopt;
}

namespace {

// Whether a field lies outside its legal range, by more than the search's own slack.
bool outside(const Unknown& k) {
  const double slack = 1e-7 * std::max(std::abs(k.value), unit(*k.field) * 1e-3);
  return k.value < k.field->least - slack || k.value > k.field->most + slack;
}

}  // namespace

// From `best`, a trial at the start; then from the kept values if it began from the last answer; then elsewhere: larger and
// smaller by a decade, or other parts of the range; then all over the range of a single field. What moves nothing at the
// start (the set point of a valve that stands open) may well move it elsewhere; where all that is wanted is there already,
// it decides nothing and is not found.
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
  if (met && single && outside(unknowns[0])) {  // there may be another answer within the range
    Trial within;
    std::vector<Unknown> other = unknowns;
    if (bracket(within, other)) best = std::move(within), unknowns = other;
  }
  if (met || unknowns.empty()) return met;
  const std::vector<Problem> unrelated = singular_;
  if (!unrelated.empty() && !(best.good && best.worst() > enough)) return false;
  for (int start = 0; !met && start < 4 && !options_.stop.stop_requested(); ++start) {
    static constexpr double decades[] = {0.1, 10, 0.01, 100}, shares[] = {0.25, 0.75, 0.05, 0.95};
    std::vector<Unknown> other = wanted_.unknowns;
    for (Unknown& k : other) {
      const Field& f = *k.field;
      k.value = std::clamp(bent(f)                       ? k.start * decades[start]
                           : f.measure == Measure::ratio ? shares[start]
                                                         : k.start + (shares[start] - 0.5) * 20 * unit(f),
                           lowest(f), highest(f));
    }
    Trial t;
    met = search(t, other);
    if (met || (t.good && (!best.good || t.worst() < best.worst()))) best = std::move(t), unknowns = other;
  }
  if (!met && single && !options_.stop.stop_requested()) met = bracket(best, unknowns);
  singular_ = met ? std::vector<Problem>() : unrelated;
  return met;
}

// Fields found outside their legal range, and goals that cannot be met at all: findings with what would be reached.
std::vector<Problem> Released::beyond(Trial& best, const std::vector<Unknown>& unknowns, bool met) {
  std::size_t worst = 0;
  for (std::size_t g = 1; g < best.miss.size(); ++g)
    if (std::abs(best.miss[g]) > std::abs(best.miss[worst])) worst = g;
  if (!met && unknowns.size() > 1) return {notFound(best, unknowns, worst)};
  std::vector<Problem> problems;
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    const Field& f = *unknowns[k].field;
    if (met && !outside(unknowns[k])) continue;
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
    const double reached = nearest_ ? goal.target + nearest_->second * scaleOf(goal) : NAN, by = std::abs(reached - goal.target);
    const bool within = !met && nearest_ && !(by > 0.999 * std::abs(atLeast - goal.target)) && !(by > 0.999 * std::abs(atMost - goal.target));
    problems.push_back(within ? withinRange(unknowns[k], goal, nearest_->first, reached)
                              : outOfReach(unknowns[k], met ? std::optional(unknowns[k].value) : std::nullopt, goal, atLeast, atMost));
  }
  return problems;
}

// The answer, with what was found.
void Released::hand(Trial& best, const std::vector<Unknown>& unknowns, Solution& out) {
  const Residuals r = best.newton->residuals();
  Summary kept = std::move(out.summary);
  out = std::move(best.solution);
  out.steps = std::move(steps_);
  const Summary filledIn = std::move(out.summary);
  Summary& sum = out.summary = std::move(kept);
  sum.inflow_m3s = filledIn.inflow_m3s, sum.outflow_m3s = filledIn.outflow_m3s, sum.shares = filledIn.shares;
  sum.states = filledIn.states, sum.shut = filledIn.shut, sum.acting = filledIn.acting, sum.undetermined = filledIn.undetermined;
  sum.flips = best.found.flips;
  sum.overChoked = best.found.overChoked;
  sum.headResidual_m = r.head_m, sum.massResidual_m3s = r.mass_m3s, sum.massResidualShare = r.massShare, sum.headTolerance_m = r.headTolerance_m;
  sum.unknowns = static_cast<std::size_t>(best.system->freeCount) + unknowns.size();
  sum.links = best.system->links.size();
  sum.factorEntries = best.newton->factorEntries();
  sum.verdict = Verdict::balanced;
  for (const Unknown& k : unknowns) out.found.push_back({k.element, k.field->key, k.value});
  for (const Local& l : local_) {
    out.found.push_back({l.unknown.element, l.unknown.field->key, l.unknown.value});
    if (network_.at(l.unknown.element).part->ends == Ends::self) {
      const double in = l.unknown.field->key == "inflow" ? l.unknown.value : -l.unknown.value;
      sum.shares.push_back({l.unknown.element, in});
      (in > 0 ? sum.inflow_m3s : sum.outflow_m3s) += std::abs(in);
    }
  }
  std::sort(out.found.begin(), out.found.end(), [](const FoundField& a, const FoundField& b) { return a.element < b.element; });
}

void Released::run(Solution& out) {
  Summary& sum = out.summary;
  const auto refuse = [&](std::vector<Problem> problems) {
    sum.verdict = Verdict::cannotYet;
    sum.problems = std::move(problems);
  };
  // Structure first, with every unknown at its start: what was found last, or the value kept.
  std::vector<Unknown> unknowns = wanted_.unknowns;
  warm_ = options_.startFrom && options_.startFrom->summary.usable();
  if (warm_)
    for (Unknown& k : unknowns) k.value = options_.startFrom->foundFor(k.element, k.field->key).value_or(k.value);
  Trial best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  out.widestBore_m = best.solution.widestBore_m;
  makeRoom(network_, *best.system, out);
  if (!best.problems.empty()) return refuse(best.problems);
  if (auto problems = undecided(network_, *best.system, wanted_); !problems.empty()) return refuse(std::move(problems));
  const bool met = find(best, unknowns);
  sum.iterations = iterations_;
  sum.warm = warm_;
  out.steps = steps_;
  if (options_.stop.stop_requested()) {
    sum.verdict = Verdict::stopped;
    return;
  }
  if (!met && !singular_.empty()) return refuse(singular_);
  if (!best.good) {
    if (!best.problems.empty()) return refuse(best.problems);
    if (!best.found.consistent && !best.found.fighting.empty() && best.system) {
      sum.verdict = Verdict::noStates;
      sum.problems.push_back(contradiction(best.found, network_, *best.system));
    } else {
      sum.verdict = Verdict::notConverged;
    }
    return;
  }
  std::vector<Problem> problems = beyond(best, unknowns, met);
  if (problems.empty()) settleLocal(best, problems);
  if (!problems.empty()) return refuse(std::move(problems));
  if (unknowns.size() == 1)
    if (const auto other = another(best, unknowns[0])) sum.notes.push_back(alsoMetBy(unknowns[0], *other));
  hand(best, unknowns, out);
}

}  // namespace conduit

#include "solve/released.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include "fields/keys.h"
#include "solve/determinacy.h"
#include "solve/probe.h"
#include "solve/read_out.h"
#include "solve/search_place.h"

namespace conduit {
Values valuesWith(const Element& e, const Stock* stock, const Unknown& k, double value) {
  Values scratch;
  Values all = valuesOf(e, stock, scratch);
  all.set(k.field->key, Given{value, Basis::direct, ""});
  return all;
}

Released::Released(const Network& network, const Setting& setting, Wanted wanted, const SolveOptions& options)
    : network_(network), setting_(setting), options_(options), wanted_(std::move(wanted)) {
  local_ = takeLocal(network, setting, wanted_, instead_);
  for (const auto& [id, flow] : options.passes) instead_.flows[id] = flow;
  // A start that the law of its element does not know (a plate wider than its pipe) makes way for the nearest
  // that it does.
  const std::vector<double> widest =
      wanted_.empty() && local_.empty() ? std::vector<double>() : widestBores(network, setting);
  const auto legal = [&](Unknown& k) {
    const Element& e = network.at(k.element);
    const auto places = endPlaces(network, e, setting, widest);
    const auto known = [&](double value) {
      return !e.part->prepare(valuesWith(e, setting.stock, k, value), setting, places).problem;
    };
    if (known(k.start)) return;
    for (double step = 0.05 * unit(*k.field); step < 20 * unit(*k.field); step *= 1.3)
      for (const double side : {-step, step})
        if (const double value = std::clamp(fromSearch(*k.field, toSearch(*k.field, k.start) + side),
                                            k.field->least, k.field->most);
            known(value)) {
          k.start = k.value = value;
          return;
        }
  };
  for (Unknown& k : wanted_.unknowns) legal(k);
  for (Local& l : local_) legal(l.unknown);
}

double Released::Trial::worst() const {
  double most = 0.0;
  for (const double m : miss) most = std::max(most, std::isfinite(m) ? std::abs(m) : 1e30);
  return most;
}

double Released::read(const Goal& goal, const Solution& solution, const Network& network) const {
  return Probe(network, solution, goal.element).of(*goal.outcome);
}

// Balances the network with every unknown at its value. `near` is an earlier trial to begin from.
Released::Trial Released::attempt(const std::vector<Unknown>& unknowns, const Trial* near,
                                  const GivenInstead& instead, const std::vector<Goal>& goals,
                                  const Solution* from) {
  ++trials_;
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
  if (from) startFrom(*from, s, t.x);
  else if (warm_ && !near) startFrom(*options_.startFrom, s, t.x);
  if (near && near->good && near->x.flow_m3s.size() == s.links.size() &&
      near->system->freeCount == s.freeCount) {
    t.x.flow_m3s = near->x.flow_m3s;
    t.x.state = near->x.state;
    std::copy(near->x.head_m.begin(), near->x.head_m.begin() + s.freeCount, t.x.head_m.begin());
    t.x.guessed = false;
  }
  t.found = settleWithTees(*t.newton, s, t.x, options_.stop, setting_.medium.gravity_ms2);
  iterations_ += t.newton->iterations();
  work_ += 300.0 * (t.newton->iterations() + 10) * static_cast<double>(s.links.size());
  if (t.found.end != Newton::End::converged || !t.found.consistent || !t.found.fighting.empty()) return t;
  readOut(*t.network, s, t.x, t.newton->hanging(), t.solution);
  t.good = true;
  for (const Goal& g : goals)
    t.miss.push_back((read(g, t.solution, *t.network) - g.target) / scaleOf(*g.outcome, g.target));
  return t;
}

// The answer, with what was found.
void Released::writeResult(Trial& best, const std::vector<Unknown>& unknowns, Solution& out) {
  const Residuals r = best.newton->residuals();
  Summary kept = std::move(out.summary);
  out = std::move(best.solution);
  out.steps = std::move(steps_);
  const Summary filledIn = std::move(out.summary);
  Summary& sum = out.summary = std::move(kept);
  sum.inflow_m3s = filledIn.inflow_m3s, sum.outflow_m3s = filledIn.outflow_m3s, sum.shares = filledIn.shares;
  sum.states = filledIn.states, sum.shut = filledIn.shut, sum.acting = filledIn.acting,
  sum.undetermined = filledIn.undetermined;
  sum.flips = best.found.flips;
  sum.overChoked = best.found.overChoked;
  sum.headResidual_m = r.head_m, sum.massResidual_m3s = r.mass_m3s, sum.massResidualShare = r.massShare,
  sum.headTolerance_m = r.headTolerance_m;
  sum.unknowns = static_cast<std::size_t>(best.system->freeCount) + unknowns.size();
  sum.links = best.system->links.size();
  sum.factorEntries = best.newton->factorEntries();
  sum.verdict = Verdict::balanced;
  for (const Unknown& k : unknowns) out.found.push_back({k.element, k.field->key, k.value});
  for (const Local& l : local_) {
    out.found.push_back({l.unknown.element, l.unknown.field->key, l.unknown.value});
    // The balance was made with the value from which the search set out.
    if (!confirmed_ && network_.at(l.unknown.element).part->ends == Ends::self)
      sum.setShare(l.unknown.element, netInflow(l));
  }
  std::sort(out.found.begin(), out.found.end(),
            [](const FoundField& a, const FoundField& b) { return a.element < b.element; });
  checkBoundary(out);
}

// What a point with a found outflow or inflow gives the network, on the whole.
double Released::netInflow(const Local& l) const {
  const bool in = l.unknown.field->key == key::inflow;
  const Given* other = network_.at(l.unknown.element).given(in ? key::outflow : key::inflow);
  const double beside = other ? resolve(*other, Measure::volumeFlow, setting_.medium) : 0.0;
  return in ? l.unknown.value - beside : beside - l.unknown.value;
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
    for (Unknown& k : unknowns)
      k.value = options_.startFrom->foundFor(k.element, k.field->key).value_or(k.value);
  Trial best;
  Way way = findFree(best, unknowns);
  if (best.system) {
    out.widestBore_m = best.solution.widestBore_m;
    makeRoom(network_, *best.system, out);
  }
  if (!best.problems.empty()) return refuse(best.problems);
  bool met = way == Way::decided;
  if (way == Way::elsewhere && !options_.stop.stop_requested()) {
    met = find(best, unknowns);
    if (best.system) {
      out.widestBore_m = best.solution.widestBore_m;
      makeRoom(network_, *best.system, out);
    }
  }
  sum.iterations = iterations_;
  sum.warm = warm_;
  out.steps = steps_;
  if (options_.stop.stop_requested()) {
    sum.verdict = Verdict::stopped;
    return;
  }
  if (!best.good) {
    if (!best.problems.empty()) return refuse(best.problems);
    if (best.found.named() && best.system) {
      sum.verdict = Verdict::noStates;
      sum.problems.push_back(contradiction(best.found, network_, *best.system));
    } else {
      sum.verdict = Verdict::notConverged;
    }
    return;
  }
  if (way == Way::elsewhere) {
    if (!met && !kept_.empty()) return refuse(kept_);
    if (!met && !singular_.empty()) return refuse(singular_);
    std::vector<Problem> problems = beyond(best, unknowns, met);
    if (problems.empty() && !settleLocal(best, problems)) return refuse(std::move(problems));
    if (!problems.empty()) return refuse(std::move(problems));
  } else if (way == Way::refused) {
    return refuse(singular_);
  }
  if (auto lifts = liftsWithoutDrive(network_, *best.system, best.solution, options_.passes))
    return refuse({std::move(*lifts)});
  if (auto ring = shortCircuit(network_, *best.system, best.x.flow_m3s, flowing(best.x)))
    return refuse({std::move(*ring)});
  if (unknowns.size() == 1 && options_.notes)
    if (const auto other = another(best, unknowns[0])) sum.notes.push_back(alsoMetBy(unknowns[0], *other));
  for (Problem& note : couldRun(best.found, network_, *best.system, options_.units))
    sum.notes.push_back(std::move(note));
  writeResult(best, unknowns, out);
}

}  // namespace conduit

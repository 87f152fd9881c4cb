// Released fields found within one balance: each is set free in the network and what is wanted put in its
// place.
#include <algorithm>
#include <cmath>

#include "solve/determinacy.h"
#include "solve/index.h"
#include "solve/probe.h"
#include "solve/read_out.h"
#include "solve/released.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

constexpr double met = 1e-7;  // miss of a goal over its scale with which an answer stands

// An outcome that is wanted, as a relation between the flows and heads of its element.
class GoalRelation final : public Relation {
 public:
  GoalRelation(std::shared_ptr<const Network> network, std::shared_ptr<const Solution> blank, const System& s,
               const Goal& goal)
      : network_(std::move(network)),
        blank_(std::move(blank)),
        goal_(goal),
        probe_(*network_, *blank_, goal.element),
        scale_(scaleOf(*goal.outcome, goal.target)) {
    const Element& e = network_->at(goal.element);
    for (std::size_t i = 0; i < s.links.size(); ++i)
      if (s.links[i].of.element == goal.element)
        links_.push_back(
            {i, s.links[i].of.branch, s.links[i].from, s.links[i].to, s.links[i].law->startFlow_m3s()});
    for (const KnownBranch& k : s.known)
      if (k.of.element == goal.element)
        known_.push_back({k.of.branch, s.rawToNode[u(k.rawFrom)], s.rawToNode[u(k.rawTo)], k.flow_m3s});
    const int raw = e.part->ends == Ends::self                     ? s.pointRaw[goal.element]
                    : e.part->ends == Ends::one && !e.ends.empty() ? s.pointRaw[e.ends[0]]
                                                                   : -1;
    if (raw < 0) return;
    node_ = s.rawToNode[u(raw)];
    feeds_ = e.part->ends == Ends::one && s.prepared[goal.element].holdsHead_m.has_value();
    for (std::size_t i = 0; feeds_ && i < s.links.size(); ++i)
      if (const int sign = (s.links[i].rawFrom == raw) - (s.links[i].rawTo == raw); sign != 0)
        carries_.emplace_back(i, sign);
    outflow_ = feeds_ ? s.rawOutflow_m3s[u(raw)] : 0.0;
  }

  Terms at(const Iterate& x) const override {
    Terms terms;
    auto& branches = probe_.branches();
    for (const At& l : links_)
      branches[u(l.branch)] = {x.flow_m3s[l.link], x.head_m[u(l.from)], x.head_m[u(l.to)], BranchState::open};
    for (const Known& k : known_) {
      branches[u(k.branch)].flow_m3s = k.flow_m3s;
      if (k.from >= 0) branches[u(k.branch)].headFrom_m = x.head_m[u(k.from)];
      if (k.to >= 0) branches[u(k.branch)].headTo_m = x.head_m[u(k.to)];
    }
    Reading& reading = probe_.reading();
    if (node_ >= 0) reading.head_m = x.head_m[u(node_)];
    if (feeds_) {
      double in = outflow_;
      for (const auto& [i, sign] : carries_) in += sign * x.flow_m3s[i];
      reading.inflow_m3s = in;
    }
    terms.miss = (probe_.of(*goal_.outcome) - goal_.target) / scale_ - spared_;
    const auto slope = [&](std::optional<double>& number, double h) {
      return probe_.slope(*goal_.outcome, number, h) / scale_;
    };
    for (const At& l : links_) {
      BranchReading& b = branches[u(l.branch)];
      if (const double by = slope(b.flow_m3s, 1e-5 * std::max(std::abs(*b.flow_m3s), 1e-3 * l.start_m3s));
          by != 0.0)
        terms.byFlow.emplace_back(l.link, by);
      if (const double by = slope(b.headFrom_m, 1e-4); by != 0.0) terms.byHead.emplace_back(l.from, by);
      if (const double by = slope(b.headTo_m, 1e-4); by != 0.0) terms.byHead.emplace_back(l.to, by);
    }
    for (const Known& k : known_) {
      BranchReading& b = branches[u(k.branch)];
      if (k.from >= 0)
        if (const double by = slope(b.headFrom_m, 1e-4); by != 0.0) terms.byHead.emplace_back(k.from, by);
      if (k.to >= 0)
        if (const double by = slope(b.headTo_m, 1e-4); by != 0.0) terms.byHead.emplace_back(k.to, by);
    }
    if (node_ >= 0)
      if (const double by = slope(reading.head_m, 1e-4); by != 0.0) terms.byHead.emplace_back(node_, by);
    if (feeds_)
      if (const double by = slope(reading.inflow_m3s, 1e-6); by != 0.0)
        for (const auto& [i, sign] : carries_) terms.byFlow.emplace_back(i, sign * by);
    return terms;
  }
  /// A miss that is let pass for now.
  void spare(double miss) override { spared_ = miss; }

 private:
  struct At {
    std::size_t link;
    int branch, from, to;
    double start_m3s;
  };
  struct Known {
    int branch, from, to;
    double flow_m3s;
  };
  std::shared_ptr<const Network> network_;
  std::shared_ptr<const Solution> blank_;
  Goal goal_;
  mutable Probe probe_;
  double scale_, spared_ = 0.0;
  std::vector<At> links_;
  std::vector<Known> known_;
  std::vector<std::pair<std::size_t, int>> carries_;
  int node_ = -1;
  bool feeds_ = false;
  double outflow_ = 0.0;
};

}  // namespace

// Whether an outcome that is wanted follows a released field of its own element by more than flows and heads.
bool Released::hangsOnField(const Goal& goal, const Trial& trial) const {
  for (const Unknown& k : wanted_.unknowns) {
    if (k.element != goal.element) continue;
    Probe probe(*trial.network, trial.solution, goal.element);
    const double plain = probe.of(*goal.outcome);
    for (const double step : {0.1, -0.1}) {
      const Values moved =
          valuesWith(trial.network->at(k.element), setting_.stock, k,
                     fromSearch(*k.field, toSearch(*k.field, k.value) + step * unit(*k.field)));
      probe.reading().values = &moved;
      if (const double other = probe.of(*goal.outcome);
          other != plain && !(std::isnan(other) && std::isnan(plain)))
        return true;
    }
  }
  return false;
}

// The balance with every unknown set free and every goal in the place of one. False when a field cannot be,
// or when there is no such balance; the trial then holds problems of the network as it stands, if there are
// any.
bool Released::solveFree(Trial& t, const std::vector<Unknown>& unknowns, const Solution* from, int steps) {
  std::vector<Unknown> all = unknowns;
  for (const Local& l : local_) all.push_back(l.unknown);
  t = Trial{};
  t.network = filled(network_, all);
  t.solution.setting = setting_;
  t.solution.widestBore_m = widestBores(*t.network, setting_);
  std::vector<Lever> levers;
  GivenInstead instead = instead_;
  for (const Unknown& k : unknowns) {
    const auto lever =
        leverOf(k, endPlaces(*t.network, t.network->at(k.element), setting_, t.solution.widestBore_m));
    if (!lever) return false;
    levers.push_back(*lever);
    if (lever->kind == Free::Kind::flow && !instead.free.insert(k.element).second)
      return false;  // two fields of one law
  }
  SetUp set = setUp(*t.network, setting_, t.solution.widestBore_m, instead);
  t.problems = std::move(set.problems);
  t.system = std::make_unique<System>(std::move(set.system));
  System& s = *t.system;
  makeRoom(*t.network, s, t.solution);
  if (t.problems.empty()) t.problems = determinacy(*t.network, s, options_.units);
  if (!t.problems.empty()) return false;
  std::vector<Free> free;
  auto network = std::make_shared<const Network>(*t.network);
  auto blank = std::make_shared<Solution>();
  blank->setting = setting_;
  blank->widestBore_m = t.solution.widestBore_m;
  makeRoom(*network, s, *blank);
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    const Id id = unknowns[k].element;
    const Element& e = t.network->at(id);
    Free f{levers[k].kind, 0, -1, nullptr};
    if (f.kind == Free::Kind::flow) {
      const auto link =
          std::find_if(s.links.begin(), s.links.end(), [&](const Link& l) { return l.of.element == id; });
      if (link == s.links.end()) return false;
      f.link = static_cast<std::size_t>(link - s.links.begin());
    } else {
      const int raw = e.part->ends == Ends::self                                     ? s.pointRaw[id]
                      : s.prepared[id].holdsHead_m || s.prepared[id].vessels.empty() ? s.pointRaw[e.ends[0]]
                                                                                     : s.vesselBegin[id];
      f.node = raw >= 0 ? s.rawToNode[u(raw)] : -1;
      if (f.node < 0 || s.isFree(f.node) != (f.kind == Free::Kind::inflow)) return false;
    }
    t.relations.push_back(std::make_unique<GoalRelation>(network, blank, s, wanted_.goals[k]));
    f.relation = t.relations.back().get();
    free.push_back(f);
  }
  t.newton = std::make_unique<Newton>(s);
  t.newton->setFree(free);
  if (options_.record) t.newton->keepRecord(&steps_);
  t.x = t.newton->coldStart();
  if (from) startFrom(*from, s, t.x);
  // In steps what is wanted moves from what is there to what it is to be.
  std::vector<double> there;
  for (const auto& r : t.relations) there.push_back(r->at(t.x).miss);
  for (int step = 1; step <= steps; ++step) {
    for (std::size_t g = 0; g < there.size(); ++g)
      t.relations[g]->spare(step == steps ? 0.0 : there[g] * (1 - static_cast<double>(step) / steps));
    t.found = settleWithTees(*t.newton, s, t.x, options_.stop, setting_.medium.gravity_ms2);
    if (t.found.end != Newton::End::converged || !t.found.consistent || !t.found.fighting.empty()) break;
  }
  iterations_ += t.newton->iterations();
  work_ += 300.0 * (t.newton->iterations() + 10) * static_cast<double>(s.links.size());
  if (t.found.end != Newton::End::converged || !t.found.consistent || !t.found.fighting.empty()) return false;
  for (std::size_t k = 0; k < unknowns.size(); ++k) {  // what flows in is known now
    if (free[k].kind != Free::Kind::inflow) continue;
    const Id id = unknowns[k].element;
    const int raw = s.pointRaw[id] >= 0 ? s.pointRaw[id] : s.pointRaw[t.network->at(id).ends[0]];
    s.rawOutflow_m3s[u(raw)] -= t.x.inflow_m3s[k];
    s.prepared[id].inflow_m3s += t.x.inflow_m3s[k];
  }
  readOut(*t.network, s, t.x, t.newton->hanging(), t.solution);
  t.good = true;
  for (std::size_t g = 0; g < wanted_.goals.size(); ++g) t.miss.push_back(t.relations[g]->at(t.x).miss);
  return true;
}

// Puts every value found into the network and balances that as any other, from the answer that is there. True
// when what is wanted comes of it.
bool Released::confirm(Trial& best, const std::vector<Unknown>& unknowns) {
  std::vector<Goal> goals = wanted_.goals;
  for (const Local& l : local_) goals.push_back(l.goal);
  GivenInstead plain;
  for (const auto& [id, flow] : options_.passes) plain.flows[id] = flow;
  Trial t = attempt(unknowns, nullptr, plain, goals, &best.solution);
  if (!t.good || t.worst() > met) return false;
  best = std::move(t);
  confirmed_ = true;
  return true;
}

// A level that is to be found counts every connection of its tank as wetted: the search begins above them
// all.
void Released::raiseLevels(std::vector<Unknown>& unknowns) const {
  for (Unknown& k : unknowns) {
    const Element& e = network_.at(k.element);
    if (e.part->ends != Ends::many) continue;
    const auto places = endPlaces(network_, e, setting_, {});
    const auto dry = [&](double value) {
      const Prepared p = e.part->prepare(valuesWith(e, setting_.stock, k, value), setting_, places);
      return std::count_if(p.branches.begin(), p.branches.end(),
                           [](const Branch& b) { return b.law && b.law->barsBackflow(); });
    };
    double highest = k.value;
    for (const EndPlace& place : places) highest = std::max(highest, place.height_m.value_or(highest));
    for (const double value : {highest, highest + 2, highest + 10, highest + 100})
      if (value <= k.field->most && dry(value) < dry(k.value)) k.value = value;
  }
}

// A set of fields and flows in which each field is what its element needs. Round by round where others feel a
// field. False when there is none from this start.
bool Released::settleFree(Trial& best, std::vector<Unknown>& unknowns, const Solution* from, int steps,
                          bool& felt) {
  for (int round = 0; round < 8; ++round) {
    const Solution last = round > 0 ? best.solution : Solution();
    if (!solveFree(best, unknowns, round > 0 ? &last : from, round > 0 ? 1 : steps)) return false;
    for (const Goal& g : wanted_.goals)
      if (hangsOnField(g, best)) return false;
    double change = 0.0;
    for (Unknown& k : unknowns) {
      const auto lever = leverOf(
          k, endPlaces(*best.network, best.network->at(k.element), setting_, best.solution.widestBore_m));
      const auto value = fieldFor(best, k);
      if (!value || !within(k, *value)) return false;
      const double now = std::clamp(*value, k.field->least, k.field->most);
      if (lever && lever->felt) {
        felt = true;
        change = std::max(change,
                          std::abs(toSearch(*k.field, now) - toSearch(*k.field, k.value)) / unit(*k.field));
      }
      k.value = now;
    }
    if (change < 1e-7) return true;  // what others feel of the fields is settled too
    if (local_.empty() && confirm(best, unknowns)) return true;
  }
  return false;
}

// Values all about the range, by a fixed rule, each field for itself.
std::vector<Unknown> Released::scattered(std::vector<Unknown> unknowns, int place) const {
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    const Field& f = *unknowns[k].field;
    const double part = std::fmod(place * std::sqrt(2.0 + static_cast<double>(k * k + 3 * k)), 1.0);
    unknowns[k].value =
        std::clamp(usesLogScale(f)               ? unknowns[k].start * std::pow(10.0, 3 * part - 1.5)
                   : f.measure == Measure::ratio ? part
                                                 : unknowns[k].start + (part - 0.5) * 20 * unit(f),
                   lowest(f), highest(f));
  }
  return unknowns;
}

Released::Way Released::findFree(Trial& best, std::vector<Unknown>& unknowns) {
  raiseLevels(unknowns);
  // The network with every field at its start says what stands in the way of any answer, and is where the
  // rest begins.
  best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  if (best.problems.empty())
    if (auto problems = undecided(network_, *best.system, wanted_, options_.offers); !problems.empty())
      best.problems = std::move(problems);
  if (!best.problems.empty()) return Way::refused;
  bool felt = false;
  if (unknowns.empty()) {
    if (!best.good) return Way::decided;  // there is no balance, whatever the fields
  } else {
    Trial plain = std::move(best);
    const std::vector<Unknown> start = unknowns;
    const Solution* from = plain.good ? &plain.solution : nullptr;
    bool found = false;
    for (const auto& [begin, steps] :
         {std::pair(from, 1), std::pair(from, 12), std::pair<const Solution*, int>(nullptr, 1)}) {
      if (found || (steps > 1 && !from)) continue;
      unknowns = start;
      felt = false;
      found = settleFree(best, unknowns, begin, steps, felt);
    }
    // From other places too, where the flows begin another way round.
    for (int place = 1; place <= 12 && !found && !spent() && !options_.stop.stop_requested(); ++place) {
      unknowns = scattered(start, place);
      const Trial other = attempt(unknowns, nullptr, instead_, {});
      felt = false;
      found = other.good && settleFree(best, unknowns, &other.solution, 1, felt);
    }
    if (!found) {
      unknowns = start;
      best = std::move(plain);
      return Way::elsewhere;
    }
  }
  if (confirmed_) return Way::decided;
  std::vector<Problem> problems;
  const bool locals = settleLocal(best, problems);
  bool shares = false;
  for (const Local& l : local_) shares = shares || sharesItsHead(best, l.unknown);
  bool stands = locals;
  for (const Unknown& k : unknowns) {
    shares = shares || sharesItsHead(best, k);
    const auto lever = leverOf(
        k, endPlaces(*best.network, best.network->at(k.element), setting_, best.solution.widestBore_m));
    if (!lever || lever->kind != Free::Kind::flow) continue;
    const auto state = stateWith(best, k);
    stands = stands && state;
    if (state) mark(best.solution, network_, k.element, *state);
  }
  // Of a single one another answer is looked for besides; pockets are filled by what stands with its value in
  // place.
  if (stands && !felt && !shares && (unknowns.size() != 1 || !options_.notes) &&
      best.solution.summary.undetermined == 0)
    return Way::decided;
  if (stands && confirm(best, unknowns)) return Way::decided;
  // A local pair that does not hold as it was taken may hold in other states: all are searched for, none
  // taken for granted.
  if (!local_.empty()) {
    kept_ = problems;
    for (const Local& l : local_) wanted_.unknowns.push_back(l.unknown), wanted_.goals.push_back(l.goal);
    for (Unknown& k : wanted_.unknowns) k.value = k.start;
    local_.clear();
    instead_ = {};
    for (const auto& [id, flow] : options_.passes) instead_.flows[id] = flow;
    for (const Goal& g : wanted_.goals) instead_.whole.insert(g.element);
    for (const Unknown& k : wanted_.unknowns) instead_.whole.insert(k.element);
    unknowns = wanted_.unknowns;
    best = attempt(unknowns, nullptr, instead_, wanted_.goals);
    return best.problems.empty() ? Way::elsewhere : Way::refused;
  }
  unknowns = wanted_.unknowns;
  best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  return best.problems.empty() ? Way::elsewhere : Way::refused;
}

}  // namespace conduit

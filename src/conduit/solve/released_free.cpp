// Released fields found within one balance: each is set free in the network and what is wanted put in its place.
#include <algorithm>
#include <cmath>

#include "solve/determinacy.h"
#include "solve/probe.h"
#include "solve/read_out.h"
#include "solve/released.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }
constexpr double met = 1e-7;  // miss of a goal over its scale with which an answer stands

// An outcome that is wanted, as a relation between the flows and heads of its element.
class GoalRelation final : public Relation {
 public:
  GoalRelation(std::shared_ptr<const Network> network, std::shared_ptr<const Solution> blank, const System& s, const Goal& goal)
      : network_(std::move(network)), blank_(std::move(blank)), goal_(goal), probe_(*network_, *blank_, goal.element), scale_(scaleOf(*goal.outcome, goal.target)) {
    const Element& e = network_->at(goal.element);
    for (std::size_t i = 0; i < s.links.size(); ++i)
      if (s.links[i].of.element == goal.element) links_.push_back({i, s.links[i].of.branch, s.links[i].from, s.links[i].to, s.links[i].law->startFlow_m3s()});
    for (const KnownBranch& k : s.known)
      if (k.of.element == goal.element) known_.push_back({k.of.branch, s.rawToNode[u(k.rawFrom)], s.rawToNode[u(k.rawTo)], k.flow_m3s});
    const int raw = e.part->ends == Ends::self ? s.pointRaw[goal.element] : e.part->ends == Ends::one && !e.ends.empty() ? s.pointRaw[e.ends[0]] : -1;
    if (raw < 0) return;
    node_ = s.rawToNode[u(raw)];
    feeds_ = e.part->ends == Ends::one && s.prepared[goal.element].holdsHead_m.has_value();
    for (std::size_t i = 0; feeds_ && i < s.links.size(); ++i)
      if (const int sign = (s.links[i].rawFrom == raw) - (s.links[i].rawTo == raw); sign != 0) carries_.emplace_back(i, sign);
    outflow_ = feeds_ ? s.rawOutflow_m3s[u(raw)] : 0.0;
  }

  Terms at(const Iterate& x) const override {
    Terms terms;
    auto& branches = probe_.branches();
    for (const At& l : links_) branches[u(l.branch)] = {x.flow_m3s[l.link], x.head_m[u(l.from)], x.head_m[u(l.to)], BranchState::open};
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
    const auto slope = [&](std::optional<double>& number, double h) { return probe_.slope(*goal_.outcome, number, h) / scale_; };
    for (const At& l : links_) {
      BranchReading& b = branches[u(l.branch)];
      if (const double by = slope(b.flow_m3s, 1e-5 * std::max(std::abs(*b.flow_m3s), 1e-3 * l.start_m3s)); by != 0.0) terms.byFlow.emplace_back(l.link, by);
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

// A flow and heads of a branch, with the head that its device would hold somewhere.
struct Seen {
  double flow_m3s, from_m, to_m;
  double drop() const { return from_m - to_m; }
};

bool within(const Unknown& k, double value) {
  const double slack = 1e-7 * std::max(std::abs(value), unit(*k.field) * 1e-3);
  return value >= k.field->least - slack && value <= k.field->most + slack;
}

// A place where a function of the search place changes its sign, looked for all over the range (a law may know only a part of
// it: outside it gives no number), closed in by the secant and by halves; one within the legal range before one beyond it.
template <class F>
std::optional<double> rootOver(const Field& f, const F& miss) {
  constexpr int places = 96;
  struct Place {
    double at, miss;
  };
  std::vector<double> at;
  const double low = toSearch(f, lowest(f)), high = toSearch(f, highest(f));
  for (int k = 0; k <= places; ++k) at.push_back(low + (high - low) * k / places);
  at.push_back(toSearch(f, std::max(f.least, lowest(f))));
  at.push_back(toSearch(f, f.most));
  std::sort(at.begin(), at.end());
  std::optional<Place> last;
  std::optional<double> beyond;
  for (const double here : at) {
    const double m = miss(fromSearch(f, here));
    if (!std::isfinite(m)) {
      last.reset();
      continue;
    }
    if (m == 0.0) return fromSearch(f, here);
    if (last && (last->miss < 0) != (m < 0)) {
      Place a = *last, b{here, m};
      for (int step = 0; step < 200 && b.at - a.at > 1e-15 * std::max(std::abs(a.at), std::abs(b.at)); ++step) {
        double middle = (a.at + b.at) / 2;
        if (step % 3 != 2 && std::abs(b.miss - a.miss) > 0 && std::abs(a.miss) < 1e29 && std::abs(b.miss) < 1e29)
          middle = std::clamp(a.at - a.miss * (b.at - a.at) / (b.miss - a.miss), a.at + 1e-3 * (b.at - a.at), b.at - 1e-3 * (b.at - a.at));
        const double by = miss(fromSearch(f, middle));
        if (!std::isfinite(by)) break;
        if (by == 0.0) {
          a = b = {middle, by};
          break;
        }
        ((by < 0) == (a.miss < 0) ? a : b) = {middle, by};
      }
      const double root = fromSearch(f, (a.at + b.at) / 2), slack = 1e-9 * (f.most - f.least);
      if (root >= f.least - slack && root <= f.most + slack) return std::clamp(root, f.least, f.most);
      if (!beyond) beyond = root;
    }
    last = Place{here, m};
  }
  return beyond;
}

}  // namespace

// What a field moves, seen by preparing its element at two values.
std::optional<Released::Lever> Released::leverOf(const Unknown& k, const std::vector<EndPlace>& places) const {
  const Element& e = network_.at(k.element);
  const Field& f = *k.field;
  const double at = toSearch(f, k.value), step = at + 0.01 * unit(f) <= toSearch(f, f.most) ? 0.01 * unit(f) : -0.01 * unit(f);
  const Prepared a = e.part->prepare(valuesWith(e, setting_.stock, k, k.value), setting_, places),
                 b = e.part->prepare(valuesWith(e, setting_.stock, k, fromSearch(f, at + step)), setting_, places);
  if (!a.lacks.empty() || !b.lacks.empty() || a.problem || b.problem || a.branches.size() != b.branches.size() || a.vessels.size() != b.vessels.size()) return std::nullopt;
  if (a.holdsHead_m && b.holdsHead_m && *a.holdsHead_m != *b.holdsHead_m) return Lever{Free::Kind::head, false};
  if (a.vessels.size() == 1 && a.vessels[0].head_m && b.vessels[0].head_m && *a.vessels[0].head_m != *b.vessels[0].head_m)
    return Lever{Free::Kind::head, e.part->ends == Ends::many};
  if (a.inflow_m3s != b.inflow_m3s) return Lever{Free::Kind::inflow, false};
  if (a.branches.size() == 1 && a.vessels.size() < 2 && a.branches[0].law && !a.branches[0].shut && !a.branches[0].givenFlow_m3s)
    return Lever{Free::Kind::flow, f.measure == Measure::bore && e.part->geometry};
  return std::nullopt;
}

// Whether an outcome that is wanted follows a released field of its own element by more than flows and heads.
bool Released::hangsOnField(const Goal& goal, const Trial& trial) const {
  for (const Unknown& k : wanted_.unknowns) {
    if (k.element != goal.element) continue;
    Probe probe(*trial.network, trial.solution, goal.element);
    const double plain = probe.of(*goal.outcome);
    for (const double step : {0.1, -0.1}) {
      const Values moved = valuesWith(trial.network->at(k.element), setting_.stock, k, fromSearch(*k.field, toSearch(*k.field, k.value) + step * unit(*k.field)));
      probe.reading().values = &moved;
      if (const double other = probe.of(*goal.outcome); other != plain && !(std::isnan(other) && std::isnan(plain))) return true;
    }
  }
  return false;
}

// The balance with every unknown set free and every goal in the place of one. False when a field cannot be, or when there is
// no such balance; the trial then holds problems of the network as it stands, if there are any.
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
    const auto lever = leverOf(k, endPlaces(*t.network, t.network->at(k.element), setting_, t.solution.widestBore_m));
    if (!lever) return false;
    levers.push_back(*lever);
    if (lever->kind == Free::Kind::flow && !instead.free.insert(k.element).second) return false;  // two fields of one law
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
      const auto link = std::find_if(s.links.begin(), s.links.end(), [&](const Link& l) { return l.of.element == id; });
      if (link == s.links.end()) return false;
      f.link = static_cast<std::size_t>(link - s.links.begin());
    } else {
      const int raw = e.part->ends == Ends::self ? s.pointRaw[id] : s.prepared[id].holdsHead_m || s.prepared[id].vessels.empty() ? s.pointRaw[e.ends[0]] : s.vesselBegin[id];
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
    for (std::size_t g = 0; g < there.size(); ++g) t.relations[g]->spare(step == steps ? 0.0 : there[g] * (1 - static_cast<double>(step) / steps));
    t.found = settleWithTees(*t.newton, s, t.x, options_.stop, setting_.medium.gravity_ms2);
    if (t.found.end != Newton::End::converged || !t.found.consistent || !t.found.fighting.empty()) break;
  }
  iterations_ += t.newton->iterations();
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

// The value of a field with which its element does what it does in an answer. Empty when none does, beyond the legal range
// too.
std::optional<double> Released::fieldFor(const Trial& t, const Unknown& k) const {
  const Element& e = t.network->at(k.element);
  const Field& f = *k.field;
  const System& s = *t.system;
  const auto places = endPlaces(*t.network, e, setting_, t.solution.widestBore_m);
  const auto prepared = [&](double value) { return e.part->prepare(valuesWith(e, setting_.stock, k, value), setting_, places); };
  const auto lever = leverOf(k, places);
  if (!lever) return std::nullopt;
  if (lever->kind == Free::Kind::head) {
    const int raw = s.prepared[k.element].holdsHead_m ? s.pointRaw[e.ends[0]] : s.vesselBegin[k.element];
    const double head = t.x.head_m[u(s.rawToNode[u(raw)])];
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      const auto its = p.holdsHead_m ? p.holdsHead_m : p.vessels.empty() ? std::nullopt : p.vessels[0].head_m;
      return its ? *its - head : NAN;
    });
  }
  if (lever->kind == Free::Kind::inflow) return rootOver(f, [&](double value) { return prepared(value).inflow_m3s - s.prepared[k.element].inflow_m3s; });
  const BranchReading b = t.solution.branch(k.element, 0);
  if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) return std::nullopt;
  const Seen seen{*b.flow_m3s, *b.headFrom_m, *b.headTo_m};
  // By what it holds if the field says that, else by the most it lets pass if the field says that, else by its loss.
  const Prepared one = prepared(k.value), other = prepared(fromSearch(f, toSearch(f, k.value) + (k.value < f.most ? 0.01 : -0.01) * unit(f)));
  const Law *first = one.branches[0].law.get(), *second = other.branches.empty() ? nullptr : other.branches[0].law.get();
  if (!first || !second) return std::nullopt;
  const auto hold = first->hold(), moved = second->hold();
  if (hold && moved && hold->head_m != moved->head_m) {
    const auto held = heldBy(t, one.branches[0], *hold, seen.from_m, seen.to_m);
    if (!held) return std::nullopt;
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      const auto its = p.branches.empty() || !p.branches[0].law ? std::nullopt : p.branches[0].law->hold();
      return its ? its->head_m - *held : NAN;
    });
  }
  if (std::isfinite(first->flowMost_m3s()) && first->flowMost_m3s() != second->flowMost_m3s())
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      return p.branches.empty() || !p.branches[0].law ? NAN : p.branches[0].law->flowMost_m3s() - seen.flow_m3s;
    });
  return rootOver(f, [&](double value) -> double {
    const Prepared p = prepared(value);
    if (p.branches.size() != 1) return NAN;
    if (p.branches[0].shut) return seen.flow_m3s > 0 ? 1e30 : seen.flow_m3s < 0 ? -1e30 : 0.0;
    if (!p.branches[0].law) return NAN;
    const Law& law = *p.branches[0].law;
    double memory = 0;
    const double sign = seen.flow_m3s < 0 ? -1.0 : 1.0;
    double miss = sign * (law.at(seen.flow_m3s, memory).drop_m - seen.drop());
    if (const auto choke = law.choke()) {  // or by the flow at which it chokes, whichever asks for more
      const Choked most = choked(*choke, seen.flow_m3s, seen.from_m, seen.to_m);
      miss = std::max(miss, (std::abs(seen.flow_m3s) - std::abs(most.flow_m3s)) / std::abs(most.slope_m2s));
    }
    return sign * miss;
  });
}

// The head that a branch's device would hold to hold what it sees: its law's own number, without the height of a point
// elsewhere that the set-up adds.
std::optional<double> Released::heldBy(const Trial& t, const Branch& branch, const Hold& hold, double from_m, double to_m) const {
  double seen = hold.before ? from_m : to_m, less = 0.0;
  for (const auto& [name, over] : {std::pair(&branch.holdsAt, false), std::pair(&branch.over, true)}) {
    if (name->empty()) continue;
    const Id point = network_.byName(*name);
    const auto head = point == noId ? std::nullopt : t.solution.head(point);
    if (!head) return std::nullopt;
    if (over) less += *head;
    else seen = *head;
  }
  if (!branch.holdsAt.empty() && branch.over.empty())
    if (const Given* z = network_.at(network_.byName(branch.holdsAt)).values.get<Given>("height")) less += resolve(*z, Measure::height, setting_.medium);
  return seen - less;
}

// The state in which a device with its found value does what the answer says, if there is one: its law, what it holds, what
// it lets pass and which way all as they must be.
std::optional<BranchState> Released::stateWith(const Trial& t, const Unknown& k) const {
  const Element& e = t.network->at(k.element);
  const Prepared p = e.part->prepare(valuesWith(e, setting_.stock, k, k.value), setting_, endPlaces(*t.network, e, setting_, t.solution.widestBore_m));
  if (!p.lacks.empty() || p.problem || p.branches.size() != 1) return std::nullopt;
  const BranchReading b = t.solution.branch(k.element, 0);
  if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) return std::nullopt;
  const double q = *b.flow_m3s, drop = *b.headFrom_m - *b.headTo_m;
  if (p.branches[0].shut) return q == 0.0 ? std::optional(BranchState::shut) : std::nullopt;
  const Law& law = *p.branches[0].law;
  constexpr double slack_m = 1e-5;
  double memory = 0;
  const double flowSlack = 1e-8 * law.startFlow_m3s(), loss = law.at(q, memory).drop_m, atRest = law.at(0.0, memory).drop_m;
  const bool fits = std::abs(drop - loss) <= 2e-6 + 1e-9 * (std::abs(*b.headFrom_m) + std::abs(*b.headTo_m)), rests = std::abs(q) <= flowSlack;
  if (law.barsBackflow() && q < -flowSlack) return std::nullopt;
  const auto hold = law.hold();
  const auto seen = hold ? heldBy(t, p.branches[0], *hold, *b.headFrom_m, *b.headTo_m) : std::nullopt;
  if (hold && !seen) return std::nullopt;
  const double excess = hold ? (hold->before ? hold->head_m - *seen : *seen - hold->head_m) : -1.0;
  if (hold && std::abs(excess) <= slack_m && drop >= loss - slack_m) return hold->before && rests ? BranchState::shut : fits ? BranchState::open : BranchState::acting;
  if (hold && excess > 0) return rests ? std::optional(BranchState::shut) : std::nullopt;
  if (const double most = law.flowMost_m3s(); std::isfinite(most)) {
    if (std::abs(q - most) <= 1e-9 * most + 1e-12 && drop >= loss - slack_m) return BranchState::acting;
    if (q > most) return std::nullopt;
  }
  if (const auto choke = law.choke()) {
    const double upstream = q >= 0 ? *b.headFrom_m - choke->baseFrom_m : *b.headTo_m - choke->baseTo_m;
    const double most = std::abs(choked(*choke, q, *b.headFrom_m, *b.headTo_m).flow_m3s), sign = q < 0 ? -1.0 : 1.0;
    if (upstream > 0 && std::abs(std::abs(q) - most) <= 1e-7 * most && sign * drop >= sign * loss - slack_m) return BranchState::acting;
    if (upstream > 0 && std::abs(q) > most * (1 + 1e-9)) return std::nullopt;
  }
  if (fits) return BranchState::open;
  return law.barsBackflow() && rests && drop <= atRest + slack_m ? std::optional(BranchState::shut) : std::nullopt;
}

// Whether another device holds the head that a found one is to hold: who of them acts is then for the network to say.
bool Released::sharesItsHead(const Trial& t, const Unknown& k) const {
  const Prepared& p = t.system->prepared[k.element];
  if (p.branches.size() != 1 || !p.branches[0].law || !p.branches[0].law->hold()) return false;
  const Hold hold = *p.branches[0].law->hold();
  const Branch& branch = p.branches[0];
  const Element& e = t.network->at(k.element);
  const Id point = branch.holdsAt.empty() ? e.ends[hold.before ? 0 : 1] : network_.byName(branch.holdsAt);
  const int raw = point == noId ? -1 : t.system->pointRaw[point];
  if (raw < 0) return false;
  const int node = t.system->rawToNode[u(raw)];
  return std::any_of(t.system->links.begin(), t.system->links.end(), [&](const Link& l) { return l.holds && l.held == node; });
}

// What is left over at a point whose head is given: it leaves there (or enters).
double Released::leftOver(const Trial& t, const Unknown& k) const {
  const System& s = *t.system;
  const int raw = s.pointRaw[k.element];
  double over = 0.0;
  for (std::size_t i = 0; i < s.links.size(); ++i) over += t.x.flow_m3s[i] * ((s.links[i].rawTo == raw) - (s.links[i].rawFrom == raw));
  for (const KnownBranch& b : s.known) over += b.flow_m3s * ((b.rawTo == raw) - (b.rawFrom == raw));
  for (const Join& j : s.joins) over += t.solution.branch(j.of.element, u(j.of.branch)).flow_m3s.value_or(0.0) * ((j.rawTo == raw) - (j.rawFrom == raw));
  const auto given = [&](std::string_view key) {
    const Given* g = network_.at(k.element).values.get<Given>(key);
    return g ? resolve(*g, Measure::volumeFlow, setting_.medium) : 0.0;
  };
  return k.field->key == "inflow" ? -(over - given("outflow")) : over + given("inflow");
}

namespace {

// The state of a device whose field was found, in the answer and in its summary.
void mark(Solution& solution, const Network& network, Id id, BranchState state) {
  auto& was = solution.branches[solution.branchBegin[id]].state;
  Summary& sum = solution.summary;
  const std::string& name = network.at(id).name;
  std::erase_if(sum.states, [&](const std::string& s) { return s == name + " acting" || s == name + " shut"; });
  if (was == BranchState::acting) sum.acting -= sum.acting > 0;
  if (was == BranchState::shut) sum.shut -= sum.shut > 0;
  was = state;
  if (state == BranchState::acting) ++sum.acting, sum.states.push_back(name + " acting");
  if (state == BranchState::shut) ++sum.shut, sum.states.push_back(name + " shut");
}

}  // namespace

// The fields of the local pairs, from the flows and heads that are now known. False with a problem when one is beyond its
// range, or does not hold with its device's own inequalities.
bool Released::settleLocal(Trial& t, std::vector<Problem>& problems) {
  for (Local& l : local_) {
    const Element& e = t.network->at(l.unknown.element);
    const Field& f = *l.unknown.field;
    if (e.part->ends == Ends::self) {
      l.unknown.value = leftOver(t, l.unknown);
      if (l.unknown.value < f.least || l.unknown.value > f.most) problems.push_back(outOfReach(l.unknown, l.unknown.value, l.goal, NAN, NAN));
      continue;
    }
    const BranchReading b = t.solution.branch(l.unknown.element, 0);
    if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) {
      problems.push_back({{e.name, std::string(f.key)}, "the heads on both sides of " + e.name + " are not determined, so its " + std::string(f.key) + " cannot be found", {}});
      continue;
    }
    const auto needed = fieldFor(t, l.unknown);
    if (needed && within(l.unknown, *needed)) {
      l.unknown.value = std::clamp(*needed, f.least, f.most);
      if (const auto state = stateWith(t, l.unknown)) {
        mark(t.solution, network_, l.unknown.element, *state);
        continue;
      }
    }
    // At the ends of its range, what would the outcome be?
    GivenInstead without = instead_;
    without.flows.erase(l.unknown.element);
    const auto at = [&](double value) {
      const Local kept = l;
      l.unknown.value = value;
      const Trial end = attempt(wanted_.unknowns, nullptr, without, {});
      l = kept;
      return end.good ? read(l.goal, end.solution, *end.network) : NAN;
    };
    problems.push_back(outOfReach(l.unknown, needed && !within(l.unknown, *needed) ? needed : std::nullopt, l.goal, at(std::max(f.least, lowest(f))), at(f.most)));
  }
  return problems.empty();
}

// Puts every value found into the network and balances that as any other, from the answer that is there. True when what is
// wanted comes of it.
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

// A level that is to be found counts every connection of its tank as wetted: the search begins above them all.
void Released::raiseLevels(std::vector<Unknown>& unknowns) const {
  for (Unknown& k : unknowns) {
    const Element& e = network_.at(k.element);
    if (e.part->ends != Ends::many) continue;
    const auto places = endPlaces(network_, e, setting_, {});
    const auto dry = [&](double value) {
      const Prepared p = e.part->prepare(valuesWith(e, setting_.stock, k, value), setting_, places);
      return std::count_if(p.branches.begin(), p.branches.end(), [](const Branch& b) { return b.law && b.law->barsBackflow(); });
    };
    double highest = k.value;
    for (const EndPlace& place : places) highest = std::max(highest, place.height_m.value_or(highest));
    for (const double value : {highest, highest + 2, highest + 10, highest + 100})
      if (value <= k.field->most && dry(value) < dry(k.value)) k.value = value;
  }
}

// A set of fields and flows in which each field is what its element needs. Round by round where others feel a field. False
// when there is none from this start.
bool Released::settleFree(Trial& best, std::vector<Unknown>& unknowns, const Solution* from, int steps, bool& felt) {
  for (int round = 0; round < 8; ++round) {
    const Solution last = round > 0 ? best.solution : Solution();
    if (!solveFree(best, unknowns, round > 0 ? &last : from, round > 0 ? 1 : steps)) return false;
    for (const Goal& g : wanted_.goals)
      if (hangsOnField(g, best)) return false;
    double change = 0.0;
    for (Unknown& k : unknowns) {
      const auto lever = leverOf(k, endPlaces(*best.network, best.network->at(k.element), setting_, best.solution.widestBore_m));
      const auto value = fieldFor(best, k);
      if (!value || !within(k, *value)) return false;
      const double now = std::clamp(*value, k.field->least, k.field->most);
      if (lever && lever->felt) {
        felt = true;
        change = std::max(change, std::abs(toSearch(*k.field, now) - toSearch(*k.field, k.value)) / unit(*k.field));
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
    unknowns[k].value = std::clamp(bent(f)                       ? unknowns[k].start * std::pow(10.0, 3 * part - 1.5)
                                   : f.measure == Measure::ratio ? part
                                                                 : unknowns[k].start + (part - 0.5) * 20 * unit(f),
                                   lowest(f), highest(f));
  }
  return unknowns;
}

Released::Way Released::findFree(Trial& best, std::vector<Unknown>& unknowns) {
  raiseLevels(unknowns);
  // The network with every field at its start says what stands in the way of any answer, and is where the rest begins.
  best = attempt(unknowns, nullptr, instead_, wanted_.goals);
  if (best.problems.empty())
    if (auto problems = undecided(network_, *best.system, wanted_); !problems.empty()) best.problems = std::move(problems);
  if (!best.problems.empty()) return Way::refused;
  bool felt = false;
  if (unknowns.empty()) {
    if (!best.good) return Way::decided;  // there is no balance, whatever the fields
  } else {
    Trial plain = std::move(best);
    const std::vector<Unknown> start = unknowns;
    const Solution* from = plain.good ? &plain.solution : nullptr;
    bool found = false;
    for (const auto& [begin, steps] : {std::pair(from, 1), std::pair(from, 12), std::pair<const Solution*, int>(nullptr, 1)}) {
      if (found || (steps > 1 && !from)) continue;
      unknowns = start;
      felt = false;
      found = settleFree(best, unknowns, begin, steps, felt);
    }
    // From other places too, where the flows begin another way round.
    for (int place = 1; place <= 12 && !found && !options_.stop.stop_requested(); ++place) {
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
    const auto lever = leverOf(k, endPlaces(*best.network, best.network->at(k.element), setting_, best.solution.widestBore_m));
    if (!lever || lever->kind != Free::Kind::flow) continue;
    const auto state = stateWith(best, k);
    stands = stands && state;
    if (state) mark(best.solution, network_, k.element, *state);
  }
  // Of a single one another answer is looked for besides; pockets are filled by what stands with its value in place.
  if (stands && !felt && !shares && unknowns.size() != 1 && best.solution.summary.undetermined == 0) return Way::decided;
  if (stands && confirm(best, unknowns)) return Way::decided;
  // A local pair that does not hold as it was taken may hold in other states: all are searched for, none taken for granted.
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

#include "sizing/judge.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "cases/case_edits.h"
#include "cases/year.h"
#include "fields/keys.h"
#include "limits/limits.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "parts/pipe/line.h"
#include "solve/shut_off.h"

namespace conduit {
namespace {

constexpr double year_s = 8760 * 3600.0;

}  // namespace

PumpPower powerOf(const SizingTask& task, const Element& pump, const Reading& reading) {
  if (const auto power = atTheWire(task.model.costs, *pump.part, reading))
    return {power->wire_w, power->shaft_w, false};
  if (reading.branches.empty()) return {};
  const BranchReading& b = reading.branches[0];
  if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) return {};
  // A pump that is yet to be chosen: what it gives the liquid, over the efficiency of the costs.
  const Medium& medium = reading.setting->medium;
  const double liquid_w =
                   medium.density_kgm3 * medium.gravity_ms2 * *b.flow_m3s * (*b.headTo_m - *b.headFrom_m),
               shaft_w = std::max(0.0, liquid_w) / task.prices.pumpEfficiency;
  return {shaft_w / task.prices.wireEfficiency, shaft_w, shaft_w > 0};
}

void weigh(std::span<const Check> checks, std::vector<LimitReading>& out) {
  out.clear();
  for (const Check& c : checks)
    if (c.severity <= Severity::broken)
      out.push_back(
          {static_cast<std::uint16_t>(static_cast<unsigned>(c.id) << 8 | c.at), c.beyond(), c.broken(), &c});
  std::sort(out.begin(), out.end(),
            [](const LimitReading& a, const LimitReading& b) { return a.key < b.key; });
}

bool SizingVerdict::betterThan(const SizingVerdict& o) const {
  if (balanced != o.balanced) return balanced;
  if ((violation <= 0) != (o.violation <= 0)) return violation <= 0;
  if (violation > 0 && violation != o.violation) return violation < o.violation;
  return objective < o.objective;
}

Judge::Judge(const SizingTask& task, std::size_t lanes, std::stop_token stop)
    : task_(task), spaces_(lanes), stop_(std::move(stop)) {
  std::vector<CaseId> run = task.cases;
  run.insert(run.end(), task.alsoRun.begin(), task.alsoRun.end());
  for (const CaseId id : run) {
    const bool counts = bases_.size() < task.cases.size();
    CaseBase g{id, networkOf(task.model, id), {}, hoursOf(task.model, id), counts};
    solveBase(g);
    bases_.push_back(std::move(g));
    // Taken, a proposal is the drawing's; a case keeps what it differs in.
    if (id == drawingCase) continue;
    const Overlay whole = task.model.cases.whole(id);
    for (const SizingRow& row : task.rows)
      for (const Id line : row.lines)
        for (const std::string_view key :
             {std::string_view(key::size), std::string_view(key::bore), pipe::laidKey})
          if (whole.at(line, key)) own_.insert({id, line});
  }
  // Those in which something is to be found take longest: last.
  const auto searched = [](const CaseBase& g) {
    bool any = false;
    g.network.each([&](Id, const Element& e) { any = any || !e.values.goals().empty(); });
    return any;
  };
  std::stable_partition(bases_.begin(), bases_.end(), [&](const CaseBase& g) { return !searched(g); });
  for (auto& spaces : spaces_) spaces = std::vector<Workspace>(bases_.size());
  double hours_s = 0.0;
  for (const CaseBase& g : bases_) hours_s += g.hours_s;
  if (hours_s > 0) stretch_ = std::max(1.0, year_s / hours_s);
}

// With the present sizes. Branches with a flow are judged as balancing leaves them: each passes its flow, and
// has the head for it; where they cannot all be given, as their valves are drawn.
void Judge::solveBase(CaseBase& g) const {
  std::map<Id, double> branches;
  const Medium medium = mediumOf(g.network, task_.stock.get());
  for (const BranchGoal& b : task_.model.of<SizingSetup>().branches) {
    const Element* valve = g.network.find(b.valve);
    if (!valve || !(b.flow.value > 0) || isShutByGivens(valve->values)) continue;
    const double flow = resolve(b.flow, Measure::volumeFlow, medium);
    branches[b.valve] = flow;
    if (valve->values.goals().empty()) g.passes[b.valve] = flow;
  }
  g.base = solve(g.network, task_.stock.get(), solving(g, true, nullptr));
  if (!g.passes.empty() && !g.base.summary.usable()) {
    g.passes.clear();
    g.base = solve(g.network, task_.stock.get(), solving(g, true, nullptr));
  }
  g.base.shutOff = shutOff(g.network, g.base, true);
  g.duties = CaseDuties(task_, g.id, g.counts, g.network, g.base, branches, g.passes);
}

SolveOptions Judge::solving(const CaseBase& g, bool notes, Workspace* space) const {
  SolveOptions options{.units = task_.units,
                       .stop = stop_,
                       .offers = 0,
                       .notes = notes,
                       .shutOff = notes,
                       .passes = g.passes,
                       .workspace = space};
  if (g.base.summary.usable()) options.startFrom = &g.base;
  return options;
}

Judge::Hours Judge::hoursAt(std::size_t k, double taken_m3s) const {
  const CaseBase& g = bases_[k];
  const double now_m3s = g.duties.taken_m3s();
  if (!task_.options.equalVolume || !g.duties.freeTakers() || !(now_m3s > 0)) return {g.hours_s, 0.0};
  const double factor = taken_m3s > 0 ? now_m3s / taken_m3s : stretch_;
  if (factor >= stretch_) return {g.hours_s * stretch_, 0.0};
  return {g.hours_s * factor, -g.hours_s * factor / taken_m3s};
}

std::vector<Duty> Judge::duties() const {
  std::vector<Duty> all;
  for (const CaseBase& g : bases_) all.insert(all.end(), g.duties.all().begin(), g.duties.all().end());
  return all;
}

Network Judge::with(CaseId id, const Network& base, const SizeChoice& choice) const {
  Draft draft(base);
  for (std::size_t r = 0; r < choice.size(); ++r) {
    const SizingRow& row = task_.rows[r];
    if (row.now && *row.now == choice[r]) continue;
    for (const Id line : row.lines)
      if (own_.empty() || !own_.contains({id, line})) giveSize(draft, line, *row.sizes[choice[r]]);
  }
  return std::move(draft).finish();
}

Network Judge::network(CaseId id, const SizeChoice& choice) const {
  return with(id, networkOf(task_.model, id), choice);
}

SolvedCase Judge::solved(std::size_t k, const SizeChoice& choice, std::size_t lane) {
  const CaseBase& g = bases_[k];
  SolvedCase c{g.id, g.counts, with(g.id, g.network, choice), {}, g.passes};
  c.answer = solve(c.network, task_.stock.get(), solving(g, false, &spaces_[lane][k]));
  c.answer.shutOff = g.base.shutOff;
  return c;
}

std::vector<double> Judge::greatestFlows(const SizeChoice& choice) const {
  std::vector<double> flows(choice.size(), 0.0);
  for (const CaseBase& g : bases_) {
    if (!g.counts) continue;
    const Solution answer =
        solve(with(g.id, g.network, choice), task_.stock.get(), solving(g, false, nullptr));
    if (!answer.summary.usable()) return {};
    for (std::size_t r = 0; r < choice.size(); ++r)
      for (const Id id : task_.rows[r].lines)
        flows[r] = std::max(flows[r], std::abs(answer.branch(id, 0).flow_m3s.value_or(0.0)));
  }
  return flows;
}

double Judge::costLaid(const SizeChoice& choice) const {
  double cost = 0.0;
  for (std::size_t r = 0; r < choice.size(); ++r) cost += task_.rows[r].laid[choice[r]];
  return cost;
}

CaseVerdict Judge::inCase(std::size_t k, const SizeChoice& choice, std::size_t lane, const Told& told) {
  CaseVerdict v;
  const CaseBase& g = bases_[k];
  const Network n = with(g.id, g.network, choice);
  Solution answer = solve(n, task_.stock.get(), solving(g, told.words, &spaces_[lane][k]));
  // No size changes the heads at rest or those of pumps.
  if (!told.words) answer.shutOff = g.base.shutOff;
  v.ran = answer.summary.usable();
  v.stopped = answer.summary.verdict == Verdict::stopped;
  if (!v.ran && !g.counts) {
    v.balanced = !v.stopped;
    return v;
  }
  if (!v.ran) {
    v.balanced = false, v.violation = 1000.0;
    v.worst = BrokenLimit{
        g.id, noId, CheckId::balance,
        answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what, 1000};
    return v;
  }
  std::vector<LimitReading> weighed;
  std::vector<Check> found;
  Checks checks = told.words ? Checks(found, task_.units) : Checks(found);
  double wire_w = 0.0;
  n.each([&](Id id, const Element& e) {
    if (e.part->lifts) {
      const PumpPower power = powerOf(task_, e, *ReadingOf(n, answer, id));
      wire_w += power.wire_w;
      v.shaft_w += power.shaft_w;
      v.efficiencyOfCosts = v.efficiencyOfCosts || power.efficiencyOfCosts;
    }
    if (!g.counts) return;
    found.clear();
    checksOf(n, answer, id, checks);
    if (g.duties.of(id)) g.duties.check(id, e, *ReadingOf(n, answer, id), checks);
    weigh(found, weighed);
    for (const LimitReading& w : weighed) {
      if (told.limits) told.limits->push_back({limitOf(k, id, w.key), w.by});
      if (!w.broken) continue;
      v.violation += w.by + 1e-9;
      if (v.worst && w.by <= v.worst->by) continue;
      v.worst = BrokenLimit{g.id, id, w.check->id, {}, w.by};
      if (told.words) v.worst->what = sentenceOf(e.name, *w.check, task_.units);
    }
  });
  const std::vector<Delivery> delivered = deliveriesOf(n, answer);
  v.taken_m3s = taken(delivered);
  if (told.deliveries)
    for (const Duty& duty : g.duties.all()) {
      const auto then = std::find_if(delivered.begin(), delivered.end(),
                                     [&](const Delivery& d) { return d.taker == duty.taker; });
      told.deliveries->push_back(
          {duty, then == delivered.end() ? std::nullopt : std::optional(then->flow_m3s)});
    }
  if (told.words && g.counts) v.notJudged = notJudged(n, answer);
  v.hours_s = hoursAt(k, v.taken_m3s).s;
  v.energy_j = wire_w * v.hours_s;
  return v;
}

std::optional<BrokenLimit> Judge::named(std::uint64_t which, const SizeChoice& choice, std::size_t lane) {
  const std::size_t k = which >> 48;
  const Id id = static_cast<Id>(which >> 16 & 0xffffffffu);
  if (k >= bases_.size()) return std::nullopt;
  const SolvedCase c = solved(k, choice, lane);
  const Element* e = c.network.find(id);
  if (!e || !c.answer.summary.usable()) return std::nullopt;
  std::vector<Check> found;
  Checks checks(found, task_.units);
  checksOf(c.network, c.answer, id, checks);
  bases_[k].duties.check(id, *e, *ReadingOf(c.network, c.answer, id), checks);
  std::vector<LimitReading> weighed;
  weigh(found, weighed);
  for (const LimitReading& w : weighed)
    if (limitOf(k, id, w.key) == which)
      return BrokenLimit{c.id, id, w.check->id,
                         w.broken ? sentenceOf(e->name, *w.check, task_.units) : std::string(), w.by};
  return std::nullopt;
}

double Judge::objectiveOf(double laid, double mass_kg, double energy_j, double shaft_w) const {
  if (task_.options.objective == Objective::laid) return laid;
  if (task_.options.objective == Objective::mass) return mass_kg;
  const Prices& p = task_.prices;
  const double pumps = p.pumpPerW ? shaft_w * (1 + p.standby) * *p.pumpPerW : 0.0;
  return (laid + pumps) * (1 + p.upkeep * p.upkeepWorth) + energy_j / 3.6e6 * p.tariff * p.energyWorth;
}

SizingVerdict Judge::evaluate(const SizeChoice& choice, std::size_t lane, const Told& told) {
  if (told.limits) told.limits->clear();
  if (told.deliveries) told.deliveries->clear();
  SizingVerdict v;
  v.balanced = true;
  v.laid = costLaid(choice);
  for (std::size_t r = 0; r < choice.size(); ++r)
    v.mass_kg += task_.rows[r].length_m * task_.rows[r].sizes[choice[r]]->mass_kgm.value_or(NAN);
  double drivers_w = 0.0;
  std::map<std::pair<CheckId, Id>, NotJudged> gaps;
  for (std::size_t k = 0; k < bases_.size(); ++k) {
    const CaseVerdict c = inCase(k, choice, lane, told);
    v.balanced = v.balanced && c.balanced;
    v.stopped = v.stopped || c.stopped;
    v.violation += c.violation, v.energy_j += c.energy_j;
    v.shaft_w.push_back(c.shaft_w), v.energyOf.push_back(c.energy_j);
    v.volume_m3 += c.taken_m3s * c.hours_s;
    v.hoursOf.push_back({bases_[k].id, c.hours_s});
    v.efficiencyOfCosts = v.efficiencyOfCosts || c.efficiencyOfCosts;
    if (!c.ran && !bases_[k].counts) v.withoutEnergy.push_back(bases_[k].id);
    if (c.worst && (!v.worst || c.worst->by > v.worst->by)) v.worst = c.worst;
    for (const NotJudged& gap : c.notJudged) gaps.insert({{gap.check, gap.element}, gap});
    drivers_w = std::max(drivers_w, c.shaft_w);
  }
  if (!gaps.empty()) {
    std::vector<NotJudged> all;
    for (const auto& [which, gap] : gaps) all.push_back(gap);
    v.notJudged = notJudgedSaid(task_.model.drawn, all);
  }
  if (!v.balanced && told.limits) told.limits->clear();
  if (!v.balanced && told.deliveries) told.deliveries->clear();
  if (told.deliveries)
    std::stable_sort(told.deliveries->begin(), told.deliveries->end(),
                     [](const DutyMet& a, const DutyMet& b) { return a.share() < b.share(); });
  const Prices& p = task_.prices;
  if (p.pumpPerW) v.pumps = drivers_w * (1 + p.standby) * *p.pumpPerW;
  v.upkeep = (v.laid + v.pumps) * p.upkeep * p.upkeepWorth;
  v.energyCost = v.energy_j / 3.6e6 * p.tariff * p.energyWorth;
  v.wholeLife = v.laid + v.pumps + v.upkeep + v.energyCost;
  v.plainSum =
      (v.laid + v.pumps) * (1 + p.upkeep * p.upkeepSum) + v.energy_j / 3.6e6 * p.tariff * p.energySum;
  v.objective = objectiveOf(v.laid, v.mass_kg, v.energy_j, drivers_w);
  return v;
}

}  // namespace conduit

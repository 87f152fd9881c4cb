#include "sizing/judge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "cases/case_edits.h"
#include "cases/year.h"
#include "limits/limits.h"
#include "network/setting.h"
#include "parts/pipe.h"
#include "parts/pump/machine.h"
#include "quantity/format.h"
#include "sizing/choices.h"

namespace conduit {
namespace {

Problem fault(std::string what, std::string name = {}) {
  return {{std::move(name), ""}, std::move(what), {}};
}

// A number for a limit's name. Two names of one element may meet in one; they then stand one after the other.
std::uint8_t keyOf(std::string_view label) {
  std::uint32_t h = 2166136261u;
  for (const char c : label) h = (h ^ static_cast<unsigned char>(c)) * 16777619u;
  return static_cast<std::uint8_t>((h >> 24) % 240);  // the last ones are left for those that met
}

// By how much a limit is exceeded, as a share of it (of a usual value, where it is next to nothing).
// Less than nothing where some is to spare.
double beyond(const Check& c) {
  if (c.spoken) return 1.0;
  const double usual = c.measure == Measure::gaugePressure || c.measure == Measure::absolutePressure ||
                               c.measure == Measure::pressureDrop
                           ? 1e5
                           : 1.0;
  double by = -1e9;
  if (c.least) by = (*c.least - c.value) / std::max(std::abs(*c.least), 0.1 * usual);
  if (c.most) by = std::max(by, (c.value - *c.most) / std::max(std::abs(*c.most), 0.1 * usual));
  return by;
}

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

void weigh(const SizingTask& task, Id id, std::span<const Check> checks, double flow_m3s,
           std::vector<LimitReading>& out) {
  out.clear();
  for (const Check& c : checks)
    if (c.severity <= Severity::broken) out.push_back({keyOf(c.label), beyond(c), c.broken(), &c, nullptr});
  // A branch that is to pass a flow passes it at least with its valve as it is drawn.
  for (const BranchGoal& b : task.model.sizing.branches) {
    if (b.valve != id || !(b.flow.value > 0)) continue;
    const double by = 1 - flow_m3s / b.flow.value;
    out.push_back({keyOf("Flow"), by, by > 1e-6, nullptr, &b});
  }
  if (out.size() < 2) return;
  std::stable_sort(out.begin(), out.end(),
                   [](const LimitReading& a, const LimitReading& b) { return a.key < b.key; });
  for (std::size_t i = 1; i < out.size(); ++i)
    if (out[i].key <= out[i - 1].key) out[i].key = static_cast<std::uint8_t>(out[i - 1].key + 1);
}

bool SizingVerdict::betterThan(const SizingVerdict& o) const {
  if (balanced != o.balanced) return balanced;
  if ((violation <= 0) != (o.violation <= 0)) return violation <= 0;
  if (violation > 0 && violation != o.violation) return violation < o.violation;
  return objective < o.objective;
}

const PipeSize& notLaid() {
  static const PipeSize none{.standard = "not",
                             .nominal = "laid",
                             .schedule = {},
                             .material = {},
                             .mass_kgm = 0.0,
                             .rating_pa = {},
                             .costPerMetre = 0.0,
                             .source = {}};
  return none;
}

void giveSize(Draft& draft, Id line, const PipeSize& size) { giveSize(draft.values(line), size); }
void giveSize(Values& v, const PipeSize& size) {
  if (&size == &notLaid()) {
    v.set(pipe::laidKey, false);
    return;
  }
  // Once said, it stays said: a sizing may then lay it not.
  if (v.find(pipe::laidKey)) v.set(pipe::laidKey, true);
  v.clear("bore");
  v.set("size", size.name());
}

double costOfMetre(const SizingSetup& setup, Id line, const PipeSize& size) {
  if (&size == &notLaid()) return 0.0;
  const LayingClass* c = setup.layingOf(line);
  return size.costPerMetre.value_or(0.0) + (c ? c->perMetre + c->byDiameter * size.outside_m : 0.0);
}

SizingOptions optionsOf(const SizingSetup& setup) {
  SizingOptions o{.ranges = setup.ranges,
                  .kept = setup.left,
                  .seed = static_cast<std::uint64_t>(sizingNumber(setup.about, sizing::seed)),
                  .trials = static_cast<std::size_t>(sizingNumber(setup.about, sizing::trials)),
                  .seconds = sizingNumber(setup.about, sizing::seconds)};
  const std::string* least = setup.about.get<std::string>(sizing::least);
  for (const Objective w : {Objective::wholeLife, Objective::laid, Objective::mass})
    if (least && *least == sizing::wanted[static_cast<std::size_t>(w)]) o.objective = w;
  for (const TiedLines& t : setup.tied) o.tied.push_back(t.lines);
  return o;
}

Result<SizingTask> sizingTask(const Model& model, const SizingOptions& options,
                              const std::shared_ptr<const Stock>& stock, const UnitSet& units) {
  SizingTask task{
      .model = model, .options = options, .prices = pricesOf(model.costs), .stock = stock, .units = units};
  for (const CaseId id : model.cases.ids())
    if (flagOf(*model.cases.find(id), cases::counts)) task.cases.push_back(id);
    else if (hoursOf(model, id) > 0) task.alsoRun.push_back(id);
  if (task.cases.empty()) return tl::unexpected(fault("no case is used for sizing"));
  const Network& n = model.drawn;
  const std::set<Id> kept(options.kept.begin(), options.kept.end());
  std::set<Id> done;
  const auto bySize = [](const PipeSize* a, const PipeSize* b) { return a->name() < b->name(); };
  std::set<const PipeSize*, decltype(bySize)> unpriced(bySize);
  const auto setting = settingOf(n, stock.get());
  if (!setting) return tl::unexpected(setting.error());
  for (const SizeRange& r : options.ranges) {
    if (r.service.empty() || setting->services.contains(r.service)) continue;
    const Id line = n.byName(r.service);
    if (line == noId || n.at(line).part->key != "pipe")
      return tl::unexpected(fault(fmt::format("sizes {}: no service or line {}", said(r), r.service)));
  }
  const auto sizesFor = [&](const Element& e) -> std::vector<const PipeSize*> {
    if (!options.ranges.empty()) return sizesOffered(*stock, options.ranges, e);
    const std::string* name = e.text("size");
    const PipeSize* size = name ? stock->pipe(*name) : nullptr;
    return size ? sizesIn(*stock, {size->standard, size->schedule, {}, {}, {}})
                : std::vector<const PipeSize*>{};
  };
  const auto add = [&](const std::vector<Id>& lines) {
    SizingRow row;
    for (const Id id : lines) {
      const Element* e = n.find(id);
      if (!e || e->part->key != "pipe" || kept.contains(id) || done.contains(id)) continue;
      done.insert(id);
      const std::string* section = e->text("section");
      if (e->values.released("bore") || e->values.released("size")) {
        task.left.push_back({id, "its bore is already solved for"});
        continue;
      }
      if (section && *section != "round") {
        task.left.push_back({id, "not round"});
        continue;
      }
      auto sizes = sizesFor(*e);
      std::erase_if(sizes, [&](const PipeSize* s) {
        const bool lacks = options.objective == Objective::mass ? !s->mass_kgm : !s->costPerMetre;
        if (lacks) unpriced.insert(s);
        return lacks;
      });
      if (sizes.empty()) {
        task.left.push_back({id, sizesFor(*e).empty() ? options.ranges.empty()
                                                            ? "no catalogue size, and no available sizes set"
                                                            : "none of the available sizes is for it"
                                 : options.objective == Objective::mass
                                     ? "its sizes have no mass in the catalogue"
                                     : "its sizes have no cost in the catalogue"});
        continue;
      }
      const bool* laid = e->values.get<bool>(pipe::laidKey);
      if (laid) sizes.insert(sizes.begin(), &notLaid());
      if (row.sizes.empty()) row.sizes = sizes;
      const Geometry g = e->part->geometry(e->values, *setting);
      row.lines.push_back(id);
      row.length_m += g.length_m.value_or(0.0);
      row.laid.resize(row.sizes.size(), 0.0);
      for (std::size_t s = 0; s < row.sizes.size(); ++s)
        row.laid[s] += g.length_m.value_or(0.0) * costOfMetre(model.sizing, id, *row.sizes[s]);
      const std::string* now = e->text("size");
      const PipeSize* size = laid && !*laid ? &notLaid() : now ? stock->pipe(*now) : nullptr;
      const auto at = std::find(row.sizes.begin(), row.sizes.end(), size);
      const std::optional<std::size_t> here =
          at == row.sizes.end() ? std::nullopt
                                : std::optional(static_cast<std::size_t>(at - row.sizes.begin()));
      if (row.lines.size() == 1) row.now = here;
      else if (row.now != here) row.now.reset();
    }
    if (!row.lines.empty()) task.rows.push_back(std::move(row));
  };
  for (const auto& tied : options.tied) add(tied);
  n.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe" && kept.contains(id)) task.left.push_back({id, "fixed"});
    else if (e.part->key == "pipe" && !done.contains(id)) add({id});
  });
  if (task.rows.empty())
    return tl::unexpected(
        fault(task.left.empty() ? "no line to size"
                                : fmt::format("no line can be sized: {}: {}",
                                              n.at(task.left.front().first).name, task.left.front().second)));
  for (const PipeSize* s : unpriced) task.leftOut.push_back(s->name());
  return task;
}

std::size_t trialsOf(const SizingTask& task) {
  return task.options.trials > 0 ? task.options.trials
                                 : std::min<std::size_t>(320, 60 + 12 * task.rows.size());
}

Judge::Judge(const SizingTask& task, std::size_t lanes, std::stop_token stop)
    : task_(task), spaces_(lanes), stop_(std::move(stop)) {
  std::vector<CaseId> run = task.cases;
  run.insert(run.end(), task.alsoRun.begin(), task.alsoRun.end());
  for (const CaseId id : run) {
    const bool counts = bases_.size() < task.cases.size();
    CaseBase g{id, networkOf(task.model, id), {}, hoursOf(task.model, id), counts};
    g.base = solve(g.network, task.stock.get(), {.units = task.units, .stop = stop_, .offers = 0});
    bases_.push_back(std::move(g));
    // Taken, a proposal is the drawing's; a case keeps what it differs in.
    if (id == drawingCase) continue;
    const Overlay whole = task.model.cases.whole(id);
    for (const SizingRow& row : task.rows)
      for (const Id line : row.lines)
        for (const std::string_view key : {std::string_view("size"), std::string_view("bore"), pipe::laidKey})
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
  SolvedCase c{g.id, g.hours_s, g.counts, with(g.id, g.network, choice), {}};
  SolveOptions options{
      .units = task_.units, .stop = stop_, .offers = 0, .notes = false, .workspace = &spaces_[lane][k]};
  if (g.base.summary.usable()) options.startFrom = &g.base;
  c.answer = solve(c.network, task_.stock.get(), options);
  return c;
}

std::vector<double> Judge::greatestFlows(const SizeChoice& choice) const {
  std::vector<double> flows(choice.size(), 0.0);
  for (const CaseBase& g : bases_) {
    if (!g.counts) continue;
    SolveOptions options{.units = task_.units, .stop = stop_, .offers = 0, .notes = false};
    if (g.base.summary.usable()) options.startFrom = &g.base;
    const Solution answer = solve(with(g.id, g.network, choice), task_.stock.get(), options);
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

SizingVerdict Judge::evaluate(const SizeChoice& choice, std::size_t lane, bool words) {
  return judged(choice, lane, words, nullptr);
}

SizingVerdict Judge::evaluateWithLimits(const SizeChoice& choice, std::size_t lane,
                                        std::vector<LimitExcess>& limits) {
  limits.clear();
  SizingVerdict v = judged(choice, lane, false, &limits);
  if (!v.balanced) limits.clear();
  return v;
}

CaseVerdict Judge::inCase(std::size_t k, const SizeChoice& choice, std::size_t lane, bool words,
                          std::vector<LimitExcess>* limits) {
  CaseVerdict v;
  const CaseBase& g = bases_[k];
  const Network n = with(g.id, g.network, choice);
  SolveOptions options{
      .units = task_.units, .stop = stop_, .offers = 0, .notes = words, .workspace = &spaces_[lane][k]};
  if (g.base.summary.usable()) options.startFrom = &g.base;
  const Solution answer = solve(n, task_.stock.get(), options);
  v.ran = answer.summary.usable();
  v.stopped = answer.summary.verdict == Verdict::stopped;
  if (!v.ran && !g.counts) {
    v.balanced = !v.stopped;
    return v;
  }
  if (!v.ran) {
    v.balanced = false, v.violation = 1000.0;
    v.worst = BrokenLimit{
        g.id, noId, "balance",
        answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what, 1000};
    return v;
  }
  std::vector<LimitReading> weighed;
  n.each([&](Id id, const Element& e) {
    if (e.part->group == Group::lift) {
      const PumpPower power = powerOf(task_, e, *ReadingOf(n, answer, id));
      v.energy_j += power.wire_w * g.hours_s;
      v.shaft_w += power.shaft_w;
      v.efficiencyOfCosts = v.efficiencyOfCosts || power.efficiencyOfCosts;
    }
    if (!g.counts) return;
    const double flow_m3s = answer.branchCount(id) > 0 ? answer.branch(id, 0).flow_m3s.value_or(0.0) : 0.0;
    const std::vector<Check> checks = checksOf(n, answer, id, task_.units);
    weigh(task_, id, checks, flow_m3s, weighed);
    for (const LimitReading& w : weighed) {
      if (limits) limits->push_back({limitOf(k, id, w.key), w.by});
      if (!w.broken) continue;
      v.violation += w.by + 1e-9;
      if (v.worst && w.by <= v.worst->by) continue;
      v.worst = BrokenLimit{g.id, id, w.check ? w.check->label : "Flow", {}, w.by};
      if (words)
        v.worst->what = w.check ? sentenceOf(e.name, *w.check, task_.units)
                                : fmt::format("{} passes {}, design flow {}", e.name,
                                              withUnit(flow_m3s, Measure::volumeFlow, task_.units),
                                              withUnit(w.goal->flow.value, Measure::volumeFlow, task_.units));
    }
  });
  return v;
}

std::optional<BrokenLimit> Judge::named(std::uint64_t which, const SizeChoice& choice, std::size_t lane) {
  const std::size_t k = which >> 48;
  const Id id = static_cast<Id>(which >> 8 & 0xffffffffu);
  if (k >= bases_.size()) return std::nullopt;
  const SolvedCase c = solved(k, choice, lane);
  const Element* e = c.network.find(id);
  if (!e || !c.answer.summary.usable()) return std::nullopt;
  const double flow_m3s = c.answer.branchCount(id) > 0 ? c.answer.branch(id, 0).flow_m3s.value_or(0.0) : 0.0;
  const std::vector<Check> checks = checksOf(c.network, c.answer, id, task_.units);
  std::vector<LimitReading> weighed;
  weigh(task_, id, checks, flow_m3s, weighed);
  for (const LimitReading& w : weighed)
    if (limitOf(k, id, w.key) == which)
      return BrokenLimit{c.id, id, w.check ? w.check->label : "Flow",
                         w.check && w.broken ? sentenceOf(e->name, *w.check, task_.units) : std::string(),
                         w.by};
  return std::nullopt;
}

double Judge::objectiveOf(double laid, double mass_kg, double energy_j, double shaft_w) const {
  if (task_.options.objective == Objective::laid) return laid;
  if (task_.options.objective == Objective::mass) return mass_kg;
  const Prices& p = task_.prices;
  const double pumps = p.pumpPerW ? shaft_w * (1 + p.standby) * *p.pumpPerW : 0.0;
  return (laid + pumps) * (1 + p.upkeep * p.upkeepWorth) + energy_j / 3.6e6 * p.tariff * p.energyWorth;
}

SizingVerdict Judge::judged(const SizeChoice& choice, std::size_t lane, bool words,
                            std::vector<LimitExcess>* limits) {
  SizingVerdict v;
  v.balanced = true;
  v.laid = costLaid(choice);
  for (std::size_t r = 0; r < choice.size(); ++r)
    v.mass_kg += task_.rows[r].length_m * task_.rows[r].sizes[choice[r]]->mass_kgm.value_or(NAN);
  double drivers_w = 0.0;
  for (std::size_t k = 0; k < bases_.size(); ++k) {
    const CaseVerdict c = inCase(k, choice, lane, words, limits);
    v.balanced = v.balanced && c.balanced;
    v.stopped = v.stopped || c.stopped;
    v.violation += c.violation, v.energy_j += c.energy_j;
    v.shaft_w.push_back(c.shaft_w), v.energyOf.push_back(c.energy_j);
    v.efficiencyOfCosts = v.efficiencyOfCosts || c.efficiencyOfCosts;
    if (!c.ran && !bases_[k].counts) v.withoutEnergy.push_back(bases_[k].id);
    if (c.worst && (!v.worst || c.worst->by > v.worst->by)) v.worst = c.worst;
    drivers_w = std::max(drivers_w, c.shaft_w);
  }
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

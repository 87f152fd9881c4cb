#include "sizing/judge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "cases/case_edits.h"
#include "cases/year.h"
#include "limits/limits.h"
#include "network/setting.h"
#include "parts/pipe.h"
#include "parts/pump/machine.h"
#include "quantity/format.h"
#include "sizing/choices.h"
#include "stock/sold.h"

namespace conduit {
namespace {

Problem fault(std::string what, std::string name = {}) {
  return {{std::move(name), ""}, std::move(what), {}};
}

constexpr double year_s = 8760 * 3600.0;
// A taker of less than this share of all is no more than a rest of rounding.
constexpr double nothing = 1e-6, roleShare = 0.01;

// Points that water of a line of assumed size reaches: what flows there may be as nobody has said.
std::vector<char> fedByAssumed(const Network& n, const Solution& answer, std::string& which) {
  std::vector<char> fed(n.bound(), 0);
  std::vector<Id> front;
  const auto onward = [&](Id id, const Element& e) {
    const auto q = answer.branch(id, 0).flow_m3s;
    if (!q || *q == 0) return;
    const Id to = e.ends[*q > 0 ? 1 : 0];
    if (!std::exchange(fed[to], 1)) front.push_back(to);
  };
  n.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || !(e.values.assumed("size") || e.values.assumed("bore"))) return;
    if (which.empty()) which = e.name;
    onward(id, e);
  });
  for (std::size_t i = 0; i < front.size(); ++i)
    for (const Id id : n.elementsAt(front[i])) {
      const Element& e = n.at(id);
      if (e.part->ends != Ends::two) continue;
      const auto q = answer.branch(id, 0).flow_m3s;
      if (q && *q != 0 && e.ends[*q > 0 ? 0 : 1] == front[i]) onward(id, e);
    }
  return fed;
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
  o.tolerance = sizingNumber(setup.about, sizing::tolerance);
  o.deliveries = setup.deliveries;
  if (const bool* equal = setup.about.get<bool>(sizing::equalVolume)) o.equalVolume = *equal;
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
    return size ? soldWith(*size, *stock) : std::vector<const PipeSize*>{};
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
    balanceBranches(g);
    if (g.passes.empty())
      g.base = solve(g.network, task.stock.get(), {.units = task.units, .stop = stop_, .offers = 0});
    readDuties(g);
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
  double hours_s = 0.0;
  for (const CaseBase& g : bases_) hours_s += g.hours_s;
  if (hours_s > 0) stretch_ = std::max(1.0, year_s / hours_s);
}

// Branches with a flow are judged as balancing leaves them: each passes its flow, and has the head for it.
// Where they cannot all be given, as their valves are drawn.
void Judge::balanceBranches(CaseBase& g) const {
  for (const BranchGoal& b : task_.model.sizing.branches) {
    const Element* valve = g.network.find(b.valve);
    if (!valve || !(b.flow.value > 0) || isShutByGivens(valve->values)) continue;
    g.held[b.valve].branch_m3s = b.flow.value;
    if (valve->values.goals().empty()) g.passes[b.valve] = b.flow.value;
  }
  if (g.passes.empty()) return;
  g.base = solve(g.network, task_.stock.get(), solving(g, true, nullptr));
  if (!g.base.summary.usable()) g.passes.clear();
}

SolveOptions Judge::solving(const CaseBase& g, bool notes, Workspace* space) const {
  SolveOptions options{.units = task_.units,
                       .stop = stop_,
                       .offers = 0,
                       .notes = notes,
                       .passes = g.passes,
                       .workspace = space};
  if (g.base.summary.usable()) options.startFrom = &g.base;
  return options;
}

// What every taker must have, which supplies keep their part, and what pumps keep to, from the case as it is
// drawn.
void Judge::readDuties(CaseBase& g) const {
  const Solution& answer = g.base;
  const bool solved = answer.summary.usable();
  std::vector<Delivery> now;
  if (solved) now = deliveriesOf(g.network, answer);
  g.taken_m3s = taken(now);
  for (const Delivery& d : now) g.freeTakers = g.freeTakers || (!d.given && d.flow_m3s > 0);
  if (!g.counts) return;
  std::string unsaid, assumed;
  if (!solved) unsaid = "the case has no solution with the present sizes";
  else if (standing(findings(g.network, answer, task_.units)).onPaperOnly)
    unsaid = "the case is physically impossible with the present sizes";
  const std::vector<char> fed = solved ? fedByAssumed(g.network, answer, assumed) : std::vector<char>();
  const auto put = [&](Id id, const Element& e, double taken_m3s, bool given) {
    Duty duty{.id = g.id, .taker = id, .now_m3s = taken_m3s};
    const bool supply = e.part->group == Group::supply;
    // A tank's flow in is what it takes; what a fixed pressure takes is its flow out of the network.
    const LimitId least = !supply                            ? LimitId::flowLeast
                          : findOutcome(*e.part, "flow out") ? LimitId::flowInLeast
                                                             : LimitId::flowOutLeast;
    const Limit own = ownLimit(e.values, least, answer.setting.medium);
    const auto asked = std::find_if(task_.options.deliveries.begin(), task_.options.deliveries.end(),
                                    [&](const DeliveryAsked& a) { return a.taker == id; });
    const bool fedSo =
        !assumed.empty() && std::any_of(e.ends.begin(), e.ends.end(), [&](Id end) { return fed[end] != 0; });
    if (own) {
      duty.by = Duty::By::own, duty.least_m3s = *own.si;
    } else if (given) {
      duty.by = Duty::By::given, duty.least_m3s = taken_m3s;
    } else if (asked != task_.options.deliveries.end() && !asked->share) {
      duty.by = Duty::By::dropped;
    } else if (!unsaid.empty() || fedSo || (e.part->ends == Ends::self && !assumed.empty() && fed[id])) {
      duty.by = Duty::By::unknown;
      duty.why =
          !unsaid.empty() ? unsaid : fmt::format("it is fed through {}, whose size is assumed", assumed);
    } else {
      const bool loosened = asked != task_.options.deliveries.end();
      duty.by = loosened ? Duty::By::loosened : Duty::By::drawn;
      duty.least_m3s = taken_m3s * (1 - (loosened ? *asked->share : task_.options.tolerance));
      g.held[id].least_m3s = duty.least_m3s;
    }
    g.duties.push_back(std::move(duty));
  };
  if (!solved) {
    g.network.each([&](Id id, const Element& e) {
      if (e.part->group == Group::drawOff && !isShutByGivens(e.values)) put(id, e, 0.0, false);
    });
    return;
  }
  for (const Delivery& d : now) {
    const Element& e = g.network.at(d.taker);
    if (d.flow_m3s > nothing * g.taken_m3s) put(d.taker, e, d.flow_m3s, d.given);
    if (d.given || e.part->ends == Ends::self || e.part->group == Group::drawOff || !unsaid.empty()) continue;
    if (std::abs(d.flow_m3s) > roleShare * g.taken_m3s) g.held[d.taker].role = d.flow_m3s > 0 ? -1 : 1;
  }
  if (!unsaid.empty()) return;
  g.network.each([&](Id id, const Element& e) {
    if (e.part->group != Group::lift) return;
    const ReadingOf r(g.network, answer, id);
    const Medium& medium = answer.setting.medium;
    if (!pump::running(*r)) return;
    if (const auto share = pump::ofBest(*r); share && !pump::shutIn(*r)) {
      const pump::Region region = pump::regionOf(*r->values, answer.setting);
      if (*share >= region.least && *share <= region.most) g.held[id].region = true;
      const auto low = get(*r->values, pump::allowedLeast, medium),
                 high = get(*r->values, pump::allowedMost, medium);
      if ((low || high) && !(low && *share < low->si()) && !(high && *share > high->si()))
        g.held[id].allowed = true;
    }
    if (e.values.released(pump::speed.text) && !ownLimit(*r->values, LimitId::speedMost, medium))
      if (const auto rated = get(*r->values, pump::ratedSpeed, medium)) g.held[id].fastest_perS = rated->si();
  });
}

void Judge::checkDuties(std::size_t k, Id id, const Element& e, const Reading& r, Checks& checks) const {
  const CaseBase& g = bases_[k];
  const auto found = g.held.find(id);
  if (found == g.held.end() || !g.counts) return;
  const Held& held = found->second;
  if (held.least_m3s || held.role != 0) {
    const double flow = takenBy(e, r).value_or(0.0);
    if (held.least_m3s) {
      Check& c = checks.hold(CheckId::delivery, flow, {*held.least_m3s, LimitFrom::law}, {});
      if (checks.told(c))
        c.what = fmt::format("{} would get {}, {} required", e.name,
                             withUnit(std::max(0.0, flow), Measure::volumeFlow, checks.units(), 3),
                             withUnit(*c.least, Measure::volumeFlow, checks.units(), 3));
    }
    if (held.role > 0 || (held.role < 0 && !held.least_m3s)) {
      Check& c = checks.hold(CheckId::role, held.role > 0 ? -flow : flow, {0.0, LimitFrom::law}, {});
      if (checks.told(c))
        c.what = fmt::format("{} would {} the network where it {} now", e.name,
                             held.role > 0 ? "take from" : "supply", held.role > 0 ? "supplies" : "takes");
    }
  }
  if (held.region || held.allowed) {
    const auto share = pump::ofBest(r);
    if (share && !pump::shutIn(r) && held.region) {
      const pump::Region region = pump::regionOf(*r.values, *r.setting);
      const LimitFrom from = region.given ? LimitFrom::own : LimitFrom::standard;
      Check& c = checks.hold(CheckId::bestFlow, *share, {region.least, from}, {region.most, from});
      c.at = 1;  // beside the pump's own, which is no more than near
      if (checks.told(c))
        c.what =
            fmt::format("{} would run at {} % of BEP flow; it is within {} to {} % now", e.name,
                        digits(*share * 100, 3), digits(region.least * 100, 3), digits(region.most * 100, 3));
    }
    if (share && !pump::shutIn(r) && held.allowed) {
      const auto low = get(*r.values, pump::allowedLeast, r.setting->medium),
                 high = get(*r.values, pump::allowedMost, r.setting->medium);
      checks.hold(CheckId::allowedRegion, *share,
                  {low ? std::optional(low->si()) : std::nullopt, LimitFrom::own},
                  {high ? std::optional(high->si()) : std::nullopt, LimitFrom::own});
    }
  }
  if (held.fastest_perS)
    if (const auto n = pump::runningSpeed(r)) {
      Check& c = checks.hold(CheckId::ratedSpeed, *n, {}, {*held.fastest_perS * (1 + 1e-9), LimitFrom::own});
      if (checks.told(c))
        c.what = fmt::format("{} would run at {}, above its rated {}", e.name,
                             withUnit(*n, Measure::rotation, checks.units()),
                             withUnit(*held.fastest_perS, Measure::rotation, checks.units()));
    }
  if (!held.branch_m3s || r.branches.empty()) return;
  const BranchReading& b = r.branches[0];
  if (!g.passes.contains(id)) {
    const double flow = b.flow_m3s.value_or(0.0);
    Check& c = checks.hold(CheckId::branchFlow, flow, {*held.branch_m3s * (1 - 1e-6), LimitFrom::own}, {});
    if (checks.told(c))
      c.what = fmt::format("{} passes {}, design flow {}", e.name,
                           withUnit(flow, Measure::volumeFlow, checks.units()),
                           withUnit(*held.branch_m3s, Measure::volumeFlow, checks.units()));
    return;
  }
  // Wide open it must take no more than there is.
  Values open = *r.values;
  open.set("opening", Given{.value = 1.0, .typed = {}});
  const Prepared p = e.part->prepare(open, *r.setting, r.ends);
  if (!b.headFrom_m || !b.headTo_m || p.branches.empty() || !p.branches[0].law) return;
  double memory = 0.0;
  const double there = *b.headFrom_m - *b.headTo_m,
               needs = p.branches[0].law->at(*held.branch_m3s, memory).drop_m;
  Check& c = checks.hold(CheckId::branchHead, there, {needs - 1e-6, LimitFrom::own}, {});
  if (checks.told(c))
    c.what = fmt::format("{} is short of head for its design flow of {}: {} across it, {} needed wide open",
                         e.name, withUnit(*held.branch_m3s, Measure::volumeFlow, checks.units()),
                         withUnit(there, Measure::headDrop, checks.units(), 3),
                         withUnit(needs, Measure::headDrop, checks.units(), 3));
}

Judge::Hours Judge::hoursAt(std::size_t k, double taken_m3s) const {
  const CaseBase& g = bases_[k];
  if (!task_.options.equalVolume || !g.freeTakers || !(g.taken_m3s > 0)) return {g.hours_s, 0.0};
  const double factor = taken_m3s > 0 ? g.taken_m3s / taken_m3s : stretch_;
  if (factor >= stretch_) return {g.hours_s * stretch_, 0.0};
  return {g.hours_s * factor, -g.hours_s * factor / taken_m3s};
}

std::vector<Duty> Judge::duties() const {
  std::vector<Duty> all;
  for (const CaseBase& g : bases_) all.insert(all.end(), g.duties.begin(), g.duties.end());
  return all;
}

std::vector<DutyMet> Judge::deliveries(const SizeChoice& choice, std::size_t lane) {
  std::vector<DutyMet> met;
  for (std::size_t k = 0; k < bases_.size(); ++k) {
    if (bases_[k].duties.empty()) continue;
    const SolvedCase c = solved(k, choice, lane);
    for (const Duty& duty : bases_[k].duties) {
      DutyMet m{duty, std::nullopt};
      if (c.answer.summary.usable())
        m.then_m3s = takenBy(c.network.at(duty.taker), *ReadingOf(c.network, c.answer, duty.taker));
      met.push_back(std::move(m));
    }
  }
  std::stable_sort(met.begin(), met.end(),
                   [](const DutyMet& a, const DutyMet& b) { return a.share() < b.share(); });
  return met;
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
  const Solution answer = solve(n, task_.stock.get(), solving(g, words, &spaces_[lane][k]));
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
  Checks checks = words ? Checks(found, task_.units) : Checks(found);
  double wire_w = 0.0;
  n.each([&](Id id, const Element& e) {
    if (e.part->group == Group::lift) {
      const PumpPower power = powerOf(task_, e, *ReadingOf(n, answer, id));
      wire_w += power.wire_w;
      v.shaft_w += power.shaft_w;
      v.efficiencyOfCosts = v.efficiencyOfCosts || power.efficiencyOfCosts;
    }
    if (!g.counts) return;
    found.clear();
    checksOf(n, answer, id, checks);
    if (g.held.contains(id)) checkDuties(k, id, e, *ReadingOf(n, answer, id), checks);
    weigh(found, weighed);
    for (const LimitReading& w : weighed) {
      if (limits) limits->push_back({limitOf(k, id, w.key), w.by});
      if (!w.broken) continue;
      v.violation += w.by + 1e-9;
      if (v.worst && w.by <= v.worst->by) continue;
      v.worst = BrokenLimit{g.id, id, w.check->id, {}, w.by};
      if (words) v.worst->what = sentenceOf(e.name, *w.check, task_.units);
    }
  });
  v.taken_m3s = taken(deliveriesOf(n, answer));
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
  checkDuties(k, id, *e, *ReadingOf(c.network, c.answer, id), checks);
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
    v.volume_m3 += c.taken_m3s * c.hours_s;
    v.hoursOf.push_back({bases_[k].id, c.hours_s});
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

#include "pump/selection.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "limits/limits.h"
#include "model/pump_request.h"
#include "network/setting.h"
#include "parts/pump/machine.h"
#include "parts/pump/motor.h"
#include "parts/pump/pump.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "solve/shut_off.h"

namespace conduit {
namespace {

// What belongs to the place of a pump and stays when another machine stands there.
bool ofPlace(std::string_view key) {
  static const std::string_view keys[] = {
      pump::unitCount.text, pump::arrangementKey,  key::running,
      "check valve",        pump::datum.text,      pump::ownMarginKey,
      serviceKey,           pump::headFactor.text, pump::efficiencyFactor.text,
      "viscous correction", pump::keepsKey,        pump::keptPressure.text,
      pump::keptAtKey,      pump::keptFlow.text};
  return std::find(std::begin(keys), std::end(keys), key) != std::end(keys);
}

// Of all that stands at the lift of a pump when nothing flows, what has the least pressure to spare.
struct Weakest {
  double spare_pa = std::numeric_limits<double>::infinity();
  Id element = noId;
};
Weakest weakestBehind(const Network& network, const Solution& answer, Id pump) {
  Weakest weakest;
  const ShutOff* off = answer.shutOff.get();
  if (!off) return weakest;
  const auto lifted = [&](Id point) {
    if (!std::isfinite(off->head_m[point])) return false;
    const auto& lifts = off->ways[off->by[point]].lifts;
    return std::any_of(lifts.begin(), lifts.end(), [&](const auto& l) { return l.pump == pump; });
  };
  network.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::two || (!lifted(e.ends[0]) && !lifted(e.ends[1]))) return;
    const Limit rating = ratingOf(e, answer.setting);
    if (!rating) return;
    for (const Id end : e.ends) {
      const double spare = *rating.si - off->pressure_pa[end];
      if (lifted(end) && spare < weakest.spare_pa) weakest = {spare, id};
    }
  });
  return weakest;
}

// A case as all candidates find it.
struct Ground {
  CaseId id;
  bool here;        // the case that is looked at
  Network network;  // with a pump at the place
  Solution base;
  std::vector<Delivery> now{};  // with what stands there; empty at a place without a pump
};

CandidateDuty dutyIn(const Ground& ground, Id place, std::string_view item, std::optional<double> units,
                     double asked, const std::shared_ptr<const Stock>& stock, const UnitSet& words,
                     Workspace* space, std::stop_token stop, Candidate* about) {
  CandidateDuty out{.id = ground.id};
  Draft draft(ground.network);
  draft.values(place) = asItem(draft.network().at(place).values, item, units);
  // What is off in another case stays off there.
  if (ground.here) draft.values(place).set(key::running, true);
  const Network n = std::move(draft).finish();
  SolveOptions options{.units = words, .stop = stop, .offers = 0, .workspace = space};
  if (ground.base.summary.usable()) options.startFrom = &ground.base;
  const Solution answer = solve(n, stock.get(), options);
  const ReadingOf r(n, answer, place);
  const Setting& setting = *r->setting;
  const auto rows = pump::rowsOf(*r->values, setting);
  const double beside = pump::parallelUnits(*r->values, setting.medium),
               all = beside * pump::seriesUnits(*r->values, setting.medium);
  if (about && rows.size() >= 2) {
    const double s = pump::speedRatio(*r->values, setting.medium);
    const pump::HeadCurve curve(rows, s);
    about->shutOff_m = curve.shutOff();
    about->runOut_m3s = curve.last();
    about->bestFlow_m3s = pump::bestFlow(rows, s);
    const pump::Region region = pump::regionOf(*r->values, setting);
    about->regionLeast = region.least, about->regionMost = region.most;
    if (const auto n0 = get(*r->values, pump::ratedSpeed, setting.medium)) about->ratedSpeed_perS = n0->si();
    double most = 0.0;
    for (int k = 1; k <= 40; ++k) {
      const double q = curve.last() * k / 40;
      const auto eta = pump::onCurve(*r, &pump::CurveRow::efficiency, false, q);
      if (eta && *eta > 0.02) most = std::max(most, setting.medium.powerOf(q, curve.at(q).value) / *eta);
    }
    if (most > 0) about->runOutShaft_w = most / all, about->motor_w = pump::ratingFor(most / all);
  }
  out.solved = answer.summary.usable();
  if (!out.solved) {
    out.why = answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what;
    return out;
  }
  out.duty = dutyOf(n, answer, place);
  if (const auto changes = deliveryChanges(ground.now, deliveriesOf(n, answer)); !ground.now.empty())
    for (const DeliveryChange& d : changes)
      if (d.now_m3s > 0) {
        out.leastDelivery = d;
        break;
      }
  const PumpDuty& d = out.duty;
  out.npshRatio = pump::npshRatio(*r);
  if (d.flow_m3s && asked > 0) out.over = *d.flow_m3s / asked - 1;
  const pump::Region region = pump::regionOf(*r->values, setting);
  out.preferred = !d.ofBest || (*d.ofBest >= region.least && *d.ofBest <= region.most);
  const auto low = get(*r->values, pump::allowedLeast, setting.medium),
             high = get(*r->values, pump::allowedMost, setting.medium);
  if (d.ofBest && (low || high))
    out.allowed = (!low || *d.ofBest >= low->si()) && (!high || *d.ofBest <= high->si());
  if (!rows.empty() && d.flow_m3s)
    out.pastEnd = *d.flow_m3s > rows.back().flow_m3s * pump::ratioNow(*r) * (1 + 1e-9);
  if (const Limit least = ownLimit(*r->values, LimitId::continuousFlowLeast, setting.medium);
      least && d.flow_m3s)
    out.underLeastFlow = *d.flow_m3s / beside < *least.si * pump::ratioNow(*r);
  if (const Weakest weakest = weakestBehind(n, answer, place); weakest.element != noId)
    out.ratingSpare_pa = weakest.spare_pa, out.weakest = weakest.element;
  return out;
}

std::vector<Ground> groundsOf(const Model& model, Id place, std::span<const CaseId> cases, const Stock* stock,
                              const UnitSet& units, std::string& problem, Id& pumpAt) {
  std::vector<Ground> grounds;
  for (const CaseId id : cases) {
    auto there = standIn(networkOf(model, id), place);
    if (!there) {
      problem = there.error().what;
      return {};
    }
    pumpAt = there->pump;
    if (!there->network.at(there->pump).part->lifts) {
      problem = fmt::format("{} is not a pump", there->network.at(there->pump).name);
      return {};
    }
    Ground g{.id = id, .here = grounds.empty(), .network = std::move(there->network), .base = {}};
    g.base = solve(g.network, stock, {.units = units, .offers = 0});
    if (g.base.summary.usable() && place == there->pump) g.now = deliveriesOf(g.network, g.base);
    grounds.push_back(std::move(g));
  }
  return grounds;
}

std::string firstReason(const Candidate& c, const Selection& s, const PumpRequest& request,
                        const UnitSet& units) {
  const auto limit = [&](std::string_view key) { return askedOf(request.about, key); };
  const CandidateDuty& now = c.now();
  if (!now.solved) return "no solution";
  const double flow = now.duty.flow_m3s.value_or(0.0);
  if (now.duty.shutIn || flow < s.flow_m3s * (1 - *limit(request::shortBy))) return "head too low";
  if (now.pastEnd) return "beyond run-out";
  if (flow > s.flow_m3s * (1 + *limit(request::overBy))) return "flow too high";
  for (const CandidateDuty& d : c.cases) {
    if (!d.solved) return "no solution in another case";
    if (!d.duty.runs) continue;
    if (const auto most = limit(request::driver);
        most && d.duty.shaft_w && *d.duty.shaft_w / d.duty.units > *most)
      return fmt::format("power above {}", withUnit(*most, Measure::power, units, 3));
    if (d.duty.npshMargin_m && *d.duty.npshMargin_m < 0) return "cavitating";
    if (d.allowed && !*d.allowed) return "outside allowable region";
    if (d.underLeastFlow) return "below minimum continuous flow";
    if (d.ratingSpare_pa && *d.ratingSpare_pa < 0) return "shut-off pressure above a rating";
  }
  return {};
}

}  // namespace

const CandidateDuty* Candidate::worstMargin() const {
  const CandidateDuty* worst = nullptr;
  for (const CandidateDuty& d : cases)
    if (d.solved && d.duty.npshMargin_m && (!worst || *d.duty.npshMargin_m < *worst->duty.npshMargin_m))
      worst = &d;
  return worst;
}

const DeliveryChange* Candidate::leastDelivery() const {
  const DeliveryChange* least = nullptr;
  for (const CandidateDuty& d : cases)
    if (d.leastDelivery && (!least || d.leastDelivery->share() < least->share())) least = &*d.leastDelivery;
  return least;
}

Values asItem(const Values& own, std::string_view item, std::optional<double> units) {
  Values out;
  for (const Values::Entry& e : own.entries())
    // A speed that is to be found for something given elsewhere is to be found of this machine too.
    if (ofPlace(e.key) || (e.released && (e.key == pump::speed.text || e.key == pump::impeller.text))) {
      out.set(e.key, e.value, e.assumed);
      if (e.released) out.release(e.key);
    }
  for (const Values::Goal& goal : own.goals()) out.give(goal.outcome, goal.given);
  out.set(stockItemKey, std::string(item));
  if (!units) return out;
  out.clear(pump::arrangementKey);
  if (*units > 1)
    out.set(pump::unitCount.text, Given{.value = *units, .typed = fmt::format("{:.0f}", *units)});
  else out.clear(pump::unitCount.text);
  return out;
}

Selection select(const Model& model, Id place, const PumpRequest& request,
                 const std::shared_ptr<const Stock>& stock, const SelectOptions& options) {
  Selection out;
  out.cases.push_back(options.current);
  for (const CaseId id : model.cases.ids())
    if (id != options.current && flagOf(*model.cases.find(id), cases::counts)) out.cases.push_back(id);
  Id at = noId;
  const auto grounds = groundsOf(model, place, out.cases, stock.get(), options.units, out.problem, at);
  if (grounds.empty()) return out;
  const Network& here = grounds.front().network;
  const Solution& base = grounds.front().base;
  const PumpGroup alone{.members = {at}};
  if (const auto asked = askedOf(request.about, request::flow, base.setting.medium)) out.flow_m3s = *asked;
  else if (base.summary.usable()) out.flow_m3s = std::max(0.0, base.branch(at, 0).flow_m3s.value_or(0.0));
  if (!(out.flow_m3s > 0)) {
    out.problem = "enter the required flow: there is no flow here now";
    return out;
  }
  out.head_m = askedOf(request.about, request::head, base.setting.medium);
  if (!out.head_m)
    if (const auto read = readAtFlow(here, stock.get(), base, alone, out.flow_m3s)) out.head_m = read->head_m;
  {
    const ReadingOf r(here, base, at);
    out.margin_m =
        askedOf(request.about, request::margin, base.setting.medium)
            .value_or(limitsFor(*r->values, *r->setting)[LimitId::npshMarginLeast].si.value_or(0.0));
  }
  const auto units = askedOf(request.about, request::units);
  {
    const Values& own = here.at(at).values;
    const double beside = pump::parallelUnits(own, base.setting.medium),
                 behind = pump::seriesUnits(own, base.setting.medium);
    out.units = units.value_or(beside * behind), out.series = !units && behind > 1;
  }
  std::vector<const StockItem*> items;
  for (const StockItem& i : stock->items)
    if (i.kind == "pump") items.push_back(&i);
  std::vector<Workspace> spaces(lanes(options.jobs) * grounds.size());
  const std::string* now = model.drawn.find(place) ? model.drawn.at(place).text(stockItemKey) : nullptr;
  const Medium medium = base.setting.medium;
  const auto results = runJobs(
      items.size(),
      [&](std::size_t i, std::size_t lane, std::stop_token stop) {
        const StockItem& item = *items[i];
        Candidate c{.item = item.item, .origin = item.origin};
        c.inPlace = now && *now == item.item;
        Element probe{.part = &pump::part};
        probe.values.set(stockItemKey, item.item);
        Values scratch;
        const Values& values = valuesOf(probe, stock.get(), scratch);
        // What needs no solve first.
        const auto wanted = request.about.get<std::string>(request::construction);
        if (wanted && *wanted != pump::constructions[0] &&
            pump::word(values, pump::constructionKey, pump::constructions[0]) != *wanted) {
          c.leftOut = "other construction";
          return c;
        }
        if (const auto least = askedOf(request.about, request::solids)) {
          const auto passes = get(values, pump::solidsPassage, medium);
          if (!passes || passes->si() < *least) {
            c.leftOut = passes ? "solids passage too small" : "solids passage not stated";
            return c;
          }
        }
        if (const auto most = askedOf(request.about, request::speed)) {
          const auto n = get(values, pump::ratedSpeed, medium);
          if (n && n->si() > *most * (1 + 1e-9)) {
            c.leftOut = "speed too high";
            return c;
          }
        }
        for (std::size_t k = 0; k < grounds.size(); ++k) {
          c.cases.push_back(dutyIn(grounds[k], at, item.item, units, k == 0 ? out.flow_m3s : 0.0, stock,
                                   options.units, &spaces[lane * grounds.size() + k], stop,
                                   k == 0 ? &c : nullptr));
          if (stop.stop_requested()) return c;
          // What fails in the case looked at is not solved in the others.
          if (k == 0) c.leftOut = firstReason(c, out, request, options.units);
          if (!c.leftOut.empty()) return c;
        }
        c.leftOut = firstReason(c, out, request, options.units);
        if (out.head_m && c.leftOut.empty()) {
          Values all = values;
          all.set(pump::unitCount.text, Given{.value = out.units});
          if (out.series) all.set(pump::arrangementKey, std::string(pump::arrangements[1]));
          c.speedRatio = speedForDuty(all, base.setting, out.flow_m3s, *out.head_m);
          c.trimRatio = trimForDuty(all, base.setting, out.flow_m3s, *out.head_m);
        }
        return c;
      },
      options.jobs);
  std::map<std::string, std::size_t> counted;
  double bestEfficiency = 0.0, leastShaft = std::numeric_limits<double>::infinity();
  for (const auto& r : results) {
    if (!r) {
      out.stopped = out.stopped || r.error().stopped;
      if (!r.error().stopped) out.problem = r.error().what;
      continue;
    }
    if (!r->leftOut.empty() || r->cases.empty()) {
      ++counted[r->leftOut];
      out.cannot.push_back(*r);
      continue;
    }
    bestEfficiency = std::max(bestEfficiency, r->now().duty.efficiency.value_or(0.0));
    leastShaft = std::min(leastShaft, r->now().duty.shaft_w.value_or(leastShaft));
    out.can.push_back(*r);
  }
  for (Candidate& c : out.can) {
    const auto weight = [&](std::string_view key) { return *askedOf(request.about, key); };
    const CandidateDuty& d = c.now();
    const double off = std::abs(d.over.value_or(0.0));
    c.score = weight(request::nearness) * std::min(1.0, off / 0.2) +
              weight(request::efficiency) *
                  std::min(1.0, (bestEfficiency - d.duty.efficiency.value_or(0.0)) / 0.2) +
              weight(request::driverSize) * (d.duty.shaft_w && leastShaft > 0
                                                 ? std::min(1.0, (*d.duty.shaft_w / leastShaft - 1) / 0.5)
                                                 : 1.0);
    // Margin beyond what is asked for is worth nothing more; one that is not known is as bad as none.
    const CandidateDuty* worst = c.worstMargin();
    c.shortOfMargin = worst && *worst->duty.npshMargin_m < out.margin_m;
    const double lacks = worst ? out.margin_m - *worst->duty.npshMargin_m : out.margin_m;
    c.score +=
        weight(request::suction) * (out.margin_m > 0 ? std::clamp(lacks / out.margin_m, 0.0, 1.0) : 0.0);
    if (!d.preferred) c.score += 0.1;
  }
  std::stable_sort(out.can.begin(), out.can.end(), [](const Candidate& a, const Candidate& b) {
    if (a.shortOfMargin != b.shortOfMargin) return b.shortOfMargin;
    return a.score != b.score ? a.score < b.score : a.item < b.item;
  });
  for (const auto& [why, count] : counted) out.reasons.push_back({why, count});
  std::stable_sort(out.reasons.begin(), out.reasons.end(),
                   [](const auto& a, const auto& b) { return a.second > b.second; });
  return out;
}

std::vector<CandidateDuty> unitsRunning(const Model& model, Id place, std::string_view item, int most,
                                        const std::shared_ptr<const Stock>& stock,
                                        const SelectOptions& options) {
  std::string problem;
  Id at = noId;
  const CaseId ids[] = {options.current};
  const auto grounds = groundsOf(model, place, ids, stock.get(), options.units, problem, at);
  std::vector<CandidateDuty> rows;
  if (grounds.empty()) return rows;
  Workspace space;
  for (int k = 1; k <= most; ++k)
    rows.push_back(
        dutyIn(grounds.front(), at, item, k, 0.0, stock, options.units, &space, options.jobs.stop, nullptr));
  return rows;
}

}  // namespace conduit

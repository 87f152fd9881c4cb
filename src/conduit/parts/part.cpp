#include "parts/part.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/flange.h"
#include "parts/waiver.h"
#include "quantity/format.h"
#include "say/words.h"

namespace conduit {

const Field* findField(const Part& part, std::string_view key) { return findField(part.fields, key); }

const Outcome* findOutcome(const Part& part, std::string_view key) {
  for (const Outcome& o : part.outcomes)
    if (o.key == key) return &o;
  return nullptr;
}

std::optional<double> outcomeOf(const Part& part, std::string_view key, const Reading& reading) {
  const Outcome* outcome = findOutcome(part, key);
  return outcome ? outcome->of(reading) : std::nullopt;
}

std::optional<Shown> shownOf(const Outcome& outcome, const Reading& reading) {
  const auto v = outcome.of(reading);
  if (!v) return std::nullopt;
  Shown shown{*v};
  if (outcome.sign == SignBy::giving && *v < 0) shown.si = -*v, shown.taken = true;
  if (outcome.sign == SignBy::drawing) {
    const auto q = outcome::flow(reading);
    if (q && *q < 0) shown.si = -*v, shown.against = true;
  }
  if (outcome.sign == SignBy::rising && *v < 0) shown.si = -*v, shown.falling = true;
  shown.si += 0.0;  // no −0
  return shown;
}

std::string asShown(const Shown& shown, Measure measure, const UnitSet& units, int significant, bool unit) {
  std::string text = unit ? withUnit(shown.si, measure, units, significant)
                          : asNumber(shown.si, measure, units, significant);
  if (shown.taken) text.insert(0, "takes ");
  else if (shown.falling) text.insert(0, "falls ");
  else if (shown.against) text.insert(0, "← ");
  return text;
}

std::optional<double> seatBore(std::optional<double> own_m, std::span<const EndPlace> ends) {
  if (own_m) return own_m;
  std::optional<double> least;
  for (const EndPlace& end : ends)
    if (end.bore_m && (!least || *end.bore_m < *least)) least = end.bore_m;
  return least;
}

std::optional<double> dropOf(const BranchReading& branch) {
  if (!branch.headFrom_m || !branch.headTo_m) return std::nullopt;
  return *branch.headFrom_m - *branch.headTo_m;
}

std::optional<double> endPressure_pa(const Reading& reading, std::size_t i) {
  if (reading.branches.empty() || i >= reading.ends.size() || !reading.ends[i].height_m) return std::nullopt;
  const auto head = i == 0 ? reading.branches[0].headFrom_m : reading.branches[0].headTo_m;
  if (!head) return std::nullopt;
  return reading.setting->medium.pressureOf(*head - *reading.ends[i].height_m);
}

std::optional<double> gaugeReading_pa(const Reading& reading, std::size_t i) {
  const auto p = endPressure_pa(reading, i),
             q = reading.branches.empty() ? std::nullopt : reading.branches[0].flow_m3s;
  if (!p || !q || !reading.ends[i].bore_m) return std::nullopt;
  const double v = *q / (pi / 4 * *reading.ends[i].bore_m * *reading.ends[i].bore_m);
  return *p - reading.setting->medium.dynamicPressure(v);
}

Limits limitsFor(const Values& values, const Setting& setting, std::optional<double> height_m) {
  const Limits* shared = &setting.limits;
  if (const auto* name = values.get<std::string>(serviceKey))
    if (const auto service = setting.services.find(*name); service != setting.services.end())
      shared = &service->second;
  Limits limits = *shared;
  limits.read(values, setting.mediumAt(height_m), LimitFrom::own);
  return limits;
}

CheckSet waivedFor(const Values& values, const Setting& setting) {
  const Limits* shared = &setting.limits;
  const std::string* own = nullptr;
  for (const Values::Entry& e : values.entries()) {
    const auto* text = std::get_if<std::string>(&e.value);
    if (!text || text->empty()) continue;
    if (e.key == serviceKey) {
      if (const auto service = setting.services.find(*text); service != setting.services.end())
        shared = &service->second;
    } else if (e.key == waivedKey) {
      own = text;
    }
  }
  return own ? shared->waived | checksIn(*own) : shared->waived;
}

void tellRating(const Reading& r, Check& c, const UnitSet& units) {
  const auto* flanges =
      c.mostFrom == LimitFrom::standard ? r.values->get<std::string>(flange::classKey) : nullptr;
  c.what = fmt::format("pressure in {} is {}, above its rating of {}{}", r.name,
                       withUnit(c.value, Measure::gaugePressure, units),
                       withUnit(*c.most, Measure::gaugePressure, units),
                       flanges ? fmt::format(" (flanges {})", *flanges) : "");
}

bool isShutByGivens(const Values& values) {
  for (const std::string_view key : {"open", "running", "laid"})
    if (const bool* on = values.get<bool>(key); on && !*on) return true;
  const Given* opening = values.get<Given>("opening");
  return opening && opening->value <= 0;
}

void checkFlow(const Reading& r, double flow_m3s, Limit least, Limit most, std::string_view passes,
               Checks& checks) {
  if (!least && !most) return;
  Check& c = checks.hold(CheckId::flow, flow_m3s, least, most);
  if (!checks.told(c)) return;
  c.what = fmt::format("{} {} {}{}, {} its {} flow of {}", r.name, passes,
                       withUnit(std::abs(flow_m3s), Measure::volumeFlow, checks.units(), 3),
                       flow_m3s < 0 ? " in reverse" : "", c.low() ? "below" : "above",
                       c.low() ? "minimum" : "maximum",
                       withUnit(c.low() ? *c.least : *c.most, Measure::volumeFlow, checks.units(), 3));
}

namespace {

// The flows of a tank or a fixed pressure, in the direction that its own outcome is counted.
void checkSupply(const Part& part, const Reading& r, Checks& checks) {
  const Medium& medium = r.setting->medium;
  const Limit inLeast = ownLimit(*r.values, LimitId::flowInLeast, medium),
              inMost = ownLimit(*r.values, LimitId::flowInMost, medium),
              outLeast = ownLimit(*r.values, LimitId::flowOutLeast, medium),
              outMost = ownLimit(*r.values, LimitId::flowOutMost, medium);
  std::optional<double> in = outcomeOf(part, "flow in", r);
  if (!in)
    if (const auto out = outcomeOf(part, "flow out", r)) in = -*out;
  if (!in) return;
  for (const bool inward : {true, false}) {
    const Limit least = inward ? inLeast : outLeast, most = inward ? inMost : outMost;
    if (!least && !most) continue;
    Check& c = checks.hold(inward ? CheckId::flowIn : CheckId::flowOut, inward ? *in : -*in, least, most);
    if (checks.told(c))
      c.what = fmt::format("{} of {} is {}, {} its {} of {}", inward ? "flow in" : "flow out", r.name,
                           withUnit(c.value, Measure::volumeFlow, checks.units(), 3),
                           c.low() ? "below" : "above", c.low() ? "minimum" : "maximum",
                           withUnit(c.low() ? *c.least : *c.most, Measure::volumeFlow, checks.units(), 3));
  }
}

// Of what has one pressure at each end and no wall of its own to work a rating out from.
void checkRating(const Reading& r, Checks& checks) {
  const Limit most =
      flange::lesser(ownLimit(*r.values, LimitId::ratingMost, r.setting->medium), *r.values, *r.setting);
  std::optional<double> worst;
  for (std::size_t i = 0; i < r.ends.size(); ++i)
    if (const auto p = endPressure_pa(r, i)) worst = std::max(worst.value_or(*p), *p);
  if (!most || !worst) return;
  Check& c = checks.hold(CheckId::rating, *worst, {}, most);
  if (checks.told(c)) tellRating(r, c, checks.units());
}

// In the bore that a valve or meter has of its own: those of the pipes are judged with the pipes.
void checkBody(const Part& part, const Reading& r, double bore_m, Checks& checks) {
  const Limit most = ownOrUsual(*r.values, part.fields, LimitId::bodyVelocityMost, r.setting->medium);
  const auto q = outcome::flow(r);
  if (!most || !q || std::abs(*q) < 1e-9) return;
  Check& c = checks.hold(CheckId::bodyVelocity, std::abs(*q) / (pi / 4 * bore_m * bore_m), {}, most,
                         severityOf(most));
  if (checks.told(c))
    c.what = fmt::format("velocity in the body of {} is {}, above {}", r.name,
                         withUnit(c.value, Measure::velocity, checks.units(), 3),
                         withUnit(*c.most, Measure::velocity, checks.units(), 3));
}

}  // namespace

void checkElement(const Part& part, const Reading& r, Checks& checks) {
  if (part.gauge) part.gauge(*r.values, *r.setting, r.ends)->look(r, checks);
  else if (part.check) part.check(r, checks);
  // Limits of flow are seldom given: a look at what is, before anything is worked out.
  bool flow = false, supply = false, rated = false;
  std::optional<double> bore;
  for (const Values::Entry& e : r.values->entries()) {
    rated = rated || e.key == flange::classKey;
    const auto* given = std::get_if<Given>(&e.value);
    if (!given) continue;
    rated = rated || e.key == limitRow(LimitId::ratingMost).key;
    if (e.key == "bore" && !e.released) bore = resolve(*given, Measure::bore, r.setting->medium);
    if (!e.key.starts_with("flow ")) continue;
    const LimitRow* row = limitOfField(e.key);
    if (!row) continue;
    flow = flow || row->check == CheckId::flow;
    supply = supply || row->check == CheckId::flowIn || row->check == CheckId::flowOut;
  }
  if (supply) checkSupply(part, r, checks);
  if (rated && !part.gauge) checkRating(r, checks);
  if (bore && !part.gauge) checkBody(part, r, *bore, checks);
  if (!flow || part.gauge || isShutByGivens(*r.values)) return;
  const auto q = outcome::flow(r);
  if (!q) return;
  // A flow-limiting valve's is its set point.
  const Field* most = findField(part, limitRow(LimitId::flowMost).key);
  checkFlow(r, *q, ownLimit(*r.values, LimitId::flowLeast, r.setting->medium),
            most && !most->needed ? ownLimit(*r.values, LimitId::flowMost, r.setting->medium) : Limit{},
            part.group == Group::drawOff ? "discharges" : "passes", checks);
}

namespace outcome {

std::optional<double> flow(const Reading& reading) {
  return reading.branches.empty() ? std::nullopt : reading.branches[0].flow_m3s;
}
std::optional<double> headLoss(const Reading& reading) {
  return reading.branches.empty() ? std::nullopt : dropOf(reading.branches[0]);
}
std::optional<double> pressureLoss(const Reading& reading) {
  const auto drop = headLoss(reading);
  if (!drop) return std::nullopt;
  return reading.setting->medium.pressureOf(*drop);
}
std::optional<double> pressureBefore(const Reading& reading) { return endPressure_pa(reading, 0); }
std::optional<double> pressureAfter(const Reading& reading) { return endPressure_pa(reading, 1); }
std::optional<double> gaugeBefore(const Reading& reading) { return gaugeReading_pa(reading, 0); }
std::optional<double> gaugeAfter(const Reading& reading) { return gaugeReading_pa(reading, 1); }

}  // namespace outcome

}  // namespace conduit

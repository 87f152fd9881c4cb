#include "parts/part.h"

#include <fmt/format.h>

#include "quantity/format.h"
#include "say/words.h"

namespace conduit {

const Field* findField(const Part& part, std::string_view key) {
  for (const Field& f : part.fields)
    if (f.key == key) return &f;
  return nullptr;
}

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

std::vector<MissingField> lacking(const Values& values, std::span<const Field> fields) {
  std::vector<MissingField> missing;
  for (const Field& f : fields) {
    if (!f.needed || (f.applies && !f.applies(values)) || values.find(f.key) || values.released(f.key))
      continue;
    missing.push_back({std::string(f.key), spokenOne(f.key)});
  }
  return missing;
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

void readLimits(const Values& values, const Medium& medium, Limits& limits) {
  const auto put = [&](auto key, std::optional<double>& into) {
    if (const auto v = get(values, key, medium)) into = v->si();
  };
  put(Key<Velocity>{"velocity at most"}, limits.velocityMost_ms);
  put(Key<Velocity>{"velocity at least"}, limits.velocityLeast_ms);
  put(Key<Ratio>{"gradient at most"}, limits.gradientMost);
  put(Key<GaugePressure>{"pressure at least"}, limits.pressureLeast_pa);
  put(Key<GaugePressure>{"pressure at most"}, limits.pressureMost_pa);
  put(Key<AbsolutePressure>{"absolute pressure at least"}, limits.absoluteLeast_pa);
  put(Key<HeadDrop>{"NPSH margin at least"}, limits.npshMargin_m);
  if (const auto* joints = values.get<std::string>(jointsKey)) limits.threaded = *joints == jointKinds[1];
}

Limits limitsFor(const Values& values, const Setting& setting, std::optional<double> height_m) {
  Limits limits = setting.limits;
  if (const auto* name = values.get<std::string>(serviceKey))
    if (const auto service = setting.services.find(*name); service != setting.services.end())
      limits = service->second;
  readLimits(values, setting.mediumAt(height_m), limits);
  return limits;
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

#include "parts/pump/machine.h"

#include <algorithm>
#include <cmath>

#include "curve/monotone.h"

namespace conduit::pump {
namespace {

/// One unit as its maker has it: the rows given (even while released: its efficiency and NPSH still belong to
/// the pump), or three of the family through its duty point.
std::vector<CurveRow> makersRows(const Values& values, const Medium& medium) {
  std::vector<CurveRow> out;
  if (byPoint(values)) {
    const auto q = get(values, dutyFlow, medium);
    const auto h = get(values, dutyHead, medium);
    if (!q || !h || q->si() <= 0 || h->si() <= 0) return out;
    const auto n = get(values, ratedSpeed, medium);
    const double stage = h->si() / getOrFallback(values, fields, stageCount, medium)->si();
    const Shape shape = shapeAt(n ? n->si() * 60 * std::sqrt(q->si()) / std::pow(stage, 0.75) : 30.0);
    const auto eta = get(values, dutyEfficiency, medium);
    for (const double share : {0.0, 1.0, 1.4}) {
      CurveRow r{share * q->si(), h->si() * (shape.h0 - (shape.h0 - 1) * std::pow(share, shape.m)), {}, {}};
      const double b = shape.p0 - (shape.h0 - 1) * shape.m,
                   power = shape.p0 + (1 - shape.p0 - b) * share + b * share * share;
      if (eta && share > 0)
        r.efficiency = std::clamp(eta->si() * share * (r.head_m / h->si()) / power, 0.0, 1.0);
      out.push_back(r);
    }
    return out;
  }
  const auto* entry = values.entry(curveKey);
  const Rows* rows = entry ? std::get_if<Rows>(&entry->value) : nullptr;
  if (!rows) return out;
  for (const auto& row : *rows) {
    if (row.size() < 2 || !row[0] || !row[1]) continue;
    CurveRow r{
        resolve(*row[0], Measure::volumeFlow, medium), resolve(*row[1], Measure::headDrop, medium), {}, {}};
    if (row.size() > 2 && row[2]) r.efficiency = row[2]->value;
    if (row.size() > 3 && row[3]) r.npsh_m = resolve(*row[3], Measure::headDrop, medium);
    out.push_back(r);
  }
  return out;
}

/// Below it a liquid is near enough to the water with which curves are measured.
constexpr double likeWater_m2s = 3e-6;

}  // namespace

std::optional<ViscousAt> viscousAt(const Values& values, const Setting& setting) {
  const auto rows = makersRows(values, setting.medium);
  const auto n = get(values, ratedSpeed, setting.medium), now = get(values, speed, setting.medium);
  if (!hasCurve(values) || setting.viscosity_m2s < likeWater_m2s || rows.size() < 2 || !n ||
      !flagOf(values, *fieldOf("viscous correction")))
    return std::nullopt;
  const double best = bestOf(rows).value_or(0.6 * rows.back().flow_m3s), s = now ? now->si() / n->si() : 1.0;
  std::vector<CurvePoint> heads;
  for (const CurveRow& r : rows)
    if (heads.empty() || r.flow_m3s > heads.back().x) heads.push_back({r.flow_m3s, r.head_m});
  if (best <= 0 || heads.size() < 2) return std::nullopt;
  const double head = MonotoneCurve(heads).at(best).value;
  if (head <= 0) return std::nullopt;
  const double stages = getOrFallback(values, fields, stageCount, setting.medium)->si();
  return ViscousAt{best * s, head * s * s / stages, n->si() * s};
}

std::optional<Viscous> viscousOf(const Values& values, const Setting& setting) {
  const auto at = viscousAt(values, setting);
  if (!at) return std::nullopt;
  const Viscous v = viscousFactors(setting.viscosity_m2s, at->best_m3s, at->head_m, at->speed_perS);
  return v.b > 1 ? std::optional(v) : std::nullopt;
}

std::vector<CurveRow> rowsOf(const Values& values, const Setting& setting) {
  const Medium& medium = setting.medium;
  auto rows = makersRows(values, medium);
  const auto full = get(values, ratedImpeller, medium), cut = get(values, impeller, medium);
  const double trim = full && cut ? std::pow(cut->si() / full->si(),
                                             getOrFallback(values, fields, trimExponent, medium)->si())
                                  : 1.0;
  const double best = bestOf(rows).value_or(rows.empty() ? 1.0 : 0.6 * rows.back().flow_m3s);
  const auto viscous = viscousOf(values, setting);
  const double onHead = hasCurve(values) ? getOrFallback(values, fields, headFactor, medium)->si() : 1.0,
               onEfficiency =
                   hasCurve(values) ? getOrFallback(values, fields, efficiencyFactor, medium)->si() : 1.0;
  const double side = parallelUnits(values, medium), after = seriesUnits(values, medium);
  for (CurveRow& r : rows) {
    const double ch = viscous ? 1 - (1 - viscous->cq) * std::pow(r.flow_m3s / best, 0.75) : 1.0;
    r.flow_m3s *= trim * (viscous ? viscous->cq : 1.0) * side;
    r.head_m *= trim * ch * onHead * after;
    if (r.efficiency) *r.efficiency *= (viscous ? viscous->ceta : 1.0) * onEfficiency;
  }
  return rows;
}

double speedRatio(const Values& values, const Medium& medium) {
  const auto rated = get(values, ratedSpeed, medium), now = get(values, speed, medium);
  return rated && now ? now->si() / rated->si() : 1.0;
}

std::optional<double> head(const Reading& r) {
  const auto drop = outcome::headLoss(r);
  return drop ? std::optional(-*drop) : std::nullopt;
}

std::optional<MonotoneCurve> curveOf(const Reading& r, std::optional<double> CurveRow::*column,
                                     bool squared) {
  std::vector<CurvePoint> points;
  for (const CurveRow& row : rowsOf(*r.values, *r.setting))
    if (row.*column) points.push_back({row.flow_m3s, *(row.*column)});
  if (points.size() < 2) return std::nullopt;
  if (!squared && points.front().x > 0)
    points.insert(points.begin(), CurvePoint{0, 0});  // no flow, no useful power
  return MonotoneCurve(std::move(points));
}
std::optional<double> onCurve(const Reading& r, std::optional<double> CurveRow::*column, bool squared,
                              double flow) {
  const auto curve = curveOf(r, column, squared);
  const double s = ratioNow(r);
  return curve ? std::optional(curve->at(flow / s).value * (squared ? s * s : 1.0)) : std::nullopt;
}
bool running(const Reading& r) { return flagOf(*r.values, *fieldOf("running")); }

double ratioNow(const Reading& r) {
  const double most = speedRatio(*r.values, r.setting->medium);
  if (!keepsSomething(*r.values) || r.branches.empty() || r.branches[0].state != BranchState::acting)
    return most;
  const auto q = outcome::flow(r), h = head(r);
  const auto rows = rowsOf(*r.values, *r.setting);
  if (!q || !h || rows.size() < 2) return most;
  double low = 1e-3 * most, high = most;
  for (int step = 0; step < 100; ++step) {
    const double s = (low + high) / 2;
    (HeadCurve(rows, s).at(*q).value < *h ? low : high) = s;
  }
  return (low + high) / 2;
}
std::optional<double> runningSpeed(const Reading& r) {
  const auto rated = get(*r.values, ratedSpeed, r.setting->medium);
  return rated && hasCurve(*r.values) && running(r) ? std::optional(rated->si() * ratioNow(r)) : std::nullopt;
}
std::optional<double> viscousParameter(const Reading& r) {
  const auto v = viscousOf(*r.values, *r.setting);
  return v ? std::optional(v->b) : std::nullopt;
}

std::optional<double> efficiency(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || *q <= 1e-9 || !running(r)) return std::nullopt;
  const auto e = onCurve(r, &CurveRow::efficiency, false, *q);
  return e && *e > 0.01 ? e : std::nullopt;
}
std::optional<double> shaftPower(const Reading& r) {
  const auto q = outcome::flow(r), h = head(r), e = efficiency(r);
  return q && h && e ? std::optional(r.setting->medium.powerOf(*q, *h) / *e) : std::nullopt;
}
std::optional<double> datumOf(const Reading& r) {
  if (const auto z = get(*r.values, datum, r.setting->medium)) return z->si();
  return r.ends.empty() ? std::nullopt : r.ends[0].height_m;
}
std::optional<double> npshAvailable(const Reading& r) {
  const auto z = datumOf(r);
  if (r.branches.empty() || !r.branches[0].headFrom_m || !z) return std::nullopt;
  return *r.branches[0].headFrom_m - *z + r.setting->vapourDepth_m(*z);
}
std::optional<double> npshRequired(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || *q <= 1e-9 || !running(r)) return std::nullopt;
  return onCurve(r, &CurveRow::npsh_m, true, *q);
}
std::optional<double> npshMargin(const Reading& r) {
  const auto a = npshAvailable(r), b = npshRequired(r);
  return a && b ? std::optional(*a - *b) : std::nullopt;
}
std::optional<double> npshRatio(const Reading& r) {
  const auto a = npshAvailable(r), b = npshRequired(r);
  return a && b && *b > 0 ? std::optional(*a / *b) : std::nullopt;
}
std::optional<double> ofBest(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || !running(r)) return std::nullopt;
  const auto best = bestFlow(rowsOf(*r.values, *r.setting), ratioNow(r));
  return best && *best > 0 ? std::optional(*q / *best) : std::nullopt;
}

bool shutIn(const Reading& r) {
  const auto q = outcome::flow(r);
  return running(r) && hasCurve(*r.values) && !r.branches.empty() &&
         (r.branches[0].state == BranchState::shut || (q && std::abs(*q) < 1e-9));
}

}  // namespace conduit::pump

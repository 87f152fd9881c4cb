#include "parts/pump/machine.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "curve/monotone.h"
#include "parts/pump/motor.h"
#include "quantity/root.h"

namespace conduit::pump {
namespace {

// Makers measure power in cold water, 1,000 kg/m³.
std::optional<double> efficiencyOf(const CurveRow& r, double shaft_w) {
  return shaft_w > 0 ? std::optional(std::clamp(1000 * 9.80665 * r.flow_m3s * r.head_m / shaft_w, 0.0, 1.0))
                     : std::nullopt;
}

}  // namespace

// The rows given (even while released: its efficiency and NPSH still belong to the pump), or three of the
// family through its duty point.
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
    if (!r.efficiency && row.size() > 4 && row[4]) r.efficiency = efficiencyOf(r, row[4]->value);
    out.push_back(r);
  }
  return out;
}

double trimRatio(const Values& values, const Medium& medium) {
  const auto full = get(values, ratedImpeller, medium), cut = get(values, impeller, medium);
  return full && cut ? cut->si() / full->si() : 1.0;
}

OtherCurves otherCurves(const Values& values, const Medium& medium) {
  OtherCurves out;
  const auto* entry = described(values, 0) ? values.entry(otherCurvesKey) : nullptr;
  const Rows* rows = entry ? std::get_if<Rows>(&entry->value) : nullptr;
  if (!rows || rows->empty()) return out;
  const auto rated = get(values, ratedSpeed, medium);
  const auto full = get(values, ratedImpeller, medium);
  std::map<double, std::vector<CurveRow>> by;
  std::optional<bool> bySpeed;
  for (const auto& row : *rows) {
    const auto cell = [&](std::size_t i) { return i < row.size() ? row[i] : std::optional<Given>(); };
    if (!cell(2) || !cell(3)) continue;
    if (cell(0).has_value() == cell(1).has_value()) {
      out.fault = "each row of the other curves needs either a speed or an impeller diameter";
      return out;
    }
    if (bySpeed && *bySpeed != cell(0).has_value()) {
      out.fault = "the other curves must be all at other speeds or all at other impeller diameters";
      return out;
    }
    bySpeed = cell(0).has_value();
    if (*bySpeed ? !rated : !full) {
      out.fault = *bySpeed ? "curves at other speeds need the rated speed of the main curve"
                           : "curves at other diameters need the rated impeller diameter of the main curve";
      return out;
    }
    const double ratio = *bySpeed ? resolve(*cell(0), Measure::rotation, medium) / rated->si()
                                  : resolve(*cell(1), Measure::bore, medium) / full->si();
    CurveRow r{
        resolve(*cell(2), Measure::volumeFlow, medium), resolve(*cell(3), Measure::headDrop, medium), {}, {}};
    if (cell(4)) r.efficiency = cell(4)->value;
    if (cell(5)) r.npsh_m = resolve(*cell(5), Measure::headDrop, medium);
    if (!r.efficiency && cell(6)) r.efficiency = efficiencyOf(r, cell(6)->value);
    by[ratio].push_back(r);
  }
  if (by.empty()) return out;
  if (by.contains(1.0)) {
    out.fault = "one of the other curves has the speed (or impeller diameter) of the main curve";
    return out;
  }
  by[1.0] = makersRows(values, medium);
  for (const auto& [ratio, curve] : by) {
    bool sound = curve.size() >= 2 && curve.back().head_m < curve.front().head_m;
    for (std::size_t i = 0; sound && i + 1 < curve.size(); ++i)
      sound = curve[i].flow_m3s < curve[i + 1].flow_m3s;
    if (!sound && ratio != 1.0) {
      out.fault = "each of the other curves needs two points, increasing flow and falling head";
      return out;
    }
    out.curves.push_back({ratio, curve});
  }
  if (out.curves.size() < 2) out.curves.clear();
  out.bySpeed = *bySpeed;
  return out;
}

namespace {

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
  if (v.b > 1) return v;
  // Thicker than water and yet a great machine: only its efficiency feels it.
  std::optional<double> best;
  for (const CurveRow& r : makersRows(values, setting.medium))
    if (r.efficiency) best = std::max(best.value_or(0.0), *r.efficiency);
  if (!best) return std::nullopt;
  return Viscous{v.b, 1.0, slightlyViscous(*best, setting.viscosity_m2s)};
}

std::vector<CurveRow> rowsOf(const Values& values, const Setting& setting, std::optional<double> ratio) {
  const Medium& medium = setting.medium;
  auto rows = makersRows(values, medium);
  const double cut = trimRatio(values, medium),
               exponent = getOrFallback(values, fields, trimExponent, medium)->si();
  double trim = std::pow(cut, exponent);
  if (const OtherCurves others = otherCurves(values, medium); !others.curves.empty()) {
    if (others.bySpeed) {
      const double s = ratio.value_or(speedRatio(values, medium));
      rows = between(others.curves, s, 1, 2, 2);
      for (CurveRow& r : rows) {
        r.flow_m3s /= s, r.head_m /= s * s;
        if (r.npsh_m) *r.npsh_m /= s * s;
      }
    } else {
      rows = between(others.curves, cut, exponent, exponent, 0);
      trim = 1.0;
    }
  }
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
  for (const CurveRow& row : rowsOf(*r.values, *r.setting, ratioNow(r)))
    if (row.*column) points.push_back({row.flow_m3s, *(row.*column)});
  if (points.size() < 2) return std::nullopt;
  if (!squared && points.front().x > 0)
    points.insert(points.begin(), CurvePoint{0, 0});  // no flow, no useful power
  return MonotoneCurve(std::move(points));
}
std::optional<double> onCurve(const Reading& r, std::optional<double> CurveRow::*column, bool squared,
                              double flow) {
  const auto curve = curveOf(r, column, squared);
  if (!curve) return std::nullopt;
  const double s = ratioNow(r), at = flow / s;
  return curve->at(squared ? std::max(at, curve->points().front().x) : at).value * (squared ? s * s : 1.0);
}
bool running(const Reading& r) { return flagOf(*r.values, *fieldOf("running")); }

double ratioNow(const Reading& r) {
  const double most = speedRatio(*r.values, r.setting->medium);
  if (!keepsSomething(*r.values) || r.branches.empty() || r.branches[0].state != BranchState::acting)
    return most;
  const auto q = outcome::flow(r), h = head(r);
  auto rows = rowsOf(*r.values, *r.setting);
  if (!q || !h || rows.size() < 2) return most;
  const bool several = otherCurves(*r.values, r.setting->medium).bySpeed;
  return halved(1e-3 * most, most, {.times = 100}, [&](double s) {
    if (several) rows = rowsOf(*r.values, *r.setting, s);
    return HeadCurve(rows, s).at(*q).value < *h;
  });
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
  if (r.branches.empty() || !r.branches[0].headFrom_m || !z || !r.setting->vapourKnown) return std::nullopt;
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
  const double s = ratioNow(r);
  const auto best = bestFlow(rowsOf(*r.values, *r.setting, s), s);
  return best && *best > 0 ? std::optional(*q / *best) : std::nullopt;
}

namespace {

// Of one stage and one eye at best flow: flow m³/s, head m, NPSH required m, speed 1/min.
struct BestPoint {
  double flow_m3s, head_m;
  std::optional<double> npsh_m;
  double rpm;
};
std::optional<BestPoint> bestPoint(const Values& values, const Setting& setting) {
  const auto rows = makersRows(values, setting.medium);
  const auto n = get(values, ratedSpeed, setting.medium);
  std::optional<double> best = bestFlow(rows, 1.0);
  if (byPoint(values) && !best)
    if (const auto duty = get(values, dutyFlow, setting.medium)) best = duty->si();
  if (!n || rows.size() < 2 || !best || *best <= 0) return std::nullopt;
  const HeadCurve curve(rows, 1.0);
  BestPoint out{*best,
                curve.at(*best).value / getOrFallback(values, fields, stageCount, setting.medium)->si(),
                {},
                n->si() * 60};
  if (word(values, constructionKey, constructions[0]) == constructions[3]) out.flow_m3s /= 2;
  std::vector<CurvePoint> npsh;
  for (const CurveRow& r : rows)
    if (r.npsh_m) npsh.push_back({r.flow_m3s, *r.npsh_m});
  if (npsh.size() >= 2) out.npsh_m = MonotoneCurve(std::move(npsh)).at(*best).value;
  return out.head_m > 0 ? std::optional(out) : std::nullopt;
}

}  // namespace

std::optional<double> specificSpeed(const Values& values, const Setting& setting) {
  const auto p = bestPoint(values, setting);
  return p ? std::optional(p->rpm * std::sqrt(p->flow_m3s) / std::pow(p->head_m, 0.75)) : std::nullopt;
}
std::optional<double> suctionSpecificSpeed(const Values& values, const Setting& setting) {
  const auto p = bestPoint(values, setting);
  return p && p->npsh_m && *p->npsh_m > 0
             ? std::optional(p->rpm * std::sqrt(p->flow_m3s) / std::pow(*p->npsh_m, 0.75))
             : std::nullopt;
}
Region regionOf(const Values& values, const Setting& setting) {
  Region region;
  if (const auto nq = specificSpeed(values, setting); nq && *nq > 87) region = {0.8, 1.15, false};
  if (const auto least = get(values, ofBestLeast, setting.medium))
    region.least = least->si(), region.given = true;
  if (const auto most = get(values, ofBestMost, setting.medium))
    region.most = most->si(), region.given = true;
  return region;
}

std::optional<double> driveEfficiency(const Values& values) {
  const auto own = get(values, driveShare, Medium{});
  return own ? std::optional(own->si()) : std::nullopt;
}
std::optional<MotorNow> motorNow(const Reading& r) {
  const auto shaft = shaftPower(r);
  const auto rating = get(*r.values, driver, r.setting->medium);
  const auto own = get(*r.values, motorFull, r.setting->medium);
  const auto n = get(*r.values, ratedSpeed, r.setting->medium);
  if (!shaft || *shaft <= 0) return std::nullopt;
  const double units = getOrFallback(*r.values, fields, unitCount, r.setting->medium)->si();
  MotorNow now{.own = own.has_value(), .full = own ? own->si() : 0.0};
  if (!own && rating && n)
    now.full = fullLoadEfficiency(word(*r.values, motorClassKey, motorClasses[0]),
                                  polesFor(n->si(), r.setting->mains_hz), rating->si(), r.setting->mains_hz)
                   .value_or(0.0);
  std::vector<CurvePoint> loads;
  if (const auto* entry = r.values->entry(motorLoadsKey))
    if (const Rows* rows = std::get_if<Rows>(&entry->value))
      for (const auto& row : *rows)
        if (row.size() > 1 && row[0] && row[1] && (loads.empty() || row[0]->value > loads.back().x))
          loads.push_back({row[0]->value, row[1]->value});
  if (!rating) {  // no load is known without a rating
    if (!loads.empty() || now.full <= 0) return std::nullopt;
    now.efficiency = now.full;
    return now;
  }
  now.load = *shaft / units / rating->si();
  if (loads.size() >= 2) {
    now.curve.emplace(std::move(loads));
    now.efficiency = now.curve->at(now.loadOnCurve()).value;
    return now;
  }
  if (now.full <= 0) return std::nullopt;
  now.efficiency = partLoadEfficiency(now.full, *now.load);
  return now;
}
std::optional<double> motorEfficiency(const Reading& r) {
  const auto now = motorNow(r);
  return now ? std::optional(now->efficiency) : std::nullopt;
}
std::optional<double> motorPower(const Reading& r) {
  const auto shaft = shaftPower(r), eta = motorEfficiency(r);
  return shaft && eta && *eta > 0 ? std::optional(*shaft / *eta) : std::nullopt;
}

bool shutIn(const Reading& r) {
  const auto q = outcome::flow(r);
  return running(r) && hasCurve(*r.values) && !r.branches.empty() &&
         (r.branches[0].state == BranchState::shut || (q && std::abs(*q) < 1e-9));
}

}  // namespace conduit::pump

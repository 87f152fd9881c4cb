#include "pump/curve_sheet.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/pump/machine.h"
#include "quantity/format.h"
#include "quantity/root.h"

namespace conduit {
namespace {

std::optional<double> along(const Line& line, double q) {
  if (line.size() < 2 || q < line.front().flow_m3s || q > line.back().flow_m3s) return std::nullopt;
  for (std::size_t i = 0; i + 1 < line.size(); ++i) {
    const DutyPoint &a = line[i], &b = line[i + 1];
    if (q > b.flow_m3s) continue;
    const double width = b.flow_m3s - a.flow_m3s;
    return width > 0 ? a.head_m + (q - a.flow_m3s) / width * (b.head_m - a.head_m) : b.head_m;
  }
  return std::nullopt;
}

constexpr int steps = 60;

Line headLine(const std::vector<pump::CurveRow>& rows, double s) {
  const pump::HeadCurve curve(rows, s);
  Line line;
  for (int i = 0; i <= steps; ++i) {
    const double q = curve.last() * i / steps;
    line.push_back({q, curve.at(q).value});
  }
  return line;
}

// A column of rows at a speed; `squared`: it grows with the speed squared.
std::optional<MonotoneCurve> columnOf(const std::vector<pump::CurveRow>& rows,
                                      std::optional<double> pump::CurveRow::*column, bool fromNothing) {
  std::vector<CurvePoint> points;
  for (const pump::CurveRow& r : rows)
    if (r.*column) points.push_back({r.flow_m3s, *(r.*column)});
  if (points.size() < 2) return std::nullopt;
  if (fromNothing && points.front().x > 0) points.insert(points.begin(), CurvePoint{0, 0});
  return MonotoneCurve(std::move(points));
}

// Flows at which one curve has an efficiency: left and right of its top; empty where it does not reach it.
struct Sides {
  std::optional<double> left, right;
};
Sides sidesAt(const MonotoneCurve& eta, double last, double level) {
  Sides sides;
  double best = 0.0, at = 0.0;
  for (int i = 0; i <= 200; ++i)
    if (const double v = eta.at(last * i / 200).value; v > best) best = v, at = last * i / 200;
  if (best < level) return sides;
  const auto root = [&](double low, double high, bool rising) {
    return halved(low, high, {}, [&](double x) { return (eta.at(x).value < level) == rising; });
  };
  sides.left = root(0, at, true);
  if (eta.at(last).value < level) sides.right = root(at, last, false);
  return sides;
}

std::string rpm(double perS, const UnitSet& units) { return withUnit(perS, Measure::rotation, units); }

}  // namespace

std::optional<double> CurveSheet::headAt(double q) const { return along(head, q); }
std::optional<double> CurveSheet::efficiencyAt(double q) const { return along(efficiency, q); }
std::optional<double> CurveSheet::shaftAt(double q) const { return along(shaft_w, q); }
std::optional<double> CurveSheet::npshAt(double q) const { return along(npshRequired, q); }

CurveSheet curveSheetOf(const Values& values, const Setting& setting, double s, const UnitSet& units) {
  CurveSheet sheet;
  const Medium& medium = setting.medium;
  const auto rated = get(values, pump::ratedSpeed, medium);
  if (rated) sheet.rated_perS = rated->si(), sheet.speed_perS = rated->si() * s;
  if (const auto d = get(values, pump::driver, medium)) sheet.driver_w = d->si();
  sheet.units = pump::parallelUnits(values, medium);
  const pump::Region region = pump::regionOf(values, setting);
  sheet.preferredLeast = region.least, sheet.preferredMost = region.most;
  if (const auto v = get(values, pump::allowedLeast, medium)) sheet.allowedLeast = v->si();
  if (const auto v = get(values, pump::allowedMost, medium)) sheet.allowedMost = v->si();
  const auto rows = pump::rowsOf(values, setting, s);
  if (rows.size() < 2 || !pump::hasCurve(values)) return sheet;
  for (std::size_t i = 0; i + 1 < rows.size(); ++i)
    if (!(rows[i].flow_m3s < rows[i + 1].flow_m3s)) return sheet;
  sheet.empty = false;
  sheet.nq = pump::specificSpeed(values, setting), sheet.nss = pump::suctionSpecificSpeed(values, setting);
  sheet.head = headLine(rows, s);
  const pump::HeadCurve curve(rows, s);
  sheet.shutOff_m = curve.shutOff(), sheet.runOut_m3s = curve.last();
  sheet.best_m3s = pump::bestFlow(rows, s);
  const auto eta = columnOf(rows, &pump::CurveRow::efficiency, true);
  const auto npsh = columnOf(rows, &pump::CurveRow::npsh_m, false);
  for (int i = 0; i <= steps; ++i) {
    const double q = curve.last() * i / steps;
    if (eta) {
      const double e = std::clamp(eta->at(q / s).value, 0.0, 1.0);
      sheet.efficiency.push_back({q, e});
      if (e > 0.02) sheet.shaft_w.push_back({q, medium.powerOf(q, curve.at(q).value) / e});
    }
    if (npsh) sheet.npshRequired.push_back({q, npsh->at(q / s).value * s * s});
  }
  if (sheet.units > 1)
    for (const DutyPoint& p : sheet.head) sheet.oneUnit.push_back({p.flow_m3s / sheet.units, p.head_m});

  // Other speeds: those of given curves, else round tenths below.
  const pump::OtherCurves others = pump::otherCurves(values, medium);
  std::vector<double> ratios;
  if (rated) {
    if (others.bySpeed && !others.curves.empty())
      for (const pump::MeasuredAt& c : others.curves) ratios.push_back(c.ratio);
    else ratios = {s > 1 ? 1.0 : 0.9 * s, 0.8 * s};
    for (const double r : ratios)
      if (std::abs(r - s) > 1e-6)
        sheet.speeds.push_back(
            {rpm(rated->si() * r, units), r / s, headLine(pump::rowsOf(values, setting, r), r)});
  }
  // Other impellers, at the speed it runs at.
  const auto full = get(values, pump::ratedImpeller, medium);
  if (full) {
    const double now = pump::trimRatio(values, medium);
    std::vector<double> trims;
    if (!others.bySpeed && !others.curves.empty())
      for (const pump::MeasuredAt& c : others.curves) trims.push_back(c.ratio);
    else trims = {1.0, 0.93, 0.86};
    for (const double t : trims) {
      if (std::abs(t - now) < 1e-6) continue;
      Values v = values;
      v.set(pump::impeller.text, Given{.value = full->si() * t});
      sheet.trims.push_back({withUnit(full->si() * t, Measure::bore, units), t / now,
                             headLine(pump::rowsOf(v, setting, s), s)});
    }
  }
  if (!eta) return sheet;
  double best = 0.0;
  for (const DutyPoint& p : sheet.efficiency) best = std::max(best, p.head_m);
  const double step = best > 0.5 ? 0.05 : 0.1;
  std::vector<double> levels;
  for (double level = std::floor((best - 0.005) / step) * step; level > 0.4 * best && levels.size() < 4;
       level -= step)
    levels.push_back(level);
  // Over speeds (or impellers) from the least of the family to the greatest.
  const bool measured = !others.curves.empty();
  sheet.equalMeasured = measured;
  const bool overTrims = measured && !others.bySpeed;
  if (!overTrims && !rated) return sheet;
  double low = overTrims ? others.curves.front().ratio : s * 0.7,
         high = overTrims ? others.curves.back().ratio : s;
  if (measured && !overTrims)
    low = std::min(s, others.curves.front().ratio), high = std::max(s, others.curves.back().ratio);
  for (const double level : levels) {
    Line left, right;
    for (int k = 0; k <= 30; ++k) {
      const double r = low + (high - low) * k / 30;
      Values v = values;
      if (overTrims && full) v.set(pump::impeller.text, Given{.value = full->si() * r});
      const double at = overTrims ? s : r;
      const auto these = pump::rowsOf(v, setting, at);
      const auto e = columnOf(these, &pump::CurveRow::efficiency, true);
      if (these.size() < 2 || !e) continue;
      const pump::HeadCurve h(these, at);
      const Sides sides = sidesAt(*e, these.back().flow_m3s, level);
      if (sides.left) left.push_back({*sides.left * at, h.at(*sides.left * at).value});
      if (sides.right) right.push_back({*sides.right * at, h.at(*sides.right * at).value});
    }
    if (measured) {
      // One line around: up the left, down the right.
      Line round = left;
      round.insert(round.end(), right.rbegin(), right.rend());
      if (round.size() > 2) sheet.equal.push_back({level, std::move(round)});
    } else {
      for (Line* side : {&left, &right})
        if (side->size() > 2) sheet.equal.push_back({level, std::move(*side)});
    }
  }
  return sheet;
}

CurveSheet curveSheet(const Network& network, const Solution& solution, Id pump, const UnitSet& units) {
  const ReadingOf r(network, solution, pump);
  return curveSheetOf(*r->values, *r->setting, pump::ratioNow(*r), units);
}

std::vector<std::string> doubts(const Values& values, const Setting& setting, const UnitSet& units) {
  std::vector<std::string> said;
  const auto rows = pump::makersRows(values, setting.medium);
  if (!pump::hasCurve(values) || rows.size() < 2) return said;
  const auto best = pump::bestFlow(rows, 1.0);
  if (!best) {
    said.push_back("no efficiency given: BEP, power and preferred region unknown");
    return said;
  }
  const auto top = std::max_element(rows.begin(), rows.end(), [](const auto& a, const auto& b) {
    return a.efficiency.value_or(0) < b.efficiency.value_or(0);
  });
  if (top + 1 == rows.end())
    said.push_back(fmt::format("efficiency still rises at the last flow, {}: BEP lies beyond the table",
                               withUnit(rows.back().flow_m3s, Measure::volumeFlow, units)));
  const pump::HeadCurve curve(rows, 1.0);
  const double ratio = curve.shutOff() / curve.at(*best).value;
  const auto nq = pump::specificSpeed(values, setting);
  if (nq) {
    if (*nq < 8 || *nq > 250)
      said.push_back(
          fmt::format("specific speed nq is {}; centrifugal pumps range from 10 to about 200: check speed, "
                      "stages and number of pumps",
                      digits(*nq, 3)));
    else if (const double usual = pump::shapeAt(*nq).h0; ratio > usual * 1.2 || ratio < usual * 0.85)
      said.push_back(fmt::format("shut-off head is {} of BEP head; at nq {} about {} is usual",
                                 digits(ratio, 3), digits(*nq, 3), digits(usual, 3)));
    const double q = std::max(*best, 0.002), a = q <= 1 ? 1.0 : 0.5,
                 most = 1 - 0.095 * std::pow(q, -0.1 * a * std::pow(q, -0.15) * std::pow(45 / *nq, 0.06)) -
                        0.3 * std::pow(0.35 - std::log10(*nq / 23), 2) * std::pow(q, -0.05);
    if (top->efficiency && *top->efficiency > most + 0.06)
      said.push_back(
          fmt::format("efficiency {} is above what is achieved at this flow and nq: about {} is usual",
                      withUnit(*top->efficiency, Measure::ratio, units, 3),
                      withUnit(std::max(most, 0.0), Measure::ratio, units, 2)));
  } else {
    said.push_back("no rated speed given: specific speeds unknown");
  }
  if (const auto nss = pump::suctionSpecificSpeed(values, setting)) {
    if (*nss > 260 || *nss < 100)
      said.push_back(fmt::format("suction specific speed nss is {}: 160 to 220 is usual{}", digits(*nss, 3),
                                 *nss > 260 ? "; above that the stable range narrows" : ""));
  }
  return said;
}

Line npshAvailable(const Network& network, const Stock* stock, const Solution& base, Id pump, double most,
                   const JobOptions& jobs) {
  constexpr std::size_t count = 13;
  std::vector<Workspace> spaces(lanes(jobs));
  const auto results = runJobs(
      count,
      [&](std::size_t i, std::size_t lane, std::stop_token stop) -> std::optional<double> {
        const double q = most * std::max(static_cast<double>(i) / (count - 1), 1e-3);
        SolveOptions options{.stop = stop, .offers = 0, .workspace = &spaces[lane]};
        options.passes[pump] = q;
        if (base.summary.usable()) options.startFrom = &base;
        const Solution answer = solve(network, stock, options);
        if (!answer.summary.usable()) return std::nullopt;
        const ReadingOf r(network, answer, pump);
        return pump::npshAvailable(*r);
      },
      jobs);
  Line line;
  for (std::size_t i = 0; i < count; ++i)
    if (results[i] && *results[i])
      line.push_back({most * std::max(static_cast<double>(i) / (count - 1), 1e-3), **results[i]});
  return line;
}

}  // namespace conduit

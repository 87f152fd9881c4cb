#include "parts/pump/curve.h"

#include <algorithm>
#include <cmath>

namespace conduit::pump {

Shape shapeAt(double nq) {
  static constexpr double nqs[] = {10, 20, 30, 40, 60, 80, 100, 150, 200};
  static constexpr Shape rows[] = {{1.14, 2.2, 0.42}, {1.18, 2.1, 0.48},  {1.24, 2.0, 0.54},
                                   {1.30, 1.9, 0.60}, {1.42, 1.75, 0.74}, {1.57, 1.6, 0.90},
                                   {1.75, 1.5, 1.05}, {2.25, 1.25, 1.45}, {2.80, 1.1, 1.90}};
  nq = std::clamp(nq, nqs[0], nqs[8]);
  std::size_t i = 0;
  while (i < 7 && nq > nqs[i + 1]) ++i;
  const double t = std::log(nq / nqs[i]) / std::log(nqs[i + 1] / nqs[i]);
  const auto mix = [&](double a, double b) { return a + t * (b - a); };
  return {mix(rows[i].h0, rows[i + 1].h0), mix(rows[i].m, rows[i + 1].m), mix(rows[i].p0, rows[i + 1].p0)};
}

Viscous viscousFactors(double viscosity_m2s, double best_m3s, double head_m, double speed_perS) {
  Viscous v;
  v.b = 16.5 * std::sqrt(viscosity_m2s * 1e6) * std::pow(head_m, 0.0625) /
        (std::pow(best_m3s * 3600, 0.375) * std::pow(speed_perS * 60, 0.25));
  if (v.b <= 1) return v;
  v.cq = std::pow(2.71, -0.165 * std::pow(std::log10(v.b), 3.15));
  v.ceta = std::pow(v.b, -0.0547 * std::pow(v.b, 0.69));
  return v;
}

double slightlyViscous(double efficiency, double viscosity_m2s) {
  const double eta = std::clamp(efficiency, 0.01, 1.0);
  return std::max(0.01, (1 - (1 - eta) * std::pow(viscosity_m2s * 1e6, 0.07)) / eta);
}

namespace {

// A column of rows at shares of their last flow; empty where it is not known there.
std::optional<double> columnAt(const std::vector<CurveRow>& rows, double share,
                               std::optional<double> (*column)(const CurveRow&)) {
  std::vector<CurvePoint> points;
  for (const CurveRow& r : rows)
    if (const auto v = column(r)) points.push_back({r.flow_m3s, *v});
  const double q = share * rows.back().flow_m3s;
  for (const CurvePoint& p : points)
    if (p.x == q) return p.y;
  if (points.size() < 2 || q < points.front().x || q > points.back().x) return std::nullopt;
  return MonotoneCurve(std::move(points)).at(q).value;
}
constexpr std::optional<double> (*columns[])(const CurveRow&) = {
    [](const CurveRow& r) { return std::optional(r.head_m); },
    [](const CurveRow& r) { return r.efficiency; },
    [](const CurveRow& r) { return r.npsh_m; },
};

}  // namespace

std::vector<CurveRow> between(const std::vector<MeasuredAt>& curves, double ratio, double ofFlow,
                              double ofHead, double ofNpsh) {
  const auto scaled = [&](const MeasuredAt& from) {
    auto rows = from.rows;
    const double by = ratio / from.ratio;
    for (CurveRow& r : rows) {
      r.flow_m3s *= std::pow(by, ofFlow);
      r.head_m *= std::pow(by, ofHead);
      if (r.npsh_m) *r.npsh_m *= std::pow(by, ofNpsh);
    }
    return rows;
  };
  std::size_t above = 0;
  while (above < curves.size() && curves[above].ratio < ratio) ++above;
  if (above == curves.size()) return scaled(curves.back());
  if (above == 0 || curves[above].ratio == ratio) return scaled(curves[above]);
  const auto low = scaled(curves[above - 1]), high = scaled(curves[above]);
  if (low.size() < 2 || high.size() < 2) return low.size() < 2 ? high : low;
  const double w = (ratio - curves[above - 1].ratio) / (curves[above].ratio - curves[above - 1].ratio);
  std::vector<double> shares;
  for (const auto* rows : {&low, &high})
    for (const CurveRow& r : *rows) shares.push_back(r.flow_m3s / rows->back().flow_m3s);
  std::sort(shares.begin(), shares.end());
  shares.erase(std::unique(shares.begin(), shares.end(), [](double a, double b) { return b - a < 1e-6; }),
               shares.end());
  std::vector<CurveRow> rows;
  for (const double share : shares) {
    std::optional<double> mixed[3];
    for (std::size_t c = 0; c < 3; ++c)
      if (const auto a = columnAt(low, share, columns[c]), b = columnAt(high, share, columns[c]); a && b)
        mixed[c] = *a + w * (*b - *a);
    const double q = share * (low.back().flow_m3s + w * (high.back().flow_m3s - low.back().flow_m3s));
    if (mixed[0]) rows.push_back({q, *mixed[0], mixed[1], mixed[2]});
  }
  return rows;
}

std::optional<double> bestOf(const std::vector<CurveRow>& rows) {
  std::optional<double> best, most;
  for (const CurveRow& r : rows)
    if (r.efficiency && (!most || *r.efficiency > *most)) most = r.efficiency, best = r.flow_m3s;
  return best;
}

std::optional<ThreePoint> threePoint(const std::vector<CurveRow>& rows) {
  if (rows.size() != 3 || rows[0].flow_m3s != 0.0) return std::nullopt;
  const double h0 = rows[0].head_m, h1 = rows[1].head_m, h2 = rows[2].head_m;
  if (!(h0 > h1 && h1 > h2)) return std::nullopt;
  const double b = std::log((h0 - h2) / (h0 - h1)) / std::log(rows[2].flow_m3s / rows[1].flow_m3s);
  if (!(b > 0.2)) return std::nullopt;
  return ThreePoint{h0, (h0 - h1) / std::pow(rows[1].flow_m3s, b), b};
}

std::optional<double> bestFlow(const std::vector<CurveRow>& rows, double s) {
  std::vector<CurvePoint> points;
  for (const CurveRow& r : rows)
    if (r.efficiency) points.push_back({r.flow_m3s, *r.efficiency});
  if (points.size() < 2) return std::nullopt;
  const MonotoneCurve curve(points);
  // The best point of a smooth curve through few points lies between them: parabola through the best and its
  // neighbours.
  std::size_t best = 0;
  for (std::size_t i = 1; i < points.size(); ++i)
    if (points[i].y > points[best].y) best = i;
  if (best == 0 || best + 1 == points.size()) return points[best].x * s;
  const auto &a = points[best - 1], &b = points[best], &c = points[best + 1];
  const double u = (b.y - a.y) / (b.x - a.x), w = (c.y - b.y) / (c.x - b.x), bend = (w - u) / (c.x - a.x);
  if (bend >= 0) return b.x * s;
  return std::clamp((a.x + b.x) / 2 - u / (2 * bend), a.x, c.x) * s;
}

}  // namespace conduit::pump

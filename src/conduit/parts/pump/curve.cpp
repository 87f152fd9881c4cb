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

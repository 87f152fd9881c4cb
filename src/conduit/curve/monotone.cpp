#include "curve/monotone.h"

#include <algorithm>
#include <cmath>

#include "say/ensure.h"

namespace conduit {
namespace {

// One-sided three-point slope, held to the shape of the data (Fritsch and Butland 1984, section 3).
double endSlope(double h0, double h1, double d0, double d1) {
  double slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
  if (slope * d0 <= 0) return 0.0;
  if (d0 * d1 <= 0 && std::abs(slope) > 3 * std::abs(d0)) slope = 3 * d0;
  return slope;
}

}  // namespace

MonotoneCurve::MonotoneCurve(std::vector<CurvePoint> points) : points_(std::move(points)) {
  const std::size_t n = points_.size();
  ensure(n >= 2, "a curve needs two points");
  std::vector<double> h(n - 1), d(n - 1);
  for (std::size_t i = 0; i + 1 < n; ++i) {
    h[i] = points_[i + 1].x - points_[i].x;
    ensure(h[i] > 0, "a curve's points must rise in x");
    d[i] = (points_[i + 1].y - points_[i].y) / h[i];
  }
  slopes_.resize(n);
  if (n == 2) {
    slopes_ = {d[0], d[0]};
    return;
  }
  slopes_.front() = endSlope(h[0], h[1], d[0], d[1]);
  slopes_.back() = endSlope(h[n - 2], h[n - 3], d[n - 2], d[n - 3]);
  for (std::size_t i = 1; i + 1 < n; ++i) {
    if (d[i - 1] * d[i] <= 0) continue;
    const double w1 = 2 * h[i] + h[i - 1], w2 = h[i] + 2 * h[i - 1];
    slopes_[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
  }
}

MonotoneCurve::Piece MonotoneCurve::pieceAt(double x) const {
  if (x <= points_.front().x)
    return {points_.front(), points_.front(), slopes_.front(), slopes_.front(), true};
  if (x >= points_.back().x) return {points_.back(), points_.back(), slopes_.back(), slopes_.back(), true};
  const auto after = std::upper_bound(points_.begin(), points_.end(), x,
                                      [](double v, const CurvePoint& p) { return v < p.x; });
  const auto i = static_cast<std::size_t>(after - points_.begin()) - 1;
  return {points_[i], points_[i + 1], slopes_[i], slopes_[i + 1], false};
}

CurveValue MonotoneCurve::at(double x) const {
  if (x <= points_.front().x)
    return {points_.front().y + slopes_.front() * (x - points_.front().x), slopes_.front()};
  if (x >= points_.back().x)
    return {points_.back().y + slopes_.back() * (x - points_.back().x), slopes_.back()};
  const auto after = std::upper_bound(points_.begin(), points_.end(), x,
                                      [](double v, const CurvePoint& p) { return v < p.x; });
  const auto i = static_cast<std::size_t>(after - points_.begin()) - 1;
  const double h = points_[i + 1].x - points_[i].x, s = (x - points_[i].x) / h, s2 = s * s, s3 = s2 * s;
  const double y0 = points_[i].y, y1 = points_[i + 1].y, m0 = h * slopes_[i], m1 = h * slopes_[i + 1];
  return {(2 * s3 - 3 * s2 + 1) * y0 + (s3 - 2 * s2 + s) * m0 + (3 * s2 - 2 * s3) * y1 + (s3 - s2) * m1,
          ((6 * s2 - 6 * s) * (y0 - y1) + (3 * s2 - 4 * s + 1) * m0 + (3 * s2 - 2 * s) * m1) / h};
}

}  // namespace conduit

#include "parts/law.h"

#include <algorithm>
#include <cmath>

#include "quantity/quantity.h"

namespace conduit {

PowerLoss::PowerLoss(double resistance, double exponent) : r(resistance), n(exponent) {
  if (r <= 0.0) return;
  lowFlow_m3s = std::pow(smallLoss_m / r, 1.0 / n);
  const double chord = smallLoss_m / lowFlow_m3s;
  a = chord * (3.0 - n) / 2.0;
  b = chord * (n - 1.0) / (2.0 * lowFlow_m3s * lowFlow_m3s);
}

Loss PowerLoss::at(double q) const {
  const double size = std::abs(q);
  if (r <= 0.0) return {leastSlope_sm2 * q, leastSlope_sm2};
  if (size < lowFlow_m3s) return {q * (a + b * q * q), std::max(a + 3 * b * q * q, leastSlope_sm2)};
  if (n == 2.0) return {r * q * size, std::max(2 * r * size, leastSlope_sm2)};
  const double per = r * std::pow(size, n - 1.0);
  return {per * q, std::max(n * per, leastSlope_sm2)};
}

double velocityHeadFactor(double bore_m, double gravity_ms2) {
  const double area = pi / 4 * bore_m * bore_m;
  return 1.0 / (2 * gravity_ms2 * area * area);
}

}  // namespace conduit

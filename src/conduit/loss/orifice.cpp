#include "loss/orifice.h"

#include <algorithm>
#include <cmath>

#include "quantity/quantity.h"

namespace conduit::orifice {

double leastReynolds(double b, double pipe_m, Taps taps) {
  if (taps == Taps::flange) return std::max(5000.0, 170.0 * b * b * pipe_m * 1000);
  return b <= 0.56 ? 5000.0 : 16000.0 * b * b;
}

Coefficient coefficient(double b, double re, double pipe_m, Taps taps) {
  const double d_mm = pipe_m * 1000, b4 = b * b * b * b;
  const double l1 = taps == Taps::corner ? 0.0 : taps == Taps::halfway ? 1.0 : 25.4 / d_mm;
  const double l2 = taps == Taps::corner ? 0.0 : taps == Taps::halfway ? 0.47 : 25.4 / d_mm;
  const double a = std::pow(19000 * b / re, 0.8), aSlope = -0.8 * a / re;
  const double m = 2 * l2 / (1 - b);
  const double t1 = 0.000521 * std::pow(1e6 * b / re, 0.7), t1Slope = -0.7 * t1 / re;
  const double r3 = std::pow(1e6 / re, 0.3), b35 = std::pow(b, 3.5);
  const double t2 = (0.0188 + 0.0063 * a) * b35 * r3, t2Slope = 0.0063 * aSlope * b35 * r3 - 0.3 * t2 / re;
  const double up = (0.043 + 0.080 * std::exp(-10 * l1) - 0.123 * std::exp(-7 * l1)) * b4 / (1 - b4);
  double c = 0.5961 + 0.0261 * b * b - 0.216 * b4 * b4 + t1 + t2 + up * (1 - 0.11 * a) -
             0.031 * (m - 0.8 * std::pow(m, 1.1)) * std::pow(b, 1.3);
  if (d_mm < 71.12) c += 0.011 * (0.75 - b) * (2.8 - d_mm / 25.4);
  return {c, t1Slope + t2Slope - 0.11 * up * aSlope};
}

double meteredDrop_pa(double q, double rho, double b, double pipe_m, double c) {
  const double d = b * pipe_m, v = 4 * q / (pi * d * d * c);
  return rho * (1 - b * b * b * b) / 2 * v * v;
}

PermanentK permanentK(double b, double c) {
  const double b2 = b * b, b4 = b2 * b2, s = std::sqrt(1 - b4 * (1 - c * c)), root = s / (c * b2) - 1;
  const double sByC = b4 * c / s;
  return {root * root, 2 * root * (sByC / (c * b2) - s / (c * c * b2))};
}

}  // namespace conduit::orifice

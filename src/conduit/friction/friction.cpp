#include "friction/friction.h"

#include <cmath>

namespace conduit::friction {

Factor colebrook(double re, double relativeRoughness, double& guess) {
  constexpr double c = 0.86858896380650365;  // 2 / ln 10
  const double a = relativeRoughness / 3.7, b = 2.51 / re;
  // Start (when none is at hand): Haaland, J. Fluids Eng. 105 (1983) 89, within 1.4 %.
  double x = guess > 0.0 ? guess : -1.8 * std::log10(std::pow(a, 1.11) + 6.9 / re);
  if (!(x > 0.1)) x = 0.1;
  for (int step = 0; step < 40; ++step) {
    // Chebyshev's step: its error is of the third order, so a change this small leaves nothing above rounding.
    const double inside = a + b * x, t = c * b / inside, perSlope = 1.0 / (1.0 + t);
    const double newton = (x + c * std::log(inside)) * perSlope, change = newton * (1.0 - 0.5 * newton * t * t * perSlope / c);
    x -= change;
    if (!(x > 0.0)) x = 0.1;
    if (std::abs(change) < 1e-5 * x) break;
  }
  guess = x;
  return {1.0 / (x * x), -2.0 * b * c / (a + b * x + b * c)};
}

Factor factor(double re, double relativeRoughness, double& guess) {
  if (re <= laminarEnd_re) return {64.0 / re, -1.0};
  if (re >= turbulentBegin_re) return colebrook(re, relativeRoughness, guess);
  double fresh = 0.0;
  const Factor end = colebrook(turbulentBegin_re, relativeRoughness, fresh);
  const double width = std::log(turbulentBegin_re / laminarEnd_re), s = std::log(re / laminarEnd_re) / width;
  const double y0 = std::log(64.0 / laminarEnd_re), y1 = std::log(end.f), m0 = -width, m1 = end.logSlope * width;
  const double s2 = s * s, s3 = s2 * s;
  const double y = (2 * s3 - 3 * s2 + 1) * y0 + (s3 - 2 * s2 + s) * m0 + (3 * s2 - 2 * s3) * y1 + (s3 - s2) * m1;
  const double dy = (6 * s2 - 6 * s) * (y0 - y1) + (3 * s2 - 4 * s + 1) * m0 + (3 * s2 - 2 * s) * m1;
  return {std::exp(y), dy / width};
}

double resistance(const HazenWilliams& law, double length_m, double bore_m, double c) {
  return law.coefficient * length_m / (std::pow(c, law.flowExponent) * std::pow(bore_m, law.boreExponent));
}

}  // namespace conduit::friction

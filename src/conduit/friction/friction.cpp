#include "friction/friction.h"

#include <algorithm>
#include <cmath>

namespace conduit::friction {

namespace {

// ln(1 − u) to rounding for |u| <= 0.05: −2 artanh(u / (2 − u)), four terms.
double logNearOne(double u) {
  const double w = u / (2.0 - u), w2 = w * w;
  return -2.0 * w * (1.0 + w2 * (1.0 / 3 + w2 * (1.0 / 5 + w2 / 7)));
}

}  // namespace

Factor colebrook(double re, double relativeRoughness, double& guess) {
  constexpr double c = 0.86858896380650365;  // 2 / ln 10
  const double a = relativeRoughness * (1.0 / 3.7), b = 2.51 / re;
  // Start (when none is at hand): one turn of x = −c ln(a + b x) from the middle of what occurs, within 10 %.
  double x = guess > 0.0 ? guess : std::max(-c * std::log(a + 7.0 * b), 0.1);
  for (int step = 0; step < 40; ++step) {
    // With x − δ for the root and u = δ b/(a + b x): u = p − k (u²/2 + u³/3 + …), from the series of ln(1 −
    // u). Reversed to the fifth power of p that is exact to rounding near the root, without a division;
    // further off one step of Newton follows, with the series in place of a second logarithm.
    const double inside = a + b * x, r = x + c * std::log(inside), per = 1.0 / (inside + c * b),
                 k = c * b * per, p = b * r * per;
    const double a2 = -0.5 * k, a3 = -k * (a2 + 1.0 / 3), a4 = -k * (0.5 * a2 * a2 + a3 + a2 + 0.25),
                 a5 = -k * (a4 + a2 * a3 + a3 + a2 * a2 + a2 + 0.2);
    const bool near = std::abs(p) <= 0.05;
    const double share = near ? 1.0 + p * (a2 + p * (a3 + p * (a4 + p * a5))) : 1.0 + p * a2;
    double change = r * inside * per * share;
    if (near && std::abs(p) > 0.004) {
      const double u = p * share;
      change -= (change - r - c * logNearOne(u)) / (1.0 + c * b / (inside * (1.0 - u)));
    }
    x -= change;
    if (!(x > 0.0)) x = 0.1;
    else if (near) break;
  }
  guess = x;
  const double slopeOf = a + b * x + b * c, per = 1.0 / (x * x * slopeOf);
  return {slopeOf * per, -2.0 * b * c * x * x * per};
}

Factor bridge(double re, double relativeRoughness, double& guess) {
  const Factor end = colebrook(turbulentBegin_re, relativeRoughness, guess);
  const double width = std::log(turbulentBegin_re / laminarEnd_re), s = std::log(re / laminarEnd_re) / width;
  const double y0 = std::log(64.0 / laminarEnd_re), y1 = std::log(end.f), m0 = -width,
               m1 = end.logSlope * width;
  const double s2 = s * s, s3 = s2 * s;
  const double y =
      (2 * s3 - 3 * s2 + 1) * y0 + (s3 - 2 * s2 + s) * m0 + (3 * s2 - 2 * s3) * y1 + (s3 - s2) * m1;
  const double dy = (6 * s2 - 6 * s) * (y0 - y1) + (3 * s2 - 4 * s + 1) * m0 + (3 * s2 - 2 * s) * m1;
  return {std::exp(y), dy / width};
}

double resistance(const HazenWilliams& law, double length_m, double bore_m, double c) {
  return law.coefficient * length_m / (std::pow(c, law.flowExponent) * std::pow(bore_m, law.boreExponent));
}

}  // namespace conduit::friction

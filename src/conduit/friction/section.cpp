#include "friction/section.h"

#include <algorithm>
#include <cmath>

#include "quantity/quantity.h"

namespace conduit::friction {

Section roundSection(double d) { return {pi / 4 * d * d, d, 1.0}; }

Section rectangle(double w, double h) {
  const double s = std::min(w, h) / std::max(w, h);
  const double fRe = 96 * (1 + s * (-1.3553 + s * (1.9467 + s * (-1.7012 + s * (0.9564 - s * 0.2537)))));
  return {w * h, 2 * w * h / (w + h), 64 / fRe};
}

Section annulus(double outer, double inner) {
  const double r = inner / outer, fRe = 64 * (1 - r) * (1 - r) / (1 + r * r - (1 - r * r) / std::log(1 / r));
  return {pi / 4 * (outer * outer - inner * inner), outer - inner, 64 / fRe};
}

double manningResistance(double n, double length_m, const Section& s) {
  return n * n * length_m / (std::pow(s.hydraulic_m / 4, 4.0 / 3) * s.area_m2 * s.area_m2);
}

}  // namespace conduit::friction

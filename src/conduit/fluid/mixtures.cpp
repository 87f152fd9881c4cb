#include "fluid/mixtures.h"

#include <algorithm>
#include <cmath>

#include "fluid/water.h"

namespace conduit::seawater {

double freezing_c(double salt) {
  const double s = salt * 1000;
  return -0.0575 * s + 0.001710523 * std::pow(s, 1.5) - 0.0002154996 * s * s;
}

Density density(Temperature temperature, double s) {
  const double t = temperature.si();
  return Density::fromSi(999.9 + t * (2.034e-2 + t * (-6.162e-3 + t * (2.261e-5 - t * 4.657e-8))) +
                         s * (802.0 + t * (-2.001 + t * (1.677e-2 - t * 3.060e-5))) -
                         1.613e-5 * s * s * t * t);
}

Viscosity viscosity(Temperature temperature, double s) {
  const double t = temperature.si();
  const double a = 1.541 + t * (1.998e-2 - t * 9.52e-5), b = 7.974 + t * (-7.561e-2 + t * 4.724e-4);
  const double water = 4.2844e-5 + 1 / (0.157 * (t + 64.993) * (t + 64.993) - 91.296);
  return Viscosity::fromSi(water * (1 + s * (a + b * s)) / density(temperature, s).si());
}

AbsolutePressure vapourPressure(Temperature t, double s) {
  return AbsolutePressure::fromSi(water::vapourPressure(t).si() / (1 + 0.57357 * s / (1 - s)));
}

}  // namespace conduit::seawater

namespace conduit::glycol {

double freezing_c(Kind kind, double share) {
  static constexpr double ethylene[] = {0,     -1.4,  -3.2,  -5.4,  -7.8,  -10.7, -14.1,
                                        -17.9, -22.3, -27.5, -33.8, -41.1, -48.3};
  static constexpr double propylene[] = {0,     -1.6,  -3.3,  -5.1,  -7.1,  -9.6, -12.7,
                                         -16.4, -21.1, -26.7, -33.5, -41.6, -51.1};
  const double* rows = kind == Kind::ethylene ? ethylene : propylene;
  const double at = std::clamp(share, 0.0, mostShare) / 0.05;
  const int i = std::min(static_cast<int>(at), 11);
  return rows[i] + (at - i) * (rows[i + 1] - rows[i]);
}
namespace {

struct Constants {
  double molar, excess, skew, density20, perK, a1, a2, a3, a4, a5;
};
constexpr Constants ethylene{62.068,   -1.45,    0.17,      1113.5,  0.710,
                             -4.63024, -2.14817, -12.70106, 5.40536, 10.98990};
constexpr Constants propylene{76.094,   -2.40,     1.0,       1036.1,   0.740,
                              -1.02798, -10.03298, -19.93497, 14.65802, 14.62050};
const Constants& of(Kind kind) { return kind == Kind::ethylene ? ethylene : propylene; }
constexpr double waterMolar = 18.015;
double moles(const Constants& c, double x) { return x / c.molar + (1 - x) / waterMolar; }  // mol/g
double moleShare(const Constants& c, double x) { return x / c.molar / moles(c, x); }
// Water below its freezing point is taken as at 0 °C: there the mixture is mostly glycol.
Temperature held(Temperature t) { return Temperature::fromSi(std::max(t.si(), 0.0)); }

}  // namespace

Density density(Kind kind, Temperature t, double x) {
  const Constants& c = of(kind);
  const double y = moleShare(c, x), excess = c.excess * y * (1 - y) * (1 + c.skew * (1 - 2 * y));  // cm³/mol
  const double glycol = c.density20 - c.perK * (t.si() - 20);
  return Density::fromSi(1 /
                         (x / glycol + (1 - x) / water::density(held(t)).si() + excess * moles(c, x) / 1000));
}

Viscosity viscosity(Kind kind, Temperature t, double x) {
  const Constants& c = of(kind);
  const double q = 273.15 / (t.si() + 273.15);
  return Viscosity::fromSi(std::exp(c.a1 + c.a2 * x + c.a3 * q + c.a4 * x * q + c.a5 * q * q) /
                           density(kind, t, x).si());
}

AbsolutePressure vapourPressure(Kind kind, Temperature t, double x) {
  return AbsolutePressure::fromSi(water::vapourPressure(held(t)).si() * (1 - moleShare(of(kind), x)));
}

}  // namespace conduit::glycol

namespace conduit::slurry {

double relativeViscosity(double phi) {
  return 1 + 2.5 * phi + 10.05 * phi * phi + 0.00273 * (std::exp(16.6 * phi) - 1);
}

}  // namespace conduit::slurry

#include "fluid/water.h"

#include <cmath>

namespace conduit::water {
namespace {

constexpr double criticalTemperature_k = 647.096, criticalPressure_pa = 22.064e6;
double kelvin(Temperature t) { return t.si() + 273.15; }

// Dynamic viscosity of IAPWS R12-08, equations 10 to 12, Pa s.
double dynamicViscosity_pas(double t_k, double rho_kgm3) {
  static constexpr struct {
    int i, j;
    double h;
  } terms[] = {{0, 0, 0.520094},    {0, 1, 0.222531},  {0, 2, -0.281378},  {0, 3, 0.161913},
               {0, 4, -0.0325372},  {1, 0, 0.0850895}, {1, 1, 0.999115},   {1, 2, -0.906851},
               {1, 3, 0.257399},    {2, 0, -1.08374},  {2, 1, 1.88797},    {2, 2, -0.772479},
               {3, 0, -0.289555},   {3, 1, 1.26613},   {3, 2, -0.489837},  {3, 4, 0.0698452},
               {3, 6, -0.00435673}, {4, 2, -0.257040}, {4, 5, 0.00872102}, {5, 1, 0.120573},
               {5, 6, -0.000593264}};
  const double tr = t_k / criticalTemperature_k, rr = rho_kgm3 / 322.0;
  const double dilute =
      100.0 * std::sqrt(tr) / (1.67752 + 2.20462 / tr + 0.6366564 / (tr * tr) - 0.241605 / (tr * tr * tr));
  double sum = 0.0;
  for (const auto& term : terms)
    sum += term.h * std::pow(1.0 / tr - 1.0, term.i) * std::pow(rr - 1.0, term.j);
  return 1e-6 * dilute * std::exp(rr * sum);
}

}  // namespace

Density density(Temperature temperature) {
  const double t = temperature.si();
  return Density::fromSi(
      (999.83952 +
       t * (16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - t * 280.54253e-12))))) /
      (1.0 + 16.879850e-3 * t));
}

Viscosity viscosity(Temperature temperature) {
  const double rho = density(temperature).si();
  return Viscosity::fromSi(dynamicViscosity_pas(kelvin(temperature), rho) / rho);
}

AbsolutePressure vapourPressure(Temperature temperature) {
  const double t = kelvin(temperature), x = 1.0 - t / criticalTemperature_k, root = std::sqrt(x);
  const double sum = x * (-7.85951783 + 1.84408259 * root + x * x * (-11.7866497 + 22.6807411 * root) -
                          15.9618719 * x * x * x + 1.80122502 * x * x * x * x * x * x * root);
  return AbsolutePressure::fromSi(criticalPressure_pa * std::exp(criticalTemperature_k / t * sum));
}

}  // namespace conduit::water

namespace conduit::air {

AbsolutePressure pressureAt(Height altitude) {
  return AbsolutePressure::fromSi(101325.0 * std::pow(1.0 - 0.0065 * altitude.si() / 288.15, 5.25588));
}

}  // namespace conduit::air

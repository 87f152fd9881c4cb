#include "fluid/stock_liquid.h"

#include <algorithm>
#include <cmath>

#include "fluid/water.h"

namespace conduit::stockliquid {
namespace {

constexpr double zero_k = 273.15, mm2s = 1e-6;

// T in degrees Rankine, pressures in psi.
double trueFromReid(const std::string& kind, double reid_pa, double here_k) {
  constexpr double psi = 6894.757;
  const double t = here_k * 1.8, lg = std::log10(reid_pa / psi);
  if (kind == "crude") return psi * std::exp((2799 / t - 2.227) * lg - 7261 / t + 12.82);
  const double root = std::sqrt(kind == "gasoline" ? 3.0 : 2.5);
  return psi * std::exp((0.7553 - 413.0 / t) * root * lg - (1.854 - 1042 / t) * root +
                        (2416 / t - 2.013) * lg - 8742 / t + 15.64);
}

}  // namespace

double least_c(const LiquidEntry& liquid) { return liquid.at1_c - beyond_k; }
double most_c(const LiquidEntry& liquid) { return liquid.at2_c + beyond_k; }

Density density(const LiquidEntry& liquid, Temperature t) {
  return Density::fromSi(liquid.density_kgm3 / (1.0 + liquid.expansion_perK * (t.si() - liquid.densityAt_c)));
}

Viscosity viscosity(const LiquidEntry& liquid, Temperature t) {
  const double t1 = liquid.at1_c + zero_k, t2 = liquid.at2_c + zero_k, here = t.si() + zero_k;
  const double nu1 = liquid.viscosity1_m2s / mm2s, nu2 = liquid.viscosity2_m2s / mm2s;
  if (std::min(nu1, nu2) >= 2.0) {
    const auto w = [](double nu) { return std::log10(std::log10(nu + 0.7)); };
    const double share = (std::log10(here) - std::log10(t1)) / (std::log10(t2) - std::log10(t1));
    return Viscosity::fromSi((std::pow(10.0, std::pow(10.0, w(nu1) + (w(nu2) - w(nu1)) * share)) - 0.7) *
                             mm2s);
  }
  const double share = (1 / here - 1 / t1) / (1 / t2 - 1 / t1);
  return Viscosity::fromSi(std::exp(std::log(nu1) + (std::log(nu2) - std::log(nu1)) * share) * mm2s);
}

AbsolutePressure vapourPressure(const LiquidEntry& liquid, Temperature t) {
  if (liquid.waterActivity)
    return AbsolutePressure::fromSi(
        *liquid.waterActivity *
        water::vapourPressure(Temperature::fromSi(std::clamp(t.si(), water::least_c, water::most_c))).si());
  if (!liquid.vapour_pa || *liquid.vapour_pa <= 0) return AbsolutePressure::fromSi(0.0);
  constexpr double trouton = 88.0 / 8.314, atmosphere = 101325.0;
  const double known = liquid.vapourAt_c.value_or(20.0) + zero_k;
  const double here = t.si() + zero_k;
  if (!liquid.reid.empty())
    return AbsolutePressure::fromSi(trueFromReid(liquid.reid, *liquid.vapour_pa, here));
  if (liquid.boilsAt_c && std::abs(*liquid.boilsAt_c + zero_k - known) > 5.0) {
    const double share = (1 / here - 1 / known) / (1 / (*liquid.boilsAt_c + zero_k) - 1 / known);
    return AbsolutePressure::fromSi(*liquid.vapour_pa * std::pow(atmosphere / *liquid.vapour_pa, share));
  }
  const double boiling = known * (1.0 + std::log(atmosphere / *liquid.vapour_pa) / trouton);
  return AbsolutePressure::fromSi(atmosphere * std::exp(trouton * (1.0 - boiling / here)));
}

}  // namespace conduit::stockliquid

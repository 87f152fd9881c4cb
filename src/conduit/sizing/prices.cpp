#include "sizing/prices.h"

#include <algorithm>
#include <cmath>

#include "model/costs.h"

namespace conduit {

double presentWorth(double i, double e, double n) {
  if (std::abs(i - e) < 1e-12) return n;
  return (1 + e) / (i - e) * (1 - std::pow((1 + e) / (1 + i), n));
}

Prices pricesOf(const Values& costs) {
  Prices p;
  p.tariff = costOf(costs, costs::tariff).value_or(0.0);
  p.years = *costOf(costs, costs::years), p.interest = *costOf(costs, costs::interest);
  p.growth = *costOf(costs, costs::growth), p.upkeep = *costOf(costs, costs::upkeep);
  if (const auto perKw = costOf(costs, costs::pumpPrice)) p.pumpPerW = *perKw / 1000;
  p.standby = *costOf(costs, costs::standby);
  p.pumpEfficiency = *costOf(costs, costs::pumpEfficiency);
  p.wireEfficiency = *costOf(costs, costs::motorEfficiency) * *costOf(costs, costs::driveEfficiency);
  p.energySum = presentWorth(0.0, p.growth, p.years), p.upkeepSum = presentWorth(0.0, 0.0, p.years);
  p.energyWorth = presentWorth(p.interest, p.growth, p.years);
  p.upkeepWorth = presentWorth(p.interest, 0.0, p.years);
  if (const auto* word = costs.get<std::string>(costs::currency)) p.currency = *word;
  return p;
}

std::optional<EconomicBore> economicBore(std::span<const PipeSize* const> sizes, double flow, double friction,
                                         double density, double pump, double wire, double seconds,
                                         const Prices& prices) {
  const double efficiency = pump * wire;
  if (!(flow > 0) || !(prices.tariff > 0) || !(friction > 0) || !(efficiency > 0) || !(seconds > 0))
    return std::nullopt;
  // Least squares of lg cost over lg bore.
  double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (const PipeSize* s : sizes) {
    if (!s->costPerMetre || *s->costPerMetre <= 0) continue;
    const double x = std::log(s->bore_m), y = std::log(*s->costPerMetre);
    n += 1, sx += x, sy += y, sxx += x * x, sxy += x * y;
  }
  if (n < 2 || n * sxx - sx * sx <= 0) return std::nullopt;
  EconomicBore out{.friction = friction, .efficiency = efficiency};
  out.m = (n * sxy - sx * sy) / (n * sxx - sx * sx);
  out.a = std::exp((sy - out.m * sx) / n);
  if (!(out.m > 0)) return std::nullopt;
  // Upkeep is a share of what was laid, so it makes the pipe dearer by so much.
  const double laid = out.a * (1 + prices.upkeep * prices.upkeepWorth);
  out.b = 8 * friction * density * flow * flow * flow / (M_PI * M_PI * efficiency) * prices.tariff / 3.6e6 *
          seconds * prices.energyWorth;
  out.bore_m = std::pow(5 * out.b / (out.m * laid), 1 / (out.m + 5));
  if (prices.pumpPerW) {
    const double pumps = 8 * friction * density * flow * flow * flow / (M_PI * M_PI * pump) *
                         *prices.pumpPerW * (1 + prices.standby) * (1 + prices.upkeep * prices.upkeepWorth);
    out.withPumps_m = std::pow(5 * (out.b + pumps) / (out.m * laid), 1 / (out.m + 5));
  }
  for (const PipeSize* s : sizes) {
    if (!(s->bore_m > 0)) continue;
    if (s->bore_m <= out.bore_m && (!out.below || s->bore_m > out.below->bore_m)) out.below = s;
    if (s->bore_m > out.bore_m && (!out.above || s->bore_m < out.above->bore_m)) out.above = s;
  }
  return out;
}

}  // namespace conduit

// What lines and their running cost over the years.
#pragma once

#include "model/model.h"
#include "stock/stock.h"

namespace conduit {

/// Worth today of one a year for `years`, each paid at its end and growing by `growth`: Σ (1 + e)^(k−1)/(1 +
/// i)^k … as ((1+e)/(i−e))(1 − ((1+e)/(1+i))^n), n where i = e; with the first payment one year's price rise
/// on.
[[nodiscard]] double presentWorth(double interest, double growth, double years);

/// The model's costs as they are reckoned with.
struct Prices {
  double tariff = 0.0;  // money for a kWh; 0 where none is given
  double years = 20, interest = 0, growth = 0, upkeep = 0;
  std::optional<double> pumpPerW;  // installed
  double pumpEfficiency = 0.75;    // of pumps that say none, those that are yet to be chosen
  double wireEfficiency = 1.0;     // of motor and drive
  double standby = 0.0;
  double energyWorth = 20, upkeepWorth = 20;  // of one a year over all years
  double energySum = 20, upkeepSum = 20;      // the same without interest
  std::string currency;
};
[[nodiscard]] Prices pricesOf(const Values& costs);

/// Bore of least cost of a long line at one flow: pipe cost a D^m for a metre, pumping B/D^5; D = (5 B/(m
/// a))^(1/(m+5)), B = 8 f ρ Q³/(π² η) × price of a joule × seconds a year × worth. At it pumping costs m/5 of
/// the pipe.
struct EconomicBore {
  double bore_m = 0.0, a = 0.0, m = 0.0, b = 0.0, friction = 0.0, efficiency = 1.0;
  /// With what the power at the shaft costs to install: B more by 8 f ρ Q³/(π² η_pump) × pump cost of a watt
  /// with standby and upkeep. Empty where no pump cost is given.
  std::optional<double> withPumps_m{};
  const PipeSize* below = nullptr;  // the stock sizes on both sides, of those that were asked
  const PipeSize* above = nullptr;
};
/// `sizes` with their costs give a and m by a straight line through lg cost over lg bore; at least two must
/// have a cost. `pump` is the efficiency of the pump, `wire` that from its shaft to the wire. Empty where no
/// tariff, no cost or no flow is known.
[[nodiscard]] std::optional<EconomicBore> economicBore(std::span<const PipeSize* const> sizes,
                                                       double flow_m3s, double friction, double density_kgm3,
                                                       double pump, double wire, double seconds,
                                                       const Prices& prices);

}  // namespace conduit

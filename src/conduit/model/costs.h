// What it costs to run what is drawn.
//
//   const double motor = costOf(model.costs, costs::motorEfficiency);   // 0.91 where none is given
#pragma once

#include <span>

#include "fields/field.h"

namespace conduit {

/// The fields of the costs, in the order in which the file writes them.
[[nodiscard]] std::span<const Field> costFields();

namespace costs {
/// Hours of a leap year, in seconds: no year has more.
inline constexpr double leapYear_s = 8784 * 3600.0;
inline constexpr std::string_view currency = "currency", tariff = "tariff", hours = "hours in a year",
                                  motorEfficiency = "motor efficiency", driveEfficiency = "drive efficiency",
                                  years = "years", interest = "interest", growth = "growth of tariff",
                                  upkeep = "upkeep", pumpEfficiency = "pump efficiency",
                                  pumpPrice = "pump cost for 1 kW", standby = "standby";
}  // namespace costs

/// In SI (hours in a year: s; tariff: money for a kWh): as given, else what stands for it; empty where
/// nothing does.
[[nodiscard]] std::optional<double> costOf(const Values& costs, std::string_view key);

}  // namespace conduit

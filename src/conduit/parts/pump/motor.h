// What the motor of a pump takes for what it gives at the shaft.
#pragma once

#include <optional>
#include <span>
#include <string_view>

#include "say/say.h"

namespace conduit::pump {

/// Nominal efficiency at full load. At 50 Hz the interpolation of IEC 60034-30-1:2014, η = A lg³P + B lg²P +
/// C lg P + D with P in kW, from 0.75 to 200 kW, of 2 to 6 poles and classes IE1 to IE4; of 8 poles, IE2 to
/// IE4, and at 60 Hz, 2 to 6 poles, IE2 and IE3, its tables, straight over lg P (recalled, to be checked).
/// Above the last row what that has. Empty for others and below 0.75 kW.
[[nodiscard]] std::optional<double> fullLoadEfficiency(std::string_view motorClass, int poles, double rated_w,
                                                       double mains_hz = 50.0);
/// Adds the line η₁ of a working by the same laws; nothing where they say nothing.
void addFullLoadLine(Working& working, std::string_view motorClass, int poles, double rated_w,
                     double mains_hz);
/// Poles of a motor for a pump's speed, 1/s: the synchronous speed next above it.
[[nodiscard]] int polesFor(double speed_perS, double mains_hz = 50.0);
/// At a share of full load from its efficiency there: constant losses are taken as 0.4 of those at full load,
/// the rest as growing with the square of the load. An approximation of our own; within a point of makers'
/// usual tables from half load up.
[[nodiscard]] double partLoadEfficiency(double full, double load);
/// The standard series of ratings, W (IEC 60072-1), 0.75 to 1 000 kW.
[[nodiscard]] std::span<const double> motorRatings();
/// The least of them that is not below; empty above the last.
[[nodiscard]] std::optional<double> ratingFor(double shaft_w);

}  // namespace conduit::pump

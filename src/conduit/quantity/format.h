// Shows a quantity in a chosen unit with sensible digits.
//
//   withUnit(0.0183, Measure::volumeFlow, units)  -> "18.3 L/s"
#pragma once

#include <string>

#include "quantity/units.h"

namespace conduit {

/// A number with `significant` figures, at least as many as its whole part has; groups of three parted by
/// thin spaces. Zero and what rounds to nothing beside `noise` is "0".
[[nodiscard]] std::string digits(double number, int significant = 4, double noise = 1e-9);

/// A number of things, its thousands parted: "1 048 576".
[[nodiscard]] std::string counted(std::size_t things);

[[nodiscard]] double inUnit(double si, const Unit& unit);
[[nodiscard]] std::string asNumber(double si, Measure measure, const UnitSet& units, int significant = 4);
[[nodiscard]] std::string withUnit(double si, Measure measure, const UnitSet& units, int significant = 4);

/// A value that somebody gave or that stands for one: no more figures than it has ("50", "1", not "50.000"),
/// at most five. With its unit, or without.
[[nodiscard]] std::string givenNumber(double si, Measure measure, const UnitSet& units);
[[nodiscard]] std::string givenWithUnit(double si, Measure measure, const UnitSet& units);
/// The same number without zeros at its end that say nothing.
[[nodiscard]] std::string withoutZeros(std::string number);

/// A text that `parse` reads back to exactly `si`, in the set's unit where that is exact, with its unit.
[[nodiscard]] std::string exactText(double si, Measure measure, const UnitSet& units);

/// A given of exactly that value, as it would be typed.
[[nodiscard]] Given exactGiven(double si, Measure measure, const UnitSet& units = UnitSet::siWater());

/// How a given is said back: "3.5 bar g" for a bare "3.5 bar" in a gauge field, else as typed; a number of
/// more than nine figures, which was found and taken over, in six.
[[nodiscard]] std::string sayBack(const Given& given, Measure measure);

}  // namespace conduit

// What is judged of a solved element: a number against its limits, or what no number says.
//
//   Check& c = checks.hold(CheckId::velocity, *v, limits[LimitId::velocityLeast],
//   limits[LimitId::velocityMost]); if (checks.told(c)) c.what = fmt::format("velocity in {} is …", …);   //
//   words only where they are wanted
#pragma once

#include <array>
#include <bitset>
#include <cstdint>

#include "quantity/units.h"
#include "say/say.h"

namespace conduit {

/// Everything that is ever judged. What a check is goes by this, never by its label.
enum class CheckId : std::uint8_t {
  balance,  // a case has an answer
  endHeights,
  direction,
  velocity,
  gradient,
  pressure,
  absolutePressure,
  npshMargin,
  flow,     // through an element, or out at a taker
  flowIn,   // of a tank or fixed pressure, as its own words have it
  flowOut,  // likewise
  rating,
  ratedTemperature,
  vapour,
  vacuum,   // below zero absolute
  drawOff,  // a draw-off against less than the open air
  dry,
  deadHead,
  reverseFlow,
  runOut,
  controlledSpeed,
  pressureSetPoint,
  flowSetPoint,
  speed,
  viscosity,
  bestFlow,
  continuousFlow,
  driver,
  choking,
  cavitationIndex,
  drop,
  level,
  endOfTable,
  setPoint,
  reynolds,
  plateSize,
  branchFlow,  // what a branch is to pass
  branchHead,  // what a balanced branch has for it
  allowedRegion,
  delivery,     // what a taker takes now
  role,         // a supply that gives goes on giving, a taker taking
  ratedSpeed,   // a speed that is found
  shutOff,      // the pressure with no flow
  reliefValve,  // of what displaces
  keptOff,      // a pressure that a check valve alone keeps off
  npshRatio,
  runOutPower,   // of the driver at the end of the curve
  driverMargin,  // driver over shaft power
  bodyVelocity,  // in the bore of a valve or meter
  dropRatio,     // absolute pressure before over after
  flashing,      // vapour is left behind a valve
  opening,
  discVelocity,  // that holds a check valve open
  submergence,
  entranceLoss,
  frictionLaw,
  regime,
  roughness,
  trim,
  valveCoefficient,
  motorClass,
  unknownKeys,  // of the file
  count
};
using CheckSet = std::bitset<static_cast<std::size_t>(CheckId::count)>;
/// What each is called and of which measure its number is.
struct CheckRow {
  CheckId id;
  std::string_view label;
  Measure measure = Measure::number;
  bool ofLaw = false;  // outside, a number by that law is doubtful
};
inline constexpr std::array<CheckRow, static_cast<std::size_t>(CheckId::count)> checkTable{{
    {CheckId::balance, "balance"},
    {CheckId::endHeights, "End heights"},
    {CheckId::direction, "Direction"},
    {CheckId::velocity, "Velocity", Measure::velocity},
    {CheckId::gradient, "Gradient", Measure::ratio},
    {CheckId::pressure, "Pressure", Measure::gaugePressure},
    {CheckId::absolutePressure, "Minimum absolute pressure", Measure::absolutePressure},
    {CheckId::npshMargin, "NPSH margin", Measure::headDrop},
    {CheckId::flow, "Flow", Measure::volumeFlow},
    {CheckId::flowIn, "Flow in", Measure::volumeFlow},
    {CheckId::flowOut, "Flow out", Measure::volumeFlow},
    {CheckId::rating, "Pressure rating", Measure::gaugePressure},
    {CheckId::ratedTemperature, "Pressure rating", Measure::temperature},
    {CheckId::vapour, "Vapour pressure", Measure::absolutePressure},
    {CheckId::vacuum, "Absolute pressure", Measure::absolutePressure},
    {CheckId::drawOff, "Outflow", Measure::gaugePressure},
    {CheckId::dry, "Flow", Measure::volumeFlow},
    {CheckId::deadHead, "Flow", Measure::volumeFlow},
    {CheckId::reverseFlow, "Flow", Measure::volumeFlow},
    {CheckId::runOut, "Run-out", Measure::volumeFlow},
    {CheckId::controlledSpeed, "Controlled speed", Measure::rotation},
    {CheckId::pressureSetPoint, "Pressure set point"},
    {CheckId::flowSetPoint, "Flow set point"},
    {CheckId::speed, "Speed", Measure::rotation},
    {CheckId::viscosity, "Viscosity correction", Measure::number, true},
    {CheckId::bestFlow, "% of BEP flow", Measure::ratio},
    {CheckId::continuousFlow, "Minimum continuous flow", Measure::volumeFlow},
    {CheckId::driver, "Driver", Measure::power},
    {CheckId::choking, "Choking", Measure::pressureDrop},
    {CheckId::cavitationIndex, "Cavitation index"},
    {CheckId::drop, "Drop", Measure::pressureDrop},
    {CheckId::level, "Level", Measure::height},
    {CheckId::endOfTable, "Flow within table", Measure::volumeFlow},
    {CheckId::setPoint, "Set point", Measure::gaugePressure},
    {CheckId::reynolds, "Reynolds number", Measure::number, true},
    {CheckId::plateSize, "Plate size", Measure::number, true},
    {CheckId::branchFlow, "Branch flow", Measure::volumeFlow},
    {CheckId::branchHead, "Head for design flow", Measure::headDrop},
    {CheckId::allowedRegion, "Allowable region", Measure::ratio},
    {CheckId::delivery, "Delivery", Measure::volumeFlow},
    {CheckId::role, "Supply or taker", Measure::volumeFlow},
    {CheckId::ratedSpeed, "Speed", Measure::rotation},
    {CheckId::shutOff, "Shut-off pressure", Measure::gaugePressure},
    {CheckId::reliefValve, "Relief valve"},
    {CheckId::keptOff, "Shut-off pressure", Measure::gaugePressure},
    {CheckId::npshRatio, "NPSH ratio"},
    {CheckId::runOutPower, "Driver at run-out", Measure::power},
    {CheckId::driverMargin, "Driver margin", Measure::ratio},
    {CheckId::bodyVelocity, "Velocity in body", Measure::velocity},
    {CheckId::dropRatio, "Pressure ratio"},
    {CheckId::flashing, "Flashing", Measure::absolutePressure},
    {CheckId::opening, "Opening", Measure::ratio},
    {CheckId::discVelocity, "Velocity to open", Measure::velocity},
    {CheckId::submergence, "Submergence", Measure::headDrop},
    {CheckId::entranceLoss, "Entrance loss"},
    {CheckId::frictionLaw, "Friction law", Measure::temperature, true},
    {CheckId::regime, "Flow regime", Measure::number, true},
    {CheckId::roughness, "Relative roughness", Measure::number, true},
    {CheckId::trim, "Impeller trim", Measure::ratio, true},
    {CheckId::valveCoefficient, "Valve coefficient", Measure::number, true},
    {CheckId::motorClass, "Motor class", Measure::number, true},
    {CheckId::unknownKeys, "Unknown keys"},
}};
static_assert([] {
  for (std::size_t i = 0; i < checkTable.size(); ++i)
    if (static_cast<std::size_t>(checkTable[i].id) != i) return false;
  return true;
}());

/// "NPSH margin", as people read it; several may share one.
[[nodiscard]] constexpr std::string_view labelOf(CheckId id) {
  return checkTable[static_cast<std::size_t>(id)].label;
}
/// Of the number that is judged.
[[nodiscard]] constexpr Measure measureOf(CheckId id) {
  return checkTable[static_cast<std::size_t>(id)].measure;
}

/// Who says a limit.
enum class LimitFrom : std::uint8_t { law, fallback, job, service, own, catalogue, standard };

/// A limit with who says it; empty: there is none.
struct Limit {
  std::optional<double> si;
  LimitFrom from = LimitFrom::law;
  explicit operator bool() const { return si.has_value(); }
};

/// A number held against its limits; drawn as a bar on the card, and a finding when it is broken.
struct Check {
  CheckId id{};
  std::uint8_t at = 0;  // of several alike: which end or connection
  double value = 0.0;   // SI
  std::optional<double> least, most;
  LimitFrom leastFrom = LimitFrom::law, mostFrom = LimitFrom::law;
  Severity severity = Severity::broken;  // of the finding when broken
  bool spoken = false;                   // no number fits: it is broken as such
  std::string what;                      // the finding's sentence; empty: made from label, value and limit
  std::vector<Remedy> remedies{};
  [[nodiscard]] std::string_view label() const { return labelOf(id); }
  [[nodiscard]] Measure measure() const { return measureOf(id); }
  /// The number was worked out by a law outside its range.
  [[nodiscard]] bool doubtful() const { return broken() && checkTable[static_cast<std::size_t>(id)].ofLaw; }
  [[nodiscard]] bool low() const { return least && value < *least; }
  [[nodiscard]] bool broken() const { return spoken || low() || (most && value > *most); }
  /// How far beyond its limit, as a share of it (of a usual value, where it is next to nothing); less than
  /// nothing where some is to spare. 1 where no number says it.
  [[nodiscard]] double beyond() const;
};

/// Where checks are put, with their words or, where nobody will read them, without: that is many times as
/// quick.
class Checks {
 public:
  /// Without words.
  explicit Checks(std::vector<Check>& into) : into_(into) {}
  Checks(std::vector<Check>& into, const UnitSet& units) : into_(into), units_(&units) {}

  /// A number against a least and a greatest. Good until the next is put.
  Check& hold(CheckId id, double value, Limit least, Limit most, Severity severity = Severity::broken);
  /// What is wrong is no number beyond another.
  Check& say(CheckId id, Severity severity);
  /// Its sentence will be read: write it.
  [[nodiscard]] bool told(const Check& check) const { return units_ && check.broken(); }
  [[nodiscard]] const UnitSet& units() const { return *units_; }
  [[nodiscard]] std::size_t count() const { return into_.size(); }
  /// Of those put after the first `from`; null where there is none such. Good until the next is put.
  [[nodiscard]] Check* find(CheckId id, std::size_t from) const;
  /// Takes those out after the first `from` that do not apply; what cannot be stays.
  void leaveOut(const CheckSet& waived, std::size_t from);

 private:
  std::vector<Check>& into_;
  const UnitSet* units_ = nullptr;
};

}  // namespace conduit

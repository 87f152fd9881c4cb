// The limits that an engineer may set, each a row of one table: its field, what it is held against, which
// side, what stands where nobody says it, and whom it holds. Fields of job, service and elements, checks,
// Ledger, Sizing desk, register and reports come from here: a limit more is a row more.
#pragma once

#include <algorithm>
#include <array>
#include <limits>

#include "fields/field.h"
#include "parts/check.h"

namespace conduit {

/// Those of job and services come first.
enum class LimitId : std::uint8_t {
  velocityMost,
  velocityLeast,
  gradientMost,
  pressureLeast,
  pressureMost,
  absoluteLeast,
  npshMarginLeast,
  npshRatioLeast,
  flowLeast,
  flowMost,
  flowInLeast,
  flowInMost,
  flowOutLeast,
  flowOutMost,
  dropLeast,
  dropMost,
  cavitationIndexLeast,
  speedLeast,
  speedMost,
  continuousFlowLeast,
  driverMost,
  ratingMost,
  allowedLeast,
  allowedMost,
  driverMargin,
  bodyVelocityMost,
  dropRatioMost,
  openingLeast,
  openingMost,
  discVelocityLeast,
  submergenceLeast,
  levelLeast,
  levelMost,
  count
};
inline constexpr std::size_t limitCount = static_cast<std::size_t>(LimitId::count),
                             sharedLimits = static_cast<std::size_t>(LimitId::flowLeast);

struct LimitRow {
  LimitId id;
  std::string_view key;  // of the field that says it
  CheckId check;         // what it is held against
  bool most;             // the side: at most, else at least
  double from, to;       // of the field, SI
  std::string_view whom, help;
  std::optional<double> fallback{};  // of the job, SI
};

inline constexpr std::array<LimitRow, limitCount> limitTable{{
    {LimitId::velocityMost, "velocity at most", CheckId::velocity, true, 0.01, 100, "pipes",
     "in pipes (erosion, noise)", 3.0},
    {LimitId::velocityLeast, "velocity at least", CheckId::velocity, false, 0, 100, "flowing pipes",
     "in flowing pipes (settling)"},
    {LimitId::gradientMost, "gradient at most", CheckId::gradient, true, 0, 100, "pipes",
     "head loss per length of pipe"},
    {LimitId::pressureLeast, "pressure at least", CheckId::pressure, false, -101325, 1e9, "points",
     "at points"},
    {LimitId::pressureMost, "pressure at most", CheckId::pressure, true, -101325, 1e9, "points", "at points"},
    {LimitId::absoluteLeast, "absolute pressure at least", CheckId::absolutePressure, false, 0, 1e8, "points",
     "at points (air release below it)"},
    {LimitId::npshMarginLeast, "NPSH margin at least", CheckId::npshMargin, false, 0, 100, "running pumps",
     "NPSH available minus required, at running pumps", 0.5},
    {LimitId::npshRatioLeast, "NPSH ratio at least", CheckId::npshRatio, false, 1, 20, "running pumps",
     "NPSH available over required, at running pumps, besides the margin"},
    {LimitId::flowLeast, "flow at least", CheckId::flow, false, 0, 1e4, "the element",
     "minimum flow that it must have"},
    {LimitId::flowMost, "flow at most", CheckId::flow, true, 0, 1e4, "the element", "maximum flow"},
    {LimitId::flowInLeast, "flow in at least", CheckId::flowIn, false, 0, 1e4, "the supply",
     "minimum flow in"},
    {LimitId::flowInMost, "flow in at most", CheckId::flowIn, true, 0, 1e4, "the supply", "maximum flow in"},
    {LimitId::flowOutLeast, "flow out at least", CheckId::flowOut, false, 0, 1e4, "the supply",
     "minimum flow out"},
    {LimitId::flowOutMost, "flow out at most", CheckId::flowOut, true, 0, 1e4, "the supply",
     "maximum flow out"},
    {LimitId::dropLeast, "drop at least", CheckId::drop, false, 0, 1e9, "the valve",
     "pressure drop needed for control"},
    {LimitId::dropMost, "drop at most", CheckId::drop, true, 0, 1e8, "the exchanger",
     "allowable pressure drop"},
    {LimitId::cavitationIndexLeast, "cavitation index at least", CheckId::cavitationIndex, false, 0, 1000,
     "the valve", "minimum cavitation index"},
    {LimitId::speedLeast, "speed at least", CheckId::speed, false, 0.01, 2000, "the pump", "minimum speed"},
    {LimitId::speedMost, "speed at most", CheckId::speed, true, 0.01, 2000, "the pump", "maximum speed"},
    {LimitId::continuousFlowLeast, "least continuous flow", CheckId::continuousFlow, false, 0, 1e4,
     "the pump", "minimum continuous flow per pump at rated speed"},
    {LimitId::driverMost, "driver", CheckId::driver, true, 0, 1e9, "the pump",
     "driver rating per pump (shaft power)"},
    {LimitId::ratingMost, "rating", CheckId::rating, true, 0, 1e9, "the element",
     "maximum allowable gauge pressure"},
    {LimitId::allowedLeast, "allowable flow at least", CheckId::allowedRegion, false, 0, 1, "the pump",
     "allowable operating region, % of BEP flow"},
    {LimitId::allowedMost, "allowable flow at most", CheckId::allowedRegion, true, 1, 3, "the pump",
     "allowable operating region, % of BEP flow"},
    {LimitId::driverMargin, "driver margin", CheckId::driverMargin, false, 1, 5, "the pump",
     "driver rating over shaft power at the duty"},
    {LimitId::bodyVelocityMost, "velocity in body at most", CheckId::bodyVelocity, true, 0.01, 100,
     "the element", "maximum velocity in its bore"},
    {LimitId::dropRatioMost, "pressure ratio at most", CheckId::dropRatio, true, 1, 1e6, "the element",
     "maximum of absolute inlet over outlet pressure in one stage"},
    {LimitId::openingLeast, "opening at least", CheckId::opening, false, 0, 1, "the valve",
     "minimum % of travel in control"},
    {LimitId::openingMost, "opening at most", CheckId::opening, true, 0, 1, "the valve",
     "maximum % of travel in control"},
    {LimitId::discVelocityLeast, "velocity to open", CheckId::discVelocity, false, 0, 100, "the check valve",
     "velocity that holds the disc fully open; default: that of a swing check valve (Crane TP-410)"},
    {LimitId::submergenceLeast, "submergence at least", CheckId::submergence, false, 0, 100, "the tank",
     "liquid above each outlet connection; default: ANSI/HI 9.8"},
    {LimitId::levelLeast, "bottom", CheckId::level, false, -12000, 9000, "the tank",
     "height of its bottom, or its lowest level"},
    {LimitId::levelMost, "top", CheckId::level, true, -12000, 9000, "the tank",
     "height of its overflow, or its highest level"},
}};
static_assert([] {
  for (std::size_t i = 0; i < limitCount; ++i)
    if (static_cast<std::size_t>(limitTable[i].id) != i) return false;
  return true;
}());

[[nodiscard]] constexpr const LimitRow& limitRow(LimitId id) {
  return limitTable[static_cast<std::size_t>(id)];
}
/// The limit of that field; null where it says none.
[[nodiscard]] const LimitRow* limitOfField(std::string_view key);
[[nodiscard]] constexpr Measure measureOf(LimitId id) { return measureOf(limitRow(id).check); }

/// The field of a limit on an element; `help` in place of the table's.
[[nodiscard]] constexpr Field limitField(LimitId id, std::string_view help = {}) {
  const LimitRow& row = limitRow(id);
  return {.key = row.key,
          .kind = FieldKind::quantity,
          .measure = measureOf(id),
          .least = row.from,
          .most = row.to,
          .help = help.empty() ? row.help : help};
}

/// Those of the job and of services, in the table's order; with what the job takes where nobody says one.
[[nodiscard]] constexpr std::array<Field, sharedLimits> sharedLimitFields(bool ofJob) {
  std::array<Field, sharedLimits> fields{};
  for (std::size_t i = 0; i < sharedLimits; ++i) {
    const LimitId id = limitTable[i].id;
    fields[i] = limitField(id);
    if (ofJob) fields[i].fallback = limitTable[i].fallback;
    fields[i].inSight = !ofJob || id == LimitId::velocityLeast || id == LimitId::pressureLeast;
  }
  return fields;
}
/// Two tables of fields as one.
template <std::size_t N, std::size_t M>
[[nodiscard]] constexpr std::array<Field, N + M> joined(const std::array<Field, N>& first,
                                                        const std::array<Field, M>& then) {
  std::array<Field, N + M> all{};
  std::copy(first.begin(), first.end(), all.begin());
  std::copy(then.begin(), then.end(), all.begin() + N);
  return all;
}

/// How pipes are joined, as a pipe or its service says.
inline constexpr std::string_view jointsKey = "joints";
inline constexpr std::string_view jointKinds[] = {"welded or flanged", "threaded"};

/// What the job or a service says of the limits they share.
class Limits {
 public:
  [[nodiscard]] Limit operator[](LimitId id) const {
    const auto i = static_cast<std::size_t>(id);
    return {si_[i] == si_[i] ? std::optional(si_[i]) : std::nullopt, from_[i]};
  }
  void set(LimitId id, double si, LimitFrom from) {
    si_[static_cast<std::size_t>(id)] = si, from_[static_cast<std::size_t>(id)] = from;
  }
  /// Puts what `values` says over what stands here.
  void read(const Values& values, const Medium& medium, LimitFrom from);
  std::optional<bool> threaded;  // joints of its pipes: the thread is then taken off the wall
  CheckSet waived;               // do not apply

 private:
  static constexpr double none = std::numeric_limits<double>::quiet_NaN();
  std::array<double, sharedLimits> si_{none, none, none, none, none, none, none, none};
  std::array<LimitFrom, sharedLimits> from_{};
};

/// A limit that an element itself says.
[[nodiscard]] Limit ownLimit(const Values& values, LimitId id, const Medium& medium);
/// That, or what its kind takes where nobody says one (from `fields`).
[[nodiscard]] Limit ownOrUsual(const Values& values, std::span<const Field> fields, LimitId id,
                               const Medium& medium);
/// How bad it is to be beyond: what nobody gave is a warning.
[[nodiscard]] constexpr Severity severityOf(const Limit& limit) {
  return limit.from == LimitFrom::own ? Severity::broken : Severity::near;
}

}  // namespace conduit

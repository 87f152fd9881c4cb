// The machine as it stands and runs: its curve in this liquid, trimmed, all units together, and what follows
// from it.
#pragma once

#include <algorithm>

#include "curve/monotone.h"
#include "parts/pump/curve.h"
#include "parts/pump/fields.h"

namespace conduit::pump {

/// ANSI/HI 9.6.7 gives its correction for B under this.
inline constexpr double mostViscous = 40.0;

/// Where the viscous correction is counted: the best point of water at the present speed, head of one stage.
struct ViscousAt {
  double best_m3s, head_m, speed_perS;
};
[[nodiscard]] std::optional<ViscousAt> viscousAt(const Values& values, const Setting& setting);
/// The correction for a viscous liquid; empty where none is called for.
[[nodiscard]] std::optional<Viscous> viscousOf(const Values& values, const Setting& setting);
/// What stands in this symbol at the rated speed: trimmed, in this liquid, all units together. Flow is that
/// of all. Where curves of other speeds are given, the rows are those of which affinity makes the curve at
/// `ratio` of the rated speed (the given speed's, where none is named).
[[nodiscard]] std::vector<CurveRow> rowsOf(const Values& values, const Setting& setting,
                                           std::optional<double> ratio = {});
/// One unit as its maker has it at the rated speed and impeller, in cold water.
[[nodiscard]] std::vector<CurveRow> makersRows(const Values& values, const Medium& medium);
/// Curves measured at other speeds or with other impellers, the main one among them; why they cannot be used.
struct OtherCurves {
  bool bySpeed = false;
  std::vector<MeasuredAt> curves;  // by rising ratio; empty: none
  std::string fault;
};
[[nodiscard]] OtherCurves otherCurves(const Values& values, const Medium& medium);
/// Impeller over rated impeller; 1 where either is not given.
[[nodiscard]] double trimRatio(const Values& values, const Medium& medium);
/// Of one stage (and one eye of a double-suction pump) at best flow, nq in 1/min, m³/s, m; and nss by its
/// NPSH required there. Empty without a rated speed or an efficiency that has a top.
[[nodiscard]] std::optional<double> specificSpeed(const Values& values, const Setting& setting);
[[nodiscard]] std::optional<double> suctionSpecificSpeed(const Values& values, const Setting& setting);
/// Shares of best flow between which it should run: as given, else what ANSI/HI 9.6.3 prefers.
struct Region {
  double least = 0.7, most = 1.2;
  bool given = false;
};
[[nodiscard]] Region regionOf(const Values& values, const Setting& setting);
/// Speed given over rated speed; 1 where either is not given.
[[nodiscard]] double speedRatio(const Values& values, const Medium& medium);

[[nodiscard]] bool running(const Reading& r);
/// Runs and passes nothing: the network stands above its head at no flow.
[[nodiscard]] bool shutIn(const Reading& r);
/// Speed over rated speed: as given, or where it keeps something the one at which its curve has the flow and
/// head found.
[[nodiscard]] double ratioNow(const Reading& r);
/// A column of the curve at a flow, m3/s, at the present speed; `squared`: it grows with the speed squared.
/// A column of the curve against the flow at the rated speed; `squared` ones (NPSH) do not end at nothing: by
/// `onCurve` they are level below their first row.
[[nodiscard]] std::optional<MonotoneCurve> curveOf(const Reading& r, std::optional<double> CurveRow::*column,
                                                   bool squared);
[[nodiscard]] std::optional<double> onCurve(const Reading& r, std::optional<double> CurveRow::*column,
                                            bool squared, double flow_m3s);

// Found of it, SI; empty where it is not determined.
[[nodiscard]] std::optional<double> head(const Reading& r);
[[nodiscard]] std::optional<double> runningSpeed(const Reading& r);
[[nodiscard]] std::optional<double> viscousParameter(const Reading& r);
[[nodiscard]] std::optional<double> efficiency(const Reading& r);
[[nodiscard]] std::optional<double> shaftPower(const Reading& r);
[[nodiscard]] std::optional<double> datumOf(const Reading& r);
[[nodiscard]] std::optional<double> npshAvailable(const Reading& r);
[[nodiscard]] std::optional<double> npshRequired(const Reading& r);
[[nodiscard]] std::optional<double> npshMargin(const Reading& r);
[[nodiscard]] std::optional<double> npshRatio(const Reading& r);
[[nodiscard]] std::optional<double> ofBest(const Reading& r);
/// How its motor runs, where it is described.
struct MotorNow {
  bool own = false;                    // full-load efficiency given, not of a class
  double full = 0;                     // efficiency at full load; 0: not known
  std::optional<double> load;          // share of its rating; empty: no rating
  std::optional<MonotoneCurve> curve;  // efficiency over load, where given
  double efficiency = 0;
  [[nodiscard]] double loadOnCurve() const {
    return std::clamp(*load, curve->points().front().x, curve->points().back().x);
  }
};
[[nodiscard]] std::optional<MotorNow> motorNow(const Reading& r);
/// Power its motors take and, through their drives, the wire gives, W: where its own motor is described.
[[nodiscard]] std::optional<double> motorEfficiency(const Reading& r);
[[nodiscard]] std::optional<double> motorPower(const Reading& r);
/// Share of the motor's power that a drive of its own passes on; empty: not said.
[[nodiscard]] std::optional<double> driveEfficiency(const Values& values);

}  // namespace conduit::pump

// What each pump of a solved network does there: its duty, its neighbours, who pushes it off; the speed or
// trim for exactly a duty; the speed that holds a pressure or a flow in every case.
#pragma once

#include "cases/balance.h"
#include "pump/system_curve.h"

namespace conduit {

struct PumpDuty {
  Id pump = noId;
  bool runs = false, shutIn = false, back = false;  // back: liquid runs backward through it
  std::optional<double> flow_m3s, head_m, efficiency, shaft_w, ofBest, npshAvailable_m, npshRequired_m,
      npshMargin_m, speed_perS, motor_w;
  double units = 1.0;
  std::vector<Id> beside, before, behind;  // running pumps in parallel; in series upstream; downstream
  Id pushedOffBy = noId;                   // of one that is shut in: the pump that holds its discharge up
  Severity worst = Severity::note;         // of its checks
};
/// Of one, by itself: its neighbours are not looked for.
[[nodiscard]] PumpDuty dutyOf(const Network& network, const Solution& solution, Id pump);
/// Of every pump, by Id.
[[nodiscard]] std::vector<PumpDuty> dutiesOf(const Network& network, const Solution& solution);
/// "in parallel with P-2, then B-1": its place among the others; empty for one alone.
[[nodiscard]] std::string placeSaid(const Network& network, const PumpDuty& duty);

/// Speed over rated speed, or impeller over rated impeller, at which the pump of these values gives `head_m`
/// at `flow_m3s` (of all its units). Empty where none from a fifth to twice the rated one does (for a trim:
/// from 70 % to 100 %).
[[nodiscard]] std::optional<double> speedForDuty(const Values& values, const Setting& setting,
                                                 double flow_m3s, double head_m);
[[nodiscard]] std::optional<double> trimForDuty(const Values& values, const Setting& setting, double flow_m3s,
                                                double head_m);

/// What a pump's speed is to hold, in every case.
struct SpeedGoal {
  bool flow = false;    // a flow through it; else a pressure
  double value_si = 0;  // gauge, or m³/s
  Id at = noId;         // the point of the pressure; noId: its discharge
};
struct SpeedRow {
  CaseId id = drawingCase;
  bool solved = false, held = false;  // held: the goal is met
  std::string why;                    // where not
  PumpDuty duty;
  double ratio = 1.0;                     // of the rated speed
  bool tooSlow = false, tooFast = false;  // outside the limits the pump gives
};
[[nodiscard]] std::vector<SpeedRow> speedsOver(const Model& model, std::span<const CaseId> cases,
                                               const std::shared_ptr<const Stock>& stock, Id pump,
                                               const SpeedGoal& goal, const UnitSet& units,
                                               JobOptions jobs = {});

}  // namespace conduit

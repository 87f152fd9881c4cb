// What a year of all cases takes: energy at the wire and its cost, by the hours of each and the model's
// costs.
#pragma once

#include "cases/balance.h"

namespace conduit {

struct CaseYear {
  CaseId id = drawingCase;
  double hours_s = 0.0;
  std::optional<double> shaft_w;  // of all pumps that run; empty where the case has no answer
  double wire_w = 0.0;            // the electric power for it
  std::vector<Id> unknown;        // pumps that run and whose shaft power nothing says
  double energy_j = 0.0;          // at the wire: shaft power/(η_motor·η_drive) times the hours
};
struct Year {
  std::vector<CaseYear> cases;  // in the order of the answers
  double hours_s = 0.0, energy_j = 0.0;
  std::optional<double> cost;  // money of the job; empty without a tariff
  std::string currency;
  /// More hours than the longest year has, 8,784 h.
  [[nodiscard]] bool tooLong() const { return hours_s > 8784 * 3600.0 + 1e-6; }
};

/// Hours of a case; those of the drawing are the costs'. Alone, a drawing runs all year unless it says less;
/// beside other cases it has the hours it says, else what they leave of 8,760.
[[nodiscard]] double hoursOf(const Model& model, CaseId id);
/// Electric power for a pump that runs, W: by the motor and drive it describes itself, else by those of the
/// costs. Empty where nothing says its shaft power.
struct WirePower {
  double shaft_w = 0.0, motor_w = 0.0, wire_w = 0.0;  // at the shaft, into the motor, from the wire
  double motorEfficiency = 1.0, driveEfficiency = 1.0;
  bool ownMotor = false, ownDrive = false;
};
[[nodiscard]] std::optional<WirePower> atTheWire(const Values& costs, const Part& part,
                                                 const Reading& reading);
[[nodiscard]] Year yearOf(const Model& model, std::span<const CaseAnswerPtr> answers);

}  // namespace conduit

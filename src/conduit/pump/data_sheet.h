// The data sheet of a pump: what is asked of it, what it does there, where its suction stands, what it takes;
// and the candidates of a selection side by side. Pages, as they are printed or shown.
#pragma once

#include "cases/year.h"
#include "pump/curve_sheet.h"
#include "pump/selection.h"
#include "pump/suction_budget.h"
#include "say/page.h"

namespace conduit {

/// Of a pump in the case an answer is of. `answers`: of all cases, for the duties in each and the year.
[[nodiscard]] Page dutySheet(const Model& model, const CaseAnswer& answer,
                             std::span<const CaseAnswerPtr> answers, Id pump, const SystemCurve* curve,
                             const UnitSet& units);
[[nodiscard]] Page selectionSheet(const Model& model, Id place, const Selection& selection,
                                  const UnitSet& units);

/// A year of one pump over the cases: energy at the wire, its cost, for each m³ it lifts.
struct PumpYear {
  double hours_s = 0.0, energy_j = 0.0, lifted_m3 = 0.0;
  std::optional<double> cost;
  std::string currency;
  bool known = true;  // false: in some case nothing says its power
};
[[nodiscard]] PumpYear yearOfPump(const Model& model, std::span<const CaseAnswerPtr> answers, Id pump);

}  // namespace conduit

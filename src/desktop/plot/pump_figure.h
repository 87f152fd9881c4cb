// What is drawn of a pump: head, NPSH, efficiency and power over one flow. The Pumps desk and the small
// figure of a card draw the same.
#pragma once

#include "plot/stack.h"
#include "pump/curve_sheet.h"
#include "pump/system_curve.h"
#include "quantity/units.h"

namespace conduit::desktop {

struct PumpFigure {
  const CurveSheet* sheet = nullptr;  // null or empty: a place without a curve
  QString name;                       // of its head curve
  struct System {
    QString name;
    const TracedCurve* curve = nullptr;
  };
  std::vector<System> systems;  // the current case first
  const Line* npshAvailable = nullptr;
  std::optional<double> duty_m3s, dutyHead_m;
  std::optional<double> marginGone_m3s, leastMargin_m;  // flow at which the margin asked for is used up
  struct Laid {
    QString name;
    CurveSheet sheet;
    std::optional<double> flow_m3s, head_m;
  };
  std::vector<Laid> laid;                      // candidates laid over it
  std::optional<double> read_m3s, readHead_m;  // a reading off the system curve
  bool families = true;
};

[[nodiscard]] StackData stackOf(const PumpFigure& figure, const UnitSet& units, bool small);

}  // namespace conduit::desktop

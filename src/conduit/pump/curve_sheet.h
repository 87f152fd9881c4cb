// A pump's curves as they are drawn and read off: as it runs, at other speeds and trims, its units together,
// lines of equal efficiency, regions, run-out and shut-off.
#pragma once

#include "pump/duty.h"

namespace conduit {

using Line = std::vector<DutyPoint>;  // flow, m³/s, against whatever it is a line of, SI

/// One curve of head with its name.
struct NamedLine {
  std::string name;
  double ratio = 1.0;  // of the speed (or impeller) that runs now
  Line points;
};
struct EqualEfficiency {
  double efficiency = 0.0;
  Line points;  // an open line, or one that comes back
};

struct CurveSheet {
  bool empty = true;                             // it has no curve: nothing is drawn but its duty
  Line head, efficiency, shaft_w, npshRequired;  // of all its units, at the speed and trim it runs at
  Line oneUnit;                                  // of one of several units side by side
  std::vector<NamedLine> speeds, trims;
  std::vector<EqualEfficiency> equal;
  bool equalMeasured = false;  // from several given curves; else parabolas of affinity from one
  double shutOff_m = 0.0, runOut_m3s = 0.0;
  std::optional<double> best_m3s;
  double preferredLeast = 0.7, preferredMost = 1.2;  // of best flow
  std::optional<double> allowedLeast, allowedMost;   // likewise, where its maker says
  std::optional<double> driver_w, rated_perS, speed_perS, nq, nss;
  double units = 1.0;
  [[nodiscard]] std::optional<double> headAt(double flow_m3s) const;
  [[nodiscard]] std::optional<double> efficiencyAt(double flow_m3s) const;
  [[nodiscard]] std::optional<double> shaftAt(double flow_m3s) const;
  [[nodiscard]] std::optional<double> npshAt(double flow_m3s) const;
};

/// Of a pump as it stands in a solved (or unsolved) network.
[[nodiscard]] CurveSheet curveSheet(const Network& network, const Solution& solution, Id pump,
                                    const UnitSet& units);
/// Of an item of the stock, with so many units side by side, in the liquid of `setting`.
[[nodiscard]] CurveSheet curveSheetOf(const Values& values, const Setting& setting, double ratio,
                                      const UnitSet& units);

/// What in its data an engineer would doubt, each in a sentence: shut-off against best head, a best flow at
/// the end of the table, specific speed, suction specific speed, efficiency beyond what is built.
[[nodiscard]] std::vector<std::string> doubts(const Values& values, const Setting& setting,
                                              const UnitSet& units);

/// NPSH available at flows up to `most_m3s`, the pump made to pass each.
[[nodiscard]] Line npshAvailable(const Network& network, const Stock* stock, const Solution& base, Id pump,
                                 double most_m3s, const JobOptions& jobs);

}  // namespace conduit

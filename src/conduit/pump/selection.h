// Which pump of the stock does it: each solved in this network, in every case that counts, at the duty it
// would really run at.
//
//   Selection chosen = select(model, place, request, stock, {.units = units});
//   for (const Candidate& c : chosen.can) ...        // ranked
//   for (const auto& [why, count] : chosen.reasons)  // why the others cannot
#pragma once

#include <algorithm>

#include "cases/balance.h"
#include "limits/deliveries.h"
#include "model/pump_request.h"
#include "pump/duty.h"

namespace conduit {

/// A candidate in one case.
struct CandidateDuty {
  CaseId id = drawingCase;
  bool solved = false;
  std::string why;  // where not
  PumpDuty duty;
  std::optional<double> over;  // flow found over flow asked, less one
  std::optional<double> npshRatio;
  bool preferred = true;        // within the region it should run in (ANSI/HI 9.6.3)
  std::optional<bool> allowed;  // within the region its maker allows; empty: not said
  bool pastEnd = false;         // beyond the last point of its curve
  bool underLeastFlow = false;  // under its least continuous flow
  std::optional<double>
      ratingSpare_pa;  // rating of the weakest pipe behind it less the pressure there at shut-off
  Id weakest = noId;
  /// The taker that gets the least share of what it has with the pump that stands there; empty at a place
  /// without one, or where nobody takes.
  std::optional<DeliveryChange> leastDelivery;
};

struct Candidate {
  std::string item;  // of the stock
  Origin origin = Origin::shipped;
  bool inPlace = false;              // it is what stands there now
  std::string leftOut;               // the first reason why it cannot do it; empty: it can
  std::vector<CandidateDuty> cases;  // in the order of the cases that count, the current one first
  double shutOff_m = 0.0;
  std::optional<double> runOut_m3s, runOutShaft_w, bestFlow_m3s;
  std::optional<double> motor_w;  // least standard rating that carries it over its whole curve, each unit
  std::optional<double> speedRatio, trimRatio;  // for exactly the duty asked for
  std::optional<double> ratedSpeed_perS;
  double regionLeast = 0.7, regionMost = 1.2;  // of best flow, in which it should run
  double score = 0.0;                          // the less the better
  bool shortOfMargin = false;  // does the duty with less NPSH margin than required in some case
  [[nodiscard]] const CandidateDuty& now() const { return cases.front(); }
  /// The least margin over the cases, and in which.
  [[nodiscard]] const CandidateDuty* worstMargin() const;
  /// Of the takers that lose most, over the cases; nothing where none is known.
  [[nodiscard]] const DeliveryChange* leastDelivery() const;
};

struct Selection {
  double flow_m3s = 0.0;         // asked for
  std::optional<double> head_m;  // asked for, or what the network asks at that flow
  double margin_m = 0.0;
  double units = 1.0;                  // identical pumps: as asked, else as many as stand at the place
  bool series = false;                 // one after another, as they stand there; else in parallel
  std::vector<Candidate> can, cannot;  // ranked, those short of NPSH margin behind; in the order of the stock
  std::vector<std::pair<std::string, std::size_t>> reasons;  // counted, most first
  std::vector<CaseId> cases;                                 // that were looked at, the current one first
  std::string problem;                                       // nothing could be begun
  bool stopped = false;
  /// How many of `can` have the margin: the first so many.
  [[nodiscard]] std::size_t suitable() const {
    return static_cast<std::size_t>(
        std::count_if(can.begin(), can.end(), [](const Candidate& c) { return !c.shortOfMargin; }));
  }
};

struct SelectOptions {
  CaseId current = drawingCase;
  UnitSet units = UnitSet::siWater();
  JobOptions jobs;
};

/// `place`: a pump, or a supply that might be one (then a pump stands in for it). Cases that count for sizing
/// are looked at beside the current one.
[[nodiscard]] Selection select(const Model& model, Id place, const PumpRequest& request,
                               const std::shared_ptr<const Stock>& stock, const SelectOptions& options);

/// The values of a pump that takes an item of the stock: what belongs to the machine is the item's, what
/// belongs to its place (units, datum, service, whether it runs) stays. `units`: that many in parallel;
/// empty: as many as now, as they are.
[[nodiscard]] Values asItem(const Values& own, std::string_view item, std::optional<double> units = {});

/// One to `most` units side by side in the current case.
[[nodiscard]] std::vector<CandidateDuty> unitsRunning(const Model& model, Id place, std::string_view item,
                                                      int most, const std::shared_ptr<const Stock>& stock,
                                                      const SelectOptions& options);

}  // namespace conduit

// The head the network asks of a pump at each flow: the pump is made to pass it and the network is balanced,
// for real; valves, controllers, check valves and tanks act as they would.
//
//   SystemCurve curve = systemCurve(network, stock, base, {.members = {pump}}, {.most_m3s = 0.03});
//   double asked = *curve.at(0.02);
#pragma once

#include "pump/block.h"
#include "solve/solve.h"

namespace conduit {

/// The pumps through which the flow is made to go. Alone; one after another (each passes all of it, their
/// heads add up); or side by side: between where they part and where they join, with what their laterals
/// lose. Where no such two places are found each passes its share, and the head is the mean of theirs by
/// those shares, so that it times the flow is the power they give together: right at the duty alone.
struct PumpGroup {
  std::vector<Id> members;
  bool series = false;
  std::vector<double> shares{};  // as members; empty: equal
  std::optional<PumpBlock> block{};
  [[nodiscard]] double shareOf(std::size_t i) const {
    return series ? 1.0 : shares.empty() ? 1.0 / static_cast<double>(members.size()) : shares[i];
  }
  /// From heads of the members to that of the group.
  [[nodiscard]] double weightOf(std::size_t i) const { return series ? 1.0 : shareOf(i); }
};
/// Side by side or one after another as the water goes, with shares as they flow now (equal where none does).
/// The Problem says which of them are neither.
[[nodiscard]] Result<PumpGroup> groupOf(const Network& network, const Solution& solution,
                                        std::vector<Id> pumps);

/// A would-be pump: the network with one set where a supply is, and which it is. A pump stands for itself; at
/// a tank it stands between the tank and what the tank is joined to, and lifts from its level; at a fixed
/// pressure it replaces that, and at a point it feeds it: both lift from an open surface at that height.
struct StandIn {
  Network network;
  Id pump = noId;
  bool made = false;
};
/// `drawn`: what is made has names that it can keep in a drawing; else names that say what it is.
[[nodiscard]] Result<StandIn> standIn(const Network& network, Id place, bool drawn = false);

/// The level that a pump lifts to with a head, from what stands at its suction in `base`, m. Empty where
/// `base` has no head there.
[[nodiscard]] std::optional<double> liftsTo(const Network& network, const Solution& base, Id pump,
                                            double head_m);

/// "Tarn provides 18 L/s", "Tarn takes 3.51 L/s" of a negative one.
[[nodiscard]] std::string providesSaid(const Network& network, Id supply, double flow_m3s,
                                       const UnitSet& units, int significant = 4);

/// The network in which, beside a place, one other supply alone makes up the rest: all further tanks and
/// fixed pressures keep giving what they give now.
[[nodiscard]] Network restFrom(const Network& network, const Solution& solution, Id place, Id other);

struct SystemCurve : TracedCurve {
  /// At no flow: what must be given before anything flows. Empty where the curve does not go back that far.
  std::optional<double> static_m;
  std::string staticSaid;  // "from Tarn at 312 m to Top tank at 689 m"
};

struct CurveOptions {
  double most_m3s = 0.0;
  UnitSet units = UnitSet::siWater();  // for words
  JobOptions jobs;
  std::size_t coarse = 9;
  std::size_t solves = 160;
};

/// `base` is where each solve begins; one that is not usable: cold.
[[nodiscard]] SystemCurve systemCurve(const Network& network, const Stock* stock, const Solution& base,
                                      const PumpGroup& group, const CurveOptions& options);

/// The curve of a group against its flow, at which its members give that head together, each as it stands
/// (its speed, its trim, its units); with the kinks where one opens. Empty where one has no curve.
[[nodiscard]] TracedCurve groupCurve(const Network& network, const Stock* stock, const Solution& solution,
                                     const PumpGroup& group, const JobOptions& jobs = {});
/// What a group passes in an answer, and the head as the curves mean it. Empty where nothing determines them.
[[nodiscard]] std::optional<DutyPoint> groupDuty(const Network& network, const Solution& answer,
                                                 const PumpGroup& group);

/// The flow at which the group is asked for `head_m` (nearest to `near_m3s` of several), or the head at a
/// flow: solved, not read off the drawn curve. Empty where there is none.
[[nodiscard]] std::optional<DutyPoint> readAtFlow(const Network& network, const Stock* stock,
                                                  const Solution& base, const PumpGroup& group,
                                                  double flow_m3s);
[[nodiscard]] std::optional<DutyPoint> readAtHead(const Network& network, const Stock* stock,
                                                  const Solution& base, const PumpGroup& group,
                                                  const TracedCurve& curve, double head_m, double near_m3s);

/// Bytes that tell the states of all devices of an answer.
[[nodiscard]] std::vector<std::uint8_t> statesOf(const Solution& solution);
/// "V-3 acting, then open; C-1 shut, then open": what differs between two such lists.
[[nodiscard]] std::string changeSaid(const Network& network, const Solution& like,
                                     const std::vector<std::uint8_t>& before,
                                     const std::vector<std::uint8_t>& after);

}  // namespace conduit

// A curve of which each point takes a solve: traced with few of them, with its kinks, steps and gaps found.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "jobs/pool.h"
#include "network/network.h"
#include "parts/part.h"

namespace conduit {

struct DutyPoint {
  double flow_m3s = 0.0, head_m = 0.0;
};

/// One point of a curve, as it was solved.
struct ProbedPoint {
  std::optional<double> head_m;
  std::string why;  // where there is no head
  /// What the devices do: between points of unlike states the curve has a kink or a step.
  std::vector<std::uint8_t> states;
  Id governs = noId;         // the point that decides the head, where one does
  double carried = 0.0;      // for who reads the curve back: what else belongs to the point
  bool onPaperOnly = false;  // solved, and somewhere physically impossible
};

/// Where a curve changes its course.
struct CurveBreak {
  double flow_m3s = 0.0;
  double before_m = 0.0, after_m = 0.0;  // heads on both sides; alike at a kink
  std::vector<std::uint8_t> statesBefore, statesAfter;
  bool step = false;
  std::string what;  // "V-3 acting, then open"
};
/// Flows at which nothing balances, and why at their first.
struct FlowGap {
  double from_m3s = 0.0, to_m3s = 0.0;
  std::string why;
};

struct TracedCurve {
  /// By rising flow. Straight lines between them are within 0.2 % of the greatest head; two at one flow: a
  /// step; NaN: flows left out.
  std::vector<DutyPoint> points;
  std::vector<ProbedPoint> probes;  // of the points, in their order
  std::vector<CurveBreak> breaks;
  std::vector<FlowGap> gaps;
  std::size_t solves = 0;
  bool coarse = false;  // the most solves were spent before that was reached
  bool stopped = false;
  [[nodiscard]] bool empty() const { return points.empty(); }
  /// Straight between points; empty outside and in gaps.
  [[nodiscard]] std::optional<double> at(double flow_m3s) const;
  /// The greatest and least flow that has a head; 0 where none has.
  [[nodiscard]] double first() const, last() const;
};

struct TraceOptions {
  double least_m3s = 0.0, most_m3s = 0.0;
  std::size_t coarse = 9;    // points to begin with
  std::size_t solves = 160;  // at most
  double within = 0.002;     // of the greatest head
  JobOptions jobs;
};

/// `probe(flow, lane)` must give the same answer for the same flow whatever was asked before: the curve is
/// then the same on any number of threads. Rounds: intervals whose straight line may be too far off, and
/// those with unlike states at their ends, are halved.
[[nodiscard]] TracedCurve trace(const std::function<ProbedPoint(double flow_m3s, std::size_t lane)>& probe,
                                const TraceOptions& options);

}  // namespace conduit

// The greatest head that every point may stand at when nothing leaves the network: what ratings are held
// against besides the pressure that is found while it flows.
//
//   const auto off = shutOff(network, answer);
//   off->head_m[point]; wordsOf(off->way(point), …)  // "Tarn at 312 m, P-1 174 m, B-1 118 m"
#pragma once

#include <memory>
#include <string>

#include "solve/solution.h"

namespace conduit {

/// How a point comes to its greatest head at no flow: the level or pressure it begins from and the pumps it
/// leads through, each once.
struct NoFlowWay {
  Id source = noId;
  double source_m = 0.0;
  struct Lift {
    Id pump;
    double by_m;
  };
  std::vector<Lift> lifts;
  Id cappedBy = noId;  // the valve whose set point it ends at
};

/// Each line has the head of its source at rest and, along the path that makes it highest, the greatest head
/// of each running pump's curve from no flow to its duty. Stopped pumps and open valves pass it on; shut
/// valves, surfaces and fixed pressures end it, reducing valves at their set point; a check valve ends it
/// against its direction; relief valves hold what is openly joined to them to their set pressure.
///
/// A path leads through no point twice. Of the points that it passes between two pumps only those are kept
/// from it later that every way between them leads through: in a mesh, where two ways could be laid apart in
/// one drawing and not in another, the greater head is taken.
struct ShutOff {
  std::vector<double> head_m;       // of points, by Id; NaN: nothing reaches it
  std::vector<double> pressure_pa;  // of points, by Id, gauge; NaN: that, or no height
  std::vector<std::uint32_t> by;    // of points, by Id: their way
  std::vector<NoFlowWay> ways;
  std::vector<Id> unknown;      // running pumps and given inflows that may press on without end
  std::vector<Id> unprotected;  // displacement pumps that no relief valve is joined to
  /// What a check valve keeps off: if it leaked and the pumps stood, these points would stand at the head
  /// behind it. (What pumps bring with them to hold backflow is not counted on.)
  struct Kept {
    Id valve;
    double head_m;
    std::vector<Id> points;
  };
  std::vector<Kept> kept;
  /// What it rests on besides lines that let pass: elements with a state of their own, and what they were.
  std::vector<Id> restsOn;
  std::vector<double> facts;
  bool complete = true;  // false: more ways through pumps than were tried
};
/// Null where the answer is of no use, or nothing in the network has a rating (unless it is `rated` later).
[[nodiscard]] std::shared_ptr<const ShutOff> shutOff(const Network& network, const Solution& answer,
                                                     bool rated = false);
/// That of an earlier answer, where nothing that it rests on is another now; null where it is.
[[nodiscard]] std::shared_ptr<const ShutOff> shutOffAsBefore(const Network& before,
                                                             const std::shared_ptr<const ShutOff>& then,
                                                             const Network& now, const Solution& answer);
/// "Tarn at 312.0 m, P-1 + 174 m".
[[nodiscard]] std::string wordsOf(const NoFlowWay& way, const Network& network, const UnitSet& units);

}  // namespace conduit

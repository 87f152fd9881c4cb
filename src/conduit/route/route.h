// A route through a solved network, and what stands along it: heights, grades, the corridor, and where the
// head went.
#pragma once

#include "solve/solution.h"

namespace conduit {

/// One element passed. `reversed`: against the direction in which it is drawn. A tank begins or ends a route.
struct RouteStep {
  Id element = noId;
  Id from = noId, to = noId;  // points; noId beyond a tank, nozzle or fixed pressure
  std::size_t branch = 0;
  bool reversed = false;
};
using Route = std::vector<RouteStep>;

/// Through an element or point: upstream by the largest flow to its supply, downstream by the largest flow to
/// its end. `through` noId: the longest such route from any draw-off or receiving tank. Empty when nothing is
/// solved.
[[nodiscard]] Route traceRoute(const Network& network, const Solution& solution, Id through);
/// The way with the fewest elements between two points; empty when there is none.
[[nodiscard]] Route routeBetween(const Network& network, Id from, Id to);

/// Everything on the route in its order: each point and each element once.
[[nodiscard]] std::vector<Id> elementsAlong(const Route& route);

/// A route by the drawing alone, for a network that is not balanced yet: from a supply by way of `through`
/// (noId: none) to the farthest point, counted in elements.
[[nodiscard]] Route drawnRoute(const Network& network, Id through);

/// A place along the route. At a step up or down (a pump, a valve) two stations share a distance.
struct Station {
  double along_m = 0.0;
  double height_m = 0.0;
  std::optional<double> energy_m;     // energy grade
  std::optional<double> hydraulic_m;  // energy grade less velocity head
  std::optional<double> ceiling_m;    // height plus rating as a head
  Id point = noId;                    // where the station is a point
  std::size_t step = 0;
  double floorDepth_m = 0.0;  // below the height, with the air of that height: (p_atm − p_v)/(ρ g)
  /// Where the liquid would boil.
  [[nodiscard]] double floor_m() const { return height_m - floorDepth_m; }
};

/// Sum of heads along the route, m: static lift, friction, fittings (entrances, exits, take-offs), equipment,
/// lifts.
struct HeadSum {
  double lift_m = 0.0, pipes_m = 0.0, equipment_m = 0.0, restrained_m = 0.0, pumped_m = 0.0;
};

struct TankMark {
  Id tank = noId;
  double along_m = 0.0;
  double level_m = 0.0;
};

struct Profile {
  std::vector<Station> stations;
  std::vector<TankMark> tanks;
  double floorDepth_m = 0.0;  // the greatest along the route
  double length_m = 0.0;
  HeadSum sum;
};

/// What stands at a place along a profile.
struct AlongReading {
  std::size_t station = 0;  // the one before it
  double height_m = 0.0;
  std::optional<double> grade_m;                  // hydraulic
  std::optional<double> pressure_pa, allowed_pa;  // gauge: of still water there, and by the rating
};
/// Between stations heights and grades run straight. A profile has two stations or more.
[[nodiscard]] AlongReading readingAt(const Profile& profile, const Medium& medium, double along_m);

[[nodiscard]] Profile profileOf(const Network& network, const Solution& solution, const Route& route);

}  // namespace conduit

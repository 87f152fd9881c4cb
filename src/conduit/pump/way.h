// The way of the water through a solved network, up and down from an element.
#pragma once

#include "solve/solution.h"

namespace conduit {

/// One step: the element passed, the point (or none: a surface) it comes from or goes to, and the head there.
struct Step {
  Id element = noId, point = noId;
  double flow_m3s = 0.0, head_m = 0.0;
};
/// Up the greatest flow that arrives, or down the greatest that leaves, from a point until a head is held, a
/// surface reached or the way closes.
struct Way {
  std::vector<Step> steps;
  Id from = noId;    // the point it began at
  Id holder = noId;  // the element that holds the head at its end, or the surface's; noId: none does
  bool surface = false;
  double endHead_m = 0.0;
};
[[nodiscard]] Way wayUp(const Network& network, const Solution& solution, Id point);
[[nodiscard]] Way wayDown(const Network& network, const Solution& solution, Id point);

}  // namespace conduit

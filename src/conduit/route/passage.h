// The ways out of a point of a solved network, each with what flows there: the one home of "by the greatest
// flow".
#pragma once

#include <functional>

#include "route/route.h"

namespace conduit {

/// From `step.from` through an element to `step.to`.
struct Passage {
  RouteStep step;
  double flow_m3s = 0.0;         // along the step; less than nothing: it comes from there
  std::optional<double> head_m;  // at the other end, where it is determined
};

/// Of every element at the point, in their order; what holds a head there is one too. Where a connection of a
/// tank leads is told by its law, never by comparing heads.
[[nodiscard]] std::vector<Passage> passagesAt(const Network& network, const Solution& solution, Id point);

/// The one with the greatest flow out of the point (`sign` 1) or into it (−1), over `least_m3s`, of those
/// that may be taken; null: none.
[[nodiscard]] const Passage* greatestOf(std::span<const Passage> passages, double sign, double least_m3s,
                                        const std::function<bool(const Passage&)>& may = {});

}  // namespace conduit

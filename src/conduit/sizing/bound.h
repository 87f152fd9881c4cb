// A cost below which no choice of sizes can lie that keeps the least pressures, with flows free.
#pragma once

#include "sizing/judge.h"

namespace conduit {

struct CostBound {
  std::optional<double> cost;  // in what is wanted; empty: no bound is known
  std::string why;             // where there is none
  std::string noneCan;         // proved: no choice keeps these limits, and why: it is dearer than the dearest
};

/// For networks of one held head or level and given draw-offs in which nothing lifts (docs/theory.md, "A
/// bound"); valves and equipment count as taking no head: the power that lines lose, Σ Q h, is at most what
/// the source gives more than the draw-offs must have, Σ q (H − Hmin). With a price on it, each line's least
/// cost over all sizes at a flow is a function of that flow alone; with a convex function below each the
/// least cost of all flows is bounded by any values of water at the nodes, and that less the price of the
/// power is a bound whatever the price; good values and the best price are searched for. Over the cases, the
/// greatest.
[[nodiscard]] CostBound costBound(const SizingTask& task, const Judge& judge, std::stop_token stop = {});

}  // namespace conduit

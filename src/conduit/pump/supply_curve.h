// What a supply has to give when the draw-offs grow and shrink together: at each flow the head that just
// keeps a least pressure everywhere, while another supply gives the rest at the level that this takes.
//
//   SharedSupply s{.supply = works, .other = spring, .share = 0.35, .least_pa = 2e5};
//   SharedCurve curve = sharedCurve(network, stock, base, s, {.most_m3s = 0.05});
#pragma once

#include "pump/trace.h"
#include "solve/solve.h"

namespace conduit {

struct SharedSupply {
  Id supply = noId;  // a tank, a fixed pressure or a point
  Id other = noId;   // a tank or fixed pressure that gives the rest, with its level moved for it; noId: this
                     // supply gives all, and others nothing
  double share = 1.0;     // of all draw-offs that this supply gives, 0 < share ≤ 1
  double least_pa = 0.0;  // gauge, kept at every point but those at the two supplies
};

/// A state of the network on that curve, solved.
struct SharedPoint {
  double flow_m3s = 0.0;   // that this supply gives
  double head_m = 0.0;     // it must hold: of the liquid over the point it is joined to
  double level_m = 0.0;    // the same as an energy head over datum
  double factor = 1.0;     // on every draw-off
  double other_m3s = 0.0;  // the other gives
  std::vector<std::pair<Id, double>>
      besides;                // further supplies at the heads they hold, and what each gives, m³/s
  double otherLevel_m = 0.0;  // as an energy head over datum
  Id governs = noId;          // the point at which no more than the least pressure is left
  std::vector<std::uint8_t> states;
};

struct SharedCurve : TracedCurve {
  double drawn_m3s = 0.0;  // all draw-offs as they are
};

struct SharedOptions {
  double most_m3s = 0.0;  // 0: twice what the share of the draw-offs as they are comes to
  JobOptions jobs;
};

/// The Problem says what is wrong with the set-up: no draw-offs, a supply that is none, a share out of range.
[[nodiscard]] Result<SharedCurve> sharedCurve(const Network& network, const Stock* stock,
                                              const Solution& base, const SharedSupply& shared,
                                              const SharedOptions& options);
/// One flow, or one head (over the point), solved. The Problem says why there is none: no head keeps the
/// pressure at a named point.
[[nodiscard]] Result<SharedPoint> sharedAtFlow(const Network& network, const Stock* stock,
                                               const Solution& base, const SharedSupply& shared,
                                               double flow_m3s, Workspace* space = nullptr);
[[nodiscard]] Result<SharedPoint> sharedAtHead(const Network& network, const Stock* stock,
                                               const Solution& base, const SharedSupply& shared,
                                               const SharedCurve& curve, double head_m);
/// The network with all that belongs to such a point: draw-offs times the factor, both supplies holding their
/// heads. Its balance gives the point's flow.
[[nodiscard]] Network withShared(const Network& network, const Stock* stock, const SharedSupply& shared,
                                 const SharedPoint& point);

}  // namespace conduit

#include "pump/way.h"

#include <algorithm>
#include <cmath>

#include "route/passage.h"

namespace conduit {
namespace {

// Through the greatest flow into (or out of) a point to where it comes from (or goes to).
Step greatest(const Network& network, const Solution& solution, Id point, bool up) {
  if (!solution.head(point)) return {};
  const auto passages = passagesAt(network, solution, point);
  const Passage* best =
      greatestOf(passages, up ? -1.0 : 1.0, 0.0, [&](const Passage& p) { return p.head_m.has_value(); });
  if (!best) return {};
  return {best->step.element, best->step.to, std::abs(best->flow_m3s), *best->head_m};
}

Way way(const Network& network, const Solution& solution, Id point, bool up) {
  Way out{.steps = {}, .from = point};
  std::vector<char> seen(network.bound(), 0);
  Id at = point;
  for (;;) {
    seen[at] = 1;
    out.endHead_m = solution.head(at).value_or(NAN);
    const auto held = network.elementsAt(at);
    const auto holder = std::find_if(held.begin(), held.end(), [&](Id id) {
      if (network.at(id).part->ends != Ends::one) return false;
      const double in = solution.heldInflow_m3s[id];
      return up ? in > 0 : in < 0;
    });
    if (holder != held.end()) {
      out.holder = *holder;
      return out;
    }
    const Step step = greatest(network, solution, at, up);
    if (step.element == noId || (step.point != noId && seen[step.point])) return out;
    out.steps.push_back(step);
    if (step.point == noId) {
      out.surface = true, out.holder = step.element, out.endHead_m = step.head_m;
      return out;
    }
    at = step.point;
  }
}

}  // namespace

Way wayUp(const Network& n, const Solution& s, Id point) { return way(n, s, point, true); }
Way wayDown(const Network& n, const Solution& s, Id point) { return way(n, s, point, false); }

}  // namespace conduit

#include "pump/way.h"

#include <algorithm>

namespace conduit {
namespace {

// The branch with the greatest flow into (or out of) a point, and where it comes from (or goes to).
Step greatest(const Network& network, const Solution& solution, Id point, bool up) {
  Step best;
  const auto here = solution.head(point);
  if (!here) return best;
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    for (std::size_t b = 0; b < solution.branchCount(id); ++b) {
      const BranchReading r = solution.branch(id, b);
      if (!r.flow_m3s || !r.headFrom_m || !r.headTo_m) continue;
      const bool two = e.part->ends == Ends::two;
      if (two ? e.ends[0] == e.ends[1] : *r.headFrom_m != *here && *r.headTo_m != *here)
        continue;  // another connection of a tank
      const bool endsHere = two ? e.ends[1] == point : *r.headTo_m == *here;
      const double in = endsHere ? *r.flow_m3s : -*r.flow_m3s, wanted = up ? in : -in;
      if (wanted > best.flow_m3s)
        best = {id, two ? e.ends[endsHere ? 0 : 1] : noId, wanted, endsHere ? *r.headFrom_m : *r.headTo_m};
    }
  }
  return best;
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

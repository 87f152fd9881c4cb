#include "pump/way.h"

#include <algorithm>

namespace conduit {
namespace {

// The points each branch of an element runs from and to; noId: an inner place, as a tank's surface.
std::vector<std::pair<Id, Id>> pointsOf(const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  const std::size_t count = solution.branchCount(id);
  if (count == 0) return {};
  if (e.part->ends == Ends::two) return {count, {e.ends[0], e.ends[1]}};
  Values scratch;
  const Prepared prepared = e.part->prepare(valuesOf(e, solution.setting.stock, scratch), solution.setting,
                                            endPlaces(network, e, solution.setting, solution.widestBore_m));
  std::vector<std::pair<Id, Id>> joined(count, {noId, noId});
  const auto pointOf = [&](int end) { return end < 0 ? noId : e.ends[static_cast<std::size_t>(end)]; };
  for (std::size_t b = 0; b < std::min(joined.size(), prepared.branches.size()); ++b)
    joined[b] = {pointOf(prepared.branches[b].from), pointOf(prepared.branches[b].to)};
  return joined;
}

// The branch with the greatest flow into (or out of) a point, and where it comes from (or goes to).
Step greatest(const Network& network, const Solution& solution, Id point, bool up) {
  Step best;
  if (!solution.head(point)) return best;
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    const auto joined = pointsOf(network, solution, id);
    for (std::size_t b = 0; b < solution.branchCount(id); ++b) {
      const BranchReading r = solution.branch(id, b);
      if (!r.flow_m3s || !r.headFrom_m || !r.headTo_m) continue;
      const bool two = e.part->ends == Ends::two;
      const auto [from, to] = joined[b];
      if ((from == point) == (to == point)) continue;  // another connection of a tank
      const bool endsHere = to == point;
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

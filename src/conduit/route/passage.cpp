#include "route/passage.h"

#include <cmath>

#include "network/setting.h"

namespace conduit {
namespace {

// Whether branch `b` of an element with an inner place runs from its end to there.
bool runsInward(const Network& network, const Solution& solution, const Element& e, std::size_t b) {
  Values scratch;
  const Prepared prepared = e.part->prepare(valuesOf(e, solution.setting.stock, scratch), solution.setting,
                                            endPlaces(network, e, solution.setting, solution.widestBore_m));
  return b < prepared.branches.size() && prepared.branches[b].from >= 0;
}

}  // namespace

std::vector<Passage> passagesAt(const Network& network, const Solution& solution, Id point) {
  std::vector<Passage> passages;
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    for (std::size_t b = 0; b < solution.branchCount(id); ++b) {
      const BranchReading r = solution.branch(id, b);
      const double q = r.flow_m3s.value_or(0.0);
      if (e.part->ends == Ends::two) {
        if (e.ends[0] == point) passages.push_back({{id, point, e.ends[1], b, false}, q, r.headTo_m});
        if (e.ends[1] == point) passages.push_back({{id, point, e.ends[0], b, true}, -q, r.headFrom_m});
      } else if (b < e.ends.size() && e.ends[b] == point) {
        const bool inward = runsInward(network, solution, e, b);
        passages.push_back(
            {{id, point, noId, b, !inward}, inward ? q : -q, inward ? r.headTo_m : r.headFrom_m});
      }
    }
    if (e.part->ends == Ends::one && solution.branchCount(id) == 0) {
      const double in = id < solution.heldInflow_m3s.size() && !std::isnan(solution.heldInflow_m3s[id])
                            ? solution.heldInflow_m3s[id]
                            : 0.0;
      passages.push_back({{id, point, noId, 0, false}, -in, {}});
    }
  }
  return passages;
}

const Passage* greatestOf(std::span<const Passage> passages, double sign, double least_m3s,
                          const std::function<bool(const Passage&)>& may) {
  const Passage* best = nullptr;
  for (const Passage& p : passages)
    if (sign * p.flow_m3s > least_m3s && (!best || sign * p.flow_m3s > sign * best->flow_m3s) &&
        (!may || may(p)))
      best = &p;
  return best;
}

}  // namespace conduit

#include "route/way_in.h"
#include "fields/keys.h"

#include <algorithm>
#include <vector>

namespace conduit {
namespace {

// The head at which an element feeds its point, roughly, m: enough to say which of two is the higher.
std::optional<double> supplyHead(const Network& network, const Element& e) {
  const Medium plain;
  if (e.part->ends == Ends::many) {
    const Given* level = e.given(key::level);
    if (!level) return std::nullopt;
    const Given* on = e.given(key::surfacePressure);
    return level->value + (on ? plain.columnOf(resolve(*on, Measure::gaugePressure, plain)) : 0.0);
  }
  const Given* pressure = e.part->ends == Ends::one ? e.given(key::pressure) : nullptr;
  if (!pressure) return std::nullopt;
  const Given* height = network.at(e.ends[0]).given(key::height);
  return (height ? height->value : 0.0) + plain.columnOf(resolve(*pressure, Measure::gaugePressure, plain));
}

struct Side {
  std::optional<double> highest_m;
  bool joined = false;  // the other end of the pipe is reached without it
};

// What feeds one end of the pipe when the pipe is not there.
Side look(const Network& network, Id pipe, Id from, Id other) {
  constexpr std::size_t most = 20000;  // points; farther away nothing is asked
  Side side;
  std::vector<char> seen(network.bound(), 0);
  std::vector<Id> queue{from};
  seen[from] = 1;
  for (std::size_t i = 0; i < queue.size() && i < most; ++i) {
    if (queue[i] == other) side.joined = true;
    for (const Id id : network.elementsAt(queue[i])) {
      if (id == pipe || seen[id]) continue;
      seen[id] = 1;
      const Element& e = network.at(id);
      if (e.part->group == Group::drawing) continue;
      if (const auto head = supplyHead(network, e); head && (!side.highest_m || *head > *side.highest_m))
        side.highest_m = head;
      if (e.part->ends != Ends::two) continue;
      for (const Id end : e.ends)
        if (!seen[end]) seen[end] = 1, queue.push_back(end);
    }
  }
  return side;
}

std::optional<double> flowIn(const Network& network, const Solution* solution, Id pipe) {
  if (!solution || !solution->summary.usable() || pipe + 1 >= solution->branchBegin.size() ||
      solution->branchBegin[pipe] == solution->branchBegin[pipe + 1] || !network.find(pipe))
    return std::nullopt;
  const double q = solution->branches[solution->branchBegin[pipe]].flow_m3s;
  return std::abs(q) > 1e-9 ? std::optional(q) : std::nullopt;  // not known: not more than that
}

}  // namespace

bool pointsBack(const Network& network, const Solution* solution, Id pipe, const Part& device) {
  const Element& line = network.at(pipe);
  const bool lifts = device.lifts;
  const auto flow = flowIn(network, solution, pipe);
  if (!lifts && flow) return *flow < 0;
  const Side a = look(network, pipe, line.ends[0], line.ends[1]);
  if (!a.joined) {
    const Side b = look(network, pipe, line.ends[1], line.ends[0]);
    if (a.highest_m && b.highest_m) return lifts ? *b.highest_m < *a.highest_m : *b.highest_m > *a.highest_m;
    if (b.highest_m) return true;
    if (a.highest_m) return false;
  }
  return flow && *flow < 0;
}

}  // namespace conduit

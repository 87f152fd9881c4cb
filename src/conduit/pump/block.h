// Pumps side by side with their laterals, cut out between where these part and where they join: what they
// give together there, at equal head.
//
//   if (auto block = blockOf(network, solution, {p1, p2}))
//     TracedCurve together = blockCurve(network, stock, solution, *block, {});
#pragma once

#include "pump/trace.h"
#include "solve/solution.h"

namespace conduit {

struct PumpBlock {
  std::vector<Id> pumps, elements;  // elements: all between, the pumps among them, in order of Id
  Id part = noId, join = noId;      // points; `part` may be a tank that feeds each by a connection of its own
};

/// From each pump up and down past lines and equipment to the first place where something else meets, feeds
/// or draws, past pieces of header that lead from one of the laterals to another alone. Empty where they do
/// not all part at one place and join at one, where a lateral holds more than lines, plain valves and
/// equipment that stand as they are given, or where a tee's losses there depend on the split.
[[nodiscard]] std::optional<PumpBlock> blockOf(const Network& network, const Solution& solution,
                                               const std::vector<Id>& pumps);

/// Head at `join` less head at `part`, m; a tank's is that of its surface.
[[nodiscard]] std::optional<double> headOver(const Network& network, const Solution& solution,
                                             const PumpBlock& block);

/// That head against the flow of all, each pump at the speed at which it runs in `solution`: the block is
/// solved by itself at each flow, with its check valves and what lies in its laterals; where one opens the
/// curve has a kink. It ends where the first pump reaches the end of its own curve. Empty where a pump has no
/// curve.
[[nodiscard]] TracedCurve blockCurve(const Network& network, const Stock* stock, const Solution& solution,
                                     const PumpBlock& block, const JobOptions& jobs);

}  // namespace conduit

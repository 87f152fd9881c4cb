// Parts of a network that do not act on one another: what joins them is a known head. Each may be settled by
// itself.
#pragma once

#include "solve/newton.h"

namespace conduit {

/// One such part as a system of its own. Laws are those of the whole, which must outlive it.
struct Island {
  System system;
  std::vector<std::size_t> links;  // of the whole, by link of the part
  std::vector<int> nodes;          // of the whole, by node of the part

  /// Flows, heads and states of the part, taken from those of the whole and put back.
  [[nodiscard]] Iterate take(const Iterate& whole) const;
  void put(const Iterate& part, Iterate& whole) const;
};

/// The parts that hold at least one of `links`, in the order of their first node. A device that senses a
/// point elsewhere belongs to one part with it.
[[nodiscard]] std::vector<Island> islandsOf(const System& system, std::span<const std::size_t> links);

}  // namespace conduit

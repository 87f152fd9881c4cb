// What was solved and what came of it, as one value: nobody can read a solution by another network than its
// own.
#pragma once

#include <memory>

#include "solve/solution.h"

namespace conduit {

/// A network, the stock it was solved with, and its solution.
struct Answer {
  Network network;
  std::shared_ptr<const Stock> stock;
  Solution solution;

  [[nodiscard]] bool usable() const { return solution.summary.usable(); }
  /// The element as it was solved. Null when it was not there, or was another kind of thing than `now`.
  [[nodiscard]] const Element* element(Id id, const Part* now) const {
    const Element* e = network.find(id);
    return e && (!now || e->part == now) ? e : nullptr;
  }
  /// The numbers of an element that is of kind `now`; null when the answer is of no use or does not know it.
  [[nodiscard]] std::unique_ptr<const ReadingOf> reading(Id id, const Part* now) const {
    return usable() && element(id, now) ? std::make_unique<const ReadingOf>(network, solution, id) : nullptr;
  }
};

}  // namespace conduit

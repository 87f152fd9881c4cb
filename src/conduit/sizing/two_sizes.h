// Lines of two sizes, one behind the other, where that is cheaper than one.
#pragma once

#include "sizing/plain_tree.h"

namespace conduit {

/// A line that is laid in two sizes.
struct TwoSizeLine {
  std::size_t row = 0;
  std::uint16_t nearer = 0, farther = 0;  // of the row's sizes, seen from the source
  double nearer_m = 0.0;                  // of its length
};

struct TwoSizes {
  std::vector<TwoSizeLine> lines;
  SizeChoice choice;       // of the rows; of a line of two sizes the nearer
  double objective = 0.0;  // of what is wanted
  Model model;             // the drawing with a new point in each of those lines
};

/// Of a branched network with given flows: by a linear programme (see cheapestSplit), made whole to 0.1 m of
/// length and solved: every limit is kept. Tied lines, and those by whose size something else loses, keep the
/// size of `best`; every case keeps its limits. Empty where no line of two sizes is cheaper, or the lines
/// cannot be cut.
[[nodiscard]] std::optional<TwoSizes> twoSizes(const SizingTask& task, const PlainTree& plain,
                                               const TreeAnswer& best, std::stop_token stop = {});

}  // namespace conduit

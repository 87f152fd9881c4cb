// A branched network as plain numbers, where it is plain enough for a proof.
#pragma once

#include "sizing/judge.h"
#include "sizing/tree.h"

namespace conduit {

/// Of each line of the tree its row, and the sizes that stand in the tree.
struct PlainTree {
  Tree tree;
  std::vector<std::size_t> row;
  std::vector<std::vector<std::uint16_t>> size;
  std::vector<char> along;  // of each line: drawn away from the source
};
/// A branched network of one source and given draw-offs, in one case, no lines tied: flows do not depend on
/// sizes, so every size of every line is measured by as many solves as there are sizes. Empty where it is not
/// such a network.
[[nodiscard]] std::optional<PlainTree> plainTree(const SizingTask& task, const Judge& judge);

}  // namespace conduit

// The least cost of a branched network in which every line's flow is known, proved: plain numbers in, sizes
// out.
//
//   TreeAnswer best = cheapest(tree);      // one size a line
//   SplitAnswer split = cheapestSplit(tree);  // a line may be of two sizes: a linear programme
#pragma once

#include <optional>
#include <span>
#include <stop_token>
#include <vector>

namespace conduit {

/// One line and the place at its far end. Lines stand after the line they hang from.
struct TreeLine {
  int from = -1;                     // the line before it; −1: it begins at the source
  std::vector<double> cost, loss_m;  // of each size that is allowed, at the line's flow
  double need_m = -1e300;            // energy head wanted at its far end; a small number: none
};
struct Tree {
  double head_m = 0.0;  // at the source
  std::vector<TreeLine> lines;
};

struct TreeAnswer {
  bool found = false;             // false: no sizes keep the heads (proved: not even the least losses do)
  bool proved = false;            // no other choice is cheaper
  std::vector<std::size_t> size;  // of each line
  double cost = 0.0;
  double bound = 0.0;      // no choice can cost less
  std::size_t states = 0;  // that were kept while it was searched
};

/// Backwards from the ends every line keeps the pairs (head needed before it, cost so far) of which none is
/// worse in both; with prices of head from the linear programme and the best sizes known a pair is dropped
/// when nothing it leads to can be cheaper. The least pair at the source is the optimum. Beyond `most` pairs
/// it is given up, and the best known stands with the programme's bound.
[[nodiscard]] TreeAnswer cheapest(const Tree& tree, std::size_t most = 4'000'000, std::stop_token stop = {});

struct SplitAnswer {
  bool found = false;
  double cost = 0.0;
  /// Of each line the share of its length in each size, at most two of them over nothing.
  std::vector<std::vector<double>> share;
  std::vector<double> price;  // what a metre more of head lost in a line costs
};
/// Losses and costs go with the length, so a line of two sizes loses and costs their mean: a linear programme
/// (simplex).
[[nodiscard]] SplitAnswer cheapestSplit(const Tree& tree);

}  // namespace conduit

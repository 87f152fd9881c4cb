// The least cost of a branched network in which every line's flow is known, proved: plain numbers in, sizes
// out.
//
//   TreeAnswer best = cheapest(tree);         // one size for each row
//   SplitAnswer split = cheapestSplit(tree);  // a row may be of two sizes: a linear programme
#pragma once

#include <optional>
#include <span>
#include <stop_token>
#include <vector>

namespace conduit {

/// Heads needed at or below this: none is needed.
inline constexpr double noNeed_m = -1e299;

/// One line, valve or other equipment, and the place at its far end. Lines stand after the line they hang
/// from.
struct TreeLine {
  int from = -1;               // the line before it; −1: it begins at the source
  std::vector<int> rows{};     // whose sizes its loss goes by, each once; none: it always loses the same
  std::vector<double> loss_m;  // at its flow, for each choice of those sizes, the last row's quickest
  double need_m = -1e300;      // energy head wanted at its far end; a small number: none
  double needNear_m = -1e300;  // likewise at its near end
  double most_m = 1e300;       // at its far end there is never more: a valve holds it
};
struct Tree {
  double head_m = 0.0;  // at the source
  /// Of each row, a line or lines that share one size, what each size costs.
  std::vector<std::vector<double>> cost;
  std::vector<TreeLine> lines;
};

/// Where a choice of some rows' sizes stands in a list of all such choices, the last row's quickest.
[[nodiscard]] std::size_t placeOf(const Tree& tree, std::span<const int> rows,
                                  std::span<const std::size_t> size);
/// The least that a line can lose, for each size of one of its rows.
[[nodiscard]] std::vector<double> leastBy(const Tree& tree, const TreeLine& line, int row);

struct SplitAnswer {
  bool found = false;
  double cost = 0.0;
  /// Of each row the share of its length in each size, at most two of them over nothing in a row of one line.
  std::vector<std::vector<double>> share;
  std::vector<double> price;  // of each line, what a metre more of head lost in it costs
};
/// Losses and costs go with the length, so a line of two sizes loses and costs their mean: a linear programme
/// (simplex). A loss that goes by several rows counts as the least it can be for the size of the first of
/// them that is not held. `held`: of each row its size, −1 where it is free; empty: all are free.
[[nodiscard]] SplitAnswer cheapestSplit(const Tree& tree, std::span<const int> held = {},
                                        std::stop_token stop = {});

struct TreeAnswer {
  bool found = false;
  bool proved = false;            // no other choice is cheaper; where none was found, there is none
  std::vector<std::size_t> size;  // of each row
  double cost = 0.0;
  double bound = 0.0;      // no choice can cost less
  std::size_t states = 0;  // that were kept while it was searched
  int shortAt = -1;        // the line at whose far end not even the least losses keep the head wanted
  double short_m = 0.0;    // by so much
  bool shortNear = false;  // at its near end instead
  SplitAnswer split;       // the programme's, whose prices were gone by
};

/// Backwards from the ends every line keeps the pairs (head needed before it, cost so far) of which none is
/// worse in both, apart for each size of the rows that stand elsewhere too; with prices of head from the
/// linear programme and the best sizes known a pair is dropped when nothing it leads to can be cheaper. The
/// least pair at the source is the optimum. Beyond `most` pairs, or where too many rows stand in several
/// places at once, it is given up, and the best known stands with the programme's bound. `split`: of a tree
/// that is much the same, in place of a programme of its own.
[[nodiscard]] TreeAnswer cheapest(const Tree& tree, std::size_t most = 4'000'000, std::stop_token stop = {},
                                  const SplitAnswer* split = nullptr);

}  // namespace conduit

// LDLᵀ of a sparse symmetric positive definite matrix whose pattern is that of a graph: one row a node, one
// pair of entries an edge. Ordered once, factored many times.
#pragma once

#include <span>
#include <utility>
#include <vector>

#include "solve/fronts.h"

namespace conduit {

/// An order of the nodes in which the factor stays sparse: approximate minimum degree (Amestoy, Davis and
/// Duff, SIAM J. Matrix Anal. 17, 1996, 886; the SuiteSparse package). Entry k is the node that comes k-th.
[[nodiscard]] std::vector<int> sparseOrder(int nodes, std::span<const std::pair<int, int>> edges);

/// For nodes numbered in such an order: up-looking LDLᵀ (Davis, Direct Methods for Sparse Linear Systems,
/// SIAM 2006, chapter 4), or dense fronts where counting the work says that they are quicker. Where every
/// entry of L will stand is worked out once; factoring then only reckons. Values are put straight into their
/// places: `diagonal(i)`, `offDiagonal(slot(edge))`; parallel edges share a place.
class Factor {
 public:
  Factor() = default;
  Factor(int nodes, std::span<const std::pair<int, int>> edges);

  void clear();  // all values to nothing
  [[nodiscard]] int slot(std::size_t edge) const { return edgeAt_[edge]; }
  [[nodiscard]] double& diagonal(int node) { return diagonal_[static_cast<std::size_t>(node)]; }
  [[nodiscard]] double& offDiagonal(int slot) { return values_[static_cast<std::size_t>(slot)]; }
  /// False when a pivot is not positive (the matrix is not definite).
  [[nodiscard]] bool factorise();
  /// The same, and solves for `b` by the way (one walk through L less); overwrites it with the solution.
  [[nodiscard]] bool factorAndSolve(std::span<double> b);
  /// Overwrites `b` with the solution.
  void solve(std::span<double> b) const;
  [[nodiscard]] int nodes() const { return n_; }
  [[nodiscard]] std::size_t entries() const { return entries_; }

 private:
  /// What the inner loop touches of a column, close together.
  struct Column {
    double work = 0.0, perPivot = 0.0;
    int begin = 0, filled = 0;
  };
  template <bool alongside>
  [[nodiscard]] bool reckon(std::span<double> forward);
  void backward(std::span<double> b) const;

  int n_ = 0;
  std::size_t entries_ = 0;
  std::vector<int> columnBegin_, row_, edgeAt_;  // strict upper triangle by columns
  std::vector<double> diagonal_, values_;
  std::vector<int> rowBegin_, rowAt_;  // by row of L: its columns, in an order in which they can be computed
  std::vector<int> lBegin_, lRow_;     // by column of L: its rows
  std::vector<double> l_;
  std::vector<Column> column_;
  Fronts fronts_;
};

}  // namespace conduit

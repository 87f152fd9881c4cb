// LDLᵀ of a sparse symmetric positive definite matrix whose pattern is that of a graph: one row a node, one pair of
// entries an edge. Ordered once, factored many times.
#pragma once

#include <span>
#include <utility>
#include <vector>

namespace conduit {

/// An order of the nodes in which the factor stays sparse: approximate minimum degree (Amestoy, Davis and Duff, SIAM J.
/// Matrix Anal. 17, 1996, 886; the SuiteSparse package). Entry k is the node that comes k-th.
[[nodiscard]] std::vector<int> sparseOrder(int nodes, std::span<const std::pair<int, int>> edges);

/// Up-looking LDLᵀ (Davis, Direct Methods for Sparse Linear Systems, SIAM 2006, chapter 4) for nodes numbered in such an
/// order. Values are put straight into their places: `diagonal(i)`, `offDiagonal(edge)`; parallel edges share a place.
class Factor {
 public:
  Factor() = default;
  Factor(int nodes, std::span<const std::pair<int, int>> edges);

  void clear();  // all values to nothing
  [[nodiscard]] double& diagonal(int node) { return values_[static_cast<std::size_t>(diagonalAt_[static_cast<std::size_t>(node)])]; }
  [[nodiscard]] double& offDiagonal(std::size_t edge) { return values_[static_cast<std::size_t>(edgeAt_[edge])]; }
  [[nodiscard]] double offDiagonal(std::size_t edge) const { return values_[static_cast<std::size_t>(edgeAt_[edge])]; }
  /// False when a pivot is not positive (the matrix is not definite).
  [[nodiscard]] bool factorise();
  /// Overwrites `b` with the solution.
  void solve(std::span<double> b) const;
  [[nodiscard]] std::size_t entries() const { return lRow_.size(); }

 private:
  int n_ = 0;
  std::vector<int> columnBegin_, row_, diagonalAt_, edgeAt_;
  std::vector<double> values_;
  std::vector<int> parent_, lBegin_, lRow_, count_, flag_, pattern_;
  std::vector<double> l_, d_, work_;
};

}  // namespace conduit

// LU of a sparse matrix without symmetry.
#pragma once

#include <memory>
#include <span>
#include <vector>

namespace conduit {

/// Left-looking sparse LU with partial pivoting, made for matrices as sparse as those of circuits (Davis and
/// Palamadai Natarajan, ACM Trans. Math. Software 37, 2010, article 36; the KLU library). The order of a
/// pattern is kept as long as the pattern stays.
class SparseLu {
 public:
  struct Entry {
    int row, column;
    double value;
  };
  SparseLu();
  ~SparseLu();
  SparseLu(SparseLu&&) noexcept;
  SparseLu& operator=(SparseLu&&) noexcept;

  /// Entries in any order; those of one place are summed. False when the matrix is singular.
  [[nodiscard]] bool factorise(int size, std::span<const Entry> entries);
  /// Overwrites `b` with the solution, after a successful `factorise`.
  void solve(std::span<double> b);

 private:
  struct Parts;
  std::unique_ptr<Parts> parts_;
};

}  // namespace conduit

// Cholesky's factor by dense fronts, for patterns whose factor is dense enough that a vector unit pays:
// square grids, where one column at a time spends its time on looking up places.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace conduit {

/// The pattern of a factor by columns: rows below the diagonal in rising order, and the first of them (the
/// parent in the elimination tree; -1 where there is none).
struct ColumnPattern {
  std::span<const int> begin, row;  // begin has one entry more than there are columns
  [[nodiscard]] int columns() const { return static_cast<int>(begin.size()) - 1; }
  [[nodiscard]] int count(int column) const {
    return begin[static_cast<std::size_t>(column) + 1] - begin[static_cast<std::size_t>(column)];
  }
  [[nodiscard]] int parent(int column) const {
    return count(column) == 0 ? -1 : row[static_cast<std::size_t>(begin[static_cast<std::size_t>(column)])];
  }
};

/// Multifrontal Cholesky (Duff and Reid, ACM Trans. Math. Softw. 9, 1983, 302): columns with the same rows
/// are one front, computed as a dense block; what it leaves for the columns to come is added into the front
/// of its parent. Small fronts are joined with their parent where that adds few zeros. Every number is made
/// by the same operations in the same order whatever the width of the machine's vectors, so that the bits do
/// not depend on it.
class Fronts {
 public:
  Fronts() = default;
  /// `upperBegin`, `upperRow`: the strict upper triangle of the matrix by columns, as its values are kept.
  /// Empty (see `built`) when the columns are not numbered such that every subtree stands together.
  Fronts(const ColumnPattern& pattern, std::span<const int> upperBegin, std::span<const int> upperRow);

  [[nodiscard]] bool built() const { return !front_.empty(); }
  /// Numbers that the machine's vectors hold: 8, 4 or 2. The bits of a factor are the same with each.
  [[nodiscard]] static int widestLanes();
  /// False when a pivot is not positive. Precondition: `lanes` is 2, 4 or 8 and not more than the widest.
  [[nodiscard]] bool factorise(std::span<const double> diagonal, std::span<const double> values,
                               int lanes = widestLanes());
  void forward(std::span<double> b) const;
  void backward(std::span<double> b) const;
  [[nodiscard]] std::size_t entries() const { return l_.size(); }

 private:
  struct Front {
    int first = 0, width = 0;  // its columns
    int below = 0;             // rows under them
    int parent = -1;           // front
    std::size_t rows =
        0;  // in row_ and inParent_: where each row stands, by number and in the parent's front
    std::size_t panel = 0;  // in l_: width columns of width + below each, the upper corner unused
    std::size_t valueBegin = 0, valueEnd = 0;  // in value_
  };
  struct Value {
    int slot, at;  // in the values handed in, and in the front (column × rows + row)
  };
  std::vector<Front> front_;
  std::vector<int> row_, inParent_;
  std::vector<Value> value_;
  std::vector<int> childBegin_;  // children of a front lie on top of the stack: how many there are
  std::vector<double> l_, work_, stack_;
  std::size_t widest_ = 0, stackMost_ = 0;
};

}  // namespace conduit

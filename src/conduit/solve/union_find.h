// Which things hang together.
#pragma once

#include <numeric>
#include <vector>

namespace conduit {

class UnionFind {
 public:
  explicit UnionFind(std::size_t n) : parent_(n) { std::iota(parent_.begin(), parent_.end(), 0); }
  [[nodiscard]] int find(int i) {
    while (parent_[at(i)] != i) i = parent_[at(i)] = parent_[at(parent_[at(i)])];
    return i;
  }
  /// The lower number becomes the root, so that the outcome does not depend on the order of joining.
  void join(int a, int b) {
    a = find(a), b = find(b);
    if (a < b) parent_[at(b)] = a;
    else parent_[at(a)] = b;
  }

 private:
  static std::size_t at(int i) { return static_cast<std::size_t>(i); }
  std::vector<int> parent_;
};

}  // namespace conduit

// Small dense systems, for the few unknowns that border the large sparse one.
#pragma once

#include <cmath>
#include <utility>
#include <vector>

namespace conduit {

/// Gauss with row pivots on m rows of m + 1 numbers, the last the right-hand side, which becomes the answer. False, with
/// `singular` the unknown that found no pivot above 1e-12 of a row scaled to 1, when there is none.
[[nodiscard]] inline bool solveDense(std::vector<std::vector<double>>& a, std::size_t* singular = nullptr) {
  const std::size_t m = a.size();
  for (std::size_t c = 0; c < m; ++c) {
    std::size_t best = c;
    for (std::size_t r = c + 1; r < m; ++r)
      if (std::abs(a[r][c]) > std::abs(a[best][c])) best = r;
    if (!(std::abs(a[best][c]) > 1e-12)) {
      if (singular) *singular = c;
      return false;
    }
    std::swap(a[c], a[best]);
    for (std::size_t r = c + 1; r < m; ++r)
      if (const double f = a[r][c] / a[c][c]; f != 0.0)
        for (std::size_t k = c; k <= m; ++k) a[r][k] -= f * a[c][k];
  }
  for (std::size_t c = m; c-- > 0;) {
    for (std::size_t k = c + 1; k < m; ++k) a[c][m] -= a[c][k] * a[k][m];
    a[c][m] /= a[c][c];
  }
  return true;
}

}  // namespace conduit

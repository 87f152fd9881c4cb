// Small dense systems, for the few unknowns that border the large sparse one.
#pragma once

#include <Eigen/LU>
#include <cmath>
#include <vector>

namespace conduit {

/// Solves m rows of m + 1 numbers, the last the right-hand side, which becomes the answer (row pivots).
/// False, with `singular` the unknown that found no pivot above 1e-12 of a row scaled to 1, when there is
/// none.
[[nodiscard]] inline bool solveDense(std::vector<std::vector<double>>& rows,
                                     std::size_t* singular = nullptr) {
  const auto m = static_cast<Eigen::Index>(rows.size());
  Eigen::MatrixXd a(m, m);
  Eigen::VectorXd b(m);
  for (Eigen::Index r = 0; r < m; ++r) {
    const std::vector<double>& row = rows[static_cast<std::size_t>(r)];
    a.row(r) = Eigen::Map<const Eigen::RowVectorXd>(row.data(), m);
    b(r) = row[static_cast<std::size_t>(m)];
  }
  const Eigen::PartialPivLU<Eigen::MatrixXd> lu(a);
  for (Eigen::Index c = 0; c < m; ++c)
    if (!(std::abs(lu.matrixLU()(c, c)) > 1e-12)) {
      if (singular) *singular = static_cast<std::size_t>(c);
      return false;
    }
  const Eigen::VectorXd x = lu.solve(b);
  for (Eigen::Index r = 0; r < m; ++r) rows[static_cast<std::size_t>(r)][static_cast<std::size_t>(m)] = x(r);
  return true;
}

}  // namespace conduit

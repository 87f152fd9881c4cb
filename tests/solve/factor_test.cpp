#include "solve/factor.h"

#include <gtest/gtest.h>

#include "solve/random_network.h"

namespace conduit {
namespace {

TEST(Factor, solvesWhatDenseEliminationSolves) {
  test::Chance c{7};
  for (int round = 0; round < 30; ++round) {
    const int n = 2 + c.below(40);
    std::vector<std::pair<int, int>> edges;
    for (int i = 1; i < n; ++i) edges.emplace_back(i, c.below(i));
    for (int k = 0; k < n; ++k)
      if (const int a = c.below(n), b = c.below(n); a != b) edges.emplace_back(a, b);  // parallel edges too
    const auto order = sparseOrder(n, edges);
    std::vector<int> place(static_cast<std::size_t>(n));
    for (int k = 0; k < n; ++k) place[static_cast<std::size_t>(order[static_cast<std::size_t>(k)])] = k;
    for (auto& [a, b] : edges) a = place[static_cast<std::size_t>(a)], b = place[static_cast<std::size_t>(b)];
    Factor f(n, edges);
    f.clear();
    std::vector<std::vector<double>> dense(static_cast<std::size_t>(n), std::vector<double>(static_cast<std::size_t>(n + 1), 0));
    auto at = [&](int i, int j) -> double& { return dense[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)]; };
    for (int i = 0; i < n; ++i) f.diagonal(i) += 0.1, at(i, i) += 0.1;
    for (std::size_t e = 0; e < edges.size(); ++e) {
      const double w = std::exp(c.between(-5, 5));
      const auto [a, b] = edges[e];
      f.diagonal(a) += w, f.diagonal(b) += w, f.offDiagonal(f.slot(e)) -= w;
      at(a, a) += w, at(b, b) += w, at(a, b) -= w, at(b, a) -= w;
    }
    std::vector<double> b(static_cast<std::size_t>(n));
    for (int i = 0; i < n; ++i) at(i, n) = b[static_cast<std::size_t>(i)] = c.between(-1, 1);
    std::vector<double> byTheWay = b;
    ASSERT_TRUE(f.factorise());
    f.solve(b);
    ASSERT_TRUE(f.factorAndSolve(byTheWay));
    for (int k = 0; k < n; ++k)
      for (int i = 0; i < n; ++i)
        if (i != k) {
          const double m = at(i, k) / at(k, k);
          for (int j = k; j <= n; ++j) at(i, j) -= m * at(k, j);
        }
    for (int i = 0; i < n; ++i) {
      EXPECT_NEAR(b[static_cast<std::size_t>(i)], at(i, n) / at(i, i), 1e-8);
      EXPECT_NEAR(byTheWay[static_cast<std::size_t>(i)], at(i, n) / at(i, i), 1e-8);
    }
  }
}

TEST(Factor, saysWhenAMatrixIsNotDefinite) {
  const std::vector<std::pair<int, int>> edges{{0, 1}};
  Factor f(2, edges);
  f.clear();
  f.diagonal(0) = 1, f.diagonal(1) = 1, f.offDiagonal(0) = -2;
  EXPECT_FALSE(f.factorise());
}

}  // namespace
}  // namespace conduit

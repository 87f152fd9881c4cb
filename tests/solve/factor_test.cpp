#include "solve/factor.h"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <set>

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
    std::vector<std::vector<double>> dense(static_cast<std::size_t>(n),
                                           std::vector<double>(static_cast<std::size_t>(n + 1), 0));
    auto at = [&](int i, int j) -> double& {
      return dense[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
    };
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

// A graph, its Laplacian with random weights and a little on the diagonal, and the pattern of the factor by
// eliminating sets.
struct Sample {
  std::vector<std::set<int>> below;  // by column, of the factor
  std::vector<int> upperBegin{0}, upperRow, begin{0}, row;
  std::vector<double> diagonal, values;

  Sample(int n, std::vector<std::pair<int, int>> edges, test::Chance& c)
      : below(static_cast<std::size_t>(n)), diagonal(static_cast<std::size_t>(n), 0.1) {
    const auto order = sparseOrder(n, edges);
    std::vector<int> place(static_cast<std::size_t>(n));
    for (int k = 0; k < n; ++k) place[static_cast<std::size_t>(order[static_cast<std::size_t>(k)])] = k;
    std::map<std::pair<int, int>, double> upper;  // column, row
    for (const auto& [a, b] : edges) {
      const int i = place[static_cast<std::size_t>(a)], j = place[static_cast<std::size_t>(b)];
      const double w = std::exp(c.between(-5, 5));
      diagonal[static_cast<std::size_t>(i)] += w, diagonal[static_cast<std::size_t>(j)] += w;
      upper[{std::max(i, j), std::min(i, j)}] -= w;
      below[static_cast<std::size_t>(std::min(i, j))].insert(std::max(i, j));
    }
    for (auto& rows : below) {
      if (!rows.empty())
        below[static_cast<std::size_t>(*rows.begin())].insert(std::next(rows.begin()), rows.end());
      row.insert(row.end(), rows.begin(), rows.end());
      begin.push_back(static_cast<int>(row.size()));
    }
    auto at = upper.begin();
    for (int k = 0; k < n; ++k) {
      for (; at != upper.end() && at->first.first == k; ++at)
        upperRow.push_back(at->first.second), values.push_back(at->second);
      upperBegin.push_back(static_cast<int>(upperRow.size()));
    }
  }
  [[nodiscard]] Fronts fronts() const { return Fronts({begin, row}, upperBegin, upperRow); }
  // The largest of what is left of b - A x.
  [[nodiscard]] double residual(std::span<const double> x, std::vector<double> b) const {
    for (std::size_t k = 0; k < b.size(); ++k) b[k] -= diagonal[k] * x[k];
    for (std::size_t k = 0; k < b.size(); ++k)
      for (auto p = static_cast<std::size_t>(upperBegin[k]); p < static_cast<std::size_t>(upperBegin[k + 1]);
           ++p) {
        const auto i = static_cast<std::size_t>(upperRow[p]);
        b[k] -= values[p] * x[i], b[i] -= values[p] * x[k];
      }
    double most = 0;
    for (const double r : b) most = std::max(most, std::abs(r));
    return most;
  }
};

std::vector<std::pair<int, int>> randomGraph(int n, test::Chance& c) {
  std::vector<std::pair<int, int>> edges;
  for (int i = 1; i < n; ++i)
    if (!c.oneIn(20)) edges.emplace_back(i, c.below(i));  // in several pieces now and then
  for (int k = 0; k < n; ++k)
    if (const int a = c.below(n), b = c.below(n); a != b) edges.emplace_back(a, b);
  return edges;
}

TEST(Fronts, solveAndHaveTheSameBitsWhateverTheWidthOfTheVectors) {
  test::Chance c{11};
  for (int round = 0; round < 200; ++round) {
    const int n = 1 + c.below(60);
    const Sample sample(n, randomGraph(n, c), c);
    std::vector<double> b(static_cast<std::size_t>(n)), first;
    for (double& v : b) v = c.between(-1, 1);
    for (int lanes = 2; lanes <= Fronts::widestLanes(); lanes *= 2) {
      Fronts fronts = sample.fronts();
      ASSERT_TRUE(fronts.built());
      ASSERT_TRUE(fronts.factorise(sample.diagonal, sample.values, lanes));
      std::vector<double> x = b;
      fronts.forward(x);
      fronts.backward(x);
      EXPECT_LT(sample.residual(x, b), 1e-10) << n;  // weights to 150, solutions to 10: rounding of 1e-13
      if (first.empty()) first = x;
      EXPECT_EQ(x, first) << lanes;
    }
  }
}

TEST(Fronts, sayWhenAMatrixIsNotDefinite) {
  test::Chance c{5};
  Sample sample(12, randomGraph(12, c), c);
  Fronts fronts = sample.fronts();
  sample.diagonal[7] = -1;
  EXPECT_FALSE(fronts.factorise(sample.diagonal, sample.values));
  sample.diagonal[7] = 500;
  EXPECT_TRUE(fronts.factorise(sample.diagonal, sample.values));  // and is as good as new
}

// A square grid large enough that counting the work chooses fronts.
TEST(Factor, solvesASquareGrid) {
  constexpr int side = 110, n = side * side;
  test::Chance c{3};
  std::vector<std::pair<int, int>> edges;
  for (int i = 0; i < n; ++i) {
    if ((i + 1) % side != 0) edges.emplace_back(i, i + 1);
    if (i + side < n) edges.emplace_back(i, i + side);
  }
  const auto order = sparseOrder(n, edges);
  std::vector<int> place(static_cast<std::size_t>(n));
  for (int k = 0; k < n; ++k) place[static_cast<std::size_t>(order[static_cast<std::size_t>(k)])] = k;
  for (auto& [a, b] : edges) a = place[static_cast<std::size_t>(a)], b = place[static_cast<std::size_t>(b)];
  Factor f(n, edges);
  std::vector<double> weight, x(static_cast<std::size_t>(n)), b(static_cast<std::size_t>(n), 0.0);
  for (double& v : x) v = c.between(-1, 1);
  f.clear();
  for (int i = 0; i < n; ++i)
    f.diagonal(i) = 0.1, b[static_cast<std::size_t>(i)] = 0.1 * x[static_cast<std::size_t>(i)];
  for (std::size_t e = 0; e < edges.size(); ++e) {
    const double w = std::exp(c.between(-2, 2));
    const auto [i, j] = edges[e];
    f.diagonal(i) += w, f.diagonal(j) += w, f.offDiagonal(f.slot(e)) -= w;
    const double flow = w * (x[static_cast<std::size_t>(i)] - x[static_cast<std::size_t>(j)]);
    b[static_cast<std::size_t>(i)] += flow, b[static_cast<std::size_t>(j)] -= flow;
  }
  ASSERT_TRUE(f.factorAndSolve(b));
  for (int i = 0; i < n; ++i)
    EXPECT_NEAR(b[static_cast<std::size_t>(i)], x[static_cast<std::size_t>(i)], 1e-10);  // condition some 1e3
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

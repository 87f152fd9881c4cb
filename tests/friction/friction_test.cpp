#include "friction/friction.h"

#include <gtest/gtest.h>

#include <cmath>

namespace conduit::friction {
namespace {

struct Row {
  double re, rel, f, logSlope;
};
class Colebrook : public testing::TestWithParam<Row> {};

// Values of the exact form by the Wright omega function, independent of our Newton; 10 figures.
TEST_P(Colebrook, isSolvedToRounding) {
  double guess = 0;
  const Factor got = colebrook(GetParam().re, GetParam().rel, guess);
  EXPECT_NEAR(got.f, GetParam().f, 2e-9 * GetParam().f);
  EXPECT_NEAR(got.logSlope, GetParam().logSlope, 1e-7 * std::abs(GetParam().logSlope) + 1e-12);
  double far = 3.0;  // another start, the same root
  EXPECT_NEAR(colebrook(GetParam().re, GetParam().rel, far).f, got.f, 1e-14);
}
INSTANTIATE_TEST_SUITE_P(Table, Colebrook,
                         testing::Values(Row{1e4, 0, 0.03088295035, -0.26485569},
                                         Row{1e5, 0, 0.01798977308, -0.20868839},
                                         Row{1e5, 1e-3, 0.02217453594, -0.094660111},
                                         Row{1e6, 1e-4, 0.01344143769, -0.085737082},
                                         Row{1e7, 1e-5, 0.008995711745, -0.078322643},
                                         Row{1e8, 0.05, 0.07155090409, -3.2266067e-06}));

TEST(Bridge, meetsItsCheckValuesAndBothNeighbours) {
  double g = 0;
  EXPECT_NEAR(factor(1000, 0, g).f, 0.064, 1e-15);
  EXPECT_NEAR(factor(2500, 1e-4, g).f, 0.030938257, 1e-8);
  EXPECT_NEAR(factor(3000, 1e-4, g).f, 0.035328498, 1e-8);
  EXPECT_NEAR(factor(3500, 0.01, g).f, 0.046844106, 1e-8);
  for (const double rel : {0.0, 1e-4, 0.01, 0.05}) {
    EXPECT_NEAR(factor(2000 * (1 + 1e-9), rel, g).f, 0.032, 1e-9);
    EXPECT_NEAR(factor(4000 * (1 - 1e-9), rel, g).f, factor(4000, rel, g).f, 1e-8);
    EXPECT_NEAR(factor(2000 * (1 + 1e-7), rel, g).logSlope, -1.0, 1e-4);
    // The loss f Re² rises everywhere.
    double last = 0;
    for (double re = 100; re < 2e4; re *= 1.01) {
      const double loss = factor(re, rel, g).f * re * re;
      EXPECT_GT(loss, last);
      last = loss;
    }
  }
}

TEST(Friction, slopeAgreesWithDifferences) {
  for (const double rel : {0.0, 1e-3, 0.03})
    for (double re = 50; re < 1e8; re *= 3.7) {
      double g = 0;
      const double h = 1e-6, up = std::log(factor(re * (1 + h), rel, g).f),
                   down = std::log(factor(re * (1 - h), rel, g).f);
      EXPECT_NEAR(factor(re, rel, g).logSlope, (up - down) / (std::log1p(h) - std::log1p(-h)), 1e-6) << re;
    }
}

TEST(HazenWilliams, meetsHandCalculation) {
  // h = 10.67 · L · Q^1.852 / (C^1.852 D^4.8704)
  EXPECT_NEAR(resistance({}, 100, 0.1, 130) * std::pow(0.01, 1.852), 1.903449, 2e-6);
  EXPECT_NEAR(resistance({}, 1000, 0.8, 100) * std::pow(1.0, 1.852), 6.253958, 6e-6);
}

}  // namespace
}  // namespace conduit::friction

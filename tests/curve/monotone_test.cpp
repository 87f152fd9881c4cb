#include "curve/monotone.h"

#include <gtest/gtest.h>

#include "say/ensure.h"

namespace conduit {
namespace {

TEST(MonotoneCurve, passesItsPointsAndNeverOvershoots) {
  const MonotoneCurve c({{0, 60}, {0.5, 59.9}, {1, 50}, {1.1, 30}, {2, 29}});
  for (const CurvePoint& p : c.points()) EXPECT_NEAR(c.at(p.x).value, p.y, 1e-12);
  double last = 61;
  for (double x = 0; x <= 2; x += 0.001) {
    const CurveValue v = c.at(x);
    EXPECT_LE(v.value, last + 1e-12);
    EXPECT_LE(v.slope, 1e-12);
    last = v.value;
  }
}

TEST(MonotoneCurve, slopeAgreesWithDifferences) {
  const MonotoneCurve c({{0, 0}, {1, 1}, {2, 4}, {3, 9}});
  for (double x = 0.05; x < 3; x += 0.1)
    EXPECT_NEAR(c.at(x).slope, (c.at(x + 1e-6).value - c.at(x - 1e-6).value) / 2e-6, 1e-5);
}

TEST(MonotoneCurve, goesOnStraightAndTwoPointsAreALine) {
  const MonotoneCurve line({{1, 10}, {3, 4}});
  EXPECT_DOUBLE_EQ(line.at(2).value, 7);
  EXPECT_DOUBLE_EQ(line.at(5).value, -2);
  EXPECT_DOUBLE_EQ(line.at(0).value, 13);
}

TEST(MonotoneCurve, refusesPointsThatDoNotRise) { EXPECT_THROW(MonotoneCurve({{1, 1}, {1, 2}}), OwnMistake); }

}  // namespace
}  // namespace conduit

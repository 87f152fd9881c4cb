// Halving by hand: x² = 2 between 0 and 2 either way round, to a tolerance, with no answer half-way.
#include "quantity/root.h"

#include <gtest/gtest.h>

namespace conduit {
namespace {

TEST(Root, isHalvedFromEitherSide) {
  const auto below = [](double x) { return x * x < 2; };
  EXPECT_NEAR(halved(0.0, 2.0, {}, below), std::sqrt(2), 1e-15);
  EXPECT_NEAR(halved(2.0, 0.0, {}, [](double x) { return x * x > 2; }), std::sqrt(2), 1e-15);
  // Three halvings of 0 to 2: 1, 1.5, 1.25 are tried; 1.25 to 1.5 is left.
  EXPECT_DOUBLE_EQ(halved(0.0, 2.0, {.times = 3}, below), 1.375);
  EXPECT_DOUBLE_EQ(halved(0.0, 2.0, {.within = 0.3}, below), 1.375);
  EXPECT_DOUBLE_EQ(halved(1.0, 1.0, {}, below), 1.0);
}

TEST(Root, endsWhereNothingIsKnown) {
  int asked = 0;
  const auto knows = [&](double x) -> std::optional<bool> {
    ++asked;
    return x > 1.2 ? std::nullopt : std::optional(true);
  };
  EXPECT_FALSE(halved(0.0, 2.0, {}, knows).has_value());
  EXPECT_EQ(asked, 2) << "1, then 1.5";
  EXPECT_NEAR(halved(0.0, 1.0, {}, knows).value(), 1.0, 1e-15);
}

}  // namespace
}  // namespace conduit

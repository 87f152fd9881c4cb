#include "quantity/quantity.h"

#include <gtest/gtest.h>

#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/units.h"

namespace conduit {
namespace {

template <class T>
concept CanAdd = requires(T a, T b) {
  a + b;
};
template <class A, class B>
concept CanSubtract = requires(A a, B b) {
  a - b;
};

static_assert(!CanAdd<Head>, "a head is a height above datum, not a difference");
static_assert(!CanAdd<GaugePressure> && !CanAdd<Temperature> && CanAdd<HeadDrop> && CanAdd<VolumeFlow>);
static_assert(!CanSubtract<Head, Bore> && !CanSubtract<Length, Bore>, "metres of different kinds do not mix");
static_assert(std::is_same_v<decltype(Head() - Head()), HeadDrop>);

TEST(Quantity, areaTimesVelocityIsFlow) {
  EXPECT_DOUBLE_EQ((Area::fromSi(0.5) * Velocity::fromSi(3)).si(), 1.5);
}

TEST(Units, everySymbolAndAliasReadsBackAsItself) {
  for (int m = 0; m <= static_cast<int>(Measure::number); ++m)
    for (const Unit& unit : unitsOf(static_cast<Measure>(m))) {
      if (unit.symbol.empty()) continue;
      const auto given = parse("2 " + std::string(unit.symbol), static_cast<Measure>(m));
      ASSERT_TRUE(given) << unit.symbol << ": " << given.error().what;
      EXPECT_NEAR(given->value, 2 * unit.factor + unit.offset, 1e-12 * std::abs(given->value)) << unit.symbol;
      EXPECT_EQ(given->basis, unit.basis) << unit.symbol;
    }
}

TEST(Units, basesResolveWithTheLiquid) {
  const Medium sea{1025.0, 9.80665, 101325.0};
  // 20.5 kg/s of 1025 kg/m3 is 20 L/s; 10 m of it is 1025·9.80665·10 Pa; 2.01325 bar a is 1 bar g; all by
  // hand.
  EXPECT_DOUBLE_EQ(resolve(*parse("20.5 kg/s", Measure::volumeFlow), Measure::volumeFlow, sea), 0.02);
  EXPECT_NEAR(resolve(*parse("10 m", Measure::gaugePressure), Measure::gaugePressure, sea), 100518.1625,
              1e-6);
  EXPECT_NEAR(resolve(*parse("2.01325 bara", Measure::gaugePressure), Measure::gaugePressure, sea), 100000.0,
              1e-6);
  EXPECT_NEAR(resolve(*parse("1 bar", Measure::headDrop), Measure::headDrop, sea), 1e5 / (1025 * 9.80665),
              1e-9);
}

TEST(Format, sensibleDigitsAndThinGroups) {
  EXPECT_EQ(digits(18.3456), "18.35");
  EXPECT_EQ(digits(2950), "2\u202f950");
  EXPECT_EQ(digits(-0.5581), "−0.5581");
  EXPECT_EQ(digits(0.0), "0");
  EXPECT_EQ(withUnit(0.0183, Measure::volumeFlow, UnitSet::siWater(), 3), "18.3 L/s");
  EXPECT_EQ(withUnit(0.0183, Measure::volumeFlow, *UnitSet::find("US"), 3),
            "290 gpm");  // 0.0183/6.30902e-5 = 290.06
}

TEST(Format, exactTextReadsBackToTheSameNumber) {
  for (const UnitSet& set : UnitSet::all())
    for (const double v : {0.0183, 1.0 / 3.0, 312.0, 1e-5}) {
      const auto back = parse(exactText(v, Measure::height, set), Measure::height);
      ASSERT_TRUE(back);
      EXPECT_NEAR(back->value, v, 1e-15 * v) << set.name();
    }
}

TEST(Format, bareGaugePressureIsSaidBack) {
  EXPECT_EQ(sayBack(*parse("3.5 bar", Measure::gaugePressure), Measure::gaugePressure), "3.5 bar g");
  EXPECT_EQ(sayBack(*parse("3.5 bara", Measure::gaugePressure), Measure::gaugePressure), "3.5 bara");
}

}  // namespace
}  // namespace conduit

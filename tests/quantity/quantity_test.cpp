#include "quantity/quantity.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <random>
#include <string>

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

// A text of more than 15 figures is read the long way: the short way of plain texts must mean the same.
TEST(Units, everySpellingIsReadAlikeByBothWays) {
  for (int m = 0; m <= static_cast<int>(Measure::number); ++m)
    for (const Unit& unit : unitsOf(static_cast<Measure>(m)))
      for (std::string rest = std::string(unit.symbol) + " " + std::string(unit.aliases); !rest.empty();) {
        const auto measure = static_cast<Measure>(m);
        // A symbol may have a blank of its own ("bar g"); its aliases do not.
        const bool symbol = rest.size() == unit.symbol.size() + 1 + unit.aliases.size();
        const auto end = symbol ? unit.symbol.size() : rest.find(' ');
        const std::string word = rest.substr(0, end);
        rest = end == std::string::npos || end + 1 >= rest.size() ? std::string() : rest.substr(end + 1);
        for (const std::string_view number : {"12.5", "-0.3", "7", "0.1234567"})
          for (const char* blank : {"", " "}) {
            const std::string text = std::string(number) + (word.empty() ? "" : blank + word);
            std::string filled = text;  // the same number with noughts behind it
            filled.insert(number.size(), number.find('.') == std::string_view::npos ? ".00000000000000000"
                                                                                    : "00000000000000000");
            const auto quick = parse(text, measure), slow = parse(filled, measure);
            ASSERT_EQ(quick.has_value(), slow.has_value()) << text << " of " << nameOf(measure);
            if (!quick) continue;
            EXPECT_EQ(quick->value, slow->value) << text;
            EXPECT_EQ(quick->basis, slow->basis) << text;
            EXPECT_EQ(quick->typed, text);
          }
      }
}

TEST(Format, sensibleDigitsAndThinGroups) {
  EXPECT_EQ(digits(18.3456), "18.35");
  EXPECT_EQ(digits(2950), "2\u202f950");
  EXPECT_EQ(digits(-0.5581), "−0.5581");
  EXPECT_EQ(digits(0.0), "0");
  // Four figures, also where rounding makes a number one longer.
  EXPECT_EQ(digits(99.9951), "100.0");
  EXPECT_EQ(digits(-0.999961), "−1.000");
  EXPECT_EQ(digits(999.96), "1\u202f000");
  EXPECT_EQ(withUnit(0.0183, Measure::volumeFlow, UnitSet::siWater(), 3), "18.3 L/s");
  EXPECT_EQ(withUnit(0.0183, Measure::volumeFlow, *UnitSet::find("US"), 3),
            "290 gpm");  // 0.0183/6.30902e-5 = 290.06
}

// The C library rounds the exact binary number to so many figures; halves and what lies a hair beside them
// are where a quick way would go wrong.
TEST(Format, digitsAreRoundedAsTheExactNumberIs) {
  std::mt19937_64 random(5);
  std::uniform_real_distribution<double> exponent(-3.99, 8.9), unit(0, 1);
  for (int i = 0; i < 40000; ++i) {
    const int figures = 2 + i % 4;
    double number = std::pow(10.0, exponent(random));
    if (i % 3 == 0) {  // a number with five at the end, as near as doubles come, or its neighbour
      const double step = std::pow(10.0, std::floor(std::log10(number)) - figures + 1);
      number = (std::floor(number / step) + 0.5) * step;
      if (i % 2) number = std::nextafter(number, unit(random) < 0.5 ? 0.0 : 1e9);
    }
    if (i % 97 == 0) number = std::pow(10.0, std::floor(std::log10(number))) * (1 - 1e-6 * unit(random));
    std::array<char, 64> said{};
    std::snprintf(said.data(), said.size(), "%.*e", figures - 1, number);
    std::string wanted(said.data());
    const int power = std::stoi(wanted.substr(wanted.find('e') + 1));
    wanted.erase(wanted.find('e'));
    std::erase(wanted, '.');
    // Whole figures are all said, however few are asked for.
    if (power >= figures) std::snprintf(said.data(), said.size(), "%.0f", number), wanted = said.data();
    std::string text = digits(number, figures, 0.0);
    for (auto at = text.find("\u202f"); at != std::string::npos; at = text.find("\u202f")) text.erase(at, 3);
    EXPECT_DOUBLE_EQ(std::stod(text),
                     std::stod(wanted) * (power >= figures ? 1 : std::pow(10.0, power - figures + 1)))
        << text;
    std::erase(text, '.');
    EXPECT_EQ(text.substr(std::min(text.find_first_not_of('0'), text.size())), wanted)
        << fmt::format("{:.17g} with {} figures", number, figures);
  }
}

TEST(Format, exactTextReadsBackToTheSameNumber) {
  for (const UnitSet& set : UnitSet::all())
    for (const double v : {0.0183, 1.0 / 3.0, 312.0, 1e-5}) {
      const auto back = parse(exactText(v, Measure::height, set), Measure::height);
      ASSERT_TRUE(back);
      EXPECT_NEAR(back->value, v, 1e-15 * v) << set.name();
    }
}

// What was found and taken over is said in six figures and kept in all; what somebody typed is said as typed.
TEST(Format, aNumberTakenOverKeepsItsDigitsAndIsSaidInFew) {
  for (const double si : {0.0123456789012345, 1.0 / 3e4, 2.0 / 7}) {
    const Given given = exactGiven(si, Measure::volumeFlow);
    EXPECT_EQ(given.value, si);
    EXPECT_NEAR(parse(given.typed, Measure::volumeFlow)->value, si, 2e-16 * si) << given.typed;
  }
  const auto said = [](const char* typed, Measure m) { return sayBack(*parse(typed, m), m); };
  EXPECT_EQ(said("12.3456789012345 L/s", Measure::volumeFlow), "12.3457 L/s");
  EXPECT_EQ(said("3.33333333333333 bar", Measure::gaugePressure), "3.33333 bar g");
  EXPECT_EQ(said("-0.000123456789012 m", Measure::height), "-0.000123457 m");
  for (const char* typed : {"1234.567 m", "123456.789 m", "12 ft 3.25 in"})
    EXPECT_EQ(said(typed, Measure::height), typed);
}

TEST(Format, bareGaugePressureIsSaidBack) {
  EXPECT_EQ(sayBack(*parse("3.5 bar", Measure::gaugePressure), Measure::gaugePressure), "3.5 bar g");
  EXPECT_EQ(sayBack(*parse("3.5 bara", Measure::gaugePressure), Measure::gaugePressure), "3.5 bara");
}

}  // namespace
}  // namespace conduit

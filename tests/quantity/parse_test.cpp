#include "quantity/parse.h"

#include <gtest/gtest.h>

namespace conduit {
namespace {

struct Reads {
  const char* text;
  Measure measure;
  double si;  // by the definition of each unit, worked out by hand
};

class Typed : public testing::TestWithParam<Reads> {};

TEST_P(Typed, isReadAsMeant) {
  const auto given = parse(GetParam().text, GetParam().measure);
  ASSERT_TRUE(given) << GetParam().text << ": " << given.error().what;
  EXPECT_NEAR(given->value, GetParam().si, 1e-9 * std::abs(GetParam().si)) << GetParam().text;
  EXPECT_EQ(given->typed, GetParam().text);
}

INSTANTIATE_TEST_SUITE_P(
    Ways, Typed,
    testing::Values(
        Reads{"250 m3/h", Measure::volumeFlow, 250.0 / 3600},
        Reads{"250 m³/h", Measure::volumeFlow, 250.0 / 3600},
        Reads{"1100 gpm", Measure::volumeFlow, 1100 * 3.785411784e-3 / 60},
        Reads{"4 L/min", Measure::volumeFlow, 4e-3 / 60},
        Reads{"100000 bbl/d", Measure::volumeFlow, 1e5 * 0.158987294928 / 86400},
        Reads{"52 ft 6 in", Measure::length, 52.5 * 0.3048}, Reads{"52' 6\"", Measure::length, 52.5 * 0.3048},
        Reads{"1/4 in", Measure::bore, 0.00635}, Reads{"1 1/2 in", Measure::bore, 0.0381},
        Reads{"3.5 barg", Measure::gaugePressure, 350000}, Reads{"3.5 bar g", Measure::gaugePressure, 350000},
        Reads{"50 psi", Measure::gaugePressure, 50 * 6894.757293168}, Reads{"12,5 m", Measure::length, 12.5},
        Reads{"1 234,5 m", Measure::length, 1234.5}, Reads{"1\u202f234.5 m", Measure::length, 1234.5},
        Reads{"1.234,5 m", Measure::length, 1234.5}, Reads{"1,234,567 m", Measure::length, 1234567},
        Reads{"0,125 m", Measure::length, 0.125}, Reads{"1e-3 m", Measure::length, 1e-3},
        Reads{"−3 m", Measure::height, -3}, Reads{"50 °F", Measure::temperature, 10},
        Reads{"283.15 K", Measure::temperature, 10}, Reads{"100 Cv", Measure::flowCoefficient, 86.5},
        Reads{"72 %", Measure::ratio, 0.72}, Reads{"0.72", Measure::ratio, 0.72},
        Reads{"2950 rpm", Measure::rotation, 2950.0 / 60}, Reads{"1.2 cSt", Measure::viscosity, 1.2e-6},
        Reads{"45 µm", Measure::roughness, 45e-6}, Reads{"2.5", Measure::number, 2.5},
        Reads{"80 L/min/bar^0.5", Measure::nozzleFactor, 80e-3 / 60 / std::sqrt(1e5)}));

struct Refuses {
  const char* text;
  Measure measure;
  const char* word;  // named in the refusal
};

class Mistyped : public testing::TestWithParam<Refuses> {};

TEST_P(Mistyped, isRefusedAndNamed) {
  const auto given = parse(GetParam().text, GetParam().measure);
  ASSERT_FALSE(given) << GetParam().text;
  EXPECT_NE((given.error().what + given.error().word).find(GetParam().word), std::string::npos)
      << given.error().what;
}

INSTANTIATE_TEST_SUITE_P(
    Slips, Mistyped,
    testing::Values(Refuses{"1,100 gpm", Measure::volumeFlow, "1,100"},
                    Refuses{"250 m3/hh", Measure::volumeFlow, "m3/hh"},
                    Refuses{"120", Measure::length, "120"}, Refuses{"", Measure::length, "length"},
                    Refuses{"abc", Measure::length, "abc"}, Refuses{"12 kg", Measure::length, "kg"},
                    Refuses{"1,23,4 m", Measure::length, "1,23,4"},
                    Refuses{"6 in 52 ft", Measure::length, "ft"},
                    Refuses{"1e999 m", Measure::length, "1e999"}, Refuses{"nan m", Measure::length, "nan"},
                    Refuses{"1/0 in", Measure::bore, "/0"}, Refuses{"5 m", Measure::number, "m"}));

TEST(Parse, twoReadingsAreBothOffered) {
  const auto given = parse("1,100 gpm", Measure::volumeFlow);
  ASSERT_FALSE(given);
  EXPECT_EQ(given.error().could, (std::vector<std::string>{"1100 gpm", "1.100 gpm"}));
}

TEST(Parse, aWrongUnitListsWhatItCouldHaveBeen) {
  const auto given = parse("20 gpn", Measure::volumeFlow);
  ASSERT_FALSE(given);
  ASSERT_FALSE(given.error().could.empty());
  EXPECT_EQ(given.error().could.front(), "gpm");
}

TEST(Parse, aBareNumberTakesTheShownUnit) {
  const auto given = parse("12.4", Measure::length, &unitsOf(Measure::length)[0]);
  ASSERT_TRUE(given);
  EXPECT_DOUBLE_EQ(given->value, 12.4);
  EXPECT_EQ(given->typed, "12.4 m");
}

TEST(Parse, anyBytesAreReadOrRefusedWithoutHarm) {
  std::uint64_t state = 99;
  for (int i = 0; i < 20000; ++i) {
    std::string text;
    for (int k = 0; k < 12; ++k) {
      state = state * 6364136223846793005ULL + 1442695040888963407ULL;
      text += "0123456789.,-+ eE/'\"mftin%barKgL³µ\xff"[(state >> 33) % 37];
    }
    const auto given = parse(text, Measure::length);
    if (given) EXPECT_TRUE(std::isfinite(given->value)) << text;
  }
}

TEST(UnitSet, singleQuantitiesMayHaveUnitsOfTheirOwn) {
  const UnitSet own = UnitSet::siWater().with("flow gpm; pressure kPa; speed of rotation Hz");
  EXPECT_EQ(own.unitFor(Measure::volumeFlow).symbol, "gpm");
  EXPECT_EQ(own.unitFor(Measure::gaugePressure).symbol, "kPa g");
  EXPECT_EQ(own.unitFor(Measure::absolutePressure).symbol, "kPa a");
  EXPECT_EQ(own.unitFor(Measure::pressureDrop).symbol, "kPa");
  EXPECT_EQ(own.unitFor(Measure::length).symbol, "m");
  EXPECT_EQ(UnitSet::siWater().with("head ft").unitFor(Measure::headDrop).symbol, "ft");
  EXPECT_TRUE(ownUnitsFault("flow gpm; head ft").empty());
  for (const char* bad : {"flow bar", "colour red", "flow", "flow kg/s"})
    EXPECT_FALSE(ownUnitsFault(bad).empty()) << bad;
}

}  // namespace
}  // namespace conduit

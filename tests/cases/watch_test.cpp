// What is watched: as typed, as said, and its value against hand values.
#include "cases/watch.h"

#include "model/watched.h"
#include "model_text.h"

namespace conduit {
namespace {

// 5 L/s into each of two lines of 50 and 80 mm: v = 4Q/(πD²). A nozzle at the end of each.
Network twoLines() {
  return test::model(
      test::point("A", 0) + "," + test::point("B", 0, "\"outflow\":\"5 L/s\"") + "," +
          test::point("C", 0, "\"outflow\":\"5 L/s\"") + "," + test::point("D", 0),
      test::held("A", 60) + "," + test::pipe("L-1", "A", "B", 20, "50 mm") + "," +
          test::pipe("L-2", "A", "C", 20, "80 mm") + "," + test::pipe("L-3", "A", "D", 20, "80 mm") +
          R"(,{"kind":"nozzle","name":"Gun 1","point":"D","K-factor":"20 L/min/bar^0.5","open":"no"})",
      "\"velocity at most\":\"2 m/s\"");
}
double velocity(double d_m) { return 4 * 0.005 / (3.14159265358979 * d_m * d_m); }

}  // namespace

struct WatchText {
  const char *typed, *whose, *what;
};
class Watch : public testing::TestWithParam<WatchText> {};
TEST_P(Watch, isReadAsTypedAndSaidBack) {
  const Network n = twoLines();
  const auto w = readWatched(GetParam().typed, n, UnitSet::siWater());
  ASSERT_TRUE(w) << w.error().what;
  const WatchedWords words = wordsOf(*w, n);
  EXPECT_EQ(words.whose, GetParam().whose);
  EXPECT_EQ(words.what, GetParam().what);
  const auto again = readWatched(typedText(*w, n), n, UnitSet::siWater());
  ASSERT_TRUE(again) << typedText(*w, n) << ": " << again.error().what;
  EXPECT_EQ(*again, *w);
}
INSTANTIATE_TEST_SUITE_P(
    Every, Watch,
    testing::Values(WatchText{"L-1 velocity", "L-1", "velocity"},
                    WatchText{"velocity of l-1", "L-1", "velocity"},
                    WatchText{"pipes velocity maximum", "Pipes", "maximum velocity"},
                    WatchText{"greatest velocity of pipes", "Pipes", "maximum velocity"},
                    WatchText{"Gun 1 pressure", "Gun 1", "pressure"},
                    WatchText{"sum of flow over L-1, L-2 and L-3", "L-1, L-2, L-3", "sum of flow"},
                    WatchText{"pipes bore < 60 mm: velocity min", "Pipes bore < 60 mm", "minimum velocity"},
                    WatchText{"points pressure lowest", "Points", "minimum pressure"},
                    WatchText{"total flow of nozzles", "Nozzles", "sum of flow"},
                    WatchText{"gauge reading at start of L-2", "L-2", "gauge reading at start"}));

class NoWatch : public testing::TestWithParam<std::pair<const char*, const char*>> {};
TEST_P(NoWatch, saysWhatWasNotUnderstood) {
  const auto w = readWatched(GetParam().first, twoLines(), UnitSet::siWater());
  ASSERT_FALSE(w);
  EXPECT_NE(w.error().what.find(GetParam().second), std::string::npos) << w.error().what;
}
INSTANTIATE_TEST_SUITE_P(Every, NoWatch,
                         testing::Values(std::pair{"", "name an element"}, std::pair{"L-1", "results: flow"},
                                         std::pair{"L-1 efficiency", "has no result efficiency"},
                                         std::pair{"pipes velocity", "minimum, maximum, sum or mean"},
                                         std::pair{"velocity", "specify whose"},
                                         std::pair{"L-1, L-2 velocity", "minimum, maximum, sum or mean"},
                                         std::pair{"pumps velocity max", "has no result velocity"},
                                         std::pair{"bananas velocity max", "bananas"},
                                         std::pair{"warmth", "is not a result such as"}));

TEST(Watching, valuesAreThoseOfTheElementsThatCount) {
  const Network n = twoLines();
  const Solution s = test::answer(n);
  const UnitSet& units = UnitSet::siWater();
  const auto value = [&](const char* text) { return valueOf(*readWatched(text, n, units), n, s, units); };
  const WatchedValue most = value("pipes velocity maximum");
  EXPECT_NEAR(*most.si, velocity(0.05), 1e-9);
  EXPECT_EQ(most.where, n.byName("L-1"));
  ASSERT_TRUE(most.most);
  EXPECT_DOUBLE_EQ(*most.most, 2.0);
  EXPECT_TRUE(most.broken());
  const WatchedValue sum = value("L-1, L-2 velocity sum"), mean = value("L-1, L-2 velocity mean");
  EXPECT_NEAR(*sum.si, velocity(0.05) + velocity(0.08), 1e-9);
  EXPECT_NEAR(*mean.si, (velocity(0.05) + velocity(0.08)) / 2, 1e-9);
  EXPECT_EQ(sum.where, noId);
  EXPECT_FALSE(value("nozzles pressure minimum").si) << "the only one is closed";
  EXPECT_TRUE(value("Gun 1 pressure").si) << "asked for by name it is told";
  EXPECT_FALSE(valueOf(*readWatched("L-1 flow", n, units), n, Solution::none(), units).si);
}

TEST(Watching, theWorstOfARowGoesByItsLimit) {
  const auto values = [](std::vector<double> numbers, std::optional<double> least,
                         std::optional<double> most) {
    std::vector<WatchedValue> all;
    for (const double v : numbers) all.push_back({.si = v, .shown = {}, .least = least, .most = most});
    return all;
  };
  using Over = Watched::Over;
  const Watched one{.outcome = "x"}, least{.over = Over::least, .outcome = "x"},
      greatest{.over = Over::greatest, .outcome = "x"};
  EXPECT_EQ(worstOf(one, Measure::headDrop, values({3, 1, 2}, 0.5, {})), 1u);
  EXPECT_EQ(worstOf(one, Measure::headDrop, values({3, 1, 2}, {}, 9.0)), 0u);
  EXPECT_EQ(worstOf(one, Measure::headDrop, values({3, 1, 2}, {}, {})), std::nullopt) << "nobody can tell";
  EXPECT_EQ(worstOf(one, Measure::power, values({3, 1, 2}, {}, {})), 0u);
  EXPECT_EQ(worstOf(least, Measure::number, values({3, 1, 2}, {}, {})), 1u);
  EXPECT_EQ(worstOf(greatest, Measure::number, values({3, 1, 2}, {}, {})), 0u);
  EXPECT_EQ(worstOf(greatest, Measure::number, values({2, 2, 2}, {}, {})), std::nullopt) << "none is worse";
  // Between two limits: 0.2 below 1 (20 %) against 0.3 over 10 (3 %).
  EXPECT_EQ(worstOf(one, Measure::number, values({0.8, 10.3, 5}, 1.0, 10.0)), 0u);
  // What has no value is not the worst.
  auto gap = values({3, 1}, 0.5, {});
  gap[1].si.reset();
  gap.push_back({.si = 2.0, .shown = {}, .least = 0.5});
  EXPECT_EQ(worstOf(one, Measure::number, gap), 2u);
}

}  // namespace conduit

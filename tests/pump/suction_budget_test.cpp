#include "pump/suction_budget.h"

#include <gtest/gtest.h>

#include <numeric>

#include "model_text.h"
#include "network/edits.h"
#include "pump/suction_remedies.h"

namespace conduit::test {
namespace {

// A tank with its surface at 2 m, 50 m of 100 mm line by Hazen-Williams with C 130, a pump at 3 m whose NPSH
// required is 1 m + 0.1 m for each L/s and of which 1 m of margin is asked. All by hand.
Network lifting() {
  return model(
      point("A", 0) + "," + point("B", 3) + "," + point("C", 3) + "," + point("D", 10),
      R"({"kind":"tank","name":"T","level":"2 m","connections":[{"point":"A"}]},)" +
          pipe("S", "A", "B", 50, "100 mm", R"("C":"130")") + "," +
          device(
              "pump", "P", "B", "C",
              R"("NPSH margin at least":"1 m","curve":[{"flow":"0 L/s","head":"40 m","NPSH required":"1 m"},{"flow":"15 L/s","head":"34 m","NPSH required":"2.5 m"},{"flow":"30 L/s","head":"16 m","NPSH required":"4 m"}])") +
          "," + pipe("L", "C", "D", 100, "100 mm", R"("C":"130")") + "," + held("D", 5),
      R"("friction law":"Hazen-Williams")");
}
double lost(double q) {
  const double v = q / (M_PI / 4 * 0.01);
  return 0.5 * v * v / (2 * 9.80665) +
         10.67 * 50 * std::pow(q / 130, 1.852) / std::pow(0.1, 4.8704);  // entrance, line
}

// ISO 2533: the air 3 m over the sea, less the vapour of water at 10 °C (1228.2 Pa, Wagner and Pruss), as a
// column.
double airAt3m(const Solution& s) {
  return (101325 * std::pow(1 - 2.25577e-5 * 3, 5.25588) - 1228.2) /
         (s.setting.medium.density_kgm3 * 9.80665);
}

TEST(SuctionBudget, addsUpFromTheSurfaceToThePump) {
  const Network n = lifting();
  const Solution s = answer(n);
  const double q = flow(n, s, "P"), air = airAt3m(s);
  const auto b = suctionBudget(n, s, &shippedStock(), n.byName("P"));
  ASSERT_TRUE(b);
  std::vector<std::string> words;
  for (const auto& item : b->items) words.push_back(item.what);
  EXPECT_EQ(words, (std::vector<std::string>{"atmospheric pressure at the pump", "suction lift from T",
                                             "loss in T", "loss in S", "vapour pressure of water at 10 °C"}));
  const double available = 2 - lost(q) - 3 + air;
  EXPECT_NEAR(b->items[1].head_m, 2 - 3, 1e-9) << "one metre of lift";
  EXPECT_NEAR(b->available_m, available, 1e-4) << "the constants of the air to six digits";
  EXPECT_NEAR(std::accumulate(b->items.begin(), b->items.end(), 0.0,
                              [](double sum, const auto& item) { return sum + item.head_m; }),
              b->available_m, 1e-9);
  EXPECT_NEAR(*b->required_m, 1 + 100 * q, 1e-6);
  EXPECT_NEAR(*b->ratio, available / (1 + 100 * q), 1e-4);
  EXPECT_NEAR(*b->higher_m, available - (1 + 100 * q) - 1, 1e-4);
  EXPECT_NEAR(*b->greatestLift_m, 3 + *b->higher_m - 2, 1e-9) << "its datum over the surface at 2 m";
}

TEST(SuctionBudget, findsTheFlowThatLeavesJustTheMargin) {
  const Network n = lifting();
  const Solution s = answer(n);
  const double air = airAt3m(s);
  double low = 0.001, high = 0.05;
  for (int k = 0; k < 100; ++k)
    (2 - lost((low + high) / 2) - 3 + air - (1 + 100 * (low + high) / 2) - 1 > 0 ? low : high) =
        (low + high) / 2;
  ASSERT_LT(low, 0.03) << "within the curve";
  EXPECT_NEAR(*suctionBudget(n, s, &shippedStock(), n.byName("P"))->flowLeft_m3s, low, 2e-5 * low);
}

TEST(SuctionBudget, isOfPumpsThatKnowTheirSuction) {
  const Network n = lifting();
  const Solution s = answer(n);
  EXPECT_FALSE(suctionBudget(n, s, &shippedStock(), n.byName("S"))) << "a line has none";
  EXPECT_FALSE(suctionBudget(n, Solution(), &shippedStock(), n.byName("P"))) << "nothing is solved";
}

TEST(SuctionRemedies, giveWhatTheySayWhenTheyAreApplied) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  const Solution base = answer(n);
  const Id pump = n.byName("P-1");
  const auto remedies = suctionRemedies(n, base, &shippedStock(), UnitSet::siWater(), pump);
  ASSERT_EQ(remedies.size(), 3u) << "wider, lower, slower";
  for (const TriedRemedy& r : remedies) {
    const auto edited = applyRemedy(n, r.remedy, &shippedStock(), nullptr);
    ASSERT_TRUE(edited.has_value()) << r.remedy.words;
    const Solution after = answer(edited->network);
    const ReadingOf reading(edited->network, after, pump);
    EXPECT_NEAR(*outcomeOf(*edited->network.at(pump).part, "NPSH margin", *reading), r.margin_m, 1e-6)
        << r.remedy.words;
    EXPECT_GE(r.margin_m, 1.0) << r.remedy.words << ": one metre is asked for";
  }
  // A margin that is kept needs none.
  EXPECT_TRUE(suctionRemedies(n, base, &shippedStock(), UnitSet::siWater(), n.byName("B-1")).empty());
}

}  // namespace
}  // namespace conduit::test

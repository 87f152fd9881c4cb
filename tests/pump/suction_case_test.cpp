// The case of the lowest level and the warmest liquid, against hand calculation: NPSH available =
// (p_atm − p_v)/(ρg) + level − height of the pump, nothing lost in 1 m of 500 mm line; the air at 3 m is
// lighter by 1.225 kg/m³ · g · 3 m = 36 Pa.
#include "pump/suction_case.h"

#include <gtest/gtest.h>

#include "plain_models.h"
#include "solve/solve.h"

namespace conduit::test {
namespace suctioncase {

Model lifting(const std::string& tank, const std::string& job) {
  return *readModel(
      R"({"format":"level-conduit","version":2,"job":{"temperature":"10 °C")" + job + R"(},"points":[)" +
          point("A", 0) + "," + point("B", 3) + "," + point("C", 3) + "," + point("D", 10) +
          R"(],"elements":[{"kind":"tank","name":"T","level":"5 m")" + tank +
          R"(,"connections":[{"point":"A","height":"0 m","entrance K":"0"}]},)" +
          pipe("S", "A", "B", 1, "500 mm") + "," +
          device(
              "pump", "P", "B", "C",
              R"("curve":[{"flow":"0 L/s","head":"40 m","NPSH required":"1 m"},{"flow":"30 L/s","head":"16 m","NPSH required":"4 m"}])") +
          "," + pipe("L", "C", "D", 100) + "," + held("D", 5) + "]}",
      &shippedStock());
}
double npshIn(const Network& n) {
  const Solution s = answer(n);
  const Id pump = n.byName("P");
  const ReadingOf reading(n, s, pump);
  return *outcomeOf(*n.at(pump).part, "NPSH available", *reading);
}

struct Said {
  const char *tank, *job, *name;
  bool differs;
  double level_m, vapour_pa, density_kgm3;  // water at 10 °C 1 228.2 Pa, 999.70; at 40 °C 7 384.9 Pa, 992.22
};
void PrintTo(const Said& s, std::ostream* out) { *out << s.name; }
class SuctionCases : public testing::TestWithParam<Said> {};

TEST_P(SuctionCases, areTheLowestLevelAndTheWarmestLiquidThatAreKnown) {
  const Said& said = GetParam();
  const Model m = lifting(said.tank, said.job);
  const Id pump = m.drawn.byName("P");
  const auto found = suctionCaseOf(m.drawn, answer(m.drawn), pump);
  ASSERT_TRUE(found.has_value());
  EXPECT_EQ(found->tank, m.drawn.byName("T"));
  EXPECT_EQ(found->differs, said.differs);
  if (!found->differs) return;
  const auto made = addSuctionCase(m, drawingCase, pump, *found);
  ASSERT_TRUE(made.has_value()) << made.error().what;
  EXPECT_EQ(made->model.cases.find(made->made)->name, said.name);
  // Within 1 mm: handbook values of water, and 0.1 mm of loss.
  EXPECT_NEAR(npshIn(networkOf(made->model, made->made)),
              (101289 - said.vapour_pa) / (said.density_kgm3 * 9.80665) + said.level_m - 3, 0.001);
  EXPECT_NEAR(npshIn(made->model.drawn), (101289 - 1228.2) / (999.70 * 9.80665) + 5 - 3, 0.001)
      << "what is drawn stays";
}

INSTANTIATE_TEST_SUITE_P(Suction, SuctionCases,
                         testing::Values(Said{R"(,"bottom":"2 m")", R"(,"highest temperature":"40 °C")",
                                              "P: lowest level, warmest liquid", true, 2, 7384.9, 992.22},
                                         Said{R"(,"bottom":"2 m")", "", "P: lowest level", true, 2, 1228.2,
                                              999.70},
                                         Said{"", R"(,"highest temperature":"40 °C")", "P: warmest liquid",
                                              true, 5, 7384.9, 992.22},
                                         Said{R"(,"bottom":"5 m")", R"(,"highest temperature":"10 °C")",
                                              "as it is", false, 0, 0, 0},
                                         Said{"", "", "nothing is known", false, 0, 0, 0}));

// From a main that is held at a pressure there is no level to fall.
TEST(SuctionCase, isOfAPumpThatDrawsFromAKnownLevel) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
            held("A", 5) + "," +
                device("pump", "P", "A", "B",
                       R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"30 L/s","head":"16 m"}])") +
                "," + pipe("L", "B", "C", 100) + "," + held("C", 15));
  EXPECT_FALSE(suctionCaseOf(n, answer(n), n.byName("P")));
  EXPECT_FALSE(suctionCaseOf(n, answer(n), n.byName("L"))) << "no pump";
  EXPECT_FALSE(suctionCaseOf(n, Solution(), n.byName("P"))) << "nothing is solved";
}

}  // namespace suctioncase
}  // namespace conduit::test

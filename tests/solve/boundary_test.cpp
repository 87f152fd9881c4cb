// What flows in flows out: what is found at a point counts all that meets there.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "plain_models.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

struct Meeting {
  std::string name, pointMore, elements;  // at N, 1 bar given there, behind 3 bar and a valve of Kv 60
  double beside_m3s;                      // what the rest brings there
  bool inflow = false;                    // found in place of the outflow
};
void PrintTo(const Meeting& m, std::ostream* out) { *out << m.name; }

class FoundAtAPoint : public testing::TestWithParam<Meeting> {};

TEST_P(FoundAtAPoint, isWhatIsLeftOfAllThatMeets) {
  const Meeting& m = GetParam();
  const std::string key = m.inflow ? "inflow" : "outflow";
  const Network n =
      model(point("A", 0) + "," +
                point("N", 0, "\"found\":[\"" + key + R"("],"given":{"pressure":"1 bar"})" + m.pointMore) +
                "," + point("B", 0),
            fixedAt("S", "A", "3 bar") + "," + kv60("V", "A", "N") + m.elements, plainJob);
  const Solution s = answer(n);
  const double through = flowBy(2e5), leaves = through + m.beside_m3s;
  const auto found = s.foundFor(n.byName("N"), key);
  ASSERT_TRUE(found.has_value());
  EXPECT_NEAR(*found, m.inflow ? -leaves : leaves, 1e-9);
  EXPECT_NEAR(s.summary.inflow_m3s, s.summary.outflow_m3s, 1e-9);
  double sum = 0;
  for (const SupplyShare& share : s.summary.shares) sum += share.inflow_m3s;
  EXPECT_NEAR(sum, 0, 1e-9);
}
INSTANTIATE_TEST_SUITE_P(
    All, FoundAtAPoint,
    testing::Values(
        Meeting{"alone", "", "", 0.0}, Meeting{"besideAnInflow", R"(,"inflow":"3 L/s")", "", 0.003},
        Meeting{"besideFixedPressureForAFlowIn", "",
                "," + fixedAt("F", "N", "2 bar", R"(,"found":["pressure"],"flow in":"5 L/s")"), 0.005},
        Meeting{"besideFixedPressureForAFlowOut", "",
                "," + fixedAt("F", "N", "2 bar", R"(,"found":["pressure"],"flow in":"-4 L/s")"), -0.004},
        Meeting{"bothAtOnce", R"(,"inflow":"3 L/s")",
                "," + fixedAt("F", "N", "2 bar", R"(,"found":["pressure"],"flow in":"5 L/s")"), 0.008},
        Meeting{"besideAPumpOfGivenFlow", "",
                "," + fixedAt("Q", "B", "1 bar") + "," +
                    device("pump", "P", "B", "N", R"("described by":"given flow","duty flow":"7 L/s")"),
                0.007},
        Meeting{"besideABranchOut", "", "," + fixedAt("Q", "B", "0 bar") + "," + kv60("W", "N", "B"),
                -60.0 / 3600},
        Meeting{"behindAJoin", "",
                "," + device("isolating valve", "J", "N", "B", R"("K":"0")") + "," +
                    fixedAt("F", "B", "2 bar", R"(,"found":["pressure"],"flow in":"5 L/s")"),
                0.005},
        Meeting{"inflowFound", R"(,"outflow":"40 L/s")", "", -0.040, true},
        Meeting{"inflowFoundBesideAFlowIn", R"(,"outflow":"40 L/s")",
                "," + fixedAt("F", "N", "2 bar", R"(,"found":["pressure"],"flow in":"5 L/s")"), -0.035,
                true}),
    [](const auto& row) { return row.param.name; });

TEST(Boundary, whatFlowsInFlowsOutInEveryRandomNetwork) {
  int solved = 0;
  for (std::uint64_t seed = 7000; seed < 7060; ++seed) {
    const Network n = richNetwork(seed, 60);
    const Solution s = solve(n, &shippedStock());
    EXPECT_NE(s.summary.verdict, Verdict::notConverged) << seed;
    if (!s.summary.usable()) continue;
    ++solved;
    EXPECT_NEAR(s.summary.inflow_m3s, s.summary.outflow_m3s, 1e-6 * s.summary.inflow_m3s + 1e-9) << seed;
  }
  EXPECT_GT(solved, 20);
}

TEST(Boundary, anAnswerThatDoesNotCloseIsNoAnswer) {
  Solution s;
  s.summary.verdict = Verdict::balanced;
  s.summary.setShare(3, 0.019);
  s.summary.setShare(1, -0.029);
  EXPECT_DOUBLE_EQ(s.summary.inflow_m3s, 0.019);
  EXPECT_DOUBLE_EQ(s.summary.outflow_m3s, 0.029);
  s.summary.setShare(1, -0.019);
  EXPECT_DOUBLE_EQ(s.summary.outflow_m3s, 0.019) << "in place of what stood there";
  EXPECT_EQ(s.summary.shares.front().element, 1u) << "by number";
}

}  // namespace
}  // namespace conduit::test

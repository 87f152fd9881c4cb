#include "sizing/balance_flows.h"

#include <gtest/gtest.h>

#include <cmath>

#include "model_text.h"
#include "parts/registry.h"

namespace conduit::test {
namespace {

// A header at 20 m feeds three zones of known loss back to nothing, each with a control valve of Kv 40 (Δp 1
// bar at 40 m³/h; ρ 1,000 kg/m³, wide enough that nothing else plays a part).
struct Header : ::testing::Test {
  static std::string zone(int i, double k) {
    const std::string n = std::to_string(i);
    const double area = M_PI * 0.01 / 4;
    return device("control valve", "C" + n, "H", "M" + n,
                  R"("Kv":"40 m3/h","bore":"100 mm","characteristic":"linear")") +
           "," +
           device("own loss", "X" + n, "M" + n, "R",
                  R"("bore":"100 mm","K":")" + std::to_string(2 * 9.80665 * area * area * k) + "\"");
  }
  Network n =
      model(point("S", 0) + "," + point("H", 0) + "," + point("R", 0) + "," + point("M1", 0) + "," +
                point("M2", 0) + "," + point("M3", 0),
            held("S", 20) + "," + device("own loss", "X0", "S", "H", R"("bore":"1000 mm","K":"0")") + "," +
                zone(1, 200000) + "," + zone(2, 100000) + "," + zone(3, 50000) + "," + held("R", 0),
            R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")");
  std::vector<BranchFlow> flows{{n.byName("C1"), 0.006}, {n.byName("C2"), 0.007}, {n.byName("C3"), 0.005}};
  std::shared_ptr<const Stock> stock = readAndShared(shippedStock());
};

TEST_F(Header, threeZonesByHand) {
  const FlowBalance b = balanceFlows(n, flows, stock, UnitSet::siWater());
  ASSERT_TRUE(b.balanced) << b.why;
  // Wide open: (Q/40)² bar with Q in m³/h, as a column; there is: 20 − k Q².
  const double k[] = {200000, 100000, 50000};
  double least = 1e9;
  std::size_t index = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    const double q = flows[i].flow_m3s, m3h = q * 3600, there = 20 - k[i] * q * q,
                 open = std::pow(m3h / 40, 2) * 1e5 / 9806.65;
    EXPECT_NEAR(b.branches[i].there_m, there, 1e-6);
    EXPECT_NEAR(b.branches[i].wideOpen_m, open, 2e-3 * open) << "apart from the pipes at its ends";
    // Linear: opening = Kv needed over 40, Kv = Q/√(Δp in bar).
    const double kv = m3h / std::sqrt(there * 9806.65 / 1e5);
    EXPECT_NEAR(*b.branches[i].opening, kv / 40, 2e-3 * kv / 40);
    EXPECT_NEAR(*b.branches[i].again_m3s, q, 1e-6 * q);
    // Shut it bears the whole 20 m; authority goes by what it takes wide open.
    EXPECT_NEAR(*b.branches[i].authority, b.branches[i].wideOpen_m / 20, 1e-6);
    EXPECT_NEAR(*b.branches[i].authority, open / 20, 2e-3 * open / 20);
    // Wide open without balance: 20 = (k + 1/…) Q².
    EXPECT_GT(*b.branches[i].without_m3s, q);
    if (there - open < least) least = there - open, index = i;
  }
  // A plate in place of throttling: put in behind a valve wide open, plainly solved, it passes the flow. The
  // header's pipes are 100 mm.
  for (std::size_t i = 0; i < 3; ++i) {
    ASSERT_TRUE(b.branches[i].orifice_m.has_value()) << i;
    const std::string mm = std::to_string(*b.branches[i].orifice_m * 1000);
    const std::string x = std::to_string(i + 1);
    const Network plated = model(
        point("S", 0) + "," + point("H", 0) + "," + point("P", 0) + "," + point("M" + x, 0) + "," +
            point("R", 0),
        held("S", 20) + "," + device("own loss", "X0", "S", "H", R"("bore":"1000 mm","K":"0")") + "," +
            device("orifice plate", "O", "H", "P", R"("pipe bore":"100 mm","bore":")" + mm + " mm\"") + "," +
            device("control valve", "C", "P", "M" + x,
                   R"("Kv":"40 m3/h","bore":"100 mm","characteristic":"linear")") +
            "," +
            device("own loss", "X", "M" + x, "R",
                   R"("bore":"100 mm","K":")" +
                       std::to_string(2 * 9.80665 * std::pow(M_PI * 0.01 / 4, 2) * k[i]) + "\"") +
            "," + held("R", 0),
        R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")");
    const Solution s = answer(plated);
    EXPECT_NEAR(flow(plated, s, "O"), flows[i].flow_m3s, 2e-3 * flows[i].flow_m3s) << i;
    EXPECT_FALSE(b.branches[i].stockValve.empty());
  }
  EXPECT_EQ(b.index, flows[index].valve);
  EXPECT_EQ(n.at(b.index).name, "C1");
  EXPECT_NEAR(b.save_m, least, 5e-3);
  EXPECT_LT(b.worst, 1e-3);
}

// A reducing valve in place of the throttled one, as wide open, set to what the balance says, by the plain
// solver: the branch has its flow. By hand the pressure behind the valve is what its zone takes, k Q².
TEST_F(Header, aReducingValveSetAsSaidLetsTheFlowPass) {
  const FlowBalance b = balanceFlows(n, flows, stock, UnitSet::siWater());
  ASSERT_TRUE(b.balanced) << b.why;
  const double k[] = {200000, 100000, 50000};
  for (std::size_t i = 0; i < 3; ++i) {
    ASSERT_TRUE(b.branches[i].setPoint_pa.has_value());
    const double q = flows[i].flow_m3s;
    EXPECT_NEAR(*b.branches[i].setPoint_pa, k[i] * q * q * 9806.65, 1.0);
    Draft draft(b.network);
    const Id valve = flows[i].valve, from = n.at(valve).ends[0], to = n.at(valve).ends[1];
    draft.remove(valve);
    const Id reducing = draft.add(*findPart("reducing valve"), "PRV", {from, to});
    draft.values(reducing).set("bore", Given{.value = 0.1, .typed = "100 mm"});
    draft.values(reducing).set("set point", Given{.value = *b.branches[i].setPoint_pa, .typed = {}});
    const Network held = std::move(draft).finish();
    const Solution s = answer(held);
    ASSERT_EQ(state(held, s, "PRV"), BranchState::acting);
    EXPECT_NEAR(flow(held, s, "PRV"), q, 1e-6 * q);
  }
}

// A header that gives so much and no more, and every branch asked for besides: too much is given. Each of the
// three flows can be let go, and then it balances; with one of them let go it does.
TEST(BalanceOfAHeader, thatIsAskedTooMuchSaysWhichFlowToLetGo) {
  const std::string zones =
      Header::zone(1, 200000) + "," + Header::zone(2, 100000) + "," + Header::zone(3, 50000);
  const Network n = model(point("H", 0, R"("inflow":"17 L/s")") + "," + point("R", 0) + "," + point("M1", 0) +
                              "," + point("M2", 0) + "," + point("M3", 0),
                          zones + "," + held("R", 0),
                          R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")");
  const auto stock = readAndShared(shippedStock());
  std::vector<BranchFlow> flows{{n.byName("C1"), 0.006}, {n.byName("C2"), 0.007}, {n.byName("C3"), 0.005}};
  const FlowBalance b = balanceFlows(n, flows, stock, UnitSet::siWater());
  EXPECT_FALSE(b.balanced);
  EXPECT_FALSE(b.why.empty());
  ASSERT_EQ(b.letGo.size(), 3u) << b.why;
  flows.erase(flows.begin() + 2);
  const FlowBalance less = balanceFlows(n, flows, stock, UnitSet::siWater());
  EXPECT_TRUE(less.letGo.empty());
  ASSERT_FALSE(less.branches.empty());
  EXPECT_NE(less.index, noId) << less.why;
}

TEST_F(Header, whatCannotPassItsFlowIsNamed) {
  flows[0].flow_m3s = 0.0099;  // 200,000 Q² = 19.6 m, and wide open 0.8 m
  const FlowBalance b = balanceFlows(n, flows, stock, UnitSet::siWater());
  EXPECT_FALSE(b.balanced);
  EXPECT_EQ(b.index, flows[0].valve);
  EXPECT_LT(b.save_m, 0);
  EXPECT_NE(b.why.find("C1 is the index circuit"), std::string::npos) << b.why;
  flows = {{n.byName("X1"), 0.004}};
  EXPECT_FALSE(balanceFlows(n, flows, stock, UnitSet::siWater()).why.empty());
  EXPECT_FALSE(balanceFlows(n, {}, stock, UnitSet::siWater()).why.empty());
}

}  // namespace
}  // namespace conduit::test

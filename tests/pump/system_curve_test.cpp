#include "pump/system_curve.h"

#include <gtest/gtest.h>

#include <cmath>

#include "model_text.h"
#include "pump/supply_curve.h"

namespace conduit::test {
namespace {

constexpr double standardG = 9.80665;

SystemCurve curveOf(const Network& n, const std::vector<std::string>& pumps, double most,
                    std::size_t threads = 0) {
  const Solution base = solve(n, &shippedStock());
  std::vector<Id> ids;
  for (const std::string& p : pumps) ids.push_back(n.byName(p));
  const auto group = groupOf(n, base, ids);
  if (!group) {
    ADD_FAILURE() << group.error().what;
    return {};
  }
  return systemCurve(n, &shippedStock(), base, *group, {.most_m3s = most, .jobs = {.threads = threads}});
}

TEST(SystemCurve, isStaticLiftPlusLossesAndMeetsTheDuty) {
  const Network n = loadModel(SOURCE_DIR "/tests/problems/pump_duty.lconduit", &shippedStock())->drawn;
  const SystemCurve curve = curveOf(n, {"U"}, 0.08);
  // 142 − 100 m of lift at no flow, rising; at 0.05 m3/s the published 52.3935 m.
  ASSERT_TRUE(curve.static_m.has_value());
  EXPECT_NEAR(*curve.static_m, 42, 5e-4);  // drawn back to nothing along turbulent loss
  for (std::size_t i = 1; i < curve.points.size(); ++i)
    EXPECT_GT(curve.points[i].head_m, curve.points[i - 1].head_m);
  EXPECT_NEAR(curve.at(0.05).value_or(0), 52.39349548650342, 0.002 * curve.points.back().head_m);
  EXPECT_TRUE(curve.breaks.empty());
  const Solution base = solve(n, &shippedStock());
  const PumpGroup alone{.members = {n.byName("U")}};
  EXPECT_NEAR(readAtFlow(n, &shippedStock(), base, alone, 0.05)->head_m, 52.39349548650342, 1e-4);
  EXPECT_NEAR(readAtHead(n, &shippedStock(), base, alone, curve, 52.39349548650342, 0)->flow_m3s, 0.05, 1e-7);
}

TEST(SystemCurve, isDrawnWithinTwoThousandthsOfItself) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  const SystemCurve curve = curveOf(n, {"B-1"}, 0.055);
  ASSERT_GT(curve.points.size(), 8u);
  EXPECT_FALSE(curve.coarse);
  const Solution base = solve(n, &shippedStock());
  double top = 0;
  for (const DutyPoint& p : curve.points)
    if (std::isfinite(p.head_m)) top = std::max(top, p.head_m);
  int compared = 0;
  for (double q = 0.00137; q < 0.055; q += 0.00193) {
    const auto truth = readAtFlow(n, &shippedStock(), base, {.members = {n.byName("B-1")}}, q);
    const auto drawn = curve.at(q);
    if (!truth || !drawn) continue;
    EXPECT_NEAR(*drawn, truth->head_m, 0.002 * top) << q;
    ++compared;
  }
  EXPECT_GT(compared, 15);
}

TEST(SystemCurve, leavesOutFlowsThatCannotBalanceAndSaysWhy) {
  const Network n = loadModel(SOURCE_DIR "/tests/limits/pond.lconduit", &shippedStock())->drawn;
  // The draws fix the flow: no other can be.
  EXPECT_TRUE(curveOf(n, {"P-1"}, 0.0016).empty());
}

// From a tank at 10 m over a line of known loss to a point where two ways part: one to a tank at 30 m through
// a check valve, one to a tank at 20 m. Below the flow at which the fork stands at 30 m the check valve is
// shut.
TEST(SystemCurve, hasItsKinkWhereACheckValveOpens) {
  const auto loss = [](const std::string& name, const std::string& from, const std::string& to, double k) {
    // Δh = k Q², by K on the velocity in a bore of 100 mm: K = 2 g A² k.
    const double area = M_PI * 0.01 / 4;
    return device("own loss", name, from, to,
                  R"("bore":"100 mm","K":")" + std::to_string(2 * standardG * area * area * k) + "\"");
  };
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("F", 0) + "," + point("G", 0) + "," +
                point("H", 0) + "," + point("I", 0),
            held("A", 10) + "," +
                device("pump", "P", "A", "B", R"("described by":"given flow","duty flow":"10 L/s")") + "," +
                loss("X", "B", "F", 2000) + "," + loss("Y", "F", "G", 100000) + "," + held("G", 20) + "," +
                device("check valve", "C", "F", "H", R"("K":"0","bore":"100 mm")") + "," +
                loss("Z", "H", "I", 100000) + "," + held("I", 30));
  const SystemCurve curve = curveOf(n, {"P"}, 0.04);
  ASSERT_EQ(curve.breaks.size(), 1u);
  // The fork stands at 20 + 1e5 Q² alone, so at 30 m with Q = 0.01 m3/s; the head then is 30 + 0.2 − 10.
  EXPECT_NEAR(curve.breaks[0].flow_m3s, 0.01, 1e-6);
  EXPECT_NEAR(curve.breaks[0].before_m, 20.2, 1e-2);
  EXPECT_FALSE(curve.breaks[0].step);
  EXPECT_NE(curve.breaks[0].what.find("C shut, then open"), std::string::npos) << curve.breaks[0].what;
  // Beyond it both carry: at a fork of 40 m √(2e-4) + √(1e-4) m3/s, and 30 + 2000 Q² for the pump.
  const double q = std::sqrt(2e-4) + 0.01;
  EXPECT_NEAR(curve.at(q).value_or(0), 30 + 2000 * q * q, 0.002 * curve.points.back().head_m);
  EXPECT_NEAR(curve.static_m.value_or(0), 10, 1e-4);
}

// A reducing valve behind the pump holds 30 m over its point; it acts from where the pump's side stands
// above, and the head asked for no longer depends on what is behind.
TEST(SystemCurve, bendsWhereAReducingValveBeginsToAct) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
            held("A", 0) + "," +
                device("pump", "P", "A", "B", R"("described by":"given flow","duty flow":"10 L/s")") + "," +
                device("reducing valve", "V", "B", "C", R"("set point":"30 m","Kv":"100 m3/h")") + "," +
                pipe("L", "C", "D", 500, "80 mm") + "," + held("D", 5));
  const SystemCurve curve = curveOf(n, {"P"}, 0.03);
  // Acting it would hold 30 m behind whatever flows: no more than one flow fits, above it nothing balances
  // unless it stands open below 30 m.
  ASSERT_FALSE(curve.points.empty());
  const Solution base = solve(n, &shippedStock());
  for (const double q : {0.004, 0.008}) {
    const auto truth = readAtFlow(n, &shippedStock(), base, {.members = {n.byName("P")}}, q);
    if (truth) EXPECT_NEAR(curve.at(q).value_or(NAN), truth->head_m, 0.002 * 40) << q;
  }
  ASSERT_FALSE(curve.gaps.empty());
  EXPECT_FALSE(curve.gaps.front().why.empty());
  // At the last flow the point behind the valve stands at its set point of 30 m.
  const Solution last = solve(n, &shippedStock(), {.passes = {{n.byName("P"), curve.last()}}});
  EXPECT_NEAR(headAt(n, last, "C"), 30, 2e-3);
}

// A line to a tank whose connection stands over its surface discharges freely at the height of the
// connection, 30 m, while a second way to a tank at 20 m takes all until the fork stands that high.
TEST(SystemCurve, bendsWhereATanksConnectionBeginsToRunFree) {
  const double area = M_PI * 0.01 / 4;
  const auto loss = [&](const std::string& name, const std::string& from, const std::string& to, double k) {
    return device("own loss", name, from, to,
                  R"("bore":"100 mm","K":")" + std::to_string(2 * standardG * area * area * k) + "\"");
  };
  const Network n = model(
      point("A", 0) + "," + point("B", 0) + "," + point("G", 0) + "," + point("H", 30),
      held("A", 10) + "," +
          device("pump", "P", "A", "B", R"("described by":"given flow","duty flow":"10 L/s")") + "," +
          loss("Y", "B", "G", 100000) + "," + held("G", 20) + "," + loss("Z", "B", "H", 100000) + "," +
          R"({"kind":"tank","name":"High","level":"28 m","connections":[{"point":"H","height":"30 m","exit K":"0","entrance K":"0"}]})");
  const SystemCurve curve = curveOf(n, {"P"}, 0.04);
  ASSERT_EQ(curve.breaks.size(), 1u);
  EXPECT_NEAR(curve.breaks[0].flow_m3s, 0.01, 1e-5) << "20 + 1e5 Q² = 30";
  EXPECT_NEAR(curve.breaks[0].before_m, 20, 1e-2);
  EXPECT_FALSE(curve.breaks[0].step);
  const double q = std::sqrt(2e-4) + 0.01;  // at a fork of 40 m: both ways
  EXPECT_NEAR(curve.at(q).value_or(0), 30, 0.002 * curve.points.back().head_m);
}

TEST(SystemCurve, isTheSameOnAnyNumberOfThreads) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  const SystemCurve one = curveOf(n, {"P-1"}, 0.03, 1), two = curveOf(n, {"P-1"}, 0.03, 2);
  ASSERT_EQ(one.points.size(), two.points.size());
  for (std::size_t i = 0; i < one.points.size(); ++i) {
    EXPECT_EQ(one.points[i].flow_m3s, two.points[i].flow_m3s);
    if (std::isfinite(one.points[i].head_m)) EXPECT_EQ(one.points[i].head_m, two.points[i].head_m);
  }
}

TEST(SystemCurve, ofTwoPumpsTogetherMeetsTheirCurveAtTheDuty) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  const Solution base = solve(n, &shippedStock());
  const auto group = groupOf(n, base, {n.byName("P-1"), n.byName("P-2")});
  ASSERT_TRUE(group.has_value());
  EXPECT_FALSE(group->series);
  const double q = flow(n, base, "P-1") + flow(n, base, "P-2");
  const auto asked = readAtFlow(n, &shippedStock(), base, *group, q);
  ASSERT_TRUE(asked.has_value());
  const auto own = groupCurve(n, &shippedStock(), base, *group).points;
  ASSERT_FALSE(own.empty());
  double given = NAN;
  for (std::size_t i = 0; i + 1 < own.size(); ++i)
    if (own[i].flow_m3s <= q && q <= own[i + 1].flow_m3s)
      given = own[i].head_m + (q - own[i].flow_m3s) / (own[i + 1].flow_m3s - own[i].flow_m3s) *
                                  (own[i + 1].head_m - own[i].head_m);
  EXPECT_NEAR(given, asked->head_m, 0.05);  // between two of its sixty points
  // The booster behind them is in series with either, though not with the flow of one alone.
  EXPECT_FALSE(groupOf(n, base, {n.byName("P-1"), n.byName("B-1")}).has_value());
}

TEST(SystemCurve, ofASupplyIsThatOfAPumpInItsPlace) {
  // A tank at 50 m feeds a point that a second tank at 40 m feeds as well; 20 L/s are drawn there.
  const Network n =
      model(point("T", 45) + "," + point("N", 10, R"("outflow":"20 L/s")") + "," + point("S", 10),
            R"({"kind":"tank","name":"Mill","connections":[{"point":"T","height":"45 m"}],"level":"50 m"},)" +
                pipe("L1", "T", "N", 300, "150 mm") + "," + pipe("L2", "S", "N", 300, "150 mm") + "," +
                held("S", 30));
  const auto there = standIn(n, n.byName("Mill"));
  ASSERT_TRUE(there.has_value()) << there.error().what;
  EXPECT_TRUE(there->made);
  const Solution base = solve(n, &shippedStock());
  // It asks for nothing more where it passes what the tank gives by itself.
  const auto zero = readAtFlow(there->network, &shippedStock(), Solution::none(), {.members = {there->pump}},
                               flow(n, base, "L1"));
  ASSERT_TRUE(zero.has_value());
  EXPECT_NEAR(zero->head_m, 0, 1e-6);
  const auto fixed = standIn(n, n.byName("held S"));
  ASSERT_TRUE(fixed.has_value());
  const auto same = readAtFlow(fixed->network, &shippedStock(), Solution::none(), {.members = {fixed->pump}},
                               flow(n, base, "L2"));
  ASSERT_TRUE(same.has_value());
  EXPECT_NEAR(same->head_m, 30, 1e-6) << "over an open surface at its height it lifts what was held there";
}

// Works and spring feed two draw-offs over lines in a ring; all draw-offs together, least pressure 2 bar.
struct Shared : ::testing::Test {
  Network n =
      model(point("W", 20) + "," + point("S", 25) + "," + point("A", 30, R"("outflow":"12 L/s")") + "," +
                point("B", 34, R"("outflow":"8 L/s")"),
            R"({"kind":"fixed pressure","name":"Works","point":"W","pressure":"5 bar"},)"
            R"({"kind":"fixed pressure","name":"Spring","point":"S","pressure":"5 bar"},)" +
                pipe("L1", "W", "A", 400, "125 mm") + "," + pipe("L2", "A", "B", 300, "100 mm") + "," +
                pipe("L3", "S", "B", 500, "125 mm") + "," + pipe("L4", "W", "B", 600, "100 mm"));
  SharedSupply s{.supply = n.byName("Works"), .other = n.byName("Spring"), .share = 0.35, .least_pa = 2e5};
  Solution base = solve(n, &shippedStock());
};

TEST_F(Shared, keepsTheLeastPressureAndGivesTheReadingBack) {
  const auto curve = sharedCurve(n, &shippedStock(), base, s, {});
  ASSERT_TRUE(curve.has_value()) << curve.error().what;
  ASSERT_GT(curve->points.size(), 5u);
  EXPECT_NEAR(curve->drawn_m3s, 0.020, 1e-12);
  for (const double q : {0.003, 0.007, 0.011}) {
    const auto at = sharedAtFlow(n, &shippedStock(), base, s, q);
    ASSERT_TRUE(at.has_value()) << at.error().what;
    EXPECT_NEAR(at->factor * 0.020 * 0.35, q, 1e-12);
    EXPECT_NEAR(curve->at(q).value_or(NAN), at->head_m, 0.002 * curve->points.back().head_m);
    // Put back: both supplies hold their heads, the draw-offs are scaled, and the balance gives the flow.
    const Network back = withShared(n, &shippedStock(), s, *at);
    const Solution again = solve(back, &shippedStock());
    ASSERT_TRUE(again.summary.usable());
    EXPECT_NEAR(flow(back, again, "L1") + flow(back, again, "L4"), q, 1e-6 * q);
    double least = 1e9;
    for (const char* name : {"A", "B"})
      least =
          std::min(least, again.setting.medium.pressureOf(headAt(back, again, name) -
                                                          back.at(back.byName(name)).given("height")->value));
    EXPECT_NEAR(least, 2e5, 1.0);
    EXPECT_EQ(n.at(at->governs).name, "B");
    const auto read = sharedAtHead(n, &shippedStock(), base, s, *curve, at->head_m);
    ASSERT_TRUE(read.has_value());
    EXPECT_NEAR(read->flow_m3s, q, 1e-6 * q);
  }
}

TEST_F(Shared, aloneGivesAll) {
  s.other = noId, s.share = 1.0;
  EXPECT_FALSE(sharedAtFlow(n, &shippedStock(), base, {.supply = s.supply, .other = noId, .share = 0.5}, 0.01)
                   .has_value());
  // Hand value on a single line: 10 L/s through 100 m of pipe up to 30 m, 2 bar kept there.
  const Network one = model(point("W", 20) + "," + point("A", 30, R"("outflow":"10 L/s")"),
                            R"({"kind":"fixed pressure","name":"Works","point":"W","pressure":"5 bar"},)" +
                                pipe("L", "W", "A", 100));
  const Solution b = solve(one, &shippedStock());
  const double lost = headAt(one, b, "W") - headAt(one, b, "A");
  const auto at =
      sharedAtFlow(one, &shippedStock(), b,
                   {.supply = one.byName("Works"), .other = noId, .share = 1.0, .least_pa = 2e5}, 0.010);
  ASSERT_TRUE(at.has_value()) << at.error().what;
  EXPECT_NEAR(at->head_m, 10 + b.setting.medium.columnOf(2e5) + lost, 1e-6);
}

TEST_F(Shared, saysThatNoHeadCanBehindAReducingValve) {
  const Network behind =
      model(point("W", 0) + "," + point("A", 0) + "," + point("B", 0, R"("outflow":"5 L/s")"),
            R"({"kind":"fixed pressure","name":"Works","point":"W","pressure":"5 bar"},)" +
                device("reducing valve", "V", "W", "A", R"("set point":"1 bar","Kv":"100 m3/h")") + "," +
                pipe("L", "A", "B", 100));
  const auto at =
      sharedAtFlow(behind, &shippedStock(), solve(behind, &shippedStock()),
                   {.supply = behind.byName("Works"), .other = noId, .share = 1.0, .least_pa = 2e5}, 0.005);
  ASSERT_FALSE(at.has_value());
  EXPECT_NE(at.error().what.find("no head meets the pressure at"), std::string::npos) << at.error().what;
}

}  // namespace
}  // namespace conduit::test

#include "pump/duty.h"

#include <gtest/gtest.h>

#include <cmath>

#include "cases/year.h"
#include "fluid/water.h"
#include "model_text.h"
#include "network/setting.h"
#include "parts/pump/machine.h"
#include "pump/cavitation.h"
#include "pump/curve_sheet.h"
#include "pump/data_sheet.h"
#include "pump/suction_budget.h"

namespace conduit::test {
namespace {

constexpr double gravity = 9.80665;

// H = h0 − a Q² through three points, Q in L/s; efficiency and NPSH where asked for.
std::string pumpOf(const std::string& name, const std::string& from, const std::string& to, double h0,
                   double a, double last_ls, const std::string& more = "") {
  const auto row = [&](double ls, const std::string& rest) {
    return "{\"flow\":\"" + std::to_string(ls) + " L/s\",\"head\":\"" +
           std::to_string(h0 - a * ls * ls * 1e-6) + " m\"" + rest + "}";
  };
  return device("pump", name, from, to,
                "\"curve\":[" + row(0, "") + "," + row(last_ls / 2, "") + "," + row(last_ls, "") +
                    "],\"rated speed\":\"1500 rpm\"" + (more.empty() ? "" : "," + more));
}
// Δh = k Q² by a K in a bore of 100 mm.
std::string lossOf(const std::string& name, const std::string& from, const std::string& to, double k) {
  const double area = M_PI * 0.01 / 4;
  return device("own loss", name, from, to,
                R"("bore":"100 mm","K":")" + std::to_string(2 * gravity * area * area * k) + "\"");
}
const PumpDuty& named(const std::vector<PumpDuty>& all, const Network& n, const std::string& name) {
  static const PumpDuty none;
  for (const PumpDuty& d : all)
    if (n.at(d.pump).name == name) return d;
  ADD_FAILURE() << "no " << name;
  return none;
}

TEST(PumpDuties, ofUnlikePumpsInParallelNameTheOnePushedOff) {
  // A: 60 − 20,000 Q²; B: 35 m at no flow; both lift into a line of 5,000 Q² to 30 m.
  const Network n = model(point("S", 0) + "," + point("D", 0) + "," + point("E", 0),
                          held("S", 0) + "," + pumpOf("A", "S", "D", 60, 20000, 40) + "," +
                              pumpOf("B", "S", "D", 35, 20000, 30) + "," + lossOf("X", "D", "E", 5000) + "," +
                              held("E", 30));
  const Solution s = answer(n);
  const auto all = dutiesOf(n, s);
  ASSERT_EQ(all.size(), 2u);
  // 60 − 20000 Q² = 30 + 5000 Q²: Q = √(30/25000); the fork then stands at 36 m, over B's 35.
  EXPECT_NEAR(*named(all, n, "A").flow_m3s, std::sqrt(30.0 / 25000), 1e-8);
  EXPECT_NEAR(*named(all, n, "A").head_m, 36, 1e-5);
  EXPECT_TRUE(named(all, n, "B").shutIn);
  EXPECT_EQ(named(all, n, "B").pushedOffBy, n.byName("A"));
  EXPECT_EQ(placeSaid(n, named(all, n, "B")), "dead-headed by A");
  EXPECT_EQ(named(all, n, "A").pushedOffBy, noId);
}

TEST(PumpDuties, unlikePumpsThatBothRunShareByTheirCurves) {
  // Fork at h: Q = √((60−h)/20000) + √((50−h)/30000) = √((h−30)/5000); h by bisection here.
  const Network n = model(point("S", 0) + "," + point("D", 0) + "," + point("E", 0),
                          held("S", 0) + "," + pumpOf("A", "S", "D", 60, 20000, 45) + "," +
                              pumpOf("B", "S", "D", 50, 30000, 35) + "," + lossOf("X", "D", "E", 5000) + "," +
                              held("E", 30));
  double low = 30, high = 50;
  for (int k = 0; k < 200; ++k) {
    const double h = (low + high) / 2;
    (std::sqrt((60 - h) / 20000) + std::sqrt((50 - h) / 30000) > std::sqrt((h - 30) / 5000) ? low : high) = h;
  }
  const Solution s = answer(n);
  const auto all = dutiesOf(n, s);
  EXPECT_NEAR(*named(all, n, "A").flow_m3s, std::sqrt((60 - low) / 20000), 1e-8);
  EXPECT_NEAR(*named(all, n, "B").flow_m3s, std::sqrt((50 - low) / 30000), 1e-8);
  EXPECT_EQ(named(all, n, "A").beside, std::vector<Id>{n.byName("B")});
  EXPECT_EQ(placeSaid(n, named(all, n, "B")), "in parallel with A");
  // Together they meet what is asked of the two at their own shares.
  const auto group = groupOf(n, s, {n.byName("A"), n.byName("B")});
  ASSERT_TRUE(group.has_value());
  EXPECT_NEAR(group->shares[0],
              *named(all, n, "A").flow_m3s / (*named(all, n, "A").flow_m3s + *named(all, n, "B").flow_m3s),
              1e-9);
}

// A: 60 − 20,000 Q², B: 50 − 30,000 Q² behind its lateral of 10,000 Q². At one head H they pass
// √((60 − H)/20,000), and from 50 m down √((50 − H)/40,000) besides.
double togetherAt(double h) {
  return std::sqrt((60 - h) / 20000) + (h < 50 ? std::sqrt((50 - h) / 40000) : 0.0);
}
TEST(PumpBlocks, giveTheSumAtEqualHeadWithTheKink) {
  const std::string pumps = pumpOf("A", "S", "D", 60, 20000, 45) + ",",
                    behind = pumpOf("B", "S", "F", 50, 30000, 35) + "," + lossOf("Y", "F", "D", 10000) + ",",
                    beyond = lossOf("X", "D", "E", 5000) + ",";
  for (const double end : {20.0, 30.0, 44.0, 52.0}) {  // at 52 m B is held shut
    const Network n = model(point("S", 0) + "," + point("D", 0) + "," + point("E", 0) + "," + point("F", 0),
                            held("S", 0) + "," + pumps + behind + beyond + held("E", end));
    const Solution s = answer(n);
    const auto group = groupOf(n, s, {n.byName("A"), n.byName("B")});
    ASSERT_TRUE(group && group->block) << end;
    EXPECT_EQ(group->block->part, n.byName("S"));
    EXPECT_EQ(group->block->join, n.byName("D"));
    const TracedCurve curve = groupCurve(n, &shippedStock(), s, *group);
    ASSERT_GT(curve.points.size(), 8u);
    for (const DutyPoint& p : curve.points) EXPECT_NEAR(p.flow_m3s, togetherAt(p.head_m), 2e-7) << p.head_m;
    ASSERT_EQ(curve.breaks.size(), 1u);
    EXPECT_NEAR(curve.breaks[0].flow_m3s, std::sqrt(10.0 / 20000), 1e-4);
    EXPECT_TRUE(curve.breaks[0].what.starts_with("B shut, then open")) << curve.breaks[0].what;
    // B ends at 35 L/s, where A would be at √((60 − 1)/20,000) = 54 L/s, past its 45: that comes first.
    EXPECT_NEAR(curve.last(), 0.045 + std::sqrt((50 - 19.5) / 40000), 1e-6);
    // The duty of both lies on the curve, and on what is asked.
    const auto duty = groupDuty(n, s, *group);
    ASSERT_TRUE(duty.has_value());
    EXPECT_NEAR(duty->head_m, end + 5000 * duty->flow_m3s * duty->flow_m3s, 1e-6);
    EXPECT_NEAR(duty->flow_m3s, togetherAt(duty->head_m), 1e-7);
    const auto asked = readAtFlow(n, &shippedStock(), s, *group, duty->flow_m3s);
    ASSERT_TRUE(asked.has_value());
    EXPECT_NEAR(asked->head_m, duty->head_m, 1e-6);
    EXPECT_NEAR(readAtFlow(n, &shippedStock(), s, *group, 0.03)->head_m, end + 5000 * 9e-4, 1e-6);
  }
}

// At the speeds at which they run: found, or held for a pressure; with several units; one of them stopped.
TEST(PumpBlocks, takeSpeedsAsTheyAre) {
  struct Said {
    const char* about;
    std::string a, b, drawn;
    bool bRuns = true;
  };
  for (const Said& c : {Said{"a speed found", R"("found":["speed"])", "", R"("given":{"flow":"52 L/s"})"},
                        {"a pressure kept", R"("keeps":"a pressure","kept pressure":"3.9 bar")", "", ""},
                        {"two units", R"("units":"2")", "", ""},
                        {"one is stopped", "", R"("running":false)", "", false}}) {
    const Network n =
        model(point("S", 0) + "," + point("D", 0) + "," + point("E", 0),
              held("S", 0) + "," + pumpOf("A", "S", "D", 60, 20000, 45, c.a) + "," +
                  pumpOf("B", "S", "D", 50, 30000, 35, c.b) + "," +
                  device("own loss", "X", "D", "E",
                         R"("bore":"100 mm","K":"5")" + (c.drawn.empty() ? "" : "," + c.drawn)) +
                  "," + held("E", 20));
    const Solution s = solve(n, &shippedStock());
    ASSERT_TRUE(s.summary.usable()) << c.about << s.summary.full();
    const auto group = groupOf(n, s, {n.byName("A"), n.byName("B")});
    ASSERT_TRUE(group && group->block) << c.about;
    const TracedCurve curve = groupCurve(n, &shippedStock(), s, *group);
    const auto duty = groupDuty(n, s, *group);
    ASSERT_TRUE(duty && !curve.empty()) << c.about;
    EXPECT_NEAR(curve.at(duty->flow_m3s).value_or(0), duty->head_m, 0.02) << c.about;
    // Alone at its duty A gives what the two together give with B at what it passes there.
    const double h = duty->head_m, b = c.bRuns && h < 50 ? std::sqrt((50 - h) / 30000) : 0.0;
    EXPECT_NEAR(flow(n, s, "A") + b, duty->flow_m3s, 1e-6) << c.about;
  }
}

// Past pieces of header that lead from one pump to the next, from a tank with a connection for each; at other
// speeds. Not where water is drawn between, nor from two tanks, nor where a pump has no curve.
TEST(PumpBlocks, areCutOutBetweenPartAndJoin) {
  const auto tank = [](const std::string& name, const std::string& more) {
    return R"({"kind":"tank","name":")" + name + R"(","level":"0 m","connections":[)" + more + "]}";
  };
  const auto at = [](const std::string& p) { return R"({"point":")" + p + R"(","height":"-5 m"})"; };
  const std::string rest = lossOf("X", "D", "E", 5000) + "," + held("E", 20),
                    b = pumpOf("B", "T", "D", 50, 30000, 35) + ",";
  const std::string points =
      point("D", 0) + "," + point("E", 0) + "," + point("S", -5) + "," + point("T", -5);
  struct Said {
    const char* about;
    std::string points, elements;
    bool block;
  };
  for (const Said& c : {Said{"one tank, a connection each", points,
                             tank("Pit", at("S") + "," + at("T")) + "," +
                                 pumpOf("A", "S", "D", 60, 20000, 45) + "," + b + rest,
                             true},
                        {"two tanks", points,
                         tank("Pit", at("S")) + "," + tank("Pond", at("T")) + "," +
                             pumpOf("A", "S", "D", 60, 20000, 45) + "," + b + rest,
                         false},
                        {"a piece of header", points,
                         held("S", 0) + "," + lossOf("H", "S", "T", 3000) + "," +
                             pumpOf("A", "S", "D", 60, 20000, 45) + "," + b + rest,
                         true},
                        {"drawn at the header",
                         point("D", 0) + "," + point("E", 0) + "," + point("S", -5) + "," +
                             point("T", -5, R"("outflow":"1 L/s")"),
                         held("S", 0) + "," + lossOf("H", "S", "T", 3000) + "," +
                             pumpOf("A", "S", "D", 60, 20000, 45) + "," + b + rest,
                         false},
                        {"a header fed behind the pumps", points,
                         held("T", 0) + "," + lossOf("H", "S", "T", 3000) + "," +
                             pumpOf("A", "S", "D", 60, 20000, 45) + "," + b + rest,
                         true}}) {
    const Network n = model(c.points, c.elements);
    const Solution s = answer(n);
    ASSERT_TRUE(s.summary.usable()) << c.about;
    const auto group = groupOf(n, s, {n.byName("A"), n.byName("B")});
    ASSERT_TRUE(group.has_value()) << c.about;
    ASSERT_EQ(group->block.has_value(), c.block) << c.about;
    const auto duty = groupDuty(n, s, *group);
    ASSERT_TRUE(duty.has_value()) << c.about;
    const TracedCurve curve = groupCurve(n, &shippedStock(), s, *group);
    // Straight between points within 0.02 % of 60 m; by shares between sixty of them.
    EXPECT_NEAR(curve.at(duty->flow_m3s).value_or(0), duty->head_m, 0.02) << c.about;
    if (!c.block) continue;
    // By hand with the piece of header before B (or, fed from its other end, before A).
    const double before = group->block->elements.size() > 2 ? 3000 : 0;
    const bool behindA = std::string(c.about).ends_with("behind the pumps");
    for (const DutyPoint& p : curve.points)
      EXPECT_NEAR(p.flow_m3s,
                  std::sqrt((60 - p.head_m) / (20000 + (behindA ? before : 0))) +
                      (p.head_m < 50 ? std::sqrt((50 - p.head_m) / (30000 + (behindA ? 0 : before))) : 0),
                  3e-7)
          << c.about;
  }
}

TEST(PumpDuties, pumpsInSeriesAddTheirHeads) {
  const Network n = model(point("S", 0) + "," + point("M", 0) + "," + point("D", 0) + "," + point("E", 0),
                          held("S", 0) + "," + pumpOf("A", "S", "M", 30, 10000, 50) + "," +
                              pumpOf("B", "M", "D", 20, 5000, 55) + "," + lossOf("X", "D", "E", 5000) + "," +
                              held("E", 25));
  const Solution s = answer(n);
  const auto all = dutiesOf(n, s);
  // 50 − 15000 Q² = 25 + 5000 Q².
  EXPECT_NEAR(*named(all, n, "A").flow_m3s, std::sqrt(25.0 / 20000), 1e-8);
  EXPECT_EQ(named(all, n, "A").behind, std::vector<Id>{n.byName("B")});
  EXPECT_EQ(named(all, n, "B").before, std::vector<Id>{n.byName("A")});
  const auto group = groupOf(n, s, {n.byName("A"), n.byName("B")});
  ASSERT_TRUE(group.has_value());
  EXPECT_TRUE(group->series);
  const auto curve = groupCurve(n, &shippedStock(), s, *group).points;
  ASSERT_FALSE(curve.empty());
  EXPECT_NEAR(curve.front().head_m, 50, 1e-9);
  const auto asked = readAtFlow(n, &shippedStock(), s, *group, 0.02);
  ASSERT_TRUE(asked.has_value());
  EXPECT_NEAR(asked->head_m, 25 + 5000 * 0.02 * 0.02, 1e-6);
}

// Affinity and trim of H = 50 − 20,000 Q² by hand.
TEST(PumpDuties, speedAndTrimForADuty) {
  const Network n =
      model(point("S", 0) + "," + point("D", 0),
            held("S", 0) + "," + pumpOf("P", "S", "D", 50, 20000, 45, R"("rated impeller":"250 mm")") + "," +
                held("D", 1));
  const auto setting = settingOf(n, &shippedStock());
  const Values& v = n.at(n.byName("P")).values;
  const double q = 0.02, h = 30;
  const auto s = speedForDuty(v, *setting, q, h);
  ASSERT_TRUE(s.has_value());
  EXPECT_NEAR(*s, std::sqrt((h + 20000 * q * q) / 50), 1e-9);  // H = s²·50 − 20000 Q²
  // Flow and head each with the square of the diameter: H = y·50 − 20000 Q²/y, y = t².
  const double y = (h + std::sqrt(h * h + 4 * 50 * 20000 * q * q)) / 100;
  const auto t = trimForDuty(v, *setting, q, h);
  ASSERT_TRUE(t.has_value());
  EXPECT_NEAR(*t, std::sqrt(y), 1e-9);
  EXPECT_FALSE(trimForDuty(v, *setting, q, 60)) << "no trim gives more than the full impeller";
  EXPECT_FALSE(speedForDuty(v, *setting, q, 300));
}

TEST(PumpDuties, speedThatHoldsAPressureInEveryCase) {
  // 10 L/s (5 L/s at night) drawn where 3 bar are to be held, behind 8,000 Q²; from an open surface.
  auto m = readModel(R"({"format":"level-conduit","version":2,"cases":[{"drawing":true,"name":"Day"},
    {"name":"Night","differs":[{"element":"E","outflow":"5 L/s"}]},
    {"name":"Too much","differs":[{"element":"E","outflow":"60 L/s"}]}],"points":[)" +
                         point("S", 0) + "," + point("D", 0) + "," + point("E", 0, R"("outflow":"10 L/s")") +
                         R"(],"elements":[)" + held("S", 0) + "," +
                         pumpOf("P", "S", "D", 60, 20000, 45, R"("speed at least":"1100 rpm")") + "," +
                         lossOf("X", "D", "E", 8000) + "]}",
                     &shippedStock());
  ASSERT_TRUE(m.has_value()) << m.error().front().what;
  const auto stock = stockFor(m->drawn, shippedStock());
  const SpeedGoal goal{.value_si = 3e5, .at = m->drawn.byName("E")};
  const auto rows = speedsOver(*m, m->cases.ids(), stock, m->drawn.byName("P"), goal, UnitSet::siWater());
  ASSERT_EQ(rows.size(), 3u);
  const Medium medium = settingOf(m->drawn, stock.get())->medium;
  for (const auto& [row, q] : {std::pair{rows[0], 0.010}, std::pair{rows[1], 0.005}}) {
    ASSERT_TRUE(row.solved && row.held) << row.why;
    const double head = medium.columnOf(3e5) + 8000 * q * q;
    EXPECT_NEAR(row.ratio, std::sqrt((head + 20000 * q * q) / 60), 1e-6);
    EXPECT_NEAR(*row.duty.speed_perS, row.ratio * 25, 1e-5);
  }
  EXPECT_FALSE(rows[0].tooSlow);
  EXPECT_TRUE(rows[1].tooSlow) << "some 1,080 rpm";
  EXPECT_FALSE(rows[2].held);
  EXPECT_FALSE(rows[2].why.empty());
  const SpeedGoal flow{.flow = true, .value_si = 0.008};
  for (const SpeedRow& row : speedsOver(*m, std::vector<CaseId>{drawingCase}, stock, m->drawn.byName("P"),
                                        flow, UnitSet::siWater()))
    EXPECT_FALSE(row.held && std::abs(*row.duty.flow_m3s - 0.010) > 1e-9) << "the draw-off fixes the flow";
}

// Temperature of lost margin: no lift, no loss, 5 m required: p_v = p_atm − 5 ρ g. Steam tables: 53.5 kPa
// at 83.0 °C, ρ 969.6 kg/m³ there: 101.325 − 47.54 = 53.78 kPa, so 83.1 °C.
TEST(Suction, temperatureAtWhichTheMarginIsGone) {
  const Network n =
      model(point("S", 0) + "," + point("D", 0) + "," + point("E", 0, R"("outflow":"10 L/s")"),
            held("S", 0) + "," +
                device("pump", "P", "S", "D",
                       R"("curve":[{"flow":"0 L/s","head":"50 m","efficiency":"0 %","NPSH required":"5 m"},
                    {"flow":"10 L/s","head":"45 m","efficiency":"70 %","NPSH required":"5 m"},
                    {"flow":"20 L/s","head":"30 m","efficiency":"60 %","NPSH required":"5 m"}],"rated speed":"1450 rpm")") +
                "," + pipe("L", "D", "E", 1, "400 mm"),
            R"("temperature":"20 °C","NPSH margin at least":"0 m")");
  const Solution s = answer(n);
  const auto budget = suctionBudget(n, s, &shippedStock(), n.byName("P"));
  ASSERT_TRUE(budget.has_value());
  ASSERT_TRUE(budget->temperature_c.has_value());
  EXPECT_NEAR(*budget->temperature_c, 83.1, 0.15);
  // The same margin in the list of what comes near its vapour, in Pa.
  const auto margins = vapourMargins(n, s, &shippedStock());
  ASSERT_FALSE(margins.empty());
  EXPECT_EQ(margins.front().element, n.byName("P"));
  EXPECT_NEAR(margins.front().margin_pa, s.setting.medium.pressureOf(*budget->margin_m), 1e-3);
  EXPECT_NEAR(margins.front().temperature_c.value_or(0), *budget->temperature_c, 1e-5);
}

// A tank's mouth 2 m under its surface, 150 mm, 20 L/s: v = 1.132 m/s, F = v/√(g D) = 0.933; D (1 + 2.3 F) =
// 0.472 m.
TEST(Suction, submergenceAgainstDrawingAir) {
  const Network n =
      model(point("T", 8) + "," + point("S", 8) + "," + point("D", 8) + "," +
                point("E", 8, R"("outflow":"20 L/s")"),
            R"({"kind":"tank","name":"Sump","connections":[{"point":"T","height":"8 m"}],"level":"10 m"},)" +
                pipe("L1", "T", "S", 3, "150 mm") + "," + pumpOf("P", "S", "D", 50, 20000, 45) + "," +
                pipe("L2", "D", "E", 3, "150 mm"));
  const auto budget = suctionBudget(n, answer(n), &shippedStock(), n.byName("P"));
  ASSERT_TRUE(budget && budget->submergence_m && budget->leastSubmergence_m);
  EXPECT_NEAR(*budget->submergence_m, 2, 1e-9);
  const double v = 0.02 / (M_PI * 0.0225 / 4);
  EXPECT_NEAR(*budget->leastSubmergence_m, 0.15 * (1 + 2.3 * v / std::sqrt(gravity * 0.15)), 1e-9);
  EXPECT_NEAR(*budget->leastSubmergence_m, 0.472, 1e-3);
}

// 10 L/s by 45 m at 70 % of a liquid of 1,000 kg/m³: 6,304.3 W at the shaft. Its own motor of 7.5 kW, 90 % at
// full load, stands at x = 0.8406 of it: η = x/(x + (1/0.9 − 1)(0.4 + 0.6 x²)); its drive passes 97 %. 2,000
// h at 0.20.
TEST(Power, ofAYearByHandWithItsOwnMotor) {
  const std::string pumpText = device(
      "pump", "P", "S", "D",
      R"("curve":[{"flow":"0 L/s","head":"48 m","efficiency":"0 %"},{"flow":"10 L/s","head":"45 m","efficiency":"70 %"},
        {"flow":"20 L/s","head":"30 m","efficiency":"60 %"}],"rated speed":"1450 rpm","driver":"7.5 kW","motor efficiency":"90 %","drive efficiency":"97 %")");
  const auto m = readModel(
      R"({"format":"level-conduit","version":2,"job":{"liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s"},
    "costs":{"tariff":"0.20","currency":"EUR","hours in a year":"2000 h","motor efficiency":"50 %"},
    "cases":[{"name":"Off","hours in a year":"500 h","differs":[{"element":"P","running":false}]}],"points":[)" +
          point("S", 0) + "," + point("D", 0) + R"(],"elements":[)" + held("S", 0) + "," + pumpText + "," +
          held("D", 45) + "]}",
      &shippedStock());
  ASSERT_TRUE(m.has_value()) << m.error().front().what;
  const auto answers = balanceCases(*m, m->cases.ids(), stockFor(m->drawn, shippedStock()), {});
  const double shaft = 1000 * gravity * 0.010 * 45 / 0.7, x = shaft / 7500,
               motor = x / (x + (1 / 0.9 - 1) * (0.4 + 0.6 * x * x)), wire = shaft / motor / 0.97;
  const PumpYear year = yearOfPump(*m, answers, m->drawn.byName("P"));
  EXPECT_NEAR(year.hours_s, 2000 * 3600.0, 1e-6);
  EXPECT_NEAR(year.energy_j, wire * 2000 * 3600, 1e-6 * wire * 7.2e6);
  EXPECT_NEAR(*year.cost, wire * 2000 / 1000 * 0.20, 0.01);
  EXPECT_NEAR(year.lifted_m3, 0.010 * 7.2e6, 1e-3);
  const Year all = yearOf(*m, answers);
  EXPECT_NEAR(all.energy_j, year.energy_j, 1e-6 * year.energy_j)
      << "the year of all cases goes by its own motor too";
}

TEST(PumpCurves, shaftPowerStandsInPlaceOfEfficiency) {
  const auto with = [&](const std::string& third) {
    return model(
        point("S", 0) + "," + point("D", 0),
        held("S", 0) + "," +
            device(
                "pump", "P", "S", "D",
                R"("curve":[{"flow":"0 L/s","head":"50 m","efficiency":"0 %"},{"flow":"10 L/s","head":"45 m",)" +
                    third +
                    R"(},{"flow":"20 L/s","head":"30 m","efficiency":"60 %"}],"rated speed":"1450 rpm")") +
            "," + held("D", 40));
  };
  // η = ρ g Q H/P with ρ = 1,000 kg/m³: 9806.65·0.01·45/6304.275 = 0.7.
  const Network power = with(R"("shaft power":"6.304275 kW")"), eta = with(R"("efficiency":"70 %")");
  const Solution a = answer(power), b = answer(eta);
  const PumpDuty p = dutyOf(power, a, power.byName("P")), e = dutyOf(eta, b, eta.byName("P"));
  ASSERT_TRUE(p.shaft_w && e.shaft_w);
  EXPECT_NEAR(*p.shaft_w, *e.shaft_w, 1e-6 * *e.shaft_w);
}

TEST(PumpCurves, ofSeveralSpeedsAreMetAndJoinedStraight) {
  // Straight lines: 1500 rpm: 40 − 1000 Q (to 20 L/s); 1000 rpm measured lower than affinity has it: 16 − 600
  // Q (to 14 L/s). Rows at like shares, so between them all is linear in the share.
  const std::string own =
      R"("curve":[{"flow":"0 L/s","head":"40 m","efficiency":"0 %"},{"flow":"20 L/s","head":"20 m","efficiency":"70 %"}],
    "rated speed":"1500 rpm","other curves":[{"speed":"1000 rpm","flow":"0 L/s","head":"16 m","efficiency":"0 %"},{"speed":"1000 rpm","flow":"14 L/s","head":"7.6 m","efficiency":"64 %"}])";
  const auto curveAt = [&](double rpm, double q) {
    const Network n =
        model(point("S", 0) + "," + point("D", 0),
              held("S", 0) + "," +
                  device("pump", "P", "S", "D", own + R"(,"speed":")" + std::to_string(rpm) + " rpm\"") +
                  "," + held("D", 1));
    const auto setting = settingOf(n, &shippedStock());
    const Values& v = n.at(n.byName("P")).values;
    const auto rows = pump::rowsOf(v, *setting);
    return pump::HeadCurve(rows, pump::speedRatio(v, setting->medium)).at(q).value;
  };
  EXPECT_NEAR(curveAt(1500, 0.010), 30, 1e-9);
  EXPECT_NEAR(curveAt(1000, 0.007), 16 - 0.6 * 7, 1e-9)
      << "as it was measured, where affinity would give 10.8 m";
  // At 1,250 rpm each is scaled there by affinity and the mean taken at like shares: from 1,500: 40 and 20 m
  // times (5/6)², 20·5/6 L/s; from 1,000: 16 and 7.6 m times 1.25², 14·1.25 L/s. At half of the last flow:
  const double last = (20 * 5 / 6.0 + 14 * 1.25) / 2, half = (30 * 25 / 36.0 + 11.8 * 1.5625) / 2;
  EXPECT_NEAR(curveAt(1250, last / 2 / 1000), half, 1e-9);
  // Under the slowest curve affinity holds from it.
  EXPECT_NEAR(curveAt(500, 0.0035), 11.8 / 4, 1e-9);
  // Faults are said.
  const Network bad = model(
      point("S", 0) + "," + point("D", 0),
      held("S", 0) + "," + held("D", 1) + "," +
          device(
              "pump", "P", "S", "D",
              R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"20 m"}],"rated speed":"1500 rpm","other curves":[{"flow":"0 L/s","head":"16 m"},{"flow":"9 L/s","head":"6 m"}])"));
  const Solution s = solve(bad, &shippedStock());
  ASSERT_FALSE(s.summary.problems.empty());
  EXPECT_NE(s.summary.problems.front().what.find("either a speed or an impeller"), std::string::npos);
}

TEST(PumpCurves, sheetReadsOffWhatThePumpGives) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  const Solution s = answer(n);
  const CurveSheet sheet = curveSheet(n, s, n.byName("P-1"), UnitSet::siWater());
  ASSERT_FALSE(sheet.empty);
  const PumpDuty d = dutyOf(n, s, n.byName("P-1"));
  EXPECT_NEAR(*sheet.headAt(*d.flow_m3s), *d.head_m, 0.05);
  EXPECT_NEAR(*sheet.efficiencyAt(*d.flow_m3s), *d.efficiency, 1e-3);
  EXPECT_NEAR(*sheet.npshAt(*d.flow_m3s), *d.npshRequired_m, 0.01);
  EXPECT_NEAR(*sheet.shaftAt(*d.flow_m3s), *d.shaft_w, 60);
  EXPECT_NEAR(sheet.shutOff_m, 174, 1e-9);
  EXPECT_FALSE(sheet.equalMeasured) << "one curve: parabolas";
  // On a parabola of affinity head goes with the square of the flow.
  ASSERT_FALSE(sheet.equal.empty());
  for (const EqualEfficiency& line : sheet.equal)
    EXPECT_NEAR(line.points.back().head_m / std::pow(line.points.back().flow_m3s, 2),
                line.points.front().head_m / std::pow(line.points.front().flow_m3s, 2),
                2e-3 * line.points.front().head_m / std::pow(line.points.front().flow_m3s, 2));
  // 18 L/s of 149.5 m in five stages at 2,950 rpm: nq = 2950 √0.018/29.9^0.75 = 30.9.
  EXPECT_NEAR(*sheet.nq,
              2950 * std::sqrt(*sheet.best_m3s) / std::pow(*sheet.headAt(*sheet.best_m3s) / 5, 0.75), 0.1);
}

TEST(PumpCurves, linesOfEqualEfficiencyCloseOverSeveralCurves) {
  // Three speeds with tops of 80, 78 and 70 %: the line of 75 % goes around the tops of the two faster.
  const Network n = model(
      point("S", 0) + "," + point("D", 0),
      held("S", 0) + "," + held("D", 1) + "," +
          device(
              "pump", "P", "S", "D",
              R"("curve":[{"flow":"0 L/s","head":"40 m","efficiency":"0 %"},{"flow":"10 L/s","head":"38 m","efficiency":"65 %"},{"flow":"20 L/s","head":"30 m","efficiency":"80 %"},{"flow":"28 L/s","head":"18 m","efficiency":"62 %"}],
      "rated speed":"1500 rpm","other curves":[
      {"speed":"1250 rpm","flow":"0 L/s","head":"27 m","efficiency":"0 %"},{"speed":"1250 rpm","flow":"8 L/s","head":"26 m","efficiency":"62 %"},{"speed":"1250 rpm","flow":"16 L/s","head":"20 m","efficiency":"78 %"},{"speed":"1250 rpm","flow":"23 L/s","head":"12 m","efficiency":"58 %"},
      {"speed":"1000 rpm","flow":"0 L/s","head":"17 m","efficiency":"0 %"},{"speed":"1000 rpm","flow":"6 L/s","head":"16 m","efficiency":"54 %"},{"speed":"1000 rpm","flow":"12 L/s","head":"13 m","efficiency":"70 %"},{"speed":"1000 rpm","flow":"18 L/s","head":"8 m","efficiency":"50 %"}])"));
  const CurveSheet sheet = curveSheet(n, answer(n), n.byName("P"), UnitSet::siWater());
  EXPECT_TRUE(sheet.equalMeasured);
  ASSERT_FALSE(sheet.equal.empty());
  const auto line = std::find_if(sheet.equal.begin(), sheet.equal.end(), [](const EqualEfficiency& e) {
    return std::abs(e.efficiency - 0.75) < 1e-9;
  });
  ASSERT_NE(line, sheet.equal.end());
  // It begins and ends near where the top of some speed between 1,000 and 1,250 rpm just reaches 75 %: both
  // sides meet.
  const DutyPoint a = line->points.front(), mid = line->points[line->points.size() / 2];
  EXPECT_LT(a.head_m, mid.head_m) << "low speeds at the ends, the greatest in the middle";
  EXPECT_EQ(sheet.speeds.size(), 2u) << "the speeds that were measured";
}

TEST(PumpCurves, doubtsAreSaid) {
  const auto setting = settingOf(Network(), &shippedStock());
  const auto of = [&](const std::string& fields) {
    const Network n = model(point("S", 0) + "," + point("D", 0),
                            held("S", 0) + "," + held("D", 1) + "," + device("pump", "P", "S", "D", fields));
    std::string all;
    for (const std::string& d : doubts(n.at(n.byName("P")).values, *setting, UnitSet::siWater()))
      all += d + "\n";
    return all;
  };
  const auto rows = [](const char* h0, const char* best) {
    return std::string(R"("curve":[{"flow":"0 L/s","head":")") + h0 +
           R"(","efficiency":"0 %","NPSH required":"1.9 m"},{"flow":"40 L/s","head":"34 m","efficiency":"70 %","NPSH required":"1.9 m"},{"flow":"50 L/s","head":"32 m","efficiency":")" +
           best +
           R"(","NPSH required":"1.9 m"},{"flow":"60 L/s","head":"28 m","efficiency":"78 %","NPSH required":"2.4 m"}],"rated speed":)";
  };
  EXPECT_EQ(of(rows("38 m", "80 %") + R"("1450 rpm")"), "");
  EXPECT_NE(of(rows("80 m", "80 %") + R"("1450 rpm")").find("shut-off head is"), std::string::npos);
  EXPECT_NE(of(rows("38 m", "96 %") + R"("1450 rpm")").find("above what is achieved"), std::string::npos);
  EXPECT_NE(of(rows("38 m", "80 %") + R"("2900 rpm")").find("suction specific speed nss"), std::string::npos);
  EXPECT_NE(of(rows("38 m", "80 %") + R"("1450 rpm","stages":"80")").find("specific speed nq"),
            std::string::npos);
}

}  // namespace
}  // namespace conduit::test

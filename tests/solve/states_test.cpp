// Devices in each of their states, alone and against one another.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "model_text.h"
#include "network/put.h"
#include "plain_models.h"
#include "quantity/format.h"
#include "solve/judge.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

std::string reducing(const std::string& name, const std::string& from, const std::string& to, double set) {
  return device("reducing valve", name, from, to,
                "\"set point\":\"" + std::to_string(set) + " m\",\"K\":\"4\",\"bore\":\"80 mm\"");
}

TEST(States, aChainOfReducingValvesStepsDown) {
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
                              point("D", 0, "\"outflow\":\"3 L/s\""),
                          held("A", 90) + "," + reducing("R1", "A", "B", 60) + "," +
                              reducing("R2", "B", "C", 40) + "," + reducing("R3", "C", "D", 20));
  const Solution s = answer(n);
  EXPECT_NEAR(headAt(n, s, "B"), 60, 1e-7);
  EXPECT_NEAR(headAt(n, s, "C"), 40, 1e-7);
  EXPECT_NEAR(headAt(n, s, "D"), 20, 1e-7);
  for (const char* r : {"R1", "R2", "R3"}) EXPECT_EQ(state(n, s, r), BranchState::acting) << r;
  EXPECT_NEAR(flow(n, s, "R1"), 0.003, 1e-12);
}

TEST(States, theLowerOfTwoInSeriesRules) {
  // The second valve asks for more than the first leaves: it stands wide open.
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0, "\"outflow\":\"2 L/s\""),
            held("A", 80) + "," + reducing("R1", "A", "B", 30) + "," + reducing("R2", "B", "C", 50));
  const Solution s = answer(n);
  EXPECT_EQ(state(n, s, "R1"), BranchState::acting);
  EXPECT_EQ(state(n, s, "R2"), BranchState::open);
  EXPECT_LT(headAt(n, s, "C"), 30);
}

TEST(States, equalValvesIntoOneNodeShareAlike) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"6 L/s\""),
            held("A", 70) + "," + reducing("R1", "A", "B", 30) + "," + reducing("R2", "A", "B", 30));
  const Solution s = answer(n);
  EXPECT_NEAR(flow(n, s, "R1"), 0.003, 1e-12);
  EXPECT_NEAR(flow(n, s, "R2"), 0.003, 1e-12);
}

TEST(States, theHigherOfTwoIntoOneNodeActs) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"6 L/s\""),
            held("A", 70) + "," + reducing("R1", "A", "B", 30) + "," + reducing("R2", "A", "B", 35));
  const Solution s = answer(n);
  EXPECT_NEAR(headAt(n, s, "B"), 35, 1e-7);
  EXPECT_EQ(state(n, s, "R1"), BranchState::shut);
  EXPECT_NEAR(flow(n, s, "R2"), 0.006, 1e-12);
}

TEST(States, twoValvesFeedOneZoneFromBothSides) {
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0, "\"outflow\":\"5 L/s\"") +
                              "," + point("D", 0) + "," + point("E", 0),
                          held("A", 70) + "," + held("E", 60) + "," + reducing("R1", "A", "B", 40) + "," +
                              pipe("L1", "B", "C", 200) + "," + pipe("L2", "C", "D", 100) + "," +
                              reducing("R2", "E", "D", 40));
  const Solution s = answer(n);
  EXPECT_EQ(state(n, s, "R1"), BranchState::acting);
  EXPECT_EQ(state(n, s, "R2"), BranchState::acting);
  EXPECT_NEAR(flow(n, s, "R1") + flow(n, s, "R2"), 0.005, 1e-12);
  EXPECT_TRUE(judge(n, s).empty());
}

TEST(States, flowForcedOnAReducingValveIsRefusedByName) {
  // What is fed in can only leave through R1, and it would stand above its set point.
  const Network n =
      model(point("A", 0, "\"inflow\":\"4 L/s\"") + "," + point("B", 0) + "," + point("C", 0),
            reducing("R1", "A", "B", 10) + "," + pipe("L1", "B", "C", 100) + "," + held("C", 50));
  const Solution s = solve(n, &shippedStock());
  ASSERT_EQ(s.summary.verdict, Verdict::noStates);
  EXPECT_NE(s.summary.problems.front().what.find("R1"), std::string::npos);
}

struct TankCase {
  const char* name;
  double level, connection, far;  // heights and the far head, m
  const char* word;
};
class TankStates : public testing::TestWithParam<TankCase> {};

TEST_P(TankStates, connectionIsWettedFreeOrDry) {
  const TankCase c = GetParam();
  const Network n = model(point("A", c.connection) + "," + point("B", 0),
                          "{\"kind\":\"tank\",\"name\":\"T\",\"level\":\"" + std::to_string(c.level) +
                              " m\",\"connections\":[{\"point\":\"A\"}]}," + pipe("L", "A", "B", 50) + "," +
                              held("B", c.far));
  const Solution s = answer(n);
  const ReadingOf reading(n, s, n.byName("T"));
  EXPECT_EQ(n.at(n.byName("T")).part->stateWord(*reading), c.word);
  EXPECT_TRUE(judge(n, s).empty()) << judge(n, s).front();
  if (std::string(c.word) == "dry") EXPECT_NEAR(flow(n, s, "L"), 0.0, 1e-15) << "m3/s: rounding alone";
  if (std::string(c.word) == "free discharge") EXPECT_LT(flow(n, s, "L"), 0.0) << "into the tank";
}
INSTANTIATE_TEST_SUITE_P(Kinds, TankStates,
                         testing::Values(TankCase{"gives", 30, 28, 20, "wetted"},
                                         TankCase{"takes", 30, 28, 40, "wetted"},
                                         TankCase{"discharges", 30, 33, 40, "free discharge"},
                                         TankCase{"dry", 30, 33, 20, "dry"}),
                         [](const auto& one) { return one.param.name; });

TEST(States, aClosedDischargeShutsAPumpIn) {
  const std::string curve =
      "\"curve\":[{\"flow\":\"0 L/s\",\"head\":\"40 m\"},{\"flow\":\"10 L/s\",\"head\":\"30 "
      "m\"},{\"flow\":\"20 L/s\",\"head\":\"12 m\"}]";
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                          held("A", 5) + "," + device("pump", "P", "A", "B", curve) + "," +
                              device("isolating valve", "V", "B", "C", "\"open\":false,\"bore\":\"80 mm\"") +
                              "," + held("C", 0));
  const Solution s = answer(n);
  const ReadingOf reading(n, s, n.byName("P"));
  EXPECT_EQ(n.at(n.byName("P")).part->stateWord(*reading), "shut in");
  EXPECT_NEAR(headAt(n, s, "B"), 45, 1e-6) << "it stands at its shut-off head";
}

TEST(States, withoutACheckValveLiquidRunsBackThroughAPump) {
  const std::string curve =
      ",\"curve\":[{\"flow\":\"0 L/s\",\"head\":\"20 m\"},{\"flow\":\"10 L/s\",\"head\":\"15 "
      "m\"},{\"flow\":\"20 L/s\",\"head\":\"5 m\"}]";
  for (const bool check : {true, false}) {
    const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                            held("A", 0) + "," +
                                device("pump", "P", "A", "B",
                                       std::string("\"check valve\":") + (check ? "true" : "false") + curve) +
                                "," + pipe("L", "B", "C", 20) + "," + held("C", 30));
    const Solution s = answer(n);
    if (check) EXPECT_EQ(flow(n, s, "P"), 0.0);
    else EXPECT_LT(flow(n, s, "P"), -0.001);
    EXPECT_TRUE(judge(n, s).empty());
  }
}

TEST(States, aPumpOffPassesNothing) {
  const Network n = model(point("A", 0) + "," + point("B", 0),
                          held("A", 30) + "," + held("B", 0) + "," +
                              device("pump", "P", "A", "B",
                                     "\"running\":false,\"curve\":[{\"flow\":\"0 L/s\",\"head\":\"20 "
                                     "m\"},{\"flow\":\"10 L/s\",\"head\":\"15 m\"}]"));
  EXPECT_EQ(flow(n, answer(n), "P"), 0.0);
}

TEST(States, branchesWithoutLossCarryWhatTheBalanceLeaves) {
  // Two open valves of no resistance in a row: merged, and still their flows are known.
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
                point("D", 0, "\"outflow\":\"4 L/s\""),
            held("A", 20) + "," + device("isolating valve", "V1", "A", "B", "\"K\":\"0\"") + "," +
                device("isolating valve", "V2", "B", "C", "\"K\":\"0\"") + "," + pipe("L", "C", "D", 10));
  const Solution s = answer(n);
  EXPECT_NEAR(flow(n, s, "V1"), 0.004, 1e-15);
  EXPECT_NEAR(flow(n, s, "V2"), 0.004, 1e-15);
  EXPECT_EQ(headAt(n, s, "C"), 20);
}

// Extremes that are legal must balance from cold.
TEST(Property, theUnitsOfTheGivensDoNotMatter) {
  const Network a = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"7.2 m3/h\""),
                          held("A", 30) + "," + pipe("L", "A", "B", 30.48, "101.6 mm"));
  const Network b = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"2 L/s\""),
                          held("A", 30) + "," + pipe("L", "A", "B", 1, "4 in", "\"note\":\"x\""));
  Draft d(b);
  d.values(b.byName("L")).set("length", Given{30.48, Basis::direct, "100 ft"});
  const Network c = std::move(d).finish();
  EXPECT_NEAR(headAt(a, answer(a), "B"), headAt(c, answer(c), "B"), 1e-12);
}

// The same with every given of whole networks typed again in American units: 17 digits lose nothing that
// shows.
TEST(Property, aNetworkTypedInOtherUnitsIsTheSameNetwork) {
  const UnitSet& other = *UnitSet::find("US");
  for (std::uint64_t seed = 40; seed < 52; ++seed) {
    const Network n = randomNetwork(seed, 120);
    Draft d(n);
    n.each([&](Id id, const Element& e) {
      for (const Values::Entry& entry : e.values.entries())
        if (const auto* given = std::get_if<Given>(&entry.value); given && given->basis == Basis::direct) {
          const Unit& unit = other.unitFor(findField(*e.part, entry.key)->measure);
          const auto put =
              putText(d, id, entry.key, fmt::format("{:.17g} {}", inUnit(given->value, unit), unit.symbol),
                      &shippedStock(), nullptr);
          ASSERT_TRUE(put) << put.error().what;
        }
    });
    const Network typed = std::move(d).finish();
    const Solution a = solve(n, &shippedStock()), b = solve(typed, &shippedStock());
    ASSERT_EQ(a.summary.verdict, b.summary.verdict) << seed;
    if (!a.summary.usable()) continue;
    n.each([&](Id id, const Element& e) {
      if (e.part->ends == Ends::self && a.head(id))
        EXPECT_NEAR(*a.head(id), b.head(id).value_or(NAN), 1e-6)
            << seed << ": " << e.name;  // the head tolerance over a few pipes
    });
  }
}

TEST(Property, aHigherSupplyLowersNoPressure) {
  // Raising the only supply raises every head by as much: nothing else changes.
  const Network n = gridNetwork(150, 77);
  Draft d(n);
  n.each([&](Id id, const Element& e) {
    if (e.part->key == "tank")
      d.values(id).set("level", Given{e.given("level")->value + 5, Basis::direct, ""});
  });
  const Network up = std::move(d).finish();
  const Solution a = answer(n), b = answer(up);
  n.each([&](Id id, const Element& e) {
    if (e.part->key == "point") EXPECT_NEAR(*b.head(id) - *a.head(id), 5.0, 1e-7);
  });
}

TEST(Property, aWarmAnswerIsTheColdOne) {
  for (std::uint64_t seed = 500; seed < 530; ++seed) {
    const Network n = randomNetwork(seed, 150);
    const Solution cold = solve(n, &shippedStock());
    if (!cold.summary.usable()) continue;
    Draft d(n);
    n.each([&](Id id, const Element& e) {
      if (e.part->key == "tank")
        d.values(id).set("level", Given{e.given("level")->value + 0.7, Basis::direct, ""});
    });
    const Network edited = std::move(d).finish();
    SolveOptions options;
    options.startFrom = &cold;
    const Solution warm = solve(edited, &shippedStock(), options), fresh = solve(edited, &shippedStock());
    ASSERT_EQ(warm.summary.verdict, fresh.summary.verdict) << seed;
    if (!fresh.summary.usable()) continue;
    const auto wrong = judge(edited, warm);
    EXPECT_TRUE(wrong.empty()) << seed << ": " << wrong.front();
    for (std::size_t i = 0; i < fresh.branches.size(); ++i)
      EXPECT_NEAR(warm.branches[i].flow_m3s, fresh.branches[i].flow_m3s, 1e-7)
          << seed;  // rest of the tolerance at nearly no flow
  }
}

TEST(Summary, saysItselfInASentenceAndInFull) {
  const Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"2 L/s\""),
                          held("A", 30) + "," + pipe("L", "A", "B", 30));
  const Solution s = answer(n);
  EXPECT_EQ(s.summary.brief(UnitSet::siWater()).substr(0, 32), "Solved: 2.00 L/s in, 2.00 L/s ou");
  const std::string full = s.summary.full();
  for (const char* word : {"iterations", "largest head residual", "time: factor", "inflow"})
    EXPECT_NE(full.find(word), std::string::npos) << word;
  EXPECT_EQ(s.summary.shares.size(), 2u);
  const Network sample = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  EXPECT_EQ(answer(sample).summary.states,
            (std::vector<std::string>{"B-2 closed", "V-1 acting", "V-2 acting", "V-3 acting", "RV-1 shut",
                                      "RV-2 shut", "RV-3 shut", "RV-4 shut"}));
  EXPECT_NEAR(s.summary.inflow_m3s, 0.002, 1e-12);
}

TEST(Solve, stopsWhenAsked) {
  const Network n = gridNetwork(5000, 2);
  std::stop_source stop;
  stop.request_stop();
  SolveOptions options;
  options.stop = stop.get_token();
  EXPECT_EQ(solve(n, &shippedStock(), options).summary.verdict, Verdict::stopped);
}

TEST(Solve, aNetworkWithoutAnyPointIsBalanced) {
  EXPECT_TRUE(solve(test::model("", R"({"kind":"remark","name":"R","at":[0,0],"text":"nothing flows yet"})"),
                    &shippedStock())
                  .summary.usable());
}

const std::string booster =
    R"({"kind":"pump","name":"P-1","from":"B","to":"C","rated speed":"1450 rpm","speed at least":"600 rpm","curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"10 L/s","head":"36 m"},{"flow":"20 L/s","head":"24 m"}],)";

TEST(States, aPumpKeepsAPressureOrAFlowByItsSpeed) {
  const auto net = [](const std::string& keeps, const std::string& draws) {
    return model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
                     point("D", 6, "\"outflow\":\"" + draws + "\""),
                 held("A", 5) + "," + pipe("L-1", "A", "B", 20) + "," + booster + keeps + "}," +
                     pipe("L-2", "C", "D", 150));
  };
  // At its discharge: the head there is what was asked; the affinity of the curve gives the speed.
  Network n = net(R"("keeps":"a pressure","kept pressure":"2.5 bar")", "8 L/s");
  Solution s = answer(n);
  EXPECT_EQ(state(n, s, "P-1"), BranchState::acting);
  EXPECT_NEAR(headAt(n, s, "C"), 2.5e5 / (s.setting.medium.density_kgm3 * 9.80665), 1e-6);
  const double lift = headAt(n, s, "C") - headAt(n, s, "B");
  // H = s² H0 − a s^(2−b) Q^b, b = ln(16/4)/ln 2 = 2, a = 4/0.01² = 40000: s = √((H + a Q²)/H0), by hand.
  const ReadingOf reading(n, s, n.byName("P-1"));
  EXPECT_NEAR(*findOutcome(*n.at(n.byName("P-1")).part, "running speed")->of(*reading),
              1450.0 / 60 * std::sqrt((lift + 40000 * 0.008 * 0.008) / 40), 1e-6);
  // Further away: the pressure at D.
  n = net(R"("keeps":"a pressure","kept pressure":"1.8 bar","kept at":"D")", "8 L/s");
  s = answer(n);
  EXPECT_NEAR(headAt(n, s, "D"), 6 + 1.8e5 / (s.setting.medium.density_kgm3 * 9.80665), 1e-6);
  // More than it can: full speed, open, and said.
  n = net(R"("keeps":"a pressure","kept pressure":"6 bar")", "8 L/s");
  s = answer(n);
  EXPECT_EQ(state(n, s, "P-1"), BranchState::open);
  // A flow, where there is another way for the rest.
  n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 6),
            held("A", 5) + "," + held("D", 20) + "," + pipe("L-1", "A", "B", 20) + "," + booster +
                R"("keeps":"a flow","kept flow":"6 L/s"},)" + pipe("L-2", "C", "D", 150));
  s = answer(n);
  EXPECT_EQ(state(n, s, "P-1"), BranchState::acting);
  EXPECT_NEAR(flow(n, s, "P-1"), 0.006, 1e-15);
}

TEST(States, aDifferentialValveHoldsTheDifferenceInFlowAndReturn) {
  // Flow pipe F→V→X, consumer X→Y, return Y→R: the valve keeps 0.3 bar between X and Y.
  const auto net = [](const std::string& valve) {
    return model(point("F", 0) + "," + point("U", 0) + "," + point("X", 0) + "," + point("Y", 0) + "," +
                     point("W", 0) + "," + point("R", 0),
                 held("F", 30) + "," + held("R", 5) + "," + pipe("L-1", "F", "U", 30) + "," + valve + "," +
                     R"({"kind":"own loss","name":"C","from":"X","to":"Y","law":"Kv","Kv":"20 Kv"})" + "," +
                     pipe("L-2", "W", "R", 30));
  };
  for (const bool supply : {true, false}) {
    const Network n =
        supply
            ? net(R"({"kind":"differential valve","name":"V","from":"U","to":"X","difference":"0.3 bar","other place":"Y"},)" +
                  pipe("L-3", "Y", "W", 1))
            : net(R"({"kind":"differential valve","name":"V","from":"Y","to":"W","difference":"0.3 bar","keeps":"point over its inlet","other place":"X"},)" +
                  pipe("L-3", "U", "X", 1));
    const Solution s = answer(n);
    EXPECT_EQ(state(n, s, "V"), BranchState::acting) << supply;
    EXPECT_NEAR((headAt(n, s, "X") - headAt(n, s, "Y")) * (s.setting.medium.density_kgm3 * 9.80665), 3e4,
                1e-2)
        << supply;
    // Kv 20 with 0.3 bar: Q = 20 √(0.3/(ρ/1000)) m3/h, by hand.
    EXPECT_NEAR(flow(n, s, "C"), 20 * std::sqrt(0.3 / (s.setting.medium.density_kgm3 / 1000)) / 3600, 1e-9)
        << supply;
  }
}

TEST(States, aReliefValveJustLiftsAndASustainingOneKeepsWhatIsBeforeIt) {
  const auto net = [](const std::string& valve, const std::string& feed) {
    return model(point("A", 0, "\"inflow\":\"" + feed + "\"") + "," + point("B", 0) + "," + point("C", 0) +
                     "," + point("D", 0),
                 held("D", 10) + "," + pipe("L-1", "A", "B", 20, "50 mm") + "," +
                     pipe("L-2", "B", "D", 400, "50 mm") + "," + valve + "," + held("C", 0));
  };
  for (const char* kind : {"relief valve", "sustaining valve"}) {
    const std::string valve = device(kind, "V", "B", "C",
                                     std::string(R"("set point":"4 bar",)") +
                                         (kind[0] == 'r' ? R"("Kv":"25 Kv")" : R"("K":"2","bore":"50 mm")"));
    Network n = net(valve, "3 L/s");
    Solution s = answer(n);
    EXPECT_EQ(state(n, s, "V"), BranchState::shut) << kind;
    n = net(valve, "8 L/s");
    s = answer(n);
    EXPECT_EQ(state(n, s, "V"), BranchState::acting) << kind;
    EXPECT_NEAR(headAt(n, s, "B") * (s.setting.medium.density_kgm3 * 9.80665), 4e5, 0.1) << kind;
    EXPECT_NEAR(flow(n, s, "V") + flow(n, s, "L-2"), 0.008, 1e-11) << kind;
  }
}

TEST(Held, aPointBehindAReducingValveKeepsTheHeadThatIsFixedThere) {
  // Found once by chance: the set of states that balanced had the valve hold what a fixed pressure holds.
  const Network n = model(
      point("N-1", 0) + "," + point("N-3", 0) + "," + point("N-7", 0) + "," + point("N-8", 0) + "," +
          point("N-10", 0) + "," + point("N-14", 0),
      device("control valve", "C-1", "N-14", "N-10", R"("Kv":"31.902 Kv")") + "," +
          device("reducing valve", "R-1", "N-1", "N-7", R"("set point":"1.88525 bar")") + "," +
          pipe("L-13", "N-1", "N-8", 144.185, "71.6776 mm") + "," +
          device("limiting valve", "I-1", "N-1", "N-14", R"("flow at most":"1.13062 L/s")") + "," +
          device("reducing valve", "R-4", "N-8", "N-10", R"("set point":"1.4668 bar","senses":"N-3")") + "," +
          R"({"kind":"tank","name":"T-1","level":"30.6612 m","connections":[{"point":"N-14","height":"11.1076 m"}]},)" +
          fixedAt("F-1", "N-7", "2.14498 bar"),
      plainJob);
  const Solution s = answer(n);
  EXPECT_NEAR(headAt(n, s, "N-7"), 2.14498e5 / gamma_Nm3, 1e-9);
  EXPECT_EQ(state(n, s, "R-1"), BranchState::shut);
  for (const char* place : {"N-1", "N-8", "N-10"})
    EXPECT_NEAR(headAt(n, s, place), 30.6612, 1e-6) << "at rest with the tank";
}

TEST(Held, byEveryDeviceThatHoldsAndWhateverItSenses) {
  // A fixed pressure of 2 bar where a device would hold 1 or 3: the fixed one is what stands there.
  for (const auto& [kind, fields] :
       {std::pair{"reducing valve", R"("set point":"1 bar")"},
        std::pair{"reducing valve", R"("set point":"3 bar")"},
        std::pair{"sustaining valve", R"("set point":"1 bar")"},
        std::pair{"sustaining valve", R"("set point":"3 bar")"},
        std::pair{"differential valve",
                  R"("difference":"1 bar","keeps":"outlet over a point","other place":"Z")"}})
    for (const bool turned : {false, true}) {
      const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("Z", 0),
                              fixedAt("F", "A", "5 bar") + "," + kv60("V", "A", "B") + "," +
                                  device(kind, "X", turned ? "C" : "B", turned ? "B" : "C",
                                         fields + std::string(R"(,"K":"4","bore":"80 mm")")) +
                                  "," + fixedAt("G", "C", "2 bar") + "," + fixedAt("O", "Z", "0 bar"),
                              plainJob);
      const Solution s = solve(n, &shippedStock());
      if (!s.summary.usable()) continue;
      EXPECT_NEAR(headAt(n, s, "C"), 2e5 / gamma_Nm3, 1e-9) << kind << fields << turned;
      EXPECT_NEAR(headAt(n, s, "A"), 5e5 / gamma_Nm3, 1e-9) << kind << fields << turned;
      // Behind it more than it would hold: shut, and so at rest.
      if (std::string(fields) == R"("set point":"1 bar")" && std::string(kind) == "reducing valve" && !turned)
        EXPECT_EQ(flow(n, s, "X"), 0.0);
    }
}

}  // namespace
}  // namespace conduit::test

// Studies at a place, as the command line gives them: system curves of pumps and notional pumps, candidates
// for as many as stand there, speeds.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "plain_models.h"
#include "pump/system_curve.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

TEST(Curve, beginsWithASolvedPointWhereOtherFlowsPass) {
  // N draws 20 L/s; at no flow of the pump all comes from 50 m through Kv 60.
  const std::string file = fileOf(
      point("A", 0) + "," + point("N", 0, R"("outflow":"20 L/s")") + "," + point("R", 0),
      tankAt("T", "A", "0 m", "0 m") + "," + tankAt("S", "R", "50 m", "0 m") + "," +
          device(
              "pump", "PU", "A", "N",
              R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"10 L/s","head":"50 m"},{"flow":"20 L/s","head":"30 m"}])") +
          "," + kv60("V", "R", "N"));
  const auto json = ran({"pumps", file, "--pump", "PU", "--curve", "--json"}).json();
  const double static_m = 50 - dropOf(0.020) / gamma_Nm3;
  EXPECT_NEAR(json["system_curve"]["static_m"].get<double>(), static_m, 1e-4);
  const auto& points = json["system_curve"]["points"];
  EXPECT_EQ(points[0]["flow_m3s"], 0.0);
  for (const auto& p : points) {
    const double q = p["flow_m3s"].get<double>(), fromS = 0.020 - q;
    EXPECT_NEAR(p["head_m"].get<double>(), 50 - std::copysign(dropOf(fromS), fromS) / gamma_Nm3, 1e-4) << q;
  }
}

TEST(Curve, atRestBehindACheckValveIsThatOfTheLeastFlow) {
  // Nothing says the head between a pump at rest and its check valve; a little flow does.
  const std::string file =
      fileOf(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
             tankAt("T", "A", "0 m", "0 m") + "," + tankAt("U", "C", "30 m", "0 m") + "," +
                 device("pump", "PU", "A", "B",
                        R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}])") +
                 "," + device("check valve", "K", "B", "C", R"("K":"2","bore":"100 mm")"));
  const auto json = ran({"pumps", file, "--pump", "PU", "--curve", "--json"}).json();
  EXPECT_NEAR(json["system_curve"]["static_m"].get<double>(), 30.0, 1e-6);
}

TEST(Curve, namesOnlyWhatIsInTheModelOrWhatItIs) {
  const std::string file = fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"10 L/s")"),
                                  fixedAt("F", "A", "5 bar") + "," + kv60("V", "A", "M"));
  const std::string said = ran({"pumps", file, "--at", "M", "--curve", "--flow", "2 L/s"}).out;
  EXPECT_NE(said.find("from open surface at M"), std::string::npos) << said;
  EXPECT_EQ(said.find("F-1"), std::string::npos) << said;
  EXPECT_NE(said.find(", level "), std::string::npos) << said;
}

TEST(Curve, atATankUnderEachFrictionLaw) {
  // Two equal lines from two tanks at one level share 20 L/s: at 10 L/s a pump at either has nothing to add.
  for (const auto& [law, line] : frictionLaws) {
    const auto pipeOf = [&](const char* name, const char* from, const char* to) {
      return device("pipe", name, from, to, R"("length":"300 m","bore":"150 mm",)" + std::string(line));
    };
    const std::string file =
        fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"20 L/s")") + "," + point("B", 0),
               tankAt("T", "A", "40 m", "0 m") + "," + tankAt("U", "B", "40 m", "0 m") + "," +
                   pipeOf("P1", "A", "M") + "," + pipeOf("P2", "B", "M"),
               "", jobUnder(law));
    const Ran r = ran({"pumps", file, "--at", "T", "--curve", "--flow", "10 L/s", "--json"});
    ASSERT_EQ(r.status, cli::limitsKept) << law << r.err;
    EXPECT_NEAR(r.json()["read"]["head_m"].get<double>(), 0.0, 1e-5) << law;
  }
}

TEST(Candidates, areWeighedAsAsManyPumpsAsStandThere) {
  const std::string file =
      fileOf(point("A", 0) + "," + point("B", 0) + "," + point("D", 20),
             tankAt("T", "A", "2 m", "0 m") + "," + tankAt("U", "D", "22 m", "20 m") + "," +
                 device("pump", "PU", "A", "B", R"("units":"2","stock item":"Fold 12.5-25")") + "," +
                 pipe("L", "B", "D", 1100, "150 mm"));
  const auto solved = ran({"solve", file, "--json"}).json();
  double now = 0;
  for (const auto& e : solved["elements"])
    if (e["name"] == "PU") now = e["flow_m3_s"].get<double>();
  const auto json = ran({"pumps", file, "--pump", "PU", "--candidates", "--json"}).json();
  bool there = false;
  for (const auto& c : json["candidates"]) {
    if (!c["in_place"].get<bool>()) continue;
    there = true;
    EXPECT_NEAR(c["cases"][0]["flow_m3s"].get<double>(), now, 1e-9) << "the very pumps that stand there";
  }
  EXPECT_TRUE(there) << json["reasons"].dump();
  EXPECT_NE(ran({"pumps", file, "--pump", "PU", "--candidates"}).out.find("2 identical pumps in parallel"),
            std::string::npos);
}

TEST(Hold, saysWhyNotByWhatStandsThere) {
  // Nothing is drawn: at full speed the pump gives 60 m at no flow. 9 bar is not reached, 1 bar can be.
  const std::string file = fileOf(
      point("A", 0) + "," + point("B", 0),
      tankAt("T", "A", "0 m", "0 m") + "," +
          device(
              "pump", "PU", "A", "B",
              R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}],"rated speed":"1450 rpm")"));
  EXPECT_NE(ran({"pumps", file, "--pump", "PU", "--hold", "9 bar"}).out.find("not reached at full speed"),
            std::string::npos);
  EXPECT_NE(ran({"pumps", file, "--pump", "PU", "--hold", "1 bar"}).out.find("held"), std::string::npos);
}

// A point of a system curve, and the same network with the pump taken out: what it carries is drawn before it
// and fed in behind it.
TEST(Curve, systemCurvesUnderEachLawAreThoseOfTheNetworkWithoutThePump) {
  int compared = 0;
  for (std::uint64_t seed = 0; seed < 24; ++seed) {
    Chance chance{seed * 29 + 17};
    const auto& [law, wall] = frictionLaws[seed % 3];
    const auto line = [&](const std::string& name, const std::string& from, const std::string& to) {
      return device("pipe", name, from, to,
                    fmt::format(R"("length":"{} m","bore":"{} mm",{})", chance.between(20, 300),
                                chance.between(90, 200), wall));
    };
    const double drawn = chance.between(0, 8);
    const auto places = [&](double q) {
      return point("T", 0) + "," + point("I", 1, q > 0 ? flowField("outflow", q) : "") + "," +
             point("O", 1, q > 0 ? flowField("inflow", q) : "") + "," +
             point("M", 4, fmt::format(R"("outflow":"{} L/s")", drawn)) + "," + point("U", 9);
    };
    const std::string rest = held("T", chance.between(2, 6)) + "," + line("L1", "T", "I") + "," +
                             line("L2", "O", "M") + "," + line("L3", "M", "U") + "," + line("L4", "O", "U") +
                             "," + held("U", chance.between(10, 40));
    const std::string job = jobUnder(law);
    const Network with =
        model(places(0),
              rest + "," +
                  device("pump", "P", "I", "O",
                         R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}])"),
              job);
    const Solution base = answer(with);
    const SystemCurve curve =
        systemCurve(with, &shippedStock(), base, {.members = {with.byName("P")}}, {.most_m3s = 0.02});
    ASSERT_FALSE(curve.empty()) << seed;
    for (std::size_t i = 1; i < curve.points.size(); i += 3) {
      const Network without = model(places(curve.points[i].flow_m3s), rest, job);
      const Solution s = answer(without);
      EXPECT_NEAR(curve.points[i].head_m, headAt(without, s, "O") - headAt(without, s, "I"), 1e-5) << seed;
      ++compared;
    }
  }
  EXPECT_GT(compared, 60);
}

TEST(Candidates, theItemThatStandsThereRunsAsItRuns) {
  for (const auto& [units, arrangement] : {std::pair{1, "parallel"}, std::pair{2, "parallel"},
                                           std::pair{3, "parallel"}, std::pair{2, "series"}}) {
    const std::string file =
        fileOf(point("A", 0) + "," + point("B", 0) + "," + point("D", 20),
               tankAt("T", "A", "2 m", "0 m") + "," +
                   tankAt("U", "D", units == 1 ? "20.5 m" : "30 m", "20 m") + "," +
                   device("pump", "PU", "A", "B",
                          fmt::format(R"("units":"{}","arrangement":"{}","stock item":"Fold 12.5-25")", units,
                                      arrangement)) +
                   "," + pipe("L", "B", "D", 300, "150 mm"));
    double now = NAN;
    const auto answered = ran({"solve", file, "--json"}).json();
    for (const auto& e : answered["elements"])
      if (e["name"] == "PU") now = e["flow_m3_s"].get<double>();
    const auto json = ran({"pumps", file, "--pump", "PU", "--candidates", "--json"}).json();
    for (const char* list : {"candidates"})
      for (const auto& c : json[list])
        if (c["in_place"].get<bool>())
          EXPECT_NEAR(c["cases"][0]["flow_m3s"].get<double>(), now, 1e-9) << units << arrangement;
  }
}

}  // namespace
}  // namespace conduit::test

#include "limits/limits.h"

#include <gtest/gtest.h>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "model_text.h"
#include "network/edits.h"
#include "solve/solve.h"

namespace conduit {
namespace {

struct Said {
  Solution solution;
  std::vector<Finding> found;
  [[nodiscard]] bool has(const std::string& words, Severity severity) const {
    for (const Finding& f : found)
      if (f.severity == severity && f.what.find(words) != std::string::npos) return true;
    return false;
  }
};
Said say(const Network& n) {
  Said s{solve(n, &shippedStock()), {}};
  s.found = findings(n, s.solution, UnitSet::siWater());
  return s;
}
Network load(const char* path) { return loadModel(std::string(SOURCE_DIR) + path, &shippedStock())->drawn; }
Network with(const Network& n, const char* name, const char* field, const char* text) {
  auto e = setField(n, std::string(name) == "job" ? jobId : n.byName(name), field, text, &shippedStock(),
                    &UnitSet::siWater());
  EXPECT_TRUE(e) << (e ? "" : e.error().what);
  return e->network;
}

TEST(Limits, theSampleHasItsHonestFindings) {
  const Said s = say(load("/samples/kestrel-fell.lconduit"));
  ASSERT_TRUE(s.solution.summary.usable());
  EXPECT_TRUE(s.has("NPSH margin of P-1", Severity::broken));
  EXPECT_TRUE(s.has("velocity in L-39 is", Severity::broken));
  EXPECT_FALSE(standing(s.found).onPaperOnly);
}

// What is wrong is no number beyond another: a pump against a shut line, a plate too large for its standard,
// a valve that has lifted. The finding is the sentence, and no "0 of at least 1" stands beside it.
TEST(Limits, aFindingIsASentenceWhereNoNumberFits) {
  using namespace test;
  const Network n = model(
      point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 60) + "," + point("E", 0) +
          "," + point("F", 0),
      held("A", 20) + "," + held("D", 0) + "," + held("F", 0) + "," +
          device("pump", "P", "A", "B",
                 R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"20 L/s","head":"20 m"}])") +
          "," + pipe("L-1", "B", "D", 50) + "," +
          device("orifice plate", "O", "A", "C", R"("bore":"12 mm")") + "," + pipe("L-2", "C", "F", 50) +
          "," + device("relief valve", "R", "A", "E", R"("set point":"1 bar","Kv":"10 Kv")") + "," +
          pipe("L-3", "E", "F", 5));
  const Said s = say(n);
  ASSERT_TRUE(s.solution.summary.usable()) << s.solution.summary.full();
  int spoken = 0;
  for (const char* name : {"P", "O", "R"})
    for (const Check& c : checksOf(n, s.solution, n.byName(name), UnitSet::siWater())) {
      if (!c.spoken) continue;
      ++spoken;
      EXPECT_TRUE(c.broken() && !c.least && !c.most) << name;
      EXPECT_TRUE(s.has(c.what, c.severity)) << c.what;
    }
  EXPECT_EQ(spoken, 3);
}

TEST(Limits, everyRemedyOfTheSampleMendsItsFinding) {
  const Network n = load("/samples/kestrel-fell.lconduit");
  int mended = 0;
  for (const Finding& f : say(n).found) {
    if (f.severity == Severity::note) continue;  // nothing in the drawing mends a check valve
    ASSERT_FALSE(f.remedies.empty()) << f.what;
    const auto e = applyRemedy(n, f.remedies.front(), &shippedStock(), &UnitSet::siWater());
    ASSERT_TRUE(e) << f.remedies.front().words;
    for (const Finding& left : say(e->network).found)
      EXPECT_FALSE(left.place == f.place && left.severity == f.severity)
          << f.remedies.front().words << ": " << left.what;
    ++mended;
  }
  EXPECT_EQ(mended, 3);
}

// 692.4 m of the top tank over the lowest end of L-3, 317.1 m: 375.3 m · 9.805 kN/m³ = 36.80 bar on a 25 bar
// line. The sample's relief valve ends that; set too high for them, or shut off, it does not.
TEST(Limits, theSamplesCheckValvesAreNoProtectionWithoutItsReliefValve) {
  const Network n = load("/samples/kestrel-fell.lconduit");
  const auto notes = [](const Network& network) {
    int count = 0;
    for (const Finding& f : say(network).found)
      if (f.severity == Severity::note && f.what.find("keeps 36.80 bar g off L-") != std::string::npos)
        ++count;
    return count;
  };
  EXPECT_EQ(notes(n), 0);
  EXPECT_EQ(notes(with(n, "RV-4", "set point", "40 bar")), 2);
}

TEST(Limits, belowAbsoluteZeroOutranksEverything) {
  // 400 m of lift on a pond that stands at 42 m: the pressure at the trough would be below zero absolute.
  Network n = with(load("/tests/limits/pond.lconduit"), "Upper trough", "height", "120 m");
  const Said s = say(n);
  ASSERT_TRUE(s.solution.summary.usable());
  ASSERT_FALSE(s.found.empty());
  EXPECT_EQ(s.found.front().severity, Severity::paper);
  EXPECT_TRUE(s.has("below full vacuum", Severity::paper));
  EXPECT_TRUE(standing(s.found).onPaperOnly);
}

TEST(Limits, boilingPumpPastItsCurveAndShutIn) {
  // The grade is 10.18 m lower, between the vapour pressure and full vacuum: 10.10 and 10.24 m.
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "Upper trough", "height", "73.88 m"))
                  .has("would vaporise at Upper trough", Severity::paper));
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "Lower trough", "outflow", "1.5 L/s"))
                  .has("runs beyond run-out", Severity::paper));
  EXPECT_TRUE(
      say(load("/tests/problems/pump_dead_headed.lconduit")).has("small is dead-headed", Severity::broken));
}

// Held up by the big one the small pump stands as it should; alone under 46 m of lift, of which it has 45, it
// may as well be drawn the wrong way round.
TEST(Limits, onlyAPumpThatNoOtherHoldsIsTurnedRound) {
  const Network both = load("/tests/problems/pump_dead_headed.lconduit");
  struct Said {
    Network network;
    bool turned;
  };
  for (const Said& t : {Said{both, false},
                        {with(both, "small", "check valve", "no"), false},
                        {with(both, "big", "running", "no"), true},
                        {with(with(both, "big", "running", "no"), "small", "check valve", "no"), true}}) {
    int stuck = 0;
    for (const Finding& f : say(t.network).found) {
      if (f.what.find("dead-headed") == std::string::npos && f.what.find("reverse flow") == std::string::npos)
        continue;
      ++stuck;
      EXPECT_EQ(std::any_of(f.remedies.begin(), f.remedies.end(),
                            [](const Remedy& r) { return r.words == "Reverse small"; }),
                t.turned)
          << f.what;
    }
    EXPECT_EQ(stuck, 1);
  }
}

TEST(Limits, anOutflowThatCannotBe) {
  // 63.70 m of grade and a trough at 66 m: 2 m under the open air, far from boiling.
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "Upper trough", "height", "66 m"))
                  .has("Upper trough cannot supply 0.350 L/s", Severity::paper));
}

TEST(Limits, leastPressureRatingAndSlowFlow) {
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "job", "pressure at least", "1 bar"))
                  .has("Upper trough: Pressure is", Severity::broken));
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "L-2", "rating", "2 bar"))
                  .has("above its rating of 2.000 bar g", Severity::broken));
  // 0.35 L/s in 25.75 mm, the mean bore of 32 SDR 11.
  EXPECT_TRUE(say(with(load("/tests/limits/pond.lconduit"), "job", "velocity at least", "0.7 m/s"))
                  .has("velocity in L-4 is 0.672 m/s, below", Severity::broken));
}

TEST(Limits, checksCarryTheirBars) {
  const Network n = load("/samples/kestrel-fell.lconduit");
  const Said s = say(n);
  const auto checks = checksOf(n, s.solution, n.byName("P-1"), UnitSet::siWater());
  const auto margin =
      std::find_if(checks.begin(), checks.end(), [](const Check& c) { return c.id == CheckId::npshMargin; });
  ASSERT_NE(margin, checks.end());
  EXPECT_TRUE(margin->broken());
  EXPECT_DOUBLE_EQ(*margin->least, 1.0);
}

// 5 L/s in 80 mm run at 0.995 m/s. The element's own limit goes before its service's, the service's before
// the job's.
TEST(Services, holdTheElementsThatNameThem) {
  using namespace test;
  const auto brokenWith = [](const std::string& onPipe) {
    const Network n =
        model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"5 L/s\",\"service\":\"Low\""),
              held("A", 20) + "," + pipe("L-1", "A", "B", 10, "80 mm", onPipe) +
                  ",{\"kind\":\"service\",\"name\":\"Slow\",\"velocity at most\":\"0.9 "
                  "m/s\"},{\"kind\":\"service\",\"name\":\"Low\",\"pressure at most\":\"1 bar g\"}",
              "\"velocity at most\":\"2 m/s\"");
    const Solution s = answer(n);
    std::vector<std::string> broken;
    for (const Finding& f : findings(n, s, UnitSet::siWater()))
      if (f.severity <= Severity::broken) broken.push_back(f.place.name);
    return broken;
  };
  using Names = std::vector<std::string>;
  EXPECT_EQ(brokenWith("\"note\":\"\""), Names{"B"})
      << "the job's 2 m/s is kept; the point's service allows 1 bar, it has nearly 2";
  EXPECT_EQ(brokenWith("\"service\":\"Slow\"").size(), 2u);
  EXPECT_EQ(brokenWith("\"service\":\"Slow\",\"velocity at most\":\"1.1 m/s\""), Names{"B"});
  const Network unknown =
      model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"5 L/s\""),
            held("A", 20) + "," + pipe("L-1", "A", "B", 10, "80 mm", "\"service\":\"Nowhere\""));
  const Solution s = solve(unknown, &shippedStock());
  ASSERT_FALSE(s.summary.usable());
  EXPECT_NE(s.summary.problems.front().what.find("no service"), std::string::npos);
}

// A valve of Kv 40 at 20 m³/h takes (20/40)² = 0.25 bar (water near 1000 kg/m³, 0.1 %).
TEST(Limits, aControlValveThatTakesTooLittleIsFound) {
  using namespace test;
  const auto brokenBy = [](const char* least) {
    const Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"20 m3/h\""),
                            held("A", 20) + "," +
                                device("control valve", "V-1", "A", "B",
                                       std::string("\"Kv\":\"40 Kv\",\"drop at least\":\"") + least + "\""));
    std::size_t count = 0;
    for (const Finding& f : findings(n, answer(n), UnitSet::siWater()))
      count += f.place.name == "V-1" && f.severity == Severity::broken;
    return count;
  };
  EXPECT_EQ(brokenBy("0.24 bar"), 0u);
  EXPECT_EQ(brokenBy("0.26 bar"), 1u);
}

// 100 kmol/h of water are 1801.5 kg/h; of another liquid its molar mass must be known.
TEST(Units, flowsInMolesNeedTheMolarMass) {
  using namespace test;
  const std::string points = point("A", 0) + "," + point("B", 0, "\"outflow\":\"100 kmol/h\""),
                    lines = held("A", 20) + "," + pipe("L-1", "A", "B", 10);
  const Network water = model(points, lines);
  const Solution s = answer(water);
  EXPECT_NEAR(flow(water, s, "L-1"), 1801.5268 / 3600 / s.setting.medium.density_kgm3, 1e-9);
  const std::string own = "\"liquid\":\"own liquid\",\"density\":\"800 kg/m3\",\"viscosity\":\"1 cSt\"";
  const Solution refused = solve(model(points, lines, own), &shippedStock());
  ASSERT_FALSE(refused.summary.usable());
  EXPECT_NE(refused.summary.problems.front().what.find("molar mass"), std::string::npos);
  const Network known = model(points, lines, own + ",\"molar mass\":\"46\"");
  EXPECT_NEAR(flow(known, answer(known), "L-1"), 4600.0 / 3600 / 800, 1e-12);
}

}  // namespace
}  // namespace conduit

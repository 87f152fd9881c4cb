// What must hold for every network, whatever its numbers: units that change nothing, laws of similarity and
// of affinity. No expected number comes from the program.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "network/network.h"
#include "plain_models.h"

namespace conduit::test {
namespace {

// Fifty times as thick as glycerol: the flows of these tests stay laminar.
const std::string syrup = R"("liquid":"own liquid","density":"1250 kg/m3","viscosity":"50000 mm2/s")";

// ---- Units: the same network in two languages ----------------------------------------------------------

struct InTwoUnits {
  std::string name, si, us;  // an element from B to C
};
void PrintTo(const InTwoUnits& d, std::ostream* out) { *out << d.name; }

// Each US value is the SI value converted by the definitions: 1 in = 25.4 mm, 1 ft = 12 in, 1 US gallon =
// 231 in³, 1 lbf = 0.45359237 · 9.80665 N.
constexpr double inch = 0.0254, foot = 0.3048, gallon = 231 * inch * inch * inch,
                 psi = 0.45359237 * gravity / (inch * inch), gpm = gallon / 60;
constexpr double cvOfKv = 1 / 0.865;  // IEC 60534-2-1, the ratio of its constants N1

std::vector<InTwoUnits> inTwoUnits() {
  const auto kind = [](const std::string& k) {
    return "{\"kind\":\"" + k + R"(","name":"X","from":"B","to":"C",)";
  };
  return {
      {"pipe", kind("pipe") + R"("length":"120 m","bore":"80 mm","roughness":"0.1 mm","K":"2"})",
       kind("pipe") + "\"length\":" + quoted(120 / foot, "ft") + ",\"bore\":" + quoted(80 / 25.4, "in") +
           ",\"roughness\":" + quoted(0.1 / 25.4, "in") + ",\"K\":\"2\"}"},
      {"controlValve", kind("control valve") + R"("Kv":"40 Kv","opening":"70 %"})",
       kind("control valve") + "\"Kv\":" + quoted(40 * cvOfKv, "Cv") + R"(,"opening":"0.7"})"},
      {"isolatingValve", kind("isolating valve") + R"("K":"3","bore":"65 mm"})",
       kind("isolating valve") + "\"K\":\"3\",\"bore\":" + quoted(65 / 25.4, "in") + "}"},
      {"checkValve", kind("check valve") + R"("K":"3","bore":"65 mm"})",
       kind("check valve") + "\"K\":\"3\",\"bore\":" + quoted(0.065 / foot, "ft") + "}"},
      {"reducingValve", kind("reducing valve") + R"("set point":"1.2 bar","K":"3","bore":"65 mm"})",
       kind("reducing valve") + "\"set point\":" + quoted(1.2e5 / psi, "psi") +
           R"(,"K":"3","bore":"65 mm"})"},
      {"limitingValve", kind("limiting valve") + R"("flow at most":"2 L/s","K":"3","bore":"65 mm"})",
       kind("limiting valve") + "\"flow at most\":" + quoted(0.002 / gpm, "gpm") +
           R"(,"K":"3","bore":"65 mm"})"},
      {"strainer", kind("strainer") + R"("rated flow":"5 L/s","clean drop":"0.2 bar"})",
       kind("strainer") + "\"rated flow\":" + quoted(0.005 / gpm, "gpm") +
           ",\"clean drop\":" + quoted(2e4 / psi, "psi") + "}"},
      {"meter", kind("meter") + R"("rated flow":"5 L/s","rated drop":"0.2 bar"})",
       kind("meter") + "\"rated flow\":" + quoted(0.005 / gpm, "gpm") + R"(,"rated drop":"20 kPa"})"},
      {"exchanger", kind("exchanger") + R"("rated flow":"5 L/s","rated drop":"0.2 bar","exponent":"1.8"})",
       kind("exchanger") + R"("rated flow":"18 m3/h","rated drop":"200 mbar","exponent":"1.8"})"},
      {"orificePlate", kind("orifice plate") + R"("bore":"30 mm","pipe bore":"80 mm"})",
       kind("orifice plate") + "\"bore\":" + quoted(30 / 25.4, "in") +
           ",\"pipe bore\":" + quoted(80 / 25.4, "in") + "}"},
      {"ownLoss", kind("own loss") + R"("law":"fixed drop","drop":"0.3 bar"})",
       kind("own loss") + R"("law":"fixed drop","drop":)" + quoted(3e4 / psi, "psi") + "}"},
      {"pump",
       kind("pump") +
           R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"25 m"},{"flow":"12 L/s","head":"12 m"}]})",
       kind("pump") + "\"curve\":[{\"flow\":\"0 gpm\",\"head\":" + quoted(30 / foot, "ft") +
           "},{\"flow\":" + quoted(0.006 / gpm, "gpm") + ",\"head\":" + quoted(25 / foot, "ft") +
           "},{\"flow\":" + quoted(0.012 / gpm, "gpm") + ",\"head\":" + quoted(12 / foot, "ft") + "}]}"},
  };
}

class Units : public testing::TestWithParam<InTwoUnits> {};

TEST_P(Units, changeNothing) {
  const auto net = [&](const std::string& element, bool us) {
    const std::string b =
        us ? point("B", 2).replace(point("B", 2).find("\"2."), std::string("\"2.000000 m\"").size(),
                                   quoted(2 / foot, "ft"))
           : point("B", 2);
    return model(point("A", 0) + "," + b + "," + point("C", 1) + "," + point("D", 0),
                 held("A", 30) + "," + held("D", 4) + "," + pipe("L1", "A", "B", 60) + "," + element + "," +
                     pipe("L2", "C", "D", 90),
                 plainJob);
  };
  const Network si = net(GetParam().si, false), us = net(GetParam().us, true);
  const Solution a = answer(si), b = answer(us);
  for (const char* line : {"L1", "X", "L2"})
    EXPECT_NEAR(flow(si, a, line), flow(us, b, line), 1e-9 * std::abs(flow(si, a, line)) + 1e-13) << line;
  for (const char* place : {"B", "C"}) EXPECT_NEAR(headAt(si, a, place), headAt(us, b, place), 1e-7) << place;
  EXPECT_GT(flow(si, a, "X"), 1e-4) << "something flows";
}
INSTANTIATE_TEST_SUITE_P(OfEveryDevice, Units, testing::ValuesIn(inTwoUnits()),
                         [](const auto& row) { return row.param.name; });

// ---- Similarity: all heads times k give all flows times k^(1/n) -----------------------------------------

struct Power {
  std::string name, job, line;  // of a pipe, without its length
  double exponent;              // of the flow in the law of loss
};
void PrintTo(const Power& p, std::ostream* out) { *out << p.name; }

// Two loops between two supplies, the loss of each line by the law.
Network twoLoopsOf(const Power& law, double times, double lengths = 1) {
  const auto line = [&](const std::string& name, const std::string& from, const std::string& to,
                        double length) {
    return R"({"kind":"pipe","name":")" + name + R"(","from":")" + from + R"(","to":")" + to +
           R"(","length":)" + quoted(length * lengths, "m") + "," + law.line + "}";
  };
  return model(
      point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0) + "," + point("E", 0),
      held("A", 20 * times) + "," + held("E", 3 * times) + "," + line("1", "A", "B", 300) + "," +
          line("2", "A", "C", 170) + "," + line("3", "B", "C", 90) + "," + line("4", "B", "D", 240) + "," +
          line("5", "C", "D", 310) + "," + line("6", "D", "E", 120),
      law.job);
}

class Similarity : public testing::TestWithParam<Power> {};

TEST_P(Similarity, headsTimesKGiveFlowsTimesItsRoot) {
  const Network one = twoLoopsOf(GetParam(), 1);
  const Solution a = answer(one);
  for (const double k : {0.01, 2.0, 30.0}) {
    const Network other = twoLoopsOf(GetParam(), k);
    const Solution b = answer(other);
    for (const char* line : {"1", "2", "3", "4", "5", "6"})
      EXPECT_NEAR(flow(other, b, line) / (flow(one, a, line) * std::pow(k, 1 / GetParam().exponent)), 1, 1e-7)
          << line << " at " << k;
    for (const char* place : {"B", "C", "D"})
      EXPECT_NEAR(headAt(other, b, place), k * headAt(one, a, place), 1e-7 * std::max(1.0, k)) << place;
  }
}

TEST_P(Similarity, lengthsTimesKLeaveHeadsAndGiveFlowsItsRoot) {
  const Network one = twoLoopsOf(GetParam(), 1), longer = twoLoopsOf(GetParam(), 1, 5);
  const Solution a = answer(one), b = answer(longer);
  for (const char* line : {"1", "3", "6"})
    EXPECT_NEAR(flow(longer, b, line) / (flow(one, a, line) * std::pow(5, -1 / GetParam().exponent)), 1, 1e-7)
        << line;
  for (const char* place : {"B", "C", "D"})
    EXPECT_NEAR(headAt(longer, b, place), headAt(one, a, place), 1e-6);
}

TEST_P(Similarity, sideBySideEqualLinesShareEqually) {
  // N equal lines side by side: each takes 1/N, the loss of all is that of one at 1/N.
  const Power& law = GetParam();
  const auto line = [&](int i) {
    return R"({"kind":"pipe","name":"L)" + std::to_string(i) + R"(","from":"A","to":"B","length":"200 m",)" +
           law.line + "}";
  };
  double alone = 0;
  for (const int n : {1, 2, 5}) {
    std::string lines;
    for (int i = 0; i < n; ++i) lines += "," + line(i);
    const Network net = model(point("A", 0) + "," + point("B", 0, flowField("outflow", 0.0004)),
                              held("A", 50) + lines, law.job);
    const Solution s = answer(net);
    for (int i = 0; i < n; ++i) EXPECT_NEAR(flow(net, s, "L" + std::to_string(i)), 0.0004 / n, 1e-12);
    const double loss = 50 - headAt(net, s, "B");
    if (n == 1) alone = loss;
    EXPECT_NEAR(loss / (alone * std::pow(n, -law.exponent)), 1, 1e-6) << n;
  }
}
INSTANTIATE_TEST_SUITE_P(
    OfEveryLaw, Similarity,
    testing::Values(
        Power{"laminar", syrup, R"("bore":"80 mm","roughness":"0 mm")", 1.0},
        Power{"hazenWilliams",
              plainJob + R"(,"friction law":"Hazen-Williams","Hazen-Williams flow exponent":"1.852")",
              R"("bore":"80 mm","C":"120")", 1.852},
        Power{"manning", plainJob + R"(,"friction law":"Manning")", R"("bore":"80 mm","n":"0.012")", 2.0}),
    [](const auto& row) { return row.param.name; });

// ---- Affinity: speed times r, heads times r², in a system without static head
// --------------------------------

TEST(Affinity, flowsGoWithTheSpeedHeadsWithItsSquarePowersWithItsCube) {
  // One law of loss with Q² only (a valve by Kv), both ends at one level: every duty point lies on one
  // parabola.
  const auto net = [](const std::string& speed) {
    return model(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
        held("A", 0) + "," + held("C", 0) + "," + device("control valve", "V", "B", "C", R"("Kv":"40 Kv")") +
            "," +
            device(
                "pump", "P", "A", "B",
                R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"26 m","efficiency":"60 %"},{"flow":"12 L/s","head":"14 m","efficiency":"55 %"}],"rated speed":"1450 rpm","speed":")" +
                    speed + "\""),
        plainJob);
  };
  const Network full = net("1450 rpm");
  const Solution a = answer(full);
  const double q = flow(full, a, "P"), h = headAt(full, a, "B");
  // By hand from the valve alone: 40 m³/h at 1 bar.
  EXPECT_NEAR(h, 1e5 * std::pow(q * 3600 / 40, 2) / (1000 * gravity), 1e-6);
  const auto shaft = [](const Network& n, const Solution& s) {
    const ReadingOf reading(n, s, n.byName("P"));
    for (const Outcome& o : n.at(n.byName("P")).part->outcomes)
      if (o.key == "shaft power") return o.of(*reading).value_or(NAN);
    return std::nan("");
  };
  for (const double r : {0.5, 0.8, 1.1}) {
    const Network slow = net(fmt::format("{:.17g} rpm", 1450 * r));
    const Solution b = answer(slow);
    EXPECT_NEAR(flow(slow, b, "P") / (q * r), 1, 1e-8) << r;
    EXPECT_NEAR(headAt(slow, b, "B") / (h * r * r), 1, 1e-8) << r;
    EXPECT_NEAR(shaft(slow, b) / (shaft(full, a) * r * r * r), 1, 1e-8) << r;
  }
}

TEST(Affinity, unitsInOneSymbolAreAsManyPumpsDrawn) {
  const std::string curve =
      R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"26 m"},{"flow":"12 L/s","head":"14 m"}])";
  const std::string ends = held("A", 0) + "," + held("D", 12) + "," + pipe("L", "C", "D", 150, "100 mm");
  const std::string places = point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0);
  const auto one = [&](const std::string& name, const std::string& from, const std::string& to,
                       const std::string& more) { return device("pump", name, from, to, curve + more); };
  // No loss between A, B and C but the pumps.
  const Network apart = model(places,
                              ends + "," + one("P1", "A", "C", "") + "," + one("P2", "A", "C", "") + "," +
                                  one("P3", "A", "C", "") + "," + held("B", 0),
                              plainJob);
  const Network together =
      model(places, ends + "," + one("P", "A", "C", R"(,"units":"3")") + "," + held("B", 0), plainJob);
  EXPECT_NEAR(flow(apart, answer(apart), "L"), flow(together, answer(together), "L"), 1e-9);
  const Network chain =
      model(places, ends + "," + one("P1", "A", "B", "") + "," + one("P2", "B", "C", ""), plainJob);
  const Network stacked = model(
      places, ends + "," + one("P", "A", "C", R"(,"units":"2","arrangement":"series")") + "," + held("B", 0),
      plainJob);
  EXPECT_NEAR(flow(chain, answer(chain), "L"), flow(stacked, answer(stacked), "L"), 1e-9);
}

}  // namespace
}  // namespace conduit::test

// What a second calculation found wrong once: each by hand, with its brothers under other devices, other
// cases and other doors.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "cases/grid.h"
#include "cli/ran.h"
#include "exchange/stock_files.h"
#include "loss/fitting_k.h"
#include "model_text.h"
#include "pump/supply_curve.h"
#include "pump/system_curve.h"
#include "sizing/search.h"
#include "sizing/words.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

constexpr double gravity = 9.80665, gamma_Nm3 = 1000 * gravity;
const std::string plainJob = R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")";

// Valves of Kv 60 m³/h lose (Q/60)² bar: every number here is worked out from that.
double dropOf(double m3s) { return 1e5 * std::pow(m3s * 3600 / 60, 2); }        // Pa
double flowBy(double pascal) { return 60.0 / 3600 * std::sqrt(pascal / 1e5); }  // m³/s
std::string kv60(const std::string& name, const std::string& from, const std::string& to) {
  return device("control valve", name, from, to, R"("Kv":"60 Kv")");
}
std::string fixedAt(const std::string& name, const std::string& point, const std::string& pressure,
                    const std::string& more = "") {
  return R"({"kind":"fixed pressure","name":")" + name + R"(","point":")" + point + R"(","pressure":")" +
         pressure + "\"" + more + "}";
}
std::string outflowOf(double m3s) { return fmt::format(R"("outflow":"{:.17g} L/s")", m3s * 1000); }
std::string inflowOf(double m3s) { return fmt::format(R"("inflow":"{:.17g} L/s")", m3s * 1000); }
std::string fileOf(const std::string& points, const std::string& elements, const std::string& more = "",
                   const std::string& job = plainJob) {
  return scratch(R"({"format":"level-conduit","version":2,"job":{)" + job + "}," + more + R"("points":[)" +
                 points + R"(],"elements":[)" + elements + "]}");
}

// ---- A ring without loss
// ------------------------------------------------------------------------------------

struct Lossless {
  std::string name, elements;  // between A at 3 bar and B at 1 bar, or with supplies of its own
  bool own = false;
};
void PrintTo(const Lossless& l, std::ostream* out) { *out << l.name; }

class LosslessWay : public testing::TestWithParam<Lossless> {};

const std::string bothHeld = fixedAt("F", "A", "3 bar") + "," + fixedAt("G", "B", "1 bar") + ",";

TEST_P(LosslessWay, isRefusedWithItsWayNamed) {
  const Network n = model(point("A", 0) + "," + point("B", 0),
                          (GetParam().own ? "" : bothHeld) + GetParam().elements, plainJob);
  const Solution s = solve(n, &shippedStock());
  ASSERT_EQ(s.summary.verdict, Verdict::cannotYet) << s.summary.full();
  const std::string& why = s.summary.problems.front().what;
  EXPECT_TRUE(why.find("is unlimited") != std::string::npos ||
              why.find("with no head loss between them") != std::string::npos)
      << why;
}

TEST_P(LosslessWay, inACaseAndBesideAFoundFieldToo) {
  // The same network with a branch elsewhere whose field is found.
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
                          (GetParam().own ? "" : bothHeld) + GetParam().elements + "," +
                              fixedAt("P", "C", "2 bar") + "," + fixedAt("Q", "D", "1 bar") + "," +
                              device("control valve", "Found", "C", "D",
                                     R"("Kv":"90 Kv","found":["opening"],"given":{"flow":"5 L/s"})"),
                          plainJob);
  EXPECT_EQ(solve(n, &shippedStock()).summary.verdict, Verdict::cannotYet);
  // In a case the device opens that is shut in the drawing.
  if (GetParam().name != "checkValve") return;
  const std::string file = fileOf(
      point("A", 0) + "," + point("B", 0) + "," + point("M", 0),
      bothHeld + device("check valve", "X", "A", "M", R"("K":"0","bore":"80 mm")") + "," +
          device("isolating valve", "V", "M", "B", R"("open":false,"K":"0","bore":"80 mm")"),
      R"("cases":[{"drawing":true,"name":"Shut"},{"name":"Open","differs":[{"element":"V","open":true}]}],)");
  EXPECT_EQ(ran({"solve", file}).status, cli::limitsKept);
  EXPECT_EQ(ran({"solve", file, "--case", "Open"}).status, cli::cannotBalance);
  EXPECT_EQ(ran({"cases", file}).status, cli::cannotBalance);
}

std::string lossless(const std::string& kind, const std::string& more, bool backward = false) {
  return device(kind, "X", backward ? "B" : "A", backward ? "A" : "B", more);
}
std::string tankAt(const std::string& name, const std::string& point, const std::string& level,
                   const std::string& height, const std::string& k = "0") {
  return R"({"kind":"tank","name":")" + name + R"(","level":")" + level + R"(","connections":[{"point":")" +
         point + R"(","height":")" + height + R"(","entrance K":")" + k + R"(","exit K":")" + k + "\"}]}";
}
INSTANTIATE_TEST_SUITE_P(
    OfEveryDevice, LosslessWay,
    testing::Values(
        Lossless{"checkValve", lossless("check valve", R"("K":"0","bore":"80 mm")")},
        Lossless{"isolatingValve", lossless("isolating valve", R"("K":"0","bore":"80 mm")")},
        Lossless{"reducingValve",
                 lossless("reducing valve", R"("K":"0","bore":"80 mm","set point":"9 bar")")},
        Lossless{"sustainingValve",
                 lossless("sustaining valve", R"("K":"0","bore":"80 mm","set point":"0 bar")")},
        Lossless{"limitingValveBackward",
                 lossless("limiting valve", R"("K":"0","bore":"80 mm","flow at most":"3 L/s")", true)},
        Lossless{"differentialAcross",
                 lossless("differential valve",
                          R"("K":"0","bore":"80 mm","difference":"0.5 bar","keeps":"across itself")")},
        Lossless{
            "differentialOverAPoint",
            lossless(
                "differential valve",
                R"("K":"0","bore":"80 mm","difference":"9 bar","keeps":"outlet over a point","other place":"A")")},
        Lossless{"strainer", lossless("strainer", R"("rated flow":"5 L/s","clean drop":"0 bar")")},
        Lossless{"meter", lossless("meter", R"("rated flow":"5 L/s","rated drop":"0 bar")")},
        Lossless{"exchanger", lossless("exchanger", R"("rated flow":"5 L/s","rated drop":"0 bar")")},
        Lossless{"fixedDrop", lossless("own loss", R"("law":"fixed drop","drop":"0.2 bar")")},
        Lossless{
            "levelTable",
            lossless(
                "own loss",
                R"("law":"table","table":[{"flow":"1 L/s","drop":"0.5 bar"},{"flow":"2 L/s","drop":"0.5 bar"},{"flow":"3 L/s","drop":"0.5 bar"}])")},
        Lossless{"pipeWithoutLength",
                 lossless("pipe", R"("length":"0 m","bore":"80 mm","roughness":"0 mm")")},
        Lossless{"givenHead", lossless("pump", R"("described by":"given head","duty head":"50 m")", true)},
        // Into a tank above its liquid, without a pipe whose velocity it could lose.
        Lossless{"freeDischarge",
                 fixedAt("F", "A", "2 bar") + "," + lossless("isolating valve", R"("K":"0")") + "," +
                     tankAt("Low", "B", "-10 m", "0 m", "1"),
                 true},
        Lossless{"givenHeadIntoTheAir",
                 tankAt("T", "A", "5 m", "0 m") + "," +
                     lossless("pump", R"("described by":"given head","duty head":"30 m")") + "," +
                     tankAt("U", "B", "-10 m", "0 m"),
                 true},
        Lossless{"tankToTankOneWay",
                 tankAt("T", "A", "20 m", "0 m") + "," +
                     lossless("check valve", R"("K":"0","bore":"80 mm")") + "," +
                     tankAt("U", "B", "5 m", "0 m"),
                 true}),
    [](const auto& row) { return row.param.name; });

TEST(LosslessWay, whatBoundsTheFlowIsAnAnswer) {
  // The limiter forward passes its most; the free discharge behind a pipe with K 2 loses just that: h = K
  // v²/2g.
  const Network limited = model(
      point("A", 0) + "," + point("B", 0),
      bothHeld + lossless("limiting valve", R"("K":"0","bore":"80 mm","flow at most":"3 L/s")"), plainJob);
  EXPECT_NEAR(flow(limited, answer(limited), "X"), 0.003, 1e-12);
  const Network pouring =
      model(point("A", 0) + "," + point("B", 0),
            tankAt("T", "A", "20 m", "0 m") + "," +
                lossless("pipe", R"("length":"0 m","bore":"80 mm","roughness":"0 mm","K":"2")") + "," +
                tankAt("U", "B", "5 m", "10 m"),
            plainJob);
  EXPECT_NEAR(flow(pouring, answer(pouring), "X"), M_PI / 4 * 0.08 * 0.08 * std::sqrt(2 * gravity * 10 / 2),
              1e-8)
      << "from 20 m into the air at 10 m";
}

// ---- What is found at a point where more meets
// ----------------------------------------------------------------

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

// ---- A held head is held
// -----------------------------------------------------------------------------------------

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

// ---- Shares of a supply
// ---------------------------------------------------------------------------------------------

TEST(Share, allOfItWithoutAnotherSupplyIsAllOfIt) {
  // 20 L/s to M at 2 bar through Kv 60: FA stands at 2 bar + 1.44 bar, whether FB is named or not.
  const std::string file =
      fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"20 L/s")") + "," + point("B", 0),
             fixedAt("FA", "A", "5 bar") + "," + fixedAt("FB", "B", "5 bar") + "," + kv60("V1", "A", "M") +
                 "," + kv60("V2", "M", "B"));
  const double expected = (2e5 + dropOf(0.020)) / gamma_Nm3;
  for (const std::vector<std::string>& other : {std::vector<std::string>{}, {"--other", "FB"}}) {
    std::vector<std::string> what{
        "pumps", file,     "--at",   "FA",    "--share", "100 %", "--least-pressure",
        "2 bar", "--flow", "20 L/s", "--json"};
    what.insert(what.end(), other.begin(), other.end());
    const Ran r = ran(what);
    ASSERT_EQ(r.status, cli::limitsKept) << r.err;
    EXPECT_NEAR(r.json()["read"]["head_m"].get<double>(), expected, 1e-6) << other.size();
  }
}

TEST(Share, aThirdSupplyIsCounted) {
  // M at 2 bar: FC holds 4 bar and gives by its valve; FA gives 12 of 30 L/s; FB what is left, which it
  // takes.
  const std::string file = fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"30 L/s")") + "," +
                                      point("B", 0) + "," + point("C", 0),
                                  fixedAt("FA", "A", "5 bar") + "," + fixedAt("FB", "B", "5 bar") + "," +
                                      fixedAt("FC", "C", "4 bar") + "," + kv60("V1", "A", "M") + "," +
                                      kv60("V2", "B", "M") + "," + kv60("V3", "C", "M"));
  const std::vector<std::string> what{
      "pumps", file,     "--at",  "FA", "--share", "40 %", "--other", "FB", "--least-pressure",
      "2 bar", "--flow", "12 L/s"};
  auto json = what;
  json.push_back("--json");
  const Ran r = ran(json);
  ASSERT_EQ(r.status, cli::limitsKept) << r.err;
  const double third = flowBy(2e5), other = 0.030 - 0.012 - third;
  const auto read = r.json()["read"];
  EXPECT_NEAR(read["other_m3s"].get<double>(), other, 1e-8);
  EXPECT_NEAR(read["other_level_m"].get<double>(), (2e5 - dropOf(other)) / gamma_Nm3, 1e-5);
  EXPECT_EQ(read["besides"][0]["supply"], "FC");
  EXPECT_NEAR(read["besides"][0]["flow_m3s"].get<double>(), third, 1e-8);
  EXPECT_NEAR(read["head_m"].get<double>(), (2e5 + dropOf(0.012)) / gamma_Nm3, 1e-5);
  const Ran text = ran(what);
  EXPECT_NE(text.out.find("FC provides"), std::string::npos) << text.out;
  EXPECT_NE(text.out.find("FB takes"), std::string::npos) << text.out;
}

// ---- System curves
TEST(Share, ofRandomNetworksUnderEachLawIsWhatTheNetworkWithItGives) {
  // Rings with three supplies; each point read is drawn again with its heads held, and solved: the supply
  // gives that flow, and the least pressure is just kept.
  int read = 0;
  for (std::uint64_t seed = 0; seed < 36; ++seed) {
    Chance chance{seed * 19 + 3};
    const std::pair<const char*, const char*> laws[] = {{"Darcy-Weisbach", R"("roughness":"0.1 mm")"},
                                                        {"Hazen-Williams", R"("C":"120")"},
                                                        {"Manning", R"("n":"0.012")"}};
    const auto& [law, wall] = laws[seed % 3];
    std::string places, elements;
    const int ring = 5 + chance.below(5);
    for (int i = 0; i < ring; ++i) {
      const std::string here = "R" + std::to_string(i), next = "R" + std::to_string((i + 1) % ring);
      places +=
          (i ? "," : "") + point(here, chance.between(0, 10),
                                 fmt::format(R"("outflow":"{} L/s")", i % 2 ? chance.between(1, 8) : 0.0));
      elements += (i ? "," : "") +
                  device("pipe", "P" + std::to_string(i), here, next,
                         fmt::format(R"("length":"{} m","bore":"150 mm",{})", chance.between(50, 400), wall));
    }
    const char* supplies[] = {"FA", "FB", "FC"};
    for (int k = 0; k < 3; ++k) {
      const std::string at = "S" + std::to_string(k);
      places += "," + point(at, 0);
      elements += "," + fixedAt(supplies[k], at, fmt::format("{} bar", chance.between(3, 5))) + "," +
                  device("pipe", "Q" + std::to_string(k), at, "R" + std::to_string(k * ring / 3),
                         fmt::format(R"("length":"120 m","bore":"150 mm",{})", wall));
    }
    const Network n = model(places, elements, plainJob + R"(,"friction law":")" + law + "\"");
    const Solution base = answer(n);
    const SharedSupply shared{.supply = n.byName("FA"),
                              .other = n.byName("FB"),
                              .share = chance.oneIn(4) ? 1.0 : 0.4,
                              .least_pa = 1.5e5};
    const double flow = chance.between(0.003, 0.012);
    const auto p = sharedAtFlow(n, &shippedStock(), base, shared, flow);
    if (!p) continue;
    ++read;
    const Network with = withShared(n, &shippedStock(), shared, *p);
    const Solution s = answer(with);
    double gives = NAN, other = NAN, third = NAN, least = 1e9;
    for (const SupplyShare& share : s.summary.shares) {
      if (share.element == shared.supply) gives = share.inflow_m3s;
      if (share.element == shared.other) other = share.inflow_m3s;
      if (with.at(share.element).name == "FC") third = share.inflow_m3s;
    }
    with.each([&](Id id, const Element& e) {
      if (e.part->key == "point" && e.name[0] == 'R')
        least = std::min(least, (*s.head(id) - e.given("height")->value) * gamma_Nm3);
    });
    // S2 belongs to a supply too, but one that is neither of the two: it counts like the ring.
    least = std::min(least, (*s.head(with.byName("S2"))) * gamma_Nm3);
    EXPECT_NEAR(gives, flow, 1e-7) << seed;
    EXPECT_NEAR(other, p->other_m3s, 1e-7) << seed;
    ASSERT_EQ(p->besides.size(), 1u);
    EXPECT_NEAR(third, p->besides[0].second, 1e-7) << seed;
    EXPECT_NEAR(least, 1.5e5, 2) << seed << " Pa";
  }
  EXPECT_GT(read, 20);
}

// ------------------------------------------------------------------------------------------------------

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
  for (const auto& [law, line] :
       {std::pair{"Darcy-Weisbach", R"("roughness":"0.1 mm")"}, std::pair{"Hazen-Williams", R"("C":"120")"},
        std::pair{"Manning", R"("n":"0.012")"}}) {
    const auto pipeOf = [&](const char* name, const char* from, const char* to) {
      return device("pipe", name, from, to, R"("length":"300 m","bore":"150 mm",)" + std::string(line));
    };
    const std::string file =
        fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"20 L/s")") + "," + point("B", 0),
               tankAt("T", "A", "40 m", "0 m") + "," + tankAt("U", "B", "40 m", "0 m") + "," +
                   pipeOf("P1", "A", "M") + "," + pipeOf("P2", "B", "M"),
               "", plainJob + R"(,"friction law":")" + law + "\"");
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

// ---- Sizing
// -------------------------------------------------------------------------------------------------------------------

TEST(SizingStudy, theEnergyOfACaseThatDoesNotCountIsCounted) {
  const std::string line =
      R"({"kind":"pipe","name":"L","from":"B","to":"D","length":"300 m","size":"ASME B36.10M 4 40","roughness":"0.05 mm"})";
  const std::string pump = device(
      "pump", "PU", "A", "B",
      R"("curve":[{"flow":"0 L/s","head":"60 m","efficiency":"0 %"},{"flow":"10 L/s","head":"50 m","efficiency":"70 %"},{"flow":"20 L/s","head":"30 m","efficiency":"60 %"}])");
  const auto study = [&](const std::string& cases) {
    return fileOf(
        point("A", 0) + "," + point("B", 0) + "," + point("D", 20, R"("outflow":"10 L/s")"),
        tankAt("T", "A", "2 m", "0 m") + "," + pump + "," + line,
        R"("costs":{"currency":"EUR","tariff":"0.2","hours in a year":"2000 h","years":"1","motor efficiency":"100 %"},"cases":[{"drawing":true,"name":"Day"})" +
            cases + "],");
  };
  const auto energies = [](const std::string& file) {
    const auto sized = ran({"size", file, "--json"}).json();
    return std::pair{sized["proposed"]["energy_a_year_j"].get<double>(),
                     ran({"cases", file, "--json"}).json()["year"]["energy_at_the_wire_j"].get<double>()};
  };
  // By hand: at 10 L/s 50 m at 70 %, 2 000 h.
  const double day = gamma_Nm3 * 0.010 * 50 / 0.7 * 2000 * 3600;
  EXPECT_NEAR(energies(study("")).first / day, 1, 1e-9);
  const auto both = energies(study(
      R"(,{"name":"Night","hours in a year":"4000 h","counts for sizing":false,"differs":[{"element":"D","outflow":"8 L/s"}]})"));
  EXPECT_NEAR(both.first / both.second, 1, 1e-9) << "as the table of cases has it";
  EXPECT_GT(both.first, 2 * day);
  // Its limits need not be kept, and one without an answer is named.
  const std::string wild = study(
      R"(,{"name":"Wild","hours in a year":"10 h","counts for sizing":false,"differs":[{"element":"D","outflow":"19 L/s"}]})");
  EXPECT_TRUE(ran({"size", wild, "--json"}).json()["proposed"]["keeps_all_limits"].get<bool>() ==
              ran({"size", study(""), "--json"}).json()["proposed"]["keeps_all_limits"].get<bool>());
  const std::string none = study(
      R"(,{"name":"None","hours in a year":"10 h","counts for sizing":false,"differs":[{"element":"PU","running":false}]})");
  EXPECT_NE(ran({"size", none}).out.find("Excludes the energy of None: no solution"), std::string::npos)
      << ran({"size", none}).out;
}

TEST(SizingStudy, aSizeWithoutACostOrAMassIsSaid) {
  std::string text = textOf(twoLoops);
  const std::size_t at = text.find(R"("nominal": "8")");
  ASSERT_NE(at, std::string::npos);
  const std::string cost = R"("cost_per_m": "23", )";
  text.erase(text.find(cost, at), cost.size());
  const Ran r = ran({"size", scratch(text), "--least", "laid", "--trials", "2"});
  EXPECT_NE(r.out.find("Not offered, no cost in the catalogue: Loop 8 A"), std::string::npos)
      << r.out << r.err;
  EXPECT_NE(r.out.find("mass unknown"), std::string::npos) << r.out;
  EXPECT_TRUE(ran({"size", twoLoops, "--trials", "2", "--json"}).json()["proposed"]["mass_kg"].is_null());
}

// ---- Tees
// -------------------------------------------------------------------------------------------------------------------------

TEST(Json, aCreepingFlowIsNotNothing) {
  // 2e-11 m³/s drawn through 100 mm: what is given at the point is what the line carries.
  const std::string file = fileOf(point("A", 0) + "," + point("B", 0, R"("outflow":"2e-8 L/s")"),
                                  fixedAt("F", "A", "1 bar") + "," + pipe("L", "A", "B", 10));
  const auto answered = ran({"solve", file, "--json"}).json();
  for (const auto& e : answered["elements"])
    if (e["name"] == "L") EXPECT_NEAR(e["flow_m3_s"].get<double>() / 2e-11, 1, 1e-6);
}

TEST(SizingStudy, whatAsksToStopEndsEveryJudgement) {
  const auto model = loadModel(twoLoops, &shippedStock());
  ASSERT_TRUE(model.has_value());
  const auto stock = stockFor(model->drawn, shippedStock());
  const auto task = sizingTask(*model, {.objective = Objective::laid}, stock, UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  std::stop_source stop;
  Judge judge(*task, 1, stop.get_token());
  const SizeChoice widest(task->rows.size(), static_cast<std::uint16_t>(task->rows[0].sizes.size() - 1));
  const SizingVerdict whole = judge.evaluate(widest, 0);
  EXPECT_FALSE(whole.stopped);
  EXPECT_TRUE(whole.keeps());
  stop.request_stop();
  const SizingVerdict cut = judge.evaluate(widest, 0);
  EXPECT_TRUE(cut.stopped);
  EXPECT_FALSE(cut.keeps()) << "what was not solved keeps nothing";
  // What governs a line is then not known, and not "the smallest there is".
  for (const Governed& g : governedOf(*task, judge, widest, whole, {.threads = 1}))
    EXPECT_EQ(g.by, Governed::By::unknown);
  EXPECT_EQ(governedSaid(*task, {.by = Governed::By::unknown}), "not examined: time limit reached");
}

TEST(SizingStudy, aRemedyKeepsToTheSizesThatAreOffered) {
  // 30 L/s in a 3-inch line are too quick; the next size by the catalogue is left out of the offers.
  const auto with = [](const std::string& ranges) {
    const std::string file = fileOf(
        point("A", 0) + "," + point("B", 0, R"("outflow":"30 L/s")"),
        fixedAt("F", "A", "9 bar") +
            R"(,{"kind":"pipe","name":"L","from":"A","to":"B","length":"50 m","size":"ASME B36.10M 3 40","roughness":"0.05 mm"})",
        ranges.empty()
            ? ""
            : R"("sizing":{"sizes":[{"standard":"ASME B36.10M","schedule":"40",)" + ranges + "}]},");
    return ran({"solve", file}).out;
  };
  const std::string all = with(""), some = with(R"("from":"2","to":"12")"),
                    large = with(R"("from":"8","to":"12")"), small = with(R"("from":"1","to":"3")");
  const std::size_t at = all.find("Resize L to ");
  ASSERT_NE(at, std::string::npos) << all;
  EXPECT_NE(some.find(all.substr(at, all.find('\n', at) - at)), std::string::npos) << some;
  EXPECT_NE(large.find("Resize L to ASME B36.10M 8 40"), std::string::npos) << large;
  EXPECT_EQ(small.find("Resize L to "), std::string::npos) << small;
}

TEST(CaseTable, aCountIsACount) {
  const auto m = readModel(
      R"({"format":"level-conduit","version":2,"cases":[{"drawing":true,"name":"One"},{"name":"Two","differs":[{"element":"P","units":"2"}]}],"points":[)" +
          point("A", 0) + "," + point("B", 0) + R"(],"elements":[)" + fixedAt("F", "A", "1 bar") + "," +
          device("pump", "P", "A", "B",
                 R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}])") +
          "]}",
      &shippedStock());
  ASSERT_TRUE(m.has_value());
  const auto words = differencesInWords(*m, m->cases.byName("Two")->id, drawingCase, UnitSet::siWater());
  ASSERT_EQ(words.size(), 1u);
  EXPECT_EQ(words[0], "P units: 1 (Two: 2)");
}

TEST(CaseTable, whatAnItemBringsIsOneRow) {
  // The case has another item and a note of its own with it: one row.
  const std::string file = fileOf(
      point("A", 0) + "," + point("B", 0),
      tankAt("T", "A", "5 m", "0 m") + "," + tankAt("U", "B", "10 m", "0 m") + "," +
          device(
              "pump", "P", "A", "B",
              R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}],"note":"as found")"),
      R"("cases":[{"drawing":true,"name":"Now"},{"name":"Other","differs":[{"element":"P","stock item":"Fold 12.5-25","note":"as tried"}]},{"name":"Noted","differs":[{"element":"T","level":"6 m"}]}],)");
  const Ran r = ran({"cases", file});
  EXPECT_NE(r.out.find("P catalogue item (and 1 of its fields)"), std::string::npos) << r.out << r.err;
  EXPECT_EQ(r.out.find("P note"), std::string::npos) << r.out;
  EXPECT_NE(r.out.find("T level"), std::string::npos) << r.out;
}

// How far the head lost along a leg is from friction and the tee's K (Gardel 1957, by the functions whose
// values laws_test.cpp compares), m; friction as the same pipe loses it alone. Empty where the branch is the
// common leg or two legs carry nearly the same: there the losses of two readings are mixed.
std::optional<double> teeMiss(const Network& n, const Solution& s, const std::string& tee, double angle_deg) {
  const Id at = n.byName(tee);
  struct Leg {
    double in_m3s, loss_m, friction_m, area_m2;  // flow into the tee; lost from its far end to the tee
    bool branch;
  };
  std::vector<Leg> legs;
  n.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || (e.ends[0] != at && e.ends[1] != at)) return;
    const double q = *s.branch(id, 0).flow_m3s, sign = e.ends[1] == at ? 1 : -1;
    const std::string far = n.at(e.ends[1] == at ? e.ends[0] : e.ends[1]).name;
    const double bore = e.given("bore")->value;
    const Network alone = model(
        point("P", 0) + "," + point("Q", 0, fmt::format(R"("outflow":"{:.17g} L/s")", q * 1000)),
        held("P", 50) + "," +
            device("pipe", "L", "P", "Q",
                   fmt::format(R"("length":"{}","bore":"{}","roughness":"{}")", e.given("length")->typed,
                               e.given("bore")->typed, e.given("roughness")->typed)),
        plainJob);
    const double friction = 50 - headAt(alone, answer(alone), "Q");
    legs.push_back({sign * q, headAt(n, s, far) - headAt(n, s, tee), sign * friction, M_PI / 4 * bore * bore,
                    e.name == *n.at(at).text("tee branch")});
  });
  const Leg &common = *std::max_element(
                legs.begin(), legs.end(),
                [](const Leg&a, const Leg&b) { return std::abs(a.in_m3s) < std::abs(b.in_m3s); }),
            &branch = *std::find_if(legs.begin(), legs.end(), [](const Leg&l) { return l.branch; });
  for (const Leg& l : legs)
    if (&l != &common && std::abs(l.in_m3s) > 0.985 * std::abs(common.in_m3s)) return std::nullopt;
  if (&common == &branch) return std::nullopt;
  const bool joining = common.in_m3s < 0;
  const fittingk::Tee shape{.phi = std::min(branch.area_m2 / common.area_m2, 1.0), .angle_deg = angle_deg};
  const double share = std::abs(branch.in_m3s / common.in_m3s),
               head = std::pow(common.in_m3s / common.area_m2, 2) / (2 * gravity);
  double miss = 0;
  for (const Leg& l : legs) {
    double k = 0;
    if (&l != &common && joining)
      k = l.branch ? fittingk::joiningBranch(shape, share) : fittingk::joiningRun(shape, share);
    if (&l != &common && !joining)
      k = l.branch ? -fittingk::dividingBranch(shape, share) : -fittingk::dividingRun(shape, share);
    miss = std::max(miss, std::abs(l.loss_m - l.friction_m - k * head));
  }
  return miss;
}

TEST(Tee, twoOfWhoseLegsEndAtOnePointHasAnAnswer) {
  const Network n = model(
      R"({"name":"N-3","height":"21.8662 m"},{"name":"N-5","height":"39.6987 m","outflow":"1.79886 L/s"},{"name":"N-8","height":"19.7279 m","tee branch":"L-14","tee angle":"45"})",
      device("pipe", "L-14", "N-5", "N-8",
             R"("length":"3.97322 m","bore":"151.511 mm","roughness":"0.0015 mm")") +
          "," +
          device("pipe", "L-19", "N-3", "N-8",
                 R"("length":"310.266 m","size":"ASME B36.19M 4 10S","roughness":"0.05 mm")") +
          "," +
          device("pipe", "L-22", "N-8", "N-5",
                 R"("length":"0.336741 m","bore":"77.3899 mm","roughness":"0.104572 mm")") +
          "," + fixedAt("F-2", "N-3", "7.1024 bar"));
  const Solution s = answer(n);
  EXPECT_NEAR(flow(n, s, "L-19"), 1.79886e-3, 1e-9);
  EXPECT_NEAR(flow(n, s, "L-22") - flow(n, s, "L-14"), 1.79886e-3, 1e-9);
  EXPECT_GT(flow(n, s, "L-14"), 0) << "drawn along by the others, back to the tee";
}

TEST(Tee, withShortLegsEndsInATrueAnswerOrASaidOne) {
  // Loops of two short legs at a tee, of every proportion: never without a word.
  int solved = 0, judged = 0;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    Chance chance{seed * 13 + 1};
    const double angle = chance.oneIn(2) ? 45 : 90;
    const auto leg = [&](const char* name, const char* from, const char* to) {
      return device("pipe", name, from, to,
                    fmt::format(R"("length":"{} m","bore":"{} mm","roughness":"0.05 mm")",
                                chance.between(0.1, 6), chance.between(40, 160)));
    };
    const Network n = model(
        point("S", 0) + "," + point("D", 0, fmt::format(R"("outflow":"{} L/s")", chance.between(0.2, 20))) +
            "," +
            point("T", 0,
                  fmt::format(R"("tee branch":"{}","tee angle":"{}")", chance.oneIn(2) ? "A" : "B", angle)),
        fixedAt("F", "S", "5 bar") + "," + leg("A", "T", "D") + "," + leg("B", "T", "D") + "," +
            leg("C", "S", "T"),
        plainJob);
    const Solution s = solve(n, &shippedStock());
    EXPECT_TRUE(s.summary.verdict == Verdict::balanced || s.summary.verdict == Verdict::noStates) << seed;
    if (!s.summary.usable()) continue;
    ++solved;
    const auto miss = teeMiss(n, s, "T", angle);
    judged += miss.has_value();
    EXPECT_LT(miss.value_or(0), 2e-6) << seed;
  }
  EXPECT_GT(solved, 50);
  EXPECT_GT(judged, 30);
}

// ---- The same by chance -----------------------------------------------------------------------------------

// Devices one behind the other between two held heads, K often 0, one-way ones either way round: blocked, or
// without anything that resists, or Q = √(ΔH/ΣR) and no more than the limiter lets pass.
TEST(ByChance, chainsBetweenTwoHeldHeadsByTheirFormula) {
  const double area = M_PI / 4 * 0.08 * 0.08;
  int refused = 0, blocked = 0, flowing = 0;
  for (std::uint64_t seed = 0; seed < 300; ++seed) {
    Chance chance{seed * 23 + 11};
    const int count = 1 + chance.below(3);
    const double high = chance.between(5, 60), low = chance.between(0, 4);
    double resistance = 0, most = 1e9;
    bool bars = false;
    std::string places = point("N0", 0), elements = held("N0", high);
    for (int i = 0; i < count; ++i) {
      const std::string from = "N" + std::to_string(i), to = "N" + std::to_string(i + 1);
      places += "," + point(to, 0);
      const double k = chance.oneIn(2) ? 0.0 : chance.between(0.5, 6);
      const bool turned = chance.oneIn(4);
      const std::string seat = fmt::format(R"("K":"{:.17g}","bore":"80 mm")", k);
      std::string kind, more = seat;
      double r = k / (2 * gravity * area * area);
      switch (chance.below(5)) {
        case 0: kind = "check valve", bars = bars || turned; break;
        case 1: kind = "isolating valve"; break;
        case 2:
          kind = "limiting valve", more += R"(,"flow at most":"12 L/s")";
          if (!turned) most = 0.012;
          break;
        case 3: kind = "reducing valve", more += R"(,"set point":"90 bar")", bars = bars || turned; break;
        default:
          kind = "strainer", more = fmt::format(R"("rated flow":"5 L/s","clean drop":"{:.17g} bar")", k / 20);
          r = k / 20 * 1e5 / gamma_Nm3 / (0.005 * 0.005);
      }
      resistance += r;
      elements += "," + device(kind, "X" + std::to_string(i), turned ? to : from, turned ? from : to, more);
    }
    const std::string last = "N" + std::to_string(count);
    const Network n = model(places, elements + "," + held(last, low), plainJob);
    const Solution s = solve(n, &shippedStock());
    if (!bars && resistance == 0 && most > 1) {
      EXPECT_EQ(s.summary.verdict, Verdict::cannotYet) << seed << s.summary.full();
      ++refused;
      continue;
    }
    ASSERT_EQ(s.summary.verdict, Verdict::balanced) << seed << s.summary.full();
    const double expected =
        bars ? 0.0 : std::min(std::sqrt((high - low) / std::max(resistance, 1e-30)), most);
    EXPECT_NEAR(s.summary.inflow_m3s, expected, 1e-8 * (1 + expected)) << seed;
    (bars ? blocked : flowing) += 1;
  }
  EXPECT_GT(refused, 15);
  EXPECT_GT(blocked, 15);
  EXPECT_GT(flowing, 100);
}

// A point of a system curve, and the same network with the pump taken out: what it carries is drawn before it
// and fed in behind it.
TEST(ByChance, systemCurvesUnderEachLawAreThoseOfTheNetworkWithoutThePump) {
  int compared = 0;
  for (std::uint64_t seed = 0; seed < 24; ++seed) {
    Chance chance{seed * 29 + 17};
    const std::pair<const char*, const char*> laws[] = {{"Darcy-Weisbach", R"("roughness":"0.1 mm")"},
                                                        {"Hazen-Williams", R"("C":"120")"},
                                                        {"Manning", R"("n":"0.012")"}};
    const auto& [law, wall] = laws[seed % 3];
    const auto line = [&](const std::string& name, const std::string& from, const std::string& to) {
      return device("pipe", name, from, to,
                    fmt::format(R"("length":"{} m","bore":"{} mm",{})", chance.between(20, 300),
                                chance.between(90, 200), wall));
    };
    const double drawn = chance.between(0, 8);
    const auto places = [&](double q) {
      return point("T", 0) + "," + point("I", 1, q > 0 ? outflowOf(q) : "") + "," +
             point("O", 1, q > 0 ? inflowOf(q) : "") + "," +
             point("M", 4, fmt::format(R"("outflow":"{} L/s")", drawn)) + "," + point("U", 9);
    };
    const std::string rest = held("T", chance.between(2, 6)) + "," + line("L1", "T", "I") + "," +
                             line("L2", "O", "M") + "," + line("L3", "M", "U") + "," + line("L4", "O", "U") +
                             "," + held("U", chance.between(10, 40));
    const std::string job = plainJob + R"(,"friction law":")" + law + "\"";
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

TEST(ByChance, theYearOfASizingIsThatOfTheTableOfCases) {
  for (std::uint64_t seed = 0; seed < 8; ++seed) {
    Chance chance{seed * 31 + 19};
    std::string cases = R"({"drawing":true,"name":"C0"})";
    for (int k = 1; k < 2 + chance.below(3); ++k)
      cases += fmt::format(
          R"(,{{"name":"C{}","hours in a year":"{} h","counts for sizing":{},"differs":[{{"element":"D","outflow":"{} L/s"}}]}})",
          k, chance.below(3000), chance.oneIn(2) ? "true" : "false", chance.between(3, 14));
    const std::string file = fileOf(
        point("A", 0) + "," + point("B", 0) + "," + point("D", 20, R"("outflow":"10 L/s")"),
        tankAt("T", "A", "2 m", "0 m") + "," +
            device(
                "pump", "PU", "A", "B",
                R"("units":"2","curve":[{"flow":"0 L/s","head":"60 m","efficiency":"0 %"},{"flow":"5 L/s","head":"50 m","efficiency":"70 %"},{"flow":"10 L/s","head":"30 m","efficiency":"60 %"}])") +
            R"(,{"kind":"pipe","name":"L","from":"B","to":"D","length":"300 m","size":"ASME B36.10M 4 40","roughness":"0.05 mm"})",
        R"("costs":{"tariff":"0.2","hours in a year":"2000 h","years":"1"},"cases":[)" + cases + "],");
    const double year = ran({"cases", file, "--json"}).json()["year"]["energy_at_the_wire_j"].get<double>();
    const auto sized = ran({"size", file, "--trials", "2", "--json"}).json();
    EXPECT_NEAR(sized["now"]["energy_a_year_j"].get<double>() / year, 1, 1e-9) << seed;
  }
}

TEST(ByChance, theItemThatStandsThereRunsAsItRuns) {
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

// A way between two held heads along which nothing resists is refused with its elements named, by every
// device, in cases and beside found fields; whatever bounds the flow is an answer.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "plain_models.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

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

// Devices one behind the other between two held heads, K often 0, one-way ones either way round: blocked, or
// without anything that resists, or Q = √(ΔH/ΣR) and no more than the limiter lets pass.
TEST(LosslessWay, chainsBetweenTwoHeldHeadsByTheirFormula) {
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

}  // namespace
}  // namespace conduit::test

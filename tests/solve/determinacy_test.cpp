// What is said before solving: each fault names its place, and the remedy it offers fixes it.
#include <gtest/gtest.h>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "network/edits.h"
#include "solve/solve.h"

namespace conduit {
namespace {

Network model(const std::string& points, const std::string& elements) {
  const std::string text =
      R"({"format":"level-conduit","version":1,"points":[)" + points + R"(],"elements":[)" + elements + "]}";
  auto n = readDrawn(text, &shippedStock());
  EXPECT_TRUE(n) << (n ? "" : n.error().front().what);
  return *n;
}
const std::string three =
    R"({"name":"A","height":"0 m"},{"name":"B","height":"0 m"},{"name":"C","height":"0 m","outflow":"5 L/s"})";
const std::string ab =
    R"({"kind":"pipe","name":"L-1","from":"A","to":"B","length":"50 m","bore":"100 mm","roughness":"0.1 mm"})";
const std::string bc =
    R"({"kind":"pipe","name":"L-2","from":"B","to":"C","length":"50 m","bore":"100 mm","roughness":"0.1 mm"})";
const std::string held = R"({"kind":"fixed pressure","name":"F-1","point":"A","pressure":"4 bar"})";

struct Fault {
  const char* name;
  std::string points, elements;
  const char* says;
  bool mends;  // the first remedy with an edit balances it
};
class Faults : public testing::TestWithParam<Fault> {};

TEST_P(Faults, areNamedAndMended) {
  const Network n = model(GetParam().points, GetParam().elements);
  const Solution s = solve(n, &shippedStock());
  ASSERT_EQ(s.summary.verdict, Verdict::cannotYet);
  ASSERT_FALSE(s.summary.problems.empty());
  const Problem& p = s.summary.problems.front();
  EXPECT_NE(p.what.find(GetParam().says), std::string::npos) << p.what;
  EXPECT_NE(s.summary.brief(UnitSet::siWater()).find("Cannot be solved yet"), std::string::npos);
  if (!GetParam().mends) return;
  for (const Remedy& r : p.remedies) {
    if (r.edits.empty()) continue;
    const auto edited = applyRemedy(n, r, &shippedStock(), &UnitSet::siWater());
    ASSERT_TRUE(edited) << r.words;
    EXPECT_TRUE(solve(edited->network, &shippedStock()).summary.usable()) << r.words;
    return;
  }
  FAIL() << "no remedy is an edit";
}

INSTANTIATE_TEST_SUITE_P(
    Words, Faults,
    testing::Values(
        Fault{"nothing_holds", three, ab + "," + bc, "no level or pressure is fixed there", true},
        Fault{"lacks_bore", three,
              held + "," + ab +
                  R"(,{"kind":"pipe","name":"L-2","from":"B","to":"C","length":"50 m","roughness":"0.1 mm"})",
              "L-2 needs a bore", false},
        Fault{
            "cut_off", three,
            held + "," + ab +
                R"(,{"kind":"isolating valve","name":"V-1","from":"B","to":"C","bore":"100 mm","open":false})",
            "C is cut off", true},
        Fault{
            "pump_off", three,
            held + "," + ab +
                R"(,{"kind":"pump","name":"P-1","from":"B","to":"C","running":false,"curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"9 L/s","head":"20 m"}]})",
            "P-1 is shut", true},
        Fault{"wrong_way", three,
              held + "," + ab + R"(,{"kind":"check valve","name":"V-1","from":"C","to":"B","bore":"100 mm"})",
              "V-1 passes flow only in the other direction", false},
        Fault{"held_twice", three,
              held + R"(,{"kind":"fixed pressure","name":"F-2","point":"A","pressure":"3 bar"},)" + ab + "," +
                  bc,
              "both fix the pressure of A", false},
        Fault{
            "given_flow_beyond", three,
            held + "," + ab +
                R"(,{"kind":"pump","name":"P-1","from":"B","to":"C","duty flow":"5 L/s","found":["curve"]})",
            "no pressure reference", true},
        Fault{
            "level_against_level", three,
            held +
                R"(,{"kind":"fixed pressure","name":"F-2","point":"B","pressure":"3 bar"},{"kind":"isolating valve","name":"V-1","from":"A","to":"B","K":"0"},)" +
                bc,
            "with no head loss between them", false}),
    [](const auto& one) { return one.param.name; });

TEST(Determinacy, aPocketBetweenClosedValvesIsNoFault) {
  const Network n = model(
      three + R"(,{"name":"D","height":"0 m"},{"name":"E","height":"0 m"})",
      held + "," + ab + "," + bc +
          R"(,{"kind":"isolating valve","name":"V-1","from":"B","to":"D","bore":"50 mm","open":false},)" +
          R"({"kind":"pipe","name":"L-3","from":"D","to":"E","length":"5 m","bore":"50 mm","roughness":"0.1 mm"})");
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  EXPECT_FALSE(s.head(n.byName("D")));
  EXPECT_FALSE(s.head(n.byName("E")));
  EXPECT_TRUE(s.head(n.byName("B")));
  EXPECT_EQ(s.summary.undetermined, 2u);
}

TEST(Determinacy, foundLevelAndFoundPressureMeetHandCalculation) {
  // 5 L/s given from a tank through 50 m of 100 mm to C held at 2 bar: the level is C's head plus both
  // losses.
  const Network n = model(
      R"({"name":"A","height":"0 m"},{"name":"C","height":"0 m"})",
      R"({"kind":"tank","name":"T-1","level":"9 m","flow out":"5 L/s","found":["level"],"connections":[{"point":"A","height":"-50 m","entrance K":"0.5"}]},)"
      R"({"kind":"pipe","name":"L-1","from":"A","to":"C","length":"50 m","bore":"100 mm","roughness":"0 mm"},)"
      R"({"kind":"fixed pressure","name":"F-1","point":"C","pressure":"20 m"})");
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  const double v = 0.005 / (M_PI / 4 * 0.01), re = v * 0.1 / s.setting.viscosity_m2s;
  double f = 0.02;  // smooth Colebrook by repeated substitution
  for (int i = 0; i < 200; ++i) f = 1 / std::pow(2 * std::log10(2.51 / (re * std::sqrt(f))), 2);
  const double want = 20 + (f * 500 + 0.5) * v * v / (2 * 9.80665);
  const ReadingOf reading(n, s, n.byName("T-1"));
  EXPECT_NEAR(*reading->vesselHeads[0], want, 1e-6);

  // The same flow fed in where its pressure is to be found: no entrance to lose at.
  const Network fed = model(
      R"({"name":"A","height":"3 m"},{"name":"C","height":"0 m"})",
      R"({"kind":"fixed pressure","name":"F-2","point":"A","pressure":"9 bar","flow in":"5 L/s","found":["pressure"]},)"
      R"({"kind":"pipe","name":"L-1","from":"A","to":"C","length":"50 m","bore":"100 mm","roughness":"0 mm"},)"
      R"({"kind":"fixed pressure","name":"F-1","point":"C","pressure":"20 m"})");
  const Solution found = solve(fed, &shippedStock());
  ASSERT_TRUE(found.summary.usable()) << found.summary.full();
  const ReadingOf supply(fed, found, fed.byName("F-2"));
  for (const Outcome& o : fed.at(fed.byName("F-2")).part->outcomes) {
    if (o.key == "pressure")
      EXPECT_NEAR(*o.of(*supply),
                  (20 + f * 500 * v * v / (2 * 9.80665) - 3) * (found.setting.medium.density_kgm3 * 9.80665),
                  0.01);
    if (o.key == "flow in") EXPECT_DOUBLE_EQ(*o.of(*supply), 0.005);
  }
}

}  // namespace
}  // namespace conduit

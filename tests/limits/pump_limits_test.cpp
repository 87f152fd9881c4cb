// What pumps are held to, each limit just kept and just not: the flow is drawn off as given, so that shares
// of best flow and NPSH required can be told by hand.
#include "limits/limits.h"
#include "parts/pump/machine.h"
#include "plain_models.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

// Best at 20 L/s (60, 70, 60 % at 10, 20, 30 L/s); NPSH required 3, 4 and 6 m there.
const std::string curve =
    R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"10 L/s","head":"38 m","efficiency":"60 %","NPSH required":"3 m"},{"flow":"20 L/s","head":"32 m","efficiency":"70 %","NPSH required":"4 m"},{"flow":"30 L/s","head":"22 m","efficiency":"60 %","NPSH required":"6 m"},{"flow":"40 L/s","head":"8 m","efficiency":"40 %","NPSH required":"9 m"}])";

struct Held {
  const char* about;
  double flow_Ls;
  std::string pump, job;
  CheckId check;
  std::optional<Severity> broken;  // empty: kept
};

Model modelOf(double flow_Ls, const std::string& pump, const std::string& job) {
  return plainModel(
      point("S", 0) + "," + point("D", 0) + "," + point("A", 0, flowField("outflow", flow_Ls / 1000)),
      tankAt("T", "S", "0 m", "0 m") + "," +
          device("pump", "P", "S", "D", curve + (pump.empty() ? "" : "," + pump)) + "," + kv60("V", "D", "A"),
      "", R"(,"vapour pressure":"2.3 kPa","pressure at least":"-1 bar")" + job);
}

TEST(PumpLimits, areKeptAndBrokenWhereTheHandSays) {
  const auto broken = Severity::broken, near = Severity::near;
  // NPSH available: (101325 − 2300) Pa / (1000 · 9.80665) = 10.0978 m over the suction, less 0 m of height.
  for (
      const Held& h : {
          Held{"the maker's region, below", 11.9, R"("allowable flow at least":"60 %")", "",
               CheckId::allowedRegion, broken},
          {"kept", 12.1, R"("allowable flow at least":"60 %")", "", CheckId::allowedRegion, {}},
          {"above", 26.1, R"("allowable flow at most":"130 %")", "", CheckId::allowedRegion, broken},
          {"kept", 25.9, R"("allowable flow at most":"130 %")", "", CheckId::allowedRegion, {}},
          {"the standard's preferred region is no limit", 13.9, "", "", CheckId::bestFlow, near},
          {"within it", 14.1, "", "", CheckId::bestFlow, {}},
          {"one that the engineer gave is", 15.9, R"("flow of best at least":"80 %")", "", CheckId::bestFlow,
           broken},
          {"on the side that he gave", 24.1, R"("flow of best at least":"80 %")", "", CheckId::bestFlow,
           near},
          {"NPSH ratio 10.0978 / 4 = 2.5244", 20, "", R"(,"NPSH ratio at least":"2.53")", CheckId::npshRatio,
           broken},
          {"kept", 20, "", R"(,"NPSH ratio at least":"2.52")", CheckId::npshRatio, {}},
          {"of the pump before that of the job", 20, R"("NPSH ratio at least":"2.6")",
           R"(,"NPSH ratio at least":"2")", CheckId::npshRatio, broken},
          {"and the margin besides, 6.0978 m", 20, R"("NPSH margin at least":"6.1 m")",
           R"(,"NPSH ratio at least":"2")", CheckId::npshMargin, broken},
          // 1000 · 9.80665 · 0.02 · 32/0.7 = 8965.9 W at the duty; at 10 L/s 6210.9, at the end, 40 L/s,
          // 7845.3.
          {"driver margin, 9.8 kW: 1.093", 20, R"("driver":"9.8 kW","driver margin":"110 %")", "",
           CheckId::driverMargin, broken},
          {"9.9 kW: 1.104",
           20,
           R"("driver":"9.9 kW","driver margin":"110 %")",
           "",
           CheckId::driverMargin,
           {}},
          {"by size 125 %: 11.2 kW are 1.2492", 20, R"("driver":"11.2 kW","driver margin by size":true)", "",
           CheckId::driverMargin, broken},
          {"11.25 kW: 1.2548",
           20,
           R"("driver":"11.25 kW","driver margin by size":true)",
           "",
           CheckId::driverMargin,
           {}},
          {"run-out", 10, R"("driver":"7.8 kW")", "", CheckId::runOutPower, near},
          {"kept", 10, R"("driver":"7.9 kW")", "", CheckId::runOutPower, {}},
          {"trimmed to 74.5 %", 5, R"("rated impeller":"200 mm","impeller":"149 mm")", "", CheckId::trim,
           near},
          {"a curve is given for that impeller",
           5,
           R"("rated impeller":"200 mm","impeller":"149 mm","other curves":[{"impeller":"140 mm","flow":"0 L/s","head":"20 m"},{"impeller":"140 mm","flow":"20 L/s","head":"14 m"},{"impeller":"140 mm","flow":"28 L/s","head":"8 m"}])",
           "",
           CheckId::trim,
           {}},
          {"75.5 %", 5, R"("rated impeller":"200 mm","impeller":"151 mm")", "", CheckId::trim, {}},
          {"of IE1 with eight poles nothing is known", 20,
           R"("driver":"11 kW","motor class":"IE1","rated speed":"725 rpm")", "", CheckId::motorClass,
           Severity::note},
          {"of IE3 it is",
           20,
           R"("driver":"11 kW","motor class":"IE3","rated speed":"725 rpm")",
           "",
           CheckId::motorClass,
           {}},
          {"over its rated speed", 20, R"("rated speed":"2900 rpm","speed":"2930 rpm")", "",
           CheckId::ratedSpeed, near},
          {"at it", 20, R"("rated speed":"2900 rpm","speed":"2900 rpm")", "", CheckId::ratedSpeed, {}},
          {"where a greatest speed is given that counts",
           20,
           R"("rated speed":"2900 rpm","speed":"2930 rpm","speed at most":"3000 rpm")",
           "",
           CheckId::ratedSpeed,
           {}},
      }) {
    const Model m = modelOf(h.flow_Ls, h.pump, h.job);
    const Solution answer = solve(m.drawn, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << h.about << ": " << answer.summary.full();
    std::optional<Severity> is;
    for (const Check& c : checksOf(m.drawn, answer, m.drawn.byName("P"), UnitSet::siWater()))
      if (c.id == h.check && c.broken()) is = c.severity;
    EXPECT_EQ(is, h.broken) << h.about << " at " << h.flow_Ls << " L/s";
  }
}

// Level below its first row: 3 m from there to no flow; at 80 % of the speed 3 m · 0.64.
TEST(PumpLimits, npshRequiredIsLevelBelowItsFirstRow) {
  for (const auto& [flow, speed, npsh] :
       {std::tuple(10.0, 2900, 3.0), {5.0, 2900, 3.0}, {1.0, 2900, 3.0}, {4.0, 2320, 3 * 0.64}}) {
    const Model m = modelOf(flow, fmt::format(R"("rated speed":"2900 rpm","speed":"{} rpm")", speed), "");
    const Solution answer = solve(m.drawn, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
    EXPECT_NEAR(*pump::npshRequired(*ReadingOf(m.drawn, answer, m.drawn.byName("P"))), npsh, 1e-9) << flow;
  }
}

// Without a vapour pressure there is no NPSH available, no margin and no ratio.
TEST(PumpLimits, npshOfALiquidOfWhichNoVapourPressureIsKnownIsNotTold) {
  const Model m =
      plainModel(point("S", 0) + "," + point("D", 0) + "," + point("A", 0, R"("outflow":"20 L/s")"),
                 tankAt("T", "S", "0 m", "0 m") + "," + device("pump", "P", "S", "D", curve) + "," +
                     kv60("V", "D", "A"));
  const Solution answer = solve(m.drawn, catalogue().get());
  ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
  const ReadingOf r(m.drawn, answer, m.drawn.byName("P"));
  EXPECT_FALSE(pump::npshAvailable(*r) || pump::npshMargin(*r) || pump::npshRatio(*r));
  EXPECT_NEAR(*pump::npshRequired(*r), 4, 1e-9);
}

}  // namespace
}  // namespace conduit::test

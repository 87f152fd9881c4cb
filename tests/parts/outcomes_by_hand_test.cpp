// Every result of every kind against a hand calculation. A row of plain formulas for each kind; a result that
// has no row fails the suite, so that a new one comes with its hand value.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <map>
#include <set>

#include "model_text.h"
#include "parts/registry.h"

namespace conduit::test {
namespace {

// A liquid with round figures, so that no table of properties stands between the hand and the number.
constexpr double rho = 950, nu = 2e-6, pv = 20000, pc = 180e5, g = 9.80665, gamma = rho * g;
const char* const liquid =
    R"("liquid":"own liquid","density":"950 kg/m3","viscosity":"2 mm2/s","vapour pressure":"0.2 bara","critical pressure":"180 bara","friction law":"Hazen-Williams")";

// Fixed pressure A (0 m, 5 bar) - L-1 - B (3 m) - device X - C (3 m) - L-2 - D (8 m), which draws 12 L/s.
constexpr double q = 0.012, pA = 5e5, zB = 3, zD = 8, bore = 0.1;
const double area = M_PI / 4 * bore * bore, v = q / area, velocityHead = v * v / (2 * g),
             dynamic = rho * v * v / 2;
double hazenWilliams(double length) {  // Williams and Hazen 1905 in SI
  return 10.67 * length * std::pow(q / 130, 1.852) / std::pow(bore, 4.8704);
}
const double headB = pA / gamma - hazenWilliams(100) - 3 * velocityHead, pB = gamma * (headB - zB);
double onBore(double k, double d) {
  const double there = q / (M_PI / 4 * d * d);
  return k * there * there / (2 * g);
}
// The air 3 m over the lowest point, which stands at sea level (ISO 2533).
const double air = 101325 * std::pow(1 - 0.0065 * zB / 288.15, g * 0.0289644 / (8.31432 * 0.0065));
double fromBar(double bar) { return bar * 1e5 / gamma; }

Network inARow(const std::string& deviceText, const std::string& atTheEnd = R"("outflow":"12 L/s")",
               const std::string& more = "") {
  const auto line = [](const char* name, const char* from, const char* to, const char* k) {
    return std::string(R"({"kind":"pipe","name":")") + name + R"(","from":")" + from + R"(","to":")" + to +
           R"(","length":"100 m","bore":"100 mm","C":"130","K":")" + k + "\"}";
  };
  return model(point("A", 0) + "," + point("B", zB) + "," + point("C", zB) + "," + point("D", zD, atTheEnd),
               R"({"kind":"fixed pressure","name":"F","point":"A","pressure":"5 bar"},)" +
                   line("L-1", "A", "B", "3") + "," + deviceText + "," + line("L-2", "C", "D", "0") + more,
               liquid);
}
std::string inLine(const char* kind, const std::string& fields) {
  return device(kind, "X", "B", "C", fields);
}

using Expected = std::map<std::string, double>;
// What every two-ended device says of its flow, its loss and the pressures at its ends.
Expected twoEnds(double loss_m, Expected own = {}) {
  own.insert({{"flow", q},
              {"head loss", loss_m},
              {"pressure loss", gamma * loss_m},
              {"pressure before", pB},
              {"pressure after", pB - gamma * loss_m},
              {"gauge reading before", pB - dynamic},
              {"gauge reading after", pB - gamma * loss_m - dynamic}});
  return own;
}

// ISO 5167-2:2003, corner tappings, written again from the standard's equation (4); D over 71.12 mm.
double dischargeCoefficient(double beta, double re) {
  const double a = std::pow(19000 * beta / re, 0.8);
  return 0.5961 + 0.0261 * std::pow(beta, 2) - 0.216 * std::pow(beta, 8) +
         0.000521 * std::pow(1e6 * beta / re, 0.7) +
         (0.0188 + 0.0063 * a) * std::pow(beta, 3.5) * std::pow(1e6 / re, 0.3);
}

struct Row {
  const char *kind, *description, *element;
  std::function<Network()> network;
  std::function<Expected()> byHand;
};

Expected orificeByHand() {
  const double beta = 0.6, re = v * bore / nu, c = dischargeCoefficient(beta, re), b4 = std::pow(beta, 4),
               root = std::sqrt(1 - b4 * (1 - c * c)), throat = M_PI / 4 * 0.06 * 0.06,
               difference = (1 - b4) * rho / 2 * std::pow(q / (c * throat), 2),  // its equation (1), ε = 1
      k = std::pow(root / (c * beta * beta) - 1, 2);                             // its equation (8)
  return twoEnds(
      k * velocityHead,
      {{"metered difference", difference},
       {"discharge coefficient", c},
       {"K", k},
       {"bore ratio", beta},
       {"Reynolds number", re},
       {"cavitation index", (pB - dynamic + air - pv) / (gamma * k * velocityHead)},
       {"pressure ratio", (pB - dynamic + air) / (pB - dynamic + air - gamma * k * velocityHead)}});
}
// 12 L/s is the best of three rows that lie evenly about it: every reading is that row.
const char* const pumpFields =
    R"("curve":[{"flow":"6 L/s","head":"36 m","efficiency":"62 %","NPSH required":"1.4 m"},{"flow":"12 L/s","head":"30 m","efficiency":"72 %","NPSH required":"2.1 m"},{"flow":"18 L/s","head":"20 m","efficiency":"62 %","NPSH required":"3.5 m"}],
"rated speed":"1450 rpm","driver":"11 kW","motor efficiency":"90 %","drive efficiency":"96 %","viscous correction":"no")";
Expected pumpByHand() {
  const double shaft = gamma * q * 30 / 0.72, available = headB - zB + (air - pv) / gamma,
               load = shaft / 11000,  // 0.4 of the losses constant, 0.6 with the square of the load
      motor = load / (load + (1 / 0.90 - 1) * (0.4 + 0.6 * load * load));
  return {
      {"flow", q},
      {"head", 30},
      {"efficiency", 0.72},
      {"shaft power", shaft},
      {"efficiency of its motor", motor},
      {"motor power", shaft / motor},  // at the motor's terminals; the drive before it is the year's affair
      {"NPSH available", available},
      {"NPSH required", 2.1},
      {"NPSH margin", available - 2.1},
      {"NPSH ratio", available / 2.1},
      {"share of best flow", 1},
      {"running speed", 1450 / 60.0},
      {"suction pressure", pB},
      {"discharge pressure", pB + gamma * 30},
      {"gauge reading before", pB - dynamic},
      {"gauge reading after", pB + gamma * 30 - dynamic}};
}
// A thick oil in a pump: B of ANSI/HI 9.6.7 from the curve at its best flow, mm²/s, m, m³/h, 1/min.
Network pumpInOil() {
  std::string job = liquid, fields = pumpFields;
  job.replace(job.find("\"2 mm2/s\""), 9, "\"120 mm2/s\"");
  fields.replace(fields.find("\"viscous correction\":\"no\""), 25, "\"viscous correction\":\"yes\"");
  return model(point("A", 0) + "," + point("B", 0, R"("outflow":"9 L/s")"),
               R"({"kind":"fixed pressure","name":"F","point":"A","pressure":"5 bar"},)" +
                   device("pump", "X", "A", "B", fields),
               job);
}

const std::vector<Row>& rows() {
  static const std::vector<Row> all{
      {"point", "between two lines", "B", [] { return inARow(inLine("check valve", R"("K":"2")")); },
       [] {
         return Expected{{"pressure", pB}, {"head", headB}, {"absolute pressure", pB + air}};
       }},
      {"fixed pressure", "that feeds all", "F", [] { return inARow(inLine("check valve", R"("K":"2")")); },
       [] {
         return Expected{{"flow in", q}, {"pressure", pA}};
       }},
      {"pipe", "with fittings", "L-1", [] { return inARow(inLine("check valve", R"("K":"2")")); },
       [] {
         const double loss = hazenWilliams(100) + 3 * velocityHead;
         return Expected{{"flow", q},
                         {"velocity", v},
                         {"head loss", loss},
                         {"pressure loss", gamma * loss},
                         {"loss per metre", loss / 100},
                         {"Reynolds number", v * bore / nu},
                         {"sum of K", 3},
                         {"greatest pressure", pA - dynamic},
                         {"gauge reading at start", pA - dynamic},
                         {"gauge reading at end", pB - dynamic}};
       }},
      {"tank", "that feeds and falls", "T",
       [] {
         return model(
             point("A", 1) + "," + point("B", 2, R"("outflow":"12 L/s")"),
             R"({"kind":"tank","name":"T","level":"20 m","bottom":"16 m","surface pressure":"0.4 bar","area":"30 m2","connections":[{"point":"A"}]},)"
             R"({"kind":"pipe","name":"L","from":"A","to":"B","length":"10 m","bore":"100 mm","C":"130"})",
             liquid);
       },
       [] {
         return Expected{{"flow out", q},
                         {"level", 20},
                         {"head", 20 + 0.4e5 / gamma},
                         {"level rises by", -q / 30},
                         {"time until empty", 4 * 30 / q}};
       }},
      {"tank", "that fills", "T",
       [] {
         return model(
             point("A", 1) + "," + point("B", 2, R"("inflow":"12 L/s")"),
             R"({"kind":"tank","name":"T","level":"20 m","top":"21.5 m","area":"30 m2","connections":[{"point":"A"}]},)"
             R"({"kind":"pipe","name":"L","from":"A","to":"B","length":"10 m","bore":"100 mm","C":"130"})",
             liquid);
       },
       [] {
         return Expected{{"flow out", -q}, {"level rises by", q / 30}, {"time until full", 1.5 * 30 / q}};
       }},
      {"nozzle", "at a held pressure", "X",
       [] {
         return model(point("A", 0),
                      R"({"kind":"fixed pressure","name":"F","point":"A","pressure":"5 bar"},)"
                      R"({"kind":"nozzle","name":"X","point":"A","K-factor":"80 L/min/bar^0.5"})",
                      liquid);
       },
       [] {
         return Expected{{"flow", 80 * std::sqrt(5) / 60000}, {"pressure", pA}};
       }},
      {"pump", "at the best of its rows", "X", [] { return inARow(inLine("pump", pumpFields)); }, pumpByHand},
      {"pump", "in oil", "X", pumpInOil,
       [] {
         return Expected{{"viscous parameter B", 16.5 * std::sqrt(120) * std::pow(30, 0.0625) /
                                                     (std::pow(43.2, 0.375) * std::pow(1450, 0.25))}};
       }},
      {"isolating valve", "narrower than its line", "X",
       [] { return inARow(inLine("isolating valve", R"("K":"0.3","bore":"80 mm")")); },
       [] { return twoEnds(onBore(0.3, 0.08)); }},
      {"isolating valve", "without a loss", "X",
       [] { return inARow(inLine("isolating valve", R"("K":"0")")); }, [] { return twoEnds(0); }},
      {"check valve", "by the bore of its line", "X",
       [] { return inARow(inLine("check valve", R"("K":"2")")); }, [] { return twoEnds(2 * velocityHead); }},
      {"control valve", "linear at 70 %", "X",
       [] { return inARow(inLine("control valve", R"("Kv":"60 Kv","opening":"70 %","FL":"0.9")")); },
       [] {
         // IEC 60534-2-1 on the pressure at the wall before the valve. At the flow that chokes the velocity
         // there is greater: Q² = k (p − ρ Q²/2A² − F_F p_v) with k = (F_L Kv/3600)² · 1000/(ρ · 1 bar).
         const double drop = std::pow(q * 3600 / 42, 2) * rho / 1000 * 1e5,
                      ff = 0.96 - 0.28 * std::sqrt(pv / pc),
                      k = std::pow(0.9 * 42 / 3600, 2) * 1000 / (rho * 1e5);
         return twoEnds(drop / gamma, {{"Kv at this opening", 42},
                                       {"cavitation index", (pB - dynamic + air - pv) / drop},
                                       {"pressure ratio", (pB - dynamic + air) / (pB - dynamic + air - drop)},
                                       {"drop at choking",
                                        0.81 * (pB + air - ff * pv) / (1 + k * rho / (2 * area * area))}});
       }},
      {"control valve", "equal percentage, in US units", "X",
       [] {
         return inARow(inLine(
             "control valve",
             R"("Kv":"80 Cv","opening":"75 %","characteristic":"equal percentage","rangeability":"40")"));
       },
       [] {
         const double kv = 0.865 * 80 * std::pow(40, -0.25);
         return twoEnds(std::pow(q * 3600 / kv, 2) / 1000 * 1e5 / g, {{"Kv at this opening", kv}});
       }},
      {"reducing valve", "holding its outlet", "X",
       [] { return inARow(inLine("reducing valve", R"("set point":"2.4 bar")")); },
       [] {
         const double before = pB - dynamic + air, drop = pB - 2.4e5;
         return twoEnds(drop / gamma, {{"cavitation index", (before - pv) / drop},
                                       {"pressure ratio", before / (before - drop)}});
       }},
      {"reducing valve", "wide open", "X",
       [] { return inARow(inLine("reducing valve", R"("set point":"9 bar","K":"5")")); },
       [] { return twoEnds(5 * velocityHead); }},
      {"sustaining valve", "wide open", "X",
       [] { return inARow(inLine("sustaining valve", R"("set point":"1 bar","K":"5","bore":"90 mm")")); },
       [] { return twoEnds(onBore(5, 0.09)); }},
      {"limiting valve", "wide open", "X",
       [] { return inARow(inLine("limiting valve", R"("flow at most":"15 L/s","K":"3")")); },
       [] { return twoEnds(3 * velocityHead); }},
      {"limiting valve", "limiting to 12 L/s", "X",
       [] {
         return inARow(inLine("limiting valve", R"("flow at most":"12 L/s","K":"3")"), "",
                       R"(,{"kind":"fixed pressure","name":"E","point":"D","pressure":"1 bar"})");
       },
       [] { return twoEnds(headB - (zD + 1e5 / gamma + hazenWilliams(100))); }},
      {"differential valve", "holding the drop across itself", "X",
       [] {
         return inARow(
             inLine("differential valve", R"("difference":"0.35 bar","keeps":"across itself","K":"1")"));
       },
       [] { return twoEnds(fromBar(0.35)); }},
      {"relief valve", "fully lifted", "X",
       [] { return inARow(inLine("relief valve", R"("set point":"1 bar","Kv":"40 Kv")")); },
       [] { return twoEnds(std::pow(q * 3600 / 40, 2) * 100 / g); }},
      {"strainer", "half fouled", "X",
       [] {
         return inARow(inLine("strainer", R"("rated flow":"20 L/s","clean drop":"0.1 bar","fouling":"2")"));
       },
       [] { return twoEnds(fromBar(0.1 * 2 * 0.36)); }},
      {"meter", "at six tenths of its rated flow", "X",
       [] { return inARow(inLine("meter", R"("rated flow":"20 L/s","rated drop":"0.25 bar")")); },
       [] { return twoEnds(fromBar(0.25 * 0.36)); }},
      {"exchanger", "of long tubes", "X",
       [] {
         return inARow(
             inLine("exchanger",
                    R"("rated flow":"10 L/s","rated drop":"0.4 bar","exponent":"1.8","fouling":"1.5")"));
       },
       [] { return twoEnds(fromBar(0.4 * 1.5 * std::pow(1.2, 1.8))); }},
      {"orifice plate", "with corner tappings", "X",
       [] { return inARow(inLine("orifice plate", R"("bore":"60 mm","tappings":"corner")")); },
       orificeByHand},
      {"own loss", "by K", "X",
       [] { return inARow(inLine("own loss", R"("law":"K","K":"4","bore":"80 mm")")); },
       [] { return twoEnds(onBore(4, 0.08)); }},
      {"own loss", "by a power law", "X",
       [] {
         return inARow(inLine(
             "own loss", R"("law":"power law","rated flow":"8 L/s","rated drop":"2 m","exponent":"1.6")"));
       },
       [] { return twoEnds(2 * std::pow(1.5, 1.6)); }},
      {"own loss", "on a row of its table", "X",
       [] {
         return inARow(inLine(
             "own loss",
             R"("law":"table","table":[{"flow":"6 L/s","drop":"0.1 bar"},{"flow":"12 L/s","drop":"0.5 bar"},{"flow":"24 L/s","drop":"1.6 bar"}])"));
       },
       [] { return twoEnds(fromBar(0.5)); }},
      {"own loss", "by a fixed drop", "X",
       [] { return inARow(inLine("own loss", R"("law":"fixed drop","drop":"0.3 bar")")); },
       [] { return twoEnds(fromBar(0.3)); }},
  };
  return all;
}

class ByHand : public testing::TestWithParam<std::size_t> {};

TEST_P(ByHand, everyResultIsThatOfTheHand) {
  const Row& row = rows()[GetParam()];
  const Network n = row.network();
  const Solution s = answer(n);
  const Id id = n.byName(row.element);
  ASSERT_NE(id, noId);
  ASSERT_EQ(n.at(id).part->key, row.kind);
  const ReadingOf reading(n, s, id);
  for (const auto& [key, expected] : row.byHand()) {
    const Outcome* outcome = findOutcome(*n.at(id).part, key);
    ASSERT_TRUE(outcome) << key;
    const auto got = outcome->of(*reading);
    ASSERT_TRUE(got) << key;
    // Heads are solved to 1e-7 m, which is 1e-3 Pa; relative to what the number is made of.
    EXPECT_NEAR(*got, expected, 1e-8 * std::abs(expected) + (std::abs(expected) > 1e3 ? 5e-3 : 5e-7)) << key;
  }
}
INSTANTIATE_TEST_SUITE_P(Every, ByHand, testing::Range<std::size_t>(0, rows().size()), [](const auto& i) {
  std::string name = std::string(rows()[i.param].kind) + " " + rows()[i.param].description;
  std::erase_if(name, [](char c) { return !std::isalnum(static_cast<unsigned char>(c)); });
  return name;
});

TEST(ByHandTable, leavesOutNoResultOfAnyKind) {
  std::map<std::string, std::set<std::string>> seen;
  for (const Row& row : rows())
    for (const auto& [key, value] : row.byHand()) seen[row.kind].insert(key);
  for (const Part* part : allParts())
    for (const Outcome& outcome : part->outcomes)
      EXPECT_TRUE(seen[std::string(part->key)].contains(std::string(outcome.key)))
          << part->key << ": " << outcome.key << " has no hand value";
}

}  // namespace
}  // namespace conduit::test

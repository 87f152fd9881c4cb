// Tasks in the words of an engineer's day, each built as one would draw it and compared with a calculation
// apart from the program: Colebrook-White by repetition, bisection, continuity. Water by a handbook: at 60 °C
// 983.2 kg/m³, 0.4740 mm²/s, 19 946 Pa; at 80 °C 971.8 kg/m³, 0.3643 mm²/s, 47 414 Pa.
#include <gtest/gtest.h>

#include "network/edits.h"
#include "plain_models.h"
#include "solve/solve.h"

namespace conduit::test {
namespace twelvetasks {

double friction(double re, double relative) {
  double f = 0.02;
  for (int i = 0; i < 100; ++i)
    f = std::pow(-2 * std::log10(relative / 3.7 + 2.51 / (re * std::sqrt(f))), -2);
  return f;
}
// Head lost by q m³/s in a line.
double lost(double q, double length, double d, double roughness, double nu, double k = 0) {
  if (q == 0) return 0;
  const double v = q / (M_PI / 4 * d * d);
  return (friction(v * d / nu, roughness / d) * length / d + k) * v * v / (2 * gravity);
}
template <class F>
double root(F f, double low, double high) {  // f falls
  for (int i = 0; i < 200; ++i) (f((low + high) / 2) > 0 ? low : high) = (low + high) / 2;
  return low;
}
double outcomeOf(const Network& n, const Solution& s, const std::string& name, std::string_view key) {
  const ReadingOf reading(n, s, n.byName(name));
  return conduit::outcomeOf(*n.at(n.byName(name)).part, key, *reading).value_or(NAN);
}

// 1 and 12. A pump 1.8 m above a tank at 1 500 m draws 20 L/s of water through 12 m of 150 mm line.
// ISO 2533 at 1 501.8 m: 101 325 (1 − 0.0065 · 1 501.8/288.15)^5.25588 = 84 538 Pa.
std::string lift(const std::string& celsius) {
  return R"({"format":"level-conduit","version":2,"job":{"temperature":")" + celsius +
         R"( °C","altitude":"1500 m"},"points":[)" + point("A", 1500) + "," + point("B", 1501.8) + "," +
         point("C", 1501.8, R"("outflow":"20 L/s")") +
         R"(],"elements":[{"kind":"tank","name":"T","level":"1500 m","connections":[{"point":"A","height":"1499 m","entrance K":"0.5"}]},)" +
         pipe("S", "A", "B", 12, "150 mm") + "," +
         device(
             "pump", "P", "B", "C",
             R"("curve":[{"flow":"0 L/s","head":"30 m","NPSH required":"2 m"},{"flow":"20 L/s","head":"25 m","NPSH required":"3 m"},{"flow":"40 L/s","head":"10 m","NPSH required":"5 m"}])") +
         "]}";
}
double available(double vapour_pa, double density, double nu) {
  const double air = 101325 * std::pow(1 - 0.0065 * 1501.8 / 288.15, 5.25588);
  return (air - vapour_pa) / (density * gravity) - 1.8 - lost(0.020, 12, 0.15, 0.05e-3, nu, 0.5);
}
TEST(TwelveTasks, oneSuctionLiftAtAltitude) {
  const Network n = readModel(lift("60"), &shippedStock())->drawn;
  const Solution s = answer(n);
  EXPECT_NEAR(outcomeOf(n, s, "P", "NPSH available"), available(19946, 983.2, 0.4740e-6), 0.004);
  EXPECT_NEAR(outcomeOf(n, s, "P", "NPSH margin"), available(19946, 983.2, 0.4740e-6) - 3, 0.004);
}
TEST(TwelveTasks, twelveTheSameWarmer) {
  const Network warm = readModel(lift("80"), &shippedStock())->drawn;
  const double margin = outcomeOf(warm, answer(warm), "P", "NPSH margin");
  EXPECT_NEAR(margin, available(47414, 971.8, 0.3643e-6) - 3, 0.01);
  EXPECT_LT(margin, 0) << "it cavitates";
  EXPECT_EQ(ran({"solve", scratch(lift("80"), "lift80.lconduit")}).status, 1);
}

// 2. Two unlike pumps side by side against 30 m and 40 m. Through three points with b = 2: H = 50 − 0.015 Q²
// and 38 − 0.03 Q², Q in L/s; both through a valve that loses (Q/200)² bar, Q in m³/h.
TEST(TwelveTasks, twoUnlikePumpsAndTheSmallOnePushedOff) {
  for (const double lifted : {30.0, 40.0}) {
    const Model m = plainModel(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
        held("A", 0) + "," +
            device(
                "pump", "Big", "A", "B",
                R"("curve":[{"flow":"0 L/s","head":"50 m"},{"flow":"20 L/s","head":"44 m"},{"flow":"40 L/s","head":"26 m"}])") +
            "," +
            device(
                "pump", "Small", "A", "B",
                R"("curve":[{"flow":"0 L/s","head":"38 m"},{"flow":"10 L/s","head":"35 m"},{"flow":"20 L/s","head":"26 m"}])") +
            "," + device("control valve", "V", "B", "C", R"("Kv":"200 Kv")") + "," + held("C", lifted));
    const Solution s = answer(m.drawn);
    const auto big = [](double h) { return std::sqrt(std::max(0.0, 50 - h) / 0.015) / 1000; };
    const auto small = [](double h) { return std::sqrt(std::max(0.0, 38 - h) / 0.03) / 1000; };
    const double h = root(
        [&](double head) {
          return big(head) + small(head) - 200.0 / 60 * flowBy((head - lifted) * gamma_Nm3);
        },
        lifted, 50);
    EXPECT_NEAR(flow(m.drawn, s, "Big"), big(h), 1e-9);
    EXPECT_NEAR(flow(m.drawn, s, "Small"), small(h), 1e-9);
    EXPECT_EQ(small(h) == 0, lifted == 40.0);
  }
}

// 3. A control valve of Kv 19.48 and F_L 0.85 in water of 90 °C (965.3 kg/m³, 70 182 Pa), 3 bar to nothing:
// chokes at Kv F_L √((p₁ − F_F p_v)/(ρ/ρ₀)), F_F = 0.96 − 0.28 √(p_v/220.64 bar) (IEC 60534-2-1).
TEST(TwelveTasks, threeAValveThatChokes) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0),
            held("A", 0) + "," + device("control valve", "V", "A", "B", R"("Kv":"19.48 Kv","FL":"0.85")") +
                "," + held("B", 0),
            R"("temperature":"90 °C")");
  const auto with = [&](const char* bar) {
    return *setField(n, n.byName("held A"), "pressure", bar, &shippedStock(), nullptr);
  };
  const double pv = 0.70182, ff = 0.96 - 0.28 * std::sqrt(pv / 220.64), density = 965.3;
  const auto most = [&](double p1) {
    return 19.48 * 0.85 * std::sqrt((p1 - ff * pv) / (density / 1000)) / 3600;
  };
  const Network choked = with("3 bar").network;
  EXPECT_NEAR(flow(choked, answer(choked), "V"), most(3 + 1.01325), 3e-4 * most(4));
  // Choked from F_L² (p₁ − F_F p_v) up: at 1 bar 0.97 bar; at 0.9 bar 0.90, the flow is Kv √(Δp/(ρ/ρ₀)) up to
  // there.
  const Network less = with("0.8 bar").network;
  EXPECT_NEAR(flow(less, answer(less), "V"), 19.48 * std::sqrt(0.8 / (density / 1000)) / 3600, 3e-4 * 0.005);
}

// 7. Three branches of 10, 6 and 3 m³/h on 1 bar, each an exchanger that takes 0.4 bar at its flow and a
// valve: what is left for the valve is 0.6 bar, Kv = Q/√0.6.
TEST(TwelveTasks, sevenThreeBranchesBalanced) {
  std::string points = point("F", 0) + "," + point("R", 0),
              elements = fixedAt("Flow", "F", "1 bar") + "," + fixedAt("Return", "R", "0 bar");
  std::vector<std::string> words{"balance", "", "--write", scratchPath("balanced7.lconduit")};
  const double flows[] = {10, 6, 3};
  for (int i = 0; i < 3; ++i) {
    points += "," + point(fmt::format("M{}", i), 0);
    elements +=
        "," + device("control valve", fmt::format("V{}", i), "F", fmt::format("M{}", i), R"("Kv":"25 Kv")") +
        "," +
        device("exchanger", fmt::format("E{}", i), fmt::format("M{}", i), "R",
               fmt::format(R"("rated flow":"{} m3/h","rated drop":"0.4 bar")", flows[i]));
    words.push_back("--flow"), words.push_back(fmt::format("V{} {} m3/h", i, flows[i]));
  }
  words[1] = scratch(R"({"format":"level-conduit","version":2,"job":{)" + plainJob + R"(},"points":[)" +
                         points + R"(],"elements":[)" + elements + "]}",
                     "branches7.lconduit");
  ASSERT_EQ(ran(words).status, 0) << ran(words).err << ran(words).out;
  const Network n = loadModel(words[3], &shippedStock())->drawn;
  const Solution s = answer(n);
  for (int i = 0; i < 3; ++i) {
    const std::string valve = fmt::format("V{}", i);
    EXPECT_NEAR(flow(n, s, valve) * 3600, flows[i], 1e-6);
    EXPECT_NEAR(outcomeOf(n, s, valve, "Kv at this opening"), flows[i] / std::sqrt(0.6), 1e-5);
  }
}

// 10. A reducing station: 4.2 bar through 32 mm, 4.0 bar through 80 mm, both K 8, from 7 bar. The small one
// holds 4.2 bar until it is wide open, then the pressure falls until the large one holds 4.0 bar.
TEST(TwelveTasks, tenReducingStationFromNoFlowToFull) {
  const auto wideOpen = [](double bar) {
    return M_PI / 4 * 0.032 * 0.032 * std::sqrt(bar * 1e5 / (8 * 500));
  };
  const double first = wideOpen(2.8), second = wideOpen(3.0);
  for (const double q : {0.0, 2.0e-3, 6.0e-3, 6.8e-3, 10e-3, 20e-3}) {
    const Model m = plainModel(
        point("A", 0) + "," + point("B", 0, fmt::format(R"("outflow":"{} L/s")", q * 1000)),
        fixedAt("Main", "A", "7 bar") + "," +
            device("reducing valve", "Small", "A", "B", R"("set point":"4.2 bar","K":"8","bore":"32 mm")") +
            "," +
            device("reducing valve", "Large", "A", "B", R"("set point":"4 bar","K":"8","bore":"80 mm")"));
    const Solution s = answer(m.drawn);
    const double small = q <= second ? q : second,
                 bar = q <= first    ? 4.2
                       : q <= second ? 7 - 8 * 500 * std::pow(q / (M_PI / 4 * 0.032 * 0.032), 2) / 1e5
                                     : 4.0;
    EXPECT_NEAR(flow(m.drawn, s, "Small"), small, 1e-8) << q;
    EXPECT_NEAR(flow(m.drawn, s, "Large"), q - small, 1e-8) << q;
    EXPECT_NEAR(headAt(m.drawn, s, "B") * gamma_Nm3 / 1e5, bar, 1e-6) << q;
    EXPECT_EQ(state(m.drawn, s, "Large") == BranchState::acting, q > second) << q;
  }
}

// 11. Three lines side by side between 20 m and 12 m: which bore must the third have for 60 L/s in all?
TEST(TwelveTasks, elevenTheBoreOfTheThirdLine) {
  const double nu = 1e-6, e = 0.05e-3;
  const auto through = [&](double length, double d) {
    return root([&](double q) { return 8 - lost(q, length, d, e, nu); }, 0, 1);
  };
  const double third = 0.060 - through(300, 0.100) - through(500, 0.125);
  ASSERT_GT(third, 0);
  const double bore = root([&](double d) { return third - through(400, d); }, 0.01, 1);
  const Model m =
      plainModel(point("A", 0) + "," + point("B", 0),
                 held("A", 20) + "," + held("B", 12) + "," + pipe("L-1", "A", "B", 300, "100 mm") + "," +
                     pipe("L-2", "A", "B", 500, "125 mm") + "," +
                     pipe("L-3", "A", "B", 400, "50 mm",
                          fmt::format(R"("found":["bore"],"given":{{"flow":"{:.15g} L/s"}})", third * 1000)));
  const Solution s = answer(m.drawn);
  EXPECT_NEAR(flow(m.drawn, s, "L-1") + flow(m.drawn, s, "L-2") + flow(m.drawn, s, "L-3"), 0.060, 1e-9);
  EXPECT_NEAR(s.foundFor(m.drawn.byName("L-3"), "bore").value_or(NAN), bore, 1e-7);
}

// 4. Two supplies, the second of which is to provide 35 % while every draw-off has 2 bar. 30 L/s at 20 m and
// 50 L/s at 25 m: A gives 52, 22 pass from J1 to J2, B gives 28; J2 governs.
TEST(TwelveTasks, fourASecondSupplyOfAThird) {
  const std::string file =
      fileOf(point("A", 0) + "," + point("B", 0) + "," + point("J1", 20, R"("outflow":"30 L/s")") + "," +
                 point("J2", 25, R"("outflow":"50 L/s")"),
             fixedAt("HA", "A", "8 bar") + "," + fixedAt("HB", "B", "8 bar") + "," +
                 pipe("L-1", "A", "J1", 400, "200 mm") + "," + pipe("L-2", "J1", "J2", 300, "150 mm") + "," +
                 pipe("L-3", "B", "J2", 600, "200 mm"));
  const Ran r = ran({"pumps", file, "--at", "HB", "--share", "35 %", "--other", "HA", "--least-pressure",
                     "2 bar", "--flow", "28 L/s", "--json"});
  ASSERT_EQ(r.status, cli::limitsKept) << r.err;
  const double e = 0.05e-3, nu = 1e-6, at2 = 25 + 2e5 / gamma_Nm3, at1 = at2 + lost(0.022, 300, 0.150, e, nu);
  ASSERT_GT(at1, 20 + 2e5 / gamma_Nm3);
  const auto read = r.json()["read"];
  EXPECT_NEAR(read["level_m"].get<double>(), at2 + lost(0.028, 600, 0.200, e, nu), 1e-6);
  EXPECT_NEAR(read["other_level_m"].get<double>(), at1 + lost(0.052, 400, 0.200, e, nu), 1e-6);
  EXPECT_NEAR(read["other_m3s"].get<double>(), 0.052, 1e-9);
  EXPECT_EQ(read["governed_by"], "J2");
}

// 5 and 6. A rising main of 3.4 km, 60 L/s, 35 m up; 30 years at 6 %, the tariff rising by 2 %; pumps of 72 %
// with as many again standing by.
std::string risingMain() {
  return fileOf(
      point("A", 0) + "," + point("B", 0) + "," + point("C", 35),
      fixedAt("Well", "A", "0 bar") + "," + fixedAt("Top", "C", "0 bar") + "," +
          device("pump", "U", "A", "B", R"("described by":"given flow","duty flow":"60 L/s")") +
          R"(,{"kind":"pipe","name":"Main","from":"B","to":"C","length":"3400 m","size":"ISO 4427 PE100 315 SDR 11","roughness":"0.05 mm"})",
      R"("costs":{"tariff":"0.14","hours in a year":"4500 h","motor efficiency":"93 %","drive efficiency":"100 %","years":"30","interest":"6 %","growth of tariff":"2 %","upkeep":"1 %","pump cost for 1 kW":"1100","standby":"100 %","pump efficiency":"72 %"},)");
}
// What a unit of money a year is worth over the years, growing by that share: the payments one by one.
double worth(double growth) {
  double sum = 0;
  for (int year = 1; year <= 30; ++year) sum += std::pow((1 + growth) / 1.06, year);
  return sum;
}
const double mainFlow = 0.060, perWatt = 4500.0 / 1000 * 0.14 / 0.93;  // money a year for 1 W at the shaft

TEST(TwelveTasks, fiveTheSizesOfARisingMain) {
  const auto sized = ran({"size", risingMain(), "--line", "Main", "--json"}).json();
  int judged = 0;
  double least = 1e300;
  std::string best, marked;
  for (const auto& s : sized["sizes"]) {
    const double d = s["bore_m"], laid = s["laid"],
                 shaft = gamma_Nm3 * mainFlow * (35 + lost(mainFlow, 3400, d, 0.05e-3, 1e-6)) / 0.72,
                 pumps = shaft / 1000 * 2 * 1100, energy = shaft * perWatt * worth(0.02),
                 upkeep = 0.01 * (laid + pumps) * worth(0), whole = laid + pumps + energy + upkeep;
    if (s["cheapest"]) marked = s["size"];
    if (s["velocity_ms"] > 20) continue;
    ++judged;
    EXPECT_NEAR(s["pumps"].get<double>() / pumps, 1, 1e-6) << s;
    EXPECT_NEAR(s["energy"].get<double>() / energy, 1, 1e-6) << s;
    EXPECT_NEAR(s["upkeep"].get<double>() / upkeep, 1, 1e-6) << s;
    EXPECT_NEAR(s["whole_life"].get<double>() / whole, 1, 1e-6) << s;
    if (s["keeps_all_limits"] && whole < least) least = whole, best = s["size"];
  }
  EXPECT_GT(judged, 10);
  EXPECT_EQ(marked, best);
}

// The bore at which pipe and pumping cost least, sought step by step with Colebrook-White at each bore, the
// price of pipe a Dᵐ through the catalogue's sizes (least squares of logarithms): friction that follows the
// bore moves it by a few thousandths against the formula, which holds it.
TEST(TwelveTasks, sixTheEconomicBore) {
  const auto sized = ran({"size", risingMain(), "--line", "Main", "--json"}).json();
  double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (const auto& s : sized["sizes"]) {
    const double x = std::log(s["bore_m"].get<double>()), y = std::log(s["laid"].get<double>() / 3400);
    n += 1, sx += x, sy += y, sxx += x * x, sxy += x * y;
  }
  const double m = (n * sxy - sx * sy) / (n * sxx - sx * sx), a = std::exp((sy - m * sx) / n);
  const auto cheapest = [&](double pumpsPerWatt) {
    const auto whole = [&](double d) {
      const double shaft = gamma_Nm3 * mainFlow * lost(mainFlow, 3400, d, 0.05e-3, 1e-6) / 0.72,
                   pumps = shaft * pumpsPerWatt, laid = 3400 * a * std::pow(d, m);
      return laid + pumps + shaft * perWatt * worth(0.02) + 0.01 * (laid + pumps) * worth(0);
    };
    double bore = 0.05;
    for (double d = 0.05; d < 1; d += 0.0001)
      if (whole(d) < whole(bore)) bore = d;
    return bore;
  };
  EXPECT_NEAR(sized["economic_bore_m"].get<double>() / cheapest(0), 1, 0.01);
  EXPECT_NEAR(sized["economic_bore_with_pumps_m"].get<double>() / cheapest(2 * 1.1), 1, 0.01);
}

// 8 and 9. A pump for 20 L/s at 25 m (70 %), 2 900 1/min, H = 30 − 12 500 Q² with water, in viscous liquids
// (ANSI/HI 9.6.7-2010): B of its best point, C_Q, C_η; the head at C_Q Q is (1 − (1 − C_Q)(Q/Q*)^0.75) H.
struct InLiquid {
  double b, cq, ceta;
  explicit InLiquid(double mm2s)
      : b(16.5 * std::sqrt(mm2s) * std::pow(25, 0.0625) / (std::pow(72, 0.375) * std::pow(2900, 0.25))),
        cq(std::pow(2.71, -0.165 * std::pow(std::log10(b), 3.15))),
        ceta(std::pow(b, -0.0547 * std::pow(b, 0.69))) {}
  [[nodiscard]] double head(double water) const {
    return (30 - 12500 * water * water) * (1 - (1 - cq) * std::pow(water / 0.020, 0.75));
  }
};
const std::string viscousPump =
    R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"20 L/s","head":"25 m","efficiency":"70 %"},{"flow":"40 L/s","head":"10 m","efficiency":"50 %"}],"rated speed":"2900 rpm")";

// 30 % of ethylene glycol at −10 °C by its equations, worked out apart: 7.196597 mPa s; 1 044.4760 kg/m³
// (water as at 0 °C in it). 100 m of 125 mm up by 15 m. The maker's points are corrected, H₀ − a Qᵇ goes
// through them.
TEST(TwelveTasks, eightAPumpForColdBrine) {
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 15),
                          held("A", 0) + "," + device("pump", "P", "A", "B", viscousPump) + "," +
                              pipe("L", "B", "C", 100, "125 mm") + "," + held("C", 0),
                          R"("liquid":"ethylene glycol","share":"30 %","temperature":"-10 °C")");
  const Solution s = answer(n);
  const double nu = 6.8901505e-6;
  const InLiquid brine(nu * 1e6);
  const double b = std::log2((30 - brine.head(0.040)) / (30 - brine.head(0.020))),
               a = (30 - brine.head(0.020)) / std::pow(brine.cq * 0.020, b);
  const double q = root(
      [&](double x) { return 30 - a * std::pow(x, b) - 15 - lost(x, 100, 0.125, 0.05e-3, nu); }, 0, 0.05);
  EXPECT_NEAR(outcomeOf(n, s, "P", "viscous parameter B"), brine.b, 1e-6 * brine.b);
  EXPECT_NEAR(flow(n, s, "P"), q, 1e-7 * q);
}

// At C_Q times its best flow with water: the head C_Q · 25 m, the efficiency C_η · 70 %.
TEST(TwelveTasks, nineOilOfThreeViscosities) {
  for (const double mm2s : {200.0, 30.0, 15.0}) {
    const InLiquid oil(mm2s);
    const double q = oil.cq * 0.020, density = 880;
    const Network n = model(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0, flowField("outflow", q)),
        held("A", 5) + "," + device("pump", "P", "A", "B", viscousPump) + "," +
            pipe("L", "B", "C", 100, "150 mm"),
        fmt::format(R"("liquid":"own liquid","density":"{} kg/m3","viscosity":"{} mm2/s")", density, mm2s));
    const Solution s = answer(n);
    EXPECT_NEAR(outcomeOf(n, s, "P", "viscous parameter B"), oil.b, 1e-9 * oil.b) << mm2s;
    EXPECT_NEAR(headAt(n, s, "B") - 5, oil.cq * 25, 1e-6) << mm2s;
    EXPECT_NEAR(outcomeOf(n, s, "P", "efficiency"), 0.70 * oil.ceta, 1e-6) << mm2s;
    EXPECT_NEAR(outcomeOf(n, s, "P", "shaft power"), density * gravity * q * oil.cq * 25 / (0.70 * oil.ceta),
                0.01)
        << mm2s;
    const double re = q / (M_PI / 4 * 0.15 * 0.15) * 0.15 / (mm2s * 1e-6);
    if (re < 2000)
      EXPECT_NEAR(headAt(n, s, "B") - headAt(n, s, "C"),
                  64 / re * 100 / 0.15 * std::pow(q / (M_PI / 4 * 0.15 * 0.15), 2) / (2 * gravity), 1e-6);
  }
}

}  // namespace twelvetasks
}  // namespace conduit::test

// Pipes of other sections and laws, fittings by two and three coefficients, changes of bore: by hand.
#include <gtest/gtest.h>

#include "friction/section.h"
#include "model_text.h"

namespace conduit {
namespace {

using namespace test;

TEST(Section, laminarFactorsOfShahAndLondon) {
  // f·Re of Darcy: square 56.9184, 2:1 62.2293, 10:1 84.70357, annulus 0.5 95.25016 (Shah and London 1978).
  EXPECT_NEAR(64 / friction::rectangle(0.1, 0.1).phi, 56.9184, 1e-4);
  EXPECT_NEAR(64 / friction::rectangle(0.1, 0.2).phi, 62.2293, 1e-4);
  EXPECT_NEAR(64 / friction::rectangle(1.0, 0.1).phi, 84.70357, 1e-4);
  EXPECT_NEAR(64 / friction::annulus(0.2, 0.1).phi, 95.25016, 1e-4);
  // Jones's factor for turbulent flow is met within 0.3 %: 1.125, 1.010417, 0.75375.
  EXPECT_NEAR(friction::rectangle(0.1, 0.1).phi, 1.125, 0.003);
  EXPECT_NEAR(friction::rectangle(0.1, 0.05).phi, 1.010417, 0.02);
}

TEST(Manning, fullRoundPipe) {
  // h = 10.2936 n² L Q²/D^(16/3): Q 0.05, L 1000, D 0.25, n 0.012: 6.023598 m.
  EXPECT_NEAR(friction::manningResistance(0.012, 1000, friction::roundSection(0.25)) * 0.05 * 0.05, 6.023598,
              1e-5);
  const Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"10 L/s\""),
                          held("A", 20) + "," + pipe("L", "A", "B", 100, "100 mm", R"("n":"0.011")"),
                          R"("friction law":"Manning")");
  const Solution s = answer(n);
  EXPECT_NEAR(headAt(n, s, "A") - headAt(n, s, "B"), 2.683401, 1e-5);
}

double lossOf(const std::string& more, const std::string& job = "") {
  const Network n = model(
      point("A", 0) + "," + point("B", 0, "\"outflow\":\"4 L/s\""),
      held("A", 90) + R"(,{"kind":"pipe","name":"L","from":"A","to":"B","roughness":"0 mm",)" + more + "}",
      job);
  const Solution s = answer(n);
  return headAt(n, s, "A") - headAt(n, s, "B");
}

TEST(Section, aLaminarDuctLosesWhatTheHandSays) {
  // Oil 900 kg/m³, 200 mm²/s in a duct of 100 × 50 mm: A 0.005, D_h 0.0666667, v 0.8, Re 266.667, f
  // = 62.2293/Re = 0.233360.
  const std::string oil = R"("liquid":"own liquid","density":"900 kg/m3","viscosity":"200 mm2/s")";
  const double f = 62.2293 / (0.8 * 0.2 / 3 / 200e-6), v2 = 0.8 * 0.8 / (2 * 9.80665);
  EXPECT_NEAR(
      lossOf(R"("length":"30 m","section":"rectangular","section width":"100 mm","section height":"50 mm")",
             oil),
      f * 30 / (0.2 / 3) * v2, 2e-5);
  // Annulus 100 in 50 mm: A = π/4 (0.01 − 0.0025), D_h 0.05.
  const double a = M_PI / 4 * 0.0075, v = 0.004 / a, fa = 95.25016 / (v * 0.05 / 200e-6);
  EXPECT_NEAR(lossOf(R"("length":"30 m","section":"annular","bore":"100 mm","inner pipe":"50 mm")", oil),
              fa * 30 / 0.05 * v * v / (2 * 9.80665), 1e-4);
}

TEST(TakeOffLosses, twoAndThreeCoefficients) {
  // Water at 10 °C in 102.26 mm; the difference to the same line without fittings is (k1/Re + K) v²/2g.
  const Network plain = model(point("A", 0), held("A", 1));
  const double nu = solve(plain, &shippedStock()).setting.viscosity_m2s, d = 0.10226,
               v = 0.004 / (M_PI / 4 * d * d), re = v * d / nu, head = v * v / (2 * 9.80665);
  const double bare = lossOf(R"("bore":"102.26 mm","take-off":"10")");
  EXPECT_NEAR(lossOf(R"("bore":"102.26 mm","take-off":"10 bend-1d-2k")") - bare,
              (800 / re + 0.25 * (1 + 25.4 / 102.26)) * head, 1e-8);
  EXPECT_NEAR(lossOf(R"("bore":"102.26 mm","take-off":"10 2x globe-3k")") - bare,
              2 * (1500 / re + 1.7 * (1 + 9.50 / std::pow(102.26, 0.3))) * head, 1e-6);
}

// Every K that was counted is told with its method, at the Reynolds number found.
TEST(TakeOffLosses, sayWhichMethodGaveWhichK) {
  const Network n = model(
      point("A", 0) + "," + point("B", 0, "\"outflow\":\"4 L/s\""),
      held("A", 90) +
          R"(,{"kind":"pipe","name":"L","from":"A","to":"B","roughness":"0 mm","bore":"102.26 mm","K":"0.7","take-off":"10 bend-1d-2k 2x globe-3k K 2.5"})");
  const Solution s = answer(n);
  const ReadingOf reading(n, s, n.byName("L"));
  const double d = 0.10226, re = 0.004 / (M_PI / 4 * d * d) * d / s.setting.viscosity_m2s;
  const std::vector<KUsed> used = n.at(n.byName("L")).part->kUsed(*reading);
  const std::tuple<const char*, const char*, double> expected[] = {
      {"K", "given", 0.7},
      {"bend-1d-2k", "Hooper 1981", 800 / re + 0.25 * (1 + 25.4 / 102.26)},
      {"globe-3k", "Darby 1999", 2 * (1500 / re + 1.7 * (1 + 9.50 / std::pow(102.26, 0.3)))},
      {"K", "take-off", 2.5}};
  ASSERT_EQ(used.size(), std::size(expected));
  double sum = 0;
  for (std::size_t i = 0; i < used.size(); ++i) {
    const auto& [what, method, k] = expected[i];
    EXPECT_EQ(used[i].what, what);
    EXPECT_NE(used[i].method.find(method), std::string::npos) << used[i].method;
    EXPECT_NEAR(used[i].k, k, 1e-9 * k);
    sum += k;
  }
  EXPECT_NEAR(*findOutcome(*n.at(n.byName("L")).part, "sum of K")->of(*reading), sum, 1e-9 * sum);
  EXPECT_EQ(used[2].count, 2);
}

TEST(ChangeOfBore, followsTheDirectionOfTheFlow) {
  const auto net = [](const std::string& how, bool turned) {
    return model(point("A", 0, turned ? "\"outflow\":\"6 L/s\"" : "") + "," + point("M", 0, how) + "," +
                     point("B", 0, turned ? "" : "\"outflow\":\"6 L/s\""),
                 held(turned ? "B" : "A", 30) + "," + pipe("L-1", "A", "M", 10, "60 mm") + "," +
                     pipe("L-2", "M", "B", 10, "120 mm"));
  };
  const auto loss = [&](const std::string& how, bool turned) {
    const Network n = net(how, turned);
    const Solution s = answer(n);
    return std::abs(headAt(n, s, "A") - headAt(n, s, "B"));
  };
  const double v = 0.006 / (M_PI / 4 * 0.06 * 0.06), head = v * v / (2 * 9.80665);
  // β = 0.5: widening (1 − β²)² = 0.5625, narrowing 0.5 (1 − β²) = 0.375; cone of 20°: 0.2539605 and
  // 0.1041889.
  EXPECT_NEAR(loss(R"("change of bore":"sudden")", false) - loss("", false), 0.5625 * head, 1e-7);
  EXPECT_NEAR(loss(R"("change of bore":"sudden")", true) - loss("", true), 0.375 * head, 1e-7);
  EXPECT_NEAR(loss(R"("change of bore":"cone","cone angle":"20")", false) - loss("", false), 0.2539605 * head,
              1e-6);
  EXPECT_NEAR(loss(R"("change of bore":"cone","cone angle":"20")", true) - loss("", true), 0.1041889 * head,
              1e-6);
}

TEST(Tee, losesByTheSharesOfTheFlow) {
  // A feeds J; 6 L/s go on to B, 4 L/s branch to C: q = 0.4, all 100 mm, square. K on the 10 L/s of the
  // common leg.
  const double v = 0.01 / (M_PI / 4 * 0.1 * 0.1), head = v * v / (2 * 9.80665);
  const auto net = [](const std::string& tee, bool turned, const std::string& flows = "outflow") {
    const auto leg = [&](const std::string& name, const std::string& far) {
      return turned ? pipe(name, far, "J", 20) : pipe(name, "J", far, 20);
    };
    return model(
        point("A", 0) + "," + point("J", 0, tee) + "," + point("B", 0, "\"" + flows + "\":\"6 L/s\"") + "," +
            point("C", 0, "\"" + flows + "\":\"4 L/s\""),
        held("A", 30) + "," + pipe("L-1", "A", "J", 20) + "," + leg("L-2", "B") + "," + leg("L-3", "C"));
  };
  const std::string tee = R"("tee branch":"L-3")";
  for (const bool turned : {false, true}) {
    const Network with = net(tee, turned), without = net("", turned);
    const Solution a = answer(with), b = answer(without);
    // Dividing, Gardel: K_b = 0.95·0.6² + 0.4²·(1.3 − 0.3 + 0.3) + 0.4·0.4·0.6·2 = 0.742; K_run = 0.03·0.36 +
    // 0.35·0.16 − 0.2·0.24 = 0.0188.
    EXPECT_NEAR(headAt(without, b, "C") - headAt(with, a, "C"), 0.742 * head, 1e-7) << turned;
    EXPECT_NEAR(headAt(without, b, "B") - headAt(with, a, "B"), 0.0188 * head, 1e-7) << turned;
  }
  // Joining: K_b = −0.92·0.36 + 0.16·1.2 + 0.24 = 0.1008; K_run = 0.03·0.36 + 0.16·0.62 + 0.24 = 0.35.
  const Network with = net(tee, true, "inflow"), without = net("", true, "inflow");
  const Solution a = answer(with), b = answer(without);
  EXPECT_NEAR(headAt(with, a, "C") - headAt(without, b, "C"), 0.1008 * head, 1e-7);
  EXPECT_NEAR(headAt(with, a, "B") - headAt(without, b, "B"), 0.35 * head, 1e-7);
  // Not a tee: said, with the edit that fixes it.
  const Network odd = model(point("A", 0) + "," + point("J", 0, R"("tee branch":"L-9")") + "," +
                                point("B", 0, R"("outflow":"1 L/s")"),
                            held("A", 3) + "," + pipe("L-1", "A", "J", 2) + "," + pipe("L-2", "J", "B", 2));
  const Solution s = solve(odd, &shippedStock());
  ASSERT_FALSE(s.summary.usable());
  EXPECT_NE(s.summary.problems.front().what.find("J is not a tee"), std::string::npos);
}

}  // namespace
// A dimension written at a point is no third line there: the reducer between its two pipes is counted as
// before.
TEST(ChangeOfBore, isCountedWhereADimensionStands) {
  const auto network = [](const std::string& more) {
    return model(point("A", 0) + "," + point("B", 0, R"("change of bore":"cone")") + "," + point("C", 0),
                 held("A", 10) + "," + held("C", 2) + "," + pipe("L-1", "A", "B", 5, "100 mm") + "," +
                     pipe("L-2", "B", "C", 5, "40 mm") + more);
  };
  const Network plain = network(""), drawn = network("," + device("dimension", "D", "B", "C", ""));
  const double q = flow(plain, answer(plain), "L-2");
  EXPECT_EQ(flow(drawn, answer(drawn), "L-2"), q);
  // It is counted at all: without it more passes.
  const Network without =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
            held("A", 10) + "," + held("C", 2) + "," + pipe("L-1", "A", "B", 5, "100 mm") + "," +
                pipe("L-2", "B", "C", 5, "40 mm"));
  EXPECT_GT(flow(without, answer(without), "L-2"), q * 1.001);
}

}  // namespace conduit

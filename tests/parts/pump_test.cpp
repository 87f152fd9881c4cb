// The pump's curve: affinity, its two forms, backflow, and what its card draws.
#include "parts/pump/pump.h"

#include <gtest/gtest.h>

#include <cmath>

#include "exchange/stock_files.h"
#include "fields/entry.h"

namespace conduit {
namespace {

Values pump(const std::string& curve, const char* speed = nullptr, bool check = true) {
  Values v;
  auto put = [&](const char* key, const std::string& text) {
    v.set(findField(pump::part, key)->key, *readField(*findField(pump::part, key), text, nullptr, nullptr));
  };
  put("curve", curve);
  if (speed) put("rated speed", "1450 rpm"), put("speed", speed);
  if (!check) put("check valve", "no");
  return v;
}
const std::string three = "0 L/s|50 m;20 L/s|45 m;40 L/s|30 m";  // H = 50 − 12500 Q², by hand
double headAt(const Values& v, double q) {
  const std::vector<EndPlace> ends{{0.0, {}}, {0.0, {}}};
  double memory = 0;
  return -pump::part.prepare(v, Setting(), ends).branches[0].law->at(q, memory).drop_m;
}

TEST(Pump, threePointsMakeAPower) {
  for (const double q : {0.005, 0.02, 0.031, 0.04, 0.05})
    EXPECT_NEAR(headAt(pump(three), q), 50 - 12500 * q * q, 1e-9) << q;
}

TEST(Pump, affinityHoldsForBothForms) {
  const std::string table = "0 L/s|50 m;10 L/s|49 m;20 L/s|45 m;30 L/s|38.5 m;40 L/s|30 m";
  for (const std::string& curve : {three, table})
    for (const char* speed : {"1160 rpm", "1740 rpm"}) {
      const double s = std::atof(speed) / 1450;
      for (const double q : {0.004, 0.013, 0.027, 0.039})
        EXPECT_NEAR(headAt(pump(curve, speed), s * q), s * s * headAt(pump(curve), q), 1e-9)
            << speed << " " << q;
    }
}

TEST(Pump, aTablePassesItsPointsAndFallsBeyondThem) {
  const Values v = pump("5 L/s|42 m;12 L/s|40 m;20 L/s|33 m;26 L/s|22 m");
  EXPECT_NEAR(headAt(v, 0.005), 42, 1e-12);
  EXPECT_NEAR(headAt(v, 0.020), 33, 1e-12);
  EXPECT_LT(headAt(v, 0.030), 22) << "the end slope goes on";
  EXPECT_GE(headAt(v, 0.0), 42) << "and so it does before the first point";
}

TEST(Pump, backflowIsTheCurveMirroredAboutItsShutOff) {
  for (const std::string& curve : {three, std::string("0 L/s|50 m;10 L/s|49 m;20 L/s|45 m;30 L/s|38 m")}) {
    const Values v = pump(curve, nullptr, false);
    for (const double q : {0.003, 0.012, 0.028}) EXPECT_NEAR(headAt(v, -q) + headAt(v, q), 100, 1e-9);
  }
}

TEST(Pump, refusesCurvesThatCannotBe) {
  const std::vector<EndPlace> ends{{0.0, {}}, {0.0, {}}};
  for (const auto& [curve, words] : std::initializer_list<std::pair<const char*, const char*>>{
           {"0 L/s|50 m;0 L/s|40 m;20 L/s|30 m", "two heads for one flow"},
           {"0 L/s|50 m;20 L/s|40 m;10 L/s|30 m", "flows must increase: see row 3"},
           {"0 L/s|50 m;10 L/s|52 m;20 L/s|30 m", "must fall steadily"},
           {"0 L/s|50 m||1 m;10 L/s|45 m;15 L/s|40 m||2 m;20 L/s|30 m", "missing in row 2"},
           {"0 L/s|30 m;20 L/s|45 m", "must fall"},
           {"0 L/s|30 m;20 L/s|30 m", "must fall"}}) {
    const Prepared p = pump::part.prepare(pump(curve), Setting(), ends);
    ASSERT_TRUE(p.problem) << curve;
    EXPECT_NE(p.problem->what.find(words), std::string::npos) << p.problem->what;
  }
  EXPECT_FALSE(pump::part.prepare(pump("0 L/s|30 m"), Setting(), ends).missing.empty());
}

TEST(Pump, drawsHeadEfficiencyAndNpshForItsSpeed) {
  const Values v = pump("0 L/s|50 m;20 L/s|45 m|70 %|2 m;40 L/s|30 m|60 %|4 m", "1160 rpm");
  Setting setting;
  Reading r;
  r.name = "P";
  r.values = &v;
  r.setting = &setting;
  const auto curves = pump::part.figure(r);
  ASSERT_EQ(curves.size(), 3u);
  const double s = 0.8;
  for (const FigureCurve& c : curves) {
    EXPECT_NEAR(c.points.back().first, 0.04 * s, 1e-12) << c.label;
    if (c.label == "head") EXPECT_NEAR(c.points.front().second, 50 * s * s, 1e-9);
    if (c.label == "NPSH required") EXPECT_NEAR(c.points.back().second, 4 * s * s, 1e-9);
    if (c.label == "efficiency")
      EXPECT_NEAR(c.points[20].second, 0.70, 1e-9) << "at half the end flow stands the given point";
  }
}

Values described(const std::vector<std::pair<const char*, const char*>>& given) {
  Values v;
  for (const auto& [key, text] : given)
    v.set(findField(pump::part, key)->key, *readField(*findField(pump::part, key), text, nullptr, nullptr));
  return v;
}
double lift(const Values& v, double q, const Setting& setting = {}) {
  const std::vector<EndPlace> ends{{0.0, {}}, {0.0, {}}};
  const Prepared p = pump::part.prepare(v, setting, ends);
  EXPECT_TRUE(p.missing.empty() && !p.problem);
  double memory = 0;
  return -p.branches[0].law->at(q, memory).drop_m;
}

TEST(Pump, byOneDutyPointFollowsTheFamilyOfItsSpecificSpeed) {
  // Without a speed nq = 30: H/H* = 1.24 − 0.24 (Q/Q*)². With nq = 20: 1.18 − 0.18 q^2.1, 1.138014 at q = 0.5
  // (own family, by hand).
  const Values plain =
      described({{"described by", "duty point"}, {"duty flow", "20 L/s"}, {"duty head", "30 m"}});
  EXPECT_NEAR(lift(plain, 0.0), 37.2, 1e-9);
  EXPECT_NEAR(lift(plain, 0.01), 30 * (1.24 - 0.24 * 0.25), 1e-9);
  EXPECT_NEAR(lift(plain, 0.02), 30, 1e-9);
  // nq = n √Q/H^0.75 = 20 with Q 0.02, H 30: n = 20 · 30^0.75/√0.02 = 1812.82 1/min.
  const Values slow = described({{"described by", "duty point"},
                                 {"duty flow", "20 L/s"},
                                 {"duty head", "30 m"},
                                 {"rated speed", "1812.818 rpm"}});
  EXPECT_NEAR(lift(slow, 0.01), 30 * 1.138014, 2e-4);
}

TEST(Pump, byAHeadOrAPowerGivesThat) {
  EXPECT_NEAR(lift(described({{"described by", "given head"}, {"duty head", "12 m"}}), 0.03), 12, 1e-6);
  const Setting setting;  // P = ρ g Q H: 5000 W at 10 L/s
  const Values power =
      described({{"described by", "given power"}, {"power to the liquid", "5 kW"}, {"head at most", "80 m"}});
  EXPECT_NEAR(lift(power, 0.01), 5000 / ((setting.medium.density_kgm3 * 9.80665) * 0.01), 1e-6);
  EXPECT_NEAR(lift(power, 1e-6), 80, 1e-6);
}

TEST(Pump, unitsTrimAndSolids) {
  const Values one = pump(three);
  auto with = [&](const std::vector<std::pair<const char*, const char*>>& more) {
    Values v = one;
    for (const auto& [key, text] : more)
      v.set(findField(pump::part, key)->key, *readField(*findField(pump::part, key), text, nullptr, nullptr));
    return v;
  };
  EXPECT_NEAR(lift(with({{"units", "3"}}), 0.03), lift(one, 0.01), 1e-9);
  EXPECT_NEAR(lift(with({{"units", "2"}, {"arrangement", "series"}}), 0.01), 2 * lift(one, 0.01), 1e-9);
  const double r = 0.9 * 0.9;  // flow and head with the square of the diameter
  EXPECT_NEAR(lift(with({{"rated impeller", "250 mm"}, {"impeller", "225 mm"}}), 0.01 * r),
              r * lift(one, 0.01), 1e-9);
  EXPECT_NEAR(lift(with({{"head factor", "90 %"}}), 0.01), 0.9 * lift(one, 0.01), 1e-9);
}

TEST(Pump, viscousLiquidAfterThePrintedExample) {
  // ANSI/HI 9.6.7 worked example: 110 m³/h, 77 m, 2950 1/min, 120 mm²/s: B 5.52, CQ 0.938, Cη 0.738.
  Setting oil;
  oil.viscosity_m2s = 120e-6;
  const Values v = described(
      {{"curve", "0 m3/h|90 m;110 m3/h|77 m|70 %;150 m3/h|62 m|60 %"}, {"rated speed", "2950 rpm"}});
  EXPECT_NEAR(lift(v, 0.9377784 * 110 / 3600, oil), 0.9377784 * 77, 2e-3);
  EXPECT_NEAR(lift(v, 0, oil), 90, 1e-9);  // nothing is lost at no flow
  Values off = v;
  off.set(findField(pump::part, "viscous correction")->key, false);
  EXPECT_NEAR(lift(off, 110.0 / 3600, oil), 77, 1e-9);
}

}  // namespace
}  // namespace conduit

// The pump's curve: affinity, its two forms, backflow, and what its card draws.
#include "parts/pump.h"

#include <gtest/gtest.h>

#include <cmath>

#include "exchange/stock_files.h"
#include "network/entry.h"

namespace conduit {
namespace {

Values pump(const std::string& curve, const char* speed = nullptr, bool check = true) {
  Values v;
  auto put = [&](const char* key, const std::string& text) { v.set(findField(pump::part, key)->key, *readField(*findField(pump::part, key), text, nullptr, nullptr)); };
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
  for (const double q : {0.005, 0.02, 0.031, 0.04, 0.05}) EXPECT_NEAR(headAt(pump(three), q), 50 - 12500 * q * q, 1e-9) << q;
}

TEST(Pump, affinityHoldsForBothForms) {
  const std::string table = "0 L/s|50 m;10 L/s|49 m;20 L/s|45 m;30 L/s|38.5 m;40 L/s|30 m";
  for (const std::string& curve : {three, table})
    for (const char* speed : {"1160 rpm", "1740 rpm"}) {
      const double s = std::atof(speed) / 1450;
      for (const double q : {0.004, 0.013, 0.027, 0.039}) EXPECT_NEAR(headAt(pump(curve, speed), s * q), s * s * headAt(pump(curve), q), 1e-9) << speed << " " << q;
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
           {"0 L/s|50 m;0 L/s|40 m;20 L/s|30 m", "must rise"}, {"0 L/s|30 m;20 L/s|45 m", "must fall"}, {"0 L/s|30 m;20 L/s|30 m", "must fall"}}) {
    const Prepared p = pump::part.prepare(pump(curve), Setting(), ends);
    ASSERT_TRUE(p.problem) << curve;
    EXPECT_NE(p.problem->what.find(words), std::string::npos) << p.problem->what;
  }
  EXPECT_FALSE(pump::part.prepare(pump("0 L/s|30 m"), Setting(), ends).lacks.empty());
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
    if (c.label == "efficiency") EXPECT_NEAR(c.points[20].second, 0.70, 1e-9) << "at half the end flow stands the given point";
  }
}

}  // namespace
}  // namespace conduit

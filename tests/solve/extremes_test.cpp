// What is extreme and legal: cold, without a guess, to the tolerance, and true by the plain judge or by hand.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "exchange/stock_files.h"
#include "fields/entry.h"
#include "model_text.h"
#include "parts/registry.h"
#include "solve/judge.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

void put(Draft& d, Id id, std::string_view key, const std::string& text) {
  const Field* f = findField(*d.network().at(id).part, key);
  d.values(id).set(f->key, *readField(*f, text, nullptr, nullptr));
}
Id put(Draft& d, const char* kind, std::vector<Id> ends,
       const std::vector<std::pair<const char*, std::string>>& fields) {
  const Id id = d.add(*findPart(kind), "", std::move(ends));
  for (const auto& [key, text] : fields) put(d, id, key, text);
  return id;
}
Id spot(Draft& d, double z, const std::string& outflow = "") {
  const Id id = d.addPoint("", {});
  put(d, id, "height", fmt::format("{} m", z));
  if (!outflow.empty()) put(d, id, "outflow", outflow);
  return id;
}
Solution cold(const Network& n) {
  const Solution s = solve(n, &shippedStock());
  EXPECT_TRUE(s.summary.usable()) << s.summary.full();
  EXPECT_LE(s.summary.headResidual_m, s.summary.headTolerance_m);
  EXPECT_LE(s.summary.massResidualShare, 1e-9);
  return s;
}

TEST(Extremes, boresFromHalfAMillimetreToFiveMetresInOneNetwork) {
  Draft d{Network()};
  const Id a = spot(d, 0), b = spot(d, 0, "20 m3/s"), c = spot(d, 0, "0.01 mL/s"), e = spot(d, 0);
  put(d, "fixed pressure", {a}, {{"pressure", "5 bar"}});
  put(d, "pipe", {a, b}, {{"length", "500 km"}, {"bore", "5 m"}, {"roughness", "0.5 mm"}});
  put(d, "pipe", {b, c}, {{"length", "1 m"}, {"bore", "0.5 mm"}, {"roughness", "0.001 mm"}});
  put(d, "pipe", {c, e}, {{"length", "1 mm"}, {"bore", "0.5 mm"}, {"roughness", "0 mm"}});
  put(d, "pipe", {e, a}, {{"length", "1 mm"}, {"bore", "5 m"}, {"roughness", "0.5 mm"}});
  const Network n = std::move(d).finish();
  EXPECT_TRUE(judge(n, cold(n)).empty()) << judge(n, cold(n)).front();
}

TEST(Extremes, viscosityFromAFifthToAHundredThousandCentistokes) {
  for (const char* nu : {"0.2 mm2/s", "10 mm2/s", "1000 mm2/s", "100000 mm2/s"}) {
    Draft d(gridNetwork(120, 7));
    put(d, jobId, "liquid", "own liquid");
    put(d, jobId, "density", "950 kg/m3");
    put(d, jobId, "viscosity", nu);
    const Network n = std::move(d).finish();
    const Solution s = cold(n);
    EXPECT_TRUE(judge(n, s).empty()) << nu << ": " << judge(n, s).front();
  }
}

TEST(Extremes, nothingFlowsInWholeLoops) {
  Draft d{Network()};
  std::vector<Id> points;
  for (int i = 0; i < 30; ++i) points.push_back(spot(d, i % 5));
  for (int i = 0; i < 30; ++i)
    put(d, "pipe", {points[static_cast<std::size_t>(i)], points[static_cast<std::size_t>((i + 1) % 30)]},
        {{"length", "30 m"}, {"bore", "80 mm"}, {"roughness", "0.1 mm"}, {"K", "3"}});
  put(d, "fixed pressure", {points[0]}, {{"pressure", "30 m"}});
  put(d, "control valve", {points[3], points[17]}, {{"Kv", "30 Kv"}});
  put(d, "orifice plate", {points[5], points[21]}, {{"bore", "40 mm"}, {"pipe bore", "80 mm"}});
  const Network n = std::move(d).finish();
  const Solution s = cold(n);
  for (const Solution::BranchValue& b : s.branches) EXPECT_NEAR(b.flow_m3s, 0, 1e-9);
  for (const Id p : points) EXPECT_NEAR(*s.head(p), 30, 1e-7);
}

TEST(Extremes, aThousandPipesSideBySideShareEqually) {
  Draft d{Network()};
  const Id a = spot(d, 0), b = spot(d, 0, "2 m3/s");
  put(d, "fixed pressure", {a}, {{"pressure", "60 m"}});
  std::vector<Id> pipes;
  for (int i = 0; i < 1000; ++i)
    pipes.push_back(
        put(d, "pipe", {a, b}, {{"length", "100 m"}, {"bore", "50 mm"}, {"roughness", "0.1 mm"}}));
  const Solution s = cold(std::move(d).finish());
  for (const Id id : pipes) EXPECT_NEAR(*s.branch(id, 0).flow_m3s, 0.002, 1e-12);
}

TEST(Extremes, twentyThousandPipesInARow) {
  Draft d{Network()};
  const Part& line = *findPart("pipe");
  const Field &height = *findField(*findPart("point"), "height"), &length = *findField(line, "length"),
              &bore = *findField(line, "bore"), &roughness = *findField(line, "roughness");
  std::vector<Id> points;
  for (int i = 0; i <= 20000; ++i) {
    points.push_back(d.addPoint("", {}));
    d.values(points.back()).set(height.key, Given{0, Basis::direct, "0 m"});
  }
  for (std::size_t i = 0; i < 20000; ++i) {
    const Id id = d.add(line, "", {points[i], points[i + 1]});
    d.values(id).set(length.key, Given{10, Basis::direct, "10 m"});
    d.values(id).set(bore.key, Given{0.3, Basis::direct, "0.3 m"});
    d.values(id).set(roughness.key, Given{1e-4, Basis::direct, "0.1 mm"});
  }
  put(d, points.back(), "outflow", "40 L/s");
  put(d, "fixed pressure", {points.front()}, {{"pressure", "40 bar"}});
  const Network n = std::move(d).finish();
  const Solution s = cold(n);
  const double first = *s.head(points[0]) - *s.head(points[1]),
               whole = *s.head(points.front()) - *s.head(points.back());
  EXPECT_NEAR(whole, 20000 * first, 1e-5 * whole);
  EXPECT_NEAR(*s.branch(n.byName("L-1"), 0).flow_m3s, 0.04, 1e-11);
}

TEST(Extremes, speedsThirtyToOneAndAPumpFarPastItsCurve) {
  for (const double rpm : {100.0, 1000.0, 3000.0}) {
    const Network n = model(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
        held("A", 2) + "," + held("C", 1) + "," +
            device(
                "pump", "P", "A", "B",
                fmt::format(
                    R"("rated speed":"1000 rpm","speed":"{} rpm","curve":[{{"flow":"0 L/s","head":"30 m"}},{{"flow":"5 L/s","head":"27 m"}},{{"flow":"10 L/s","head":"18 m"}}])",
                    rpm)) +
            "," + pipe("L", "B", "C", 3, "200 mm"));
    const Solution s = answer(n);
    EXPECT_TRUE(judge(n, s).empty()) << rpm;
    EXPECT_GT(flow(n, s, "P"), 0.010 * rpm / 1000) << "far past the end of its curve";
  }
}

TEST(Extremes, allValvesShutLeavePocketsAndNoFault) {
  Draft d{Network()};
  const Id a = spot(d, 0);
  put(d, "fixed pressure", {a}, {{"pressure", "3 bar"}});
  Id last = a;
  for (int i = 0; i < 50; ++i) {
    const Id b = spot(d, 1), c = spot(d, 2);
    put(d, "isolating valve", {last, b}, {{"open", "no"}, {"bore", "80 mm"}});
    put(d, "pipe", {b, c}, {{"length", "5 m"}, {"bore", "80 mm"}, {"roughness", "0.1 mm"}});
    last = c;
  }
  const Solution s = cold(std::move(d).finish());
  EXPECT_EQ(s.summary.undetermined, 100u);
  for (const Solution::BranchValue& b : s.branches) EXPECT_TRUE(b.flow_m3s == 0.0);
}

TEST(Extremes, whatCannotBeSuppliedIsBalancedOnPaperAndSaidSo) {
  const Network n = model(point("A", 0) + "," + point("B", 0, R"("outflow":"500 L/s")"),
                          held("A", 30) + "," + pipe("L", "A", "B", 500, "50 mm"));
  const Solution s = cold(n);
  EXPECT_LT(headAt(n, s, "B"), -1e5);
}

}  // namespace
}  // namespace conduit::test

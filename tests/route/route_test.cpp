#include "route/route.h"

#include <gtest/gtest.h>

#include "model_text.h"

namespace conduit::test {
namespace {

// T(50) - A - pump - B - long pipe - C -< D (3 L/s), E (1 L/s)
Network pumped() {
  return model(point("A", 48) + "," + point("B", 48) + "," + point("C", 60) + "," +
                   point("D", 62, "\"outflow\":\"3 L/s\"") + "," + point("E", 61, "\"outflow\":\"1 L/s\""),
               "{\"kind\":\"tank\",\"name\":\"T\",\"level\":\"50 m\",\"connections\":[{\"point\":\"A\"}]}," +
                   device("pump", "P", "A", "B",
                          "\"curve\":[{\"flow\":\"0 L/s\",\"head\":\"40 m\"},{\"flow\":\"5 "
                          "L/s\",\"head\":\"34 m\"},{\"flow\":\"9 L/s\",\"head\":\"20 m\"}]") +
                   "," + pipe("L1", "B", "C", 200, "100 mm", "\"rating\":\"10 bar\"") + "," +
                   pipe("L2", "D", "C", 80) + "," + pipe("L3", "C", "E", 90));
}
std::vector<std::string> names(const Network& n, const Route& r) {
  std::vector<std::string> out;
  for (const RouteStep& s : r) out.push_back(n.at(s.element).name);
  return out;
}

TEST(Route, runsFromTheSupplyByTheLargestFlow) {
  const Network n = pumped();
  const Solution s = answer(n);
  const std::vector<std::string> main{"T", "P", "L1", "L2"};
  EXPECT_EQ(names(n, traceRoute(n, s, n.byName("P"))), main);
  EXPECT_EQ(names(n, traceRoute(n, s, n.byName("C"))), main);
  EXPECT_EQ(names(n, traceRoute(n, s, n.byName("D"))), main);
  EXPECT_EQ(names(n, traceRoute(n, s, n.byName("T"))), main);
  EXPECT_EQ(names(n, traceRoute(n, s, n.byName("L3"))), (std::vector<std::string>{"T", "P", "L1", "L3"}));
  // Drawn against the flow, L2 is passed in reverse.
  EXPECT_TRUE(traceRoute(n, s, n.byName("D")).back().reversed);
}

TEST(Route, ofAnUnsolvedNetworkIsEmpty) {
  EXPECT_TRUE(traceRoute(Network(), Solution(), noId).empty());
  EXPECT_TRUE(profileOf(Network(), Solution(), {}).stations.empty());
}

TEST(Route, betweenTwoPointsHasTheFewestElements) {
  const Network n = pumped();
  EXPECT_EQ(names(n, routeBetween(n, n.byName("E"), n.byName("B"))), (std::vector<std::string>{"L3", "L1"}));
  EXPECT_TRUE(routeBetween(n, n.byName("E"), n.byName("E")).empty());
}

TEST(Profile, standsWhereTheHeadsAre) {
  const Network n = pumped();
  const Solution s = answer(n);
  const Profile p = profileOf(n, s, traceRoute(n, s, n.byName("P")));
  EXPECT_NEAR(p.length_m, 280, 1e-9);
  ASSERT_EQ(p.tanks.size(), 1u);
  EXPECT_DOUBLE_EQ(p.tanks[0].level_m, 50);
  for (const Station& st : p.stations) {
    if (st.point == noId) continue;
    EXPECT_NEAR(*st.energy_m, headAt(n, s, n.at(st.point).name), 1e-9) << n.at(st.point).name;
    EXPECT_LE(*st.hydraulic_m, *st.energy_m + 1e-12);
  }
  // Velocity head in L1: (0.004/(π/4·0.01))²/2g, by hand.
  const double v = 0.004 / (M_PI / 4 * 0.01);
  for (const Station& st : p.stations)
    if (st.ceiling_m) {
      EXPECT_NEAR(*st.energy_m - *st.hydraulic_m, v * v / (2 * 9.80665), 1e-9);
      EXPECT_NEAR(*st.ceiling_m - st.height_m, 10e5 / (s.setting.medium.density_kgm3 * 9.80665), 1e-9);
    }
  EXPECT_NEAR(p.stations.front().floorDepth_m,
              (101325 - s.setting.vapour_pa) / (s.setting.medium.density_kgm3 * 9.80665), 1e-9)
      << "the lowest point has the altitude, 0 m";
}

TEST(Profile, theSumOfHeadsCloses) {
  for (const char* sample : {"/samples/kestrel-fell.lconduit", "/samples/millpond.lconduit"}) {
    const Network n = loadModel(std::string(SOURCE_DIR) + sample, &shippedStock())->drawn;
    const Solution s = answer(n);
    const HeadSum h = profileOf(n, s, traceRoute(n, s, noId)).sum;
    EXPECT_NEAR(h.pumped_m, h.lift_m + h.pipes_m + h.equipment_m + h.restrained_m, 1e-9) << sample;
    EXPECT_GT(h.pumped_m, 0);
  }
}

// Half way down 100 m of pipe that falls from 10 to 4 m and loses from 30 to 26 m: 28 − 7 = 21 m of water.
TEST(Profile, isReadBetweenItsStations) {
  Profile p;
  p.stations = {{.along_m = 0, .height_m = 10, .hydraulic_m = 30, .ceiling_m = 70},
                {.along_m = 100, .height_m = 4, .hydraulic_m = 26},
                {.along_m = 100, .height_m = 4, .hydraulic_m = 20},  // through a valve: no length
                {.along_m = 150, .height_m = 4}};
  const Medium water;
  const double metre =
      water.density_kgm3 * water.gravity_ms2;  // hand: 21 m, and 60 m at the station before it
  const AlongReading half = readingAt(p, water, 50);
  EXPECT_DOUBLE_EQ(half.height_m, 7);
  EXPECT_DOUBLE_EQ(*half.grade_m, 28);
  EXPECT_NEAR(*half.pressure_pa, 21 * metre, 1e-6);
  EXPECT_NEAR(*half.allowed_pa, 60 * metre, 1e-6);
  EXPECT_FALSE(readingAt(p, water, 120).pressure_pa) << "nothing is known of the far end";
  EXPECT_DOUBLE_EQ(readingAt(p, water, -5).height_m, 10) << "before the beginning: the beginning";
  EXPECT_DOUBLE_EQ(readingAt(p, water, 500).height_m, 4);
}

// Before anything balances: from the supply, by way of what is selected, to the farthest point.
TEST(Route, byTheDrawingAlone) {
  using namespace test;
  const Network n = model(
      point("A", 1) + "," + point("B", 2) + "," + point("C", 3) + "," + point("D", 4) + "," + point("E", 5),
      held("A", 10) + "," + pipe("L-1", "A", "B", 10) + "," + pipe("L-2", "B", "C", 10) + "," +
          pipe("L-3", "C", "D", 10) + "," +
          "{\"kind\":\"pipe\",\"name\":\"L-4\",\"from\":\"E\",\"to\":\"B\"}");
  auto names = [&](const Route& route) {
    std::string all;
    for (const RouteStep& s : route) all += n.at(s.element).name + " ";
    return all;
  };
  EXPECT_EQ(names(drawnRoute(n, noId)), "L-1 L-2 L-3 ");
  EXPECT_EQ(names(drawnRoute(n, n.byName("L-4"))), "L-1 L-4 ");
  EXPECT_EQ(names(drawnRoute(n, n.byName("C"))), "L-1 L-2 L-3 ");
  EXPECT_TRUE(drawnRoute(Network(), noId).empty());
  const Profile p = profileOf(n, Solution(), drawnRoute(n, noId));
  EXPECT_EQ(p.stations.size(), 6u);
  EXPECT_NEAR(p.length_m, 30, 1e-12);
}

}  // namespace
}  // namespace conduit::test

#include "route/way_in.h"

#include <gtest/gtest.h>

#include "limits/limits.h"
#include "model_text.h"
#include "network/edits.h"
#include "parts/registry.h"

namespace conduit {
namespace {

using test::held;
using test::model;
using test::pipe;
using test::point;

std::string tankAt(const std::string& name, const std::string& at, double level) {
  return "{\"kind\":\"tank\",\"name\":\"" + name + "\",\"level\":\"" + std::to_string(level) +
         " m\",\"connections\":[{\"point\":\"" + at + "\"}]}";
}

bool back(const Network& n, const char* line, const char* device, bool solved = true) {
  const Solution s = solve(n, &shippedStock());
  return pointsBack(n, solved ? &s : nullptr, n.byName(line), *findPart(device));
}

TEST(WayIn, aPumpLiftsFromTheLowerSupplyToTheHigher) {
  for (const bool upward : {true, false}) {
    const Network n = model(point("A", 0) + "," + point("B", 0), tankAt("T-1", "A", upward ? 5 : 40) + "," +
                                                                     tankAt("T-2", "B", upward ? 40 : 5) +
                                                                     "," + pipe("L-1", "A", "B", 200));
    EXPECT_EQ(back(n, "L-1", "pump"), !upward);
    // Without a pump it runs down, and a check valve lets it.
    for (const bool solved : {true, false})
      EXPECT_EQ(back(n, "L-1", "check valve", solved), upward) << solved;
  }
}

TEST(WayIn, awayFromTheOnlySupplyHoweverTheLineWasDrawn) {
  const Network n = model(point("A", 0) + "," + point("B", 3, R"("outflow":"4 L/s")"),
                          held("A", 30) + "," + pipe("L-1", "B", "A", 200));
  for (const char* device : {"pump", "check valve", "reducing valve"})
    for (const bool solved : {true, false}) EXPECT_TRUE(back(n, "L-1", device, solved)) << device << solved;
}

TEST(WayIn, asDrawnWhereNothingSaysOtherwise) {
  const Network n = model(point("A", 0) + "," + point("B", 3), pipe("L-1", "A", "B", 200));
  EXPECT_FALSE(back(n, "L-1", "pump"));
  const Network ring =
      model(point("A", 0) + "," + point("B", 3),
            held("A", 30) + "," + pipe("L-1", "A", "B", 200) + "," + pipe("L-2", "B", "A", 200));
  EXPECT_FALSE(back(ring, "L-1", "pump")) << "a ring: neither way is up";
}

TEST(WayIn, whatStandsTheWrongWayRoundIsFoundAndReversed) {
  const Network n =
      model(point("A", 0) + "," + point("M", 0) + "," + point("N", 0) + "," + point("B", 0),
            tankAt("T-1", "A", 40) + "," + tankAt("T-2", "B", 5) + "," + pipe("L-1", "A", "M", 100) + "," +
                pipe("L-2", "N", "B", 100) + R"(,{"kind":"check valve","name":"V-1","from":"N","to":"M"})");
  const Solution shut = solve(n, &shippedStock());
  const auto found = findings(n, shut, UnitSet::siWater());
  ASSERT_FALSE(found.empty());
  EXPECT_EQ(found.front().place.name, "V-1");
  ASSERT_FALSE(found.front().remedies.empty());
  EXPECT_EQ(found.front().remedies.front().words, "Reverse V-1");
  const auto turned = applyRemedy(n, found.front().remedies.front(), &shippedStock(), nullptr);
  ASSERT_TRUE(turned);
  const Solution s = solve(turned->network, &shippedStock());
  EXPECT_GT(*s.branch(n.byName("L-1"), 0).flow_m3s, 0.01);
  EXPECT_TRUE(findings(turned->network, s, UnitSet::siWater()).empty() ||
              findings(turned->network, s, UnitSet::siWater()).front().place.name != "V-1");
}

}  // namespace
}  // namespace conduit

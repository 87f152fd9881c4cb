#include "network/turn_into.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "network/arrange.h"
#include "network/columns.h"
#include "parts/registry.h"

namespace conduit {
namespace {

using namespace test;

// A feeds B through a line, a valve and a line; C depends on a nozzle.
Network freeLine() {
  return model(
      point("A", 0, "\"at\":[0,0]") + "," + point("B", 0, "\"at\":[40,0]") + "," +
          point("C", 0, "\"at\":[50,0]") + "," + point("D", 0, "\"at\":[90,0]"),
      held("A", 20) + "," + pipe("L-1", "A", "B", 40) + "," +
          device("isolating valve", "V-1", "B", "C", "\"K\":\"0.3\",\"bore\":\"90 mm\",\"open\":false") +
          "," + pipe("L-2", "C", "D", 40) + "," +
          "{\"kind\":\"nozzle\",\"name\":\"Z-1\",\"point\":\"D\",\"K-factor\":\"80 "
          "L/min/bar^0.5\",\"note\":\"east\"}");
}

TEST(TurnInto, keepsWhatAppliesAndTellsWhatIsGoneAndWanted) {
  const Network n = freeLine();
  const Id valve = n.byName("V-1");
  const auto turned = turnInto(n, std::span(&valve, 1), *findPart("reducing valve"));
  ASSERT_TRUE(turned);
  const Element& e = turned->edited.network.at(valve);
  EXPECT_EQ(e.part->key, "reducing valve");
  EXPECT_EQ(e.ends, n.at(valve).ends);
  EXPECT_EQ(e.given("bore")->typed, "90 mm");
  EXPECT_EQ(e.given("K")->typed, "0.3");
  const Turned& t = turned->each.front();
  EXPECT_EQ(t.gone, std::vector<std::string>{"open"});
  EXPECT_EQ(t.wanted, std::vector<std::string>{"set point"});
  EXPECT_NE(turned->words().find("needs set point"), std::string::npos);
}

TEST(TurnInto, aNameOfThePatternFollowsTheKind) {
  const Network n = freeLine();
  const Id valve = n.byName("V-1");
  const auto pump = turnInto(n, std::span(&valve, 1), *findPart("pump"));
  ASSERT_TRUE(pump);
  EXPECT_EQ(pump->edited.network.at(valve).name, "P-1");
  const auto own = rename(n, valve, "Main stop");
  const auto kept = turnInto(own->network, std::span(&valve, 1), *findPart("pump"));
  EXPECT_EQ(kept->edited.network.at(valve).name, "Main stop");
}

// Every kind into every other: the result stands (the file reads back), or the refusal says why and names the
// element.
TEST(TurnInto, everyKindIntoEveryOther) {
  const Network n = freeLine();
  std::vector<Id> ids;
  n.each([&](Id id, const Element&) { ids.push_back(id); });
  int turnedCount = 0;
  for (const Id id : ids)
    for (const Part* part : allParts()) {
      if (part->ends == Ends::none || n.at(id).part == part) continue;
      const auto turned = turnInto(n, std::span(&id, 1), *part);
      if (!turned) {
        EXPECT_EQ(turned.error().place.name, n.at(id).name);
        EXPECT_GT(turned.error().what.size(), 20u);
        continue;
      }
      ++turnedCount;
      const std::string text = writeModel(turned->edited.network);
      const auto again = readDrawn(text, &shippedStock());
      ASSERT_TRUE(again) << n.at(id).name << " into " << part->key << ": " << again.error().front().what;
      EXPECT_EQ(writeModel(*again), text);
    }
  EXPECT_GE(turnedCount, 25);
}

TEST(TurnInto, aPointBetweenTwoLinesBecomesADeviceAndBack) {
  const auto split = splitPipe(freeLine(), freeLine().byName("L-1"), 0.5, &shippedStock());
  const Id middle = split->made;
  const auto valve = turnInto(split->network, std::span(&middle, 1), *findPart("check valve"));
  ASSERT_TRUE(valve) << valve.error().what;
  const Network& with = valve->edited.network;
  const Id made = valve->edited.made;
  EXPECT_EQ(with.at(made).part->key, "check valve");
  EXPECT_EQ(with.elementsAt(with.at(made).ends[0]).size(), 2u);
  EXPECT_EQ(with.elementsAt(with.at(made).ends[1]).size(), 2u);
  const auto back = turnInto(with, std::span(&made, 1), *findPart("point"));
  ASSERT_TRUE(back);
  EXPECT_EQ(back->edited.network.count(), split->network.count());
  // Halves of a line with nothing between carry what the whole line carried.
  const Solution whole = answer(freeLine()), again = answer(back->edited.network);
  EXPECT_NEAR(flow(freeLine(), whole, "L-1"), flow(back->edited.network, again, "L-1"), 1e-9);
}

TEST(Arrange, linesUpSpacesMirrorsAndTurns) {
  const Network n = freeLine();
  const std::vector<Id> points{n.byName("A"), n.byName("B"), n.byName("C"), n.byName("D")};
  const auto even = spaceEvenly(n, points, Direction::across);
  ASSERT_TRUE(even);
  EXPECT_NEAR(even->network.at(points[1]).at.x, 30, 1e-9);
  EXPECT_NEAR(even->network.at(points[2]).at.x, 60, 1e-9);
  const auto mirrored = mirror(n, points, Direction::across);
  EXPECT_NEAR(mirrored->network.at(points[0]).at.x, 90, 1e-9);
  const auto turned = quarterTurn(n, points, 1);
  EXPECT_NEAR(turned->network.at(points[0]).at.x, 45, 1e-9);
  EXPECT_NEAR(turned->network.at(points[3]).at.y, 45, 1e-9);
  const auto four = quarterTurn(n, points, 4);
  for (const Id id : points) EXPECT_EQ(four->network.at(id).at, n.at(id).at);
  EXPECT_FALSE(lineUp(n, std::span(points).first(1), LineUp::left));
}

TEST(Arrange, toScaleADrawnLengthFollowsAndATypedOneStays) {
  const Network n = freeLine();  // L-1 is 40 m long and 40 m drawn, to scale
  const Id a = n.byName("A");
  const auto moved = moveAll(n, std::span(&a, 1), -10, 0);
  EXPECT_EQ(moved.network.at(n.byName("L-1")).given("length")->typed, "50 m");
  const auto typed = setField(n, n.byName("L-1"), "length", "43 m", &shippedStock(), nullptr);
  EXPECT_EQ(
      moveAll(typed->network, std::span(&a, 1), -10, 0).network.at(n.byName("L-1")).given("length")->typed,
      "43 m");
  const auto loose = setField(n, jobId, "drawing", "not to scale", &shippedStock(), nullptr);
  EXPECT_EQ(
      moveAll(loose->network, std::span(&a, 1), -10, 0).network.at(n.byName("L-1")).given("length")->value,
      n.at(n.byName("L-1")).given("length")->value);
}

TEST(Columns, arithmeticKeepsTheUnitThatWasTyped) {
  struct Row {
    const char *given, *arithmetic, *typed;
  };
  for (const Row& r :
       {Row{"100 mm", "* 1.1", "110 mm"}, Row{"4 in", "/ 2", "2 in"}, Row{"100 mm", "+ 2 cm", "120 mm"},
        Row{"100 mm", "- 5 %", "95 mm"}, Row{"1 ft", "+ 1 in", "1.083333333 ft"}}) {
    const auto set =
        setField(freeLine(), freeLine().byName("L-1"), "bore", r.given, &shippedStock(), nullptr);
    const Id id = freeLine().byName("L-1");
    const auto changed = changeByArithmetic(set->network, std::span(&id, 1), "bore", r.arithmetic, nullptr);
    ASSERT_TRUE(changed) << changed.error().what;
    EXPECT_EQ(changed->network.at(id).given("bore")->typed, r.typed) << r.given << " " << r.arithmetic;
  }
  const Id ids[] = {freeLine().byName("L-1"), freeLine().byName("L-2")};
  for (const char* bad : {"* mm", "/ 0", "+ 2 bar", "* 1e9", "1.1"})
    EXPECT_FALSE(changeByArithmetic(freeLine(), ids, "bore", bad, nullptr)) << bad;
  EXPECT_TRUE(isArithmetic("* 1.1") && isArithmetic("- 5 %") && !isArithmetic("-5 m") &&
              !isArithmetic("12 m"));
}

TEST(Columns, fillsDownAndSetsEach) {
  const Network n = freeLine();
  const Id ids[] = {n.byName("L-1"), n.byName("L-2")};
  const auto set = setField(n, ids[0], "bore", "123 mm", &shippedStock(), nullptr);
  const auto filled = fillDown(set->network, ids, "bore");
  EXPECT_EQ(filled->network.at(ids[1]).given("bore")->typed, "123 mm");
  const std::string texts[] = {"1 m", "nonsense"};
  EXPECT_FALSE(setTexts(n, ids, "length", texts, &shippedStock(), nullptr)) << "all or none";
}

}  // namespace
}  // namespace conduit

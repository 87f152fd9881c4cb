#include "network/lay_take_off.h"

#include <gtest/gtest.h>

#include <fstream>
#include <sstream>

#include "model_text.h"

namespace conduit {
namespace {

using namespace test;

Network oneLine() {
  return model(point("A", 10, "\"at\":[0,0]") + ",{\"name\":\"B\",\"at\":[100,0]}",
               held("A", 40) +
                   ",{\"kind\":\"pipe\",\"name\":\"L-1\",\"from\":\"A\",\"to\":\"B\",\"size\":\"ASME B36.10M "
                   "4 40\",\"roughness\":\"0.05 mm\"}");
}
Result<Edited> lay(const Network& n, const char* text) {
  return layTakeOff(n, n.byName("L-1"), text, shippedStock(), nullptr);
}
std::string takeOff(const Network& n, const char* name) { return *n.at(n.byName(name)).text("take-off"); }

TEST(LayTakeOff, whatOnlyLosesHeadStaysInThePipe) {
  const auto e = lay(oneLine(), "12.4 elbow 3.1 up gate");
  ASSERT_TRUE(e);
  EXPECT_EQ(e->network.count(), oneLine().count());
  EXPECT_EQ(takeOff(e->network, "L-1"), "12.4 elbow 3.1 up gate");
  EXPECT_EQ(e->name, "Take off L-1");
}

TEST(LayTakeOff, aDeviceAndAChangeOfBoreSplitTheLine) {
  const auto e = lay(oneLine(), "6 elbow 4 up check 2 reducing (3 bar) bore 53 mm 9 elbow 1 down +10 %");
  ASSERT_TRUE(e) << e.error().what;
  const Network& n = e->network;
  // A and B, the held pressure and L-1 stood there; two devices, two pipes and four points are new.
  EXPECT_EQ(n.count(), oneLine().count() + 8);
  EXPECT_EQ(takeOff(n, "L-1"), "6  elbow  4 up  +10 %");
  EXPECT_EQ(takeOff(n, "L-2"), "2  +10 %");
  EXPECT_EQ(takeOff(n, "L-3"), "9  elbow  1 down  +10 %");
  EXPECT_EQ(n.at(n.byName("L-2")).text("size")[0], "ASME B36.10M 4 40");
  EXPECT_EQ(n.at(n.byName("L-3")).given("bore")->typed, "53 mm");
  EXPECT_EQ(n.at(n.byName("L-3")).value("size"), nullptr);
  const Element& check = n.at(n.byName("V-1"));
  EXPECT_EQ(check.ends[0], n.at(n.byName("L-1")).ends[1]);
  EXPECT_EQ(check.ends[1], n.at(n.byName("L-2")).ends[0]);
  EXPECT_EQ(n.at(n.byName("L-3")).ends[1], n.byName("B"));
  const Element& reducing = n.at(n.byName("V-2"));
  EXPECT_EQ(reducing.given("set point")->typed, "3 bar");
  // Heights follow the rises: 10 m, then 4 up, at the end 1 down.
  EXPECT_NEAR(n.at(check.ends[0]).given("height")->value, 14, 1e-9);
  EXPECT_NEAR(n.at(n.byName("B")).given("height")->value, 13, 1e-9);
  // It solves once something is drawn off: losses in the three pipes follow by hand from the same friction
  // law.
  const auto out = setField(n, n.byName("B"), "outflow", "8 L/s", &shippedStock(), nullptr);
  const Solution s = answer(out->network);
  EXPECT_NEAR(flow(out->network, s, "L-3"), 0.008, 1e-12);
}

TEST(LayTakeOff, devicesAtTheEndsLeaveNoLooseEnd) {
  for (const char* text :
       {"check 4", "4 check", "check", "2x check", "bore 80 mm 4", "strainer check 3 check strainer"}) {
    const auto e = lay(oneLine(), text);
    ASSERT_TRUE(e) << text;
    const Network& n = e->network;
    n.each([&](Id id, const Element& p) {
      if (p.part->ends == Ends::self && id != n.byName("B"))
        EXPECT_GE(n.elementsAt(id).size(), 2u) << text << ": " << p.name;
    });
    EXPECT_EQ(n.elementsAt(n.byName("B")).size(), 1u) << text;
    EXPECT_TRUE(readDrawn(writeModel(n), &shippedStock())) << text;
  }
}

// One take-off for several selected pipes is laid along each, as it is along one.
TEST(LayTakeOff, theSameForSeveralPipes) {
  const Network n = model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                          pipe("L-1", "A", "B", 77) + "," + pipe("L-2", "B", "C", 88));
  const Id ids[] = {n.byName("L-1"), n.byName("L-2")};
  const auto plain = setFieldOfAll(n, ids, "take-off", "6 elbow", &shippedStock(), nullptr);
  ASSERT_TRUE(plain);
  for (const Id id : ids)
    EXPECT_EQ(plain->network.at(id).value("length"), nullptr) << "the pieces say how long it is";
  const auto split = setFieldOfAll(n, ids, "take-off", "6 check 4", &shippedStock(), nullptr);
  ASSERT_TRUE(split) << split.error().what;
  EXPECT_EQ(split->network.count(), n.count() + 2 * 4) << "a valve, a pipe and two points for each";
}

TEST(LayTakeOff, severalLinesAreAllOrNone) {
  const Network n = oneLine();
  EXPECT_TRUE(isTakeOffLines("L-1: 3 elbow\n\nL-1: 4"));
  EXPECT_FALSE(isTakeOffLines("3 elbow\n4"));
  const auto e = layTakeOffs(n, "L-1: 3 elbow\r\n", shippedStock(), nullptr);
  ASSERT_TRUE(e) << e.error().what;
  EXPECT_EQ(takeOff(e->network, "L-1"), "3 elbow");
  for (const auto& [bad, word] : {std::pair{"L-1: 3\nL-9: 4", "line 2"},
                                  {"L-1: 3\nL-1: elbwo", "line 2"},
                                  {"held A: 3", "a take-off needs a pipe"}}) {
    const auto refused = layTakeOffs(n, bad, shippedStock(), nullptr);
    ASSERT_FALSE(refused) << bad;
    EXPECT_NE(refused.error().what.find(word), std::string::npos) << refused.error().what;
  }
}

TEST(LayTakeOff, readsBackWhatItComesTo) {
  const auto t = parseTakeOff("12.4 elbow 3.1 up Le 2 bore ASME B36.10M 3 40 10", shippedStock());
  const PipeSize& four = *shippedStock().pipe("ASME B36.10M 4 40");
  const ReadBack back = readBack(*t, four.bore_m, four.mass_kgm, shippedStock());
  EXPECT_NEAR(back.length_m, 25.5, 1e-12);
  EXPECT_NEAR(back.rise_m, 3.1, 1e-12);
  EXPECT_NEAR(back.k, 30 * 0.01628595, 1e-6);  // Crane TP-410: 30 fT, fT at 102.26 mm
  EXPECT_NEAR(back.equivalent_m, 30 * 0.10226 + 2, 1e-6);
  EXPECT_NEAR(*back.mass_kg, 15.5 * 16.07 + 10 * 11.29,
              0.2);  // ASME B36.10M prints 16.07 and 11.29 kg/m, each rounded
  EXPECT_NE(back.words(UnitSet::siWater()).find("25.5"), std::string::npos);
}

// What docs/take-off.md shows is what the program takes and refuses.
TEST(LayTakeOff, theExamplesOfThePageHold) {
  std::ifstream in(SOURCE_DIR "/docs/take-off.md");
  std::string fence;
  int shown = 0;
  std::string body;
  for (std::string l; std::getline(in, l);) {
    if (!l.starts_with("```")) {
      if (!fence.empty()) body += l + "\n";
      continue;
    }
    if (fence.empty()) {
      fence = l.substr(3);
      body.clear();
      continue;
    }
    ++shown;
    if (fence == "take-off") EXPECT_TRUE(parseTakeOff(body, shippedStock())) << body;
    else if (fence == "take-off-refused") EXPECT_FALSE(parseTakeOff(body, shippedStock())) << body;
    else if (fence == "take-off-lines") EXPECT_TRUE(isTakeOffLines(body)) << body;
    else ADD_FAILURE() << fence;
    fence.clear();
  }
  EXPECT_EQ(shown, 4);
}

}  // namespace
}  // namespace conduit

#include "network/assume.h"

#include <gtest/gtest.h>

#include <numbers>

#include "exchange/import_table.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "find/condition.h"
#include "limits/limits.h"
#include "model_text.h"
#include "network/arrange.h"
#include "network/overlay.h"
#include "parts/registry.h"

namespace conduit {
namespace {

const Stock& plainStock() { return shippedStock(); }

// A line drawn as the window draws it: a fixed pressure, a pipe from it to a point that draws off.
struct Drawn2 {
  Network network;
  Id pipe = noId, end = noId;
};
Drawn2 drawnLine(Network start = Network()) {
  Edited fed = withAssumed(
      start, *place(start, *findPart("fixed pressure"), {0, 0}, "", &plainStock(), nullptr), plainStock());
  const Id from = fed.network.at(fed.made).ends[0];
  Edited line = withAssumed(
      fed.network, *drawPipe(fed.network, from, noId, {100, 0}, {}, &plainStock(), nullptr), plainStock());
  return {line.network, line.made, line.network.at(line.made).ends[1]};
}

TEST(Assumed, theFirstLineIsCompleteAndMarked) {
  const Drawn2 d = drawnLine();
  const Element& pipe = d.network.at(d.pipe);
  EXPECT_EQ(*pipe.text("size"), "ASME B36.10M 4 40");
  EXPECT_EQ(pipe.given("roughness")->typed, "0.0457 mm");
  EXPECT_EQ(pipe.given("length")->typed, "100 m");
  EXPECT_FALSE(pipe.values.assumed("length")) << "drawn to scale, so said by the drawing";
  for (const char* key : {"size", "roughness"}) EXPECT_TRUE(pipe.values.assumed(key)) << key;
  EXPECT_TRUE(d.network.at(d.end).values.assumed("height"));
  const Solution s = solve(d.network, &plainStock());
  EXPECT_TRUE(s.summary.usable()) << s.summary.full();
  // Two heights, a pressure, a size, a wall.
  EXPECT_EQ(assumedIn(d.network).size(), 5u);
  const auto said = assumedSaid(d.network);
  EXPECT_NE(std::find(said.begin(), said.end(), "L-1: size ASME B36.10M 4 40, roughness 0.0457 mm"),
            said.end())
      << "as the printed page lists it";
  EXPECT_EQ(elementsThat(*readCondition("assumed", UnitSet::siWater()), d.network, s).size(), 4u);
}

// A point that is drawn counts the reducer that comes to be there: 5 L/s out of 4 into 2 in, by a cone of 30°
// K = 0.8 sin 15° (1 − β²) on the narrower pipe (102.26 and 52.50 mm). Marked where the bores differ alone.
TEST(Assumed, aNewPointBetweenTwoBoresCountsACone) {
  const Drawn2 d = drawnLine();
  Edited on = withAssumed(d.network, *drawPipe(d.network, d.end, noId, {150, 0}, {}, &plainStock(), nullptr),
                          plainStock());
  const std::string last = on.network.at(on.network.at(on.made).ends[1]).name;
  const Network drawn =
      setField(on.network, on.network.byName(last), "outflow", "5 L/s", &plainStock(), nullptr)->network;
  const auto conesIn = [](const Network& n) {
    const auto all = assumedIn(n);
    return std::count_if(all.begin(), all.end(),
                         [](const AssumedValue& a) { return a.key == "change of bore"; });
  };
  EXPECT_EQ(conesIn(drawn), 0) << "one bore";
  const Network narrow =
      setField(drawn, on.made, "size", "ASME B36.10M 2 40", &plainStock(), nullptr)->network;
  EXPECT_EQ(conesIn(narrow), 1);
  const auto headAt = [&](const Network& n) {
    return *outcomeOf(*n.at(n.byName(last)).part, "head",
                      *ReadingOf(n, solve(n, &plainStock()), n.byName(last)));
  };
  const Network bare =
      setField(narrow, d.end, "change of bore", "not counted", &plainStock(), nullptr)->network;
  const double v = 5e-3 / (std::numbers::pi / 4 * 0.0525 * 0.0525), beta = 0.0525 / 0.10226;
  EXPECT_NEAR(headAt(bare) - headAt(narrow),
              0.8 * std::sin(std::numbers::pi / 12) * (1 - beta * beta) * v * v / (2 * 9.80665), 2e-4);
  // Through the file it stays assumed; said, it is no longer.
  const auto again = readModel(writeModel({.drawn = narrow}), &plainStock());
  ASSERT_TRUE(again.has_value());
  EXPECT_EQ(conesIn(again->drawn), 1);
  EXPECT_EQ(conesIn(setField(narrow, d.end, "change of bore", "cone", &plainStock(), nullptr)->network), 0);
}

TEST(Assumed, whatTheJobSaysOfNewLinesIsGiven) {
  Network job;
  for (const auto& [key, text] :
       {std::pair{"size of new lines", "110 PE SDR 11"}, std::pair{"height of new points", "12 m"}}) {
    const auto set = setField(job, jobId, key, text, &plainStock(), nullptr);
    ASSERT_TRUE(set) << set.error().what;
    job = set->network;
  }
  const Drawn2 d = drawnLine(job);
  EXPECT_EQ(*d.network.at(d.pipe).text("size"), "ISO 4427 PE100 110 SDR 11");
  EXPECT_FALSE(d.network.at(d.pipe).values.assumed("size"));
  // The wall is nobody's yet: that of clean polyethylene, 0.007 mm in the stock.
  EXPECT_EQ(d.network.at(d.pipe).given("roughness")->typed, "0.007 mm");
  EXPECT_TRUE(d.network.at(d.pipe).values.assumed("roughness"));
  EXPECT_EQ(d.network.at(d.end).given("height")->typed, "12 m");
  EXPECT_FALSE(d.network.at(d.end).values.assumed("height"));
}

TEST(Assumed, theWallGoesByTheFrictionLaw) {
  for (const auto& [law, key, text] :
       {std::tuple{"Hazen-Williams", "C", "140"}, std::tuple{"Manning", "n", "0.012"}}) {
    const auto job = setField(Network(), jobId, "friction law", law, &plainStock(), nullptr);
    const Drawn2 d = drawnLine(job->network);
    ASSERT_NE(d.network.at(d.pipe).given(key), nullptr) << law;
    EXPECT_EQ(d.network.at(d.pipe).given(key)->typed, text);
    EXPECT_TRUE(solve(d.network, &plainStock()).summary.usable()) << law;
  }
}

// Every kind that can be drawn is complete once it is drawn, set into a line or standing alone at a point.
TEST(Assumed, everyKindIsCompleteOnceItIsDrawn) {
  for (const Part* part : allParts()) {
    if (!part->letter || part->group == Group::drawing || part->geometry || part->ends == Ends::none ||
        part->ends == Ends::self)
      continue;
    const Drawn2 d = drawnLine();
    const bool intoLine = part->ends == Ends::one || part->ends == Ends::two;
    const auto edited = intoLine ? setInto(d.network, d.pipe, 0.5, *part, &plainStock())
                                 : setAfter(d.network, d.end, {120, 0}, *part);
    ASSERT_TRUE(edited) << part->key;
    const Network whole = withAssumed(d.network, *edited, plainStock()).network;
    const Solution s = solve(whole, &plainStock());
    EXPECT_TRUE(elementsThat(*readCondition("incomplete", UnitSet::siWater()), whole, s).empty())
        << part->key << ": " << s.summary.full();
  }
}

TEST(Assumed, isKeptInTheFileAndGoneOnceItIsGiven) {
  const Drawn2 d = drawnLine();
  const std::string text = writeModel(d.network);
  EXPECT_NE(text.find(R"("assumed": ["size","roughness"])"), std::string::npos) << text;
  const auto read = readDrawn(text, &plainStock());
  ASSERT_TRUE(read);
  EXPECT_EQ(writeModel(*read), text);
  EXPECT_TRUE(read->at(read->byName("L-1")).values.assumed("size"));
  // Given, even as what was assumed, it is nobody's guess any more; undo is another network.
  const auto given = setField(d.network, d.pipe, "size", "ASME B36.10M 4 40", &plainStock(), nullptr);
  ASSERT_TRUE(given);
  EXPECT_FALSE(given->network.at(d.pipe).values.assumed("size"));
  EXPECT_EQ(assumedIn(given->network).size(), 4u);
  EXPECT_EQ(differences(d.network, given->network).all().size(), 1u);
}

TEST(Assumed, ofNothingThatIsThereIsAFault) {
  const auto read = readDrawn(
      R"({"format":"level-conduit","version":2,"points":[{"name":"A","assumed":["height","depth"]}],"elements":[]})",
      &plainStock());
  ASSERT_FALSE(read);
  EXPECT_NE(read.error().front().what.find("height"), std::string::npos) << read.error().front().what;
  EXPECT_FALSE(readDrawn(
      R"({"format":"level-conduit","version":2,"points":[{"name":"A","height":"1 m","assumed":"height"}],"elements":[]})",
      &plainStock()));
}

TEST(Assumed, aHeightTypedCarriesOnAlongWhatIsDrawn) {
  Drawn2 d = drawnLine();
  d.network = setField(d.network, d.end, "height", "7 m", &plainStock(), nullptr)->network;
  const Edited next = withAssumed(
      d.network, *drawPipe(d.network, d.end, noId, {150, 0}, {"", "3 m", d.pipe}, &plainStock(), nullptr),
      plainStock());
  const Element& far = next.network.at(next.network.at(next.made).ends[1]);
  EXPECT_EQ(far.given("height")->typed, "10 m");
  EXPECT_FALSE(far.values.assumed("height"));
  EXPECT_TRUE(next.network.at(next.made).values.assumed("size"))
      << "like the pipe before, and as little said";
}

TEST(Words, aSizeInTheBoreFieldAndAMaterialInTheRoughnessField) {
  Drawn2 d = drawnLine();
  auto put = [&](const char* key, const char* text) {
    const auto edited = setField(d.network, d.pipe, key, text, &plainStock(), &UnitSet::siWater());
    ASSERT_TRUE(edited) << key << " " << text << ": " << edited.error().what;
    d.network = edited->network;
  };
  put("bore", "6 in sch 40");
  EXPECT_EQ(*d.network.at(d.pipe).text("size"), "ASME B36.10M 6 40");
  EXPECT_EQ(d.network.at(d.pipe).given("bore"), nullptr);
  put("bore", "154 mm");
  EXPECT_EQ(d.network.at(d.pipe).given("bore")->typed, "154 mm");
  put("size", "110 PE SDR 11");
  EXPECT_EQ(d.network.at(d.pipe).given("bore"), nullptr) << "the size says the bore";
  EXPECT_EQ(d.network.at(d.pipe).given("roughness")->typed, "0.007 mm") << "nobody had said another wall";
  put("roughness", "galvanised steel");
  EXPECT_EQ(d.network.at(d.pipe).given("roughness")->typed, "0.152 mm");
  put("size", "4 in");
  EXPECT_EQ(d.network.at(d.pipe).given("roughness")->typed, "0.152 mm") << "this wall was given";
  put("size", "102.3 mm");
  EXPECT_EQ(d.network.at(d.pipe).given("bore")->typed, "102.3 mm");
  for (const auto& [key, text] : {std::pair{"bore", "4 in sch 41"}, std::pair{"roughness", "chocolate"}})
    EXPECT_FALSE(setField(d.network, d.pipe, key, text, &plainStock(), &UnitSet::siWater())) << text;
  for (const auto& [key, text] :
       {std::pair{"size of new lines", "wide"}, std::pair{"wall of new lines", "chocolate"}})
    EXPECT_FALSE(setField(d.network, jobId, key, text, &plainStock(), &UnitSet::siWater())) << text;
}

// 100 m drawn, a valve in the middle: the halves add up to 100 m and both follow when an end is moved.
TEST(Drawing, lengthsFollowOnBothSidesOfADevice) {
  const Drawn2 d = drawnLine();
  const Edited valve = withAssumed(
      d.network, *setInto(d.network, d.pipe, 0.5, *findPart("isolating valve"), &plainStock()), plainStock());
  const Network& n = valve.network;
  const Element& device = n.at(valve.made);
  Id second = noId;
  for (const Id id : n.elementsAt(device.ends[1]))
    if (id != valve.made) second = id;
  ASSERT_NE(second, noId);
  const auto length = [](const Network& net, Id id) { return net.at(id).given("length")->value; };
  EXPECT_NEAR(length(n, d.pipe) + length(n, second), 100, 0.011);
  const Network far = moveAll(n, std::array{n.at(second).ends[1]}, 20, 0).network;
  EXPECT_NEAR(length(far, second), length(n, second) + 20, 0.011);
  const Network moved = moveAll(n, std::array{valve.made}, 10, 0).network;
  EXPECT_NEAR(length(moved, d.pipe), length(n, d.pipe) + 10, 0.011);
  EXPECT_NEAR(length(moved, second), length(n, second) - 10, 0.011);
}

// A line whose length counts to the end of a device, as older drawings have it, keeps that length when it is
// cut or gets another device.
TEST(Drawing, cuttingKeepsTheSumHoweverTheLengthWasCounted) {
  const Drawn2 d = drawnLine();
  const Edited valve = withAssumed(
      d.network, *setInto(d.network, d.pipe, 0.5, *findPart("isolating valve"), &plainStock()), plainStock());
  const Id far = valve.network.at(valve.made).ends[1];
  Id second = noId;
  for (const Id id : valve.network.elementsAt(far))
    if (id != valve.made) second = id;
  const Element& line = valve.network.at(second);
  const double toEnds = valve.network.at(line.ends[1]).at.x - valve.network.at(line.ends[0]).at.x;
  for (const std::string& text :
       {std::to_string(toEnds) + " m", line.given("length")->typed, std::string("61 m")}) {
    const Network n = setField(valve.network, second, "length", text, &plainStock(), nullptr)->network;
    const double whole = n.at(second).given("length")->value;
    for (const auto& cut : {*splitPipe(n, second, 0.4, &plainStock()),
                            *setInto(n, second, 0.4, *findPart("check valve"), &plainStock())}) {
      double sum = 0;
      cut.network.each([&](Id id, const Element& e) {
        if (e.part->geometry && (id == second || id >= n.bound())) sum += e.given("length")->value;
      });
      EXPECT_NEAR(sum, whole, 0.021) << text;
    }
  }
}

TEST(Drawing, aDeviceIsOneThingInHeight) {
  const Drawn2 d = drawnLine();
  const Edited valve = withAssumed(
      d.network, *setInto(d.network, d.pipe, 0.5, *findPart("isolating valve"), &plainStock()), plainStock());
  const Element& device = valve.network.at(valve.made);
  const auto raised = setHeight(valve.network, device.ends[0], "8 m", &plainStock(), nullptr);
  ASSERT_TRUE(raised);
  for (const Id end : device.ends) EXPECT_EQ(raised->network.at(end).given("height")->typed, "8 m");
  EXPECT_EQ(raised->network.at(d.end).given("height")->value, 0) << "the pipe's own end stays";
  const auto far = setField(raised->network, device.ends[1], "height", "4.5 m", &plainStock(), nullptr);
  const Solution s = solve(far->network, &plainStock());
  const auto found = findings(far->network, s, UnitSet::siWater());
  const auto apart = std::find_if(found.begin(), found.end(), [](const Finding& f) {
    return f.what.find("differ in height by 3.50 m") != std::string::npos;
  });
  ASSERT_NE(apart, found.end());
  ASSERT_EQ(apart->remedies.size(), 2u);
  const auto mended = applyRemedy(far->network, apart->remedies.front(), &plainStock(), nullptr);
  ASSERT_TRUE(mended);
  EXPECT_EQ(mended->network.at(device.ends[1]).given("height")->typed, "8 m");
}

TEST(Assumed, aDeviceThatNoPipeMeetsHasTheBoreInHandUntilOneDoes) {
  const Network empty;
  Edited valve =
      withAssumed(empty, *placeBetween(empty, *findPart("isolating valve"), {0, 0}, {20, 0}), plainStock());
  const Id id = valve.made;
  // 4 in schedule 40 of ASME B36.10M: 114.3 − 2 · 6.02 = 102.26 mm; a catalogue says 102.3.
  ASSERT_TRUE(valve.network.at(id).given("bore"));
  EXPECT_NEAR(valve.network.at(id).given("bore")->value, 0.10226, 5e-5);
  EXPECT_TRUE(valve.network.at(id).values.assumed("bore"));
  const Id end = valve.network.at(id).ends[1];
  const Edited line = withAssumed(
      valve.network, *drawPipe(valve.network, end, noId, {100, 0}, {}, &plainStock(), nullptr), plainStock());
  EXPECT_EQ(line.network.at(id).values.entry("bore"), nullptr) << "the pipe says it from now on";
  // What somebody has said stays.
  const auto said = setField(valve.network, id, "bore", "80 mm", &plainStock(), nullptr);
  ASSERT_TRUE(said);
  const Edited after = withAssumed(
      said->network, *drawPipe(said->network, end, noId, {100, 0}, {}, &plainStock(), nullptr), plainStock());
  EXPECT_EQ(after.network.at(id).given("bore")->typed, "80 mm");
  // A control valve without a bore has no reducers and needs none.
  const Edited control =
      withAssumed(empty, *placeBetween(empty, *findPart("control valve"), {0, 0}, {20, 0}), plainStock());
  EXPECT_EQ(control.network.at(control.made).values.entry("bore"), nullptr);
}

}  // namespace
}  // namespace conduit

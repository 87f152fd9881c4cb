#include "network/edits.h"

#include <gtest/gtest.h>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "network/history.h"
#include "parts/registry.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

const Stock* stock() { return &shippedStock(); }
const UnitSet& si() { return UnitSet::siWater(); }

Network line() {
  Draft d{Network()};
  const Id a = d.addPoint("A", {0, 0}), b = d.addPoint("B", {100, 0});
  d.values(a).set("height", Given{10, Basis::direct, "10 m"});
  d.values(b).set("height", Given{20, Basis::direct, "20 m"});
  const Id p = d.add(*findPart("pipe"), "L-1", {a, b});
  d.values(p).set("length", Given{120, Basis::direct, "120 m"});
  d.values(p).set("bore", Given{0.1, Basis::direct, "100 mm"});
  return std::move(d).finish();
}

TEST(SetField, keepsWhatWasTypedAndNamesTheStep) {
  const Network n = line();
  const auto e = setField(n, n.byName("L-1"), "length", "52 ft 6 in", stock(), &si());
  ASSERT_TRUE(e);
  EXPECT_EQ(e->name, "Set length of L-1 to 52 ft 6 in");
  EXPECT_EQ(e->network.at(n.byName("L-1")).values.get<Given>("length")->typed, "52 ft 6 in");
}

TEST(SetField, refusesWithPlaceAndRemedy) {
  const Network n = line();
  for (const char* text : {"-5 m", "1,100 m", "12 kg", "1e12 m"}) {
    const auto e = setField(n, n.byName("L-1"), "length", text, stock(), &si());
    ASSERT_FALSE(e) << text;
    EXPECT_EQ(e.error().place, (Place{"L-1", "length"}));
    EXPECT_FALSE(e.error().what.empty());
  }
  const auto twoWays = setField(n, n.byName("L-1"), "length", "1,100 m", stock(), &si());
  ASSERT_EQ(twoWays.error().remedies.size(), 2u);
  // The offered reading can be taken as an edit.
  const auto taken = applyRemedy(n, twoWays.error().remedies[0], stock(), &si());
  ASSERT_TRUE(taken);
  EXPECT_DOUBLE_EQ(taken->network.at(n.byName("L-1")).values.get<Given>("length")->value, 1100);
}

TEST(SetFieldOfAll, isAllOrNothing) {
  const Network n = line();
  const Id ids[] = {n.byName("A"), n.byName("B")};
  const auto e = setFieldOfAll(n, ids, "height", "15 m", stock(), &si());
  ASSERT_TRUE(e);
  EXPECT_EQ(e->network.at(ids[1]).values.get<Given>("height")->value, 15);
  EXPECT_FALSE(setFieldOfAll(n, ids, "bore", "1 m", stock(), &si()));
}

TEST(Split, keepsTheWholeLengthAndTheHeightBetween) {
  const Network n = line();
  const auto e = splitPipe(n, n.byName("L-1"), 0.25, &shippedStock());
  ASSERT_TRUE(e);
  const Network& s = e->network;
  EXPECT_DOUBLE_EQ(s.at(n.byName("L-1")).values.get<Given>("length")->value, 30);
  EXPECT_DOUBLE_EQ(s.at(s.byName("L-2")).values.get<Given>("length")->value, 90);
  EXPECT_DOUBLE_EQ(s.at(e->made).values.get<Given>("height")->value, 12.5);
  EXPECT_EQ(s.at(s.byName("L-2")).values.get<Given>("bore")->typed, "100 mm");
}

TEST(SetInto, everyDeviceStandsInSeries) {
  const Network n = line();
  for (const Part* part : allParts()) {
    if (part->ends != Ends::two || part->geometry) continue;
    const auto e = setInto(n, n.byName("L-1"), 0.5, *part, &shippedStock());
    ASSERT_TRUE(e) << part->key;
    const Network& s = e->network;
    const Element& device = s.at(e->made);
    EXPECT_EQ(s.at(s.byName("L-1")).ends[1], device.ends[0]);
    EXPECT_EQ(s.at(s.byName("L-2")).ends[0], device.ends[1]);
    EXPECT_EQ(s.at(s.byName("L-2")).ends[1], n.byName("B"));
  }
  EXPECT_FALSE(setInto(n, n.byName("A"), 0.5, *findPart("pump"), &shippedStock()));
}

TEST(DrawPipe, continuesHeightAndSize) {
  const Network n = line();
  const auto e = drawPipe(n, n.byName("B"), noId, {160, 80}, {"40 m", "3 m", n.byName("L-1")}, stock(), &si());
  ASSERT_TRUE(e);
  const Element& p = e->network.at(e->made);
  EXPECT_DOUBLE_EQ(e->network.at(p.ends[1]).values.get<Given>("height")->value, 23);
  EXPECT_EQ(p.values.get<Given>("length")->typed, "40 m");
  EXPECT_EQ(p.values.get<Given>("bore")->typed, "100 mm");
  // To scale without a typed length: √(60² + 80²) = 100 m on the level.
  const auto toScale = drawPipe(n, n.byName("B"), noId, {160, 80}, {}, stock(), &si());
  EXPECT_DOUBLE_EQ(toScale->network.at(toScale->made).values.get<Given>("length")->value, 100);
}

TEST(DrawPipe, aTankGetsAConnectionOfItsOwn) {
  auto e = place(Network(), *findPart("tank"), {0, 0}, "30 m", stock(), &si());
  ASSERT_TRUE(e);
  const Id tank = e->made;
  const auto p = drawPipe(e->network, tank, noId, {50, 0}, {}, stock(), &si());
  ASSERT_TRUE(p);
  ASSERT_EQ(p->network.at(tank).ends.size(), 1u);
  EXPECT_EQ(p->network.at(p->made).ends[0], p->network.at(tank).ends[0]);
}

TEST(Swap, goesThereAndBack) {
  Draft d(line());
  const Id pump = d.add(*findPart("pump"), "P-1", {d.network().byName("A"), d.network().byName("B")});
  Network n = std::move(d).finish();
  n = setField(n, pump, "curve", "0 L/s|50 m;20 L/s|40 m;40 L/s|10 m", stock(), &si())->network;
  const Swap& s = findPart("pump")->swaps[0];
  const auto there = swapGiven(n, pump, s, "15 L/s", stock(), &si());
  ASSERT_TRUE(there);
  EXPECT_TRUE(there->network.at(pump).values.released("curve"));
  EXPECT_EQ(there->network.at(pump).values.get<Given>("duty flow")->typed, "15 L/s");
  const auto back = swapGiven(there->network, pump, s, "", stock(), &si());
  ASSERT_TRUE(back);
  EXPECT_EQ(writeModel(back->network), writeModel(n));
}

TEST(CopyAndPaste, bringsTheSameWithNewNames) {
  const Network n = line();
  const Id ids[] = {n.byName("L-1")};
  const Network piece = cutOut(n, ids);
  EXPECT_EQ(piece.count(), 3u);
  std::vector<Id> placed;
  const Edited e = insert(n, piece, 5, 5, &placed);
  EXPECT_EQ(e.network.count(), 6u);
  EXPECT_EQ(placed.size(), 3u);
  EXPECT_NE(e.network.byName("L-2"), noId);
}

TEST(Rename, refusesATakenName) {
  const Network n = line();
  EXPECT_FALSE(rename(n, n.byName("A"), "B"));
  EXPECT_FALSE(rename(n, n.byName("A"), ""));
  EXPECT_TRUE(rename(n, n.byName("A"), "Weir"));
}

TEST(Edits, hundredsAtRandomUndoToTheStartAndBack) {
  test::Chance c{42};
  History h{Network()};
  std::vector<std::string> texts{writeModel(h.now())};
  auto any = [&](auto keep) {
    std::vector<Id> ids;
    h.now().each([&](Id id, const Element& e) {
      if (keep(e)) ids.push_back(id);
    });
    return ids.empty() ? noId : ids[static_cast<std::size_t>(c.below(static_cast<int>(ids.size())))];
  };
  auto point = [&] { return any([](const Element& e) { return e.part->ends == Ends::self || e.part->ends == Ends::many; }); };
  auto pipe = [&] { return any([](const Element& e) { return e.part->key == "pipe"; }); };
  while (texts.size() < 700) {
    Result<Edited> e = tl::unexpected(Problem{});
    const Spot spot{c.between(0, 500), c.between(0, 500)};
    const auto parts = allParts();
    const Part& part = *parts[static_cast<std::size_t>(c.below(static_cast<int>(parts.size())))];
    switch (c.below(9)) {
      case 0: e = place(h.now(), part, spot, "12 m", stock(), &si()); break;
      case 1:
      case 2:
        if (const Id p = point(); p != noId) e = drawPipe(h.now(), p, c.oneIn(2) ? noId : point(), spot, {}, stock(), &si());
        break;
      case 3:
        if (const Id p = pipe(); p != noId) e = setInto(h.now(), p, c.between(0, 1), part, &shippedStock());
        break;
      case 4:
        if (const Id p = pipe(); p != noId) e = splitPipe(h.now(), p, c.between(0, 1), &shippedStock());
        break;
      case 5:
        if (const Id p = any([](const Element&) { return true; }); p != noId && c.oneIn(3)) e = removeAll(h.now(), std::span(&p, 1));
        break;
      case 6:
        if (const Id p = pipe(); p != noId) e = setField(h.now(), p, "bore", std::to_string(20 + c.below(300)) + " mm", stock(), &si());
        break;
      case 7:
        if (const Id p = point(); p != noId) e = moveAll(h.now(), std::span(&p, 1), c.between(-9, 9), 1);
        break;
      case 8:
        if (const Id p = any([](const Element&) { return true; }); p != noId) e = rename(h.now(), p, "X " + std::to_string(texts.size()));
        break;
    }
    if (!e) continue;
    h.record(e->name, std::move(e->network));
    texts.push_back(writeModel(h.now()));
  }
  for (std::size_t i = texts.size(); i-- > 1;) {
    ASSERT_EQ(writeModel(h.now()), texts[i]) << "step " << i;
    h.undo();
  }
  for (std::size_t i = 0; i < texts.size(); i += 37) {
    // Every text reads back to itself.
    const auto again = readModel(texts[i], stock());
    ASSERT_TRUE(again) << again.error().front().what;
    EXPECT_EQ(writeModel(*again), texts[i]);
  }
}

}  // namespace
}  // namespace conduit

#include "network/edits.h"
#include "exchange/import_table.h"
#include "network/arrange.h"
#include "network/columns.h"
#include "network/lay_take_off.h"
#include "network/names.h"
#include "network/turn_into.h"

#include <gtest/gtest.h>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "model/history.h"
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
  EXPECT_EQ(e->network.at(n.byName("L-1")).given("length")->typed, "52 ft 6 in");
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
  EXPECT_DOUBLE_EQ(taken->network.at(n.byName("L-1")).given("length")->value, 1100);
}

TEST(SetFieldOfAll, isAllOrNothing) {
  const Network n = line();
  const Id ids[] = {n.byName("A"), n.byName("B")};
  const auto e = setFieldOfAll(n, ids, "height", "15 m", stock(), &si());
  ASSERT_TRUE(e);
  EXPECT_EQ(e->network.at(ids[1]).given("height")->value, 15);
  EXPECT_FALSE(setFieldOfAll(n, ids, "bore", "1 m", stock(), &si()));
}

TEST(Split, keepsTheWholeLengthAndTheHeightBetween) {
  const Network n = line();
  const auto e = splitPipe(n, n.byName("L-1"), 0.25, &shippedStock());
  ASSERT_TRUE(e);
  const Network& s = e->network;
  EXPECT_DOUBLE_EQ(s.at(n.byName("L-1")).given("length")->value, 30);
  EXPECT_DOUBLE_EQ(s.at(s.byName("L-2")).given("length")->value, 90);
  EXPECT_DOUBLE_EQ(s.at(e->made).given("height")->value, 12.5);
  EXPECT_EQ(s.at(s.byName("L-2")).given("bore")->typed, "100 mm");
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
  const auto e =
      drawPipe(n, n.byName("B"), noId, {160, 80}, {"40 m", "3 m", n.byName("L-1")}, stock(), &si());
  ASSERT_TRUE(e);
  const Element& p = e->network.at(e->made);
  EXPECT_DOUBLE_EQ(e->network.at(p.ends[1]).given("height")->value, 23);
  EXPECT_EQ(p.given("length")->typed, "40 m");
  EXPECT_EQ(p.given("bore")->typed, "100 mm");
  // To scale without a typed length: √(60² + 80²) = 100 m on the level.
  const auto toScale = drawPipe(n, n.byName("B"), noId, {160, 80}, {}, stock(), &si());
  EXPECT_DOUBLE_EQ(toScale->network.at(toScale->made).given("length")->value, 100);
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
  EXPECT_EQ(there->network.at(pump).given("duty flow")->typed, "15 L/s");
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

TEST(Rename, countsCharactersNotBytes) {
  const Network n = line();
  std::string name;
  for (int i = 0; i < 60; ++i) name += "ü";
  const auto renamed = rename(n, n.byName("A"), name);
  ASSERT_TRUE(renamed);
  EXPECT_TRUE(readDrawn(writeModel(renamed->network), stock())) << "the file holds what the window takes";
  EXPECT_FALSE(rename(n, n.byName("A"), name + "u"));
}

TEST(Edits, tenThousandAtRandomUndoToTheStartAndBack) {
  test::Chance c{42};
  History h{Model(), std::size_t{1} << 30};
  constexpr std::size_t steps = 10000, looked = 7;  // the file of every seventh step is compared
  std::map<std::size_t, std::string> texts{{0, writeModel(h.now().drawn)}};
  std::map<std::string, int> names;  // which edits were made
  auto any = [&](auto keep) {
    std::vector<Id> ids;
    h.now().drawn.each([&](Id id, const Element& e) {
      if (keep(e)) ids.push_back(id);
    });
    return ids.empty() ? noId : ids[static_cast<std::size_t>(c.below(static_cast<int>(ids.size())))];
  };
  auto point = [&] {
    return any([](const Element& e) { return e.part->ends == Ends::self || e.part->ends == Ends::many; });
  };
  auto pipe = [&] { return any([](const Element& e) { return e.part->key == "pipe"; }); };
  auto anything = [&] { return any([](const Element&) { return true; }); };
  const char* takeOffs[] = {"12.4 elbow 3 up", "4 check 2", "6 bore 80 mm 3 elbow",
                            "2 reducing (3 bar) 1 gate +10 %", "8"};
  for (std::size_t made = 0; made < steps;) {
    Result<Edited> e = tl::unexpected(Problem{});
    const Spot spot{c.between(0, 500), c.between(0, 500)};
    const auto parts = allParts();
    const Part& part = *parts[static_cast<std::size_t>(c.below(static_cast<int>(parts.size())))];
    std::vector<Id> few;
    for (int i = 0; i < 4; ++i)
      if (const Id id = anything(); id != noId) few.push_back(id);
    const bool crowded = h.now().drawn.count() > 120;
    switch (crowded ? 5 : c.below(18)) {
      case 0: e = place(h.now().drawn, part, spot, "12 m", stock(), &si()); break;
      case 1:
      case 2:
        if (const Id p = point(); p != noId)
          e = drawPipe(h.now().drawn, p, c.oneIn(2) ? noId : point(), spot, {}, stock(), &si());
        break;
      case 3:
        if (const Id p = pipe(); p != noId) e = setInto(h.now().drawn, p, c.between(0, 1), part, stock());
        break;
      case 4:
        if (const Id p = pipe(); p != noId) e = splitPipe(h.now().drawn, p, c.between(0, 1), stock());
        break;
      case 5:
        if (crowded || c.oneIn(3)) e = removeAll(h.now().drawn, few);
        break;
      case 6:
        if (const Id p = pipe(); p != noId)
          e = setField(h.now().drawn, p, "bore", std::to_string(20 + c.below(300)) + " mm", stock(), &si());
        break;
      case 7:
        if (!few.empty()) e = moveAll(h.now().drawn, few, c.between(-9, 9), 1);
        break;
      case 8:
        if (const Id p = anything(); p != noId) e = rename(h.now().drawn, p, "X " + std::to_string(made));
        break;
      case 9:
        if (const auto turned =
                turnInto(h.now().drawn, std::span(few).first(std::min<std::size_t>(1, few.size())), part))
          e = turned->edited;
        break;
      case 10: e = renumber(h.now().drawn, readingOrder(h.now().drawn, few)); break;
      case 11: e = replaceInNames(h.now().drawn, few, "X", "Y"); break;
      case 12:
        if (const Id p = pipe(); p != noId)
          e = layTakeOff(h.now().drawn, p, takeOffs[c.below(5)], *stock(), &si());
        break;
      case 13:
        e = c.oneIn(2) ? mirror(h.now().drawn, few, Direction::across)
                       : lineUp(h.now().drawn, few, LineUp::top);
        break;
      case 14: e = changeByArithmetic(h.now().drawn, few, "bore", "* 1.01", &si()); break;
      case 15: e = fillDown(h.now().drawn, few, "bore"); break;
      case 16:
        if (const auto brought = importTable(
                h.now().drawn,
                {{"name", "x", "y"}, {{"B" + std::to_string(made), "5", "6"}, {"", "x", ""}}, {2, 3}, 3},
                {findPart("point"),
                 {{ColumnIs::name, {}, nullptr}, {ColumnIs::x, {}, nullptr}, {ColumnIs::y, {}, nullptr}},
                 false,
                 true},
                stock(), si()))
          e = brought->edited;
        break;
      case 17: {  // the stock that travels with the model
        Enclosed enclosed = h.now().drawn.enclosed();
        const std::string cells[] = {"Yard", std::to_string(c.below(5)), "A", "", "60", "3", "54", "", "", "",
                                     ""};
        ASSERT_TRUE(putStockRow(enclosed.stock, "pipes.csv", cells, Origin::model));
        Draft draft(h.now().drawn);
        draft.enclose(std::move(enclosed));
        e = Edited{"Stock", std::move(draft).finish()};
        break;
      }
    }
    if (!e) continue;
    ++names[e->name.substr(0, e->name.find(' '))];
    h.record(e->name, Model{std::move(e->network)});
    if (++made % looked == 0) texts[made] = writeModel(h.now().drawn);
  }
  for (const char* kind : {"Place", "Draw", "Set", "Split", "Delete", "Move", "Rename", "Change", "Renumber",
                           "Replace", "Take", "Mirror", "Align", "*", "Fill", "Import", "Stock"})
    EXPECT_GT(names[kind], 10) << kind << " was hardly tried";
  std::size_t at = steps;
  for (; h.canUndo(); h.undo(), --at)
    if (at % looked == 0)
      ASSERT_EQ(writeModel(h.now().drawn), texts.at(at)) << "step " << at << " on the way back";
  ASSERT_EQ(at, 0u) << "all of it is kept";
  for (; h.canRedo(); h.redo(), ++at)
    if (at % (5 * looked) == 0)
      ASSERT_EQ(writeModel(h.now().drawn), texts.at(at)) << "step " << at << " on the way there";
  for (std::size_t i = 0; i < steps; i += 37 * looked) {  // every text reads back to itself
    const auto again = readDrawn(texts.at(i), stock());
    ASSERT_TRUE(again) << again.error().front().what;
    EXPECT_EQ(writeModel(*again), texts.at(i));
  }
}

}  // namespace
}  // namespace conduit

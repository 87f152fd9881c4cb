// Sweeps: values as typed, each point against a hand value, parts in any order to the same bits.
#include "cases/sweep.h"

#include <fmt/format.h>

#include "cases/case_edits.h"
#include "exchange/sweep_file.h"
#include "model/watched.h"
#include "model_text.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

// A valve of Kv 60 between held heads of 50 m and 20 m: Q = 60·x·√(9.80665·30/100) m³/h at the opening x.
Model oneValve() {
  return {
      test::model(test::point("A", 0) + "," + test::point("C", 0),
                  test::held("A", 50) + "," + test::held("C", 20) + "," +
                      test::device("control valve", "V", "A", "C", "\"Kv\":\"60 Kv\",\"opening\":\"100 %\"") +
                      "," + test::pipe("L", "A", "C", 100, "100 mm"))};
}
Result<Vary> vary(const char* what, const char* over) {
  return readVary(what, over, oneValve().drawn, shippedStock(), UnitSet::siWater());
}
std::shared_ptr<const Stock> plain() { return {std::shared_ptr<const Stock>(), &shippedStock()}; }
Watched watched(const char* text, const Network& network) {
  const auto w = readWatched(text, network, UnitSet::siWater());
  EXPECT_TRUE(w) << w.error().what;
  return w ? *w : Watched();
}

struct VaryText {
  const char *what, *over;
  std::size_t count;
  const char *first, *last;
};
class VaryTyped : public testing::TestWithParam<VaryText> {};
TEST_P(VaryTyped, hasTheseValues) {
  const auto v = vary(GetParam().what, GetParam().over);
  ASSERT_TRUE(v) << v.error().what;
  ASSERT_EQ(v->texts.size(), GetParam().count);
  EXPECT_EQ(v->texts.front(), GetParam().first);
  EXPECT_EQ(v->texts.back(), GetParam().last);
}
INSTANTIATE_TEST_SUITE_P(
    Every, VaryTyped,
    testing::Values(VaryText{"V opening", "10 % to 100 % in 9 steps", 10, "10 %", "100 %"},
                    VaryText{"v opening", "100 to 20 in 4", 5, "100 %", "20 %"},
                    VaryText{"L length", "0.1 km to 1 km in 9", 10, "0.1 km", "1 km"},
                    VaryText{"job temperature", "0 °C to 40 °C in 8", 9, "0 °C", "40 °C"},
                    VaryText{"job temperature", "32 °F to 104 °F in 2", 3, "32 °F", "104 °F"},
                    VaryText{"L bore", "80 mm, 100 mm; 125 mm", 3, "80 mm", "125 mm"},
                    VaryText{"held A pressure", "30 m, 40 m", 2, "30 m", "40 m"},
                    VaryText{"V given flow", "5 L/s, 10 L/s", 2, "5 L/s", "10 L/s"},
                    VaryText{"L size", "sizes ASME B36.10M 40 from 2 to 4", 5, "ASME B36.10M 2 40",
                             "ASME B36.10M 4 40"}));

class NoVary : public testing::TestWithParam<std::tuple<const char*, const char*, const char*>> {};
TEST_P(NoVary, saysWhy) {
  const auto [what, over, why] = GetParam();
  const auto v = vary(what, over);
  ASSERT_FALSE(v);
  EXPECT_NE(v.error().what.find(why), std::string::npos) << v.error().what;
}
INSTANTIATE_TEST_SUITE_P(Every, NoVary,
                         testing::Values(std::tuple{"", "1 to 2", "enter the value to vary"},
                                         std::tuple{"V", "1 to 2", "is not an element and field"},
                                         std::tuple{"V colour", "1 to 2", "is not a field of V"},
                                         std::tuple{"V opening", "", "enter the values of V"},
                                         std::tuple{"V opening", "10 bananas", "bananas"},
                                         std::tuple{"V opening", "10 % to 90 % in many", "number of steps"},
                                         std::tuple{"V opening", "10 % to 90 % in 0", "number of steps"},
                                         std::tuple{"V opening", "10 % to 90 % in 100000",
                                                    "maximum 100\u202f000 values"},
                                         std::tuple{"V opening", "10 % to 300 % in 2", "range"},
                                         std::tuple{"L size", "sizes of bananas", "no catalogue size"},
                                         std::tuple{"V opening", "sizes ASME B36.10M 40", "size of a line"},
                                         std::tuple{"L size", "sizes ASME B36.10M 40 from 8 to 2", "empty"}));

}  // namespace

TEST(Sweeps, everyPointIsItsHandValue) {
  const Model model = oneValve();
  Sweep sweep{.columns = {*vary("V opening", "10 % to 100 % in 9"), *vary("held A pressure", "50 m, 38 m")}};
  sweep.watched = {watched("V flow", model.drawn)};
  const SweepResult r = runSweep(model, sweep, plain(), {});
  ASSERT_EQ(r.points.size(), 20u);
  EXPECT_EQ(r.solved, 20u);
  for (std::size_t i = 0; i < 20; ++i) {
    const double opening = 0.1 * static_cast<double>(i / 2 + 1), head = i % 2 == 0 ? 30 : 18;
    ASSERT_EQ(r.points[i].end, SweepPoint::End::solved) << r.points[i].why;
    // m³/h to m³/s; to the solver's 1e-7 m of 18 m.
    EXPECT_NEAR(r.points[i].si[0], 60 * opening * std::sqrt(9.80665 * head / 100) / 3600, 1e-9) << i;
  }
}

TEST(Sweeps, aPointWithoutAnAnswerSaysWhyAndTheOthersStand) {
  Model model = oneValve();
  auto added = addCase(model, "Throttled", drawingCase);
  ASSERT_TRUE(added);
  model = added->model;
  Sweep sweep{.in = added->made, .columns = {*vary("V given flow", "5 L/s, 10 L/s")}};
  sweep.watched = {watched("V flow", model.drawn)};
  SweepResult r = runSweep(model, sweep, plain(), {});
  EXPECT_EQ(r.points[0].end, SweepPoint::End::cannotBalance) << "nothing is free to be solved for";
  EXPECT_FALSE(r.points[0].why.empty());
  const auto found =
      applyRemedy(model.drawn, {"", {{"V", "found opening", "yes"}}, {}}, &shippedStock(), nullptr);
  ASSERT_TRUE(found);
  model = withEdit(model, added->made, found->network);
  sweep.watched.push_back(watched("L velocity", model.drawn));
  r = runSweep(model, sweep, plain(), {});
  EXPECT_EQ(r.points[0].end, SweepPoint::End::solved) << r.points[0].why;
  EXPECT_NEAR(r.points[1].si[0], 0.010, 1e-12);
}

TEST(Sweeps, limitsAreKeptBetween) {
  Model model = oneValve();
  const auto limited =
      applyRemedy(model.drawn, {"", {{"job", "velocity at most", "2 m/s"}}, {}}, &shippedStock(), nullptr);
  model.drawn = limited->network;
  // v in L falls with its length; at some length it keeps 2 m/s.
  Sweep sweep{.columns = {*vary("L length", "100 m to 2100 m in 20")}};
  sweep.watched = {watched("L velocity", model.drawn)};
  const SweepResult r = runSweep(model, sweep, plain(), {});
  const auto kept = keptBetween(sweep, r);
  ASSERT_EQ(kept.size(), 1u);
  EXPECT_DOUBLE_EQ(kept[0].second, 2100);
  for (std::size_t i = 0; i < r.points.size(); ++i) {
    const double length = 100 + 100 * static_cast<double>(i);
    EXPECT_EQ(r.points[i].si[0] <= 2.0, length > kept[0].first) << length;
    EXPECT_EQ(r.points[i].broken[0] != 0, r.points[i].si[0] > 2.0);
  }
  EXPECT_EQ(keptBetween(sweep, r, 0), kept);
}

// Parts in any order, on any number of threads, on machines of one type: the same bits as in one go.
TEST(Sweeps, partsInAnyOrderAreTheWholeToTheLastBit) {
  Model model{test::gridNetwork(200, 5)};
  std::string name;
  model.drawn.each([&](Id, const Element& e) {
    if (e.part->key == "pipe" && name.empty()) name = e.name;
  });
  auto v = readVary(name + " length", "50 m to 500 m in 30", model.drawn, shippedStock(), UnitSet::siWater());
  ASSERT_TRUE(v) << v.error().what;
  Sweep sweep{.columns = {*v}};
  sweep.watched = {watched("pipes velocity maximum", model.drawn),
                   watched((name + " flow").c_str(), model.drawn)};
  SweepOptions options;
  const auto whole = recordOf(model, sweep, runSweep(model, sweep, plain(), options), options);
  std::vector<SweepRecord> parts;
  for (const std::size_t k : {4, 1, 5, 3, 2}) {
    SweepOptions one;
    one.part = k, one.parts = 5;
    one.jobs.threads = k % 2 + 1;
    const SweepRecord part = recordOf(model, sweep, runSweep(model, sweep, plain(), one), one);
    const auto read = readSweep(writeSweep(part));
    ASSERT_TRUE(read) << read.error().what;
    parts.push_back(*read);
  }
  const auto all = gather(parts);
  ASSERT_TRUE(all) << all.error().what;
  EXPECT_EQ(writeSweep(*all), writeSweep(whole));
  EXPECT_TRUE(unfinished(*all, 5).empty());
  // A part that is missing, or ended in a fault, is named; run again it makes the whole.
  std::vector<SweepRecord> some(parts.begin(), parts.begin() + 3);
  SweepRecord broken = parts[3];
  for (auto& [i, p] : broken.points)
    p = SweepPoint{.end = SweepPoint::End::fault, .si = p.si, .broken = p.broken, .why = "no memory"};
  some.push_back(broken);
  const auto partly = gather(some);
  ASSERT_TRUE(partly);
  EXPECT_EQ(unfinished(*partly, 5), (std::vector<std::size_t>{2, 3}));
  some.push_back(parts[4]), some.push_back(parts[3]);
  EXPECT_EQ(writeSweep(*gather(some)), writeSweep(whole));
  // Of another model, or with other bits: refused.
  SweepRecord other = parts[0];
  other.signature = "of something else";
  EXPECT_FALSE(gather(std::vector{parts[1], other}));
  other = parts[0];
  other.points.begin()->second.si[0] = std::nextafter(other.points.begin()->second.si[0], 0.0);
  EXPECT_FALSE(gather(std::vector{parts[0], other}));
}

TEST(Sweeps, aStopKeepsWhatItHas) {
  Model model{test::gridNetwork(400, 5)};
  std::string name;
  model.drawn.each([&](Id, const Element& e) {
    if (e.part->key == "pipe" && name.empty()) name = e.name;
  });
  Sweep sweep{.columns = {*readVary(name + " length", "50 m to 500 m in 5000", model.drawn, shippedStock(),
                                    UnitSet::siWater())}};
  sweep.watched = {watched("pipes velocity maximum", model.drawn)};
  std::stop_source source;
  SweepOptions options;
  options.jobs.stop = source.get_token();
  options.jobs.progress = [&](std::size_t done, std::size_t) {
    if (done == 40) source.request_stop();
  };
  const SweepResult r = runSweep(model, sweep, plain(), options);
  EXPECT_GE(r.solved, 40u);
  EXPECT_LT(r.solved, 5001u);
  std::size_t there = 0;
  for (const SweepPoint& p : r.points) there += p.end == SweepPoint::End::solved ? 1 : 0;
  EXPECT_EQ(there, r.solved);
}

TEST(Sweeps, aTableIsReadByItsHeadings) {
  const Model model = oneValve();
  const std::vector<std::string> headings{"V opening [%]", "job temperature (°C)", "held A pressure"};
  const std::vector<std::vector<std::string>> rows{{"50", "4", "38 m"}, {"100", "", ""}, {"25", "60"}};
  const auto columns = readColumns(headings, rows, model.drawn, UnitSet::siWater());
  ASSERT_TRUE(columns) << columns.error().what;
  Sweep sweep{.columns = *columns, .rows = true};
  sweep.watched = {watched("V flow", model.drawn)};
  const SweepResult r = runSweep(model, sweep, plain(), {});
  ASSERT_EQ(r.points.size(), 3u);
  const double expected[] = {60 * 0.5 * std::sqrt(9.80665 * 18 / 100) / 3600,
                             60 * std::sqrt(9.80665 * 30 / 100) / 3600,
                             60 * 0.25 * std::sqrt(9.80665 * 30 / 100) / 3600};
  for (std::size_t i = 0; i < 3; ++i) EXPECT_NEAR(r.points[i].si[0], expected[i], 1e-9) << i;
  const auto bad = [&](std::vector<std::string> heads, std::vector<std::vector<std::string>> lines) {
    const auto read = readColumns(heads, lines, model.drawn, UnitSet::siWater());
    return read ? std::string("read") : read.error().what;
  };
  EXPECT_NE(bad({"Q opening"}, {{"1"}}).find("column 1"), std::string::npos);
  EXPECT_NE(bad({"V opening"}, {{"5 %"}, {"bananas"}}).find("row 2"), std::string::npos);
  EXPECT_NE(bad({""}, {{"1"}}).find("no heading"), std::string::npos);
}

class BadSweepFile : public testing::TestWithParam<std::pair<const char*, const char*>> {};
TEST_P(BadSweepFile, isRefusedWithASentence) {
  const auto read = readSweep(GetParam().first);
  ASSERT_FALSE(read);
  EXPECT_NE(read.error().what.find(GetParam().second), std::string::npos) << read.error().what;
}
INSTANTIATE_TEST_SUITE_P(
    Every, BadSweepFile,
    testing::Values(
        std::pair{"", "not a sweep file"}, std::pair{"[1,2]", "not a sweep file"},
        std::pair{"{\"format\":5}", "not a sweep file"},
        std::pair{R"({"format":"level-conduit sweep"})", "incomplete or malformed"},
        std::pair{R"({"format":"level-conduit sweep","version":2})", "version 2"},
        std::pair{
            R"({"format":"level-conduit sweep","version":1,"signature":"x","case":"","points_in_all":1,"part":3,"of":2,"varied":[],"watched":[],"units_shown":[],"unit_factors":[],"unit_offsets":[],"points":[]})",
            "header of this file is inconsistent"},
        std::pair{
            R"({"format":"level-conduit sweep","version":1,"signature":"x","case":"","points_in_all":1,"part":1,"of":1,"varied":[],"watched":[],"units_shown":[],"unit_factors":[],"unit_offsets":[],"points":[{"point":2}]})",
            "no point 2"},
        std::pair{
            R"({"format":"level-conduit sweep","version":1,"signature":"x","case":"","points_in_all":1,"part":1,"of":1,"varied":[],"watched":[],"units_shown":[],"unit_factors":[],"unit_offsets":[],"points":[{"point":1,"end":"solved","si":[1],"broken":[],"limits_broken":0,"on_paper_only":false,"values":[]}]})",
            "a different number of values"}));

}  // namespace conduit

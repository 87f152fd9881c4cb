#include "pump/selection.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "model/pump_request.h"
#include "model_text.h"
#include "pump/data_sheet.h"
#include "pump/pump_edits.h"
#include "quantity/parse.h"

namespace conduit::test {
namespace {

// A pump between two tanks behind a line, two other cases: the far level raised, the pump off. Own stock of
// few.
struct Select : ::testing::Test {
  static std::string item(const std::string& name, double h0, double a, double last_ls, double npsh,
                          const std::string& more = "") {
    std::string rows;
    for (int k = 0; k <= 4; ++k) {
      const double q = last_ls * k / 4, eta = 75 - 55 * std::pow(k / 3.0 - 1, 2);
      rows += (k ? "; " : "") + std::to_string(q) + " L/s | " + std::to_string(h0 - a * q * q) + " m | " +
              std::to_string(k == 0 ? 0 : eta) + " % | " + std::to_string(npsh) + " m";
    }
    const auto row = [&](const std::string& field, const std::string& value) {
      return "pump," + name + "," + field + "," + value + ",test\n";
    };
    return row("curve", rows) + row("rated speed", "1450 rpm") + row("construction", "end suction") +
           row("solids passage", "20 mm") + more;
  }
  void SetUp() override {
    const std::string csv = "kind,name,field,value,source\n" + item("Right", 40, 0.02, 40, 2) +
                            item("Strong", 55, 0.02, 45, 2) + item("Weak", 18, 0.02, 25, 2) +
                            item("Thirsty", 41, 0.02, 40, 30) + item("Short", 60, 0.02, 14, 2) +
                            item("Fast", 40, 0.02, 40, 2, "pump,Fast,least continuous flow,5 L/s,test\n");
    Stock own;
    ASSERT_TRUE(readStockFile(own, "equipment.csv", csv, Origin::own).empty());
    auto base = shippedStock();
    base.items.clear();
    stock = std::make_shared<const Stock>(laidOver(base, own));
    auto read = readModel(
        R"({"format":"level-conduit","version":2,"cases":[{"drawing":true,"name":"Now"},{"name":"High","differs":[{"element":"held E","pressure":"32 m"}]},
        {"name":"Off","differs":[{"element":"P","running":false}]},{"name":"Not counted","counts for sizing":false,"differs":[{"element":"held E","pressure":"90 m"}]}],"points":[)" +
            point("S", 0) + "," + point("D", 0) + "," + point("E", 0) + R"(],"elements":[)" + held("S", 1) +
            "," +
            device(
                "pump", "P", "S", "D",
                R"("curve":[{"flow":"0 L/s","head":"30 m","efficiency":"0 %"},{"flow":"20 L/s","head":"25 m","efficiency":"60 %"},{"flow":"40 L/s","head":"10 m","efficiency":"50 %"}],"rated speed":"1450 rpm","note":"old")") +
            "," + pipe("L", "D", "E", 300, "150 mm", R"("rating":"5 bar")") + "," + held("E", 28) + "]}",
        stock.get());
    ASSERT_TRUE(read.has_value()) << read.error().front().what;
    model = std::move(*read);
    pump = model.drawn.byName("P");
  }
  [[nodiscard]] Selection chosen(const std::vector<std::pair<std::string_view, const char*>>& asked,
                                 std::size_t threads = 0) {
    PumpRequest request{.at = pump};
    for (const auto& [key, text] : asked) {
      const auto edited = setAsked(model, pump, key, text, nullptr);
      EXPECT_TRUE(edited.has_value()) << key;
      model = edited->model;
    }
    if (const PumpRequest* kept = requestAt(model.of<PumpRequests>().all, pump)) request = *kept;
    return select(model, pump, request, stock, {.jobs = {.threads = threads}});
  }
  // The network by hand with the item in place, in a case.
  Solution with(const std::string& name, CaseId id) {
    Draft d(networkOf(model, id));
    d.values(pump) = Values();
    d.values(pump).set(stockItemKey, name);
    last = std::move(d).finish();
    return solve(last, stock.get());
  }
  std::shared_ptr<const Stock> stock;
  Model model;
  Network last;
  Id pump = noId;
};

TEST_F(Select, everyCandidateStandsAtTheDutyItReallyRunsAt) {
  const Selection s = chosen({{"flow", "22 L/s"}});
  ASSERT_TRUE(s.problem.empty()) << s.problem;
  EXPECT_EQ(s.cases.size(), 3u) << "the drawing and the two that count";
  ASSERT_GE(s.can.size(), 2u);
  for (const Candidate& c : s.can) {
    ASSERT_EQ(c.cases.size(), 3u);
    for (std::size_t k = 0; k < 2; ++k) {
      const Solution by = with(c.item, s.cases[k]);
      EXPECT_NEAR(*c.cases[k].duty.flow_m3s, flow(last, by, "P"), 1e-9) << c.item;
      EXPECT_NEAR(*c.cases[k].duty.head_m, headAt(last, by, "D") - headAt(last, by, "S"), 1e-6);
    }
    EXPECT_FALSE(c.cases[2].duty.runs) << "off in that case";
    EXPECT_NEAR(*c.now().over, *c.now().duty.flow_m3s / 0.022 - 1, 1e-12);
    // Speed for exactly the duty: in this system the head at 22 L/s does not depend on the pump.
    if (c.item == "Right") {
      ASSERT_TRUE(c.speedRatio && s.head_m);
      EXPECT_NEAR(*c.speedRatio, std::sqrt((*s.head_m + 0.02 * 22 * 22) / 40), 1e-3)
          << "40 − 0.02 Q², through a table of five points";
    }
    // 1 m at the suction and 40 m of shut-off stand against 5 bar on a line at height 0.
    if (c.item == "Right")
      EXPECT_NEAR(*c.now().ratingSpare_pa, 5e5 - settingOf(model.drawn, stock.get())->medium.pressureOf(41),
                  1);
    EXPECT_EQ(c.shutOff_m, c.item == "Strong" ? 55 : 40) << c.item;
  }
}

// 1 m of head at the suction and (101325 Pa − p_v)/ρg over it, 2 m required: some 9.2 m to spare. With 8.5 m
// required they suit, with 9.5 m they stand behind, short of it.
TEST_F(Select, thoseShortOfMarginAreListedApart) {
  for (const auto& [margin, suit] : {std::pair("8.5 m", true), {"9.5 m", false}}) {
    const Selection s =
        chosen({{"flow", "22 L/s"}, {"flow over by at most", "15 %"}, {"NPSH margin at least", margin}});
    ASSERT_FALSE(s.can.empty());
    EXPECT_EQ(s.suitable(), suit ? s.can.size() : 0u) << margin;
    for (const Candidate& c : s.can) EXPECT_EQ(c.shortOfMargin, !suit) << c.item;
  }
}

// 1 m and 40 m of shut-off head are 4.02 bar: a 4 bar line behind it does not bear them, a 4.1 bar one does.
TEST_F(Select, whatALineBehindDoesNotBearIsLeftOut) {
  for (const auto& [rating, borne] : {std::pair("4.1 bar", true), {"4 bar", false}}) {
    Draft draft(model.drawn);
    draft.values(model.drawn.byName("L")).set("rating", *parse(rating, Measure::gaugePressure));
    model.drawn = std::move(draft).finish();
    const Selection s = chosen({{"flow", "22 L/s"}, {"flow over by at most", "15 %"}});
    const auto right = [&](const std::vector<Candidate>& in) {
      return std::find_if(in.begin(), in.end(), [](const Candidate& c) { return c.item == "Right"; });
    };
    EXPECT_EQ(right(s.can) != s.can.end(), borne) << rating;
    if (!borne) EXPECT_EQ(right(s.cannot)->leftOut, "shut-off pressure above a rating");
  }
}

TEST_F(Select, theOthersAreCountedByTheirFirstReason) {
  const Selection s = chosen({{"flow", "24 L/s"}, {"flow over by at most", "15 %"}});
  std::map<std::string, std::string> why;
  for (const Candidate& c : s.cannot) why[c.item] = c.leftOut;
  EXPECT_EQ(why["Weak"], "head too low");
  EXPECT_EQ(why["Thirsty"], "cavitating");
  EXPECT_EQ(why["Strong"], "flow too high");
  std::size_t counted = 0;
  for (const auto& [reason, count] : s.reasons) counted += count;
  EXPECT_EQ(counted, s.cannot.size());
  EXPECT_EQ(s.can.size() + s.cannot.size(), 6u);
}

TEST_F(Select, filtersNeedNoSolve) {
  EXPECT_EQ(chosen({{"flow", "22 L/s"}, {"construction", "sewage"}}).reasons.front().first,
            "other construction");
  EXPECT_EQ(chosen({{"construction", ""}, {"solids passage at least", "65 mm"}}).reasons.front().first,
            "solids passage too small");
  EXPECT_EQ(
      chosen({{"solids passage at least", "10 mm"}, {"speed at most", "1000 rpm"}}).reasons.front().first,
      "speed too high");
  const Selection power = chosen({{"speed at most", ""}, {"driver at most", "1 kW"}});
  EXPECT_TRUE(power.can.empty());
  EXPECT_TRUE(std::any_of(power.reasons.begin(), power.reasons.end(),
                          [](const auto& r) { return r.first.starts_with("power above"); }));
}

TEST_F(Select, weightsRankAndThreadsDoNot) {
  const Selection near = chosen({{"flow", "24 L/s"},
                                 {"flow over by at most", "100 %"},
                                 {"weight of driver size", "0 %"},
                                 {"weight of efficiency", "0 %"}},
                                1);
  ASSERT_GE(near.can.size(), 2u);
  // What counts alone is how near the flow comes.
  for (std::size_t i = 0; i + 1 < near.can.size(); ++i)
    EXPECT_LE(std::abs(*near.can[i].now().over), std::abs(*near.can[i + 1].now().over) + 1e-12);
  const Selection two = chosen({}, 2);
  ASSERT_EQ(near.can.size(), two.can.size());
  for (std::size_t i = 0; i < near.can.size(); ++i) {
    EXPECT_EQ(near.can[i].item, two.can[i].item);
    EXPECT_EQ(*near.can[i].now().duty.flow_m3s, *two.can[i].now().duty.flow_m3s);
  }
  const Selection small = chosen({{"weight of nearness", "0 %"}, {"weight of driver size", "100 %"}});
  EXPECT_LE(*small.can.front().now().duty.shaft_w, *small.can.back().now().duty.shaft_w);
}

TEST_F(Select, aPumpWithoutACurveIsChosenByWhatTheNetworkAsks) {
  Draft d(model.drawn);
  for (const std::string_view key : {"curve", "rated speed"}) d.values(pump).clear(key);
  const Network bare = std::move(d).finish();
  ASSERT_FALSE(solve(bare, stock.get()).summary.usable());
  const auto asked = readAtFlow(bare, stock.get(), Solution::none(), {.members = {pump}}, 0.022);
  const auto with = readAtFlow(model.drawn, stock.get(), Solution::none(), {.members = {pump}}, 0.022);
  ASSERT_TRUE(asked && with);
  EXPECT_NEAR(asked->head_m, with->head_m, 1e-9) << "whatever pump stands there";
  model.drawn = bare;
  const Selection s = chosen({{"flow", "22 L/s"}});
  EXPECT_NEAR(s.head_m.value_or(0), with->head_m, 1e-6);
  EXPECT_TRUE(std::any_of(s.can.begin(), s.can.end(), [](const Candidate& c) { return c.item == "Right"; }));
}

TEST_F(Select, aSpeedThatIsFoundStaysFoundForACandidate) {
  Draft d(model.drawn);
  d.values(pump).set("speed", *parse("1450 rpm", Measure::rotation));
  d.values(pump).release("speed");
  d.values(pump).give("flow", *parse("20 L/s", Measure::volumeFlow));
  model.drawn = std::move(d).finish();
  model.cases.others.clear();  // off, it could not pass what is given
  const Selection s = chosen({{"flow", "20 L/s"}});
  const auto right =
      std::find_if(s.can.begin(), s.can.end(), [](const Candidate& c) { return c.item == "Right"; });
  ASSERT_NE(right, s.can.end());
  EXPECT_NEAR(*right->now().over, 0, 1e-9);
  // H = s²·40 − 0.02 Q², through a table of five points.
  EXPECT_NEAR(*right->now().duty.speed_perS * 60 / 1450,
              std::sqrt((*right->now().duty.head_m + 0.02 * 400) / 40), 1e-3);
}

TEST_F(Select, unitsRunning) {
  const auto rows = unitsRunning(model, pump, "Right", 3, stock, {});
  ASSERT_EQ(rows.size(), 3u);
  // n units: H = 40 − 0.02 (Q/n)² in L/s; brute force with so many units drawn.
  for (int k = 1; k <= 3; ++k) {
    Draft d(model.drawn);
    d.values(pump) = Values();
    d.values(pump).set(stockItemKey, std::string("Right"));
    d.values(pump).set("units", Given{.value = static_cast<double>(k)});
    const Network n = std::move(d).finish();
    const Solution by = solve(n, stock.get());
    EXPECT_NEAR(*rows[static_cast<std::size_t>(k - 1)].duty.flow_m3s, flow(n, by, "P"), 1e-9);
  }
  EXPECT_LT(*rows[0].duty.flow_m3s, *rows[1].duty.flow_m3s);
}

TEST_F(Select, tryingMakesACaseAndTakingAnEdit) {
  const auto tried = tryItem(model, drawingCase, pump, "Right");
  ASSERT_TRUE(tried.has_value()) << tried.error().what;
  const Network there = networkOf(tried->model, tried->made);
  EXPECT_EQ(flow(there, solve(there, stock.get()), "P"), flow(last, with("Right", drawingCase), "P"));
  EXPECT_EQ(networkOf(tried->model, drawingCase).at(pump).text(stockItemKey), nullptr)
      << "the drawing is as it was";
  const auto taken = takeItem(model, pump, "Right", 2);
  ASSERT_TRUE(taken.has_value());
  EXPECT_EQ(*taken->model.drawn.at(pump).text(stockItemKey), "Right");
  EXPECT_EQ(taken->model.drawn.at(pump).given("units")->value, 2);
  EXPECT_EQ(taken->model.drawn.at(pump).rows("curve"), nullptr);
  // In the case that has it off it stays off.
  EXPECT_FALSE(std::get<bool>(*networkOf(taken->model, 2).at(pump).value("running")));
  EXPECT_FALSE(tryItem(model, drawingCase, model.drawn.byName("E"), "Right").has_value());
  const auto beside = proposal(model, model.drawn.byName("held S"), "Right");
  ASSERT_TRUE(beside.has_value());
  EXPECT_EQ(beside->drawn.count(), model.drawn.count() + 2) << "a point and a pump";
  EXPECT_TRUE(solve(beside->drawn, stock.get()).summary.usable());
}

TEST_F(Select, aReadingGivenBackBalancesToItself) {
  const Solution base = solve(model.drawn, stock.get());
  const PumpGroup alone{.members = {pump}};
  const SystemCurve curve = systemCurve(model.drawn, stock.get(), base, alone, {.most_m3s = 0.04});
  const auto byHead = readAtHead(model.drawn, stock.get(), base, alone, curve, 31, 0.0);
  const auto byFlow = readAtFlow(model.drawn, stock.get(), base, alone, 0.021);
  ASSERT_TRUE(byHead && byFlow);
  for (const auto& [read, head] : {std::pair{*byHead, true}, std::pair{*byFlow, false}}) {
    const auto given =
        caseOfReading(model, drawingCase, stock.get(), pump, alone, {read.flow_m3s, read.head_m, head});
    ASSERT_TRUE(given.has_value()) << given.error().what;
    const Network n = networkOf(given->model, given->made);
    const Solution again = solve(n, stock.get());
    ASSERT_TRUE(again.summary.usable());
    EXPECT_NEAR(flow(n, again, "P"), read.flow_m3s, 1e-6 * read.flow_m3s);
    EXPECT_NEAR(headAt(n, again, "D") - headAt(n, again, "S"), read.head_m, 1e-6 * read.head_m);
  }
  // At the far end as if a pump stood there: pushing water the other way.
  const Id far = model.drawn.byName("held E");
  const auto there = standIn(model.drawn, far);
  ASSERT_TRUE(there.has_value());
  const auto read =
      readAtFlow(there->network, stock.get(), Solution::none(), {.members = {there->pump}}, -0.012);
  ASSERT_TRUE(read.has_value());
  const auto given = caseOfReading(model, drawingCase, stock.get(), far, {.members = {there->pump}},
                                   {read->flow_m3s, read->head_m, false});
  ASSERT_TRUE(given.has_value());
  const Network n = networkOf(given->model, given->made);
  EXPECT_NEAR(flow(n, solve(n, stock.get()), "P"), 0.012, 1e-6 * 0.012);
}

TEST_F(Select, oneNamedSupplyAloneMakesUpTheRest) {
  // Three supplies meet at a point that draws 20 L/s; the third keeps what it gives while the first varies.
  const Network n = test::model(point("W", 0) + "," + point("S", 0) + "," + point("U", 0) + "," +
                                    point("N", 0, R"("outflow":"20 L/s")"),
                                held("W", 30) + "," + held("S", 30) + "," + held("U", 28) + "," +
                                    pipe("L1", "W", "N", 100) + "," + pipe("L2", "S", "N", 100) + "," +
                                    pipe("L3", "U", "N", 100));
  const Solution base = solve(n, stock.get());
  const Id works = n.byName("held W"), spring = n.byName("held S");
  const Network rest = restFrom(n, base, works, spring);
  const auto there = standIn(rest, works);
  ASSERT_TRUE(there.has_value());
  const Solution at = solve(there->network, stock.get(), {.passes = {{there->pump, 0.011}}});
  ASSERT_TRUE(at.summary.usable());
  EXPECT_NEAR(flow(there->network, at, "L3"), flow(n, base, "L3"), 1e-12);
  EXPECT_NEAR(flow(there->network, at, "L2"), 0.020 - 0.011 - flow(n, base, "L3"), 1e-9);
  Model m;
  m.drawn = n;
  const auto read =
      readAtFlow(there->network, stock.get(), Solution::none(), {.members = {there->pump}}, 0.011);
  const auto given = caseOfReading(m, drawingCase, stock.get(), works, {.members = {there->pump}},
                                   {read->flow_m3s, read->head_m, false, spring});
  ASSERT_TRUE(given.has_value());
  const Network back = networkOf(given->model, given->made);
  EXPECT_NEAR(flow(back, solve(back, stock.get()), "L1"), 0.011, 1e-6 * 0.011);
}

TEST_F(Select, sheetsSayWhatWasFound) {
  const Selection s = chosen({{"flow", "22 L/s"}});
  const std::string text = plainText(selectionSheet(model, pump, s, UnitSet::siWater()));
  EXPECT_NE(text.find("Right"), std::string::npos);
  EXPECT_NE(text.find("22.00 L/s"), std::string::npos);
  const auto answers = balanceCases(model, model.cases.ids(), stock, {});
  const std::string sheet =
      plainText(dutySheet(model, *answers.front(), answers, pump, nullptr, UnitSet::siWater()));
  EXPECT_NE(sheet.find("Pump P"), std::string::npos);
  EXPECT_NE(sheet.find("High"), std::string::npos);
}

TEST_F(Select, whatIsAskedIsKeptInTheFile) {
  (void)chosen({{"flow", "22 L/s"}, {"construction", "multistage"}, {"weight of efficiency", "35 %"}});
  const std::string text = writeModel(model);
  const auto again = readModel(text, stock.get());
  ASSERT_TRUE(again.has_value()) << again.error().front().what;
  ASSERT_EQ(again->of<PumpRequests>().all.size(), 1u);
  EXPECT_EQ(again->drawn.at(again->of<PumpRequests>().all[0].at).name, "P");
  EXPECT_DOUBLE_EQ(*askedOf(again->of<PumpRequests>().all[0].about, request::flow), 0.022);
  EXPECT_DOUBLE_EQ(*askedOf(again->of<PumpRequests>().all[0].about, request::efficiency), 0.35);
  EXPECT_EQ(writeModel(*again), text);
  EXPECT_FALSE(setAsked(model, pump, "flow", "18 bar", nullptr).has_value());
  EXPECT_FALSE(setAsked(model, pump, "flow", "-3 L/s", nullptr).has_value());
  const auto cleared = setAsked(model, pump, "flow", "", nullptr);
  EXPECT_FALSE(askedOf(cleared->model.of<PumpRequests>().all[0].about, request::flow).has_value());
  // A place that is not drawn is a problem with its line; what is not known is kept.
  std::string broken = text;
  broken.replace(broken.find("\"at\": \"P\""), 9, "\"at\": \"Q\"");
  EXPECT_FALSE(readModel(broken, stock.get()).has_value());
  std::string more = text;
  more.replace(more.find("\"at\": \"P\""), 9, "\"at\": \"P\", \"colour\": \"red\"");
  EXPECT_NE(writeModel(*readModel(more, stock.get())).find("\"colour\": \"red\""), std::string::npos);
}

}  // namespace
}  // namespace conduit::test

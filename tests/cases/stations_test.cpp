// Two reducing stations on one supply: five cases, swaps in two of them, and a sweep, each against a value
// worked out by hand.
#include "cases/case_edits.h"
#include "cases/sweep.h"
#include "model_text.h"

namespace conduit {
namespace {

constexpr double g = 9.80665, pi = 3.14159265358979323846;

// Supply A of 80 m; stations R-1 and R-2 (100 mm, K 6 when wide open) hold 30 m and 40 m before valves of
// Kv 50 and Kv 20 that lead into the open at 0 m. All at one height.
Model stations() {
  const auto station = [](int n, const char* set, const char* kv) {
    const std::string i = std::to_string(n);
    return "," +
           test::device("reducing valve", "R-" + i, "A", "N" + i,
                        std::string("\"set point\":\"") + set + "\",\"bore\":\"100 mm\",\"K\":\"6\"") +
           "," +
           test::device("control valve", "V-" + i, "N" + i, "E" + i,
                        std::string("\"Kv\":\"") + kv + " Kv\",\"opening\":\"100 %\",\"bore\":\"100 mm\"") +
           "," + test::held("E" + i, 0);
  };
  return {test::model(test::point("A", 0) + "," + test::point("N1", 0) + "," + test::point("E1", 0) + "," +
                          test::point("N2", 0) + "," + test::point("E2", 0),
                      test::held("A", 80) + station(1, "30 m", "50") + station(2, "40 m", "20"))};
}

// Through a valve of Kv with a head of H across it, m³/s: (Q/Kv)² = ρ g H/1e5 · 1000/ρ = g H/100 in m³/h.
double through(double kv, double head) { return kv * std::sqrt(g * head / 100) / 3600; }
// The same behind a station that is wide open: H = (K/(2 g A²) + 100·3600²/(g Kv²)) Q².
double wideOpen(double kv, double head) {
  const double area = pi * 0.01 / 4;
  return std::sqrt(head / (6 / (2 * g * area * area) + 100 * 3600.0 * 3600.0 / (g * kv * kv)));
}

Model edit(const Model& model, CaseId id, std::vector<FieldEdit> edits) {
  const auto done = applyRemedy(networkOf(model, id), {"", std::move(edits), {}}, &shippedStock(), nullptr);
  EXPECT_TRUE(done) << done.error().what;
  return withEdit(model, id, done->network);
}

}  // namespace

TEST(Stations, fiveCasesWithSwapsAreTheirHandValues) {
  Model model = stations();
  const auto add = [&](const char* name, CaseId from, std::vector<FieldEdit> edits) {
    auto made = addCase(model, name, from);
    EXPECT_TRUE(made);
    model = edit(made->model, made->made, std::move(edits));
    return made->made;
  };
  const CaseId night = add("Night", drawingCase, {{"R-1", "set point", "22 m"}});
  const CaseId low = add("Low supply", drawingCase, {{"held A", "pressure", "35 m"}});
  const CaseId opening =
      add("Throttled", night, {{"V-1", "given flow", "15 L/s"}, {"V-1", "found opening", "yes"}});
  const CaseId setting =
      add("Set for flow", drawingCase, {{"V-2", "given flow", "12 L/s"}, {"R-2", "found set point", "yes"}});
  const auto answers =
      balanceCases(model, model.cases.ids(), {std::shared_ptr<const Stock>(), &shippedStock()});
  ASSERT_EQ(answers.size(), 5u);
  const auto of = [&](CaseId id) -> const CaseAnswer& {
    for (const auto& a : answers)
      if (a->id == id) return *a;
    return *answers.front();
  };
  for (const auto& a : answers)
    ASSERT_TRUE(a->usable()) << model.cases.find(a->id)->name << a->solution.summary.full();
  const auto flow = [&](CaseId id, const char* name) {
    return test::flow(of(id).network, of(id).solution, name);
  };
  // To the solver's 1e-7 m of 30 m, on a flow of 24 L/s: 4e-11 m³/s.
  constexpr double near = 2e-10;
  EXPECT_NEAR(flow(drawingCase, "V-1"), through(50, 30), near);
  EXPECT_NEAR(flow(drawingCase, "V-2"), through(20, 40), near);
  EXPECT_NEAR(flow(night, "V-1"), through(50, 22), near);
  EXPECT_NEAR(flow(night, "V-2"), through(20, 40), near) << "what it inherits";
  EXPECT_NEAR(flow(low, "V-1"), through(50, 30), near) << "35 m less what R-1 loses is still over 30";
  EXPECT_NEAR(flow(low, "V-2"), wideOpen(20, 35), near) << "R-2 cannot reach 40 m";
  EXPECT_NEAR(flow(opening, "V-1"), 0.015, 1e-12);
  EXPECT_NEAR(*of(opening).solution.foundFor(model.drawn.byName("V-1"), "opening"), 0.015 / through(50, 22),
              1e-7)
      << "linear: the share of Kv";
  EXPECT_NEAR(flow(setting, "V-2"), 0.012, 1e-12);
  // H = 100·(3600·0.012/20)²/g over the open; the set point is its pressure.
  const double head = 100 * std::pow(3600 * 0.012 / 20, 2) / g;
  EXPECT_NEAR(test::headAt(of(setting).network, of(setting).solution, "N2"), head, 1e-6);
  const double density = of(setting).solution.setting.medium.density_kgm3;
  EXPECT_NEAR(*of(setting).solution.foundFor(model.drawn.byName("R-2"), "set point"), density * g * head,
              0.05);
  // Every case knows nothing of the others' swaps.
  EXPECT_FALSE(of(drawingCase).solution.foundFor(model.drawn.byName("V-1"), "opening"));
  EXPECT_TRUE(of(night).solution.found.empty());
}

TEST(Stations, aSweepOfASetPointFollowsTheValveAndThenTheSupply) {
  const Model model = stations();
  auto vary =
      readVary("R-1 set point", "10 m to 90 m in 16", model.drawn, shippedStock(), UnitSet::siWater());
  ASSERT_TRUE(vary) << vary.error().what;
  Sweep sweep{.columns = {*vary}};
  sweep.watched = {*readWatched("V-1 flow", model.drawn, UnitSet::siWater())};
  const SweepResult r = runSweep(model, sweep, {std::shared_ptr<const Stock>(), &shippedStock()}, {});
  ASSERT_EQ(r.points.size(), 17u);
  const double most = wideOpen(50, 80);
  bool reached = false;
  for (std::size_t i = 0; i < 17; ++i) {
    const double set = 10 + 5 * static_cast<double>(i), held = through(50, set);
    ASSERT_EQ(r.points[i].end, SweepPoint::End::solved) << r.points[i].why;
    EXPECT_NEAR(r.points[i].si[0], std::min(held, most), 3e-10) << set;
    reached = reached || held > most;
  }
  EXPECT_TRUE(reached) << "the last set points are more than the supply can give";
}

}  // namespace conduit

// Branched networks of every kind of equipment: what is proved of them against every choice, each judged by
// the full solver.
#include "sizing/plain_tree.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <random>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "model_text.h"
#include "parts/registry.h"
#include "sizing/search.h"

namespace conduit::test {
namespace {

constexpr int bores[] = {65, 100, 150};

std::string stockOf() {
  std::string rows;
  for (const int bore : bores)
    rows +=
        (rows.empty() ? "" : ",") +
        fmt::format(
            R"({{"standard":"Yard","nominal":"{}","schedule":"A","outside_mm":"{}","wall_mm":"2","bore_mm":"{}","cost_per_m":"{}","kg_per_m":"{}","source":"t"}})",
            bore, bore + 4, bore, 8 + bore / 4, bore / 9);
  return rows;
}

SizingTask taskOf(const std::string& points, const std::string& elements, SizingOptions options,
                  const std::string& job = R"("velocity at most":"4 m/s")", const std::string& more = "") {
  const auto model =
      readModel(R"({"format":"level-conduit","version":2,"job":{)" + job + R"(},"stock":{"pipes.csv":[)" +
                    stockOf() + "]},\"points\":[" + points + "],\"elements\":[" + elements + "]" + more + "}",
                &shippedStock());
  EXPECT_TRUE(model.has_value()) << (model ? "" : model.error().front().what) << points << elements;
  if (!model) return {};
  const auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  auto task = sizingTask(*model, std::move(options), stock, UnitSet::siWater());
  EXPECT_TRUE(task.has_value()) << (task ? "" : task.error().what);
  return task ? std::move(*task) : SizingTask{};
}

std::string line(const std::string& name, const std::string& from, const std::string& to, double length_m,
                 const std::string& more = "") {
  return fmt::format(
      R"({{"kind":"pipe","name":"{}","from":"{}","to":"{}","length":"{} m","size":"Yard 150 A","roughness":"0.1 mm"{}}})",
      name, from, to, length_m, more.empty() ? "" : "," + more);
}

// What stands between two points, with what it is to say.
const std::pair<const char*, const char*> equipment[] = {
    {"isolating valve", R"("K":"1.5","bore":"80 mm")"},
    {"isolating valve", R"("K":"1.5")"},  // on the narrower pipe's bore: by two sizes
    {"check valve", R"("K":"2","bore":"90 mm")"},
    {"control valve", R"("Kv":"90 Kv","opening":"70 %")"},
    {"control valve", R"("Kv":"90 Kv","FL":"0.6","bore":"60 mm")"},
    {"reducing valve", R"("set point":"1.8 bar","bore":"80 mm")"},
    {"sustaining valve", R"("set point":"1.2 bar","bore":"80 mm")"},
    {"limiting valve", R"("flow at most":"60 L/s","bore":"80 mm")"},
    {"strainer", R"("rated flow":"20 L/s","clean drop":"0.1 bar","fouling":"2")"},
    {"meter", R"("rated flow":"20 L/s","rated drop":"0.15 bar")"},
    {"exchanger", R"("rated flow":"15 L/s","rated drop":"0.3 bar")"},
    {"orifice plate", R"("bore":"50 mm","pipe bore":"100 mm")"},
    {"own loss", R"("law":"fixed drop","drop":"0.2 bar")"},
    {"pump", R"("described by":"duty point","duty flow":"20 L/s","duty head":"12 m")"},
};

struct Made {
  std::string points, elements;
  std::vector<std::size_t> kinds;  // of `equipment`
};
Made madeBy(std::uint64_t seed) {
  std::mt19937_64 chance(seed);
  Made m;
  const auto between = [&](double a, double b) {
    return std::round((a + (b - a) * static_cast<double>(chance() % 1000) / 1000) * 10) / 10;
  };
  const bool tank = chance() % 2 == 0;
  m.points = point("N0", 10);
  m.elements =
      tank ? fmt::format(R"({{"kind":"tank","name":"T","level":"{} m","connections":[{{"point":"N0"}}]}})",
                         between(24, 48))
           : fmt::format(R"({{"kind":"fixed pressure","name":"F","point":"N0","pressure":"{} bar"}})",
                         between(1.6, 3.6));
  const int lines = 5;
  for (int i = 1; i <= lines; ++i) {
    std::string from = "N" + std::to_string(i == 1 ? 0 : chance() % static_cast<std::uint64_t>(i));
    if (chance() % 3 > 0) {
      const std::size_t k = (seed + chance() % 3 * 5) % std::size(equipment);
      const std::string to = "M" + std::to_string(i);
      m.points += "," + point(to, between(4, 12));
      m.elements += "," + device(equipment[k].first, "E" + std::to_string(i), from, to, equipment[k].second);
      m.kinds.push_back(k);
      from = to;
    }
    const std::string to = "N" + std::to_string(i);
    // Some drawn towards the source; some change their bore to the next by what is counted.
    m.elements += "," + (chance() % 4 == 0 ? line("L" + std::to_string(i), to, from, between(30, 260))
                                           : line("L" + std::to_string(i), from, to, between(30, 260)));
    m.points +=
        "," + point(to, between(2, 14),
                    fmt::format(R"("outflow":"{} L/s","pressure at least":"{} bar"{})", between(1, 7),
                                between(0.3, 1.4), chance() % 3 == 0 ? R"(,"change of bore":"sudden")" : ""));
  }
  return m;
}

std::optional<double> bruteForce(const SizingTask& task, Judge& judge) {
  std::optional<double> best;
  SizeChoice c(task.rows.size(), 0);
  for (;;) {
    if (const SizingVerdict v = judge.evaluate(c, 0); v.keeps() && (!best || v.objective < *best))
      best = v.objective;
    std::size_t r = 0;
    while (r < c.size() && c[r] + 1u == task.rows[r].sizes.size()) c[r++] = 0;
    if (r == c.size()) return best;
    ++c[r];
  }
}

TEST(PlainTree, ofEveryKindOfEquipmentIsWhatSolvingSays) {
  std::map<std::size_t, int> provedWith;
  int none = 0, tied = 0, cases = 0, open = 0, eased = 0, proved = 0;
  for (std::uint64_t seed = 1; seed <= 90; ++seed) {
    const Made made = madeBy(seed);
    const bool two = seed % 5 == 0;
    const std::string more =
        two ? R"(,"cases":[{"name":"High","counts":true,"differs":[{"element":"N3","outflow":"9 L/s"},{"element":"N1","outflow":"0.5 L/s"}]}])"
            : "";
    SizingTask task = taskOf(made.points, made.elements,
                             {.objective = seed % 3 == 0 ? Objective::wholeLife : Objective::laid},
                             R"("velocity at most":"4 m/s")", more);
    ASSERT_EQ(task.rows.size(), 5u);
    if (seed % 4 == 0) {
      const auto id = [&](const char* name) { return task.model.drawn.byName(name); };
      SizingOptions options = task.options;
      options.tied = {{id("L1"), id("L4")}};
      options.kept = {id("L2")};
      task = *sizingTask(task.model, options, task.stock, task.units);
      ASSERT_EQ(task.rows.size(), 3u);
    }
    Judge judge(task, 1);
    // Sometimes by the widest line of many instead of all of them.
    const PlainTrees plain = plainTrees(task, judge, seed % 3 == 1 ? 12 : 50'000);
    const auto brute = bruteForce(task, judge);
    EXPECT_TRUE(plain.all || !brute) << seed << made.elements;
    if (!plain.none.empty()) {
      EXPECT_FALSE(brute.has_value()) << seed << plain.none;
      ++none;
      continue;
    }
    // The whole way: proved, or searched with a bound that holds.
    if (seed % 4 < 2 && brute) {
      task.options.trials = 1;
      const SizingProposal best = searchSizes(task);
      proved += best.proved;
      if (best.proved) EXPECT_NEAR(best.verdict.objective, *brute, 1e-7 * *brute) << seed << best.how;
      else EXPECT_TRUE(two) << seed << best.how;
      ASSERT_TRUE(best.bound.has_value()) << seed;
      EXPECT_LE(*best.bound, *brute * (1 + 1e-7)) << seed;
      EXPECT_TRUE(best.noneCan.empty()) << seed << best.noneCan;
    }
    for (PlainTree p : plain.cases) {
      // Told at its least it is never dearer; sharpened as long as a choice needs it, the same is found.
      if (seed % 2 == 0) {
        const TreeAnswer full = cheapest(p.tree);
        takeLowestLosses(p);
        EXPECT_LE(cheapest(p.tree).bound, full.found ? full.cost * (1 + 1e-12) : 1e300) << seed;
        for (TreeAnswer b = cheapest(p.tree); b.found && takeFullLosses(p, b.size);) b = cheapest(p.tree);
        for (const PlainTree::Line& l : p.lines) eased += l.least;
      }
      const TreeAnswer a = cheapest(p.tree);
      ASSERT_TRUE(a.proved) << seed;
      if (!a.found) {
        EXPECT_FALSE(brute.has_value()) << seed;
        ++none;
        continue;
      }
      SizeChoice c;
      for (std::size_t r = 0; r < task.rows.size(); ++r) c.push_back(p.size[r][a.size[r]]);
      const SizingVerdict v = judge.evaluate(c, 0, true);
      const double always = v.objective - a.cost;
      EXPECT_TRUE(v.balanced || two) << seed;
      if (brute && v.balanced)
        EXPECT_LE(a.cost + always, *brute * (1 + 1e-9)) << seed << " is more than can be had";
      if (!v.keeps()) {
        // Only for what the tree is not told of.
        EXPECT_TRUE(two || !v.worst || v.worst->check != CheckId::pressure) << seed << v.worst->what;
        ++open;
        continue;
      }
      ASSERT_TRUE(brute.has_value());
      EXPECT_NEAR(v.objective, *brute, 1e-7 * *brute) << seed;
      for (const std::size_t k : made.kinds) ++provedWith[k];
      tied += seed % 4 == 0, cases += two;
    }
  }
  for (std::size_t k = 0; k < std::size(equipment); ++k)
    EXPECT_GT(provedWith[k], 0) << equipment[k].first << equipment[k].second;
  EXPECT_GT(none, 3);
  EXPECT_GT(tied, 3);
  EXPECT_GT(cases, 3);
  EXPECT_GT(proved, 20);
  EXPECT_LT(open, 20);
  EXPECT_GT(eased, 5) << "some stay told at their least";
}

// Two parts with a source each, a ring that a closed valve opens, a pump whose suction line goes by its NPSH
// margin, water fed in: proved, and no choice that keeps the limits is cheaper.
TEST(PlainTree, partsOpenRingsAndSuctionLinesAreProved) {
  const std::string draw = R"("outflow":"6 L/s","pressure at least":"1 bar")";
  const std::string first = point("T1", 6) + "," + point("S", 3) + "," + point("D", 3) + "," +
                            point("A", 8, draw) + "," + point("B", 9, draw) + "," +
                            point("C", 7, R"("inflow":"2 L/s")") + "," + point("X", 8),
                    second = point("T2", 20) + "," + point("E", 4, draw) + "," + point("G", 6, draw);
  const std::string elements =
      R"({"kind":"tank","name":"Low","level":"7 m","connections":[{"point":"T1"}]},)" +
      line("Suction", "T1", "S", 45) + "," +
      device(
          "pump", "P", "S", "D",
          R"("described by":"curve","rated speed":"1450 rpm","curve":[{"flow":"0 L/s","head":"38 m","NPSH required":"6.4 m"},{"flow":"15 L/s","head":"32 m","NPSH required":"9.8 m"}])") +
      "," + line("L1", "D", "A", 120) + "," + line("L2", "A", "B", 150) + "," + line("L3", "C", "B", 90) +
      "," + device("isolating valve", "Shut", "C", "X", R"("open":false)") + "," +
      line("Tail", "X", "A", 60) + "," +
      R"({"kind":"fixed pressure","name":"Main","point":"T2","pressure":"0.6 bar"},)" +
      line("L4", "T2", "E", 140) + "," + line("L5", "E", "G", 200);
  for (const Objective objective : {Objective::laid, Objective::mass, Objective::wholeLife}) {
    const SizingTask task = taskOf(first + "," + second, elements, {.objective = objective},
                                   R"("velocity at most":"3 m/s","NPSH margin at least":"0.5 m")");
    ASSERT_EQ(task.rows.size(), 7u);
    const SizingProposal best = searchSizes(task);
    EXPECT_TRUE(best.proved) << best.how;
    Judge judge(task, 1);
    const auto brute = bruteForce(task, judge);
    ASSERT_TRUE(brute.has_value());
    EXPECT_NEAR(best.verdict.objective, *brute, 1e-9 * *brute);
    EXPECT_NEAR(best.bound.value_or(0), *brute, 1e-9 * *brute);
    EXPECT_EQ(best.trials, 0u);
    // The suction line would be smaller but for the margin.
    bool margin = false;
    for (const Governed& g : best.governed)
      margin = margin || (g.limit && g.limit->check == CheckId::npshMargin);
    EXPECT_TRUE(margin);
  }
}

// Five lines at the point of a tank and a valve whose loss goes by the narrower line beside it: the widest of
// the five decides what the tank's outlet loses, the wider of two what the valve does.
TEST(PlainTree, goesByTheWidestOfManyLines) {
  int proved = 0, mattered = 0;
  for (int k = 0; k < 14; ++k) {
    const auto draw = [&](int i) {
      return fmt::format(R"("outflow":"{} L/s","pressure at least":"{} bar")", 3 + (k * 7 + i * 5) % 9,
                         1.0 + 0.05 * ((k * 3 + i) % 5));
    };
    std::string
        points = point("N0", 4),
        elements = fmt::format(
            R"({{"kind":"tank","name":"T","level":"{} m","connections":[{{"point":"N0","entrance K":"25"}}]}})",
            20 + k % 14);
    for (int i = 1; i <= 4; ++i) {
      points += "," + point("N" + std::to_string(i), 6, draw(i));
      elements += "," + line("L" + std::to_string(i), "N0", "N" + std::to_string(i), 40 + 30 * i + 5 * k);
    }
    points += "," + point("V0", 6) + "," + point("N5", 5, draw(5));
    elements +=
        "," + device("isolating valve", "V", "N0", "V0", R"("K":"9")") + "," + line("L5", "V0", "N5", 60);
    const SizingTask task = taskOf(points, elements, {.objective = Objective::laid});
    Judge judge(task, 1);
    const auto brute = bruteForce(task, judge);
    PlainTrees full = plainTrees(task, judge), byWidest = plainTrees(task, judge, 20);
    ASSERT_EQ(full.cases.size(), 1u);
    ASSERT_EQ(byWidest.cases.size(), 1u);
    EXPECT_GT(byWidest.cases[0].tree.cost.size(), task.rows.size()) << "rows of its own";
    takeLowestLosses(byWidest.cases[0]);
    const TreeAnswer eased = cheapest(byWidest.cases[0].tree), all = cheapest(full.cases[0].tree);
    TreeAnswer best = eased;
    while (best.found && takeFullLosses(byWidest.cases[0], best.size))
      best = cheapest(byWidest.cases[0].tree);
    EXPECT_TRUE(all.proved && best.proved);
    ASSERT_EQ(best.found, brute.has_value()) << k;
    ASSERT_EQ(all.found, brute.has_value()) << k;
    if (!brute) continue;
    EXPECT_NEAR(best.cost, *brute, 1e-9) << k;
    EXPECT_NEAR(all.cost, *brute, 1e-9) << k;
    ++proved, mattered += eased.cost < *brute - 1e-6;
  }
  EXPECT_GT(proved, 5);
  EXPECT_GT(mattered, 1) << "told at its least it would have seemed cheaper";
}

// A pump, strainer and check valve out of a tank, fittings in the lines, limits that show only where they are
// broken: proved; no choice near it that keeps the limits is cheaper, and its lines of two sizes keep them
// though fittings do not go with the length.
TEST(PlainTree, aPumpedPondIsProved) {
  const auto model = loadModel(SOURCE_DIR "/tests/limits/pond.lconduit", &shippedStock());
  ASSERT_TRUE(model.has_value());
  const auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  const auto task = sizingTask(*model, {.objective = Objective::laid}, stock, UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  const SizingProposal best = searchSizes(*task);
  ASSERT_TRUE(best.proved) << best.how;
  Judge judge(*task, 1);
  int cheaper = 0;
  for (int k = 0; k < 625; ++k) {
    SizeChoice c;
    for (int r = 0, left = k; r < 4; ++r, left /= 5)
      c.push_back(static_cast<std::uint16_t>(
          std::clamp(best.choice[static_cast<std::size_t>(r)] + left % 5 - 2, 0,
                     static_cast<int>(task->rows[static_cast<std::size_t>(r)].sizes.size()) - 1)));
    if (judge.costLaid(c) >= best.verdict.laid - 1e-9) continue;
    ++cheaper;
    EXPECT_FALSE(judge.evaluate(c, 0).keeps()) << k;
  }
  EXPECT_GT(cheaper, 50);
  ASSERT_TRUE(best.two.has_value());
  EXPECT_LT(best.two->objective, best.verdict.objective);
  const Network& n = best.two->model.drawn;
  const Solution split = solve(n, stock.get());
  for (const Finding& f : findings(n, split, UnitSet::siWater())) EXPECT_GT(f.severity, Severity::broken);
}

// 8 m of level over 6 m of height leave 2 m; 0.5 bar is 5.10 m of water. 30 L/s in 150 mm run 1.70 m/s.
TEST(PlainTree, thatNoneCanIsSaidWithItsProof) {
  const std::string tank = R"({"kind":"tank","name":"T","level":"8 m","connections":[{"point":"O"}]},)";
  const SizingProposal low = searchSizes(
      taskOf(point("O", 6) + "," + point("A", 6, R"("outflow":"1 L/s","pressure at least":"0.5 bar")"),
             tank + line("L", "O", "A", 100), {.objective = Objective::laid, .trials = 1}));
  EXPECT_FALSE(low.proved || low.verdict.keeps());
  EXPECT_NE(low.noneCan.find("A is 3.10 m short of head"), std::string::npos) << low.noneCan;
  const SizingProposal quick = searchSizes(
      taskOf(point("O", 6) + "," + point("A", 0, R"("outflow":"30 L/s")"), tank + line("L", "O", "A", 10),
             {.objective = Objective::laid, .trials = 1}, R"("velocity at most":"1.6 m/s")"));
  EXPECT_NE(quick.noneCan.find("no size of L"), std::string::npos) << quick.noneCan;
  const SizingProposal enough = searchSizes(
      taskOf(point("O", 6) + "," + point("A", 0, R"("outflow":"30 L/s")"), tank + line("L", "O", "A", 10),
             {.objective = Objective::laid}, R"("velocity at most":"1.8 m/s")"));
  EXPECT_TRUE(enough.proved && enough.noneCan.empty()) << enough.how << enough.noneCan;
}

// Three lines one behind the other out of a tank, 5 L/s drawn behind each.
struct Chain {
  std::string draw = R"("outflow":"5 L/s","pressure at least":"1.6 bar")";
  std::string points =
      point("O", 30) + "," + point("A", 8, draw) + "," + point("B", 9, draw) + "," + point("C", 7, draw);
  std::string elements = R"({"kind":"tank","name":"T","level":"33 m","connections":[{"point":"O"}]},)" +
                         line("L1", "O", "A", 240) + "," + line("L2", "A", "B", 260) + "," +
                         line("L3", "B", "C", 300);
};

// Lines tied one behind the other share a size, proved; only a line that is not tied may be of two sizes.
TEST(PlainTree, aTiedRowKeepsItsSizeWhereOthersAreOfTwo) {
  SizingTask task = taskOf(Chain().points, Chain().elements, {.objective = Objective::laid});
  SizingOptions options = task.options;
  options.tied = {{task.model.drawn.byName("L1"), task.model.drawn.byName("L2")}};
  task = *sizingTask(task.model, options, task.stock, task.units);
  ASSERT_EQ(task.rows.size(), 2u);
  const SizingProposal best = searchSizes(task);
  ASSERT_TRUE(best.proved) << best.how;
  Judge judge(task, 1);
  EXPECT_NEAR(best.verdict.objective, bruteForce(task, judge).value_or(0), 1e-9);
  ASSERT_TRUE(best.two.has_value());
  ASSERT_EQ(best.two->lines.size(), 1u);
  EXPECT_EQ(task.rows[best.two->lines[0].row].lines.size(), 1u) << "a tied row is not cut";
}

// Lines of two sizes are offered with several cases too: every case keeps its limits, solved.
TEST(PlainTree, linesOfTwoSizesKeepTheLimitsOfEveryCase) {
  const auto with = [&](const std::string& differs) {
    return taskOf(
        Chain().points, Chain().elements, {.objective = Objective::laid}, R"("velocity at most":"4 m/s")",
        differs.empty()
            ? ""
            : R"(,"cases":[{"drawing":true,"name":"All"},{"name":"Other","differs":[)" + differs + "]}]");
  };
  const SizingTask alone = with("");
  const SizingProposal one = searchSizes(alone);
  ASSERT_TRUE(one.proved && one.two) << one.how;
  // A case that asks less changes nothing; one that asks more is kept too.
  const SizingProposal less = searchSizes(with(R"({"element":"C","outflow":"2 L/s"})"));
  ASSERT_TRUE(less.proved && less.two) << less.how;
  EXPECT_NEAR(less.two->objective, one.two->objective, 1e-9);
  const SizingTask harder = with(R"({"element":"B","outflow":"6 L/s"})");
  const SizingProposal more = searchSizes(harder);
  ASSERT_TRUE(more.proved) << more.how;
  if (more.two)
    for (const CaseId id : harder.cases) {
      const Network n = networkOf(more.two->model, id);
      const Solution s = solve(n, harder.stock.get());
      for (const Finding& f : findings(n, s, UnitSet::siWater()))
        EXPECT_GT(f.severity, Severity::broken) << f.what;
    }
  // A line that a case has otherwise is not cut in two, of which one would differ.
  const SizingProposal rough = searchSizes(with(R"({"element":"L1","roughness":"0.05 mm"})"));
  if (rough.two)
    for (const TwoSizeLine& l : rough.two->lines) EXPECT_NE(l.row, 0u);
}

}  // namespace
}  // namespace conduit::test

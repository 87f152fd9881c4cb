#include "sizing/slopes.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numeric>

#include "model_text.h"
#include "sizing/search.h"

namespace conduit::test {
namespace {

SizingTask taskIn(const std::string& file, SizingOptions options = {.objective = Objective::laid}) {
  const auto model = loadModel(SOURCE_DIR "/" + file, &shippedStock());
  EXPECT_TRUE(model.has_value());
  const auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  auto task = sizingTask(*model, options, stock, UnitSet::siWater());
  EXPECT_TRUE(task.has_value());
  return std::move(*task);
}

struct Compared {
  std::size_t limits = 0, near = 0, rows = 0, solved = 0;
  double worstObjective = 0.0;
};

// Every slope beside the same change solved. `near`: limits whose change is right to a quarter of itself, of
// those that change by more than a hundredth of the limit.
Compared beside(const SizingTask& task, const SizeChoice& choice) {
  Judge judge(task, 1);
  Judged at{choice, {}};
  std::vector<LimitExcess> limits, then;
  at.verdict = judge.evaluate(choice, 0, {.limits = &limits});
  std::vector<std::size_t> all(choice.size());
  std::iota(all.begin(), all.end(), 0);
  Slopes slopes(task, judge, 0, {});
  slopes.about(at, limits, all, nullptr);
  Compared c;
  c.solved = slopes.anySolved();
  for (std::size_t r = 0; r < choice.size(); ++r)
    for (const int by : {-1, 1}) {
      SizeChoice to = choice;
      const Slope& slope = (by < 0 ? slopes.down() : slopes.up())[r];
      if (!resize(task, to, r, by)) {
        EXPECT_FALSE(slope.there);
        continue;
      }
      const SizingVerdict v = judge.evaluate(to, 0, {.limits = &then});
      EXPECT_EQ(slope.there, v.balanced) << r << " by " << by;
      if (!slope.there || !v.balanced) continue;
      ++c.rows;
      c.worstObjective =
          std::max(c.worstObjective, std::abs(slope.objective - (v.objective - at.verdict.objective)) /
                                         std::max(1.0, std::abs(v.objective - at.verdict.objective)));
      for (const LimitExcess& l : then) {
        const auto was =
            std::find_if(limits.begin(), limits.end(), [&](const auto& x) { return x.which == l.which; });
        if (was == limits.end()) continue;
        const double solved = l.by - was->by;
        if (std::abs(solved) < 0.01) continue;
        const auto said = std::find_if(slope.limits.begin(), slope.limits.end(),
                                       [&](const auto& x) { return x.first == l.which; });
        ++c.limits;
        c.near += said != slope.limits.end() && std::abs(said->second - solved) < 0.25 * std::abs(solved);
      }
    }
  return c;
}

// Branched with given draw-offs the flows stay what they are: the slopes are the solved differences to the
// last figure that a balance gives.
TEST(Slopes, ofABranchedNetworkAreWhatSolvingSays) {
  std::string stock;
  for (const int bore : {80, 100, 125, 150})
    stock += (stock.empty() ? "" : ",") + std::string(R"({"standard":"Yard","nominal":")") +
             std::to_string(bore) + R"(","schedule":"A","outside_mm":")" + std::to_string(bore + 4) +
             R"(","wall_mm":"2","bore_mm":")" + std::to_string(bore) + R"(","cost_per_m":")" +
             std::to_string(bore / 4) + R"(","source":"t"})";
  const auto line = [](const std::string& name, const std::string& a, const std::string& b) {
    return R"({"kind":"pipe","name":")" + name + R"(","from":")" + a + R"(","to":")" + b +
           R"(","length":"200 m","size":"Yard 125 A","roughness":"0.1 mm"})";
  };
  const auto model = readModel(
      R"({"format":"level-conduit","version":2,"job":{"velocity at most":"2.6 m/s"},"stock":{"pipes.csv":[)" +
          stock + R"(]},"points":[)" + point("S", 60) + "," +
          point("A", 20, R"("outflow":"6 L/s","pressure at least":"2 bar")") + "," +
          point("B", 25, R"("outflow":"5 L/s","pressure at least":"2 bar")") + "," +
          point("C", 22, R"("outflow":"7 L/s","pressure at least":"2 bar")") + R"(],"elements":[)" +
          R"({"kind":"fixed pressure","name":"F","point":"S","pressure":"0 bar"},)" + line("L-1", "S", "A") +
          "," + line("L-2", "A", "B") + "," + line("L-3", "C", "A") + "]}",
      &shippedStock());
  ASSERT_TRUE(model.has_value()) << model.error().front().what;
  const auto stockOf = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  const auto task = sizingTask(*model, {.objective = Objective::laid}, stockOf, UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  Judge judge(*task, 1);
  Judged at{{2, 2, 2}, {}};
  std::vector<LimitExcess> limits, then;
  at.verdict = judge.evaluate(at.choice, 0, {.limits = &limits});
  const std::vector<std::size_t> all{0, 1, 2};
  Slopes slopes(*task, judge, 0, {});
  slopes.about(at, limits, all, nullptr);
  EXPECT_FALSE(slopes.anySolved());
  std::size_t compared = 0;
  for (std::size_t r = 0; r < 3; ++r)
    for (const int by : {-1, 1}) {
      SizeChoice to = at.choice;
      ASSERT_TRUE(resize(*task, to, r, by));
      const SizingVerdict v = judge.evaluate(to, 0, {.limits = &then});
      const Slope& slope = (by < 0 ? slopes.down() : slopes.up())[r];
      ASSERT_TRUE(slope.there);
      EXPECT_NEAR(slope.objective, v.objective - at.verdict.objective, 1e-9);
      ASSERT_EQ(then.size(), limits.size());
      for (std::size_t i = 0; i < then.size(); ++i) {
        double said = 0.0;
        for (const auto& [which, more] : slope.limits)
          if (which == limits[i].which) said = more;
        // Balances to 1e-7 m; what is a thousandth of a thousandth of what is to spare is left out.
        EXPECT_NEAR(said, then[i].by - limits[i].by, 2e-6 + 1e-4 * std::abs(limits[i].by))
            << r << " by " << by;
        ++compared;
      }
    }
  EXPECT_GE(compared, 60u);
}

// In loops they are near, optional lines among them.
TEST(Slopes, inLoopsAreNearWhatSolvingSays) {
  {
    const SizingTask task = taskIn("tests/sizing/two_loop.lconduit");
    const Compared c = beside(task, {9, 6, 8, 4, 7, 5, 5, 4});
    EXPECT_EQ(c.solved, 0u);
    EXPECT_EQ(c.rows, 16u);
    EXPECT_LT(c.worstObjective, 1e-12);
    EXPECT_GT(c.limits, 60u);
    EXPECT_GT(static_cast<double>(c.near), 0.75 * static_cast<double>(c.limits));
  }
  {
    SizingTask task = taskIn("tests/sizing/twenty_one_tunnels.lconduit");
    SizeChoice c(21, 0);
    c[6] = 9, c[15] = 6, c[16] = 7, c[17] = 6, c[18] = 5, c[20] = 4;
    const Compared found = beside(task, c);
    EXPECT_EQ(found.rows, 27u);
    EXPECT_GT(found.limits, 60u);
    EXPECT_GT(static_cast<double>(found.near), 0.7 * static_cast<double>(found.limits));
  }
}

// What pumps take goes along: the whole-life cost of a size more or less, near what solving says; also in the
// case in which a speed is found, and with it alone.
TEST(Slopes, countWhatPumpsTake) {
  SizingTask task = taskIn("samples/kestrel-fell.lconduit", {.objective = Objective::wholeLife});
  ASSERT_EQ(task.cases.size(), 5u);
  for (const bool alone : {false, true}) {
    if (alone)
      std::erase_if(task.cases, [&](CaseId id) { return task.model.cases.find(id)->name != "Lower flank"; });
    ASSERT_EQ(task.cases.size(), alone ? 1u : 5u);
    // A size below the widest; alone as drawn, where limits change by more.
    SizeChoice c;
    for (const SizingRow& r : task.rows) {
      ASSERT_TRUE(r.now.has_value());
      c.push_back(static_cast<std::uint16_t>(alone ? *r.now : r.sizes.size() - 2));
    }
    const Compared all = beside(task, c);
    EXPECT_EQ(all.solved, 0u);
    EXPECT_LT(all.worstObjective, 0.1);
    if (!alone) continue;
    EXPECT_GT(all.limits, 20u);
    EXPECT_GT(static_cast<double>(all.near), 0.75 * static_cast<double>(all.limits));
  }
}

}  // namespace
}  // namespace conduit::test

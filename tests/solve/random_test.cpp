// 1,000 random looped networks: each ends in a true answer or a true refusal, judged by a second plain
// routine. None is discarded.
#include <gtest/gtest.h>

#include <set>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "solve/judge.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

class RandomNetworks : public testing::TestWithParam<int> {};

TEST_P(RandomNetworks, endInATrueAnswerOrATrueRefusal) {
  int noStates = 0;
  for (int k = 0; k < 20; ++k) {
    const auto seed = static_cast<std::uint64_t>(GetParam() * 20 + k);
    Chance size{seed * 77 + 5};
    const int pipes =
        static_cast<int>(10 * std::pow(500.0, size.between(0, 1)));  // 10 to 5000, evenly in the logarithm
    const Network network = richNetwork(seed, pipes);
    const Solution solution = solve(network, &shippedStock());
    const std::string which = "seed " + std::to_string(seed) + ", about " + std::to_string(pipes) +
                              " pipes: " + solution.summary.brief(UnitSet::siWater());
    const bool possible = feasible(network);
    if (solution.summary.verdict == Verdict::cannotYet) {
      ASSERT_FALSE(solution.summary.problems.empty()) << which;
      // A ring without loss has no answer although every draw could be met: one that the suite has put there.
      if (possible)
        EXPECT_NE(solution.summary.problems[0].what.find("flow round P"), std::string::npos) << which;
      continue;
    }
    EXPECT_TRUE(possible) << which;
    if (solution.summary.verdict == Verdict::noStates) {
      // True when what is named cannot be shut, as nothing could balance without it, and, turned by hand
      // through its stroke, never comes to its set point.
      ++noStates;
      const Problem& why = solution.summary.problems.front();
      std::set<std::string> named;
      for (const Remedy& r : why.remedies) named.insert(r.goTo.name);
      ASSERT_EQ(named.size(), 1u) << which;
      const Id valve = network.byName(*named.begin());
      Draft without(network);
      without.remove(valve);
      EXPECT_FALSE(feasible(std::move(without).finish())) << which;
      EXPECT_TRUE(neverAtItsSetPoint(network, valve)) << which;
      continue;
    }
    EXPECT_EQ(solution.summary.verdict, Verdict::balanced) << which;
    if (!solution.summary.usable()) continue;
    EXPECT_LE(solution.summary.headResidual_m, solution.summary.headTolerance_m) << which;
    EXPECT_LE(solution.summary.massResidualShare, 1e-9) << which;
    const auto wrong = judge(network, solution);
    EXPECT_TRUE(wrong.empty()) << which << "\n" << wrong.size() << " faults, first: " << wrong.front();
  }
  EXPECT_LE(noStates, 3);  // a way out that is rarely true
}

INSTANTIATE_TEST_SUITE_P(Seeds, RandomNetworks, testing::Range(0, 50));

// One draw changed: the answer that begins at the last one is the answer from nothing, states and what stands
// in pockets too.
class WarmAnswers : public testing::TestWithParam<int> {};

TEST_P(WarmAnswers, areTheColdOnes) {
  int compared = 0;
  for (int k = 0; k < 40; ++k) {
    const auto seed = static_cast<std::uint64_t>(GetParam() * 40 + k);
    Chance chance{seed * 77 + 5};
    const Network network = richNetwork(seed, static_cast<int>(10 * std::pow(100.0, chance.between(0, 1))));
    const Solution before = solve(network, &shippedStock());
    std::vector<Id> draws;
    network.each([&](Id id, const Element& e) {
      if (e.given("outflow")) draws.push_back(id);
    });
    if (!before.summary.usable() || draws.empty()) continue;
    Draft d(network);
    const Id drawn = draws[static_cast<std::size_t>(chance.below(static_cast<int>(draws.size())))];
    Given q = *network.at(drawn).given("outflow");
    q.value *= 1.5;
    d.values(drawn).set("outflow", q);
    const Network after = std::move(d).finish();
    SolveOptions fromThere;
    fromThere.startFrom = &before;
    const Solution cold = solve(after, &shippedStock()), warm = solve(after, &shippedStock(), fromThere);
    ASSERT_EQ(cold.summary.verdict, warm.summary.verdict) << "seed " << seed;
    if (!cold.summary.usable()) continue;
    ++compared;
    const auto near = [](const std::optional<double>& a, const std::optional<double>& b, double slack) {
      return a.has_value() == b.has_value() && (!a || std::abs(*a - *b) <= slack);
    };
    after.each([&](Id id, const Element& e) {
      for (std::size_t b = 0; b < cold.branchCount(id); ++b) {
        const BranchReading one = cold.branch(id, b), other = warm.branch(id, b);
        EXPECT_EQ(one.state, other.state) << "seed " << seed << " " << e.name;
        EXPECT_TRUE(near(one.flow_m3s, other.flow_m3s, 1e-8))
            << "seed " << seed << " " << e.name;  // both balanced to 1e-9 of what passes
        EXPECT_TRUE(near(one.headFrom_m, other.headFrom_m, 1e-5) && near(one.headTo_m, other.headTo_m, 1e-5))
            << "seed " << seed << " " << e.name;
      }
    });
  }
  EXPECT_GT(compared, 15);
}

INSTANTIATE_TEST_SUITE_P(Seeds, WarmAnswers, testing::Range(0, 25));

TEST(Solve, sameModelSameBits) {
  const Network network = gridNetwork(400, 4711);
  const Solution a = solve(network, &shippedStock()), b = solve(network, &shippedStock());
  ASSERT_TRUE(a.summary.usable());
  ASSERT_EQ(a.branches.size(), b.branches.size());
  for (std::size_t i = 0; i < a.branches.size(); ++i)
    EXPECT_EQ(a.branches[i].flow_m3s, b.branches[i].flow_m3s);
}

TEST(Solve, reSolvedFromItsOwnAnswerNeedsNoStep) {
  const Network network = gridNetwork(500, 3);
  const Solution cold = solve(network, &shippedStock());
  ASSERT_TRUE(cold.summary.usable());
  SolveOptions options;
  options.startFrom = &cold;
  const Solution again = solve(network, &shippedStock(), options);
  ASSERT_TRUE(again.summary.usable());
  EXPECT_LE(again.summary.iterations, 1);
}

TEST(Solve, reversingEveryPipeFlipsEverySign) {
  const Network network = gridNetwork(300, 9);
  Draft turned(network);
  network.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe") turned.reverse(id);
  });
  const Network mirror = std::move(turned).finish();
  const Solution a = solve(network, &shippedStock()), b = solve(mirror, &shippedStock());
  network.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe")
      EXPECT_NEAR(*a.branch(id, 0).flow_m3s, -*b.branch(id, 0).flow_m3s, 1e-11)
          << e.name;  // rounding of two solves
  });
}

TEST(Solve, energyIsConserved) {
  // Power given by supplies less what is drawn = power lost in all links, to 1e-9 of the power given.
  const Network network = gridNetwork(800, 21);
  const Solution s = solve(network, &shippedStock());
  ASSERT_TRUE(s.summary.usable());
  double lost = 0, given = 0;
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) {
      if (const Given* q = e.given("outflow")) given -= q->value * *s.head(id);
      return;
    }
    for (std::size_t b = 0; b < s.branchCount(id); ++b) {
      const BranchReading r = s.branch(id, b);
      lost += *r.flow_m3s * (*r.headFrom_m - *r.headTo_m);
      if (e.part->ends == Ends::many) given += *r.flow_m3s * *r.headFrom_m;
    }
  });
  EXPECT_NEAR(lost, given, 1e-9 * std::abs(given) + 1e-12);
}

TEST(Solve, splittingAPipeChangesNothing) {
  const Network network = gridNetwork(200, 33);
  Id line = noId;
  network.each([&](Id id, const Element& e) {
    if (line == noId && e.part->key == "pipe") line = id;
  });
  Draft d(network);
  const Element e = network.at(line);
  const Id middle = d.addPoint("", {});
  d.values(middle).set("height", Given{1, Basis::direct, "1 m"});
  const Id half = d.add(*e.part, "", {middle, e.ends[1]});
  d.values(half) = e.values;
  d.joinEnd(line, 1, middle);
  const double length = e.given("length")->value;
  d.values(line).set("length", Given{0.3 * length, Basis::direct, ""});
  d.values(half).set("length", Given{0.7 * length, Basis::direct, ""});
  const Network cut = std::move(d).finish();
  const Solution a = solve(network, &shippedStock()), b = solve(cut, &shippedStock());
  network.each([&](Id id, const Element& p) {
    if (p.part->key == "point") EXPECT_NEAR(*a.head(id), *b.head(id), 1e-8);
  });
}

}  // namespace
}  // namespace conduit::test

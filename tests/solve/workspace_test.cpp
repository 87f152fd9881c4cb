// What one solve leaves for the next saves time and changes no bit.
#include "solve/workspace.h"

#include <gtest/gtest.h>

#include <bit>
#include <thread>

#include "exchange/stock_files.h"
#include "model_text.h"
#include "network/edits.h"
#include "parts/registry.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

void expectSameBits(const Solution& a, const Solution& b, const std::string& which) {
  ASSERT_EQ(a.summary.verdict, b.summary.verdict) << which;
  EXPECT_EQ(a.summary.iterations, b.summary.iterations) << which;
  const auto same = [](double x, double y) {
    return std::bit_cast<std::uint64_t>(x) == std::bit_cast<std::uint64_t>(y);
  };
  ASSERT_EQ(a.branches.size(), b.branches.size()) << which;
  for (std::size_t i = 0; i < a.branches.size(); ++i)
    ASSERT_TRUE(same(a.branches[i].flow_m3s, b.branches[i].flow_m3s) &&
                a.branches[i].state == b.branches[i].state)
        << which;
  for (std::size_t i = 0; i < a.pointHead_m.size(); ++i)
    ASSERT_TRUE(same(a.pointHead_m[i], b.pointHead_m[i])) << which;
}

// Another number somewhere; now and then more than that.
Network edited(const Network& network, Chance& c, bool& numbersOnly) {
  for (;;) {
    const Id id = static_cast<Id>(1 + c.below(static_cast<int>(network.bound()) - 1));
    const Element* e = network.find(id);
    if (!e) continue;
    Draft d(network);
    numbersOnly = !c.oneIn(5);
    if (!numbersOnly) {
      if (e->part->ends != Ends::two) continue;
      if (c.oneIn(2)) d.reverse(id);
      else d.remove(id);
      return std::move(d).finish();
    }
    for (const Values::Entry& entry : e->values.entries())
      if (const auto* given = std::get_if<Given>(&entry.value)) {
        const Field& f = *findField(*e->part, entry.key);
        d.values(id).set(
            f.key, Given{std::clamp(given->value * c.between(0.8, 1.2), f.least, f.most), given->basis, ""});
        if (c.oneIn(2)) return std::move(d).finish();
      }
  }
}

TEST(Workspace, aSystemRefittedGivesTheBitsOfOneSetUpAnew) {
  int refitted = 0, numbers = 0;
  for (std::uint64_t seed = 0; seed < 40; ++seed) {
    Network network = randomNetwork(seed, 60 + 10 * static_cast<int>(seed));
    Chance c{seed};
    Workspace space;
    Solution last = solve(network, &shippedStock(), {.workspace = &space});
    for (int k = 0; k < 12; ++k) {
      bool numbersOnly = false;
      network = edited(network, c, numbersOnly);
      SolveOptions with{.startFrom = &last, .workspace = &space}, without{.startFrom = &last};
      const bool had = !space.empty();
      Solution next = solve(network, &shippedStock(), with);
      expectSameBits(next, solve(network, &shippedStock(), without),
                     "seed " + std::to_string(seed) + ", edit " + std::to_string(k));
      numbers += numbersOnly && had;
      refitted += next.summary.refitted;
      EXPECT_TRUE(numbersOnly || !next.summary.refitted);
      last = std::move(next);
    }
  }
  EXPECT_GT(refitted, numbers / 2) << "of " << numbers << " edits of numbers";
}

// What is not a number sets up from scratch: a tee said of a point, a check valve taken out of a pump.
TEST(Workspace, whatIsMoreThanANumberIsSetUpAnew) {
  const Network n =
      model(point("A", 0) + "," + point("P", 0) + "," + point("M", 0) + "," +
                point("B", 0, "\"outflow\":\"6 L/s\"") + "," + point("C", 0, "\"outflow\":\"3 L/s\""),
            held("A", 20) + "," +
                device("pump", "U", "A", "P",
                       R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"20 L/s","head":"20 m"}])") +
                "," + pipe("L-1", "P", "M", 50) + "," + pipe("L-2", "M", "B", 50) + "," +
                pipe("L-3", "M", "C", 50));
  const std::pair<FieldEdit, bool> edits[] = {{{"M", "tee branch", "L-3"}, false},
                                              {{"L-1", "length", "60 m"}, false},
                                              {{"M", "tee branch", ""}, false},
                                              {{"U", "check valve", "no"}, true},
                                              {{"L-1", "length", "70 m"}, true}};
  Network now = n;
  Workspace space;
  Solution last = solve(now, &shippedStock(), {.workspace = &space});
  ASSERT_TRUE(last.summary.usable()) << last.summary.full();
  for (const auto& [edit, refits] : edits) {
    const auto next = applyRemedy(now, Remedy{"", {edit}, {}}, &shippedStock(), nullptr);
    ASSERT_TRUE(next) << next.error().what;
    now = next->network;
    Solution s = solve(now, &shippedStock(), {.startFrom = &last, .workspace = &space});
    expectSameBits(s, solve(now, &shippedStock(), {.startFrom = &last}), edit.field);
    EXPECT_EQ(s.summary.refitted, refits) << edit.field;
    last = std::move(s);
  }
}

// A thousand variants of one network, each from the same answer, set up once: in any order the same bits.
TEST(Workspace, servesOneVariantAfterAnother) {
  const Network network = gridNetwork(200, 3);
  Workspace space;
  const Solution base = solve(network, &shippedStock(), {.workspace = &space});
  std::vector<Network> variants;
  network.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || id % 5 != 0) return;
    Draft d(network);
    d.values(id).set("length", Given{e.given("length")->value * 1.3, Basis::direct, ""});
    variants.push_back(std::move(d).finish());
  });
  ASSERT_GT(variants.size(), 20u);
  for (std::size_t i = 0; i < variants.size(); ++i) {
    const Solution s = solve(variants[i], &shippedStock(), {.startFrom = &base, .workspace = &space});
    EXPECT_TRUE(s.summary.refitted) << i;
    expectSameBits(s, solve(variants[i], &shippedStock(), {.startFrom = &base}),
                   "variant " + std::to_string(i));
  }
}

TEST(Workspace, outlivesASolveThatWasStopped) {
  const Network network = gridNetwork(200, 3);
  Workspace space;
  const Solution first = solve(network, &shippedStock(), {.workspace = &space});
  std::stop_source stop;
  stop.request_stop();
  const Solution stopped =
      solve(network, &shippedStock(), {.startFrom = &first, .stop = stop.get_token(), .workspace = &space});
  EXPECT_EQ(stopped.summary.verdict, Verdict::stopped);
  const Solution second = solve(network, &shippedStock(), {.startFrom = &first, .workspace = &space});
  EXPECT_TRUE(second.summary.refitted);
  expectSameBits(second, solve(network, &shippedStock(), {.startFrom = &first}), "after a stop");
}

TEST(Workspace, anotherStockIsAnotherSetUp) {
  const Network network = gridNetwork(100, 3);
  const Stock other = shippedStock();
  Workspace space;
  const Solution first = solve(network, &shippedStock(), {.workspace = &space});
  EXPECT_FALSE(solve(network, &other, {.startFrom = &first, .workspace = &space}).summary.refitted);
}

TEST(Solve, anyNumberOfThreadsGivesTheSameBits) {
  std::vector<Network> networks;
  std::vector<Solution> alone;
  for (std::uint64_t seed = 100; seed < 116; ++seed) {
    networks.push_back(randomNetwork(seed, 150));
    alone.push_back(solve(networks.back(), &shippedStock()));
  }
  for (const int threads : {2, 5}) {
    std::vector<Solution> together(networks.size());
    std::vector<std::thread> pool;
    for (int t = 0; t < threads; ++t)
      pool.emplace_back([&, t] {
        for (std::size_t i = static_cast<std::size_t>(t); i < networks.size();
             i += static_cast<std::size_t>(threads))
          together[i] = solve(networks[i], &shippedStock());
      });
    for (std::thread& t : pool) t.join();
    for (std::size_t i = 0; i < networks.size(); ++i)
      expectSameBits(together[i], alone[i], "network " + std::to_string(i));
  }
}

// A fully open valve without loss is as good as no valve: the same heads to rounding, and what the pipe
// carries through it.
TEST(Solve, anOpenValveWithoutLossChangesNothing) {
  const Network network = gridNetwork(300, 12);
  const Part& valve = *findPart("isolating valve");
  Draft d(network);
  std::vector<std::pair<Id, Id>> put;  // pipe, valve
  network.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || id % 7 != 0) return;
    const Id before = d.addPoint("", {});
    d.values(before).set("height", *network.at(e.ends[1]).value("height"));
    const Id v = d.add(valve, "", {before, e.ends[1]});
    d.values(v).set("K", Given{0.0, Basis::direct, "0"});
    d.joinEnd(id, 1, before);
    put.emplace_back(id, v);
  });
  const Network with = std::move(d).finish();
  ASSERT_GT(put.size(), 20u);
  const Solution a = solve(network, &shippedStock()), b = solve(with, &shippedStock());
  ASSERT_TRUE(b.summary.usable()) << b.summary.brief(UnitSet::siWater());
  network.each([&](Id id, const Element& e) {
    if (e.part->key == "point") EXPECT_NEAR(*a.head(id), *b.head(id), 1e-8) << e.name;
  });
  for (const auto& [pipe, v] : put) EXPECT_NEAR(*b.branch(v, 0).flow_m3s, *a.branch(pipe, 0).flow_m3s, 1e-10);
}

}  // namespace
}  // namespace conduit::test

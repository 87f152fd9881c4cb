// Many acting devices, many found fields: the sparse factor of the whole against elimination, and answers
// judged by the second routine.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "model_text.h"
#include "solve/index.h"
#include "solve/judge.h"
#include "solve/random_network.h"
#include "solve/sparse_lu.h"

namespace conduit {
namespace {

using namespace test;

// A solution that is known beforehand: b is the matrix times it. To 1e-7: a pivot may be a thousandth of the
// greatest of its column, so that rounding may grow.
TEST(SparseLu, findsASolutionThatIsKnownAndRefusesWhatHasNone) {
  Chance c{11};
  SparseLu lu;
  for (int round = 0; round < 40; ++round) {
    const int n = 1 + c.below(60);
    std::vector<SparseLu::Entry> entries;
    for (int i = 0; i < n; ++i) {
      entries.push_back(
          {i, (i + 1) % n,
           3 + c.between(0, 1)});  // a cycle off the diagonal, so that pivots must be looked for
      for (int k = 0; k < 2; ++k)
        entries.push_back({i, c.below(n), c.between(-0.5, 0.5)});  // some of them twice in one place
    }
    for (int values = 0; values < 2; ++values) {  // again with other values of the same pattern
      std::vector<double> x(u(n)), b(u(n), 0.0);
      for (double& v : x) v = c.between(-1, 1);
      for (SparseLu::Entry& e : entries) {
        e.value *= 1 + 0.1 * values;
        b[u(e.row)] += e.value * x[u(e.column)];
      }
      ASSERT_TRUE(lu.factorise(n, entries));
      lu.solve(b);
      for (int i = 0; i < n; ++i) EXPECT_NEAR(b[u(i)], x[u(i)], 1e-7);
    }
  }
  EXPECT_FALSE(lu.factorise(2, std::vector<SparseLu::Entry>{{0, 0, 1}, {0, 1, 2}, {1, 0, 2}, {1, 1, 4}}));
  EXPECT_FALSE(lu.factorise(2, std::vector<SparseLu::Entry>{{0, 0, 1}, {1, 0, 1}}));
}

struct Crowd {
  const char* name;
  int valves;
  double spread_bar;  // of their set points
};
class Crowds : public testing::TestWithParam<Crowd> {};

// Two meshed zones and a reducing valve from every place of the upper to that below it: with equal set points
// all act; with unlike ones those set higher feed the neighbours of the others.
TEST_P(Crowds, ofReducingValvesAreInTrueStates) {
  const auto [name, valves, spread] = GetParam();
  Chance c{29};
  const int side = static_cast<int>(std::ceil(std::sqrt(valves)));
  std::string points, elements = held("A0", 80) + "," + held(fmt::format("A{}", valves - 1), 78);
  int pipes = 0;
  double drawn = 0.0;
  for (int i = 0; i < valves; ++i) {
    const double draw = c.between(0.2, 1);
    drawn += draw;
    points += (i ? "," : "") + point(fmt::format("A{}", i), 0) + "," +
              point(fmt::format("B{}", i), 0, fmt::format("\"outflow\":\"{} L/s\"", draw));
    for (const int j : {i + 1, i + side})
      if (j < valves && (j == i + side || j % side != 0))
        for (const char zone : {'A', 'B'})
          elements += "," + pipe(fmt::format("L{}", ++pipes), fmt::format("{}{}", zone, i),
                                 fmt::format("{}{}", zone, j), 100, zone == 'A' ? "400 mm" : "60 mm");
    elements +=
        "," + device("reducing valve", fmt::format("R{}", i), fmt::format("A{}", i), fmt::format("B{}", i),
                     fmt::format(R"("K":"4","bore":"80 mm","set point":"{} m")",
                                 30 + 10 * spread * c.between(-0.5, 0.5)));
  }
  const Network n = model(points, elements);
  const Solution s = answer(n);
  for (const std::string& wrong : judge(n, s)) ADD_FAILURE() << wrong;
  double through = 0.0;
  int acting = 0;
  for (int i = 0; i < valves; ++i) {
    through += flow(n, s, fmt::format("R{}", i));
    acting += state(n, s, fmt::format("R{}", i)) == BranchState::acting;
  }
  EXPECT_NEAR(through * 1000, drawn, 1e-6 * drawn) << "nothing else feeds the lower zone";
  if (spread == 0.0) EXPECT_EQ(acting, valves);
  else EXPECT_LT(acting, valves);
}

INSTANTIATE_TEST_SUITE_P(Sizes, Crowds,
                         testing::Values(Crowd{"few", 10, 0}, Crowd{"border", 17, 0}, Crowd{"some", 60, 1},
                                         Crowd{"many", 400, 0}, Crowd{"many_unlike", 400, 1}),
                         [](const auto& one) { return one.param.name; });

// Openings that are given, answered, and asked back from the pressures behind the valves. Of 60 fields at
// once; 1e-4 of the travel, as a pressure met to 1e-7 of itself leaves it.
TEST(ManyFields, areFoundAgainFromWhatTheyGave) {
  Chance c{3};
  constexpr int side = 8, all = 60;
  std::string points, mains = held("A0", 60) + "," + held(fmt::format("A{}", all - 1), 60);
  std::vector<double> opening;
  int pipes = 0;
  for (int i = 0; i < all; ++i) {
    points += (i ? "," : "") + point(fmt::format("A{}", i), 0) + "," +
              point(fmt::format("B{}", i), 0, fmt::format("\"outflow\":\"{} L/s\"", c.between(1, 3)));
    for (const int j : {i + 1, i + side})
      if (j < all && (j == i + side || j % side != 0))
        for (const char zone : {'A', 'B'})
          mains += "," + pipe(fmt::format("L{}", ++pipes), fmt::format("{}{}", zone, i),
                              fmt::format("{}{}", zone, j), 100, zone == 'A' ? "300 mm" : "50 mm");
    opening.push_back(c.between(30, 90));
  }
  const auto with = [&](const auto& field) {
    std::string elements = mains;
    for (int i = 0; i < all; ++i)
      elements += "," + device("control valve", fmt::format("V{}", i), fmt::format("A{}", i),
                               fmt::format("B{}", i), R"("bore":"80 mm","Kv":"50 m3/h",)" + field(i));
    return elements;
  };
  const Network given =
      model(points, with([&](int i) { return fmt::format("\"opening\":\"{} %\"", opening[u(i)]); }));
  const Solution first = answer(given);
  std::string asked = points;
  for (int i = 0; i < all; ++i) {
    const std::string name = fmt::format("\"name\":\"B{}\"", i);
    asked.insert(asked.find(name) + name.size(), fmt::format(",\"given\":{{\"pressure\":\"{:.17g} m\"}}",
                                                             headAt(given, first, fmt::format("B{}", i))));
  }
  const Network open = model(asked, with([](int) { return std::string("\"found\":[\"opening\"]"); }));
  const Solution again = answer(open);
  ASSERT_EQ(again.found.size(), u(all));
  for (int i = 0; i < all; ++i)
    EXPECT_NEAR(again.foundFor(open.byName(fmt::format("V{}", i)), "opening").value_or(NAN) * 100,
                opening[u(i)], 0.01)
        << i;
}

}  // namespace
}  // namespace conduit

// The least cost of branched networks against every choice tried, and against an integer programme of another
// form.
#include "sizing/tree.h"

#include <glpk.h>
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

namespace conduit {
namespace {

// Random trees by Hazen–Williams losses over sizes 50 to 600 mm; ends want some of the head.
Tree randomTree(std::uint64_t seed, std::size_t lines, std::size_t sizes, double wanting = 0.5) {
  std::mt19937_64 chance(seed);
  std::uniform_real_distribution<double> one(0, 1);
  Tree tree{.head_m = 100};
  std::vector<double> draw(lines), length(lines);
  for (std::size_t l = 0; l < lines; ++l) {
    const int from =
        l == 0 ? -1
               : static_cast<int>(std::max(0.0, static_cast<double>(l) - 1 - std::floor(one(chance) * 6)));
    tree.lines.push_back({.from = from});
    draw[l] = 0.0005 + 0.002 * one(chance), length[l] = 50 + 400 * one(chance);
  }
  std::vector<double> flow = draw;
  for (std::size_t l = lines; l-- > 1;) flow[static_cast<std::size_t>(tree.lines[l].from)] += flow[l];
  for (std::size_t l = 0; l < lines; ++l) {
    TreeLine& line = tree.lines[l];
    line.need_m = one(chance) < wanting ? 55 + 25 * one(chance) : -1e300;
    for (std::size_t s = 0; s < sizes; ++s) {
      const double bore = 0.05 * std::pow(1.25, static_cast<double>(s) * 11.0 /
                                                    static_cast<double>(sizes > 1 ? sizes - 1 : 1));
      line.loss_m.push_back(10.67 * length[l] * std::pow(flow[l] / 130, 1.852) / std::pow(bore, 4.8704));
      line.cost.push_back(std::round(length[l] * (10 + 900 * std::pow(bore, 1.4))));
    }
  }
  return tree;
}

std::optional<double> bruteForce(const Tree& tree) {
  std::optional<double> best;
  std::vector<double> head(tree.lines.size());
  const std::function<void(std::size_t, double)> go = [&](std::size_t l, double cost) {
    if (best && cost >= *best) return;
    if (l == tree.lines.size()) {
      best = cost;
      return;
    }
    const TreeLine& line = tree.lines[l];
    for (std::size_t s = 0; s < line.cost.size(); ++s) {
      head[l] = (line.from < 0 ? tree.head_m : head[static_cast<std::size_t>(line.from)]) - line.loss_m[s];
      if (head[l] >= line.need_m - 1e-7) go(l + 1, cost + line.cost[s]);
    }
  };
  go(0, 0.0);
  return best;
}

// One binary for each line and size, one row for each end that wants head: the losses on its way.
// What the linear relaxation says must cost more than `known` (reduced costs) is left out, which leaves the
// answer as it is.
double integerProgramme(const Tree& tree, int milliseconds, double known = 1e300) {
  glp_term_out(GLP_OFF);
  glp_prob* p = glp_create_prob();
  glp_set_obj_dir(p, GLP_MIN);
  std::vector<int> first;
  std::vector<int> r{0}, c{0};
  std::vector<double> v{0};
  for (std::size_t l = 0; l < tree.lines.size(); ++l) {
    const TreeLine& line = tree.lines[l];
    const int row = glp_add_rows(p, 1), col = glp_add_cols(p, static_cast<int>(line.cost.size()));
    glp_set_row_bnds(p, row, GLP_FX, 1, 1);
    first.push_back(col);
    for (std::size_t s = 0; s < line.cost.size(); ++s) {
      glp_set_col_kind(p, col + static_cast<int>(s), GLP_BV);
      glp_set_obj_coef(p, col + static_cast<int>(s), line.cost[s]);
      r.push_back(row), c.push_back(col + static_cast<int>(s)), v.push_back(1);
    }
  }
  for (std::size_t l = 0; l < tree.lines.size(); ++l) {
    if (tree.lines[l].need_m < -1e200) continue;
    const int row = glp_add_rows(p, 1);
    glp_set_row_bnds(p, row, GLP_UP, 0, tree.head_m - tree.lines[l].need_m);
    for (int at = static_cast<int>(l); at >= 0; at = tree.lines[static_cast<std::size_t>(at)].from)
      for (std::size_t s = 0; s < tree.lines[static_cast<std::size_t>(at)].cost.size(); ++s)
        r.push_back(row), c.push_back(first[static_cast<std::size_t>(at)] + static_cast<int>(s)),
            v.push_back(tree.lines[static_cast<std::size_t>(at)].loss_m[s]);
  }
  glp_load_matrix(p, static_cast<int>(v.size()) - 1, r.data(), c.data(), v.data());
  if (known < 1e299) {
    glp_smcp simplex;
    glp_init_smcp(&simplex);
    simplex.msg_lev = GLP_MSG_OFF;
    glp_simplex(p, &simplex);
    const double gap = known - glp_get_obj_val(p);
    for (int j = 1; j <= glp_get_num_cols(p); ++j)
      if (glp_get_col_stat(p, j) == GLP_NL && glp_get_col_dual(p, j) > gap + 1e-6 * known)
        glp_set_col_bnds(p, j, GLP_FX, 0, 0);
  }
  glp_iocp how;
  glp_init_iocp(&how);
  how.presolve = GLP_ON;
  how.msg_lev = GLP_MSG_OFF;
  how.tm_lim = milliseconds;
  how.mir_cuts = how.cov_cuts = GLP_ON;
  const int rc = glp_intopt(p, &how);
  const double cost = rc == 0 && glp_mip_status(p) == GLP_OPT ? glp_mip_obj_val(p) : NAN;
  glp_delete_prob(p);
  return cost;
}

TEST(TreeSizes, areTheCheapestOfAllChoices) {
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    const Tree tree = randomTree(seed, 3 + seed % 5, 5);
    const auto brute = bruteForce(tree);
    const TreeAnswer answer = cheapest(tree);
    ASSERT_EQ(answer.found, brute.has_value()) << seed;
    if (!brute) continue;
    EXPECT_TRUE(answer.proved) << seed;
    EXPECT_NEAR(answer.cost, *brute, 1e-6) << seed;
    EXPECT_LE(cheapestSplit(tree).cost, *brute + 1e-6) << "two sizes a line never cost more";
  }
}

TEST(TreeSizes, equalAnIntegerProgrammeOf24Lines) {
  for (std::uint64_t seed = 100; seed < 106; ++seed) {
    const Tree tree = randomTree(seed, 24, 10);
    const TreeAnswer answer = cheapest(tree);
    if (!answer.found) continue;
    EXPECT_TRUE(answer.proved);
    const double other = integerProgramme(tree, 20000);
    ASSERT_TRUE(std::isfinite(other)) << seed;
    EXPECT_NEAR(answer.cost, other, 1e-6 * other) << seed;
  }
}

TEST(TreeSizes, equalAnIntegerProgrammeOf200Lines) {
  const Tree tree = randomTree(7, 200, 5, 0.08);
  const TreeAnswer answer = cheapest(tree);
  ASSERT_TRUE(answer.found);
  EXPECT_TRUE(answer.proved) << answer.states;
  EXPECT_GE(answer.cost, cheapestSplit(tree).cost - 1e-6);
  const double other = integerProgramme(tree, 60000, answer.cost);
  ASSERT_TRUE(std::isfinite(other)) << "the programme did not end";
  EXPECT_NEAR(answer.cost, other, 1e-6 * other);
}

TEST(TreeSizes, whatCannotBeIsSaid) {
  Tree tree{.head_m = 10, .lines = {{.from = -1, .cost = {1, 2}, .loss_m = {9, 5}, .need_m = 6}}};
  EXPECT_FALSE(cheapest(tree).found);
  tree.lines[0].need_m = 5;
  const TreeAnswer answer = cheapest(tree);
  ASSERT_TRUE(answer.found && answer.proved);
  EXPECT_EQ(answer.size[0], 1u);
  // 3 m may be lost where 9 or 1 can be: a quarter of the first size, 1·¼ + 5·¾.
  const SplitAnswer split =
      cheapestSplit({.head_m = 10, .lines = {{.from = -1, .cost = {1, 5}, .loss_m = {9, 1}, .need_m = 7}}});
  ASSERT_TRUE(split.found);
  EXPECT_NEAR(split.cost, 1 * 0.25 + 5 * 0.75, 1e-9);
  EXPECT_NEAR(split.share[0][0], 0.25, 1e-9);
  EXPECT_NEAR(split.price[0], 0.5, 1e-9) << "4 of money for 8 m";
}

}  // namespace
}  // namespace conduit

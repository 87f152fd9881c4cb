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
    tree.lines.push_back({.from = from, .rows = {static_cast<int>(l)}, .loss_m = {}});
    draw[l] = 0.0005 + 0.002 * one(chance), length[l] = 50 + 400 * one(chance);
  }
  tree.cost.resize(lines);
  std::vector<double> flow = draw;
  for (std::size_t l = lines; l-- > 1;) flow[static_cast<std::size_t>(tree.lines[l].from)] += flow[l];
  for (std::size_t l = 0; l < lines; ++l) {
    TreeLine& line = tree.lines[l];
    line.need_m = one(chance) < wanting ? 55 + 25 * one(chance) : -1e300;
    for (std::size_t s = 0; s < sizes; ++s) {
      const double bore = 0.05 * std::pow(1.25, static_cast<double>(s) * 11.0 /
                                                    static_cast<double>(sizes > 1 ? sizes - 1 : 1));
      line.loss_m.push_back(10.67 * length[l] * std::pow(flow[l] / 130, 1.852) / std::pow(bore, 4.8704));
      tree.cost[l].push_back(std::round(length[l] * (10 + 900 * std::pow(bore, 1.4))));
    }
  }
  return tree;
}

double lossOf(const TreeLine& line, const Tree& tree, const std::vector<std::size_t>& size) {
  std::size_t at = 0;
  for (const int r : line.rows)
    at = at * tree.cost[static_cast<std::size_t>(r)].size() + size[static_cast<std::size_t>(r)];
  return line.loss_m[at];
}

// Every choice, each walked outward from the source.
std::optional<double> bruteForce(const Tree& tree) {
  std::optional<double> best;
  std::vector<std::size_t> size(tree.cost.size(), 0);
  std::vector<double> head(tree.lines.size());
  const std::function<void(std::size_t, double)> go = [&](std::size_t r, double cost) {
    if (best && cost >= *best) return;
    if (r < tree.cost.size()) {
      for (size[r] = 0; size[r] < tree.cost[r].size(); ++size[r]) go(r + 1, cost + tree.cost[r][size[r]]);
      return;
    }
    for (std::size_t l = 0; l < tree.lines.size(); ++l) {
      const TreeLine& line = tree.lines[l];
      const double before = line.from < 0 ? tree.head_m : head[static_cast<std::size_t>(line.from)];
      head[l] = std::min(before - lossOf(line, tree, size), line.most_m);
      if (before < line.needNear_m - 1e-7 || head[l] < line.need_m - 1e-7) return;
    }
    best = cost;
  };
  go(0, 0.0);
  return best;
}

// One binary for each row and size, one programme row for each end that wants head: the losses on its way.
// What the linear relaxation says must cost more than `known` (reduced costs) is left out, which leaves the
// answer as it is. Each line goes by one row.
double integerProgramme(const Tree& tree, int milliseconds, double known = 1e300) {
  glp_term_out(GLP_OFF);
  glp_prob* p = glp_create_prob();
  glp_set_obj_dir(p, GLP_MIN);
  std::vector<int> first;
  std::vector<int> r{0}, c{0};
  std::vector<double> v{0};
  for (const std::vector<double>& cost : tree.cost) {
    const int row = glp_add_rows(p, 1), col = glp_add_cols(p, static_cast<int>(cost.size()));
    glp_set_row_bnds(p, row, GLP_FX, 1, 1);
    first.push_back(col);
    for (std::size_t s = 0; s < cost.size(); ++s) {
      glp_set_col_kind(p, col + static_cast<int>(s), GLP_BV);
      glp_set_obj_coef(p, col + static_cast<int>(s), cost[s]);
      r.push_back(row), c.push_back(col + static_cast<int>(s)), v.push_back(1);
    }
  }
  for (std::size_t l = 0; l < tree.lines.size(); ++l) {
    if (tree.lines[l].need_m < -1e200) continue;
    const int row = glp_add_rows(p, 1);
    glp_set_row_bnds(p, row, GLP_UP, 0, tree.head_m - tree.lines[l].need_m);
    std::vector<std::vector<double>> sum;
    for (const auto& cost : tree.cost) sum.emplace_back(cost.size(), 0.0);
    for (int at = static_cast<int>(l); at >= 0; at = tree.lines[static_cast<std::size_t>(at)].from) {
      const TreeLine& line = tree.lines[static_cast<std::size_t>(at)];
      for (std::size_t s = 0; s < line.loss_m.size(); ++s)
        sum[static_cast<std::size_t>(line.rows[0])][s] += line.loss_m[s];
    }
    for (std::size_t k = 0; k < sum.size(); ++k)
      for (std::size_t s = 0; s < sum[k].size(); ++s)
        if (sum[k][s] != 0)
          r.push_back(row), c.push_back(first[k] + static_cast<int>(s)), v.push_back(sum[k][s]);
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

// Two rows of a tree made one: their lines share a size, wherever they stand.
void tie(Tree& tree, int kept, int gone) {
  for (TreeLine& line : tree.lines)
    for (int& r : line.rows) {
      if (r == gone) r = kept;
      else if (r > gone) --r;
    }
  auto& cost = tree.cost[static_cast<std::size_t>(kept)];
  for (std::size_t s = 0; s < cost.size(); ++s) cost[s] += tree.cost[static_cast<std::size_t>(gone)][s];
  tree.cost.erase(tree.cost.begin() + gone);
}

// Lines tied anywhere, valves that lose by the size of one line or two, a lift, heads that a valve holds,
// heads wanted before it: every choice tried.
TEST(TreeSizes, ofTiesAndEquipmentAreTheCheapestOfAllChoices) {
  int found = 0, none = 0, held = 0;
  for (std::uint64_t seed = 1; seed <= 150; ++seed) {
    std::mt19937_64 chance(seed);
    std::uniform_real_distribution<double> one(0, 1);
    Tree tree = randomTree(seed + 1000, 5 + seed % 4, 4);
    const auto some = [&] { return chance() % tree.lines.size(); };
    for (int k = 0; k < 2; ++k)
      if (tree.cost.size() > 4) tie(tree, 0 + k, 2 + k + static_cast<int>(chance() % (tree.cost.size() - 3)));
    for (int k = 0; k < 3; ++k) {
      // At the end of some line: it hangs on it, and some of what hung there now hangs on it.
      const std::size_t at = some();
      TreeLine valve{.from = static_cast<int>(at), .rows = {}, .loss_m = {0.5 + 3 * one(chance)}};
      const std::size_t kind = chance() % 6;
      if (kind == 1 || kind == 2) {
        const int own = tree.lines[at].rows.empty() ? 0 : tree.lines[at].rows[0];
        valve.rows = {own};
        if (kind == 2) {
          const int other = static_cast<int>(chance() % tree.cost.size());
          if (other != own) valve.rows.push_back(other);
        }
        valve.loss_m.assign(valve.rows.size() == 1 ? 4 : 16, 0.0);
        for (double& loss : valve.loss_m) loss = 8 * one(chance);
      } else if (kind == 3) {
        valve.loss_m = {-15 * one(chance)};
      } else if (kind == 4) {
        valve.most_m = 60 + 35 * one(chance);
      } else if (kind == 5) {
        valve.needNear_m = 60 + 35 * one(chance);
      }
      if (chance() % 3 == 0) valve.need_m = 50 + 25 * one(chance);
      // Lines stand after the line they hang from: those behind `at` that hang on it move over.
      tree.lines.insert(tree.lines.begin() + static_cast<long>(at) + 1, valve);
      for (std::size_t l = at + 2; l < tree.lines.size(); ++l) {
        int& from = tree.lines[l].from;
        if (from > static_cast<int>(at)) ++from;
        else if (from == static_cast<int>(at) && chance() % 3 > 0) from = static_cast<int>(at) + 1;
      }
      if (kind == 4) ++held;
    }
    const auto brute = bruteForce(tree);
    const TreeAnswer answer = cheapest(tree);
    ASSERT_EQ(answer.found, brute.has_value()) << seed;
    EXPECT_TRUE(answer.proved) << seed;
    if (!brute) {
      ++none;
      continue;
    }
    ++found;
    EXPECT_NEAR(answer.cost, *brute, 1e-6) << seed;
    EXPECT_DOUBLE_EQ(answer.bound, answer.cost);
    // Given up at once, what it says of a bound still holds.
    EXPECT_LE(cheapest(tree, 0).bound, *brute * (1 + 1e-9)) << seed;
    if (const SplitAnswer split = cheapestSplit(tree); split.found)
      EXPECT_LE(split.cost, *brute * (1 + 1e-9)) << seed;
  }
  EXPECT_GT(found, 40);
  EXPECT_GT(none, 10);
  EXPECT_GT(held, 40);
}

TEST(TreeSizes, ofTiesEqualAnIntegerProgrammeOf40Lines) {
  int found = 0;
  for (std::uint64_t seed = 300; seed < 306; ++seed) {
    Tree tree = randomTree(seed, 40, 6, 0.2);
    // Next to one another in the drawing: mostly one behind the other, some in branches beside.
    for (int k = 0; k < 10; ++k) tie(tree, 3 * k % 20, 3 * k % 20 + 1);
    const TreeAnswer answer = cheapest(tree);
    if (!answer.found) continue;
    EXPECT_TRUE(answer.proved) << seed;
    const double other = integerProgramme(tree, 30000, answer.cost);
    ASSERT_TRUE(std::isfinite(other)) << seed;
    EXPECT_NEAR(answer.cost, other, 1e-6 * other) << seed;
    ++found;
  }
  EXPECT_GT(found, 2);
}

TEST(TreeSizes, whatCannotBeIsSaid) {
  Tree tree{.head_m = 10, .cost = {{1, 2}}, .lines = {{.rows = {0}, .loss_m = {9, 5}, .need_m = 6}}};
  const TreeAnswer none = cheapest(tree);
  EXPECT_FALSE(none.found);
  EXPECT_TRUE(none.proved);
  EXPECT_EQ(none.shortAt, 0);
  EXPECT_DOUBLE_EQ(none.short_m, 1.0) << "10 less 5, where 6 are wanted";
  tree.lines[0].need_m = 5;
  const TreeAnswer answer = cheapest(tree);
  ASSERT_TRUE(answer.found && answer.proved);
  EXPECT_EQ(answer.size[0], 1u);
  // 3 m may be lost where 9 or 1 can be: a quarter of the first size, 1·¼ + 5·¾.
  const SplitAnswer split = cheapestSplit(
      {.head_m = 10, .cost = {{1, 5}}, .lines = {{.rows = {0}, .loss_m = {9, 1}, .need_m = 7}}});
  ASSERT_TRUE(split.found);
  EXPECT_NEAR(split.cost, 1 * 0.25 + 5 * 0.75, 1e-9);
  EXPECT_NEAR(split.share[0][0], 0.25, 1e-9);
  EXPECT_NEAR(split.price[0], 0.5, 1e-9) << "4 of money for 8 m";
}

}  // namespace
}  // namespace conduit

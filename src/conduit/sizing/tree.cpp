#include "sizing/tree.h"

#include <glpk.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <numeric>

#include "say/ensure.h"

namespace conduit {
namespace {

constexpr double none = -1e299;

// Head at the far end of every line.
std::vector<double> headsWith(const Tree& tree, const std::vector<std::size_t>& size) {
  std::vector<double> head(tree.lines.size());
  for (std::size_t l = 0; l < tree.lines.size(); ++l) {
    const TreeLine& line = tree.lines[l];
    const double before = line.from < 0 ? tree.head_m : head[static_cast<std::size_t>(line.from)];
    head[l] = before - line.loss_m[size[l]];
  }
  return head;
}
// Rounding of heads a kilometre high; nobody measures a tenth of a micrometre.
constexpr double close_m = 1e-7;
bool keeps(const Tree& tree, const std::vector<std::size_t>& size) {
  const auto head = headsWith(tree, size);
  for (std::size_t l = 0; l < tree.lines.size(); ++l)
    if (head[l] < tree.lines[l].need_m - close_m) return false;
  return true;
}
double costOf(const Tree& tree, const std::vector<std::size_t>& size) {
  double cost = 0.0;
  for (std::size_t l = 0; l < tree.lines.size(); ++l) cost += tree.lines[l].cost[size[l]];
  return cost;
}

std::vector<std::size_t> leastLosses(const Tree& tree) {
  std::vector<std::size_t> size;
  for (const TreeLine& line : tree.lines)
    size.push_back(static_cast<std::size_t>(std::min_element(line.loss_m.begin(), line.loss_m.end()) -
                                            line.loss_m.begin()));
  return size;
}

// Cheaper, line by line, as long as the heads are kept: the greatest saving for each metre that it takes
// first.
void descend(const Tree& tree, std::vector<std::size_t>& size) {
  for (bool better = true; better;) {
    better = false;
    // How much more each line may lose: the least that is to spare behind it.
    const auto head = headsWith(tree, size);
    std::vector<double> spare(tree.lines.size(), std::numeric_limits<double>::infinity());
    for (std::size_t l = tree.lines.size(); l-- > 0;) {
      if (tree.lines[l].need_m > none) spare[l] = std::min(spare[l], head[l] - tree.lines[l].need_m);
      if (tree.lines[l].from >= 0) {
        double& before = spare[static_cast<std::size_t>(tree.lines[l].from)];
        before = std::min(before, spare[l]);
      }
    }
    double best = 0.0;
    std::size_t line = 0, to = 0;
    for (std::size_t l = 0; l < tree.lines.size(); ++l)
      for (std::size_t s = 0; s < tree.lines[l].cost.size(); ++s) {
        const double saves = tree.lines[l].cost[size[l]] - tree.lines[l].cost[s],
                     takes = tree.lines[l].loss_m[s] - tree.lines[l].loss_m[size[l]];
        if (saves <= 0 || takes > spare[l]) continue;
        const double worth = takes <= 0 ? 1e300 : saves / takes;
        if (worth > best) best = worth, line = l, to = s;
      }
    if (best > 0) size[line] = to, better = true;
  }
}

struct Pair {
  double need_m, cost;  // head wanted before the line; of the line and all behind it
  std::uint32_t size;   // of the line
  std::uint32_t after;  // place of the pair of what hangs on it, in its merged list
};

}  // namespace

SplitAnswer cheapestSplit(const Tree& tree) {
  SplitAnswer answer;
  const int lines = static_cast<int>(tree.lines.size());
  if (lines == 0) {
    answer.found = true;
    return answer;
  }
  glp_term_out(GLP_OFF);  // it speaks to the terminal else
  const auto free = [](glp_prob* p) { glp_delete_prob(p); };
  const std::unique_ptr<glp_prob, decltype(free)> lp(glp_create_prob(), free);
  glp_set_obj_dir(lp.get(), GLP_MIN);
  // Rows: each line's shares are one; each line's head is that before it less what it loses.
  glp_add_rows(lp.get(), 2 * lines);
  std::vector<int> row{0}, column{0};
  std::vector<double> value{0.0};
  const auto put = [&](int r, int c, double v) { row.push_back(r), column.push_back(c), value.push_back(v); };
  int next = glp_add_cols(lp.get(), lines);  // heads at far ends, first
  for (int l = 0; l < lines; ++l) {
    const TreeLine& line = tree.lines[static_cast<std::size_t>(l)];
    if (line.need_m > none) glp_set_col_bnds(lp.get(), l + 1, GLP_LO, line.need_m, 0);
    else glp_set_col_bnds(lp.get(), l + 1, GLP_FR, 0, 0);
    glp_set_row_bnds(lp.get(), l + 1, GLP_FX, 1, 1);
    put(lines + l + 1, l + 1, 1);
    if (line.from >= 0) put(lines + l + 1, line.from + 1, -1);
    const double source = line.from < 0 ? tree.head_m : 0.0;
    glp_set_row_bnds(lp.get(), lines + l + 1, GLP_FX, source, source);
  }
  std::vector<int> first;
  for (int l = 0; l < lines; ++l) {
    const TreeLine& line = tree.lines[static_cast<std::size_t>(l)];
    next = glp_add_cols(lp.get(), static_cast<int>(line.cost.size()));
    first.push_back(next);
    for (std::size_t s = 0; s < line.cost.size(); ++s) {
      const int c = next + static_cast<int>(s);
      glp_set_col_bnds(lp.get(), c, GLP_LO, 0, 0);
      glp_set_obj_coef(lp.get(), c, line.cost[s]);
      put(l + 1, c, 1);
      put(lines + l + 1, c, line.loss_m[s]);
    }
  }
  glp_load_matrix(lp.get(), static_cast<int>(value.size()) - 1, row.data(), column.data(), value.data());
  glp_smcp how;
  glp_init_smcp(&how);
  how.msg_lev = GLP_MSG_OFF;
  how.presolve = GLP_OFF;
  glp_scale_prob(lp.get(), GLP_SF_AUTO);
  glp_adv_basis(lp.get(), 0);
  if (glp_simplex(lp.get(), &how) != 0 || glp_get_status(lp.get()) != GLP_OPT) return answer;
  answer.found = true;
  answer.cost = glp_get_obj_val(lp.get());
  for (int l = 0; l < lines; ++l) {
    const TreeLine& line = tree.lines[static_cast<std::size_t>(l)];
    auto& share = answer.share.emplace_back();
    for (std::size_t s = 0; s < line.cost.size(); ++s)
      share.push_back(std::max(
          0.0, glp_get_col_prim(lp.get(), first[static_cast<std::size_t>(l)] + static_cast<int>(s))));
    answer.price.push_back(std::abs(glp_get_row_dual(lp.get(), lines + l + 1)));
  }
  return answer;
}

TreeAnswer cheapest(const Tree& tree, std::size_t most, std::stop_token stop) {
  TreeAnswer answer;
  const std::size_t n = tree.lines.size();
  for (const TreeLine& line : tree.lines) {
    ensure(!line.cost.empty() && line.cost.size() == line.loss_m.size(),
           "every line of a tree has its sizes");
  }
  std::vector<std::size_t> best = leastLosses(tree);
  if (!keeps(tree, best)) return answer;
  answer.found = true;
  descend(tree, best);
  const SplitAnswer split = cheapestSplit(tree);
  // From the programme's shares rounded to the wider size, as far as it must be, is a second beginning.
  if (split.found) {
    std::vector<std::size_t> rounded = leastLosses(tree);
    for (std::size_t l = 0; l < n; ++l) {
      std::size_t chosen = rounded[l];
      double loss = std::numeric_limits<double>::infinity();
      for (std::size_t s = 0; s < tree.lines[l].cost.size(); ++s)
        if (split.share[l][s] > 1e-9 && tree.lines[l].loss_m[s] < loss)
          loss = tree.lines[l].loss_m[s], chosen = s;
      rounded[l] = chosen;
    }
    if (keeps(tree, rounded)) {
      descend(tree, rounded);
      if (costOf(tree, rounded) < costOf(tree, best)) best = rounded;
    }
  }
  answer.size = best, answer.cost = costOf(tree, best);

  // Prices of head from the programme. With multipliers μ at the ends and π = Σ μ behind a line, no choice
  // costs less than Σ min (cost + π loss) + Σ μ (need − head): weak duality, whatever μ ≥ 0 is.
  std::vector<double> pi = split.found ? split.price : std::vector<double>(n, 0.0);
  std::vector<double> mu = pi;
  for (std::size_t l = 0; l < n; ++l)
    if (tree.lines[l].from >= 0) mu[static_cast<std::size_t>(tree.lines[l].from)] -= pi[l];
  for (std::size_t l = 0; l < n; ++l) mu[l] = tree.lines[l].need_m > none ? std::max(0.0, mu[l]) : 0.0;
  std::fill(pi.begin(), pi.end(), 0.0);
  for (std::size_t l = n; l-- > 0;) {
    pi[l] += mu[l];
    if (tree.lines[l].from >= 0) pi[static_cast<std::size_t>(tree.lines[l].from)] += pi[l];
  }
  std::vector<double> least(n), behind(n, 0.0);  // of the line alone; of all behind it and the line
  double whole = 0.0;
  for (std::size_t l = 0; l < n; ++l) {
    least[l] = std::numeric_limits<double>::infinity();
    for (std::size_t s = 0; s < tree.lines[l].cost.size(); ++s)
      least[l] = std::min(least[l], tree.lines[l].cost[s] + pi[l] * tree.lines[l].loss_m[s]);
    if (mu[l] > 0) least[l] += mu[l] * (tree.lines[l].need_m - tree.head_m);
    whole += least[l];
  }
  for (std::size_t l = n; l-- > 0;) {
    behind[l] += least[l];
    if (tree.lines[l].from >= 0) behind[static_cast<std::size_t>(tree.lines[l].from)] += behind[l];
  }
  double cheapestOfAll = 0.0;
  for (const TreeLine& line : tree.lines)
    cheapestOfAll += *std::min_element(line.cost.begin(), line.cost.end());
  answer.bound = std::max(whole, cheapestOfAll);
  // What would save less than a millionth is no other answer.
  const double slack = 1e-9 * std::max(1.0, std::abs(answer.cost));

  std::vector<std::vector<Pair>> fronts(n);  // before each line
  // Of what hangs on each line, together: head wanted at its far end and cost, with the place in every
  // child's list.
  struct Merged {
    std::vector<double> need_m, cost;
    std::vector<std::uint32_t> place;  // children.size() for each
  };
  std::vector<Merged> merged(n);
  std::vector<std::vector<std::size_t>> children(n);
  std::vector<std::size_t> roots;
  for (std::size_t l = 0; l < n; ++l) {
    if (tree.lines[l].from >= 0) children[static_cast<std::size_t>(tree.lines[l].from)].push_back(l);
    else roots.push_back(l);
  }
  // The choice behind lists: each pair costs the least of all that want no more head.
  const auto merge = [&](const std::vector<std::size_t>& of, double need) {
    Merged m;
    if (of.empty()) {
      m.need_m = {need}, m.cost = {0.0};
      return m;
    }
    std::vector<double> levels;
    double floor = need;
    for (const std::size_t c : of) floor = std::max(floor, fronts[c].front().need_m);
    levels.push_back(floor);
    for (const std::size_t c : of)
      for (const Pair& p : fronts[c])
        if (p.need_m > floor) levels.push_back(p.need_m);
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
    std::vector<std::size_t> at(of.size(), 0);
    for (const double level : levels) {
      double cost = 0.0;
      for (std::size_t k = 0; k < of.size(); ++k) {
        const auto& front = fronts[of[k]];
        while (at[k] + 1 < front.size() && front[at[k] + 1].need_m <= level) ++at[k];
        cost += front[at[k]].cost;
      }
      m.need_m.push_back(level), m.cost.push_back(cost);
      for (const std::size_t k : at) m.place.push_back(static_cast<std::uint32_t>(k));
    }
    return m;
  };
  bool given = false;
  for (std::size_t l = n; l-- > 0 && !given;) {
    bool dead = false;
    for (const std::size_t c : children[l]) dead = dead || fronts[c].empty();
    if (dead) {
      given = true;  // cannot be: the best known would have to be dropped
      break;
    }
    merged[l] = merge(children[l], tree.lines[l].need_m);
    const Merged& m = merged[l];
    std::vector<Pair> pairs;
    const double rest = whole - behind[l];
    for (std::size_t k = 0; k < m.need_m.size(); ++k)
      for (std::size_t s = 0; s < tree.lines[l].cost.size(); ++s) {
        const Pair p{m.need_m[k] + tree.lines[l].loss_m[s], m.cost[k] + tree.lines[l].cost[s],
                     static_cast<std::uint32_t>(s), static_cast<std::uint32_t>(k)};
        if (p.need_m > tree.head_m + close_m) continue;
        const double priced = pi[l] > 0 ? pi[l] * (p.need_m - tree.head_m) : 0.0;
        if (rest + p.cost + priced > answer.cost + slack) continue;
        pairs.push_back(p);
      }
    std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) {
      return a.need_m != b.need_m ? a.need_m < b.need_m : a.cost < b.cost;
    });
    auto& front = fronts[l];
    for (const Pair& p : pairs)
      if (front.empty() || p.cost < front.back().cost - 1e-12 * std::abs(p.cost)) front.push_back(p);
    answer.states += front.size();
    given = answer.states > most || stop.stop_requested();
  }
  if (given) return answer;
  for (const std::size_t r : roots)
    if (fronts[r].empty()) return answer;  // numbers that do not hang together: nothing is claimed
  const Merged top = merge(roots, -1e300);
  std::size_t chosen = 0;
  for (std::size_t k = 0; k < top.cost.size(); ++k)
    if (top.need_m[k] <= tree.head_m + close_m && top.cost[k] < top.cost[chosen]) chosen = k;
  if (top.cost[chosen] < answer.cost) {
    std::vector<std::pair<std::size_t, std::uint32_t>> open;
    for (std::size_t k = 0; k < roots.size(); ++k)
      open.push_back({roots[k], top.place[chosen * roots.size() + k]});
    while (!open.empty()) {
      const auto [l, at] = open.back();
      open.pop_back();
      const Pair& p = fronts[l][at];
      answer.size[l] = p.size;
      for (std::size_t k = 0; k < children[l].size(); ++k)
        open.push_back({children[l][k], merged[l].place[p.after * children[l].size() + k]});
    }
    answer.cost = costOf(tree, answer.size);
  }
  answer.proved = true;
  answer.bound = answer.cost;
  return answer;
}

}  // namespace conduit

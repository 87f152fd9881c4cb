#include "sizing/tree.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "say/ensure.h"
#include "solve/index.h"

namespace conduit {
namespace {

constexpr double endless = std::numeric_limits<double>::infinity();
// Rounding of heads a kilometre high; nobody measures a tenth of a micrometre.
constexpr double close_m = 1e-7;
// Choices of the rows that stand open at one place; beyond that it is given up.
constexpr std::size_t openMost = 100'000;

using Sizes = std::vector<std::size_t>;

double lossOf(const Tree& tree, const TreeLine& line, const Sizes& size) {
  return line.loss_m[placeOf(tree, line.rows, size)];
}

struct Heads {
  std::vector<double> far;           // that there is at each line's far end
  std::vector<double> unheld;        // that there would be if no valve held it
  std::vector<double> wanted;        // there, for all that hangs on it
  double wantedOfSource = noNeed_m;  // before all
};
Heads headsWith(const Tree& tree, const Sizes& size) {
  const std::size_t n = tree.lines.size();
  Heads h{std::vector<double>(n), std::vector<double>(n), std::vector<double>(n)};
  for (std::size_t l = 0; l < n; ++l) {
    const TreeLine& line = tree.lines[l];
    h.unheld[l] = (line.from < 0 ? tree.head_m : h.far[u(line.from)]) - lossOf(tree, line, size);
    h.far[l] = std::min(h.unheld[l], line.most_m);
    h.wanted[l] = line.need_m;
  }
  for (std::size_t l = n; l-- > 0;) {
    const TreeLine& line = tree.lines[l];
    double& before = line.from < 0 ? h.wantedOfSource : h.wanted[u(line.from)];
    before = std::max({before, line.needNear_m, h.wanted[l] + lossOf(tree, line, size)});
  }
  return h;
}
bool keeps(const Tree& tree, const Heads& h) {
  if (h.wantedOfSource > tree.head_m + close_m) return false;
  for (std::size_t l = 0; l < tree.lines.size(); ++l)
    if (h.wanted[l] > tree.lines[l].most_m + close_m) return false;
  return true;
}
bool keeps(const Tree& tree, const Sizes& size) { return keeps(tree, headsWith(tree, size)); }

double costOf(const Tree& tree, const Sizes& size) {
  double cost = 0.0;
  for (std::size_t r = 0; r < tree.cost.size(); ++r) cost += tree.cost[r][size[r]];
  return cost;
}

// Of each row by its size, the least that all its lines can lose.
std::vector<std::vector<double>> leastLosses(const Tree& tree) {
  std::vector<std::vector<double>> sum;
  for (const auto& cost : tree.cost) sum.emplace_back(cost.size(), 0.0);
  for (const TreeLine& line : tree.lines)
    for (const int r : line.rows) {
      const auto least = leastBy(tree, line, r);
      for (std::size_t s = 0; s < least.size(); ++s) sum[u(r)][s] += least[s];
    }
  return sum;
}

// Rows that cost nothing follow from the others: each takes the size by which the line that names it last
// loses least.
void follow(const Tree& tree, Sizes& size) {
  for (std::size_t l = tree.lines.size(); l-- > 0;) {
    const TreeLine& line = tree.lines[l];
    if (line.rows.size() < 2) continue;
    const auto r = u(line.rows.back());
    if (*std::max_element(tree.cost[r].begin(), tree.cost[r].end()) > 0) continue;
    double least = endless;
    std::size_t best = 0;
    for (size[r] = 0; size[r] < tree.cost[r].size(); ++size[r])
      if (const double loss = lossOf(tree, line, size); loss < least) least = loss, best = size[r];
    size[r] = best;
  }
}

// The most head there can be before each line, where each loses the least it can for itself; and where not
// even that keeps what is wanted, the farthest off.
std::vector<double> mostBefore(const Tree& tree, TreeAnswer& answer) {
  std::vector<double> far(tree.lines.size()), most;
  const auto wants = [&](int at, bool near, double head, double wanted) {
    if (wanted > noNeed_m && wanted - head > std::max(close_m, answer.short_m))
      answer.shortAt = at, answer.short_m = wanted - head, answer.shortNear = near;
  };
  for (std::size_t l = 0; l < tree.lines.size(); ++l) {
    const TreeLine& line = tree.lines[l];
    const double before = line.from < 0 ? tree.head_m : far[u(line.from)];
    far[l] = std::min(before - *std::min_element(line.loss_m.begin(), line.loss_m.end()), line.most_m);
    most.push_back(before);
    wants(static_cast<int>(l), false, far[l], line.need_m);
    wants(static_cast<int>(l), true, before, line.needNear_m);
  }
  most.push_back(tree.head_m);  // before the source there is no line
  return most;
}

// Cheaper, row by row, as long as the heads are kept: the greatest saving for each metre that it takes first.
void descend(const Tree& tree, Sizes& size) {
  std::vector<std::vector<std::size_t>> lines(tree.cost.size());
  for (std::size_t l = 0; l < tree.lines.size(); ++l)
    for (const int r : tree.lines[l].rows) lines[u(r)].push_back(l);
  struct Move {
    double worth, takes_m;
    std::size_t row, to;
  };
  std::vector<Move> moves;
  for (bool better = true; better;) {
    better = false;
    moves.clear();
    for (std::size_t r = 0; r < tree.cost.size(); ++r) {
      const std::size_t now = size[r];
      for (std::size_t s = 0; s < tree.cost[r].size(); ++s) {
        const double saves = tree.cost[r][now] - tree.cost[r][s];
        if (saves <= 0) continue;
        double takes = 0.0;
        for (const std::size_t l : lines[r]) {
          size[r] = now;
          takes -= lossOf(tree, tree.lines[l], size);
          size[r] = s;
          takes += lossOf(tree, tree.lines[l], size);
        }
        moves.push_back({takes <= 0 ? 1e300 : saves / takes, takes, r, s});
      }
      size[r] = now;
    }
    std::stable_sort(moves.begin(), moves.end(),
                     [](const Move& a, const Move& b) { return a.worth > b.worth; });
    Heads heads = headsWith(tree, size);
    std::vector<char> moved(tree.cost.size(), 0);
    for (const Move& m : moves) {
      if (moved[m.row]) continue;
      const auto& of = lines[m.row];
      const bool alone = of.size() == 1 && tree.lines[of[0]].rows.size() == 1;
      // How much more a line may lose: what is to spare behind it.
      if (alone && m.takes_m > heads.unheld[of[0]] - heads.wanted[of[0]]) continue;
      const std::size_t was = std::exchange(size[m.row], m.to);
      Heads then = headsWith(tree, size);
      if (!alone && !keeps(tree, then)) {
        size[m.row] = was;
        continue;
      }
      heads = std::move(then);
      moved[m.row] = 1, better = true;
    }
  }
}

struct Pair {
  double need_m, cost;  // head wanted before the line; of the rows that stand nowhere else
  std::uint32_t sizes;  // of the rows that meet at the line
  std::uint32_t after;  // place of the pair of what hangs on it, in its merged list
};

// Of what hangs on a line, together: head wanted at its far end and cost, with the place in every child's
// list.
struct Merged {
  std::vector<double> need_m, cost;
  std::vector<std::uint32_t> place;  // children.size() for each
};

// A line as the search goes by it. A row is open there when some of its lines hang on it (or are it) and some
// do not.
struct Stage {
  std::vector<std::size_t> children;
  std::vector<int> behind;                  // rows open at the children
  std::vector<int> all;                     // those, then the line's own
  std::vector<int> open;                    // of all, those that have lines elsewhere
  std::vector<std::size_t> lines;           // of each of `all`, how many of its lines hang here
  std::vector<std::vector<double>> within;  // of each of `all`, by its size, their priced losses
  double settled = 0.0, always = 0.0;       // least of rows that are not open any more; of what goes by none
  std::vector<Merged> merged;               // by the sizes of `behind`
  std::vector<std::vector<Pair>> front;     // by the sizes of `open`
};

class Search {
 public:
  Search(const Tree& tree, const std::vector<double>& most, TreeAnswer& answer)
      : tree_(tree), mostBefore_(most), answer_(answer) {}

  // Prices of head from the programme. With multipliers μ at the ends and π = Σ μ behind a line, no choice
  // costs less than Σ min (cost + π loss) + Σ μ (need − head): weak duality, whatever μ ≥ 0 is.
  void price(const SplitAnswer& split) {
    const std::size_t n = tree_.lines.size();
    std::vector<double> need(n);
    for (std::size_t l = 0; l < n; ++l) {
      const TreeLine& line = tree_.lines[l];
      need[l] = line.need_m;
      if (line.from >= 0) need[u(line.from)] = std::max(need[u(line.from)], line.needNear_m);
    }
    std::vector<double> mu = split.found ? split.price : std::vector<double>(n, 0.0);
    pi_.assign(n + 1, 0.0);
    for (std::size_t l = 0; l < n; ++l)
      if (tree_.lines[l].from >= 0 && split.found) mu[u(tree_.lines[l].from)] -= split.price[l];
    for (std::size_t l = 0; l < n; ++l) mu[l] = need[l] > noNeed_m ? std::max(0.0, mu[l]) : 0.0;
    for (std::size_t l = n; l-- > 0;) {
      pi_[l] += mu[l];
      if (tree_.lines[l].from >= 0) pi_[u(tree_.lines[l].from)] += pi_[l];
    }
    always_.assign(n, 0.0), priced_.assign(n, {});
    priceOf_ = tree_.cost;
    double whole = 0.0;
    for (std::size_t l = 0; l < n; ++l) {
      const TreeLine& line = tree_.lines[l];
      if (mu[l] > 0) always_[l] = mu[l] * (need[l] - tree_.head_m);
      if (line.rows.empty()) {
        always_[l] += pi_[l] * line.loss_m[0];
      } else {
        // What goes by several rows counts with the first, at its least.
        priced_[l] = leastBy(tree_, line, line.rows.front());
        auto& of = priceOf_[u(line.rows.front())];
        for (std::size_t s = 0; s < of.size(); ++s) {
          priced_[l][s] *= pi_[l];
          of[s] += priced_[l][s];
        }
      }
      whole += always_[l];
    }
    least_.clear();
    for (const auto& of : priceOf_) least_.push_back(*std::min_element(of.begin(), of.end()));
    for (const double of : least_) whole += of;
    whole_ = whole;
    double cheapestOfAll = 0.0;
    for (const auto& cost : tree_.cost) cheapestOfAll += *std::min_element(cost.begin(), cost.end());
    answer_.bound = std::max(whole, cheapestOfAll);
  }

  // False where it was given up.
  bool run(std::size_t most, const std::stop_token& stop) {
    const std::size_t n = tree_.lines.size();
    lines_.assign(tree_.cost.size(), 0);
    for (const TreeLine& line : tree_.lines)
      for (const int r : line.rows) ++lines_[u(r)];
    stages_.assign(n + 1, {});
    for (std::size_t l = 0; l < n; ++l)
      stages_[tree_.lines[l].from < 0 ? n : u(tree_.lines[l].from)].children.push_back(l);
    for (std::size_t l = n; l-- > 0;)
      if (!goBy(l, most, stop)) return false;
    return goBy(n, most, stop);  // before the source
  }

  // The cheapest pair at the source, read back; false where there is none.
  bool readBack(Sizes& size) const {
    const std::size_t n = tree_.lines.size();
    const auto& top = stages_[n].front[0];
    if (top.empty()) return false;
    for (std::size_t r = 0; r < tree_.cost.size(); ++r)
      if (lines_[r] == 0)
        size[r] = static_cast<std::size_t>(std::min_element(tree_.cost[r].begin(), tree_.cost[r].end()) -
                                           tree_.cost[r].begin());
    const Pair* cheapest = &top.front();
    for (const Pair& p : top)
      if (p.cost < cheapest->cost) cheapest = &p;
    std::vector<std::pair<std::size_t, const Pair*>> open{{n, cheapest}};
    while (!open.empty()) {
      const auto [l, p] = open.back();
      open.pop_back();
      const Stage& at = stages_[l];
      std::size_t rest = p->sizes;
      for (std::size_t k = at.all.size(); k-- > 0;) {
        const std::size_t sizes = tree_.cost[u(at.all[k])].size();
        size[u(at.all[k])] = rest % sizes;
        rest /= sizes;
      }
      const Merged& merged = at.merged[placeOf(tree_, at.behind, size)];
      for (std::size_t k = 0; k < at.children.size(); ++k) {
        const Stage& child = stages_[at.children[k]];
        const auto& front = child.front[placeOf(tree_, child.open, size)];
        open.push_back({at.children[k], &front[merged.place[p->after * at.children.size() + k]]});
      }
    }
    return true;
  }

 private:
  [[nodiscard]] std::size_t choicesOf(const std::vector<int>& rows) const {
    std::size_t count = 1;
    for (const int r : rows) count = std::min(count * tree_.cost[u(r)].size(), openMost + 1);
    return count;
  }

  void meet(std::size_t l) {
    Stage& at = stages_[l];
    const bool isLine = l < tree_.lines.size();
    const auto add = [&](int row, std::size_t count, const std::vector<double>& within) {
      auto k = static_cast<std::size_t>(std::find(at.all.begin(), at.all.end(), row) - at.all.begin());
      if (k == at.all.size()) {
        at.all.push_back(row), at.lines.push_back(0);
        at.within.emplace_back(tree_.cost[u(row)].size(), 0.0);
      }
      at.lines[k] += count;
      for (std::size_t s = 0; s < within.size(); ++s) at.within[k][s] += within[s];
    };
    for (const std::size_t c : at.children) {
      const Stage& child = stages_[c];
      for (std::size_t k = 0; k < child.all.size(); ++k)
        if (std::find(child.open.begin(), child.open.end(), child.all[k]) != child.open.end())
          add(child.all[k], child.lines[k], child.within[k]);
      at.settled += child.settled, at.always += child.always;
    }
    at.behind = at.all;
    if (isLine) {
      at.always += always_[l];
      for (const int r : tree_.lines[l].rows)
        add(r, 1, r == tree_.lines[l].rows.front() ? priced_[l] : std::vector<double>());
    }
    for (std::size_t k = 0; k < at.all.size(); ++k) {
      if (at.lines[k] < lines_[u(at.all[k])]) at.open.push_back(at.all[k]);
      else at.settled += least_[u(at.all[k])];
    }
  }

  // The choices behind lists: each pair costs the least of all that want no more head. Empty where some list
  // is.
  [[nodiscard]] Merged merge(const Stage& at, const Sizes& size, double need, double most_m) const {
    Merged m;
    if (at.children.empty()) {
      m.need_m = {need}, m.cost = {0.0};
      return m;
    }
    std::vector<const std::vector<Pair>*> fronts;
    std::vector<double> levels;
    double floor = need;
    for (const std::size_t c : at.children) {
      fronts.push_back(&stages_[c].front[placeOf(tree_, stages_[c].open, size)]);
      if (fronts.back()->empty()) return m;
      floor = std::max(floor, fronts.back()->front().need_m);
    }
    levels.push_back(floor);
    for (const auto* front : fronts)
      for (const Pair& p : *front)
        if (p.need_m > floor && p.need_m <= most_m + close_m) levels.push_back(p.need_m);
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
    std::vector<std::size_t> place(fronts.size(), 0);
    for (const double level : levels) {
      double cost = 0.0;
      for (std::size_t k = 0; k < fronts.size(); ++k) {
        const auto& front = *fronts[k];
        while (place[k] + 1 < front.size() && front[place[k] + 1].need_m <= level) ++place[k];
        cost += front[place[k]].cost;
      }
      m.need_m.push_back(level), m.cost.push_back(cost);
      for (const std::size_t k : place) m.place.push_back(static_cast<std::uint32_t>(k));
    }
    return m;
  }

  bool goBy(std::size_t l, std::size_t most, const std::stop_token& stop) {
    meet(l);
    Stage& at = stages_[l];
    const std::size_t choices = choicesOf(at.all);
    if (choices > openMost) return false;
    static const TreeLine source{.rows = {}, .loss_m = {0.0}};
    const TreeLine& line = l < tree_.lines.size() ? tree_.lines[l] : source;
    // What all the rest costs at least, by the sizes of the rows that are open.
    double rest = whole_ - at.settled - at.always;
    for (const int r : at.open) rest -= least_[u(r)];
    // What would save less than a millionth is no other answer.
    const double allowed =
        answer_.found ? answer_.cost + 1e-9 * std::max(1.0, std::abs(answer_.cost)) : endless;
    at.front.resize(choicesOf(at.open));
    const std::size_t own = choices / choicesOf(at.behind);
    Sizes size(tree_.cost.size(), 0);
    for (std::size_t i = 0; i < choices; ++i) {
      std::size_t left = i;
      double settles = 0.0, restHere = rest;
      for (std::size_t k = at.all.size(); k-- > 0;) {
        const auto r = u(at.all[k]);
        const std::size_t s = left % tree_.cost[r].size();
        left /= tree_.cost[r].size();
        size[r] = s;
        if (at.lines[k] == lines_[r]) settles += tree_.cost[r][s];
        else restHere += priceOf_[r][s] - at.within[k][s];
      }
      if (i % own == 0) at.merged.push_back(merge(at, size, line.need_m, line.most_m));
      const Merged& m = at.merged.back();
      const double loss = lossOf(tree_, line, size);
      auto& pairs = at.front[placeOf(tree_, at.open, size)];
      for (std::size_t k = 0; k < m.need_m.size(); ++k) {
        if (m.need_m[k] > line.most_m + close_m) break;
        const Pair p{std::max(m.need_m[k] + loss, line.needNear_m), m.cost[k] + settles,
                     static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(k)};
        if (p.need_m > mostBefore_[l] + close_m) break;
        const double priced = pi_[l] > 0 ? pi_[l] * (p.need_m - tree_.head_m) : 0.0;
        if (restHere + p.cost + priced <= allowed) pairs.push_back(p);
      }
      if (i % 64 == 0 && stop.stop_requested()) return false;
    }
    for (auto& pairs : at.front) {
      std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) {
        return a.need_m != b.need_m ? a.need_m < b.need_m : a.cost < b.cost;
      });
      std::size_t kept = 0;
      for (const Pair& p : pairs)
        if (kept == 0 || p.cost < pairs[kept - 1].cost - 1e-12 * std::abs(p.cost)) pairs[kept++] = p;
      pairs.resize(kept);
      pairs.shrink_to_fit();
      answer_.states += kept;
    }
    return answer_.states <= most && !stop.stop_requested();
  }

  const Tree& tree_;
  const std::vector<double>& mostBefore_;
  TreeAnswer& answer_;
  std::vector<double> pi_, always_, least_;   // by line; by line; by row
  std::vector<std::vector<double>> priced_;   // by line and size of its first row: its priced loss
  std::vector<std::vector<double>> priceOf_;  // by row and size: its cost and all priced losses
  double whole_ = 0.0;
  std::vector<std::size_t> lines_;  // of each row
  std::vector<Stage> stages_;       // of each line, and the source
};

}  // namespace

std::size_t placeOf(const Tree& tree, std::span<const int> rows, std::span<const std::size_t> size) {
  std::size_t at = 0;
  for (const int r : rows) at = at * tree.cost[u(r)].size() + size[u(r)];
  return at;
}

std::vector<double> leastBy(const Tree& tree, const TreeLine& line, int row) {
  std::vector<double> least(tree.cost[u(row)].size(), endless);
  for (std::size_t i = 0; i < line.loss_m.size(); ++i) {
    std::size_t rest = i, own = 0;
    for (std::size_t k = line.rows.size(); k-- > 0;) {
      const std::size_t sizes = tree.cost[u(line.rows[k])].size();
      if (line.rows[k] == row) own = rest % sizes;
      rest /= sizes;
    }
    least[own] = std::min(least[own], line.loss_m[i]);
  }
  return least;
}

TreeAnswer cheapest(const Tree& tree, std::size_t pairs, std::stop_token stop, const SplitAnswer* like) {
  TreeAnswer answer;
  for (const TreeLine& line : tree.lines) {
    std::size_t choices = 1;
    for (const int r : line.rows) choices *= tree.cost[u(r)].size();
    ensure(!line.loss_m.empty() && line.loss_m.size() == choices, "every line of a tree has its losses");
  }
  const std::vector<double> most = mostBefore(tree, answer);
  if (answer.shortAt >= 0) {
    answer.proved = true;
    return answer;
  }
  const auto take = [&](Sizes size) {
    if (!keeps(tree, size)) return;
    descend(tree, size);
    const double cost = costOf(tree, size);
    if (!answer.found || cost < answer.cost) answer.size = std::move(size), answer.cost = cost;
    answer.found = true;
  };
  const auto sum = leastLosses(tree);
  // From the programme's shares rounded to what loses less; where that does not keep the heads, from the
  // least losses.
  answer.split = like && like->found ? *like : cheapestSplit(tree, {}, stop);
  const SplitAnswer& split = answer.split;
  for (const bool rounded : {true, false}) {
    if (answer.found || (rounded && !split.found)) continue;
    Sizes size;
    for (std::size_t r = 0; r < sum.size(); ++r) {
      double loss = endless;
      size.push_back(0);
      for (std::size_t s = 0; s < sum[r].size(); ++s)
        if ((!rounded || split.share[r][s] > 1e-9) && sum[r][s] < loss) loss = sum[r][s], size[r] = s;
    }
    follow(tree, size);
    take(std::move(size));
  }
  Search search(tree, most, answer);
  search.price(split);
  if (!search.run(pairs, stop)) return answer;
  Sizes size(tree.cost.size(), 0);
  if (!search.readBack(size)) {
    // Nothing was dropped for its cost where no choice was known: then there is none. Else numbers do not
    // hang together, and nothing is claimed.
    answer.proved = !answer.found;
    return answer;
  }
  if (const double cost = costOf(tree, size); !answer.found || cost < answer.cost)
    answer.size = std::move(size), answer.cost = cost;
  answer.found = answer.proved = true;
  answer.bound = answer.cost;
  return answer;
}

}  // namespace conduit

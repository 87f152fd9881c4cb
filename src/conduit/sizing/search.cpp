#include "sizing/search.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <random>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "network/setting.h"

namespace conduit {
namespace {

struct Hash {
  std::size_t operator()(const SizeChoice& c) const {
    std::size_t h = 1469598103934665603ull;
    for (const std::uint16_t v : c) h = (h ^ v) * 1099511628211ull;
    return h;
  }
};

// A choice with its verdict.
struct Found {
  SizeChoice choice;
  SizingVerdict verdict;
};

// One descent: mends what is broken, then goes cheaper line by line and pair by pair. What it has judged it
// knows.
class Descent {
 public:
  Descent(const SizingTask& task, Judge& judge, std::size_t lane, std::stop_token stop)
      : task_(task), judge_(judge), lane_(lane), stop_(std::move(stop)) {}

  Found from(SizeChoice choice) {
    Found at{choice, verdict(choice)};
    mend(at);
    for (bool better = true; better && !spent();) {
      better = singles(at);
      better = pairs(at) || better;
    }
    return at;
  }
  [[nodiscard]] std::size_t judged() const { return known_.size(); }

 private:
  const SizingVerdict& verdict(const SizeChoice& c) {
    const auto at = known_.find(c);
    if (at != known_.end() && !at->second.partly) return at->second;
    return known_.insert_or_assign(c, judge_.of(c, lane_)).first->second;
  }
  // Enough to tell whether it is better than what stands.
  const SizingVerdict& verdict(const SizeChoice& c, const SizingVerdict& stands) {
    if (!stands.keeps()) return verdict(c);
    const auto at = known_.find(c);
    if (at != known_.end()) return at->second;
    return known_.emplace(c, judge_.against(c, lane_, stands)).first->second;
  }
  [[nodiscard]] bool spent() const {
    return stop_.stop_requested() || known_.size() > 400 + 300 * task_.rows.size();
  }
  [[nodiscard]] bool up(SizeChoice& c, std::size_t r, int by) const {
    const int to = static_cast<int>(c[r]) + by;
    if (to < 0 || to >= static_cast<int>(task_.rows[r].sizes.size())) return false;
    c[r] = static_cast<std::uint16_t>(to);
    return true;
  }
  // The line that mends most for its cost a size up, until all is kept or nothing mends.
  void mend(Found& at) {
    while (!at.verdict.keeps() && !spent()) {
      std::optional<Found> best;
      double worth = 0.0;
      for (std::size_t r = 0; r < at.choice.size(); ++r) {
        for (const int by : {1, -1}) {
          SizeChoice c = at.choice;
          if (!up(c, r, by)) continue;
          const SizingVerdict& v = verdict(c);
          const double mends = at.verdict.violation - v.violation, costs = v.objective - at.verdict.objective;
          if (mends <= 1e-12) continue;
          const double w = mends / std::max(costs, 1e-9 * std::max(1.0, at.verdict.objective));
          if (w > worth) worth = w, best = Found{c, v};
        }
      }
      if (!best) return;
      at = std::move(*best);
    }
  }
  // Lines by what a size down saves, the most first; each goes down as far as it can.
  bool singles(Found& at) {
    bool any = false;
    for (bool better = true; better && !stop_.stop_requested();) {
      better = false;
      std::vector<std::pair<double, std::size_t>> order;
      const double now = judge_.costLaid(at.choice);
      for (std::size_t r = 0; r < at.choice.size(); ++r) {
        SizeChoice c = at.choice;
        if (up(c, r, -1)) order.push_back({judge_.costLaid(c) - now, r});
        // Running may cost more than laying: a size up can save too.
        if (task_.options.wanted == Wanted::wholeLife)
          if (SizeChoice wider = at.choice; up(wider, r, 1))
            order.push_back({judge_.costLaid(wider) - now, r + at.choice.size()});
      }
      std::sort(order.begin(), order.end());
      for (const auto& [saves, which] : order) {
        SizeChoice c = at.choice;
        const bool wider = which >= at.choice.size();
        if (!up(c, wider ? which - at.choice.size() : which, wider ? 1 : -1)) continue;
        if (spent()) return any;
        const SizingVerdict& v = verdict(c, at.verdict);
        if (!v.betterThan(at.verdict)) continue;
        at = {c, v};
        better = any = true;
      }
    }
    return any;
  }
  // One down by one or two sizes, another up by one: of pairs that save, the most first.
  bool pairs(Found& at) {
    const std::size_t n = at.choice.size();
    if (n < 2) return false;
    const double now = judge_.costLaid(at.choice);
    std::vector<std::pair<double, SizeChoice>> order;
    for (std::size_t down = 0; down < n; ++down)
      for (const int by : {-1, -2, -3}) {
        SizeChoice c = at.choice;
        if (!up(c, down, by)) break;
        // Of many lines the next ones in order alone: they mostly hang together.
        const std::size_t reach = n <= 24 ? n : 4;
        for (std::size_t k = 1; k < n && k <= reach; ++k) {
          const std::size_t wider = (down + (k % 2 ? (k + 1) / 2 : n - k / 2)) % n;
          for (const int up_ : {1, 2}) {
            if (wider == down) continue;
            SizeChoice two = c;
            if (!up(two, wider, up_)) break;
            const double saves = judge_.costLaid(two) - now;
            if (saves < 0 || task_.options.wanted == Wanted::wholeLife)
              order.push_back({saves, std::move(two)});
          }
        }
      }
    std::sort(order.begin(), order.end());
    if (order.size() > 600 + 6 * n) order.resize(600 + 6 * n);
    for (const auto& [saves, c] : order) {
      if (spent()) return false;
      const SizingVerdict& v = verdict(c, at.verdict);
      if (!v.betterThan(at.verdict)) continue;
      at = {c, v};
      return true;
    }
    return false;
  }

  const SizingTask& task_;
  Judge& judge_;
  std::size_t lane_;
  std::stop_token stop_;
  std::unordered_map<SizeChoice, SizingVerdict, Hash> known_;
};

// A branched network of one source and given draw-offs as plain numbers: flows do not depend on sizes, so
// every size of every line is measured by as many solves as there are sizes. Empty where it is not such a
// network.
struct Measured {
  Tree tree;
  std::vector<std::size_t> row;                  // of each line of the tree
  std::vector<std::vector<std::uint16_t>> size;  // of each line, the sizes that stand in the tree
};
std::optional<Measured> measure(const SizingTask& task, Judge& judge) {
  if (task.cases.size() != 1 || task.options.wanted == Wanted::wholeLife) return std::nullopt;
  for (const SizingRow& r : task.rows)
    if (r.lines.size() != 1) return std::nullopt;
  const Network n = networkOf(task.model, task.cases.front());
  // Pipes and points, one that holds a head, nothing else: then the flow of each line is what is drawn behind
  // it.
  Id source = noId;
  std::size_t points = 0, pipes = 0;
  bool plain = true;
  n.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) {
      ++points;
      plain = plain && !e.values.released("outflow") && !e.values.released("inflow") &&
              !e.text("tee branch") && !e.value("change of bore");
    } else if (e.part->key == "pipe") {
      ++pipes;
    } else if (e.part->key == "fixed pressure" && source == noId && !e.values.released("pressure")) {
      source = id;
    } else if (e.part->ends != Ends::free && e.part->ends != Ends::none) {
      plain = false;
    }
    plain = plain && e.values.goals().empty();
  });
  if (!plain || source == noId || pipes + 1 != points || pipes != task.rows.size()) return std::nullopt;
  std::vector<std::size_t> rowOf(n.bound(), 0);
  std::size_t widest = 0;
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    rowOf[task.rows[r].lines.front()] = r;
    widest = std::max(widest, task.rows[r].sizes.size());
  }
  // Outward from the source.
  Measured m;
  std::vector<int> lineTo(n.bound(), -1);
  std::vector<Id> front{n.at(source).ends[0]};
  std::vector<char> seen(n.bound(), 0);
  std::vector<Id> near, far, line;
  seen[front[0]] = 1;
  for (std::size_t i = 0; i < front.size(); ++i)
    for (const Id id : n.elementsAt(front[i])) {
      const Element& e = n.at(id);
      if (e.part->key != "pipe") continue;
      const Id other = e.ends[0] == front[i] ? e.ends[1] : e.ends[0];
      if (seen[other]) continue;
      seen[other] = 1;
      m.tree.lines.push_back({.from = lineTo[front[i]]});
      m.row.push_back(rowOf[id]);
      lineTo[other] = static_cast<int>(m.tree.lines.size()) - 1;
      near.push_back(front[i]), far.push_back(other), line.push_back(id), front.push_back(other);
    }
  if (m.tree.lines.size() != pipes) return std::nullopt;
  m.size.resize(pipes);
  for (std::size_t s = 0; s < widest; ++s) {
    SizeChoice choice;
    for (const SizingRow& r : task.rows)
      choice.push_back(static_cast<std::uint16_t>(std::min(s, r.sizes.size() - 1)));
    const Network with = judge.network(task.cases.front(), choice);
    const Solution answer = solve(with, task.stock.get(), {.units = task.units, .offers = 0});
    if (!answer.summary.usable()) return std::nullopt;
    m.tree.head_m = *answer.head(n.at(source).ends[0]);
    for (std::size_t l = 0; l < pipes; ++l) {
      if (s >= task.rows[m.row[l]].sizes.size()) continue;
      // Outward: where something is fed in behind a line, its flow may come the other way.
      const auto before = answer.head(near[l]), after = answer.head(far[l]);
      if (!before || !after) return std::nullopt;
      if (s == 0)
        for (const Check& c : checksOf(with, answer, far[l], task.units)) {
          if (c.severity > Severity::broken || !c.least) continue;
          // A least pressure is a least head: what is short now, more.
          const double head = *answer.head(far[l]) + answer.setting.medium.columnOf(*c.least - c.value);
          m.tree.lines[l].need_m = std::max(m.tree.lines[l].need_m, head);
        }
      bool broken = false;
      for (const Check& c : checksOf(with, answer, line[l], task.units))
        broken = broken || (c.severity <= Severity::broken && c.broken() &&
                            (c.measure == Measure::velocity || c.label.find("radient") != std::string::npos));
      if (broken) continue;
      const PipeSize& size = *task.rows[m.row[l]].sizes[s];
      m.tree.lines[l].loss_m.push_back(*before - *after);
      m.tree.lines[l].cost.push_back(task.rows[m.row[l]].length_m * (task.options.wanted == Wanted::mass
                                                                         ? size.mass_kgm.value_or(0)
                                                                         : size.costPerMetre.value_or(0)));
      m.size[l].push_back(static_cast<std::uint16_t>(s));
    }
  }
  for (const TreeLine& l : m.tree.lines)
    if (l.cost.empty()) return std::nullopt;
  return m;
}

constexpr std::size_t poolMost = 10;

// Sizes from the wider half, anyhow.
SizeChoice anywhere(const SizeChoice& widest, std::mt19937_64& chance) {
  SizeChoice c;
  for (const std::uint16_t w : widest)
    c.push_back(static_cast<std::uint16_t>(w - chance() % (1 + (w + 1u) / 2)));
  return c;
}
// One of the pool, or two crossed, shaken in a few places.
SizeChoice bred(const std::vector<Found>& pool, const SizeChoice& widest, std::mt19937_64& chance) {
  const std::size_t n = widest.size();
  SizeChoice c = pool[chance() % pool.size()].choice;
  const SizeChoice& other = pool[chance() % pool.size()].choice;
  const bool crossed = chance() % 2 == 0;
  if (crossed)
    for (std::size_t r = 0; r < n; ++r)
      if (chance() % 2 == 0) c[r] = other[r];
  const std::size_t shaken =
      (crossed ? 1 : 2) + chance() % std::min<std::size_t>(5, std::max<std::size_t>(1, n / 2));
  for (std::size_t k = 0; k < shaken; ++k) {
    const std::size_t r = chance() % n;
    c[r] = static_cast<std::uint16_t>(std::clamp(static_cast<int>(c[r]) + static_cast<int>(chance() % 7) - 3,
                                                 0, static_cast<int>(widest[r])));
  }
  return c;
}

}  // namespace

SizingProposal searchSizes(const SizingTask& task, const SearchOptions& options) {
  SizingProposal best;
  const std::size_t width = lanes(options.jobs);
  Judge judge(task, width);
  const std::size_t n = task.rows.size();
  SizeChoice now, widest;
  bool sized = true;
  for (const SizingRow& r : task.rows) {
    sized = sized && r.now;
    now.push_back(static_cast<std::uint16_t>(r.now.value_or(r.sizes.size() - 1)));
    widest.push_back(static_cast<std::uint16_t>(r.sizes.size() - 1));
  }
  if (sized) best.now = judge.of(now, 0, true);
  if (const auto measured = measure(task, judge)) {
    const TreeAnswer tree = cheapest(measured->tree, 4'000'000, options.jobs.stop);
    if (tree.found) {
      best.choice.assign(n, 0);
      for (std::size_t l = 0; l < n; ++l) best.choice[measured->row[l]] = measured->size[l][tree.size[l]];
      best.verdict = judge.of(best.choice, 0, true);
      // What the tree knows nothing of (a greatest pressure, a rating) is judged here; where it is broken
      // nothing is proved.
      if (best.verdict.keeps()) {
        best.proved = tree.proved;
        best.bound = tree.bound;
        best.how = tree.proved ? fmt::format(
                                     "branched, with given draw-offs: every choice of sizes was weighed ({} "
                                     "pairs kept); none is cheaper",
                                     tree.states)
                               : fmt::format(
                                     "branched, with given draw-offs: {} pairs, given up before the end; a "
                                     "linear programme bounds it",
                                     tree.states);
      } else {
        best.choice.clear();
      }
    }
  }
  if (best.choice.empty()) {
    const auto begin = std::chrono::steady_clock::now();
    std::optional<Found> found;
    std::vector<Found> pool;  // the best that differ
    constexpr std::size_t perRound = 4;
    for (std::size_t first = 0;
         first < std::max<std::size_t>(task.options.trials, 1) && !options.jobs.stop.stop_requested();
         first += perRound) {
      const std::size_t count = std::min(perRound, std::max<std::size_t>(task.options.trials, 1) - first);
      std::vector<std::size_t> judged(count, 0);
      const auto results = runJobs(
          count,
          [&](std::size_t i, std::size_t lane, std::stop_token stop) {
            // A beginning of its own: the widest sizes, those drawn, then what good ones breed, now and then
            // anywhere.
            SizeChoice c = widest;
            if (first + i == 1 && sized) c = now;
            if (first + i > 1 || (first + i == 1 && !sized)) {
              std::seed_seq seeds{task.options.seed, static_cast<std::uint64_t>(first + i)};
              std::mt19937_64 chance(seeds);
              c = pool.size() < 2 || chance() % 8 == 0 ? anywhere(widest, chance)
                                                       : bred(pool, widest, chance);
            }
            Descent descent(task, judge, lane, stop);
            Found f = descent.from(std::move(c));
            judged[i] = descent.judged();
            return f;
          },
          options.jobs);
      for (std::size_t i = 0; i < count; ++i) {
        best.judged += judged[i];
        if (!results[i]) continue;
        ++best.trials;
        const bool other = std::none_of(pool.begin(), pool.end(),
                                        [&](const Found& f) { return f.choice == results[i]->choice; });
        if (other) pool.push_back(*results[i]);
      }
      std::stable_sort(pool.begin(), pool.end(),
                       [](const Found& a, const Found& b) { return a.verdict.betterThan(b.verdict); });
      if (pool.size() > poolMost) pool.resize(poolMost);
      if (!pool.empty() && (!found || pool.front().verdict.betterThan(found->verdict))) {
        found = pool.front();
        if (options.better) {
          SizingProposal so = best;
          so.choice = found->choice, so.verdict = found->verdict;
          options.better(so);
        }
      }
      if (found) best.course.push_back({best.trials, found->verdict.objective});
      best.stopped = options.jobs.stop.stop_requested();
      if (task.options.seconds > 0 &&
          std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() >
              task.options.seconds)
        break;
    }
    if (!found) {
      best.stopped = true;
      return best;
    }
    best.choice = found->choice;
    best.verdict = judge.of(best.choice, 0, true);
    best.bound.reset();
    best.how = fmt::format(
        "{} descents from beginnings of their own (seed {}), {} choices of sizes judged by solving the whole "
        "network{}; there may be a cheaper one",
        best.trials, task.options.seed, best.judged,
        task.cases.size() > 1 ? fmt::format(" in {} cases", task.cases.size()) : "");
  }
  // Why no row is smaller.
  const auto governed = runJobs(
      n,
      [&](std::size_t r, std::size_t lane, std::stop_token) {
        Governed g;
        if (best.choice[r] == 0) return g;
        SizeChoice c = best.choice;
        --c[r];
        const SizingVerdict v = judge.of(c, lane, true);
        if (v.violation > best.verdict.violation + 1e-12) g.by = Governed::By::limit, g.limit = v.worst;
        else g.by = Governed::By::cost, g.dearer = v.objective - best.verdict.objective;
        return g;
      },
      options.jobs);
  for (const auto& g : governed) best.governed.push_back(g ? *g : Governed{});
  return best;
}

Model withSizes(const SizingTask& task, const SizeChoice& choice, const std::vector<bool>& ticked) {
  Draft draft(task.model.drawn);
  for (std::size_t r = 0; r < choice.size(); ++r) {
    if (!ticked.empty() && !ticked[r]) continue;
    for (const Id id : task.rows[r].lines) {
      draft.values(id).clear("bore");
      draft.values(id).set("size", task.rows[r].sizes[choice[r]]->name());
    }
  }
  return withEdit(task.model, drawingCase, std::move(draft).finish());
}

}  // namespace conduit

#include "sizing/search.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "cases/case_edits.h"
#include "jobs/alarm.h"
#include "quantity/format.h"
#include "sizing/bound.h"
#include "sizing/plain_tree.h"
#include "sizing/steps.h"
#include "solve/solve.h"

namespace conduit {
namespace {

constexpr std::size_t poolMost = 8, perRound = 8;

SizeChoice widestOf(const SizingTask& task) {
  SizeChoice widest;
  for (const SizingRow& r : task.rows) widest.push_back(static_cast<std::uint16_t>(r.sizes.size() - 1));
  return widest;
}

// The narrowest sizes in which no line runs quicker than that, at the flows that `at` has.
SizeChoice byVelocity(const SizingTask& task, std::span<const double> flows, double velocity_ms) {
  SizeChoice c;
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    const auto& sizes = task.rows[r].sizes;
    const double bore = std::sqrt(4 * flows[r] / (M_PI * velocity_ms));
    std::size_t s = 0;
    while (s + 1 < sizes.size() && sizes[s]->bore_m < bore) ++s;
    c.push_back(static_cast<std::uint16_t>(s));
  }
  return c;
}

// A few rows elsewhere: mostly next to one another in the drawing's order, for those hang together. Or a run
// of rows a size down or up as one: lines one behind the other often can change together where none can
// alone.
SizeChoice perturbed(SizeChoice c, const SizeChoice& widest, std::mt19937_64& chance) {
  const std::size_t n = c.size();
  const auto put = [&](std::size_t r, int to) {
    c[r] = static_cast<std::uint16_t>(std::clamp(to, 0, static_cast<int>(widest[r])));
  };
  if (chance() % 4 == 0) {
    const std::size_t count = 2 + chance() % n, first = chance() % n;
    const int by = chance() % 3 == 0 ? 1 : -1;
    for (std::size_t k = 0; k < std::min(count, n); ++k)
      put((first + k) % n, static_cast<int>(c[(first + k) % n]) + by);
    return c;
  }
  const std::size_t count = 2 + chance() % std::max<std::size_t>(3, std::min<std::size_t>(n / 6, 24)),
                    first = chance() % n;
  const bool near = chance() % 2 == 0;
  for (std::size_t k = 0; k < count; ++k) {
    const std::size_t r = near ? (first + chance() % (2 * count)) % n : chance() % n;
    // Mostly a little, sometimes anywhere: a line that is not laid is far from the sizes it could have.
    put(r, chance() % 4 == 0 ? static_cast<int>(chance() % (widest[r] + 1u))
                             : static_cast<int>(c[r]) + static_cast<int>(chance() % 5) - 2);
  }
  return c;
}

SizeChoice crossed(const SizeChoice& a, const SizeChoice& b, std::mt19937_64& chance) {
  SizeChoice c = a;
  for (std::size_t r = 0; r < c.size(); ++r)
    if (chance() % 2 == 0) c[r] = b[r];
  return c;
}

// The best that differ, and what each round adds.
class Pool {
 public:
  void add(Judged found) {
    for (const Judged& f : all_)
      if (f.choice == found.choice) return;
    all_.push_back(std::move(found));
  }
  void settle() {
    std::stable_sort(all_.begin(), all_.end(),
                     [](const Judged& a, const Judged& b) { return a.verdict.betterThan(b.verdict); });
    if (all_.size() > poolMost) all_.resize(poolMost);
  }
  [[nodiscard]] bool empty() const { return all_.empty(); }
  [[nodiscard]] const Judged& best() const { return all_.front(); }
  [[nodiscard]] const Judged& any(std::mt19937_64& chance) const { return all_[chance() % all_.size()]; }
  /// The best every other time.
  [[nodiscard]] const Judged& good(std::mt19937_64& chance) const {
    return chance() % 2 == 0 ? all_.front() : any(chance);
  }

 private:
  std::vector<Judged> all_;
};

// `starts`: what is known to begin from, besides what it begins from by itself.
void search(const SizingTask& task, const SearchOptions& options, Judge& judge, const Alarm& alarm,
            std::vector<SizeChoice> starts, SizingProposal& best) {
  const std::size_t n = task.rows.size(), trials = trialsOf(task);
  const SizeChoice widest = widestOf(task);
  const std::stop_token stop = options.jobs.stop;
  Pool pool;
  const auto tell = [&] {
    pool.settle();
    if (pool.empty()) return;
    if (pool.best().verdict.keeps()) best.course.push_back({best.trials, pool.best().verdict.objective});
    if (!options.better) return;
    SizingProposal so = best;
    so.choice = pool.best().choice, so.verdict = pool.best().verdict;
    options.better(so);
  };
  // The first trials begin with the sizes drawn, the widest and those of some velocities: the best of them
  // with all lanes, then the others.
  starts.push_back(widest);
  if (best.now) {
    starts.push_back({});
    for (const SizingRow& r : task.rows) starts.back().push_back(static_cast<std::uint16_t>(*r.now));
  }
  SizeChoice from = starts.back();
  for (int again = 0; again < 2 && !alarm.token().stop_requested(); ++again) {
    const auto flows = judge.greatestFlows(from);
    if (flows.empty()) break;
    for (const double v : {0.5, 0.8, 1.2, 1.8, 2.7}) starts.push_back(byVelocity(task, flows, v));
    from = byVelocity(task, flows, 1.2);
  }
  std::vector<Judged> begun;
  const auto judged = runJobs(
      starts.size(),
      [&](std::size_t i, std::size_t lane, std::stop_token) { return judge.evaluate(starts[i], lane); },
      options.jobs);
  for (std::size_t i = 0; i < starts.size(); ++i)
    if (judged[i] && !judged[i]->stopped) begun.push_back({starts[i], *judged[i]});
  best.judged += begun.size();
  if (begun.empty() && !stop.stop_requested()) {
    // There was no time to judge any: one has to be, the sizes as they are or the widest.
    judge.stopWith(stop);
    const SizingVerdict one = best.now ? *best.now : judge.evaluate(starts.back(), 0);
    if (!one.stopped) best.choice = starts.back(), best.verdict = one;
    return;
  }
  std::stable_sort(begun.begin(), begun.end(),
                   [](const Judged& a, const Judged& b) { return a.verdict.betterThan(b.verdict); });
  begun.erase(std::unique(begun.begin(), begun.end(),
                          [](const Judged& a, const Judged& b) { return a.choice == b.choice; }),
              begun.end());
  if (begun.empty()) return;
  pool.add(begun.front());
  if (begun.front().verdict.keeps()) best.course.push_back({0, begun.front().verdict.objective});
  {
    // Alone it may take longer than there is time: it is then left off, and counts as none.
    Stepper stepper(task, judge, 0, alarm.token());
    pool.add(stepper.from(begun.front().choice, 40 * n, &options.jobs));
    best.judged += stepper.judged();
    best.trials += !alarm.rang();
    tell();
  }
  for (std::size_t first = 1; first < trials && !alarm.token().stop_requested(); first += perRound) {
    const std::size_t count = std::min(perRound, trials - first);
    std::vector<std::size_t> looked(count, 0);
    std::vector<char> whole(count, 0);
    const auto results = runJobs(
        count,
        [&](std::size_t i, std::size_t lane, std::stop_token) {
          std::seed_seq seeds{task.options.seed, static_cast<std::uint64_t>(first + i)};
          std::mt19937_64 chance(seeds);
          // The best with every line a size down; the other beginnings; then kicks.
          SizeChoice c;
          if (first + i > 1 && first + i <= begun.size()) {
            c = begun[first + i - 1].choice;
          } else if (first + i == 1) {
            c = pool.best().choice;
            for (std::uint16_t& size : c)
              if (size > 0) --size;
          } else {
            c = pool.good(chance).choice;
            if (chance() % 3 == 0) c = crossed(c, pool.any(chance).choice, chance);
            c = perturbed(std::move(c), widest, chance);
          }
          Stepper stepper(task, judge, lane, alarm.token());
          Judged found = stepper.from(std::move(c), 40 * n);
          looked[i] = stepper.judged();
          whole[i] = !alarm.rang();
          return found;
        },
        options.jobs);
    // Trials that the time cut short, and those behind them, are left off: so many trials from the same seed
    // give what is shown here.
    bool cut = false;
    for (std::size_t i = 0; i < count; ++i) {
      best.judged += looked[i];
      cut = cut || !whole[i];
      if (!results[i] || (cut && alarm.rang())) continue;
      ++best.trials;
      pool.add(*results[i]);
    }
    tell();
  }
  best.stopped = stop.stop_requested();
  best.choice = pool.best().choice, best.verdict = pool.best().verdict;
}

// Why no choice keeps what is wanted in a case, as it was proved.
std::string whyNone(const SizingTask& task, const PlainTree& of, const TreeAnswer& tree) {
  const Case* which = task.model.cases.find(of.id);
  const std::string in = which && task.cases.size() > 1 ? " in " + which->name : "";
  if (tree.shortAt < 0) return fmt::format("not all minimum pressures can be met{} (exhaustive search)", in);
  const PlainTree::Line& line = of.lines[static_cast<std::size_t>(tree.shortAt)];
  const Network& n = task.model.drawn;
  return fmt::format("even with the lowest losses of these sizes, {} is {} short of head{}{}",
                     n.at(line.far == noId || tree.shortNear ? line.element : line.far).name,
                     withUnit(tree.short_m, Measure::headDrop, task.units, 3),
                     tree.shortNear ? " upstream" : "", in);
}

// A line that could be a size smaller with every limit kept and money saved must not remain in the proposal:
// such sizes are taken, the most saving first, each solved.
void useRemainingSavings(const SizingTask& task, const SearchOptions& options, Judge& judge,
                         std::span<const Run> runs, SizingProposal& best) {
  for (bool any = true; any && !options.jobs.stop.stop_requested();) {
    any = false;
    std::vector<std::pair<double, std::size_t>> order;
    for (std::size_t r = 0; r < best.governed.size(); ++r)
      if (best.governed[r].by == Governed::By::cost && best.governed[r].dearer < 0)
        order.push_back({best.governed[r].dearer, r});
    std::sort(order.begin(), order.end());
    for (const auto& [saves, r] : order) {
      SizeChoice c = best.choice;
      if (!resize(task, c, r, -1)) continue;
      if (narrowings(task, runs, c) > narrowings(task, runs, best.choice)) continue;
      const SizingVerdict v = judge.evaluate(c, 0, true);
      ++best.judged;
      if (!v.stopped && v.betterThan(best.verdict)) best.choice = std::move(c), best.verdict = v, any = true;
    }
    if (any && !options.jobs.stop.stop_requested())
      best.governed = governedOf(task, judge, best.choice, best.verdict, options.jobs);
  }
}

// Along a run without branch or draw-off nobody lays a line that narrows and widens again: of the ways to put
// it right the best that keeps the limits. A proof is then of the cheapest with narrow places: its cost is a
// bound.
void straighten(const SizingTask& task, Judge& judge, std::span<const Run> runs, SizingProposal& best) {
  if (narrowings(task, runs, best.choice) == 0) return;
  std::optional<Judged> other;
  for (SizeChoice& c : straightened(task, runs, best.choice)) {
    const SizingVerdict v = judge.evaluate(c, 0, true);
    ++best.judged;
    if (v.stopped || (best.verdict.keeps() && !v.keeps())) continue;
    if (!other || v.betterThan(other->verdict)) other = Judged{std::move(c), v};
  }
  // About the best of them each run by itself, the cheapest to lay first.
  constexpr int looked = 400;
  for (const Run& run : runs) {
    if (!other) break;
    int left = looked;
    for (SizeChoice& c : straightNear(task, run, other->choice)) {
      // Of rising costs the first that keeps the limits is the best here.
      const bool dearer = task.options.objective == Objective::laid && other->verdict.keeps() &&
                          judge.costLaid(c) >= other->verdict.laid;
      if (left-- == 0 || dearer) break;
      if (narrowings(task, runs, c) > narrowings(task, runs, other->choice)) continue;
      const SizingVerdict v = judge.evaluate(c, 0, true);
      ++best.judged;
      if (v.stopped) break;
      if (v.betterThan(other->verdict)) other = Judged{std::move(c), v};
    }
  }
  if (!other) return;
  if (best.proved && other->verdict.objective > best.verdict.objective * (1 + 1e-9)) {
    best.proved = false;
    best.bound = best.verdict.objective;
    best.how += "; then without runs that narrow and widen again";
    best.two.reset();
  }
  best.choice = std::move(other->choice), best.verdict = std::move(other->verdict);
}

// Of each case that is branched the cheapest sizes, as far as they are weighed: each is cheapest of all where
// it keeps every limit of every case, and none can where one case has none. Where nothing is proved, the
// choices to begin from.
std::vector<SizeChoice> prove(const SizingTask& task, const SearchOptions& options, Judge& judge,
                              SizingProposal& best) {
  std::vector<SizeChoice> from;
  PlainTrees plain = plainTrees(task, judge);
  best.noneCan = plain.none;
  // What pumps take is the same for every choice only where every case is read.
  if (task.options.objective == Objective::wholeLife && plain.lifts && !plain.all) return from;
  std::optional<double> bound;
  std::optional<double> always = plain.lifts ? std::nullopt : std::optional(0.0);
  for (PlainTree& of : plain.cases) {
    // Losses by several sizes at their least first; in full where a choice needs them so.
    takeLowestLosses(of);
    TreeAnswer tree;
    SizeChoice choice;
    SizingVerdict verdict;
    double least = 0.0;
    for (bool again = true; again;) {
      tree = cheapest(of.tree, 4'000'000, options.jobs.stop, &tree.split);
      if (!tree.found) break;
      least = std::max(least, tree.bound);
      choice.clear();
      for (std::size_t r = 0; r < task.rows.size(); ++r) choice.push_back(of.size[r][tree.size[r]]);
      verdict = judge.evaluate(choice, 0, true);
      again = false;
      if (verdict.keeps() || options.jobs.stop.stop_requested()) break;
      const Network with = judge.network(of.id, choice);
      const Solution answer =
          solve(with, task.stock.get(),
                {.units = task.units, .stop = options.jobs.stop, .offers = 0, .notes = false});
      const bool learnt = answer.summary.usable() && addNeeds(of, with, answer);
      again = takeFullLosses(of, tree.size) || learnt;
    }
    if (!tree.found) {
      if (tree.proved) best.noneCan = whyNone(task, of, tree);
      continue;
    }
    if (verdict.balanced) always = verdict.objective - tree.cost;
    bound = std::max(bound.value_or(0.0), least);
    from.push_back(choice);
    // What the tree knows nothing of (a greatest pressure, a rating, another case) is judged here; where it
    // is broken nothing is proved.
    if (!tree.proved || !verdict.keeps() || best.proved) continue;
    best.proved = true;
    best.choice = choice, best.verdict = verdict;
    const Case* which = task.model.cases.find(of.id);
    best.how = fmt::format(
        "branched network with given draw-offs: exhaustive search{} ({} states kept); no selection costs "
        "less",
        which && task.cases.size() > 1
            ? " for " + which->name + ", and this selection meets the limits of every case"
            : "",
        tree.states);
    best.two = twoSizes(task, of, tree, options.jobs.stop);
    if (best.two) best.two->objective += *always;
    if (best.two && best.two->objective >= best.verdict.objective) best.two.reset();
  }
  if (bound && always) best.bound = *bound + *always;
  if (best.proved) best.bound = best.verdict.objective;
  return from;
}

}  // namespace

SizingProposal searchSizes(const SizingTask& task, const SearchOptions& options) {
  SizingProposal best;
  Judge judge(task, lanes(options.jobs), options.jobs.stop);
  const std::size_t n = task.rows.size();
  const double seconds = task.options.seconds;
  SizeChoice now;
  for (const SizingRow& r : task.rows)
    if (r.now) now.push_back(static_cast<std::uint16_t>(*r.now));
  if (now.size() == n) best.now = judge.evaluate(now, 0, true);
  {
    const Alarm alarm(options.jobs.stop, seconds);
    judge.stopWith(alarm.token());
    SearchOptions timed = options;
    timed.jobs.stop = alarm.token();
    std::vector<SizeChoice> from = prove(task, timed, judge, best);
    if (!best.proved) {
      best.choice.clear();
      search(task, options, judge, alarm, std::move(from), best);
    }
  }
  const std::vector<Run> runs = runsOf(task);
  const bool wasProved = best.proved;
  // What is said of the proposal takes no longer than the search might.
  const Alarm alarm(options.jobs.stop, seconds > 0 ? std::max(1.0, seconds) : 0.0);
  judge.stopWith(alarm.token());
  SearchOptions rest = options;
  rest.jobs.stop = alarm.token();
  if (!best.choice.empty()) straighten(task, judge, runs, best);
  if (!best.proved) {
    if (best.choice.empty()) {
      best.stopped = true;
      return best;
    }
    if (SizingVerdict said = judge.evaluate(best.choice, 0, true); !said.stopped)
      best.verdict = std::move(said);
    if (!best.bound && best.noneCan.empty()) {
      CostBound bound = costBound(task, judge, rest.jobs.stop);
      best.bound = bound.cost, best.noBound = std::move(bound.why);
      // A choice that keeps all would speak against it; such a slip must not be told as a proof.
      if (!best.verdict.keeps()) best.noneCan = std::move(bound.noneCan);
    }
    if (!wasProved)
      best.how = best.trials == 0 && !best.stopped
                     ? fmt::format(
                           "time limit reached in the first trial, {} selections evaluated on the whole "
                           "network; a longer search may do better",
                           counted(best.judged))
                     : fmt::format(
                           "{} independent {} (seed {}), {} selections evaluated on the whole network{}; a "
                           "{} one may exist",
                           best.trials, best.trials == 1 ? "trial" : "trials", task.options.seed,
                           counted(best.judged),
                           task.cases.size() > 1 ? fmt::format(" in {} cases", task.cases.size()) : "",
                           best.verdict.keeps()   ? "cheaper"
                           : best.noneCan.empty() ? "better"
                                                  : "less violated");
  }
  best.governed = governedOf(task, judge, best.choice, best.verdict, rest.jobs);
  if (!best.proved) useRemainingSavings(task, rest, judge, runs, best);
  for (std::size_t r = 0; r < best.governed.size(); ++r)
    if (SizeChoice c = best.choice; best.governed[r].by == Governed::By::cost &&
                                    best.governed[r].dearer < 0 && resize(task, c, r, -1) &&
                                    narrowings(task, runs, c) > 0)
      best.governed[r].by = Governed::By::run;
  judge.stopWith(options.jobs.stop);
  (void)judge.evaluate(best.choice, 0, {.deliveries = &best.delivered});
  best.staying = stayingIn(task, best.choice);
  best.notCounted = changesNotCounted(task, best.choice);
  best.narrowings = narrowings(task, runs, best.choice);
  judge.stopWith(alarm.token());
  best.conflict = conflictOf(task, judge, best.choice, best.verdict, rest.jobs);
  if (alarm.rang()) best.how += "; time limit reached before all governing limits were examined";
  return best;
}

std::vector<Governed> governedOf(const SizingTask& task, Judge& judge, const SizeChoice& choice,
                                 const SizingVerdict& verdict, const JobOptions& jobs) {
  const auto all = runJobs(
      task.rows.size(),
      [&](std::size_t r, std::size_t lane, std::stop_token) {
        Governed g;
        if (choice[r] == 0) {
          if (task.rows[r].sizes.front() == &notLaid()) g.by = Governed::By::notLaid;
          return g;
        }
        SizeChoice c = choice;
        --c[r];
        const SizingVerdict v = judge.evaluate(c, lane, true);
        if (v.stopped) g.by = Governed::By::unknown;
        else if (v.violation > verdict.violation + 1e-12) g.by = Governed::By::limit, g.limit = v.worst;
        else g.by = Governed::By::cost, g.dearer = v.objective - verdict.objective;
        return g;
      },
      jobs);
  std::vector<Governed> governed;
  for (const auto& g : all) governed.push_back(g ? *g : Governed{.by = Governed::By::unknown});
  return governed;
}

std::optional<SizeChoice> choiceOf(const SizingTask& task,
                                   std::span<const std::pair<Id, std::string>> sizes) {
  SizeChoice c;
  for (const SizingRow& row : task.rows) {
    const auto line =
        std::find_if(sizes.begin(), sizes.end(), [&](const auto& s) { return s.first == row.lines.front(); });
    if (line == sizes.end()) return std::nullopt;
    const auto size = std::find_if(row.sizes.begin(), row.sizes.end(),
                                   [&](const PipeSize* p) { return p->name() == line->second; });
    if (size == row.sizes.end()) return std::nullopt;
    c.push_back(static_cast<std::uint16_t>(size - row.sizes.begin()));
  }
  return c;
}

Model withSizes(const SizingTask& task, const SizeChoice& choice, const std::vector<bool>& ticked) {
  Draft draft(task.model.drawn);
  for (std::size_t r = 0; r < choice.size(); ++r) {
    if (!ticked.empty() && !ticked[r]) continue;
    for (const Id id : task.rows[r].lines) {
      if (!task.model.drawn.find(id)) continue;
      giveSize(draft, id, *task.rows[r].sizes[choice[r]]);
    }
  }
  return withEdit(task.model, drawingCase, std::move(draft).finish());
}

}  // namespace conduit

#include "sizing/conflict.h"

#include <algorithm>

#include "sizing/slopes.h"

namespace conduit {
namespace {

struct Tried {
  double meets = 0.0;
  LimitExcess breaks{};
};

double excessOf(const std::vector<LimitExcess>& limits, std::uint64_t which, double fallback) {
  const auto at = std::lower_bound(limits.begin(), limits.end(), which,
                                   [](const LimitExcess& l, std::uint64_t w) { return l.which < w; });
  return at != limits.end() && at->which == which ? at->by : fallback;
}

}  // namespace

std::optional<Conflict> conflictOf(const SizingTask& task, Judge& judge, const SizeChoice& choice,
                                   const SizingVerdict& verdict, const JobOptions& jobs) {
  if (verdict.keeps() || !verdict.balanced || !verdict.worst) return std::nullopt;
  std::vector<LimitExcess> now;
  (void)judge.evaluate(choice, 0, {.limits = &now});
  if (now.empty()) return std::nullopt;
  const LimitExcess worst =
      *std::max_element(now.begin(), now.end(), [](auto& a, auto& b) { return a.by < b.by; });
  const auto tried = runJobs(
      2 * choice.size(),
      [&](std::size_t i, std::size_t lane, std::stop_token) {
        Tried t;
        SizeChoice c = choice;
        std::vector<LimitExcess> then;
        if (!resize(task, c, i / 2, i % 2 ? 1 : -1) || !judge.evaluate(c, lane, {.limits = &then}).balanced)
          return t;
        t.meets = worst.by - excessOf(then, worst.which, worst.by);
        for (const LimitExcess& l : then) {
          const double more = l.by - std::max(0.0, excessOf(now, l.which, 0.0));
          if (l.which != worst.which && l.by > 0 && more > t.breaks.by) t.breaks = {l.which, more};
        }
        return t;
      },
      jobs);
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < tried.size(); ++i)
    if (tried[i] && tried[i]->meets > 1e-6 && tried[i]->breaks.by > 1e-9 &&
        (!best || tried[i]->meets > tried[*best]->meets))
      best = i;
  if (!best) return std::nullopt;
  SizeChoice c = choice;
  (void)resize(task, c, *best / 2, *best % 2 ? 1 : -1);
  const auto meets = judge.named(worst.which, choice, 0),
             breaks = judge.named(tried[*best]->breaks.which, c, 0);
  if (!meets || !breaks) return std::nullopt;
  return Conflict{*best / 2, *best % 2 ? 1 : -1, *meets, *breaks};
}

}  // namespace conduit

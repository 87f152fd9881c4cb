#include "sizing/descent.h"

#include <algorithm>

namespace conduit {

Judged Descent::from(SizeChoice choice) {
  Judged at{choice, verdict(choice)};
  mend(at);
  for (bool better = true; better && !spent();) {
    better = singles(at);
    better = pairs(at) || better;
  }
  return at;
}

const SizingVerdict& Descent::verdict(const SizeChoice& c) {
  const auto at = known_.find(c);
  if (at != known_.end() && !at->second.partly) return at->second;
  return known_.insert_or_assign(c, judge_.of(c, lane_)).first->second;
}

// Enough to tell whether it is better than what stands.
const SizingVerdict& Descent::verdict(const SizeChoice& c, const SizingVerdict& stands) {
  if (!stands.keeps()) return verdict(c);
  const auto at = known_.find(c);
  if (at != known_.end()) return at->second;
  return known_.emplace(c, judge_.against(c, lane_, stands)).first->second;
}

// The line that mends most for its cost a size up, until all is kept or nothing mends.
void Descent::mend(Judged& at) {
  while (!at.verdict.keeps() && !spent()) {
    std::optional<Judged> best;
    double worth = 0.0;
    for (std::size_t r = 0; r < at.choice.size(); ++r) {
      for (const int by : {1, -1}) {
        SizeChoice c = at.choice;
        if (!resize(task_, c, r, by)) continue;
        const SizingVerdict& v = verdict(c);
        const double mends = at.verdict.violation - v.violation, costs = v.objective - at.verdict.objective;
        if (mends <= 1e-12) continue;
        const double w = mends / std::max(costs, 1e-9 * std::max(1.0, at.verdict.objective));
        if (w > worth) worth = w, best = Judged{c, v};
      }
    }
    if (!best) return;
    at = std::move(*best);
  }
}

// Lines by what a size down saves, the most first; each goes down as far as it can.
bool Descent::singles(Judged& at) {
  bool any = false;
  for (bool better = true; better && !stop_.stop_requested();) {
    better = false;
    std::vector<std::pair<double, std::size_t>> order;
    const double now = judge_.costLaid(at.choice);
    for (std::size_t r = 0; r < at.choice.size(); ++r) {
      SizeChoice c = at.choice;
      if (resize(task_, c, r, -1)) order.push_back({judge_.costLaid(c) - now, r});
      // Running may cost more than laying: a size up can save too.
      if (task_.options.wanted == Wanted::wholeLife)
        if (SizeChoice wider = at.choice; resize(task_, wider, r, 1))
          order.push_back({judge_.costLaid(wider) - now, r + at.choice.size()});
    }
    std::sort(order.begin(), order.end());
    for (const auto& [saves, which] : order) {
      SizeChoice c = at.choice;
      const bool wider = which >= at.choice.size();
      if (!resize(task_, c, wider ? which - at.choice.size() : which, wider ? 1 : -1)) continue;
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
bool Descent::pairs(Judged& at) {
  const std::size_t n = at.choice.size();
  if (n < 2) return false;
  const double now = judge_.costLaid(at.choice);
  std::vector<std::pair<double, SizeChoice>> order;
  for (std::size_t down = 0; down < n; ++down)
    for (const int by : {-1, -2, -3}) {
      SizeChoice c = at.choice;
      if (!resize(task_, c, down, by)) break;
      // Of many lines the next ones in order alone: they mostly hang together.
      const std::size_t reach = n <= 24 ? n : 4;
      for (std::size_t k = 1; k < n && k <= reach; ++k) {
        const std::size_t wider = (down + (k % 2 ? (k + 1) / 2 : n - k / 2)) % n;
        for (const int up_ : {1, 2}) {
          if (wider == down) continue;
          SizeChoice two = c;
          if (!resize(task_, two, wider, up_)) break;
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

}  // namespace conduit

#include "pump/trace.h"

#include <algorithm>
#include <cmath>

namespace conduit {
namespace {

struct Traced {
  double flow_m3s;
  ProbedPoint probe;
};
bool solved(const Traced& t) { return t.probe.head_m.has_value(); }
bool alike(const Traced& a, const Traced& b) {
  return solved(a) == solved(b) && (!solved(a) || a.probe.states == b.probe.states);
}

}  // namespace

std::optional<double> TracedCurve::at(double q) const {
  for (std::size_t i = 0; i + 1 < points.size(); ++i) {
    const DutyPoint &a = points[i], &b = points[i + 1];
    if (q < a.flow_m3s || q > b.flow_m3s) continue;
    if (!std::isfinite(a.head_m) || !std::isfinite(b.head_m)) continue;
    if (b.flow_m3s == a.flow_m3s) return b.head_m;
    return a.head_m + (q - a.flow_m3s) / (b.flow_m3s - a.flow_m3s) * (b.head_m - a.head_m);
  }
  return std::nullopt;
}
double TracedCurve::first() const {
  for (const DutyPoint& p : points)
    if (std::isfinite(p.head_m)) return p.flow_m3s;
  return 0.0;
}
double TracedCurve::last() const {
  for (std::size_t i = points.size(); i-- > 0;)
    if (std::isfinite(points[i].head_m)) return points[i].flow_m3s;
  return 0.0;
}

TracedCurve trace(const std::function<ProbedPoint(double, std::size_t)>& probe, const TraceOptions& options) {
  TracedCurve curve;
  const double least = options.least_m3s, most = options.most_m3s, span = most - least;
  if (!(span > 0) || options.coarse < 3) return curve;
  std::vector<Traced> all;
  const auto solveAll = [&](const std::vector<double>& flows) {
    const auto results = runJobs(
        flows.size(),
        [&](std::size_t i, std::size_t lane, std::stop_token stop) {
          return stop.stop_requested() ? ProbedPoint{} : probe(flows[i], lane);
        },
        options.jobs);
    for (std::size_t i = 0; i < flows.size(); ++i) {
      if (!results[i] && results[i].error().stopped) continue;
      all.push_back(
          {flows[i], results[i] ? *results[i]
                                : ProbedPoint{.head_m = {}, .why = results[i].error().what, .states = {}}});
    }
    curve.solves += flows.size();
    std::sort(all.begin(), all.end(),
              [](const Traced& a, const Traced& b) { return a.flow_m3s < b.flow_m3s; });
    curve.stopped = options.jobs.stop.stop_requested();
  };
  std::vector<double> flows;
  for (std::size_t i = 0; i < options.coarse; ++i)
    flows.push_back(least + span * static_cast<double>(i) / static_cast<double>(options.coarse - 1));
  solveAll(flows);
  // A break is followed down to this width; a head that still changes by more there is a step.
  const double finest = 2e-6 * most;
  while (!curve.stopped) {
    double top = 1e-6;
    for (const Traced& t : all)
      if (solved(t)) top = std::max(top, std::abs(*t.probe.head_m));
    const double allowed = 0.5 * options.within * top;
    // How far a straight line over interval i would be off: an eighth of the second difference beside it.
    const auto bend = [&](std::size_t i) -> double {
      double most_ = -1.0;
      const double width = all[i + 1].flow_m3s - all[i].flow_m3s;
      for (const std::size_t mid : {i, i + 1}) {
        if (mid == 0 || mid + 1 >= all.size()) continue;
        const Traced &a = all[mid - 1], &b = all[mid], &c = all[mid + 1];
        if (!alike(a, b) || !alike(b, c)) continue;
        const double u = (*b.probe.head_m - *a.probe.head_m) / (b.flow_m3s - a.flow_m3s),
                     w = (*c.probe.head_m - *b.probe.head_m) / (c.flow_m3s - b.flow_m3s);
        most_ = std::max(most_, std::abs(w - u) / (c.flow_m3s - a.flow_m3s) * width * width / 4);
      }
      return most_;
    };
    flows.clear();
    for (std::size_t i = 0; i + 1 < all.size(); ++i) {
      const Traced &a = all[i], &b = all[i + 1];
      const double width = b.flow_m3s - a.flow_m3s;
      if (!solved(a) && !solved(b)) continue;
      bool halve = false;
      if (!alike(a, b)) {
        halve = width > finest;
      } else if (width > 1e-3 * span) {
        const double off = bend(i);
        // With no neighbour of the same states nothing is known of its bend.
        halve = off < 0 ? std::abs(*b.probe.head_m - *a.probe.head_m) > allowed : off > allowed;
      }
      if (halve) flows.push_back((a.flow_m3s + b.flow_m3s) / 2);
    }
    if (flows.empty()) break;
    if (curve.solves + flows.size() > options.solves) {
      curve.coarse = true;
      break;
    }
    solveAll(flows);
  }
  double top = 1e-6;
  for (const Traced& t : all)
    if (solved(t)) top = std::max(top, std::abs(*t.probe.head_m));
  for (std::size_t i = 0; i < all.size(); ++i) {
    const Traced& t = all[i];
    const bool before = i > 0 && solved(all[i - 1]);
    if (!solved(t)) {
      if (curve.gaps.empty() || before || i == 0) {
        curve.gaps.push_back({t.flow_m3s, t.flow_m3s, t.probe.why});
        curve.points.push_back({t.flow_m3s, NAN});
        curve.probes.push_back(t.probe);
      }
      curve.gaps.back().to_m3s = t.flow_m3s;
      continue;
    }
    if (before && all[i - 1].probe.states != t.probe.states) {
      const double was = *all[i - 1].probe.head_m, is = *t.probe.head_m;
      CurveBreak b{.flow_m3s = (all[i - 1].flow_m3s + t.flow_m3s) / 2,
                   .before_m = was,
                   .after_m = is,
                   .statesBefore = all[i - 1].probe.states,
                   .statesAfter = t.probe.states,
                   .step = std::abs(is - was) > 1e-3 * top,
                   .what = {}};
      curve.breaks.push_back(std::move(b));
    }
    curve.points.push_back({t.flow_m3s, *t.probe.head_m});
    curve.probes.push_back(t.probe);
  }
  if (curve.first() == 0.0 && curve.last() == 0.0) curve.points.clear(), curve.probes.clear();
  return curve;
}

}  // namespace conduit

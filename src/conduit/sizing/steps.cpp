#include "sizing/steps.h"

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>

#include "sizing/programme.h"

namespace conduit {

LinearStep::LinearStep(std::span<const LimitExcess> limits, std::span<const Slope> down,
                       std::span<const Slope> up, double penalty)
    : limits_(limits), down_(down), up_(up), penalty_(penalty), does_(2 * up.size()) {
  for (std::size_t c = 0; c < does_.size(); ++c) {
    does_[c].reserve(slope(c).limits.size());
    std::size_t k = 0;
    for (const auto& [which, more] : slope(c).limits) {
      while (k < limits.size() && limits[k].which < which) ++k;
      if (k < limits.size() && limits[k].which == which)
        does_[c].push_back({static_cast<std::uint32_t>(k), more});
    }
  }
}

// The programme's answer: of each change a share.
std::vector<double> LinearStep::shares(double most) const {
  const int n = static_cast<int>(up_.size());
  const Programme lp = emptyProgramme();
  glp_set_obj_dir(lp.get(), GLP_MIN);
  // Columns: the changes. Rows: at most one size each way, so many in all.
  glp_add_cols(lp.get(), 2 * n);
  glp_add_rows(lp.get(), n + 1);
  glp_set_row_bnds(lp.get(), n + 1, GLP_UP, 0, most);
  for (int r = 0; r < n; ++r) glp_set_row_bnds(lp.get(), r + 1, GLP_UP, 0, 1);
  for (int c = 0; c < 2 * n; ++c) {
    const Slope& s = slope(static_cast<std::size_t>(c));
    glp_set_obj_coef(lp.get(), c + 1, s.objective);
    if (s.there) glp_set_col_bnds(lp.get(), c + 1, GLP_DB, 0, 1);
    else glp_set_col_bnds(lp.get(), c + 1, GLP_FX, 0, 0);
    const int rows[] = {0, c / 2 + 1, n + 1};
    const double values[] = {0, 1, 1};
    glp_set_mat_col(lp.get(), c + 1, 2, rows, values);
  }
  glp_smcp simplex;
  glp_init_smcp(&simplex);
  simplex.msg_lev = GLP_MSG_OFF;
  simplex.meth = GLP_DUALP;
  std::vector<double> x(does_.size(), 0.0), excess(limits_.size());
  std::vector<char> in(limits_.size(), 0);
  // Limits join as they are broken by what is proposed: most never are.
  for (int round = 0; round < 30; ++round) {
    if (glp_simplex(lp.get(), &simplex) != 0) break;
    for (std::size_t l = 0; l < limits_.size(); ++l) excess[l] = limits_[l].by;
    for (std::size_t c = 0; c < x.size(); ++c) {
      x[c] = glp_get_col_prim(lp.get(), static_cast<int>(c) + 1);
      if (x[c] > 0)
        for (const auto& [l, more] : does_[c]) excess[l] += more * x[c];
    }
    std::vector<std::pair<double, std::uint32_t>> broken;
    for (std::size_t l = 0; l < limits_.size(); ++l)
      if (!in[l] && excess[l] > 1e-9) broken.push_back({-excess[l], static_cast<std::uint32_t>(l)});
    if (broken.empty()) break;
    std::sort(broken.begin(), broken.end());
    if (broken.size() > 40) broken.resize(40);
    bool any = false;
    for (const auto& [by, l] : broken) {
      in[l] = 1;
      std::vector<int> columns{0};
      std::vector<double> values{0.0};
      for (std::size_t c = 0; c < does_.size(); ++c) {
        const auto at = std::lower_bound(does_[c].begin(), does_[c].end(), std::pair(l, -1e300));
        if (at != does_[c].end() && at->first == l)
          columns.push_back(static_cast<int>(c) + 1), values.push_back(at->second);
      }
      if (columns.size() == 1) continue;  // nothing here does anything to it
      any = true;
      // What cannot be kept costs the penalty.
      const int beyond = glp_add_cols(lp.get(), 1), row = glp_add_rows(lp.get(), 1);
      glp_set_col_bnds(lp.get(), beyond, GLP_LO, 0, 0);
      glp_set_obj_coef(lp.get(), beyond, penalty_);
      columns.push_back(beyond), values.push_back(-1.0);
      glp_set_row_bnds(lp.get(), row, GLP_UP, 0, -limits_[l].by);
      glp_set_mat_row(lp.get(), row, static_cast<int>(columns.size()) - 1, columns.data(), values.data());
    }
    if (!any) break;
  }
  return x;
}

// Whole sizes in two ways. All that are mostly wanted together: lines one behind the other may keep a limit
// together that none keeps alone. And with care: those up that are mostly wanted; then those down, the most
// wanted first, as far as the limits are kept by what the slopes tell; then those up that nobody needs are
// left off again.
std::vector<std::vector<int>> LinearStep::with(double most) const {
  const std::vector<double> x = shares(most);
  std::vector<int> together(up_.size(), 0), step(up_.size(), 0);
  for (std::size_t c = 0; c < x.size(); ++c)
    if (x[c] > 0.5) together[c / 2] = c % 2 ? 1 : -1;
  std::vector<double> excess;
  for (const LimitExcess& l : limits_) excess.push_back(l.by);
  const auto take = [&](std::size_t change, double sign) {
    bool keeps = true;
    for (const auto& [l, more] : does_[change]) {
      excess[l] += sign * more;
      keeps = keeps && (excess[l] <= 1e-9 || sign * more <= 0);
    }
    return keeps;
  };
  std::vector<std::pair<double, std::size_t>> smaller, wider;
  for (std::size_t c = 0; c < does_.size(); ++c) {
    const Slope& s = slope(c);
    if (!s.there) continue;
    if (c % 2 && x[c] > 0.3) wider.push_back({-s.objective, c}), (void)take(c, 1), step[c / 2] = 1;
    if (c % 2 == 0 && (x[c] > 0.05 || s.objective < 0))
      smaller.push_back({x[c] > 0.05 ? -x[c] : 1 + s.objective / penalty_, c});
  }
  std::sort(smaller.begin(), smaller.end());
  double changes = static_cast<double>(wider.size());
  for (const auto& [order, c] : smaller) {
    if (step[c / 2] != 0 || changes + 1 > std::max(most, 1.0)) continue;
    if (take(c, 1)) step[c / 2] = -1, changes += 1;
    else (void)take(c, -1);
  }
  std::sort(wider.begin(), wider.end());
  for (const auto& [order, c] : wider) {
    if (order >= 0) continue;  // it saves
    if (take(c, -1)) step[c / 2] = 0;
    else (void)take(c, 1);
  }
  if (together == step) return {std::move(step)};
  return {std::move(step), std::move(together)};
}

// What a step leads to, of the ways to make it whole the best; with the rows that change. Nothing where none
// do.
std::optional<Judged> Stepper::taken(const Judged& at, const LinearStep& best, double most,
                                     std::vector<LimitExcess>& limits, std::vector<std::size_t>& changed) {
  std::optional<Judged> found;
  for (const std::vector<int>& step : best.with(most)) {
    SizeChoice c = at.choice;
    std::vector<std::size_t> rows;
    for (std::size_t r = 0; r < c.size(); ++r)
      if (step[r] != 0 && resize(task_, c, r, step[r])) rows.push_back(r);
    if (rows.empty()) continue;
    std::vector<LimitExcess> its;
    const SizingVerdict v = judge_.evaluate(c, lane_, {.limits = &its});
    ++judged_;
    if (!v.balanced || (found && !v.betterThan(found->verdict))) continue;
    found = Judged{std::move(c), v};
    limits = std::move(its), changed = std::move(rows);
  }
  return found;
}

double Stepper::penalty(const Judged& at) { return 100 * std::max(std::abs(at.verdict.objective), 1.0); }

// Whole steps one after the other, through choices that break limits: the next step mends them. True when one
// of them led to something better.
bool Stepper::stride(Judged& at) {
  constexpr int most = 8;
  Judged here = at;
  std::vector<LimitExcess> limits = limits_;
  std::vector<SizeChoice> seen{at.choice};
  std::vector<std::size_t> changed;
  bool any = false;
  for (int k = 0; k < most && !stop_.stop_requested(); ++k) {
    if (k > 0) slopes_.about(here, limits, {}, nullptr);
    const LinearStep best(limits, slopes_.down(), slopes_.up(), penalty(here));
    std::vector<LimitExcess> its;
    auto next = taken(here, best, static_cast<double>(here.choice.size()), its, changed);
    if (!next || std::find(seen.begin(), seen.end(), next->choice) != seen.end()) break;
    here = std::move(*next), limits = std::move(its);
    seen.push_back(here.choice);
    if (!here.verdict.betterThan(at.verdict)) continue;
    at = here, limits_ = limits;
    any = true, k = 0;
  }
  return any;
}

// One step with all its changes, then with fewer of them until it is better. False when it is not, with one.
bool Stepper::step(Judged& at, double& most, std::vector<std::size_t>& changed) {
  const LinearStep best(limits_, slopes_.down(), slopes_.up(), penalty(at));
  for (; most >= 1.0 && !stop_.stop_requested(); most /= 2) {
    std::vector<LimitExcess> limits;
    auto next = taken(at, best, most, limits, changed);
    if (!next || !next->verdict.betterThan(at.verdict)) continue;
    at = std::move(*next), limits_ = std::move(limits);
    most = std::min(4 * most, static_cast<double>(at.choice.size()));
    return true;
  }
  return false;
}

Judged Stepper::from(SizeChoice choice, std::size_t mostJudged, const JobOptions* jobs) {
  const std::size_t n = choice.size(), limit = judged() + mostJudged;
  Judged at{std::move(choice), {}};
  at.verdict = judge_.evaluate(at.choice, lane_, {.limits = &limits_});
  ++judged_;
  std::vector<std::size_t> rows(n);
  std::iota(rows.begin(), rows.end(), 0);
  double most = static_cast<double>(n);
  while (!stop_.stop_requested() && judged() < limit && !limits_.empty()) {
    slopes_.about(at, limits_, rows, jobs);
    if (step(at, most, rows)) continue;
    most = std::max(8.0, static_cast<double>(n) / 8);
    if (!slopes_.anySolved() && stride(at)) continue;
    if (slopes_.fresh()) break;
    rows.resize(n);
    std::iota(rows.begin(), rows.end(), 0);
  }
  return at;
}

}  // namespace conduit

#include "sizing/steps.h"

#include <glpk.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>

namespace conduit {

bool resize(const SizingTask& task, SizeChoice& c, std::size_t row, int by) {
  const int to = static_cast<int>(c[row]) + by;
  if (to < 0 || to >= static_cast<int>(task.rows[row].sizes.size())) return false;
  c[row] = static_cast<std::uint16_t>(to);
  return true;
}

std::vector<int> linearStep(std::span<const LimitExcess> limits, std::span<const Slope> down,
                            std::span<const Slope> up, double dear, double most) {
  const int n = static_cast<int>(up.size());
  glp_term_out(GLP_OFF);
  const auto free = [](glp_prob* p) { glp_delete_prob(p); };
  const std::unique_ptr<glp_prob, decltype(free)> lp(glp_create_prob(), free);
  glp_set_obj_dir(lp.get(), GLP_MIN);
  // Columns: of each row a share down, a share up. Rows: at most one size each way, so many in all.
  glp_add_cols(lp.get(), 2 * n);
  glp_add_rows(lp.get(), n + 1);
  glp_set_row_bnds(lp.get(), n + 1, GLP_UP, 0, most);
  for (int r = 0; r < n; ++r) {
    glp_set_row_bnds(lp.get(), r + 1, GLP_UP, 0, 1);
    for (int way = 0; way < 2; ++way) {
      const Slope& slope = (way ? up : down)[static_cast<std::size_t>(r)];
      const int c = 2 * r + way + 1;
      glp_set_obj_coef(lp.get(), c, slope.objective);
      if (slope.there) glp_set_col_bnds(lp.get(), c, GLP_DB, 0, 1);
      else glp_set_col_bnds(lp.get(), c, GLP_FX, 0, 0);
      const int rows[] = {0, r + 1, n + 1};
      const double values[] = {0, 1, 1};
      glp_set_mat_col(lp.get(), c, 2, rows, values);
    }
  }
  // Limits join as they are broken by what is proposed: most never are.
  std::vector<std::vector<std::pair<int, double>>> effects(limits.size());
  for (int r = 0; r < n; ++r)
    for (int way = 0; way < 2; ++way) {
      std::size_t k = 0;
      for (const auto& [which, more] : (way ? up : down)[static_cast<std::size_t>(r)].limits) {
        while (k < limits.size() && limits[k].which < which) ++k;
        if (k < limits.size() && limits[k].which == which) effects[k].push_back({2 * r + way + 1, more});
      }
    }
  std::vector<char> in(limits.size(), 0);
  glp_smcp simplex;
  glp_init_smcp(&simplex);
  simplex.msg_lev = GLP_MSG_OFF;
  simplex.meth = GLP_DUALP;
  std::vector<double> x(static_cast<std::size_t>(2 * n) + 1, 0.0);
  for (int round = 0; round < 30; ++round) {
    if (glp_simplex(lp.get(), &simplex) != 0) break;
    for (int c = 1; c <= 2 * n; ++c) x[static_cast<std::size_t>(c)] = glp_get_col_prim(lp.get(), c);
    std::vector<std::pair<double, std::size_t>> broken;
    for (std::size_t l = 0; l < limits.size(); ++l) {
      if (in[l] || effects[l].empty()) continue;
      double by = limits[l].by;
      for (const auto& [c, more] : effects[l]) by += more * x[static_cast<std::size_t>(c)];
      if (by > 1e-9) broken.push_back({-by, l});
    }
    if (broken.empty()) break;
    std::sort(broken.begin(), broken.end());
    if (broken.size() > 40) broken.resize(40);
    for (const auto& [by, l] : broken) {
      in[l] = 1;
      // What cannot be kept costs dear.
      const int beyond = glp_add_cols(lp.get(), 1), row = glp_add_rows(lp.get(), 1);
      glp_set_col_bnds(lp.get(), beyond, GLP_LO, 0, 0);
      glp_set_obj_coef(lp.get(), beyond, dear);
      std::vector<int> columns{0};
      std::vector<double> values{0.0};
      for (const auto& [c, more] : effects[l]) columns.push_back(c), values.push_back(more);
      columns.push_back(beyond), values.push_back(-1.0);
      glp_set_row_bnds(lp.get(), row, GLP_UP, 0, -limits[l].by);
      glp_set_mat_row(lp.get(), row, static_cast<int>(columns.size()) - 1, columns.data(), values.data());
    }
  }
  // Whole sizes: those up that are mostly wanted; then those down, the most wanted first, as far as the
  // limits are kept by what the slopes tell; then those up that nobody needs are left off again.
  std::vector<int> step(static_cast<std::size_t>(n), 0);
  std::vector<double> excess;
  for (const LimitExcess& l : limits) excess.push_back(l.by);
  std::vector<std::vector<std::pair<std::size_t, double>>> does(static_cast<std::size_t>(2 * n));
  for (std::size_t l = 0; l < limits.size(); ++l)
    for (const auto& [c, more] : effects[l]) does[static_cast<std::size_t>(c - 1)].push_back({l, more});
  const auto take = [&](std::size_t change, double sign) {
    bool keeps = true;
    for (const auto& [l, more] : does[change]) {
      excess[l] += sign * more;
      keeps = keeps && (excess[l] <= 1e-9 || sign * more <= 0);
    }
    return keeps;
  };
  std::vector<std::pair<double, std::size_t>> smaller, wider;
  for (std::size_t c = 0; c < does.size(); ++c) {
    const double share = x[c + 1];
    const Slope& slope = (c % 2 ? up : down)[c / 2];
    if (!slope.there) continue;
    if (c % 2 && share > 0.3) wider.push_back({-slope.objective, c}), (void)take(c, 1), step[c / 2] = 1;
    if (c % 2 == 0 && (share > 0.05 || slope.objective < 0))
      smaller.push_back({share > 0.05 ? -share : 1 + slope.objective / dear, c});
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
  return step;
}

void Stepper::refresh(const Judged& at, std::span<const std::size_t> rows, const JobOptions* jobs) {
  const auto judge = [&](std::size_t i, std::size_t lane) {
    Slope slope;
    SizeChoice c = at.choice;
    if (stop_.stop_requested() || !resize(task_, c, rows[i / 2], i % 2 ? 1 : -1)) return slope;
    std::vector<LimitExcess> limits;
    const SizingVerdict v = judge_.look(c, lane, limits);
    if (!v.balanced) return slope;
    slope.there = true, slope.objective = v.objective - at.verdict.objective;
    std::size_t k = 0;
    for (const LimitExcess& l : limits) {
      while (k < limits_.size() && limits_[k].which < l.which) ++k;
      if (k == limits_.size() || limits_[k].which != l.which) continue;
      if (const double more = l.by - limits_[k].by; std::abs(more) > 1e-12)
        slope.limits.push_back({l.which, more});
    }
    return slope;
  };
  const auto keep = [&](std::size_t i, Slope slope) {
    judged_ += slope.there;
    (i % 2 ? up_ : down_)[rows[i / 2]] = std::move(slope);
  };
  if (!jobs) {
    for (std::size_t i = 0; i < 2 * rows.size(); ++i) keep(i, judge(i, lane_));
    return;
  }
  const auto all = runJobs(
      2 * rows.size(), [&](std::size_t i, std::size_t lane, std::stop_token) { return judge(i, lane); },
      *jobs);
  for (std::size_t i = 0; i < all.size(); ++i) keep(i, all[i] ? *all[i] : Slope{});
}

Judged Stepper::from(SizeChoice choice, std::size_t mostJudged, const JobOptions* jobs) {
  const std::size_t n = choice.size(), limit = judged_ + mostJudged;
  Judged at{std::move(choice), {}};
  at.verdict = judge_.look(at.choice, lane_, limits_);
  ++judged_;
  std::vector<std::size_t> rows(n);
  std::iota(rows.begin(), rows.end(), 0);
  down_.assign(n, {}), up_.assign(n, {});
  bool fresh = true;
  double most = static_cast<double>(n);
  while (!stop_.stop_requested() && judged_ < limit && !limits_.empty()) {
    refresh(at, rows, jobs);
    bool better = false;
    for (; most >= 1.0 && !better && !stop_.stop_requested(); most /= 2) {
      const auto step =
          linearStep(limits_, down_, up_, 100 * std::max(std::abs(at.verdict.objective), 1.0), most);
      SizeChoice c = at.choice;
      std::vector<std::size_t> changed;
      for (std::size_t r = 0; r < n; ++r)
        if (step[r] != 0 && resize(task_, c, r, step[r])) changed.push_back(r);
      if (changed.empty()) continue;
      std::vector<LimitExcess> limits;
      const SizingVerdict v = judge_.look(c, lane_, limits);
      ++judged_;
      if (!v.betterThan(at.verdict)) continue;
      at = {std::move(c), v}, limits_ = std::move(limits);
      rows = std::move(changed);
      better = true, most *= 4;
    }
    if (better) {
      fresh = rows.size() == n;
    } else if (fresh) {
      break;
    } else {
      rows.resize(n);
      std::iota(rows.begin(), rows.end(), 0);
      fresh = true, most = std::max(8.0, static_cast<double>(n) / 8);
    }
    most = std::min(std::max(most, 1.0), static_cast<double>(n));
  }
  return at;
}

}  // namespace conduit

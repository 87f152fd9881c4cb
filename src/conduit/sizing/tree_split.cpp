#include <algorithm>
#include <cmath>
#include <memory>

#include "sizing/programme.h"
#include "sizing/tree.h"
#include "solve/index.h"

namespace conduit {
namespace {

// The row that a line's loss is put to, and the loss by its size; no row: a loss that is what it is.
struct PutTo {
  int row = -1;
  std::vector<double> loss_m;
};
PutTo putTo(const Tree& tree, const TreeLine& line, std::span<const int> held) {
  const auto heldAt = [&](int row) { return held.empty() ? -1 : held[u(row)]; };
  PutTo out;
  for (const int r : line.rows)
    if (out.row < 0 && heldAt(r) < 0) out.row = r;
  out.loss_m.assign(out.row < 0 ? 1 : tree.cost[u(out.row)].size(), 1e300);
  for (std::size_t i = 0; i < line.loss_m.size(); ++i) {
    std::size_t rest = i, own = 0;
    bool stands = true;
    for (std::size_t k = line.rows.size(); k-- > 0;) {
      const std::size_t sizes = tree.cost[u(line.rows[k])].size(), s = rest % sizes;
      rest /= sizes;
      const int at = heldAt(line.rows[k]);
      stands = stands && (at < 0 || u(at) == s);
      if (line.rows[k] == out.row) own = s;
    }
    if (stands) out.loss_m[own] = std::min(out.loss_m[own], line.loss_m[i]);
  }
  return out;
}

}  // namespace

SplitAnswer cheapestSplit(const Tree& tree, std::span<const int> held, std::stop_token stop) {
  SplitAnswer answer;
  const int lines = static_cast<int>(tree.lines.size()), rows = static_cast<int>(tree.cost.size());
  // What is wanted at a near end is wanted at the far end of the line before.
  std::vector<double> need, most;
  for (const TreeLine& line : tree.lines) {
    need.push_back(line.need_m), most.push_back(line.most_m);
    if (line.from >= 0) need[u(line.from)] = std::max(need[u(line.from)], line.needNear_m);
    else if (line.needNear_m > tree.head_m) return answer;
  }
  for (std::size_t l = 0; l < need.size(); ++l)
    if (need[l] > most[l]) return answer;
  // What a line may lose at all: from the most head before it to the least that is wanted behind it. A size
  // that loses a thousand times as much counts with that, which its share then cannot tell; a line behind
  // which nothing is wanted may lose what it likes. Numbers of all magnitudes would spoil the programme.
  std::vector<double> may(u(lines)), wanted = need;
  for (std::size_t l = 0; l < need.size(); ++l) {
    const TreeLine& line = tree.lines[l];
    const double before = line.from < 0 ? tree.head_m : may[u(line.from)];
    may[l] = std::min(before - *std::min_element(line.loss_m.begin(), line.loss_m.end()), most[l]);
  }
  for (std::size_t l = need.size(); l-- > 0;) {
    const TreeLine& line = tree.lines[l];
    const double least = *std::min_element(line.loss_m.begin(), line.loss_m.end());
    if (line.from >= 0 && wanted[l] > noNeed_m)
      wanted[u(line.from)] = std::max(wanted[u(line.from)], wanted[l] + least);
    may[l] = wanted[l] > noNeed_m ? least + 1000 * std::max(1.0, may[l] - wanted[l]) : noNeed_m;
  }
  if (lines + rows == 0) {
    answer.found = true;
    return answer;
  }
  const Programme lp = emptyProgramme();
  glp_set_obj_dir(lp.get(), GLP_MIN);
  // A row's shares are one; a line's head is at most that before it less what it loses.
  glp_add_rows(lp.get(), rows + lines);
  std::vector<int> row{0}, column{0};
  std::vector<double> value{0.0};
  const auto put = [&](int r, int c, double v) { row.push_back(r), column.push_back(c), value.push_back(v); };
  if (lines > 0) glp_add_cols(lp.get(), lines);  // heads at far ends, first
  std::vector<int> first;
  for (int r = 0; r < rows; ++r) {
    const std::vector<double>& cost = tree.cost[u(r)];
    first.push_back(glp_add_cols(lp.get(), static_cast<int>(cost.size())));
    glp_set_row_bnds(lp.get(), r + 1, GLP_FX, 1, 1);
    for (std::size_t s = 0; s < cost.size(); ++s) {
      const int c = first.back() + static_cast<int>(s);
      const bool left = !held.empty() && held[u(r)] >= 0 && u(held[u(r)]) != s;
      glp_set_col_bnds(lp.get(), c, left ? GLP_FX : GLP_LO, 0, 0);
      glp_set_obj_coef(lp.get(), c, cost[s]);
      put(r + 1, c, 1);
    }
  }
  for (int l = 0; l < lines; ++l) {
    const TreeLine& line = tree.lines[u(l)];
    const bool low = need[u(l)] > noNeed_m, high = most[u(l)] < -noNeed_m;
    glp_set_col_bnds(lp.get(), l + 1,
                     low && high ? (need[u(l)] < most[u(l)] ? GLP_DB : GLP_FX)
                     : low       ? GLP_LO
                     : high      ? GLP_UP
                                 : GLP_FR,
                     low ? need[u(l)] : 0, high ? most[u(l)] : 0);
    const int r = rows + l + 1;
    const PutTo loss = putTo(tree, line, held);
    put(r, l + 1, 1);
    if (line.from >= 0) put(r, line.from + 1, -1);
    if (may[u(l)] <= noNeed_m) {
      glp_set_row_bnds(lp.get(), r, GLP_FR, 0, 0);
      continue;
    }
    if (loss.row >= 0)
      for (std::size_t s = 0; s < loss.loss_m.size(); ++s)
        put(r, first[u(loss.row)] + static_cast<int>(s), std::min(loss.loss_m[s], may[u(l)]));
    glp_set_row_bnds(lp.get(), r, GLP_UP, 0,
                     (line.from < 0 ? tree.head_m : 0.0) - (loss.row < 0 ? loss.loss_m[0] : 0.0));
  }
  glp_load_matrix(lp.get(), static_cast<int>(value.size()) - 1, row.data(), column.data(), value.data());
  glp_smcp how;
  glp_init_smcp(&how);
  how.msg_lev = GLP_MSG_OFF;
  how.presolve = GLP_OFF;
  glp_scale_prob(lp.get(), GLP_SF_AUTO);
  glp_adv_basis(lp.get(), 0);
  // In slices of so many steps, each from where the one before it ended, so that it can be stopped.
  how.it_lim = 500;
  int end = GLP_EITLIM;
  while (end == GLP_EITLIM && !stop.stop_requested()) end = glp_simplex(lp.get(), &how);
  if (end != 0 || glp_get_status(lp.get()) != GLP_OPT) return answer;
  answer.found = true;
  answer.cost = glp_get_obj_val(lp.get());
  for (int r = 0; r < rows; ++r) {
    auto& share = answer.share.emplace_back();
    for (std::size_t s = 0; s < tree.cost[u(r)].size(); ++s)
      share.push_back(std::max(0.0, glp_get_col_prim(lp.get(), first[u(r)] + static_cast<int>(s))));
  }
  for (int l = 0; l < lines; ++l) answer.price.push_back(std::abs(glp_get_row_dual(lp.get(), rows + l + 1)));
  return answer;
}

}  // namespace conduit

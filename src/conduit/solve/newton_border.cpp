// The flows of acting devices and of what is set free, which the definite matrix does not know: a few of them
// border it by dense columns; many make one sparse unsymmetric matrix of it all.
#include <algorithm>
#include <cmath>

#include "solve/dense.h"
#include "solve/index.h"
#include "solve/newton.h"

namespace conduit {
// Row of the small system of acting flows: what a change of heads (by node) does to the relation of a group.
// `column` is the group whose unit brings that change, with what it brings by itself; −1: none.
double Newton::relation(const Iterate& x, const ActingGroup& group, std::span<const double> of,
                        int column) const {
  if (group.free >= 0) {
    const Relation::Terms& terms = terms_[u(group.free)];
    double sum = 0.0;
    for (const auto& [n, by] : terms.byHead) sum += by * of[u(n)];
    for (const auto& [i, by] : terms.byFlow) {
      sum += by * conductance_[i] * (of[u(slim_[i].from)] - of[u(slim_[i].to)]);
      if (column < 0 || actingGroup_[i] != column) continue;
      const ActingGroup& its = acting_[u(column)];
      for (std::size_t k = 0; k < its.links.size(); ++k)
        if (its.links[k] == i) sum += by * its.shares[k];
    }
    return sum;
  }
  const std::size_t link = group.links[0];
  const Link& l = s_.links[link];
  if (!l.choke) return of[u(l.held)] - of[u(l.over)];
  const Choked f = choked(*l.choke, x.flow_m3s[link], x.head_m[u(l.from)], x.head_m[u(l.to)]);
  return conductance_[link] * (of[u(l.from)] - of[u(l.to)]) - f.slope_m2s * of[u(f.forward ? l.from : l.to)] +
         (column >= 0 && actingGroup_[link] == column ? 1.0 : 0.0);
}

// The flows that acting devices pass besides what the matrix knows: one solve for each, then a small dense
// system from one relation for each.
void Newton::borderColumns(const Iterate& x) {
  const std::size_t m = acting_.size();
  borderHeads_.assign(m, {});
  const auto column = [&](std::size_t k, int node) {  // what a unit of group k's flow brings to a node
    double sum = acting_[k].free >= 0 && free_[u(acting_[k].free)].kind == Free::Kind::inflow &&
                         free_[u(acting_[k].free)].node == node
                     ? 1.0
                     : 0.0;
    for (std::size_t j = 0; j < acting_[k].links.size(); ++j) {
      const Slim& l = slim_[acting_[k].links[j]];
      sum += acting_[k].shares[j] * ((l.to == node) - (l.from == node));
    }
    return sum;
  };
  for (std::size_t k = 0; k < m; ++k) {
    std::vector<double>& y = borderHeads_[k];  // by node, known heads too
    y.assign(u(s_.nodeCount()), 0.0);
    if (acting_[k].free >= 0) {
      const Free& f = free_[u(acting_[k].free)];
      if (f.kind == Free::Kind::inflow && !pinned_[u(f.node)]) y[u(f.node)] += 1.0;
      if (f.kind == Free::Kind::head) {
        std::vector<double> moved(y.size(), 0.0);
        moved[u(f.node)] = 1.0;
        spreadPinned(moved, y);
        y[u(f.node)] = 1.0;
      }
    }
    for (std::size_t j = 0; j < acting_[k].links.size(); ++j) {
      const Slim& l = slim_[acting_[k].links[j]];
      if (s_.isFree(l.from) && !pinned_[u(l.from)]) y[u(l.from)] -= acting_[k].shares[j];
      if (s_.isFree(l.to) && !pinned_[u(l.to)]) y[u(l.to)] += acting_[k].shares[j];
    }
    factor_.solve(std::span(y.data(), u(s_.freeCount)));
    for (int n = 0; n < s_.freeCount; ++n)
      if (pinned_[u(n)]) y[u(n)] = 0.0;
  }
  borderMatrix_.assign(m, std::vector<double>(m, 0.0));
  for (std::size_t g = 0; g < m; ++g)
    for (std::size_t k = 0; k < m; ++k) {
      double& v = borderMatrix_[g][k];
      if (acting_[g].node >= 0) {  // the pinned node is in balance
        v = column(k, acting_[g].node);
        for (const std::size_t i : acting_[g].beside)
          v += conductance_[i] *
               borderHeads_[k][u(slim_[i].from == acting_[g].node ? slim_[i].to : slim_[i].from)];
      } else {
        v = relation(x, acting_[g], borderHeads_[k], static_cast<int>(k));
      }
    }
}

bool Newton::border(const Iterate& x, std::vector<double>& change,
                    const std::function<double(std::size_t)>& miss) {
  const std::size_t m = acting_.size();
  std::vector<std::vector<double>> matrix = borderMatrix_;
  for (std::size_t g = 0; g < m; ++g) {
    double sum = miss(g), most = 0.0;
    if (acting_[g].node >= 0) {
      for (const std::size_t i : acting_[g].beside) {
        const int node = acting_[g].node, other = slim_[i].from == node ? slim_[i].to : slim_[i].from;
        sum += conductance_[i] * (change[u(other)] - change[u(node)]);
      }
    } else {
      sum += relation(x, acting_[g], change, -1);
    }
    for (const double v : matrix[g]) most = std::max(most, std::abs(v));
    if (most == 0.0) return false;
    for (double& v : matrix[g]) v /= most;
    matrix[g].push_back(-sum / most);
  }
  if (!solveDense(matrix)) return false;
  for (std::size_t k = 0; k < m; ++k) {
    acting_[k].change_m3s = matrix[k][m];
    for (std::size_t n = 0; n < change.size(); ++n) change[n] += matrix[k][m] * borderHeads_[k][n];
  }
  return true;
}

// Every node's balance and every group's relation as rows of one matrix; unknown are the heads of free nodes
// and, after them, one number a group. Fixed nodes are no unknowns except those set free.
bool Newton::factorWide(const Iterate& x) {
  const int n = s_.freeCount;
  std::vector<int> variable(u(s_.nodeCount()), -1), pinnedBy(u(s_.nodeCount()), -1);
  for (int i = 0; i < n; ++i) variable[u(i)] = i;
  for (std::size_t k = 0; k < acting_.size(); ++k) {
    if (acting_[k].node >= 0) pinnedBy[u(acting_[k].node)] = n + static_cast<int>(k);
    if (acting_[k].free >= 0 && free_[u(acting_[k].free)].kind == Free::Kind::head)
      variable[u(free_[u(acting_[k].free)].node)] = n + static_cast<int>(k);
  }
  entries_.clear();
  const auto put = [&](int row, int node, double value) {
    if (variable[u(node)] >= 0) entries_.push_back({row, variable[u(node)], value});
  };
  // What comes in at a node, in its balance: on the left it stands with the other sign.
  const auto brings = [&](int node, int column, double share) {
    if (!s_.isFree(node)) return;
    if (pinnedBy[u(node)] >= 0) entries_.push_back({pinnedBy[u(node)], column, share});
    else if (!pinned_[u(node)]) entries_.push_back({node, column, -share});
  };
  for (int i = 0; i < n; ++i)
    entries_.push_back({i, i, pinned_[u(i)] || wasZero_[u(i)] ? 1.0 : sum_[u(i)].diagonal});
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const double c = conductance_[i];
    const Slim& l = slim_[i];
    if (c == 0.0 || l.from == l.to) continue;
    for (const auto& [node, other] : {std::pair(l.from, l.to), std::pair(l.to, l.from)}) {
      if (!s_.isFree(node)) continue;
      if (const int row = pinnedBy[u(node)]; row >= 0) put(row, other, c), put(row, node, -c);
      else if (!pinned_[u(node)]) put(node, other, -c);
    }
  }
  for (std::size_t k = 0; k < acting_.size(); ++k) {
    const ActingGroup& group = acting_[k];
    const int row = n + static_cast<int>(k);
    for (std::size_t j = 0; j < group.links.size(); ++j) {
      brings(slim_[group.links[j]].from, row, -group.shares[j]);
      brings(slim_[group.links[j]].to, row, group.shares[j]);
    }
    if (group.node >= 0) continue;
    const auto passes = [&](std::size_t i, double by) {  // the change of a link's flow
      put(row, slim_[i].from, by * conductance_[i]);
      put(row, slim_[i].to, -by * conductance_[i]);
      if (actingGroup_[i] < 0) return;
      const ActingGroup& its = acting_[u(actingGroup_[i])];
      for (std::size_t j = 0; j < its.links.size(); ++j)
        if (its.links[j] == i) entries_.push_back({row, n + actingGroup_[i], by * its.shares[j]});
    };
    if (group.free >= 0) {
      const Free& f = free_[u(group.free)];
      if (f.kind == Free::Kind::inflow) brings(f.node, row, 1.0);
      for (const auto& [node, by] : terms_[u(group.free)].byHead) put(row, node, by);
      for (const auto& [i, by] : terms_[u(group.free)].byFlow) passes(i, by);
      continue;
    }
    const std::size_t link = group.links[0];
    const Link& l = s_.links[link];
    if (l.choke) {
      const Choked f = choked(*l.choke, x.flow_m3s[link], x.head_m[u(l.from)], x.head_m[u(l.to)]);
      passes(link, 1.0);
      put(row, f.forward ? l.from : l.to, -f.slope_m2s);
    } else {
      put(row, l.held, 1.0);
      put(row, l.over, -1.0);
    }
  }
  return wideFactor_.factorise(n + static_cast<int>(acting_.size()), entries_);
}

// `change`: on the right what is brought to each node, then the change of every head. `known`: of fixed and
// of pinned nodes.
void Newton::solveWide(const Iterate& x, const std::vector<double>& known,
                       const std::function<double(std::size_t)>& miss, std::vector<double>& change) {
  const std::size_t n = u(s_.freeCount);
  std::vector<double> b(change.begin(), change.begin() + s_.freeCount), fixed(change.size(), 0.0);
  if (!known.empty()) std::copy(known.begin() + s_.freeCount, known.end(), fixed.begin() + s_.freeCount);
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim& l = slim_[i];
    if (!s_.isFree(l.from) && s_.isFree(l.to)) b[u(l.to)] += conductance_[i] * fixed[u(l.from)];
    if (!s_.isFree(l.to) && s_.isFree(l.from)) b[u(l.from)] += conductance_[i] * fixed[u(l.to)];
  }
  for (std::size_t i = 0; i < n; ++i)
    if (pinned_[i]) b[i] = known.empty() ? 0.0 : known[i];
    else if (wasZero_[i]) b[i] = 0.0;
  for (std::size_t k = 0; k < acting_.size(); ++k) {
    double sum = miss(k);
    if (acting_[k].node >= 0) {
      for (const std::size_t i : acting_[k].beside)
        sum += conductance_[i] * fixed[u(slim_[i].from == acting_[k].node ? slim_[i].to : slim_[i].from)];
    } else {
      sum += relation(x, acting_[k], fixed, -1);
    }
    b.push_back(-sum);
  }
  wideFactor_.solve(b);
  std::copy(b.begin(), b.begin() + s_.freeCount, change.begin());
  for (std::size_t k = 0; k < acting_.size(); ++k) {
    acting_[k].change_m3s = b[n + k];
    if (acting_[k].free >= 0 && free_[u(acting_[k].free)].kind == Free::Kind::head)
      change[u(free_[u(acting_[k].free)].node)] += b[n + k];
  }
}

}  // namespace conduit

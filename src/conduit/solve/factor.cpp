#include "solve/factor.h"

#include <suitesparse/amd.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "say/ensure.h"
#include "solve/index.h"

namespace conduit {
namespace {

// Products for each entry of the factor from which dense fronts are quicker than one column at a time
// (measured: bench/).
constexpr double frontsFrom = 45.0;

// The same order except what does not matter to the factor: every subtree of the elimination tree stands
// together (Liu, ACM Trans. Math. Softw. 12, 1986, 127, for the tree). `begin` and `row`: the neighbours of
// each node.
std::vector<int> subtreesTogether(const std::vector<int>& order, const std::vector<int>& begin,
                                  const std::vector<int>& row) {
  const int n = static_cast<int>(order.size());
  std::vector<int> place(u(n)), parent(u(n), -1), ancestor(u(n), -1);
  for (int k = 0; k < n; ++k) place[u(order[u(k)])] = k;
  for (int k = 0; k < n; ++k)
    for (int p = begin[u(order[u(k)])]; p < begin[u(order[u(k)]) + 1]; ++p)
      for (int i = place[u(row[u(p)])], next = 0; i < k && i >= 0; i = next) {
        next = std::exchange(ancestor[u(i)], k);
        if (next < 0) parent[u(i)] = k;
        if (next == k) break;
      }
  std::vector<int> firstChild(u(n), -1), sibling(u(n), -1), out, open;
  for (int k = n; k-- > 0;)
    if (parent[u(k)] >= 0) sibling[u(k)] = std::exchange(firstChild[u(parent[u(k)])], k);
  out.reserve(u(n));
  for (int root = 0; root < n; ++root)
    for (int k = parent[u(root)] < 0 ? root : -1; k >= 0;) {
      if (const int child = std::exchange(firstChild[u(k)], -1); child >= 0) {
        open.push_back(k);
        k = child;
        continue;
      }
      out.push_back(order[u(k)]);
      if (sibling[u(k)] >= 0) {
        k = sibling[u(k)];
      } else if (open.empty()) {
        k = -1;
      } else {
        k = open.back();
        open.pop_back();
      }
    }
  return out;
}

}  // namespace

std::vector<int> sparseOrder(int nodes, std::span<const std::pair<int, int>> edges) {
  std::vector<int> begin(u(nodes) + 1, 0), at;
  for (const auto& [a, b] : edges) {
    ++begin[u(a) + 1];
    ++begin[u(b) + 1];
  }
  std::partial_sum(begin.begin(), begin.end(), begin.begin());
  std::vector<int> row(u(begin.back()) + 1), fill(begin.begin(), begin.end() - 1);
  for (const auto& [a, b] : edges) {
    row[u(fill[u(a)]++)] = b;
    row[u(fill[u(b)]++)] = a;
  }
  // Parallel edges make repeated entries; the ordering wants sorted columns without repeats.
  int out = 0;
  for (int c = 0; c < nodes; ++c) {
    const int from = begin[u(c)], to = begin[u(c) + 1];
    std::sort(row.begin() + from, row.begin() + to);
    begin[u(c)] = out;
    int last = -1;
    for (int i = from; i < to; ++i)
      if (row[u(i)] != last) row[u(out++)] = last = row[u(i)];
  }
  begin[u(nodes)] = out;
  std::vector<int> order(u(nodes));
  if (nodes > 0)
    ensure(amd_order(nodes, begin.data(), row.data(), order.data(), nullptr, nullptr) >= 0,
           "the ordering refused a pattern");
  return subtreesTogether(order, begin, row);
}

Factor::Factor(int nodes, std::span<const std::pair<int, int>> edges) : n_(nodes) {
  // Strict upper triangle by columns, rows sorted.
  std::vector<int> begin(u(n_) + 1, 0);
  for (const auto& [a, b] : edges) ++begin[u(std::max(a, b)) + 1];
  std::partial_sum(begin.begin(), begin.end(), begin.begin());
  std::vector<std::pair<int, int>> slots(edges.size());  // row, edge
  std::vector<int> fill(begin.begin(), begin.end() - 1);
  for (std::size_t e = 0; e < edges.size(); ++e) {
    const auto& [a, b] = edges[e];
    slots[u(fill[u(std::max(a, b))]++)] = {std::min(a, b), static_cast<int>(e)};
  }
  columnBegin_.assign(u(n_) + 1, 0);
  edgeAt_.resize(edges.size());
  for (int c = 0; c < n_; ++c) {
    columnBegin_[u(c)] = static_cast<int>(row_.size());
    std::sort(slots.begin() + begin[u(c)], slots.begin() + begin[u(c) + 1]);
    int last = -1;
    for (int i = begin[u(c)]; i < begin[u(c) + 1]; ++i) {
      if (slots[u(i)].first != last) row_.push_back(last = slots[u(i)].first);
      edgeAt_[u(slots[u(i)].second)] = static_cast<int>(row_.size()) - 1;
    }
  }
  columnBegin_[u(n_)] = static_cast<int>(row_.size());
  values_.assign(row_.size(), 0.0);
  diagonal_.assign(u(n_), 0.0);
  // The pattern of row k of L is what the elimination tree reaches from the entries of column k.
  std::vector<int> parent(u(n_), -1), flag(u(n_), -1), count(u(n_), 0), pattern(u(n_));
  rowBegin_.assign(u(n_) + 1, 0);
  rowAt_.reserve(4 * u(n_));
  for (int k = 0; k < n_; ++k) {
    flag[u(k)] = k;
    int top = n_;
    for (int p = columnBegin_[u(k)]; p < columnBegin_[u(k) + 1]; ++p) {
      int length = 0;
      for (int i = row_[u(p)]; flag[u(i)] != k; i = parent[u(i)]) {
        if (parent[u(i)] < 0) parent[u(i)] = k;
        ++count[u(i)];
        pattern[u(length++)] = i;
        flag[u(i)] = k;
      }
      while (length > 0) pattern[u(--top)] = pattern[u(--length)];
    }
    rowAt_.insert(rowAt_.end(), pattern.begin() + top, pattern.end());
    rowBegin_[u(k) + 1] = static_cast<int>(rowAt_.size());
  }
  lBegin_.assign(u(n_) + 1, 0);
  std::partial_sum(count.begin(), count.end(), lBegin_.begin() + 1);
  entries_ = u(lBegin_.back());
  double products = 0.0;
  for (const int rows : count) products += static_cast<double>(rows) * rows;
  lRow_.resize(entries_);
  std::copy(lBegin_.begin(), lBegin_.end() - 1, count.begin());
  for (int k = 0; k < n_; ++k)
    for (int p = rowBegin_[u(k)]; p < rowBegin_[u(k) + 1]; ++p) lRow_[u(count[u(rowAt_[u(p)])]++)] = k;
  if (products > frontsFrom * static_cast<double>(entries_)) {
    fronts_ = Fronts({lBegin_, lRow_}, columnBegin_, row_);
    if (fronts_.built()) {
      rowBegin_ = rowAt_ = lBegin_ = lRow_ = {};
      return;
    }
  }
  l_.resize(entries_);
  column_.resize(u(n_));
  for (int k = 0; k < n_; ++k) column_[u(k)].begin = lBegin_[u(k)];
}

void Factor::clear() {
  std::fill(values_.begin(), values_.end(), 0.0);
  std::fill(diagonal_.begin(), diagonal_.end(), 0.0);
}

template <bool alongside>
bool Factor::reckon(std::span<double> forward) {
  for (int k = 0; k < n_; ++k) {
    for (int p = columnBegin_[u(k)]; p < columnBegin_[u(k) + 1]; ++p)
      column_[u(row_[u(p)])].work = values_[u(p)];
    double d = diagonal_[u(k)], b = 0.0;
    if constexpr (alongside) b = forward[u(k)];
    for (int t = rowBegin_[u(k)]; t < rowBegin_[u(k) + 1]; ++t) {
      const int i = rowAt_[u(t)];
      Column& column = column_[u(i)];
      const double y = column.work;
      column.work = 0.0;
      const int end = column.begin + column.filled++;
      for (int p = column.begin; p < end; ++p) column_[u(lRow_[u(p)])].work -= l_[u(p)] * y;
      const double lki = y * column.perPivot;
      d -= lki * y;
      l_[u(end)] = lki;
      if constexpr (alongside) b -= lki * forward[u(i)];
    }
    Column& own = column_[u(k)];
    own.filled = 0;
    if (!(d > 0.0)) {
      for (Column& c : column_) c.work = 0.0, c.filled = 0;
      return false;
    }
    own.perPivot = 1.0 / d;
    if constexpr (alongside) forward[u(k)] = b;
  }
  return true;
}

bool Factor::factorise() {
  return fronts_.built() ? fronts_.factorise(diagonal_, values_) : reckon<false>({});
}

bool Factor::factorAndSolve(std::span<double> b) {
  if (fronts_.built()) {
    if (!fronts_.factorise(diagonal_, values_)) return false;
    solve(b);
    return true;
  }
  if (!reckon<true>(b)) return false;
  backward(b);
  return true;
}

void Factor::solve(std::span<double> b) const {
  if (fronts_.built()) {
    fronts_.forward(b);
    fronts_.backward(b);
    return;
  }
  for (int j = 0; j < n_; ++j) {
    const double x = b[u(j)];
    if (x == 0.0) continue;
    for (int p = lBegin_[u(j)]; p < lBegin_[u(j) + 1]; ++p) b[u(lRow_[u(p)])] -= l_[u(p)] * x;
  }
  backward(b);
}

void Factor::backward(std::span<double> b) const {
  for (int j = n_; j-- > 0;) {
    double x = b[u(j)] * column_[u(j)].perPivot;
    for (int p = lBegin_[u(j)]; p < lBegin_[u(j) + 1]; ++p) x -= l_[u(p)] * b[u(lRow_[u(p)])];
    b[u(j)] = x;
  }
}

}  // namespace conduit

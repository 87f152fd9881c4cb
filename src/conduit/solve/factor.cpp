#include "solve/factor.h"

#include <suitesparse/amd.h>

#include <algorithm>
#include <numeric>

#include "say/ensure.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }

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
  if (nodes > 0) ensure(amd_order(nodes, begin.data(), row.data(), order.data(), nullptr, nullptr) >= 0, "the ordering refused a pattern");
  return order;
}

Factor::Factor(int nodes, std::span<const std::pair<int, int>> edges) : n_(nodes) {
  // Upper triangle by columns, rows sorted, the diagonal last.
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
  diagonalAt_.resize(u(n_));
  edgeAt_.resize(edges.size());
  for (int c = 0; c < n_; ++c) {
    columnBegin_[u(c)] = static_cast<int>(row_.size());
    std::sort(slots.begin() + begin[u(c)], slots.begin() + begin[u(c) + 1]);
    int last = -1;
    for (int i = begin[u(c)]; i < begin[u(c) + 1]; ++i) {
      if (slots[u(i)].first != last) row_.push_back(last = slots[u(i)].first);
      edgeAt_[u(slots[u(i)].second)] = static_cast<int>(row_.size()) - 1;
    }
    diagonalAt_[u(c)] = static_cast<int>(row_.size());
    row_.push_back(c);
  }
  columnBegin_[u(n_)] = static_cast<int>(row_.size());
  values_.assign(row_.size(), 0.0);
  // Elimination tree and the number of entries in each column of L.
  parent_.assign(u(n_), -1);
  flag_.assign(u(n_), -1);
  count_.assign(u(n_), 0);
  for (int k = 0; k < n_; ++k) {
    flag_[u(k)] = k;
    for (int p = columnBegin_[u(k)]; p < diagonalAt_[u(k)]; ++p)
      for (int i = row_[u(p)]; flag_[u(i)] != k; i = parent_[u(i)]) {
        if (parent_[u(i)] < 0) parent_[u(i)] = k;
        ++count_[u(i)];
        flag_[u(i)] = k;
      }
  }
  lBegin_.assign(u(n_) + 1, 0);
  std::partial_sum(count_.begin(), count_.end(), lBegin_.begin() + 1);
  lRow_.resize(u(lBegin_.back()));
  l_.resize(lRow_.size());
  d_.resize(u(n_));
  work_.assign(u(n_), 0.0);
  pattern_.resize(u(n_));
}

void Factor::clear() { std::fill(values_.begin(), values_.end(), 0.0); }

bool Factor::factorise() {
  std::fill(count_.begin(), count_.end(), 0);
  std::fill(flag_.begin(), flag_.end(), -1);
  for (int k = 0; k < n_; ++k) {
    int top = n_;
    flag_[u(k)] = k;
    for (int p = columnBegin_[u(k)]; p < diagonalAt_[u(k)]; ++p) {
      int i = row_[u(p)], length = 0;
      work_[u(i)] = values_[u(p)];
      for (; flag_[u(i)] != k; i = parent_[u(i)]) {
        pattern_[u(length++)] = i;
        flag_[u(i)] = k;
      }
      while (length > 0) pattern_[u(--top)] = pattern_[u(--length)];
    }
    double d = values_[u(diagonalAt_[u(k)])];
    for (; top < n_; ++top) {
      const int i = pattern_[u(top)];
      const double y = work_[u(i)];
      work_[u(i)] = 0.0;
      const int end = lBegin_[u(i)] + count_[u(i)];
      for (int p = lBegin_[u(i)]; p < end; ++p) work_[u(lRow_[u(p)])] -= l_[u(p)] * y;
      const double lki = y / d_[u(i)];
      d -= lki * y;
      lRow_[u(end)] = k;
      l_[u(end)] = lki;
      ++count_[u(i)];
    }
    if (!(d > 0.0)) {
      std::fill(work_.begin(), work_.end(), 0.0);
      return false;
    }
    d_[u(k)] = d;
  }
  return true;
}

void Factor::solve(std::span<double> b) const {
  for (int j = 0; j < n_; ++j) {
    const double x = b[u(j)];
    if (x == 0.0) continue;
    for (int p = lBegin_[u(j)]; p < lBegin_[u(j) + 1]; ++p) b[u(lRow_[u(p)])] -= l_[u(p)] * x;
  }
  for (int j = 0; j < n_; ++j) b[u(j)] /= d_[u(j)];
  for (int j = n_; j-- > 0;) {
    double x = b[u(j)];
    for (int p = lBegin_[u(j)]; p < lBegin_[u(j) + 1]; ++p) x -= l_[u(p)] * b[u(lRow_[u(p)])];
    b[u(j)] = x;
  }
}

}  // namespace conduit

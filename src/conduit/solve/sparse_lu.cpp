#include "solve/sparse_lu.h"

#include <suitesparse/klu.h>

#include <numeric>

#include "solve/index.h"

namespace conduit {
struct SparseLu::Parts {
  int size = 0;
  std::vector<int> begin, row;
  std::vector<double> value;
  klu_common common{};
  double firstCondition = 0.0;  // least pivot over greatest, when they were last chosen
  klu_symbolic* symbolic = nullptr;
  klu_numeric* numeric = nullptr;

  Parts() { klu_defaults(&common); }
  ~Parts() { drop(true); }
  Parts(const Parts&) = delete;
  Parts& operator=(const Parts&) = delete;
  void drop(bool order) {
    if (numeric) klu_free_numeric(&numeric, &common);
    if (order && symbolic) klu_free_symbolic(&symbolic, &common);
  }
};

SparseLu::SparseLu() = default;
SparseLu::~SparseLu() = default;
SparseLu::SparseLu(SparseLu&&) noexcept = default;
SparseLu& SparseLu::operator=(SparseLu&&) noexcept = default;

bool SparseLu::factorise(int size, std::span<const Entry> entries) {
  if (!parts_) parts_ = std::make_unique<Parts>();
  Parts& p = *parts_;
  // Into columns, then what stands twice in one summed.
  std::vector<int> begin(u(size) + 1, 0);
  for (const Entry& e : entries) ++begin[u(e.column) + 1];
  std::partial_sum(begin.begin(), begin.end(), begin.begin());
  std::vector<int> row(entries.size()), fill(begin.begin(), begin.end() - 1), seen(u(size), -1);
  std::vector<double> value(entries.size());
  for (const Entry& e : entries) {
    const std::size_t at = u(fill[u(e.column)]++);
    row[at] = e.row, value[at] = e.value;
  }
  int out = 0;
  for (int c = 0; c < size; ++c) {
    const int first = begin[u(c)], last = begin[u(c) + 1], start = out;
    for (int k = first; k < last; ++k) {
      int& place = seen[u(row[u(k)])];
      if (place >= start) {
        value[u(place)] += value[u(k)];
      } else {
        place = out;
        row[u(out)] = row[u(k)], value[u(out)] = value[u(k)];
        ++out;
      }
    }
    begin[u(c)] = start;
  }
  begin[u(size)] = out;
  row.resize(u(out));
  value.resize(u(out));
  const bool same = p.symbolic && p.size == size && p.begin == begin && p.row == row;
  if (!same) p.drop(true);
  p.size = size, p.begin = std::move(begin), p.row = std::move(row), p.value = std::move(value);
  if (!same) p.symbolic = klu_analyze(size, p.begin.data(), p.row.data(), &p.common);
  if (!p.symbolic) return false;
  // With the pivots of the last values, as long as they still serve.
  if (p.numeric &&
      klu_refactor(p.begin.data(), p.row.data(), p.value.data(), p.symbolic, p.numeric, &p.common) &&
      p.common.status == KLU_OK && klu_rcond(p.symbolic, p.numeric, &p.common) &&
      p.common.rcond > 1e-3 * p.firstCondition)
    return true;
  p.drop(false);
  p.numeric = klu_factor(p.begin.data(), p.row.data(), p.value.data(), p.symbolic, &p.common);
  if (!p.numeric || p.common.status != KLU_OK) {
    p.drop(false);
    return false;
  }
  p.firstCondition = klu_rcond(p.symbolic, p.numeric, &p.common) ? p.common.rcond : 0.0;
  return true;
}

void SparseLu::solve(std::span<double> b) {
  Parts& p = *parts_;
  (void)klu_solve(p.symbolic, p.numeric, p.size, 1, b.data(), &p.common);
}

}  // namespace conduit

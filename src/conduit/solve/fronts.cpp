#include "solve/fronts.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "solve/index.h"

namespace conduit {
namespace {

constexpr int tileRows = 8, tileColumns = 4;
// Fronts are computed in a work space with room for whole tiles at the edges: what is worked out there means
// nothing.
std::size_t pitchOf(std::size_t rows) { return (rows + 2 * tileRows - 1) / tileRows * tileRows; }

// c (8 rows, 4 columns) less the products of `depth` columns of a (8 rows) and b (4 rows): each number by the
// same operations in the same order, however wide `Lanes` is.
template <typename Lanes>
[[gnu::always_inline]] inline void tile(double* c, const double* a, const double* b, std::size_t pitch,
                                        int depth) {
  constexpr int wide = sizeof(Lanes) / sizeof(double), parts = tileRows / wide;
  Lanes sum[tileColumns][parts];
  for (int j = 0; j < tileColumns; ++j)
    for (int p = 0; p < parts; ++p) std::memcpy(&sum[j][p], c + u(j) * pitch + u(p * wide), sizeof(Lanes));
  for (int k = 0; k < depth; ++k, a += pitch, b += pitch) {
    Lanes left[parts];
    for (int p = 0; p < parts; ++p) std::memcpy(&left[p], a + p * wide, sizeof(Lanes));
    for (int j = 0; j < tileColumns; ++j)
      for (int p = 0; p < parts; ++p) sum[j][p] -= left[p] * b[j];
  }
  for (int j = 0; j < tileColumns; ++j)
    for (int p = 0; p < parts; ++p) std::memcpy(c + u(j) * pitch + u(p * wide), &sum[j][p], sizeof(Lanes));
}

// Of a front of `rows` rows the first `width` columns become Cholesky's, the rest what is left for the
// columns to come. Only the lower triangle means anything.
template <typename Lanes>
[[gnu::always_inline]] inline bool eliminate(double* f, std::size_t pitch, int rows, int width) {
  for (int j = 0; j < width; j += tileColumns) {
    const int columns = std::min(tileColumns, width - j);
    if (columns == tileColumns)
      for (int i = j; j > 0 && i < rows; i += tileRows)
        tile<Lanes>(f + u(j) * pitch + u(i), f + i, f + j, pitch, j);
    else
      for (int c = j; c < width; ++c)
        for (int k = 0; k < j; ++k) {
          const double by = f[u(k) * pitch + u(c)];
          for (int i = c; i < rows; ++i) f[u(c) * pitch + u(i)] -= f[u(k) * pitch + u(i)] * by;
        }
    for (int c = j; c < j + columns; ++c) {
      double* column = f + u(c) * pitch;
      for (int k = j; k < c; ++k) {
        const double by = f[u(k) * pitch + u(c)];
        for (int i = c; i < rows; ++i) column[i] -= f[u(k) * pitch + u(i)] * by;
      }
      if (!(column[c] > 0.0)) return false;
      const double root = std::sqrt(column[c]), per = 1.0 / root;
      column[c] = root;
      for (int i = c + 1; i < rows; ++i) column[i] *= per;
    }
  }
  for (int j = width; j < rows; j += tileColumns)
    for (int i = j; i < rows; i += tileRows) tile<Lanes>(f + u(j) * pitch + u(i), f + i, f + j, pitch, width);
  return true;
}

using Two [[gnu::vector_size(16)]] = double;
bool eliminateByTwo(double* f, std::size_t pitch, int rows, int width) {
  return eliminate<Two>(f, pitch, rows, width);
}
#if defined(__x86_64__)
using Four [[gnu::vector_size(32)]] = double;
using Eight [[gnu::vector_size(64)]] = double;
[[gnu::target("avx2")]] bool eliminateByFour(double* f, std::size_t pitch, int rows, int width) {
  return eliminate<Four>(f, pitch, rows, width);
}
[[gnu::target("avx512f")]] bool eliminateByEight(double* f, std::size_t pitch, int rows, int width) {
  return eliminate<Eight>(f, pitch, rows, width);
}
#else
constexpr auto eliminateByFour = eliminateByTwo, eliminateByEight = eliminateByTwo;
#endif

}  // namespace

Fronts::Fronts(const ColumnPattern& pattern, std::span<const int> upperBegin, std::span<const int> upperRow) {
  const int n = pattern.columns();
  // Columns whose rows are the same except themselves are one front.
  struct Group {
    int first, last;
    double entries, wanted;  // with the zeros that joining added, and without
  };
  std::vector<Group> group;
  const auto full = [](double width, double below) { return width * (width + 1) / 2 + width * below; };
  for (int c = 0; c < n; ++c) {
    const bool with = c > 0 && pattern.parent(c - 1) == c && pattern.count(c) == pattern.count(c - 1) - 1;
    if (with) group.back().last = c;
    else group.push_back({c, c, 0, 0});
    if (c + 1 == n || !(pattern.parent(c) == c + 1 && pattern.count(c + 1) == pattern.count(c) - 1)) {
      Group& g = group.back();
      g.entries = g.wanted = full(g.last - g.first + 1, pattern.count(g.last));
    }
  }
  // A group joined with the one before it, its child, where few zeros come in: the more columns, the fewer.
  std::vector<Group> joined;
  for (Group g : group) {
    while (!joined.empty()) {
      const Group& child = joined.back();
      const int above = pattern.parent(child.last);
      if (above < g.first || above > g.last) break;
      const int width = g.last - child.first + 1;
      const double entries = full(width, pattern.count(g.last)), wanted = child.wanted + g.wanted,
                   zeros = (entries - wanted) / entries;
      if (!(width <= 4 || (width <= 16 && zeros < 0.8) || (width <= 48 && zeros < 0.1) || zeros < 0.05))
        break;
      g = {child.first, g.last, entries, wanted};
      joined.pop_back();
    }
    joined.push_back(g);
  }
  std::vector<int> frontOf(u(n));
  front_.reserve(joined.size());
  std::size_t rows = 0, panel = 0;
  for (const Group& g : joined) {
    Front f;
    f.first = g.first, f.width = g.last - g.first + 1, f.below = pattern.count(g.last);
    f.rows = rows, f.panel = panel;
    rows += u(f.below);
    panel += u(f.width) * u(f.width + f.below);
    for (int c = g.first; c <= g.last; ++c) frontOf[u(c)] = static_cast<int>(front_.size());
    front_.push_back(f);
    row_.insert(row_.end(), pattern.row.begin() + pattern.begin[u(g.last)],
                pattern.row.begin() + pattern.begin[u(g.last) + 1]);
    widest_ = std::max(widest_, u(f.width + f.below));
  }
  childBegin_.assign(front_.size(), 0);
  inParent_.resize(row_.size());
  const auto placeIn = [&](const Front& f, int row) {  // in the front of f
    if (row < f.first + f.width) return row - f.first;
    const auto from = row_.begin() + static_cast<std::ptrdiff_t>(f.rows);
    return f.width + static_cast<int>(std::lower_bound(from, from + f.below, row) - from);
  };
  std::vector<int> open;  // fronts whose remainder waits on the stack
  std::size_t high = 0;
  const auto remainder = [](const Front& f) { return u(f.below) * u(f.below + 1) / 2; };
  for (std::size_t i = 0; i < front_.size(); ++i) {
    Front& f = front_[i];
    if (f.below > 0) {
      f.parent = frontOf[u(row_[f.rows])];
      const Front& parent = front_[u(f.parent)];
      for (int k = 0; k < f.below; ++k) inParent_[f.rows + u(k)] = placeIn(parent, row_[f.rows + u(k)]);
      ++childBegin_[u(f.parent)];
    }
    for (int k = 0; k < childBegin_[i]; ++k) {
      if (open.empty() || front_[u(open.back())].parent != static_cast<int>(i)) {
        *this = Fronts();
        return;
      }
      high -= remainder(front_[u(open.back())]);
      open.pop_back();
    }
    if (f.below > 0) {
      open.push_back(static_cast<int>(i));
      high += remainder(f);
      stackMost_ = std::max(stackMost_, high);
    }
  }
  // Where each value of the matrix is added in.
  std::vector<std::size_t> count(front_.size() + 1, 0);
  for (int c = 0; c < n; ++c)
    for (int p = upperBegin[u(c)]; p < upperBegin[u(c) + 1]; ++p) ++count[u(frontOf[u(upperRow[u(p)])]) + 1];
  for (std::size_t i = 0; i < front_.size(); ++i) {
    count[i + 1] += count[i];
    front_[i].valueBegin = front_[i].valueEnd = count[i];
  }
  value_.resize(count.back());
  for (int c = 0; c < n; ++c)
    for (int p = upperBegin[u(c)]; p < upperBegin[u(c) + 1]; ++p) {
      Front& f = front_[u(frontOf[u(upperRow[u(p)])])];
      const std::size_t pitch = pitchOf(u(f.width + f.below));
      value_[f.valueEnd++] = {p, static_cast<int>(u(upperRow[u(p)] - f.first) * pitch + u(placeIn(f, c)))};
    }
  l_.resize(panel);
}

int Fronts::widestLanes() {
#if defined(__x86_64__)
  if (__builtin_cpu_supports("avx512f")) return 8;
  if (__builtin_cpu_supports("avx2")) return 4;
#endif
  return 2;
}

bool Fronts::factorise(std::span<const double> diagonal, std::span<const double> values, int lanes) {
  const auto eliminateHere = lanes == 8 ? eliminateByEight : lanes == 4 ? eliminateByFour : eliminateByTwo;
  work_.resize(pitchOf(widest_) * (widest_ + tileColumns));
  stack_.resize(stackMost_);
  std::size_t high = 0;
  std::vector<int> open;
  double* const f = work_.data();
  for (std::size_t i = 0; i < front_.size(); ++i) {
    const Front& front = front_[i];
    const int rows = front.width + front.below;
    const std::size_t pitch = pitchOf(u(rows));
    for (int c = 0; c < rows; ++c)
      for (int r = c; r < rows; ++r) f[u(c) * pitch + u(r)] = 0.0;
    for (int c = 0; c < front.width; ++c) f[u(c) * pitch + u(c)] = diagonal[u(front.first + c)];
    for (std::size_t v = front.valueBegin; v < front.valueEnd; ++v)
      f[value_[v].at] = values[u(value_[v].slot)];
    for (int k = 0; k < childBegin_[i]; ++k) {
      const Front& child = front_[u(open.back())];
      open.pop_back();
      high -= u(child.below) * u(child.below + 1) / 2;
      const double* from = stack_.data() + high;
      const int* at = inParent_.data() + child.rows;
      for (int c = 0; c < child.below; ++c) {
        double* const into = f + u(at[c]) * pitch;
        for (int r = c; r < child.below; ++r) into[at[r]] += *from++;
      }
    }
    if (!eliminateHere(f, pitch, rows, front.width)) return false;
    double* panel = l_.data() + front.panel;
    for (int c = 0; c < front.width; ++c, panel += rows)
      for (int r = c; r < rows; ++r) panel[r] = f[u(c) * pitch + u(r)];
    if (front.below == 0) continue;
    double* onto = stack_.data() + high;
    for (int c = front.width; c < rows; ++c)
      for (int r = c; r < rows; ++r) *onto++ = f[u(c) * pitch + u(r)];
    high += u(front.below) * u(front.below + 1) / 2;
    open.push_back(static_cast<int>(i));
  }
  return true;
}

void Fronts::forward(std::span<double> b) const {
  std::vector<double> under(widest_);
  for (const Front& f : front_) {
    const double* column = l_.data() + f.panel;
    const int* row = row_.data() + f.rows;
    std::fill_n(under.begin(), f.below, 0.0);
    for (int c = 0; c < f.width; ++c, column += f.width + f.below) {
      const double x = b[u(f.first + c)] /= column[c];
      double* const own = b.data() + f.first;
      for (int r = c + 1; r < f.width; ++r) own[r] -= column[r] * x;
      for (int r = 0; r < f.below; ++r) under[u(r)] += column[f.width + r] * x;
    }
    for (int r = 0; r < f.below; ++r) b[u(row[r])] -= under[u(r)];
  }
}

void Fronts::backward(std::span<double> b) const {
  std::vector<double> known(widest_);
  for (std::size_t i = front_.size(); i-- > 0;) {
    const Front& f = front_[i];
    const int rows = f.width + f.below;
    const int* row = row_.data() + f.rows;
    for (int r = 0; r < f.below; ++r) known[u(f.width + r)] = b[u(row[r])];
    for (int c = f.width; c-- > 0;) {
      const double* column = l_.data() + f.panel + u(c) * u(rows);
      double sum[4] = {0.0, 0.0, 0.0, 0.0};  // apart, so that none waits for the other
      int r = c + 1;
      for (; r + 4 <= rows; r += 4)
        for (int k = 0; k < 4; ++k) sum[k] += column[r + k] * known[u(r + k)];
      for (; r < rows; ++r) sum[0] += column[r] * known[u(r)];
      known[u(c)] = b[u(f.first + c)] =
          (b[u(f.first + c)] - ((sum[0] + sum[1]) + (sum[2] + sum[3]))) / column[c];
    }
  }
}

}  // namespace conduit

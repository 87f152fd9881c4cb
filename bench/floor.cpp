#include "floor.h"
#include "least.h"

#include <cholmod.h>

#include <Eigen/SparseCholesky>
#include <chrono>
#include <cmath>

namespace conduit::bench {
Floor floorOf(const System& s) {
  Floor floor;
  const std::size_t links = s.links.size();
  const int n = s.freeCount;
  const int runs = links < 5000 ? 60 : links < 50000 ? 20 : 8;
  // Law.
  std::vector<double> re(links), rel(links), x(links), f(links), slope(links);
  for (std::size_t i = 0; i < links; ++i)
    re[i] = 4e3 * std::pow(1e3, static_cast<double>(i) / static_cast<double>(links)), rel[i] = 1e-3, x[i] = 7;
  volatile double sink = 0;
  auto law = [&] {
    constexpr double c = 0.86858896380650365;
    for (std::size_t i = 0; i < links; ++i) {
      const double a = rel[i] / 3.7, b = 2.51 / re[i];
      double y = x[i];
      for (int k = 0; k < 2; ++k) {
        const double in = a + b * y;
        y -= (y + c * std::log(in)) / (1 + c * b / in);
      }
      x[i] = y;
      f[i] = 1 / (y * y);
      slope[i] = f[i] * (2 - 2 * b * c / (a + b * y + b * c));
    }
    sink = f[links / 2];
  };
  law();
  floor.law = least(runs, law);
  // One matrix for both packages: upper triangle, columns sorted.
  std::vector<Eigen::Triplet<double>> entries;
  for (int i = 0; i < n; ++i) entries.emplace_back(i, i, 1e-3);
  for (std::size_t i = 0; i < links; ++i) {
    const Link& l = s.links[i];
    if (s.isFree(l.from)) entries.emplace_back(l.from, l.from, 1.0);
    if (s.isFree(l.to)) entries.emplace_back(l.to, l.to, 1.0);
    if (s.linkEdge[i] >= 0) entries.emplace_back(std::min(l.from, l.to), std::max(l.from, l.to), -1.0);
  }
  Eigen::SparseMatrix<double> m(n, n);
  m.setFromTriplets(entries.begin(), entries.end());
  m.makeCompressed();
  std::vector<int> diagonal(static_cast<std::size_t>(n)), off(links, -1);
  for (int c = 0; c < n; ++c) diagonal[static_cast<std::size_t>(c)] = m.outerIndexPtr()[c + 1] - 1;
  for (std::size_t i = 0; i < links; ++i) {
    if (s.linkEdge[i] < 0) continue;
    const int r = std::min(s.links[i].from, s.links[i].to), c = std::max(s.links[i].from, s.links[i].to);
    const int* begin = m.innerIndexPtr() + m.outerIndexPtr()[c];
    off[i] = static_cast<int>(
        std::lower_bound(begin, static_cast<const int*>(m.innerIndexPtr()) + m.outerIndexPtr()[c + 1], r) -
        m.innerIndexPtr());
  }
  floor.assembly = least(runs, [&] {
    double* v = m.valuePtr();
    std::fill(v, v + m.nonZeros(), 0.0);
    for (int i = 0; i < n; ++i) v[diagonal[static_cast<std::size_t>(i)]] = 1e-3;
    for (std::size_t i = 0; i < links; ++i) {
      const double c = 1.0 + slope[i];
      const Link& l = s.links[i];
      if (s.isFree(l.from)) v[diagonal[static_cast<std::size_t>(l.from)]] += c;
      if (s.isFree(l.to)) v[diagonal[static_cast<std::size_t>(l.to)]] += c;
      if (off[i] >= 0) v[off[i]] -= c;
    }
  });
  Eigen::VectorXd b = Eigen::VectorXd::Random(n), y(n);
  Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>, Eigen::Upper, Eigen::NaturalOrdering<int>> eigen;
  eigen.analyzePattern(m);
  const double eigenFactor = least(runs, [&] { eigen.factorize(m); });
  const double eigenSolve = least(runs, [&] { y = eigen.solve(b); });
  cholmod_common common;
  cholmod_start(&common);
  common.nmethods = 1;
  common.method[0].ordering = CHOLMOD_NATURAL;
  common.postorder = 0;
  common.supernodal = CHOLMOD_SIMPLICIAL;
  common.final_ll = 0;
  cholmod_sparse a{};
  a.nrow = a.ncol = static_cast<std::size_t>(n);
  a.nzmax = static_cast<std::size_t>(m.nonZeros());
  a.p = m.outerIndexPtr(), a.i = m.innerIndexPtr(), a.x = m.valuePtr();
  a.stype = 1, a.itype = CHOLMOD_INT, a.xtype = CHOLMOD_REAL, a.dtype = CHOLMOD_DOUBLE, a.sorted = 1,
  a.packed = 1;
  cholmod_factor* factor = cholmod_analyze(&a, &common);
  const double cholmodFactor = least(runs, [&] { cholmod_factorize(&a, factor, &common); });
  cholmod_dense rhs{};
  rhs.nrow = rhs.d = rhs.nzmax = static_cast<std::size_t>(n);
  rhs.ncol = 1, rhs.x = b.data(), rhs.xtype = CHOLMOD_REAL, rhs.dtype = CHOLMOD_DOUBLE;
  const double cholmodSolve = least(runs, [&] {
    cholmod_dense* answer = cholmod_solve(CHOLMOD_A, factor, &rhs, &common);
    cholmod_free_dense(&answer, &common);
  });
  cholmod_free_factor(&factor, &common);
  cholmod_finish(&common);
  const bool eigenWins = eigenFactor + eigenSolve < cholmodFactor + cholmodSolve;
  floor.factor = eigenWins ? eigenFactor : cholmodFactor;
  floor.solve = eigenWins ? eigenSolve : cholmodSolve;
  floor.by = eigenWins ? "Eigen" : "CHOLMOD";
  return floor;
}

}  // namespace conduit::bench

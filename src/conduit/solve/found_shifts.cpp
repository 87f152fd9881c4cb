#include "solve/found_shifts.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "solve/dense.h"
#include "solve/probe.h"
#include "solve/released.h"
#include "solve/response.h"

namespace conduit {

std::pair<double, double> aroundOf(const Unknown& k) {
  const Field& f = *k.field;
  const double h = 1e-4 * std::max(std::abs(k.value), 1e-6 * (f.most - f.least));
  return {std::max(f.least, k.value - h), std::min(f.most, k.value + h)};
}

std::optional<FoundShifts> FoundShifts::about(
    const Network& filled, const Solution& answer, const Wanted& wanted, const Places& places,
    const std::function<bool(std::size_t k, std::vector<double>& shift)>& ofField) {
  const std::size_t m = wanted.unknowns.size();
  if (m == 0 || wanted.goals.size() != m) return std::nullopt;
  FoundShifts all;
  all.fields_.resize(m);
  for (std::size_t k = 0; k < m; ++k) {
    if (!ofField(k, all.fields_[k])) return std::nullopt;
    all.fields_[k].resize(places.count() + m, 0.0);
    all.fields_[k][places.count() + k] = 1.0;
  }
  std::vector<std::vector<double>> matrix;  // G F + D
  std::vector<double> scale;
  for (const Goal& goal : wanted.goals) {
    const Element& e = filled.at(goal.element);
    Probe probe(filled, answer, goal.element);
    Terms terms;
    probe.eachNumber(filled, answer, goal.element, places,
                     [&](std::optional<double>& number, std::size_t place, bool flow) {
                       const double h = flow ? std::max(1e-8, 1e-5 * std::abs(number.value_or(0.0))) : 1e-4;
                       if (const double slope = probe.slope(*goal.outcome, number, h); slope != 0.0)
                         terms.push_back({place, slope});
                     });
    Reading& r = probe.reading();
    // What the outcome reads of fields of its own element.
    for (std::size_t k = 0; k < m; ++k) {
      const Unknown& field = wanted.unknowns[k];
      if (field.element != goal.element) continue;
      const auto [less, more] = aroundOf(field);
      const auto with = [&](double value) {
        const Values values = valuesWith(e, answer.setting.stock, field, value);
        const Values* kept = std::exchange(r.values, &values);
        const double read = probe.of(*goal.outcome);
        r.values = kept;
        return read;
      };
      if (const double slope = (with(more) - with(less)) / (more - less);
          std::isfinite(slope) && slope != 0.0)
        terms.push_back({places.count() + k, slope});
    }
    std::vector<double> row(m, 0.0);
    for (std::size_t k = 0; k < m; ++k)
      for (const auto& [place, slope] : terms) row[k] += slope * all.fields_[k][place];
    all.goals_.push_back(std::move(terms));
    matrix.push_back(std::move(row));
  }
  for (auto& row : matrix) {
    double most = 0.0;
    for (const double v : row) most = std::max(most, std::abs(v));
    if (!(most > 0) || !std::isfinite(most)) return std::nullopt;
    for (double& v : row) v /= most;
    row.push_back(0.0);
    scale.push_back(most);
  }
  all.inverse_.assign(m, std::vector<double>(m, 0.0));
  for (std::size_t g = 0; g < m; ++g) {
    auto rows = matrix;
    rows[g][m] = 1.0 / scale[g];
    if (!solveDense(rows)) return std::nullopt;
    for (std::size_t k = 0; k < m; ++k) all.inverse_[k][g] = rows[k][m];
  }
  return all;
}

void FoundShifts::follow(std::vector<double>& shift) const {
  const std::size_t m = goals_.size();
  std::vector<double> along(m, 0.0);
  for (std::size_t g = 0; g < m; ++g) {
    double miss = 0.0;
    for (const auto& [place, slope] : goals_[g])
      if (place < shift.size()) miss += slope * shift[place];
    for (std::size_t k = 0; k < m; ++k) along[k] -= inverse_[k][g] * miss;
  }
  shift.resize(fields_[0].size(), 0.0);
  for (std::size_t k = 0; k < m; ++k)
    for (std::size_t i = 0; i < shift.size(); ++i) shift[i] += along[k] * fields_[k][i];
}

}  // namespace conduit

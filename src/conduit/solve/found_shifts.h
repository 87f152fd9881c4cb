// What fields that are found do when something else changes: they go along, so that what was given in their
// place stays true.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "solve/goals.h"
#include "solve/solution.h"

namespace conduit {

class Places;

/// To first order about an answer. With the fields kept every number shifts by s; with a field k it shifts by
/// F_k for each unit of the field. A goal g reads some of those numbers, and its own element's field, so
/// that the fields go along by a with (G F + D) a = −G s, and all shifts by s + F a.
class FoundShifts {
 public:
  /// `filled`: with the values found in place; `answer` of it, without found fields. `ofField`: F_k, of as
  /// many numbers as `places` counts without the fields; false: there is none such. Empty where the goals do
  /// not decide the fields.
  [[nodiscard]] static std::optional<FoundShifts> about(
      const Network& filled, const Solution& answer, const Wanted& wanted, const Places& places,
      const std::function<bool(std::size_t k, std::vector<double>& shift)>& ofField);
  /// From a shift with the fields kept to that with them; what each goes along by is put behind it.
  void follow(std::vector<double>& shift) const;

 private:
  using Terms = std::vector<std::pair<std::size_t, double>>;  // place, by its number
  std::vector<Terms> goals_;
  std::vector<std::vector<double>> fields_;   // F, with the unit of the field itself behind
  std::vector<std::vector<double>> inverse_;  // of G F + D
};

/// A little more and a little less of a field, both within its range.
[[nodiscard]] std::pair<double, double> aroundOf(const Unknown& unknown);

}  // namespace conduit

// Sizes of many lines changed at once: what each size up or down does to every limit and to the cost is
// judged by solving; the best of all changes together is then a linear programme (simplex); what it proposes
// is judged by solving again.
#pragma once

#include "sizing/slopes.h"

namespace conduit {

/// What −1, 0 or 1 size for each row would be best, as far as slopes tell.
class LinearStep {
 public:
  /// `penalty`: a price for all of a limit, at which what cannot be kept is broken as little as can be. The
  /// slopes must stay as long.
  LinearStep(std::span<const LimitExcess> limits, std::span<const Slope> down, std::span<const Slope> up,
             double penalty);
  /// The cheapest that keeps every limit, with `most` changes: a linear programme (simplex), made whole in a
  /// way or two.
  [[nodiscard]] std::vector<std::vector<int>> with(double most) const;

 private:
  using Effects = std::vector<std::pair<std::uint32_t, double>>;  // (place of a limit, excess more), in order
  [[nodiscard]] std::vector<double> shares(double most) const;
  [[nodiscard]] const Slope& slope(std::size_t change) const {
    return (change % 2 ? up_ : down_)[change / 2];
  }
  std::span<const LimitExcess> limits_;
  std::span<const Slope> down_, up_;
  double penalty_;
  std::vector<Effects> does_;  // of each change: of row r down at 2 r, up at 2 r + 1
};

/// Steps as long as they better it: whole ones, ever smaller ones where those do not; at the end of those,
/// where that is quick, whole ones through choices that break limits and back. Where slopes are solved those
/// of rows that did not change are kept until no step betters it with them; then all are solved anew.
class Stepper {
 public:
  Stepper(const SizingTask& task, Judge& judge, std::size_t lane, std::stop_token stop)
      : task_(task), judge_(judge), lane_(lane), stop_(stop), slopes_(task, judge, lane, std::move(stop)) {}
  /// With all lanes where `jobs` are given, else in its own. No more than `most` choices are judged.
  [[nodiscard]] Judged from(SizeChoice choice, std::size_t most, const JobOptions* jobs = nullptr);
  [[nodiscard]] std::size_t judged() const { return judged_ + slopes_.judged(); }

 private:
  [[nodiscard]] static double penalty(const Judged& at);
  [[nodiscard]] std::optional<Judged> taken(const Judged& at, const LinearStep& best, double most,
                                            std::vector<LimitExcess>& limits,
                                            std::vector<std::size_t>& changed);
  bool stride(Judged& at);
  bool step(Judged& at, double& most, std::vector<std::size_t>& changed);
  const SizingTask& task_;
  Judge& judge_;
  std::size_t lane_;
  std::stop_token stop_;
  std::vector<LimitExcess> limits_;
  Slopes slopes_;
  std::size_t judged_ = 0;
};

}  // namespace conduit

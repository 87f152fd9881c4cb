// Sizes of many lines changed at once: what each size up or down does to every limit and to the cost is
// judged by solving; the best of all changes together is then a linear programme (simplex); what it proposes
// is judged by solving again.
#pragma once

#include "sizing/judge.h"

namespace conduit {

/// A choice with its verdict.
struct Judged {
  SizeChoice choice;
  SizingVerdict verdict;
};

/// One row's size up (or down); false where there is none.
[[nodiscard]] bool resize(const SizingTask& task, SizeChoice& choice, std::size_t row, int by);

/// What one row's next size does, all else as it is.
struct Slope {
  bool there = false;                                      // there is such a size, and it balances
  double objective = 0.0;                                  // dearer by
  std::vector<std::pair<std::uint64_t, double>> limits{};  // (LimitExcess::which, excess more), in order
};

/// −1, 0 or 1 size for each row: the cheapest that keeps every limit as far as the slopes tell, with `most`
/// changes; what cannot be kept is broken as little as can be, at a price of `dear` for all of a limit.
[[nodiscard]] std::vector<int> linearStep(std::span<const LimitExcess> limits, std::span<const Slope> down,
                                          std::span<const Slope> up, double dear, double most);

/// Steps as long as they better it. Slopes are judged anew where the row changed; the others are kept from
/// where they were judged until no step betters it with them, then all are judged anew.
class Stepper {
 public:
  Stepper(const SizingTask& task, Judge& judge, std::size_t lane, std::stop_token stop)
      : task_(task), judge_(judge), lane_(lane), stop_(std::move(stop)) {}
  /// With all lanes where `jobs` are given, else in its own. No more than `most` choices are judged.
  [[nodiscard]] Judged from(SizeChoice choice, std::size_t most, const JobOptions* jobs = nullptr);
  [[nodiscard]] std::size_t judged() const { return judged_; }

 private:
  void refresh(const Judged& at, std::span<const std::size_t> rows, const JobOptions* jobs);
  const SizingTask& task_;
  Judge& judge_;
  std::size_t lane_;
  std::stop_token stop_;
  std::vector<LimitExcess> limits_;
  std::vector<Slope> down_, up_;
  std::size_t judged_ = 0;
};

}  // namespace conduit

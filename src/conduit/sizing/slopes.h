// What each row's next size down or up does to every limit and to the cost, about a choice.
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

/// The slopes of all rows. In most cases to first order: the choice is solved once, a line of another size
/// follows its new law to the end, the rest of the network is drawn straight; far quicker than
/// solving each change, and right where no device changes its state. In a case that has no first
/// order (see Response), and of a row that has none, each change is solved. What is proposed by slopes is
/// solved in any case.
class Slopes {
 public:
  Slopes(const SizingTask& task, Judge& judge, std::size_t lane, std::stop_token stop)
      : task_(task), judge_(judge), lane_(lane), stop_(std::move(stop)) {}
  /// About a choice with its limits. Where changes are solved, those of `changed` rows are, with all lanes
  /// where `jobs` are given; the others are kept from where they were solved before.
  void about(const Judged& at, std::span<const LimitExcess> limits, std::span<const std::size_t> changed,
             const JobOptions* jobs);
  /// Nothing is kept from another choice.
  [[nodiscard]] bool fresh() const { return fresh_; }
  /// Some change was solved.
  [[nodiscard]] bool anySolved() const { return anySolved_; }
  [[nodiscard]] const std::vector<Slope>& down() const { return slopes_[0]; }
  [[nodiscard]] const std::vector<Slope>& up() const { return slopes_[1]; }
  [[nodiscard]] std::size_t judged() const { return judged_; }

 private:
  /// Of a change what some of the cases make of it.
  struct Part {
    bool there = true;
    double energy_j = 0.0;
    std::vector<std::pair<std::size_t, double>> shaft_w;  // more, of a case
    std::vector<std::pair<std::uint64_t, double>> limits;
  };
  class Case;
  [[nodiscard]] Part solvedPart(const Judged& at, std::span<const LimitExcess> limits, std::size_t row,
                                int by, std::size_t lane) const;
  [[nodiscard]] Slope together(const Judged& at, std::size_t row, int by, Part linear,
                               const Part& solved) const;
  const SizingTask& task_;
  Judge& judge_;
  std::size_t lane_;
  std::stop_token stop_;
  std::vector<Slope> slopes_[2];
  std::vector<std::size_t> solvedCases_;  // without a first order
  std::vector<char> unknown_;             // rows without one, whatever the case
  std::vector<Part> solved_[2];
  bool fresh_ = true, anySolved_ = false;
  std::size_t judged_ = 0;
};

}  // namespace conduit

// Finds what was released so that what was given in its place comes true: fields of any kind, outcomes of any kind, by one
// search that needs no code for each.
#pragma once

#include "solve/goals.h"
#include "solve/solve.h"
#include "solve/tees.h"

namespace conduit {

/// The words for devices that cannot agree.
[[nodiscard]] Problem contradiction(const StatesFound& found, const Network& network, const System& system);

/// The network with its released fields at trial values is balanced as any other; outside, Newton's method corrects those
/// values (damped, within somewhat more than their legal range, over their logarithm where they are sizes), with the slopes
/// of the outcomes from one more solve of the factor at hand for each. Pairs that decide each other alone are given as
/// flows and heads, and their fields worked out afterwards.
class Released {
 public:
  Released(const Network& network, const Setting& setting, Wanted wanted, const SolveOptions& options);
  void run(Solution& out);

 private:
  struct Trial {
    std::optional<Network> network;  // with values
    std::unique_ptr<System> system;
    std::unique_ptr<Newton> newton;
    Iterate x;
    StatesFound found;
    Solution solution;
    std::vector<Problem> problems;
    std::vector<double> miss;  // of each goal, in its own scale
    bool good = false;
    [[nodiscard]] double worst() const;
  };
  [[nodiscard]] Trial attempt(const std::vector<Unknown>& unknowns, const Trial* near, const GivenInstead& instead, const std::vector<Goal>& goals);
  [[nodiscard]] std::vector<std::vector<double>> slopes(Trial& trial, const std::vector<Unknown>& unknowns);
  [[nodiscard]] bool belong(std::vector<std::vector<double>> rows, const std::vector<Unknown>& unknowns);
  [[nodiscard]] bool advance(Trial& best, std::vector<Unknown>& unknowns, const std::vector<double>& step, int trials);
  [[nodiscard]] bool search(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] bool bracket(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] Problem withinRange(const Unknown& unknown, const Goal& goal, double value, double reached) const;
  [[nodiscard]] bool find(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] std::vector<Problem> beyond(Trial& best, const std::vector<Unknown>& unknowns, bool met);
  void hand(Trial& best, const std::vector<Unknown>& unknowns, Solution& out);
  [[nodiscard]] Problem notFound(Trial& nearest, const std::vector<Unknown>& unknowns, std::size_t worst);
  /// Another value of the one unknown that meets the one goal too, where the miss at an end of its range says that there
  /// must be one between there and the answer.
  [[nodiscard]] std::optional<double> another(Trial& answer, const Unknown& unknown);
  [[nodiscard]] Problem alsoMetBy(const Unknown& unknown, double other) const;
  void settleLocal(const Trial& trial, std::vector<Problem>& problems);
  [[nodiscard]] Problem outOfReach(const Unknown& unknown, std::optional<double> needed, const Goal& goal, double atLeast, double atMost);
  [[nodiscard]] double read(const Goal& goal, const Solution& solution, const Network& network) const;

  const Network& network_;
  const Setting& setting_;
  const SolveOptions& options_;
  Wanted wanted_;  // what is left to be searched for
  GivenInstead instead_;
  std::vector<Local> local_;
  std::vector<Problem> singular_;
  std::vector<StepRecord> steps_;
  int iterations_ = 0;
  std::optional<std::pair<double, double>> nearest_;  // value and miss, where a single field comes nearest to its goal
  bool warm_ = false;                                 // trials begin from the earlier answer
};

}  // namespace conduit

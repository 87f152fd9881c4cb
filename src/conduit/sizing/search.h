// The cheapest sizes of a whole network that keep every limit in every case that counts: a proof where the
// network is branched and its flows are given, a search from many beginnings elsewhere.
#pragma once

#include <functional>

#include "sizing/conflict.h"
#include "sizing/runs.h"
#include "sizing/two_sizes.h"

namespace conduit {

/// Why a row is not smaller: the next size down, solved with all else as proposed.
struct Governed {
  /// `run`: its run would narrow and widen again; `unknown`: no time was left.
  enum class By { limit, cost, smallest, notLaid, unknown, run } by = By::smallest;
  std::optional<BrokenLimit> limit;  // that the next size down breaks most
  double dearer = 0.0;               // by so much, where it costs more
};

struct SizingProposal {
  SizeChoice choice;
  SizingVerdict verdict;
  std::optional<SizingVerdict> now;  // as drawn; empty where a line has no size of those there are
  std::vector<Governed> governed;    // of each row
  bool proved = false;               // nothing that keeps the limits is cheaper
  std::string noneCan;               // proved: no choice of sizes keeps every limit, and why
  std::optional<double> bound;       // no choice can cost less; empty: no bound is known
  std::string noBound;               // why
  std::optional<Conflict> conflict;  // where not every limit is kept
  std::vector<Staying> staying;      // devices in resized lines that stay as they are
  std::vector<Id> notCounted;        // points where bores change and no reducer is counted
  std::size_t narrowings = 0;        // runs that narrow and widen, since limits leave nothing else
  std::vector<DutyMet> delivered;    // what every taker gets, the worst first
  std::optional<TwoSizes> two;       // of a branched network, where lines of two sizes are cheaper
  std::string how;                   // what was searched
  std::size_t trials = 0, judged = 0;
  std::vector<std::pair<std::size_t, double>> course;  // cost of the best after so many trials
  bool stopped = false;
};

struct SearchOptions {
  JobOptions jobs;
  std::function<void(const SizingProposal&)> better{};  // told of each better one
};

/// The same seed and number of trials give the same proposal on any number of threads.
[[nodiscard]] SizingProposal searchSizes(const SizingTask& task, const SearchOptions& options = {});

/// Why no row of a choice is smaller.
[[nodiscard]] std::vector<Governed> governedOf(const SizingTask& task, Judge& judge, const SizeChoice& choice,
                                               const SizingVerdict& verdict, const JobOptions& jobs);
/// A choice of the sizes that lines are named; empty where a row has none of them.
[[nodiscard]] std::optional<SizeChoice> choiceOf(const SizingTask& task,
                                                 std::span<const std::pair<Id, std::string>> sizes);

/// The sizes put into the drawing (of the rows that are ticked; empty: of all), where the lines are still
/// there; cases keep what they differ in.
[[nodiscard]] Model withSizes(const SizingTask& task, const SizeChoice& choice,
                              const std::vector<bool>& ticked = {});

}  // namespace conduit

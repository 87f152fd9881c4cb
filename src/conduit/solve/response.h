// What more loss in one place does to every flow and head, to first order about an answer.
//
//   if (auto response = Response::about(network, stock, answer)) {
//     std::vector<double> shift;
//     if (response->ofLoss({line, 0}, shift)) ... shift[response->places().flow(b)] ...
//   }
#pragma once

#include <map>
#include <memory>
#include <vector>

#include "solve/system.h"

namespace conduit {

class Solution;
struct Unknown;

/// Where each number of an answer stands in a list of all: of every branch its flow and the heads at its
/// ends, of every point its head and what a level or pressure held there gives, of every vessel its head.
/// Branches and vessels are counted as the answer's flat lists count them.
class Places {
 public:
  explicit Places(const Solution& answer);
  [[nodiscard]] std::size_t flow(std::size_t branch) const { return 3 * branch; }
  [[nodiscard]] std::size_t headFrom(std::size_t branch) const { return 3 * branch + 1; }
  [[nodiscard]] std::size_t headTo(std::size_t branch) const { return 3 * branch + 2; }
  [[nodiscard]] std::size_t head(Id point) const { return points_ + point; }
  [[nodiscard]] std::size_t inflow(Id element) const { return inflows_ + element; }
  [[nodiscard]] std::size_t vessel(std::size_t vessel) const { return vessels_ + vessel; }
  /// Without the fields that were found: those stand behind, one after the other as the answer lists them.
  [[nodiscard]] std::size_t count() const { return count_; }

 private:
  std::size_t points_, inflows_, vessels_, count_;
};

class Response {
 public:
  /// `passes` as of the answer's SolveOptions. Fields that were found go along (see FoundShifts). Null where
  /// there is no first order: the answer is of no use, a found field acts by more than the law of one branch,
  /// a head or a flow in, flows share losses at tees, or the devices that act leave no single answer nearby.
  [[nodiscard]] static std::unique_ptr<Response> about(const Network& network, const Stock* stock,
                                                       const Solution& answer,
                                                       const std::map<Id, double>& passes = {});
  ~Response();
  Response(const Response&) = delete;
  Response& operator=(const Response&) = delete;
  [[nodiscard]] const Places& places() const;
  /// Places of an answer, and one for each field found.
  [[nodiscard]] std::size_t numbers() const;
  /// By how much every number shifts for a metre of loss more from a branch's start to its end. False where
  /// the branch follows no law of its own: it is shut, or its flow is given.
  [[nodiscard]] bool ofLoss(BranchOf branch, std::vector<double>& shift);
  /// The loss, m, by which another law of a branch asks more than its own, each drawn out to the flow that
  /// then passes: the other law to the end, all else to first order, `shift` as of `ofLoss`. Null for the
  /// law: so much that nothing passes. Nothing where no such flow is found.
  [[nodiscard]] std::optional<double> lossMore(BranchOf branch, const Law* other,
                                               const std::vector<double>& shift) const;
  /// By how much every number shifts for 1 m3/s that passes a shut branch from its start to its end. False
  /// where it is not shut, or a head at its ends is not determined.
  [[nodiscard]] bool ofPassing(BranchOf branch, std::vector<double>& shift);
  /// The flow, m3/s, that passes a shut branch when it follows a law, all else to first order; `shift` as of
  /// `ofPassing`.
  [[nodiscard]] std::optional<double> flowPassing(BranchOf branch, const Law& law,
                                                  const std::vector<double>& shift) const;

 private:
  struct Made;
  void spread(std::vector<double>& shift) const;
  void follow(std::vector<double>& shift) const;
  [[nodiscard]] bool ofField(const Network& filled, const Unknown& unknown, std::vector<double>& shift);
  explicit Response(std::unique_ptr<Made> made);
  std::unique_ptr<Made> made_;
};

/// The law of an element's first branch as it stands in a network, with the fields that `answer` found; null
/// where it is shut or cannot be set up.
[[nodiscard]] std::unique_ptr<const Law> lawOf(const Network& network, const Solution& answer, Id element);

}  // namespace conduit

// One thread that balances the newest snapshot, the case that is looked at first, then what a desk wants
// besides, then all other cases on every processor; older work is dropped.
#pragma once

#include <condition_variable>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "cases/balance.h"
#include "limits/not_judged.h"
#include "pump/system_curve.h"

namespace conduit::desktop {

/// A snapshot of a case with its answer, its findings, and the system curve of the pump that was looked at.
/// Whoever shows numbers reads them from here, never the document's network beside an older solution.
struct Solved : CaseAnswer {
  std::uint64_t stamp = 0;
  std::uint64_t order = 0;  // of submission: later work has the higher number, also after an undo
  Id curveOf = noId;
  SystemCurve systemCurve;
  bool remediesTried = false;  // for what is impossible
  std::size_t assumed = 0;     // values that nobody has given yet
  std::vector<NotJudged> notJudged;
};
using SolvedPtr = std::shared_ptr<const Solved>;

class Worker {
 public:
  struct Work {
    std::uint64_t stamp = 0, order = 0;
    Model model;
    CaseId current = drawingCase;
    Network network;  // of the current case
    std::shared_ptr<const Stock> stock;
    SolvedPtr startFrom;  // null: cold, all cases
    UnitSet units = UnitSet::siWater();
    /// A pump whose system curve is wanted too. What was balanced last is not balanced again for it.
    Id curveOf = noId;
  };
  /// `done` is called on the worker's thread.
  explicit Worker(std::function<void(SolvedPtr)> done);
  ~Worker();
  void submit(Work work);

 private:
  void loop(std::stop_token stop);
  void balanceOthers(const Work& work, std::stop_token stop);
  void note(const SolvedPtr& solved);
  SolvedPtr balance(const Work& work, std::stop_token stop);
  SolvedPtr withRemedies(const Work& work, const SolvedPtr& solved, std::stop_token stop);
  SolvedPtr withCurve(const Work& work, const SolvedPtr& solved, std::stop_token stop);
  bool newer();
  std::function<void(SolvedPtr)> done_;
  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::optional<Work> next_;
  std::optional<std::stop_source> running_;
  // Of the worker's thread alone:
  Workspace space_;
  std::shared_ptr<const Stock> stock_;  // the workspace's, kept alive for it
  std::vector<Workspace> lanes_;        // of the other cases
  std::map<CaseId, SolvedPtr> known_;   // what was balanced last, to the end
  UnitSet lastUnits_ = UnitSet::siWater();
  std::jthread thread_;  // last: started when everything above is there
};

}  // namespace conduit::desktop

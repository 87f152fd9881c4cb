// Balances the newest snapshot, the case that is looked at first, then what a desk wants besides, then all
// other cases on every processor; older work is dropped.
#pragma once

#include <QObject>
#include <memory>

#include "cases/balance.h"
#include "document/background.h"
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

/// What is kept from one piece of work to the next: the thread's own.
struct WorkerMemory;

class Worker : public QObject {
  Q_OBJECT
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
  explicit Worker(QObject* parent = nullptr);
  /// Older work is left off; what it has found so far is still told.
  void submit(Work work);
  [[nodiscard]] Background& home() { return home_; }

 signals:
  void done(const SolvedPtr& solved);

 private:
  std::shared_ptr<WorkerMemory> memory_;
  Background home_;
};

}  // namespace conduit::desktop

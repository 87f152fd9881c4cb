// Every case of a model balanced, on all processors.
//
//   auto all = balanceCases(model, model.cases.ids(), stock, {.units = units});
//   CaseStanding s = standingOf(all);          // "7 limits broken", the worst and in which case
#pragma once

#include <memory>

#include "jobs/pool.h"
#include "limits/limits.h"
#include "model/model.h"
#include "solve/answer.h"
#include "solve/solve.h"

namespace conduit {

/// A case as it was solved.
struct CaseAnswer : Answer {
  CaseId id = drawingCase;
  std::vector<Finding> findings;
  Standing standing;
  std::string fault;  // a mistake of our own, or no memory; then nothing is solved
};
using CaseAnswerPtr = std::shared_ptr<const CaseAnswer>;

struct CaseOptions {
  UnitSet units = UnitSet::siWater();
  JobOptions jobs;
  /// Earlier answers to begin from; null, or with a null for a case: cold.
  std::function<const Solution*(CaseId)> startFrom{};
  std::vector<Workspace>* spaces = nullptr;  // one for each lane, kept by the caller
  /// Told of each as it comes, on whichever thread solved it but never on two at once.
  std::function<void(const CaseAnswerPtr&)> each{};
};

/// In the order of `ids`; null for what was stopped.
[[nodiscard]] std::vector<CaseAnswerPtr> balanceCases(const Model& model, std::span<const CaseId> ids,
                                                      const std::shared_ptr<const Stock>& stock,
                                                      const CaseOptions& options = {});

/// Over all cases.
struct CaseStanding {
  std::size_t cases = 0, balanced = 0, onPaperOnly = 0, broken = 0, near = 0;
  CaseId worstIn = noCase;  // the case of the worst finding
  std::string worst;
  std::optional<Place> where;
};
[[nodiscard]] CaseStanding standingOf(std::span<const CaseAnswerPtr> answers);

}  // namespace conduit

#include "cases/balance.h"

#include <algorithm>
#include <mutex>

#include "cases/case_edits.h"
#include "model/offered_sizes.h"
#include "model/sizing_setup.h"

namespace conduit {

std::vector<CaseAnswerPtr> balanceCases(const Model& model, std::span<const CaseId> ids,
                                        const std::shared_ptr<const Stock>& stock,
                                        const CaseOptions& options) {
  std::vector<Workspace> own;
  std::vector<Workspace>& spaces = options.spaces ? *options.spaces : own;
  spaces.resize(std::max(spaces.size(), lanes(options.jobs)));
  std::mutex telling;
  const auto results = runJobs(
      ids.size(),
      [&](std::size_t job, std::size_t lane, std::stop_token stop) -> CaseAnswerPtr {
        auto answer = std::make_shared<CaseAnswer>();
        answer->id = ids[job];
        answer->stock = stock;
        answer->network = networkOf(model, ids[job]);
        SolveOptions solving;
        solving.units = options.units;
        solving.stop = stop;
        solving.workspace = &spaces[lane];
        if (options.startFrom) solving.startFrom = options.startFrom(ids[job]);
        answer->solution = solve(answer->network, stock.get(), solving);
        if (answer->solution.summary.verdict == Verdict::stopped) return nullptr;
        answer->findings = findings(answer->network, answer->solution, options.units);
        onlyOffered(answer->findings, answer->network, stock.get(), model.of<SizingSetup>().ranges);
        answer->standing = standing(answer->findings);
        const CaseAnswerPtr done = std::move(answer);
        if (options.each) {
          const std::lock_guard lock(telling);
          options.each(done);
        }
        return done;
      },
      options.jobs);
  std::vector<CaseAnswerPtr> answers;
  for (std::size_t i = 0; i < results.size(); ++i) {
    if (results[i]) {
      answers.push_back(*results[i]);
    } else if (results[i].error().stopped) {
      answers.push_back(nullptr);
    } else {
      auto none = std::make_shared<CaseAnswer>();
      none->id = ids[i], none->fault = results[i].error().what;
      none->solution.summary.verdict = Verdict::notConverged;
      answers.push_back(std::move(none));
      for (Workspace& space : spaces) space.clear();
    }
  }
  return answers;
}

CaseStanding standingOf(std::span<const CaseAnswerPtr> answers) {
  CaseStanding all;
  const Finding* worst = nullptr;
  for (const CaseAnswerPtr& a : answers) {
    if (!a) continue;
    ++all.cases;
    all.balanced += a->usable() ? 1 : 0;
    all.onPaperOnly += a->standing.onPaperOnly ? 1 : 0;
    all.broken += a->standing.broken, all.near += a->standing.near;
    if (a->findings.empty()) continue;
    const Finding& first = a->findings.front();
    if (worst && worst->severity <= first.severity) continue;
    worst = &first, all.worstIn = a->id, all.worst = first.what, all.where = first.place;
  }
  return all;
}

}  // namespace conduit

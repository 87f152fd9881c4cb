#include "document/worker.h"

#include "find/remedies.h"
#include "model/offered_sizes.h"
#include "network/assume.h"

namespace conduit::desktop {
namespace {

std::shared_ptr<Solved> blank(const Worker::Work& work) {
  auto solved = std::make_shared<Solved>();
  solved->stamp = work.stamp;
  solved->id = work.current;
  solved->order = work.order;
  solved->network = work.network;
  solved->stock = work.stock;
  return solved;
}

// What is there already, as the answer to a later order.
SolvedPtr withOrder(const SolvedPtr& solved, std::uint64_t order) {
  auto again = std::make_shared<Solved>(*solved);
  again->order = order;
  return again;
}

}  // namespace

Worker::Worker(std::function<void(SolvedPtr)> done)
    : done_(std::move(done)), thread_([this](std::stop_token stop) { loop(std::move(stop)); }) {}

Worker::~Worker() {
  thread_.request_stop();
  {
    const std::lock_guard lock(mutex_);
    if (running_) running_->request_stop();
  }
  wake_.notify_all();
}

void Worker::submit(Work work) {
  {
    const std::lock_guard lock(mutex_);
    next_ = std::move(work);
    if (running_) running_->request_stop();
  }
  wake_.notify_all();
}

bool Worker::newer() {
  const std::lock_guard lock(mutex_);
  return next_.has_value();
}

void Worker::loop(std::stop_token stop) {
  while (!stop.stop_requested()) {
    Work work;
    std::stop_source own;
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, stop, [&] { return next_.has_value(); });
      if (stop.stop_requested()) return;
      work = std::move(*next_);
      next_.reset();
      running_ = own;
    }
    try {
      // Answers of another model, stock or set of units say nothing here, except where to begin.
      if (stock_ != work.stock) space_.clear(), lanes_.clear();
      stock_ = work.stock;
      const auto known = known_.find(work.current);
      const bool same = known != known_.end() && known->second->stamp == work.stamp &&
                        known->second->stock == work.stock && lastUnits_ == work.units && work.startFrom;
      if (!(lastUnits_ == work.units)) known_.clear();
      SolvedPtr solved = same ? withOrder(known_[work.current], work.order) : balance(work, own.get_token());
      if (!solved) continue;
      lastUnits_ = work.units;
      note(solved);
      if (newer()) continue;
      if (const SolvedPtr more = withRemedies(work, solved, own.get_token())) note(solved = more);
      if (newer()) continue;
      if (const SolvedPtr more = withCurve(work, solved, own.get_token())) note(more);
      if (newer()) continue;
      balanceOthers(work, own.get_token());
    } catch (const std::exception& fault) {
      // A mistake of ours, or no memory: the work goes on without an answer.
      space_.clear(), lanes_.clear(), known_.clear();
      const auto none = blank(work);
      none->fault = fault.what();
      done_(none);
    }
  }
}

void Worker::note(const SolvedPtr& solved) {
  known_[solved->id] = solved;
  done_(solved);
}

// Every case but the current one that is not known yet. What a stop leaves over waits for the next order.
void Worker::balanceOthers(const Work& work, std::stop_token stop) {
  std::erase_if(known_, [&](const auto& each) { return !work.model.cases.find(each.first); });
  std::vector<CaseId> wanted;
  for (const CaseId id : work.model.cases.ids()) {
    const auto known = known_.find(id);
    if (id != work.current && (known == known_.end() || known->second->stamp != work.stamp ||
                               known->second->stock != work.stock || !work.startFrom))
      wanted.push_back(id);
  }
  if (wanted.empty()) return;
  const std::map<CaseId, SolvedPtr> before = known_;
  CaseOptions options;
  options.units = work.units;
  options.jobs.stop = stop;
  options.spaces = &lanes_;
  options.startFrom = [&](CaseId id) -> const Solution* {
    const auto known = before.find(id);
    return work.startFrom && known != before.end() && known->second->usable() ? &known->second->solution
                                                                              : nullptr;
  };
  const auto solvedOf = [&](const CaseAnswerPtr& answer) {
    auto solved = std::make_shared<Solved>();
    static_cast<CaseAnswer&>(*solved) = *answer;
    solved->stamp = work.stamp, solved->order = work.order;
    solved->assumed = assumedIn(answer->network).size();
    solved->notJudged = notJudged(answer->network, answer->solution);
    return solved;
  };
  options.each = [&](const CaseAnswerPtr& answer) { note(solvedOf(answer)); };
  for (const CaseAnswerPtr& answer : balanceCases(work.model, wanted, work.stock, options))
    if (answer && !answer->fault.empty()) note(solvedOf(answer));
}

// Null when it was stopped.
SolvedPtr Worker::balance(const Work& work, std::stop_token stop) {
  const auto solved = blank(work);
  SolveOptions options;
  options.units = work.units;
  options.stop = stop;
  options.workspace = &space_;
  if (work.startFrom) options.startFrom = &work.startFrom->solution;
  solved->solution = solve(work.network, work.stock.get(), options);
  if (solved->solution.summary.verdict == Verdict::stopped) return nullptr;
  solved->findings = findings(work.network, solved->solution, work.units);
  onlyOffered(solved->findings, work.network, work.stock.get(), work.model.sizing.ranges);
  solved->standing = standing(solved->findings);
  solved->assumed = assumedIn(work.network).size();
  solved->notJudged = notJudged(work.network, solved->solution);
  if (work.startFrom && work.startFrom->curveOf == work.curveOf) {
    // The last curve, until the new one is there.
    solved->curveOf = work.curveOf;
    solved->systemCurve = work.startFrom->systemCurve;
  }
  return solved;
}

// What is impossible gets the changes that were tried. Null where there are none, or it was stopped.
SolvedPtr Worker::withRemedies(const Work& work, const SolvedPtr& solved, std::stop_token stop) {
  if (!solved->standing.onPaperOnly || solved->remediesTried) return nullptr;
  auto more = std::make_shared<Solved>(*solved);
  more->remediesTried = true;
  addTriedRemedies(more->findings, work.network, solved->solution, work.stock.get(), work.units, stop);
  onlyOffered(more->findings, work.network, work.stock.get(), work.model.sizing.ranges);
  return stop.stop_requested() ? nullptr : more;
}

// Null where no curve is wanted, or none can be drawn, or it was stopped.
SolvedPtr Worker::withCurve(const Work& work, const SolvedPtr& solved, std::stop_token stop) {
  const Element* pump = work.curveOf == noId ? nullptr : work.network.find(work.curveOf);
  if (!pump || !pump->part->figure || !solved->solution.summary.usable()) return nullptr;
  const ReadingOf reading(work.network, solved->solution, work.curveOf);
  double most = 0.0;
  for (const FigureCurve& c : pump->part->figure(*reading))
    for (const auto& [x, y] : c.points) most = std::max(most, x);
  auto more = std::make_shared<Solved>(*solved);
  more->curveOf = work.curveOf;
  more->systemCurve =
      systemCurve(work.network, work.stock.get(), solved->solution, {.members = {work.curveOf}},
                  {.most_m3s = most, .units = work.units, .jobs = {.stop = stop}});
  return stop.stop_requested() ? nullptr : more;
}

}  // namespace conduit::desktop

#include "document/worker.h"

#include "find/remedies.h"
#include "network/assume.h"

namespace conduit::desktop {
namespace {

std::shared_ptr<Solved> blank(const Worker::Work& work) {
  auto solved = std::make_shared<Solved>();
  solved->stamp = work.stamp;
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
      const bool same = last_ && last_->stamp == work.stamp && last_->stock == work.stock &&
                        lastUnits_ == work.units && work.startFrom;
      SolvedPtr solved = same ? withOrder(last_, work.order) : balance(work, own.get_token());
      if (!solved) continue;
      last_ = solved, lastUnits_ = work.units;
      done_(solved);
      if (newer()) continue;
      if (const SolvedPtr more = withRemedies(work, solved, own.get_token()))
        last_ = solved = more, done_(more);
      if (newer()) continue;
      if (const SolvedPtr more = withCurve(work, solved, own.get_token())) last_ = more, done_(more);
    } catch (const std::exception& fault) {
      // A mistake of ours, or no memory: the work goes on without an answer.
      space_.clear();
      const auto none = blank(work);
      none->fault = fault.what();
      done_(none);
    }
  }
}

// Null when it was stopped.
SolvedPtr Worker::balance(const Work& work, std::stop_token stop) {
  const auto solved = blank(work);
  if (stock_ != work.stock) space_.clear();
  stock_ = work.stock;
  SolveOptions options;
  options.units = work.units;
  options.stop = stop;
  options.workspace = &space_;
  if (work.startFrom) options.startFrom = &work.startFrom->solution;
  solved->solution = solve(work.network, work.stock.get(), options);
  if (solved->solution.summary.verdict == Verdict::stopped) return nullptr;
  solved->findings = findings(work.network, solved->solution, work.units);
  solved->standing = standing(solved->findings);
  solved->assumed = assumedIn(work.network).size();
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
  more->systemCurve = systemCurve(work.network, work.stock.get(), work.curveOf, most, 17, stop);
  return stop.stop_requested() ? nullptr : more;
}

}  // namespace conduit::desktop

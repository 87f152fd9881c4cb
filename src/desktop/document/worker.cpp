#include "document/worker.h"

namespace conduit::desktop {

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
    const auto blank = [&] {
      auto solved = std::make_shared<Solved>();
      solved->stamp = work.stamp;
      solved->order = work.order;
      solved->network = work.network;
      solved->stock = work.stock;
      return solved;
    };
    try {
      const auto solved = blank();
      SolveOptions options;
      options.units = work.units;
      options.stop = own.get_token();
      options.keep = true;
      if (work.startFrom) options.startFrom = &work.startFrom->solution;
      solved->solution = solve(work.network, work.stock.get(), options);
      if (solved->solution.summary.verdict == Verdict::stopped) continue;
      solved->findings = findings(work.network, solved->solution, work.units);
      solved->standing = standing(solved->findings);
      if (work.startFrom &&
          work.startFrom->curveOf == work.curveOf) {  // the last curve, until the new one is there
        solved->curveOf = work.curveOf;
        solved->systemCurve = work.startFrom->systemCurve;
      }
      done_(solved);
      const Element* pump = work.curveOf == noId ? nullptr : work.network.find(work.curveOf);
      if (!pump || !pump->part->figure || !solved->solution.summary.usable() || newer()) continue;
      const ReadingOf reading(work.network, solved->solution, work.curveOf);
      double most = 0.0;
      for (const FigureCurve& c : pump->part->figure(*reading))
        for (const auto& [x, y] : c.points) most = std::max(most, x);
      auto again = std::make_shared<Solved>(*solved);
      again->curveOf = work.curveOf;
      again->systemCurve =
          systemCurve(work.network, work.stock.get(), work.curveOf, most, 17, own.get_token());
      if (!own.stop_requested()) done_(again);
    } catch (
        const std::exception& fault) {  // a mistake of ours, or no memory: the work goes on without an answer
      const auto none = blank();
      none->fault = fault.what();
      done_(none);
    }
  }
}

}  // namespace conduit::desktop

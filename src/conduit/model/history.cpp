#include "model/history.h"

#include "say/ensure.h"

namespace conduit {

History::History(Model start, std::size_t mostBytes) : mostBytes_(mostBytes) {
  steps_.push_back({"", std::move(start), "", 0, 1});
}

void History::record(std::string name, Model edited, const std::string& run) {
  while (steps_.size() > at_ + 1) {
    bytes_ -= steps_.back().bytes;
    steps_.pop_back();
  }
  if (!run.empty() && at_ > 0 && steps_[at_].run == run) {
    steps_[at_].model = std::move(edited);
    steps_[at_].name = std::move(name);
    steps_[at_].stamp = ++lastStamp_;
    return;
  }
  const std::size_t bytes = edited.bytesApart(steps_[at_].model);
  bytes_ += bytes;
  steps_.push_back({std::move(name), std::move(edited), run, bytes, ++lastStamp_});
  ++at_;
  while (bytes_ > mostBytes_ && at_ > 1) {
    bytes_ -= steps_[1].bytes;
    steps_.pop_front();
    --at_;
  }
}

void History::goTo(std::size_t step) {
  ensure(step < steps_.size(), "no such step");
  at_ = step;
}

void History::undo() {
  ensure(canUndo(), "nothing to undo");
  --at_;
}

void History::redo() {
  ensure(canRedo(), "nothing to redo");
  ++at_;
}

}  // namespace conduit

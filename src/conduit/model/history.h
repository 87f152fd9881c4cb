// Undo: a named list of models that share what did not change.
#pragma once

#include <deque>
#include <string>

#include "model/model.h"

namespace conduit {

class History {
 public:
  explicit History(Model start, std::size_t mostBytes = std::size_t{256} << 20);
  /// `name` as it reads after "Undo ": "Set bore of L-12 to 154 mm". Steps of the same non-empty `run` that
  /// follow one another become one (a drag).
  void record(std::string name, Model edited, const std::string& run = {});
  [[nodiscard]] const Model& now() const { return steps_[at_].model; }
  [[nodiscard]] bool canUndo() const { return at_ > 0; }
  [[nodiscard]] bool canRedo() const { return at_ + 1 < steps_.size(); }
  [[nodiscard]] const std::string& undoName() const { return steps_[at_].name; }
  [[nodiscard]] const std::string& redoName() const { return steps_[at_ + 1].name; }
  /// The steps kept, oldest first; step 0 is where the history begins, `at()` is where it stands.
  [[nodiscard]] std::size_t size() const { return steps_.size(); }
  [[nodiscard]] std::size_t at() const { return at_; }
  [[nodiscard]] const std::string& nameOf(std::size_t step) const { return steps_[step].name; }
  void goTo(std::size_t step);
  void undo();
  void redo();
  /// Stamps go on behind `stamp`: for a history that takes the place of another.
  void continueFrom(std::uint64_t stamp) { steps_[at_].stamp = lastStamp_ = stamp + 1; }
  void endRun() { steps_[at_].run.clear(); }
  /// Number of the present state; the same number means the same model.
  [[nodiscard]] std::uint64_t stamp() const { return steps_[at_].stamp; }

 private:
  struct Step {
    std::string name;
    Model model;
    std::string run;
    std::size_t bytes = 0;
    std::uint64_t stamp = 0;
  };
  std::deque<Step> steps_;
  std::size_t at_ = 0, bytes_ = 0, mostBytes_;
  std::uint64_t lastStamp_ = 1;
};

}  // namespace conduit

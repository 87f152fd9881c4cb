// Runs of lines as they are laid: sizes that do not narrow and widen again, what stands in a line that is
// resized, and where bores change.
#pragma once

#include "sizing/judge.h"

namespace conduit {

/// Lines one behind the other without branch, draw-off or pump between: of each the row of its sizes, or what
/// it has.
struct RunLine {
  Id line = noId;
  int row = -1;            // −1: it keeps its size
  double outside_m = 0.0;  // then
};
using Run = std::vector<RunLine>;
/// Of three lines and more; without lines that may be left out.
[[nodiscard]] std::vector<Run> runsOf(const SizingTask& task);
/// The nominal size goes down along some of the runs and up again; walls may differ.
[[nodiscard]] std::size_t narrowings(const SizingTask& task, std::span<const Run> runs,
                                     const SizeChoice& choice);
/// Other choices without: narrow places as wide as the lower of their neighbours; the same sizes in order,
/// rising and falling.
[[nodiscard]] std::vector<SizeChoice> straightened(const SizingTask& task, std::span<const Run> runs,
                                                   const SizeChoice& choice);

/// Of a run all that are within two sizes of a choice and do not narrow, the cheapest to lay first; empty for
/// a run of more than 20,000 such.
[[nodiscard]] std::vector<SizeChoice> straightNear(const SizingTask& task, const Run& run,
                                                   const SizeChoice& choice);

/// A valve, meter or other device in a line of another size that stays as it is.
struct Staying {
  Id device = noId, line = noId;
  std::optional<double> bore_m;  // its own
};
[[nodiscard]] std::vector<Staying> stayingIn(const SizingTask& task, const SizeChoice& choice);
/// Points between two lines of different bores where no change of bore is counted, with the sizes of a
/// choice.
[[nodiscard]] std::vector<Id> changesNotCounted(const SizingTask& task, const SizeChoice& choice);
/// The model with a 30° cone counted at those points.
[[nodiscard]] Model withCones(Model model, std::span<const Id> points);

}  // namespace conduit

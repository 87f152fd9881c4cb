// Where no sizes were found that keep every limit: which limits stand against each other.
#pragma once

#include "sizing/judge.h"

namespace conduit {

/// One row's size up or down meets the limit that is broken most, and breaks another.
struct Conflict {
  std::size_t row = 0;
  int by = 0;
  BrokenLimit meets, breaks;
};

/// By solving every row's next sizes; of those that mend most and break something. Empty where the next sizes
/// mend nothing, or break nothing for it.
[[nodiscard]] std::optional<Conflict> conflictOf(const SizingTask& task, Judge& judge,
                                                 const SizeChoice& choice, const SizingVerdict& verdict,
                                                 const JobOptions& jobs);

}  // namespace conduit

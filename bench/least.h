// The least time of several runs of the same work.
#pragma once

#include <algorithm>
#include <chrono>

namespace conduit::bench {

/// Seconds.
template <class Work>
[[nodiscard]] double least(int runs, Work work) {
  double best = 1e300;
  for (int i = 0; i < runs; ++i) {
    const auto begin = std::chrono::steady_clock::now();
    work();
    best = std::min(best, std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count());
  }
  return best;
}

}  // namespace conduit::bench

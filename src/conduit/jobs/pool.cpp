#include "jobs/pool.h"

#include <algorithm>
#include <atomic>
#include <mutex>
#include <thread>

namespace conduit {

std::size_t lanes(const JobOptions& options) {
  if (options.threads > 0) return options.threads;
  return std::max<std::size_t>(1, std::thread::hardware_concurrency());
}

namespace jobs {
namespace {

// Where a pool has a job for every lane, all processors are at work already: what a job spreads in its turn
// stays in its lane. It begins at one: of nothing but zeros the linker would make a section without room in
// the file, and where that falls just before a page's end the program cannot be started (mold 1.10,
// 2026-11-28).
constexpr int atTop = 1;
thread_local int depth = atTop;
struct Deeper {
  explicit Deeper(bool full) : by(full ? 1 : 0) { depth += by; }
  ~Deeper() { depth -= by; }
  int by;
};

}  // namespace

// Threads are made for each call: some 20 µs each, next to nothing beside jobs worth spreading, and nothing
// of them is left over for anybody to share.
void spread(std::size_t count, const JobOptions& options,
            const std::function<void(std::size_t, std::size_t)>& each) {
  std::atomic<std::size_t> next{0};
  std::mutex telling;
  std::size_t done = 0;
  const bool inLane = depth > atTop;
  const auto lane = [&](std::size_t number) {
    const Deeper deeper(count >= lanes(options));
    for (std::size_t job; !options.stop.stop_requested() && (job = next.fetch_add(1)) < count;) {
      each(job, number);
      if (!options.progress) continue;
      const std::lock_guard lock(telling);
      options.progress(++done, count);
    }
  };
  std::vector<std::jthread> threads;
  for (std::size_t t = 1; !inLane && t < std::min(lanes(options), count); ++t) {
    try {
      threads.emplace_back(lane, t);
    } catch (const std::system_error&) {
      break;  // no more threads are to be had: those that are there do it all
    }
  }
  lane(0);
}

std::string wordsOfException() {
  try {
    throw;
  } catch (const std::bad_alloc&) {
    return "not enough memory";
  } catch (const std::exception& fault) {
    return fault.what();
  } catch (...) {
    return "unknown error";
  }
}

}  // namespace jobs
}  // namespace conduit

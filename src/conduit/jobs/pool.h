// Many independent jobs on all processors: results in their order whatever the threads, every exception a
// result.
//
//   std::vector<Workspace> spaces(lanes(options));
//   auto answers = runJobs(variants.size(), [&](std::size_t i, std::size_t lane, std::stop_token stop) {
//     return solve(variants[i], stock, {.startFrom = &base, .stop = stop, .workspace = &spaces[lane]});
//   }, options);
#pragma once

#include <cstddef>
#include <functional>
#include <stop_token>
#include <string>
#include <tl/expected.hpp>
#include <type_traits>
#include <vector>

namespace conduit {

/// Why a job has no result.
struct JobFault {
  bool stopped = false;  // it was not begun, or left off, because somebody asked for it
  std::string what;      // of an exception
};
template <class R>
using JobResult = tl::expected<R, JobFault>;

struct JobOptions {
  std::size_t threads = 0;  // 0: as many as there are processors
  std::stop_token stop;
  /// Told after each job how many are done, on whichever thread did it but never on two at once.
  std::function<void(std::size_t done, std::size_t of)> progress;
};

/// How many jobs go on at once at most; a job's `lane` is below it, so that who calls can keep something for
/// each.
[[nodiscard]] std::size_t lanes(const JobOptions& options);

/// Jobs begin in their order, and one that spreads others in its turn does them itself. Each gets its number,
/// the lane it runs in (nobody else is in that lane meanwhile) and the stop token. The calling thread works
/// too; all jobs have ended when this returns. What `work` returns after a stop was asked for stays its
/// result: it knows whether it got to the end.
template <class Work>
[[nodiscard]] auto runJobs(std::size_t count, const Work& work, const JobOptions& options = {})
    -> std::vector<JobResult<std::invoke_result_t<Work, std::size_t, std::size_t, std::stop_token>>>;

namespace jobs {
/// `each(job, lane)` for all jobs; it throws nothing. A job that is not begun is not told of.
void spread(std::size_t count, const JobOptions& options,
            const std::function<void(std::size_t job, std::size_t lane)>& each);
/// What the exception being handled says.
[[nodiscard]] std::string wordsOfException();
}  // namespace jobs

template <class Work>
auto runJobs(std::size_t count, const Work& work, const JobOptions& options)
    -> std::vector<JobResult<std::invoke_result_t<Work, std::size_t, std::size_t, std::stop_token>>> {
  using Result = JobResult<std::invoke_result_t<Work, std::size_t, std::size_t, std::stop_token>>;
  std::vector<Result> results(count, tl::unexpected(JobFault{.stopped = true, .what = {}}));
  jobs::spread(count, options, [&](std::size_t job, std::size_t lane) {
    try {
      results[job] = work(job, lane, options.stop);
    } catch (...) {
      results[job] = tl::unexpected(JobFault{.stopped = false, .what = jobs::wordsOfException()});
    }
  });
  return results;
}

}  // namespace conduit

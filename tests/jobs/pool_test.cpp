#include "jobs/pool.h"

#include <gtest/gtest.h>

#include <atomic>
#include <mutex>
#include <numeric>
#include <set>
#include <stdexcept>
#include <thread>

namespace conduit {
namespace {

TEST(Jobs, resultsStandInTheirOrderWhateverTheThreads) {
  for (const std::size_t threads : {1u, 2u, 3u, 8u}) {
    const auto results = runJobs(100,
                                 [](std::size_t job, std::size_t, std::stop_token) {
                                   std::this_thread::sleep_for(std::chrono::microseconds(
                                       job % 7 == 0 ? 300 : 10));  // early ones end late
                                   return job * job;
                                 },
                                 {.threads = threads});
    ASSERT_EQ(results.size(), 100u);
    for (std::size_t i = 0; i < results.size(); ++i)
      EXPECT_EQ(results[i].value(), i * i) << threads << " threads";
  }
}

TEST(Jobs, aLaneIsNeverUsedByTwoAtOnce) {
  std::vector<std::atomic<int>> inside(4);
  std::atomic<bool> two{false};
  const auto results = runJobs(200,
                               [&](std::size_t, std::size_t lane, std::stop_token) {
                                 if (inside.at(lane).fetch_add(1) != 0) two = true;
                                 std::this_thread::yield();
                                 inside[lane].fetch_sub(1);
                                 return true;
                               },
                               {.threads = 4});
  EXPECT_FALSE(two);
  EXPECT_TRUE(std::all_of(results.begin(), results.end(), [](const auto& r) { return r.has_value(); }));
}

TEST(Jobs, anExceptionIsTheResultOfItsJobAlone) {
  const auto results = runJobs(6,
                               [](std::size_t job, std::size_t, std::stop_token) -> int {
                                 if (job == 2) throw std::runtime_error("the valve is missing");
                                 if (job == 3) throw std::bad_alloc();
                                 if (job == 4) throw 5;
                                 return static_cast<int>(job);
                               },
                               {.threads = 2});
  EXPECT_EQ(results[1].value(), 1);
  EXPECT_EQ(results[5].value(), 5);
  EXPECT_EQ(results[2].error().what, "the valve is missing");
  EXPECT_EQ(results[3].error().what, "not enough memory");
  EXPECT_EQ(results[4].error().what, "unknown error");
  EXPECT_FALSE(results[2].error().stopped);
}

TEST(Jobs, aStopLeavesWhatIsDoneAndBeginsNoMore) {
  std::stop_source stop;
  const auto results = runJobs(1000,
                               [&](std::size_t job, std::size_t, std::stop_token) {
                                 if (job == 10) stop.request_stop();
                                 return job;
                               },
                               {.threads = 2, .stop = stop.get_token()});
  EXPECT_EQ(results[10].value(), 10u) << "what had begun has its result";
  std::size_t done = 0;
  for (const auto& r : results)
    if (r) ++done;
    else EXPECT_TRUE(r.error().stopped);
  EXPECT_GE(done, 11u);
  EXPECT_LE(done, 14u) << "at most one more in each lane";
}

TEST(Jobs, progressCountsEveryJobOnce) {
  std::vector<std::size_t> told;
  (void)runJobs(50, [](std::size_t, std::size_t, std::stop_token) { return 0; },
                {.threads = 3, .progress = [&](std::size_t done, std::size_t of) {
                   EXPECT_EQ(of, 50u);
                   told.push_back(done);
                 }});
  std::vector<std::size_t> expected(50);
  std::iota(expected.begin(), expected.end(), 1u);
  EXPECT_EQ(told, expected);
  EXPECT_TRUE(runJobs(0, [](std::size_t, std::size_t, std::stop_token) { return 0; }).empty());
}

}  // namespace
}  // namespace conduit

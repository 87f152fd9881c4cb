// One table for each claim about speed and size. Ratios are of one run; absolute times are of this machine.
#include <benchmark/benchmark.h>
#include <fmt/format.h>
#include <malloc.h>

#include <chrono>
#include <cmath>

#include "exchange/stock_files.h"
#include "floor.h"
#include "least.h"
#include "network/edits.h"
#include "network/history.h"
#include "solve/newton.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit {
namespace {

Id somePipe(const Network& n) {
  Id found = noId;
  n.each([&](Id id, const Element& e) {
    if (found == noId && e.part->key == "pipe" && id > n.bound() / 2) found = id;
  });
  return found;
}

void table() {
  fmt::print("One iteration against the floor of its bare parts (ms)\n");
  fmt::print("{:>8} {:>8} {:>9} {:>8} {:>8} {:>8} {:>9} {:>10} {:>7}\n", "links", "law", "assembly", "factor", "solve", "floor", "by", "iteration", "ratio");
  std::vector<std::pair<double, double>> growth;
  std::string second =
      fmt::format("\nWhole solves (ms) and memory\n{:>8} {:>6} {:>8} {:>10} {:>10} {:>10} {:>12}\n", "links", "steps", "cold", "re-solve", "one edit", "undo step", "memory MB");
  for (const int size : {1000, 10000, 100000}) {
    const std::size_t before = mallinfo2().uordblks + mallinfo2().hblkhd;
    const Network network = test::gridNetwork(size, 5);
    Solution cold = solve(network, &shippedStock());
    const double memory = static_cast<double>(mallinfo2().uordblks + mallinfo2().hblkhd - before) / 1e6;
    const auto setting = settingOf(network, &shippedStock());
    const SetUp set = setUp(network, *setting, widestBores(network, *setting));
    const bench::Floor floor = bench::floorOf(set.system);
    const int runs = size < 5000 ? 40 : size < 50000 ? 12 : 5;
    double iteration = 1e300;
    for (int i = 0; i < runs; ++i) {
      Newton newton(set.system);
      Iterate x = newton.coldStart();
      const auto a = std::chrono::steady_clock::now();
      (void)newton.run(x, Newton::Mode::soft, {});
      iteration = std::min(iteration, std::chrono::duration<double>(std::chrono::steady_clock::now() - a).count() / newton.iterations());
    }
    const double n = static_cast<double>(set.system.links.size());
    fmt::print("{:>8} {:>8.3f} {:>9.3f} {:>8.3f} {:>8.3f} {:>8.3f} {:>9} {:>10.3f} {:>7.2f}\n", n, floor.law * 1e3, floor.assembly * 1e3, floor.factor * 1e3, floor.solve * 1e3,
               floor.sum() * 1e3, floor.by, iteration * 1e3, iteration / floor.sum());
    const double coldTime = bench::least(runs, [&] { cold = solve(network, &shippedStock()); });
    const Id pipe = somePipe(network);
    const auto edited = setField(network, pipe, "bore", "180 mm", &shippedStock(), nullptr);
    SolveOptions options;
    options.startFrom = &cold;
    const double warmTime = bench::least(runs, [&] { benchmark::DoNotOptimize(solve(edited->network, &shippedStock(), options)); });
    const double editTime = bench::least(runs, [&] { benchmark::DoNotOptimize(setField(network, pipe, "bore", "180 mm", &shippedStock(), nullptr)); });
    History history(network);
    const double recordTime = bench::least(runs, [&] { history.record("edit", edited->network), history.undo(); });
    second += fmt::format("{:>8} {:>6} {:>8.2f} {:>10.2f} {:>10.4f} {:>10.4f} {:>12.1f}\n", n, cold.summary.iterations, coldTime * 1e3, warmTime * 1e3, editTime * 1e3,
                          recordTime * 1e3, memory);
    growth.emplace_back(n, coldTime);
  }
  fmt::print("{}", second);
  fmt::print("Growth of the cold solve from {:.0f} to {:.0f} links: n^{:.2f}\n\n", growth.front().first, growth.back().first,
             std::log(growth.back().second / growth.front().second) / std::log(growth.back().first / growth.front().first));
}

void coldSolve(benchmark::State& state) {
  const Network network = test::gridNetwork(static_cast<int>(state.range(0)), 5);
  for (auto _ : state) benchmark::DoNotOptimize(solve(network, &shippedStock()));
}
BENCHMARK(coldSolve)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond);

void withDevices(benchmark::State& state) {
  std::uint64_t seed = 1;
  Network network = test::randomNetwork(seed, static_cast<int>(state.range(0)));
  while (!solve(network, &shippedStock()).summary.usable()) network = test::randomNetwork(++seed, static_cast<int>(state.range(0)));
  for (auto _ : state) benchmark::DoNotOptimize(solve(network, &shippedStock()));
}
BENCHMARK(withDevices)->Arg(1000)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace conduit

int main(int argc, char** argv) {
  conduit::table();
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}

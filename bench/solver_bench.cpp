// One table for each claim about speed and size. Ratios are of one run; absolute times are of this machine.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <fstream>
#include <random>
#include <thread>

#include "cases/case_edits.h"
#include "crowds.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "floor.h"
#include "jobs/pool.h"
#include "least.h"
#include "limits/limits.h"
#include "model/history.h"
#include "model/pump_request.h"
#include "network/edits.h"
#include "network/overlay.h"
#include "network/setting.h"
#include "parts/registry.h"
#include "pump/selection.h"
#include "pump/system_curve.h"
#include "quantity/parse.h"
#include "report.h"
#include "sizing.h"
#include "solve/determinacy.h"
#include "solve/newton.h"
#include "solve/random_network.h"
#include "solve/solve.h"
#include "stops.h"

namespace conduit {
namespace {

// Memory of the process as it stands.
double residentMb() {
  std::ifstream in("/proc/self/statm");
  double pages = 0, resident = 0;
  in >> pages >> resident;
  return resident * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
}

Id somePipe(const Network& n) {
  Id found = noId;
  n.each([&](Id id, const Element& e) {
    if (found == noId && e.part->key == "pipe" && id > n.bound() / 2) found = id;
  });
  return found;
}

// The time of one edit after another, each solved from the answer before it, as in a session at the desk.
double editTime(int runs, const Network& network, const Network& edited) {
  Workspace space;
  SolveOptions options{.workspace = &space};
  Solution last = solve(network, &shippedStock(), options);
  bool other = false;
  return bench::least(2 * runs, [&] {
    other = !other;
    options.startFrom = &last;
    last = solve(other ? edited : network, &shippedStock(), options);
  });
}

// One of Newton's iterations of a run from cold, s; and the entries of its factor.
double oneIteration(const System& system, std::size_t* entries = nullptr) {
  Newton newton(system);
  Iterate x = newton.coldStart();
  const auto begun = std::chrono::steady_clock::now();
  (void)newton.run(x, Newton::Mode::soft, {});
  const double taken = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
  if (entries) *entries = newton.factorEntries();
  return taken / newton.iterations();
}

bench::Floor leastOf(const bench::Floor& a, const bench::Floor& b) {
  const bench::Floor& quick = a.factor + a.solve < b.factor + b.solve ? a : b;
  return {std::min(a.law, b.law), std::min(a.assembly, b.assembly), quick.factor, quick.solve, quick.by};
}

void table() {
  fmt::print("One iteration against the floor of its bare parts (ms)\n");
  fmt::print("{:>8} {:>8} {:>9} {:>8} {:>8} {:>8} {:>9} {:>10} {:>7}\n", "links", "law", "assembly", "factor",
             "solve", "floor", "by", "iteration", "ratio");
  std::vector<std::pair<double, double>> growth;
  std::string second =
      fmt::format("\nWhole solves (ms) and memory\n{:>8} {:>6} {:>8} {:>10} {:>10} {:>10} {:>12}\n", "links",
                  "steps", "cold", "re-solve", "one edit", "undo step", "memory MB");
  for (const int size : {1000, 10000, 100000, 1000000}) {
    const double before = residentMb();
    const Network network = test::gridNetwork(size, 5);
    Solution cold = solve(network, &shippedStock());
    const double memory = residentMb() - before;
    const auto setting = settingOf(network, &shippedStock());
    const SetUp set = setUp(network, *setting, widestBores(network, *setting));
    const int runs = size < 5000 ? 40 : size < 50000 ? 12 : size < 500000 ? 5 : 3;
    // By turns, the least of each: other work on the machine then falls on both.
    bench::Floor floor;
    double iteration = 1e300;
    for (int turn = 0; turn < (size < 5000 ? 60 : size < 50000 ? 15 : size < 500000 ? 5 : 2); ++turn) {
      floor = leastOf(floor, bench::floorOf(set.system));
      for (int i = 0; i < runs; ++i) iteration = std::min(iteration, oneIteration(set.system));
    }
    const double n = static_cast<double>(set.system.links.size());
    fmt::print("{:>8} {:>8.3f} {:>9.3f} {:>8.3f} {:>8.3f} {:>8.3f} {:>9} {:>10.3f} {:>7.2f}\n", n,
               floor.law * 1e3, floor.assembly * 1e3, floor.factor * 1e3, floor.solve * 1e3,
               floor.sum() * 1e3, floor.by, iteration * 1e3, iteration / floor.sum());
    const double coldTime = bench::least(runs, [&] { cold = solve(network, &shippedStock()); });
    const Id pipe = somePipe(network);
    const auto edited = setField(network, pipe, "bore", "180 mm", &shippedStock(), nullptr);
    const double warmTime = editTime(runs, network, edited->network);
    const double fieldTime = bench::least(runs, [&] {
      benchmark::DoNotOptimize(setField(network, pipe, "bore", "180 mm", &shippedStock(), nullptr));
    });
    History history(Model{network});
    const double recordTime =
        bench::least(runs, [&] { history.record("edit", Model{edited->network}), history.undo(); });
    second += fmt::format("{:>8} {:>6} {:>8.2f} {:>10.2f} {:>10.4f} {:>10.4f} {:>12.1f}\n", n,
                          cold.summary.iterations, coldTime * 1e3, warmTime * 1e3, fieldTime * 1e3,
                          recordTime * 1e3, memory);
    growth.emplace_back(n, coldTime);
  }
  fmt::print("{}", second);
  fmt::print("Growth of the cold solve from {:.0f} to {:.0f} links: n^{:.2f}\n\n", growth.front().first,
             growth.back().first,
             std::log(growth.back().second / growth.front().second) /
                 std::log(growth.back().first / growth.front().first));
}

// Networks of the random suite that balance, all kinds of devices in them.
void randomSuite() {
  std::vector<int> steps;
  for (std::uint64_t seed = 0; seed < 400; ++seed) {
    test::Chance size{seed * 77 + 5};
    const Solution s =
        solve(test::randomNetwork(seed, static_cast<int>(10 * std::pow(500.0, size.between(0, 1)))),
              &shippedStock());
    if (s.summary.usable()) steps.push_back(s.summary.iterations);
  }
  std::sort(steps.begin(), steps.end());
  fmt::print(
      "Newton steps from cold over {} random networks with devices, all sets of states together: median {}, "
      "nine of ten {}, worst {}\n",
      steps.size(), steps[steps.size() / 2], steps[steps.size() * 9 / 10], steps.back());
}

// A thousand links with twenty devices or more among them.
void thousandWithDevices() {
  Solution cold;
  Network network;
  for (std::uint64_t seed = 1;
       !cold.summary.usable() || std::abs(static_cast<double>(cold.summary.links) - 1000) > 30; ++seed) {
    network = test::randomNetwork(seed, 830);
    cold = solve(network, &shippedStock());
  }
  int devices = 0;
  network.each([&](Id, const Element& e) { devices += e.part->ends == Ends::two && !e.part->geometry; });
  const double coldTime = bench::least(40, [&] { cold = solve(network, &shippedStock()); });
  const auto edited = setField(network, somePipe(network), "bore", "180 mm", &shippedStock(), nullptr);
  fmt::print("{} links, {} devices among them: cold {:.2f} ms in {} steps, one edit warm {:.2f} ms\n",
             cold.summary.links, devices, coldTime * 1e3, cold.summary.iterations,
             editTime(40, network, edited->network) * 1e3);
}

// A hundred valves at once in 10,000 pipes: each for its own flow, then each for the pressure behind it.
void hundredSwaps() {
  Network plain = test::gridNetwork(10000, 12);
  const Field& k = *findField(*findPart("pipe"), "K");
  Solution before = solve(plain, &shippedStock());
  std::vector<Id> chosen;
  std::vector<char> taken(plain.bound(), 0);
  plain.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || chosen.size() >= 100 || id % 51 != 0 || taken[e.ends[1]] ||
        std::abs(*before.branch(id, 0).flow_m3s) < 2e-3)
      return;
    taken[e.ends[1]] = 1;
    chosen.push_back(id);
  });
  Draft with(plain);
  for (const Id id : chosen) with.values(id).set(k.key, Given{50, Basis::direct, "50"});
  plain = std::move(with).finish();
  const auto swapped = [&](bool far) {
    Draft d(plain);
    for (const Id id : chosen) {
      const Id to = plain.at(id).ends[1];
      d.values(id).set(k.key, Given{5, Basis::direct, "5"});
      d.values(id).release(k.key);
      if (far)
        d.values(to).give(
            "pressure",
            Given{before.setting.medium.pressureOf(*before.head(to) - plain.at(to).given("height")->value),
                  Basis::direct, ""});
      else d.values(id).give("flow", Given{*before.branch(id, 0).flow_m3s, Basis::direct, ""});
    }
    return std::move(d).finish();
  };
  before = solve(plain, &shippedStock());
  const Network local = swapped(false), far = swapped(true);
  double plainTime = 1e300, localTime = 1e300, farTime = 1e300;
  bool balanced = true;
  for (int turn = 0; turn < 12; ++turn) {
    plainTime = std::min(plainTime, bench::least(2, [&] { before = solve(plain, &shippedStock()); }));
    localTime = std::min(localTime, bench::least(1, [&] {
                           balanced = balanced && solve(local, &shippedStock()).summary.usable();
                         }));
    farTime = std::min(farTime, bench::least(1, [&] {
                         balanced = balanced && solve(far, &shippedStock()).summary.usable();
                       }));
  }
  for (const auto& [word, time] : {std::pair("local", localTime), std::pair("far", farTime)})
    fmt::print("{} {} swaps at once in 10,000 pipes: {:.1f} ms, {:.2f} of the plain solve{}\n", chosen.size(),
               word, time * 1e3, time / plainTime, balanced ? "" : " (NOT BALANCED)");
  const auto setting = settingOf(plain, &shippedStock());
  const SetUp set = setUp(plain, *setting, widestBores(plain, *setting));
  const double structure =
      bench::least(10, [&] { benchmark::DoNotOptimize(determinacy(plain, set.system, UnitSet::siWater())); });
  fmt::print("Determinacy of 10,000 pipes: {:.2f} ms, {:.2f} of the plain cold solve\n", structure * 1e3,
             structure / plainTime);
  // Sixteen cases that differ in one level, on one thread and on two.
  std::vector<Network> cases;
  for (int i = 0; i < 16; ++i) {
    Draft d(plain);
    plain.each([&](Id id, const Element& e) {
      if (e.part->key == "tank")
        d.values(id).set("level", Given{e.given("level")->value + 0.1 * i, Basis::direct, ""});
    });
    cases.push_back(std::move(d).finish());
  }
  const auto run = [&](int threads) {
    std::atomic<std::size_t> next{0};
    std::vector<std::thread> pool;
    for (int t = 0; t < threads; ++t)
      pool.emplace_back([&] {
        for (std::size_t i; (i = next++) < cases.size();)
          benchmark::DoNotOptimize(solve(cases[i], &shippedStock()));
      });
    for (std::thread& t : pool) t.join();
  };
  double one = 1e300, two = 1e300;
  for (int turn = 0; turn < 4; ++turn)
    one = std::min(one, bench::least(1, [&] { run(1); })),
    two = std::min(two, bench::least(1, [&] { run(2); }));
  fmt::print("16 cases of 10,000 pipes: {:.0f} ms on one thread, {:.0f} ms on two: {:.2f} times\n\n",
             one * 1e3, two * 1e3, one / two);
}

// A thousand variants of a thousand pipes, one field changed in each, from one answer: beside a thousand
// edits one after another, and on two threads.
void variants() {
  const Network network = test::gridNetwork(1000, 5);
  std::vector<Overlay> overlays(1000);
  std::vector<Id> pipes;
  network.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe") pipes.push_back(id);
  });
  for (std::size_t i = 0; i < overlays.size(); ++i)
    overlays[i].set(pipes[i * 37 % pipes.size()], "bore",
                    Given{0.1 + 0.0002 * static_cast<double>(i), Basis::direct, ""});
  const auto run = [&](std::size_t threads) {
    const JobOptions jobs{.threads = threads};
    std::vector<Workspace> spaces(lanes(jobs));
    const Solution base = solve(network, &shippedStock(), {.workspace = &spaces[0]});
    const auto answers = runJobs(
        overlays.size(),
        [&](std::size_t i, std::size_t lane, std::stop_token stop) {
          return solve(derive(network, overlays[i]), &shippedStock(),
                       {.startFrom = &base, .stop = stop, .workspace = &spaces[lane]});
        },
        jobs);
    benchmark::DoNotOptimize(answers.data());
  };
  const auto edits = [&] {
    Workspace space;
    Solution last = solve(network, &shippedStock(), {.workspace = &space});
    for (const Overlay& overlay : overlays)
      last = solve(derive(network, overlay), &shippedStock(), {.startFrom = &last, .workspace = &space});
    benchmark::DoNotOptimize(last.branches.data());
  };
  double one = 1e300, two = 1e300, warm = 1e300;
  for (int turn = 0; turn < 4; ++turn) {
    one = std::min(one, bench::least(1, [&] { run(1); }));
    two = std::min(two, bench::least(1, [&] { run(2); }));
    warm = std::min(warm, bench::least(1, edits));
  }
  fmt::print(
      "1,000 variants of 1,000 pipes: {:.0f} ms on one thread, {:.2f} of 1,000 warm edits; on two {:.2f} "
      "times "
      "quicker\n",
      one * 1e3, one / warm, one / two);
  // Judging such a variant by the gauges of what it differs from, and anew with all its words.
  const Network variant = derive(network, overlays[3]);
  const Solution base = solve(network, &shippedStock()), answer = solve(variant, &shippedStock());
  const Gauges gauges(network, base);
  const double solved = warm / 1000,
               gauged = bench::least(20, [&] { benchmark::DoNotOptimize(gauges.standing(variant, answer)); }),
               anew = bench::least(
                   20, [&] { benchmark::DoNotOptimize(findings(variant, answer, UnitSet::siWater())); });
  fmt::print("judged by gauges {:.2f} of a warm edit, {:.2f} with all words\n", gauged / solved,
             anew / solved);
  const Network large = test::gridNetwork(100000, 5);
  std::vector<Id> all;
  large.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe") all.push_back(id);
  });
  Overlay overlay;
  for (std::size_t i = 0; i < 1000; ++i)
    overlay.set(all[i * 7919 % all.size()], "bore", Given{0.2, Basis::direct, "200 mm"});
  fmt::print("1,000 differences laid over 100,000 pipes: {:.2f} ms\n\n",
             bench::least(20, [&] { benchmark::DoNotOptimize(derive(large, overlay)); }) * 1e3);
}

// Devices that all act, and fields that are all found: by how much the work grows with them.
void crowds() {
  const auto row = [](const char* what, int count, const Network& n, int runs) {
    Solution s;
    const double time = bench::least(runs, [&] { s = solve(n, &shippedStock()); });
    fmt::print("{:>6} {:<42} {:>9.1f} ms, {:>3} steps{}\n", count, what, time * 1e3, s.summary.iterations,
               s.summary.usable() ? "" : " (NOT BALANCED)");
    return time;
  };
  for (const double spread : {0.0, 10.0}) {
    std::vector<double> times;
    for (const int valves : {500, 1000, 2000, 4000})
      times.push_back(row(spread == 0.0 ? "reducing valves, all acting" : "reducing valves, set unlike",
                          valves, bench::twoZones(valves, spread), valves < 2000 ? 5 : 3));
    fmt::print("       growth n^{:.2f}\n", std::log(times.back() / times.front()) / std::log(8.0));
  }
  for (const char* field : {"bore", "opening"})
    for (const int fields : {100, 200, 400})
      row(fmt::format("found from pressures: {}", field).c_str(), fields,
          bench::foundFromPressures(fields, field), 3);
  fmt::print("\n");
}

// Streets, whose factor is far fuller than that of mains with branches.
void squareGrids() {
  fmt::print("Square grids: one iteration, its factor\n");
  for (const int pipes : {1000, 10000, 100000, 1000000}) {
    const Network network = bench::squareGrid(pipes);
    const auto setting = settingOf(network, &shippedStock());
    const SetUp set = setUp(network, *setting, widestBores(network, *setting));
    double iteration = 1e300;
    std::size_t entries = 0;
    for (int turn = 0; turn < (pipes < 500000 ? 5 : 1); ++turn) {
      iteration = std::min(iteration, oneIteration(set.system, &entries));
    }
    fmt::print("{:>8} pipes {:>10.3f} ms, {:>9} entries\n", set.system.links.size(), iteration * 1e3,
               entries);
  }
  fmt::print("\n");
}

// What a person at the command line waits for besides the solution.
void besidesTheSolver() {
  const Network network = test::gridNetwork(100000, 5);
  const std::string text = writeModel(network);
  const double reading = bench::least(3, [&] { benchmark::DoNotOptimize(readDrawn(text, &shippedStock())); });
  const Solution s = solve(network, &shippedStock());
  const double judging =
      bench::least(3, [&] { benchmark::DoNotOptimize(findings(network, s, UnitSet::siWater())); });
  const auto found = findings(network, s, UnitSet::siWater());
  std::ofstream nowhere("/dev/null");
  const double asText =
      bench::least(3, [&] { cli::reportText(nowhere, network, s, found, UnitSet::siWater()); });
  const double asJson = bench::least(3, [&] { cli::reportJson(nowhere, network, s, found, nullptr); });
  fmt::print(
      "100,000 pipes, {:.1f} MB of text: read in {:.0f} ms, judged by the limits in {:.0f} ms, reported as "
      "text in {:.0f} ms, as JSON in {:.0f} ms; memory {:.0f} MB\n\n",
      static_cast<double>(text.size()) / 1e6, reading * 1e3, judging * 1e3, asText * 1e3, asJson * 1e3,
      residentMb());
}

// A pump set between a reservoir and the corner of a mesh, lifting into it; draws fixed, a second supply.
std::pair<Network, Id> pumpInto(int pipes) {
  Draft draft(test::gridNetwork(pipes, 5));
  Id corner = noId;
  draft.network().each([&](Id id, const Element& e) {
    if (corner == noId && e.part->ends == Ends::self) corner = id;
  });
  const auto give = [&](Id id, const char* key, const char* typed, Measure m) {
    draft.values(id).set(findField(*draft.network().at(id).part, key)->key, *parse(typed, m));
  };
  const Id suction = draft.addPoint("", {});
  give(suction, "height", "0 m", Measure::height);
  const Id held = draft.add(*findPart("fixed pressure"), "", {suction});
  give(held, "pressure", "0 bar", Measure::gaugePressure);
  const Id pump = draft.add(*findPart("pump"), "", {suction, corner});
  draft.values(pump).set(stockItemKey, std::string("Tier 20-140"));
  return {std::move(draft).finish(), pump};
}

// What the Pumps desk waits for.
void pumps() {
  const auto [large, pump] = pumpInto(2000);
  const auto stock = readAndShared(shippedStock());
  const Solution base = solve(large, stock.get());
  SystemCurve curve;
  const double tracing = bench::least(3, [&, p = pump] {
    curve = systemCurve(large, stock.get(), base, {.members = {p}}, {.most_m3s = 0.03, .coarse = 25});
  });
  fmt::print("system curve of {} pipes, {} points, {} solves: {:.1f} ms\n", 2000, curve.points.size(),
             curve.solves, tracing * 1e3);
  Model model;
  auto [small, chosen] = pumpInto(500);
  model.drawn = std::move(small);
  for (int k = 2; k <= 5; ++k) {
    auto made = addCase(model, fmt::format("Case {}", k), drawingCase);
    Draft draft(model.drawn);
    int every = 0;
    model.drawn.each([&](Id id, const Element& e) {
      if (const Given* out = e.given("outflow"); out && ++every % k == 0)
        draft.values(id).set("outflow", *parse(fmt::format("{} L/s", out->value * 800), Measure::volumeFlow));
    });
    model = withEdit(made->model, made->made, std::move(draft).finish());
  }
  Selection selection;
  PumpRequest request{.at = chosen};
  request.about.set(request::shortBy, *parse("100 %", Measure::ratio));
  request.about.set(request::overBy, *parse("1000 %", Measure::ratio));
  request.about.set(request::flow, *parse("10 L/s", Measure::volumeFlow));
  const double selecting =
      bench::least(2, [&, at = chosen] { selection = select(model, at, request, stock, {}); });
  std::size_t solves = 0;
  for (const auto* list : {&selection.can, &selection.cannot})
    for (const Candidate& c : *list) solves += c.cases.size();
  fmt::print("selection in 500 pipes, {} candidates, {} cases, {} solves: {:.2f} s, {:.2f} ms each; {}\n\n",
             selection.can.size() + selection.cannot.size(), selection.cases.size(), solves, selecting,
             selecting * 1e3 / static_cast<double>(std::max<std::size_t>(solves, 1)), selection.problem);
}

void coldSolve(benchmark::State& state) {
  const Network network = test::gridNetwork(static_cast<int>(state.range(0)), 5);
  for (auto _ : state) benchmark::DoNotOptimize(solve(network, &shippedStock()));
}
BENCHMARK(coldSolve)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond);

void withDevices(benchmark::State& state) {
  std::uint64_t seed = 1;
  Network network = test::randomNetwork(seed, static_cast<int>(state.range(0)));
  while (!solve(network, &shippedStock()).summary.usable())
    network = test::randomNetwork(++seed, static_cast<int>(state.range(0)));
  for (auto _ : state) benchmark::DoNotOptimize(solve(network, &shippedStock()));
}
BENCHMARK(withDevices)->Arg(1000)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace conduit

int main(int argc, char** argv) {
  conduit::table();
  conduit::randomSuite();
  conduit::thousandWithDevices();
  conduit::hundredSwaps();
  conduit::variants();
  conduit::crowds();
  conduit::squareGrids();
  conduit::besidesTheSolver();
  conduit::pumps();
  conduit::bench::sizing();
  conduit::bench::stops();
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}

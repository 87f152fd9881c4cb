#include "stops.h"

#include <fmt/format.h>

#include <chrono>
#include <functional>
#include <thread>

#include "cases/sweep.h"
#include "exchange/delimited.h"
#include "exchange/import_table.h"
#include "find/exchange.h"
#include "least.h"
#include "model/sizing_setup.h"
#include "sizing.h"
#include "sizing/balance_flows.h"
#include "sizing/search.h"

namespace conduit::bench {
namespace {

// The longest time to the end after a stop, asked for at several moments; those after its own end say
// nothing.
void stop(const char* what, const std::function<void(std::stop_token)>& work) {
  double worst = 0.0;
  int caught = 0, at = 0;
  for (const int ms : {0, 1, 3, 10, 30, 60, 100, 200, 400, 800, 1600}) {
    std::atomic<bool> ended = false;
    std::jthread thread([&](const std::stop_token& token) {
      work(token);
      ended = true;
    });
    std::this_thread::sleep_for(std::chrono::milliseconds(ms));
    if (ended) break;
    ++caught;
    const double took = least(1, [&] { thread.request_stop(), thread.join(); });
    if (took > worst) worst = took, at = ms;
  }
  fmt::print("stopped, {}: {:.0f} ms at most (after {} ms), {} moments\n", what, worst * 1000, at, caught);
}

}  // namespace

void stops() {
  const auto streets = loaded("bench/streets.lconduit"), branched = branchedModel(500, 12);
  if (!streets || !branched) return;
  const UnitSet units = UnitSet::siWater();
  const auto taskOf = [&](const Loaded& of) {
    SizingOptions options = optionsOf(of.model.of<SizingSetup>());
    options.objective = Objective::laid, options.trials = 100000, options.seconds = 0;
    return sizingTask(of.model, options, of.stock, units);
  };
  const auto looped = taskOf(*streets), tree = taskOf(*branched);
  if (!looped || !tree) return;
  stop("judging a choice", [&](std::stop_token token) {
    Judge judge(*looped, 1, std::move(token));
    (void)judge.evaluate(SizeChoice(looped->rows.size(), 0), 0, true);
  });
  const auto search = [](const SizingTask& task) {
    return [&](std::stop_token token) {
      SearchOptions options;
      options.jobs.stop = std::move(token);
      (void)searchSizes(task, options);
    };
  };
  stop("a proof of a branched network", search(*tree));
  stop("a search of a looped network", search(*looped));
  stop("cold solves of every case", [&](std::stop_token token) {
    CaseOptions options;
    options.jobs.stop = std::move(token);
    (void)balanceCases(streets->model, streets->model.cases.ids(), streets->stock, options);
  });
  const Network& n = streets->model.drawn;
  Id line = noId, point = noId;
  n.each([&](Id id, const Element& e) {
    if (line == noId && e.part->key == "pipe") line = id, point = e.ends[1];
  });
  const auto vary =
      readVary(n.at(line).name + " length", "10 m to 900 m in 20000", n, *streets->stock, units);
  if (vary)
    stop("a sweep", [&](std::stop_token token) {
      SweepOptions options;
      options.jobs.stop = std::move(token);
      (void)runSweep(streets->model, {.columns = {*vary}}, streets->stock, options);
    });
  else fmt::print("no sweep: {}\n", vary.error().what);
  stop("what could be found for a pressure", [&](std::stop_token token) {
    const auto offers = exchangesFor(n, streets->stock.get(), units, point, "pressure", "3 bar", 8, token);
    for (std::size_t i = 0; offers && i < offers->size() && !token.stop_requested(); ++i)
      (void)tryExchange(n, streets->stock.get(), units, (*offers)[i], nullptr, token);
  });
  std::string text = "name;from;to;length;bore\n";
  for (int i = 0; i < 200'000; ++i) text += fmt::format("X{0};P{0};P{1};{2};100\n", i, i + 1, 10 + i % 90);
  const Dialect dialect = guessDialect(text);
  const Grid grid = readGrid(text, dialect);
  const ImportPlan plan = proposePlan(grid, dialect, nullptr, units);
  stop("an import of 200,000 lines", [&](std::stop_token token) {
    (void)importTable(Network(), grid, plan, streets->stock.get(), units, {}, std::move(token));
  });
}

}  // namespace conduit::bench

#include "sizing.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "least.h"
#include "model/sizing_setup.h"
#include "parts/registry.h"
#include "quantity/parse.h"
#include "sizing/balance_flows.h"
#include "sizing/search.h"
#include "sizing/tree.h"

namespace conduit::bench {

std::optional<Loaded> loaded(const std::string& file) {
  auto model = loadModel(PROJECT_DIR "/" + file, &shippedStock());
  if (!model) return std::nullopt;
  auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  return Loaded{std::move(*model), std::move(stock)};
}

std::optional<Loaded> branchedModel(std::size_t lines, std::size_t sizes) {
  std::mt19937_64 chance(1);
  std::string stock,
      points = R"({"name":"N0","height":"10 m"})",
      elements = R"({"kind":"tank","name":"T","level":"110 m","connections":[{"point":"N0"}]})";
  for (std::size_t s = 0; s < sizes; ++s) {
    const double bore = std::round(50 * std::pow(1.25, static_cast<double>(s)));
    stock += fmt::format(
        R"({}{{"standard":"Yard","nominal":"{}","schedule":"A","outside_mm":"{}","wall_mm":"3","bore_mm":"{}","cost_per_m":"{:.2f}","source":"made up"}})",
        s ? "," : "", bore, bore + 6, bore, 10 + 900 * std::pow(bore / 1000, 1.4));
  }
  const char* equipment[] = {R"("isolating valve","K":"0.4")", R"("control valve","Kv":"3000 Kv")",
                             R"("strainer","rated flow":"60 L/s","clean drop":"0.05 bar")"};
  for (std::size_t i = 1; i <= lines; ++i) {
    const std::size_t back = chance() % 20;
    std::string from = fmt::format("N{}", i > back + 1 ? i - 1 - back : 0);
    if (chance() % 10 < 3) {
      points += fmt::format(R"(,{{"name":"M{}","height":"10 m"}})", i);
      elements += fmt::format(R"(,{{"kind":{},"name":"V{}","from":"{}","to":"M{}"}})",
                              equipment[chance() % 3], i, from, i);
      from = fmt::format("M{}", i);
    }
    points += fmt::format(R"(,{{"name":"N{}","height":"{} m","outflow":"0.{} L/s"{}}})", i, 5 + chance() % 11,
                          10 + chance() % 31,
                          chance() % 10 < 3 ? fmt::format(R"(,"pressure at least":"{}.{} bar")",
                                                          4 + chance() % 2, chance() % 10)
                                            : "");
    elements += fmt::format(
        R"(,{{"kind":"pipe","name":"L{}","from":"{}","to":"N{}","length":"{} m","size":"Yard 582 A","roughness":"0.1 mm"}})",
        i, from, i, 20 + chance() % 81);
  }
  auto model = readModel(R"({"format":"level-conduit","version":2,"stock":{"pipes.csv":[)" + stock +
                             "]},\"points\":[" + points + "],\"elements\":[" + elements + "]}",
                         &shippedStock());
  if (!model) {
    fmt::print("branched drawing: {}\n", model.error().front().what);
    return std::nullopt;
  }
  auto stockOf = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  return Loaded{std::move(*model), std::move(stockOf)};
}

namespace {

void branched() {
  std::mt19937_64 chance(7);
  std::uniform_real_distribution<double> one(0, 1);
  constexpr std::size_t lines = 1000, sizes = 12;
  Tree tree{.head_m = 100};
  std::vector<double> flow(lines), length(lines);
  for (std::size_t l = 0; l < lines; ++l) {
    const int from =
        l == 0 ? -1
               : static_cast<int>(std::max(0.0, static_cast<double>(l) - 1 - std::floor(one(chance) * 20)));
    tree.cost.emplace_back();
    tree.lines.push_back({.from = from,
                          .rows = {static_cast<int>(l)},
                          .loss_m = {},
                          .need_m = one(chance) < 0.3 ? 40 + 20 * one(chance) : -1e300});
    flow[l] = 1e-4 + 3e-4 * one(chance), length[l] = 20 + 80 * one(chance);
  }
  for (std::size_t l = lines; l-- > 1;) flow[static_cast<std::size_t>(tree.lines[l].from)] += flow[l];
  for (std::size_t l = 0; l < lines; ++l)
    for (std::size_t s = 0; s < sizes; ++s) {
      const double bore = 0.05 * std::pow(1.25, static_cast<double>(s));
      tree.lines[l].loss_m.push_back(10.67 * length[l] * std::pow(flow[l] / 130, 1.852) /
                                     std::pow(bore, 4.8704));
      tree.cost[l].push_back(std::round(length[l] * (10 + 900 * std::pow(bore, 1.4))));
    }
  TreeAnswer answer;
  const double proving = bench::least(1, [&] { answer = cheapest(tree); });
  fmt::print("branched, {} lines of {} sizes: {} in {:.2f} s, {} pairs kept; two sizes a line {:.4f} of it\n",
             lines, sizes,
             answer.proved  ? "proved"
             : answer.found ? "not proved"
                            : "none found",
             proving, answer.states, cheapestSplit(tree).cost / answer.cost);
}

// A branched drawing fed by a tank, a third of its lines behind a valve or strainer: read, proved, and what
// governs each line solved.
void branchedDrawing() {
  constexpr std::size_t lines = 1000, sizes = 12;
  const auto all = branchedModel(lines, sizes);
  if (!all) return;
  const auto task = sizingTask(all->model, {.objective = Objective::laid}, all->stock, UnitSet::siWater());
  if (!task) return;
  SizingProposal best;
  const double seconds = bench::least(1, [&] { best = searchSizes(*task); });
  fmt::print("branched drawing, {} lines of {} sizes with a tank and equipment: {} in {:.2f} s\n", lines,
             sizes, best.proved ? "proved" : "not proved", seconds);
}

// Ten seeds of a published problem.
void published(const char* what, const std::string& file) {
  const auto all = loaded(file);
  if (!all) return;
  std::vector<double> costs;
  double took = 0.0;
  for (std::uint64_t seed = 1; seed <= 10; ++seed) {
    SizingOptions options = optionsOf(all->model.of<SizingSetup>());
    options.objective = Objective::laid, options.seed = seed, options.seconds = 0;
    const auto task = sizingTask(all->model, options, all->stock, UnitSet::siWater());
    took += least(1, [&] { costs.push_back(searchSizes(*task).verdict.laid); }) / 10;
  }
  std::sort(costs.begin(), costs.end());
  fmt::print("{}, ten seeds: {:.0f} at best, {:.0f} median, {:.0f} at worst, {:.2f} s each\n", what,
             costs.front(), costs[5], costs.back(), took);
}

// Streets of 482 lines, twelve sizes, three cases: what a minute finds.
void streets() {
  const auto all = loaded("bench/streets.lconduit");
  if (!all) return;
  SizingOptions options = optionsOf(all->model.of<SizingSetup>());
  options.trials = 100000, options.seconds = 60;
  const auto task = sizingTask(all->model, options, all->stock, UnitSet::siWater());
  SizingProposal best;
  const double took = least(1, [&] { best = searchSizes(*task); });
  fmt::print("streets, {} lines in {} cases: {:.0f} in {:.0f} s, {} trials, {} choices judged\n",
             task->rows.size(), task->cases.size(), best.verdict.laid, took, best.trials, best.judged);
}

// A header of 300 branches, each with a control valve and a loss of its own, balanced.
void header() {
  constexpr int branches = 300;
  std::mt19937_64 chance(3);
  std::uniform_real_distribution<double> one(0, 1);
  std::string points = R"({"name":"S","height":"0 m"},{"name":"R","height":"0 m"})", elements;
  std::string last = "S";
  for (int i = 0; i < branches; ++i) {
    const std::string n = std::to_string(i);
    for (const char* at : {"H", "M"}) points += R"(,{"name":")" + (at + n) + R"(","height":"0 m"})";
    elements +=
        R"(,{"kind":"pipe","name":"L)" + n + R"(","from":")" + last + R"(","to":"H)" + n +
        R"(","length":"8 m","bore":"600 mm","roughness":"0.1 mm"},{"kind":"control valve","name":"C)" + n +
        R"(","from":"H)" + n + R"(","to":"M)" + n + R"(","Kv":"25 m3/h"},{"kind":"pipe","name":"B)" + n +
        R"(","from":"M)" + n + R"(","to":"R","length":")" + std::to_string(30 + 60 * one(chance)) +
        R"( m","bore":"60 mm","roughness":"0.1 mm"})";
    last = "H" + n;
  }
  const auto model = readDrawn(
      R"({"format":"level-conduit","version":2,"job":{},"points":[)" + points +
          R"(],"elements":[{"kind":"fixed pressure","name":"F","point":"S","pressure":"4 bar"},{"kind":"fixed pressure","name":"B","point":"R","pressure":"1 bar"})" +
          elements + "]}",
      &shippedStock());
  if (!model) return;
  std::vector<BranchFlow> flows;
  for (int i = 0; i < branches; ++i)
    flows.push_back({model->byName("C" + std::to_string(i)), 0.001 * (1 + one(chance))});
  const auto stock = readAndShared(shippedStock());
  FlowBalance b;
  const double took = least(1, [&] { b = balanceFlows(*model, flows, stock, UnitSet::siWater()); });
  fmt::print("a header of {} branches: {} in {:.2f} s, farthest off {:.1e}\n\n", branches,
             b.balanced ? "balanced" : b.why, took, b.worst);
}

}  // namespace

void sizing() {
  branched();
  branchedDrawing();
  published("the published two loops", "tests/sizing/two_loop.lconduit");
  published("the published 34 lines", "tests/sizing/thirty_four_lines.lconduit");
  published("the published 21 tunnels", "tests/sizing/twenty_one_tunnels.lconduit");
  streets();
  header();
}

}  // namespace conduit::bench

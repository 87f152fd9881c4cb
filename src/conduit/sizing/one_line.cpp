#include "sizing/one_line.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "cases/case_edits.h"
#include "cases/watch.h"
#include "cases/year.h"
#include "model/costs.h"
#include "network/setting.h"
#include "quantity/parse.h"
#include "sizing/choices.h"

namespace conduit {

Result<OneLine> sizesOfLine(const Model& model, CaseId in, std::vector<Id> lines,
                            const SizingOptions& options, const std::shared_ptr<const Stock>& stock,
                            const UnitSet& units, JobOptions jobs) {
  SizingOptions alone = options;
  alone.tied = {lines};
  alone.kept.clear();
  const std::vector<Id>& these = lines;
  model.drawn.each([&](Id id, const Element& e) {
    if (e.part->key == "pipe" && std::find(these.begin(), these.end(), id) == these.end())
      alone.kept.push_back(id);
  });
  // What each costs is a column, not what it is chosen by: sizes without a cost are shown too.
  auto task = sizingTask(model, alone, stock, units);
  if (!task && options.objective != Objective::mass) {
    alone.objective = Objective::mass;
    task = sizingTask(model, alone, stock, units);
  }
  if (!task) return tl::unexpected(task.error());
  OneLine out{.lines = task->rows.front().lines};
  const SizingRow& row = task->rows.front();
  const std::size_t width = lanes(jobs);
  Judge judge(*task, width);
  std::vector<Workspace> spaces(width);
  const auto results = runJobs(
      row.sizes.size(),
      [&](std::size_t s, std::size_t lane, std::stop_token stop) {
        LineSize size{.size = row.sizes[s], .now = row.now == s};
        const SizeChoice choice{static_cast<std::uint16_t>(s)};
        size.verdict = judge.evaluate(choice, lane, true);
        const Network n = judge.network(in, choice);
        const Solution answer =
            solve(n, stock.get(), {.units = units, .stop = stop, .offers = 0, .workspace = &spaces[lane]});
        if (!answer.summary.usable()) return size;
        const Id id = out.lines.front();
        const ReadingOf r(n, answer, id);
        const Part& part = *n.at(id).part;
        size.velocity_ms = outcomeOf(part, "velocity", *r),
        size.reynolds = outcomeOf(part, "Reynolds number", *r);
        size.loss_m = outcomeOf(part, "head loss", *r), size.gradient = outcomeOf(part, "loss per metre", *r);
        const auto flow = outcomeOf(part, "flow", *r);
        const Id end = n.at(id).ends[flow && *flow < 0 ? 0 : 1];
        const ReadingOf at(n, answer, end);
        size.endPressure_pa = outcomeOf(*n.at(end).part, "pressure", *at);
        n.each([&](Id pump, const Element& e) {
          if (e.part->group != Group::lift) return;
          const ReadingOf p(n, answer, pump);
          if (const auto margin = outcomeOf(*e.part, "NPSH margin", *p))
            size.leastMargin_m = std::min(size.leastMargin_m.value_or(1e300), *margin);
        });
        return size;
      },
      jobs);
  for (const auto& r : results)
    if (r) out.sizes.push_back(*r);
  double allowed = 0.0;
  for (const LineSize& s : out.sizes)
    if (s.now) allowed = s.verdict.violation;
  for (std::size_t s = 0; s < out.sizes.size(); ++s) {
    const SizingVerdict& v = out.sizes[s].verdict;
    if (!v.balanced || v.violation > allowed + 1e-12) continue;
    if (!out.cheapest || v.objective < out.sizes[*out.cheapest].verdict.objective) out.cheapest = s;
  }
  // Beside them the bore of least cost at the flow it has, as a long rising main would be sized.
  const Network n = networkOf(model, in);
  const Solution answer = solve(n, stock.get(), {.units = units, .offers = 0});
  if (!answer.summary.usable()) {
    out.whyNoEconomic = "no solution";
    return out;
  }
  EconomicHere here = economicAt(model, in, n, answer, out.lines.front(), *stock, row.sizes);
  out.economic = here.bore, out.whyNoEconomic = std::move(here.why);
  return out;
}

EconomicHere economicAt(const Model& model, CaseId in, const Network& n, const Solution& answer, Id id,
                        const Stock& stock, std::span<const PipeSize* const> sizes) {
  EconomicHere out;
  const Prices prices = pricesOf(model.costs);
  out.upkeepFactor = 1 + prices.upkeep * prices.upkeepWorth;
  const Element& e = n.at(id);
  std::vector<const PipeSize*> own;
  if (sizes.empty()) {
    const std::string* name = e.text("size");
    if (const PipeSize* size = name ? stock.pipe(*name) : nullptr)
      own = sizesIn(stock, {size->standard, size->schedule, {}, {}, {}});
    if (own.empty()) {
      out.why = "it has no catalogue size";
      return out;
    }
    sizes = own;
  }
  const ReadingOf r(n, answer, id);
  const auto flow = outcomeOf(*e.part, "flow", *r), slope = outcomeOf(*e.part, "loss per metre", *r),
             velocity = outcomeOf(*e.part, "velocity", *r);
  // f = i·2 g D/v² of Darcy and Weisbach, whatever the law of friction.
  const Geometry geometry = e.part->geometry(e.values, answer.setting);
  std::optional<double> friction;
  if (slope && velocity && std::abs(*velocity) > 1e-9 && geometry.bore_m)
    friction =
        std::abs(*slope) * 2 * answer.setting.medium.gravity_ms2 * *geometry.bore_m / (*velocity * *velocity);
  const double wire =
      *costOf(model.costs, costs::motorEfficiency) * *costOf(model.costs, costs::driveEfficiency);
  // The pump that lifts it, where one does and says it; else that of the costs.
  double pump = prices.pumpEfficiency;
  n.each([&](Id p, const Element& x) {
    if (x.part->group != Group::lift) return;
    const ReadingOf rp(n, answer, p);
    if (const auto eta = outcomeOf(*x.part, "efficiency", *rp)) pump = *eta;
  });
  if (!(prices.tariff > 0)) out.why = "no tariff is given";
  else if (!flow || !friction) out.why = "no flow";
  else
    out.bore = economicBore(sizes, std::abs(*flow), *friction, answer.setting.medium.density_kgm3,
                            pump * wire, hoursOf(model, in), prices);
  if (!out.bore && out.why.empty()) out.why = "fewer than two of its sizes have a cost";
  return out;
}

std::optional<SizeAtFlow> sizeAtFlow(const Element& pipe, const Setting& setting, const PipeSize& size,
                                     double flow_m3s) {
  Values values = pipe.values;
  values.clear("bore");
  values.set("size", size.name());
  const std::vector<EndPlace> ends(2);
  const Prepared p = pipe.part->prepare(values, setting, ends);
  const auto length = pipe.part->geometry(values, setting).length_m;
  if (p.branches.empty() || !p.branches[0].law || !length || !(*length > 0)) return std::nullopt;
  double memory = 0.0;
  const double area = M_PI * size.bore_m * size.bore_m / 4;
  return SizeAtFlow{std::abs(flow_m3s) / area,
                    std::abs(p.branches[0].law->at(flow_m3s, memory).drop_m) / *length};
}

Result<BoreGoal> boreGoal(const std::string& text, const Network& network, Id line, const UnitSet& units) {
  // The value is the end of the text; what comes before it names the outcome, and perhaps whose it is.
  for (std::size_t at = text.find_first_of("0123456789"); at != std::string::npos;
       at = text.find_first_of("0123456789", at + 1)) {
    if (at == 0 || text[at - 1] != ' ') continue;
    std::string what = text.substr(0, at);
    what.erase(what.find_last_not_of(' ') + 1);
    const auto read = readWatched(what, network, units, std::array{line});
    if (!read || read->elements.size() != 1) continue;
    const Id element = read->elements.front();
    const Outcome* outcome = findOutcome(*network.at(element).part, read->outcome);
    auto wanted = parse(text.substr(at), outcome->measure, &units.unitFor(outcome->measure));
    if (!wanted) return tl::unexpected(Problem{{network.at(line).name, "bore"}, wanted.error().what, {}});
    return BoreGoal{element, read->outcome, std::move(*wanted)};
  }
  return tl::unexpected(
      Problem{{network.at(line).name, "bore"},
              "enter a result and its value, such as \"velocity 1.5 m/s\" or \"N-3 pressure 2 bar\"",
              {}});
}

Result<ExactBore> exactBore(const Network& network, Id line, Id element, std::string_view outcome,
                            const Given& wanted, const std::shared_ptr<const Stock>& stock,
                            const UnitSet& units) {
  const auto fault = [&](std::string what) {
    return tl::unexpected(Problem{{network.at(line).name, "bore"}, std::move(what), {}});
  };
  const Outcome* of = findOutcome(*network.at(element).part, outcome);
  if (!of) return fault("no such result");
  const std::string* name = network.at(line).text("size");
  const PipeSize* size = name ? stock->pipe(*name) : nullptr;
  Draft draft(network);
  Values& v = draft.values(line);
  v.clear("size");
  if (size && !v.find("bore")) v.set("bore", Given{.value = size->bore_m, .typed = "0"});
  v.release("bore");
  draft.values(element).give(of->key, wanted);
  const Network n = std::move(draft).finish();
  const Solution answer = solve(n, stock.get(), {.units = units});
  if (!answer.summary.usable())
    return fault(answer.summary.problems.empty() ? "no bore was found"
                                                 : answer.summary.problems.front().what);
  const auto bore = answer.foundFor(line, "bore");
  if (!bore) return fault("no bore was found");
  ExactBore out{*bore};
  if (size)
    for (const PipeSize& p : stock->pipes) {
      if (p.standard != size->standard || p.schedule != size->schedule) continue;
      if (p.bore_m <= *bore && (!out.below || p.bore_m > out.below->bore_m)) out.below = &p;
      if (p.bore_m > *bore && (!out.above || p.bore_m < out.above->bore_m)) out.above = &p;
    }
  return out;
}

}  // namespace conduit

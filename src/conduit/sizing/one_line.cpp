#include "sizing/one_line.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "cases/case_edits.h"
#include "cases/watch.h"
#include "cases/year.h"
#include "fields/keys.h"
#include "model/costs.h"
#include "network/setting.h"
#include "pump/way.h"
#include "quantity/parse.h"
#include "sizing/choices.h"
#include "stock/sold.h"

namespace conduit {
namespace {

// Up the way of the water from the line, else down it; noId where no pump stands on either.
Id pumpLifting(const Network& n, const Solution& answer, Id line) {
  const auto q = answer.branch(line, 0).flow_m3s;
  if (!q || *q == 0) return noId;
  const std::size_t up = *q > 0 ? 0 : 1;
  for (const Way& way : {wayUp(n, answer, n.at(line).ends[up]), wayDown(n, answer, n.at(line).ends[1 - up])})
    for (const Step& step : way.steps)
      if (n.at(step.element).part->lifts) return step.element;
  return noId;
}

}  // namespace

Result<OneLine> sizesOfLine(const Model& model, CaseId in, std::vector<Id> lines,
                            const SizingOptions& options, const std::shared_ptr<const Stock>& stock,
                            const UnitSet& units, JobOptions jobs) {
  SizingOptions alone = options;
  alone.tied = {lines};
  alone.kept.clear();
  alone.pairs = false;
  const std::vector<Id>& these = lines;
  model.drawn.each([&](Id id, const Element& e) {
    if (e.part->line && std::find(these.begin(), these.end(), id) == these.end()) alone.kept.push_back(id);
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
  std::vector<std::vector<LimitExcess>> limits(row.sizes.size());
  const auto results = runJobs(
      row.sizes.size(),
      [&](std::size_t s, std::size_t lane, std::stop_token stop) {
        LineSize size{.size = row.sizes[s], .now = row.now == s};
        const SizeChoice choice{static_cast<std::uint16_t>(s)};
        std::vector<DutyMet> deliveries;
        size.verdict =
            judge.evaluate(choice, lane, {.words = true, .limits = &limits[s], .deliveries = &deliveries});
        for (DutyMet& d : deliveries)
          if (d.duty.now_m3s > 0 && d.duty.by != Duty::By::given) {
            size.leastDelivery = std::move(d);
            break;
          }
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
        const auto flow = outcomeOf(part, key::flow, *r);
        const Id end = n.at(id).ends[flow && *flow < 0 ? 0 : 1];
        const ReadingOf at(n, answer, end);
        size.endPressure_pa = outcomeOf(*n.at(end).part, key::pressure, *at);
        n.each([&](Id pump, const Element& e) {
          if (!e.part->lifts) return;
          const ReadingOf p(n, answer, pump);
          if (const auto margin = outcomeOf(*e.part, "NPSH margin", *p))
            size.leastMargin_m = std::min(size.leastMargin_m.value_or(1e300), *margin);
        });
        return size;
      },
      jobs);
  for (const auto& r : results)
    if (r) out.sizes.push_back(*r);
  // What the present size breaks, each by so much, may stay broken; nothing else may be.
  const std::vector<LimitExcess>* present = nullptr;
  if (row.now) present = &limits[*row.now];
  const auto breaksMore = [&](const std::vector<LimitExcess>& all) {
    return std::any_of(all.begin(), all.end(), [&](const LimitExcess& l) {
      if (l.by <= 1e-9) return false;
      if (!present) return true;
      const auto was = std::lower_bound(present->begin(), present->end(), l.which,
                                        [](const LimitExcess& a, std::uint64_t w) { return a.which < w; });
      return was == present->end() || was->which != l.which || l.by > std::max(0.0, was->by) + 1e-9;
    });
  };
  for (LineSize& s : out.sizes) {
    const auto at =
        static_cast<std::size_t>(std::find(row.sizes.begin(), row.sizes.end(), s.size) - row.sizes.begin());
    s.breaksMore = !s.verdict.balanced || breaksMore(limits[at]);
  }
  double least = 1e300;
  for (std::size_t s = 0; s < out.sizes.size(); ++s) {
    const LineSize& size = out.sizes[s];
    if (size.breaksMore) continue;
    if (!out.cheapest || size.verdict.objective < out.sizes[*out.cheapest].verdict.objective)
      out.cheapest = s;
    least = std::min(least, size.verdict.objective);
  }
  const PipeSize* cheapest = out.cheapest ? out.sizes[*out.cheapest].size : nullptr;
  std::vector<LineSize> told;
  for (LineSize& s : out.sizes) {
    const bool absurd = s.breaksMore && !s.now &&
                        (!s.verdict.balanced || (s.leastDelivery && s.leastDelivery->share() < 0.5) ||
                         s.verdict.objective > 10 * least || s.velocity_ms.value_or(0.0) > 20.0);
    (absurd ? out.folded : told).push_back(std::move(s));
  }
  // Where nothing else is left, they are all there is to be seen.
  if (told.empty()) std::swap(told, out.folded);
  out.sizes = std::move(told);
  for (std::size_t s = 0; cheapest && s < out.sizes.size(); ++s)
    if (out.sizes[s].size == cheapest) out.cheapest = s;
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
    const std::string* name = e.text(key::size);
    if (const PipeSize* size = name ? stock.pipe(*name) : nullptr) own = soldWith(*size, stock);
    if (own.empty()) {
      out.why = "it has no catalogue size";
      return out;
    }
    sizes = own;
  }
  const ReadingOf r(n, answer, id);
  const auto flow = outcomeOf(*e.part, key::flow, *r), slope = outcomeOf(*e.part, "loss per metre", *r),
             velocity = outcomeOf(*e.part, "velocity", *r);
  // f = i·2 g D/v² of Darcy and Weisbach, whatever the law of friction.
  const Geometry geometry = e.part->geometry(e.values, answer.setting);
  std::optional<double> friction;
  if (slope && velocity && std::abs(*velocity) > 1e-9 && geometry.bore_m)
    friction =
        std::abs(*slope) * 2 * answer.setting.medium.gravity_ms2 * *geometry.bore_m / (*velocity * *velocity);
  // The pump that lifts this line: the first up its way, else down it. Its own motor and drive, where it says
  // them; else the efficiencies of the costs.
  double pump = prices.pumpEfficiency,
         wire = *costOf(model.costs, costs::motorEfficiency) * *costOf(model.costs, costs::driveEfficiency);
  if (const Id p = pumpLifting(n, answer, id); p != noId) {
    const ReadingOf rp(n, answer, p);
    if (const auto eta = outcomeOf(*n.at(p).part, "efficiency", *rp)) pump = *eta;
    if (const auto power = atTheWire(model.costs, *n.at(p).part, *rp); power && power->wire_w > 0)
      wire = power->shaft_w / power->wire_w;
    out.pump = p;
  }
  if (!(prices.tariff > 0)) out.why = "no tariff is given";
  else if (!flow || !friction) out.why = "no flow";
  else
    out.bore = economicBore(sizes, std::abs(*flow), *friction, answer.setting.medium.density_kgm3, pump, wire,
                            hoursOf(model, in), prices);
  if (!out.bore && out.why.empty()) out.why = "fewer than two of its sizes have a cost";
  return out;
}

std::optional<SizeAtFlow> sizeAtFlow(const Element& pipe, const Setting& setting, const PipeSize& size,
                                     double flow_m3s) {
  Values values = pipe.values;
  values.clear(key::bore);
  values.set(key::size, size.name());
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
    if (!wanted) return tl::unexpected(Problem{{network.at(line).name, key::bore}, wanted.error().what, {}});
    return BoreGoal{element, read->outcome, std::move(*wanted)};
  }
  return tl::unexpected(
      Problem{{network.at(line).name, key::bore},
              "enter a result and its value, such as \"velocity 1.5 m/s\" or \"N-3 pressure 2 bar\"",
              {}});
}

Result<ExactBore> exactBore(const Network& network, Id line, Id element, std::string_view outcome,
                            const Given& wanted, const std::shared_ptr<const Stock>& stock,
                            const UnitSet& units, std::stop_token stop) {
  const auto fault = [&](std::string what) {
    return tl::unexpected(Problem{{network.at(line).name, key::bore}, std::move(what), {}});
  };
  const Outcome* of = findOutcome(*network.at(element).part, outcome);
  if (!of) return fault("no such result");
  const std::string* name = network.at(line).text(key::size);
  const PipeSize* size = name ? stock->pipe(*name) : nullptr;
  Draft draft(network);
  Values& v = draft.values(line);
  v.clear(key::size);
  if (size && !v.find(key::bore)) v.set(key::bore, Given{.value = size->bore_m, .typed = "0"});
  v.release(key::bore);
  draft.values(element).give(of->key, wanted);
  const Network n = std::move(draft).finish();
  const Solution answer = solve(n, stock.get(), {.units = units, .stop = std::move(stop)});
  if (!answer.summary.usable())
    return fault(answer.summary.problems.empty() ? "no bore was found"
                                                 : answer.summary.problems.front().what);
  const auto bore = answer.foundFor(line, key::bore);
  if (!bore) return fault("no bore was found");
  ExactBore out{*bore};
  if (size)
    for (const PipeSize* p : soldWith(*size, *stock)) {
      if (p->bore_m <= *bore && (!out.below || p->bore_m > out.below->bore_m)) out.below = p;
      if (p->bore_m > *bore && (!out.above || p->bore_m < out.above->bore_m)) out.above = p;
    }
  return out;
}

}  // namespace conduit

#include "pump/suction_budget.h"

#include "quantity/format.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace conduit {
namespace {

std::optional<double> outcomeOf(const Network& network, const Solution& solution, Id id,
                                std::string_view key) {
  const ReadingOf reading(network, solution, id);
  const Outcome* outcome = findOutcome(*network.at(id).part, key);
  return outcome ? outcome->of(*reading) : std::nullopt;
}

// The branch that brings the greatest flow to a point: whose it is, what it brings and the head at its other
// side.
struct Arrival {
  Id element = noId;
  Id from = noId;  // the point it comes from; none: a surface
  double flow_m3s = 0.0, headBefore_m = 0.0;
};
Arrival greatestArrival(const Network& network, const Solution& solution, Id point) {
  Arrival best;
  const auto here = solution.head(point);
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    for (std::size_t b = 0; b < solution.branchCount(id); ++b) {
      const BranchReading r = solution.branch(id, b);
      if (!here || !r.flow_m3s || !r.headFrom_m || !r.headTo_m) continue;
      const bool two = e.part->ends == Ends::two;
      if (two ? e.ends[0] == e.ends[1] : *r.headFrom_m != *here && *r.headTo_m != *here)
        continue;  // another connection of a tank
      const bool endsHere = two ? e.ends[1] == point : *r.headTo_m == *here;
      const double in = endsHere ? *r.flow_m3s : -*r.flow_m3s;
      if (in > best.flow_m3s)
        best = {id, two ? e.ends[endsHere ? 0 : 1] : noId, in, endsHere ? *r.headFrom_m : *r.headTo_m};
    }
  }
  return best;
}

}  // namespace

std::optional<SuctionBudget> suctionBudget(const Network& network, const Solution& solution,
                                           const Stock* stock, Id pump, std::stop_token stop) {
  const Element& e = network.at(pump);
  const auto available =
      solution.summary.usable() ? outcomeOf(network, solution, pump, "NPSH available") : std::nullopt;
  if (!available) return std::nullopt;
  SuctionBudget budget;
  budget.available_m = *available;
  // Up the way of the water, from the suction to where its head is given.
  Id at = e.ends[0];
  const double suctionHead = *solution.head(at);
  std::vector<char> seen(network.bound(), 0);
  std::optional<double> surface;
  for (;;) {
    seen[at] = 1;
    const Arrival arrival = greatestArrival(network, solution, at);
    const auto held = network.elementsAt(at);
    const auto holder = std::find_if(held.begin(), held.end(), [&](Id id) {
      return network.at(id).part->ends == Ends::one && solution.heldInflow_m3s[id] > 0;
    });
    if (holder != held.end() || arrival.element == noId || (arrival.from != noId && seen[arrival.from])) {
      const bool known = holder != held.end();
      budget.items.push_back({fmt::format("{} at {}", known ? "head held" : "head", network.at(at).name),
                              *solution.head(at), known ? *holder : at});
      break;
    }
    const double lost = arrival.headBefore_m - *solution.head(at);
    if (std::abs(lost) > 1e-7)  // less is rounding
      budget.items.push_back(
          {fmt::format("{} {}", lost >= 0 ? "lost in" : "gained in", network.at(arrival.element).name), -lost,
           arrival.element});
    if (arrival.from == noId) {
      surface = arrival.headBefore_m;
      budget.items.push_back(
          {fmt::format("surface of {}", network.at(arrival.element).name), *surface, arrival.element});
      break;
    }
    at = arrival.from;
  }
  std::reverse(budget.items.begin(), budget.items.end());
  const ReadingOf reading(network, solution, pump);
  const auto height = get(*reading->values, Key<Height>{"datum"}, solution.setting.medium);
  const double datumHeight = height ? height->si() : reading->ends[0].height_m.value_or(0.0),
               air = solution.setting.vapourDepth_m(datumHeight), datum = suctionHead + air - *available;
  budget.items.push_back({fmt::format("height of {}", e.name), -datum, pump});
  budget.items.push_back({"pressure of the air less that of vapour", air, noId});

  budget.required_m = outcomeOf(network, solution, pump, "NPSH required");
  budget.leastMargin_m = limitsFor(*reading->values, solution.setting).npshMargin_m.value_or(0.0);
  if (!budget.required_m) return budget;
  budget.margin_m = *available - *budget.required_m;
  if (*budget.required_m > 0) budget.ratio = *available / *budget.required_m;
  budget.higher_m = *budget.margin_m - budget.leastMargin_m;
  if (surface) budget.greatestLift_m = datum + *budget.higher_m - *surface;

  // The flow at which no more than the least margin is left: the pump is made to pass one flow after another.
  if (!e.part->figure) return budget;
  double last = 0.0;
  for (const FigureCurve& c : e.part->figure(*reading))
    for (const auto& [x, y] : c.points) last = std::max(last, x);
  const auto spare = [&](double q) -> double {
    if (stop.stop_requested()) return NAN;
    SolveOptions options;
    options.passes[pump] = q;
    options.stop = stop;
    options.startFrom = &solution;
    const Solution answer = solve(network, stock, options);
    const auto margin =
        answer.summary.usable() ? outcomeOf(network, answer, pump, "NPSH margin") : std::nullopt;
    return margin ? *margin - budget.leastMargin_m : NAN;
  };
  const double now = *outcome::flow(*reading), sign = *budget.higher_m >= 0 ? 1.0 : -1.0;
  double inside = now, outside = NAN;
  for (int k = 1; k <= 8 && std::isnan(outside); ++k) {  // outward while there is some to spare, else back
    const double q = sign > 0 ? now + (last - now) * k / 8 : now * (1 - k / 8.5);
    if (q == now) break;
    if (const double left = spare(q); std::isnan(left)) break;
    else (left * sign > 0 ? inside : outside) = q;
  }
  if (std::isnan(outside)) return budget;
  for (int k = 0; k < 30 && std::abs(outside - inside) > 1e-6 * std::abs(now); ++k) {
    const double middle = (inside + outside) / 2, left = spare(middle);
    if (std::isnan(left)) return budget;
    (left * sign > 0 ? inside : outside) = middle;
  }
  budget.flowLeft_m3s = (inside + outside) / 2;
  return budget;
}

Page pageOf(const SuctionBudget& b, const std::string& pump, const UnitSet& units) {
  const auto head = [&](double m) { return withUnit(m, Measure::headDrop, units); };
  Page::Table table{.title = "Suction of " + pump, .columns = {"", "head"}, .rows = {}};
  const auto row = [&](std::string what, std::string value) {
    table.rows.push_back({std::move(what), std::move(value)});
  };
  for (const SuctionBudget::Item& item : b.items) row(item.what, head(item.head_m));
  row("NPSH available", head(b.available_m));
  if (b.required_m) row("NPSH required", head(*b.required_m));
  if (b.margin_m) row(fmt::format("margin, of {} asked for", head(b.leastMargin_m)), head(*b.margin_m));
  if (b.higher_m)
    row(*b.higher_m >= 0 ? "could stand higher by" : "should stand lower by", head(std::abs(*b.higher_m)));
  if (b.greatestLift_m) row("maximum lift over the surface", head(*b.greatestLift_m));
  if (b.flowLeft_m3s)
    row("flow with just the margin asked for", withUnit(*b.flowLeft_m3s, Measure::volumeFlow, units));
  return {{std::move(table)}};
}

}  // namespace conduit

#include "pump/suction_budget.h"

#include "fields/keys.h"
#include "pump/cavitation.h"
#include "pump/way.h"
#include "quantity/format.h"
#include "quantity/root.h"

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

// How deep the mouth of the suction lies under the surface of a tank, and its bore: of the last step's
// connection. Empty where the connection has no height.
std::optional<std::pair<double, double>> depthOver(const Network& network, const Reading& tank,
                                                   const std::vector<Step>& steps, double surface) {
  const Element& t = network.at(steps.back().element);
  const Id joined = steps.size() > 1 ? steps[steps.size() - 2].point : noId;
  const Rows* rows = t.rows(key::connections);
  for (std::size_t i = 0; i < t.ends.size() && i < tank.ends.size(); ++i) {
    if (joined != noId && t.ends[i] != joined) continue;
    std::optional<double> z = tank.ends[i].height_m;
    if (rows && i < rows->size() && !(*rows)[i].empty() && (*rows)[i][0]) z = (*rows)[i][0]->value;
    if (z && tank.ends[i].bore_m && *tank.ends[i].bore_m > 0)
      return std::pair{surface - *z, *tank.ends[i].bore_m};
  }
  return std::nullopt;
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
  const double suctionHead = *solution.head(e.ends[0]);
  const Way way = wayUp(network, solution, e.ends[0]);
  double behind = suctionHead;
  std::optional<double> surface;
  for (const Step& step : way.steps) {
    const double lost = step.head_m - behind;
    if (std::abs(lost) > 1e-7)  // less is rounding
      budget.items.push_back(
          {fmt::format("{} {}", lost >= 0 ? "loss in" : "gain in", network.at(step.element).name), -lost,
           step.element});
    behind = step.head_m;
  }
  if (way.surface) {
    surface = way.endHead_m;
    budget.items.push_back({fmt::format("surface of {}", network.at(way.holder).name), *surface, way.holder});
  } else {
    const Id last = way.steps.empty() ? e.ends[0] : way.steps.back().point;
    budget.items.push_back(
        {fmt::format("{} at {}", way.holder != noId ? "fixed head" : "head", network.at(last).name),
         way.endHead_m, way.holder != noId ? way.holder : last});
  }
  std::reverse(budget.items.begin(), budget.items.end());
  const ReadingOf reading(network, solution, pump);
  const auto height = get(*reading->values, Key<Height>{"datum"}, solution.setting.medium);
  const Setting& setting = solution.setting;
  const double datumHeight = height ? height->si() : reading->ends[0].height_m.value_or(0.0),
               air = setting.vapourDepth_m(datumHeight), datum = suctionHead + air - *available;
  // From a surface one height matters: how far the pump stands over it.
  if (surface) {
    const double over = *surface - datum;
    SuctionBudget::Item lift{over < 0 ? fmt::format("suction lift from {}", network.at(way.holder).name)
                                      : fmt::format("suction head from {}", network.at(way.holder).name),
                             over, way.holder};
    budget.items.front() = std::move(lift);
  } else {
    budget.items.push_back({fmt::format("height of {}", e.name), -datum, pump});
  }
  budget.items.insert(
      budget.items.begin(),
      {"atmospheric pressure at the pump", setting.medium.columnOf(setting.atmosphereAt(datumHeight)), noId});
  budget.items.push_back({fmt::format("vapour pressure of {}", setting.liquid),
                          -setting.medium.columnOf(setting.vapour_pa), noId});

  const bool drawsItself = std::none_of(way.steps.begin(), way.steps.end(), [&](const Step& step) {
    return network.at(step.element).part->lifts;
  });
  // A bellmouth or open pipe below a free surface draws air from above unless it lies deep enough.
  if (surface && way.holder != noId && !way.steps.empty() && drawsItself) {
    const ReadingOf tank(network, solution, way.holder);
    const auto depth = depthOver(network, *tank, way.steps, *surface);
    if (depth) {
      budget.submergence_m = depth->first;
      const double bore = depth->second, area = M_PI * bore * bore / 4;
      const double froude =
          way.steps.back().flow_m3s / area / std::sqrt(solution.setting.medium.gravity_ms2 * bore);
      budget.leastSubmergence_m = bore * (1 + 2.3 * froude);
    }
  }

  budget.required_m = outcomeOf(network, solution, pump, "NPSH required");
  budget.leastMargin_m =
      limitsFor(*reading->values, solution.setting)[LimitId::npshMarginLeast].si.value_or(0.0);
  if (!budget.required_m) return budget;
  budget.margin_m = *available - *budget.required_m;
  if (*budget.required_m > 0) budget.ratio = *available / *budget.required_m;
  budget.higher_m = *budget.margin_m - budget.leastMargin_m;
  // Behind another pump the surface no longer says how high this one may stand.
  if (surface && drawsItself) budget.greatestLift_m = datum + *budget.higher_m - *surface;

  budget.temperature_c = temperatureWhere(
      network, solution, stock,
      [&](const Network& n, const Solution& answer) -> std::optional<double> {
        const auto margin = outcomeOf(n, answer, pump, "NPSH margin");
        return margin ? std::optional(*margin - budget.leastMargin_m) : std::nullopt;
      },
      stop);
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
  budget.flowLeft_m3s = halved(inside, outside, {.times = 30, .within = 1e-6 * std::abs(now)},
                               [&](double q) -> std::optional<bool> {
                                 const double left = spare(q);
                                 return std::isnan(left) ? std::nullopt : std::optional(left * sign > 0);
                               });
  return budget;
}

Page pageOf(const SuctionBudget& b, const std::string& pump, const UnitSet& units) {
  const auto head = [&](double m) { return withUnit(m, Measure::headDrop, units); };
  Page::Table table{.title = "Suction budget of " + pump, .columns = {"", "head"}, .rows = {}};
  const auto row = [&](std::string what, std::string value) {
    table.rows.push_back({std::move(what), std::move(value)});
  };
  for (const SuctionBudget::Item& item : b.items) row(item.what, head(item.head_m));
  row("NPSH available", head(b.available_m));
  if (b.required_m) row("NPSH required", head(*b.required_m));
  if (b.margin_m) row(fmt::format("NPSH margin ({} required)", head(b.leastMargin_m)), head(*b.margin_m));
  if (b.higher_m)
    row(*b.higher_m >= 0 ? "could be raised by" : "should be lowered by", head(std::abs(*b.higher_m)));
  if (b.greatestLift_m) row("maximum suction lift", head(*b.greatestLift_m));
  if (b.flowLeft_m3s) row("flow at required margin", withUnit(*b.flowLeft_m3s, Measure::volumeFlow, units));
  if (b.temperature_c)
    row("temperature at required margin", withUnit(*b.temperature_c, Measure::temperature, units));
  if (b.submergence_m) row("inlet submergence", head(*b.submergence_m));
  if (b.leastSubmergence_m) row("minimum submergence (ANSI/HI 9.8)", head(*b.leastSubmergence_m));
  return {{std::move(table)}};
}

}  // namespace conduit

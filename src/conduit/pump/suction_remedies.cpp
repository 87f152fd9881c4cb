#include "pump/suction_remedies.h"

#include <fmt/format.h>

#include <cmath>

#include "fields/keys.h"
#include "limits/deliveries.h"
#include "network/edits.h"
#include "parts/pump/machine.h"
#include "pump/way.h"
#include "quantity/format.h"
#include "stock/wider.h"

namespace conduit {
namespace {

struct Trials {
  const Network& network;
  const Solution& solution;
  const Stock* stock;
  const UnitSet& units;
  Id pump;
  double least_m;
  std::stop_token stop;
  std::vector<TriedRemedy> kept{};

  std::optional<TriedRemedy> tried(std::string words, std::vector<FieldEdit> edits) const {
    TriedRemedy out{.remedy = {std::move(words), std::move(edits), {}}};
    const auto edited = applyRemedy(network, out.remedy, stock, &units);
    if (!edited || stop.stop_requested()) return std::nullopt;
    const Solution answer =
        solve(edited->network, stock, {.startFrom = &solution, .units = units, .stop = stop, .offers = 0});
    if (!answer.summary.usable()) return std::nullopt;
    const ReadingOf r(edited->network, answer, pump);
    const auto margin = pump::npshMargin(*r);
    if (!margin) return std::nullopt;
    out.margin_m = *margin, out.flow_m3s = outcome::flow(*r);
    if (const std::string loss = lossSaid(
            network, deliveryChanges(deliveriesOf(network, solution), deliveriesOf(edited->network, answer)));
        !loss.empty())
      out.remedy.words += "; " + loss;
    out.remedy.goTo = {out.remedy.edits.front().name, out.remedy.edits.front().field};
    return out;
  }
  [[nodiscard]] bool enough(const TriedRemedy& r) const { return r.margin_m >= least_m - 1e-9; }
};

void tryWider(Trials& trials) {
  const Way way = wayUp(trials.network, trials.solution, trials.network.at(trials.pump).ends[0]);
  double most = 0.0, after = trials.solution.head(way.from).value_or(NAN);
  const Element* worst = nullptr;
  for (const Step& step : way.steps) {
    const Element& e = trials.network.at(step.element);
    if (e.part->geometry && step.head_m - after > most) most = step.head_m - after, worst = &e;
    after = step.head_m;
  }
  if (!worst) return;
  std::vector<std::pair<std::string, FieldEdit>> sizes;
  const std::string* name = worst->text(key::size);
  const PipeSize* size = name && trials.stock ? trials.stock->pipe(*name) : nullptr;
  if (size && !worst->given(key::bore)) {
    for (const PipeSize* wider : widerThan(*size, *trials.stock)) {
      if (sizes.size() == 3) break;
      sizes.push_back({fmt::format("Resize {} to {}", worst->name, wider->name()),
                       {worst->name, key::size, wider->name()}});
    }
  } else if (const Given* bore = worst->given(key::bore)) {
    for (const double factor : {1.25, 1.5, 2.0}) {
      const double wider = std::ceil(bore->value * factor * 200) / 200;  // to 5 mm
      sizes.push_back(
          {fmt::format("Resize {} to {}", worst->name, withUnit(wider, Measure::bore, trials.units)),
           {worst->name, key::bore, fmt::format("{:.6g} mm", wider * 1000)}});
    }
  }
  std::optional<TriedRemedy> best;
  for (auto& [words, edit] : sizes) {
    auto remedy = trials.tried(words, {edit});
    if (!remedy) continue;
    if (!best || remedy->margin_m > best->margin_m) best = std::move(remedy);
    if (trials.enough(*best)) break;
  }
  if (best) trials.kept.push_back(std::move(*best));
}

void tryLower(Trials& trials, double margin) {
  const Element& e = trials.network.at(trials.pump);
  if (e.given(pump::datum.text)) return;  // its NPSH is referred elsewhere
  std::optional<TriedRemedy> best;
  for (const double more : {1.0, 1.2, 1.6}) {
    const double by = std::ceil((trials.least_m - margin) * more * 20) / 20;  // to 5 cm
    std::vector<FieldEdit> edits;
    for (const Id end : e.ends) {
      const Given* z = trials.network.at(end).given(key::height);
      if (!z) return;
      edits.push_back({trials.network.at(end).name, key::height, fmt::format("{:.8g} m", z->value - by)});
    }
    auto remedy =
        trials.tried(fmt::format("Lower {} by {}", e.name, withUnit(by, Measure::headDrop, trials.units, 3)),
                     std::move(edits));
    if (remedy && (!best || remedy->margin_m > best->margin_m)) best = std::move(remedy);
    if (best && trials.enough(*best)) break;
  }
  if (best) trials.kept.push_back(std::move(*best));
}

void trySlower(Trials& trials) {
  const ReadingOf r(trials.network, trials.solution, trials.pump);
  const auto now = pump::runningSpeed(*r);
  if (!now || pump::keepsSomething(*r->values)) return;
  const std::string name = trials.network.at(trials.pump).name;
  const auto at = [&](double rpm) {
    return trials.tried(
        fmt::format("Run {} at {}", name, withUnit(rpm / 60, Measure::rotation, trials.units)),
        {{name, key::speed, fmt::format("{:.0f} rpm", rpm)}});
  };
  // Outward until it is enough (much slower it may no longer reach the line at all), then back to the
  // fastest.
  double high = std::floor(*now * 6) * 10, low = NAN;
  std::optional<TriedRemedy> best;
  for (const double share : {0.99, 0.97, 0.94, 0.9, 0.84, 0.77, 0.7}) {
    const double rpm = std::round(*now * 6 * share) * 10;
    auto remedy = at(rpm);
    if (!remedy) return;
    if (trials.enough(*remedy)) {
      low = rpm, best = std::move(remedy);
      break;
    }
    high = rpm;
  }
  if (!best) return;
  while (high - low > 10.5) {
    const double middle = std::round((low + high) / 20) * 10;
    auto remedy = at(middle);
    if (!remedy) return;
    if (!trials.enough(*remedy)) {
      high = middle;
    } else {
      low = middle, best = std::move(remedy);
    }
  }
  trials.kept.push_back(std::move(*best));
}

}  // namespace

std::vector<TriedRemedy> suctionRemedies(const Network& network, const Solution& solution, const Stock* stock,
                                         const UnitSet& units, Id id, std::stop_token stop) {
  if (!network.find(id) || !network.at(id).part->lifts || !solution.summary.usable()) return {};
  const ReadingOf r(network, solution, id);
  const auto margin = pump::npshMargin(*r);
  const double least = limitsFor(*r->values, *r->setting)[LimitId::npshMarginLeast].si.value_or(0.0);
  if (!margin || *margin >= least) return {};
  Trials trials{network, solution, stock, units, id, least, std::move(stop)};
  tryWider(trials);
  tryLower(trials, *margin);
  trySlower(trials);
  return std::move(trials.kept);
}

}  // namespace conduit

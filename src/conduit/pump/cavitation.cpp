#include "pump/cavitation.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "quantity/parse.h"
#include "quantity/root.h"

namespace conduit {
namespace {

std::optional<double> marginOf(const Network& network, const Solution& solution, Id id, VapourMargin::Of of) {
  const ReadingOf r(network, solution, id);
  const Part& part = *network.at(id).part;
  const Medium& medium = r->setting->medium;
  if (of == VapourMargin::Of::pump) {
    const auto margin = outcomeOf(part, "NPSH margin", *r);
    return margin ? std::optional(medium.pressureOf(*margin)) : std::nullopt;
  }
  if (of == VapourMargin::Of::valve) {
    const auto choking = outcomeOf(part, "drop at choking", *r), drop = outcomeOf(part, "pressure loss", *r);
    return choking && drop ? std::optional(*choking - *drop) : std::nullopt;
  }
  const auto head = solution.head(id);
  const Given* z = network.at(id).given(key::height);
  if (!head || !z) return std::nullopt;
  return medium.pressureOf(*head - z->value) + r->setting->atmosphereAt(z->value) - r->setting->vapour_pa;
}

}  // namespace

std::optional<double> temperatureWhere(
    const Network& network, const Solution& solution, const Stock* stock,
    const std::function<std::optional<double>(const Network&, const Solution&)>& left, std::stop_token stop) {
  if (!solution.setting.temperature_c || !solution.summary.usable()) return std::nullopt;
  Workspace space;
  const auto at = [&](double t) {
    Draft draft(network);
    draft.values(jobId).set(key::temperature, *parse(fmt::format("{:.12g} °C", t), Measure::temperature));
    const Network warm = std::move(draft).finish();
    const Solution answer =
        solve(warm, stock, {.startFrom = &solution, .stop = stop, .offers = 0, .workspace = &space});
    const auto value = answer.summary.usable() ? left(warm, answer) : std::nullopt;
    return value.value_or(NAN);
  };
  const double now = *solution.setting.temperature_c, first = at(now);
  if (std::isnan(first)) return std::nullopt;
  // Vapour pressure rises with warmth: upward while something is left, downward else, until the sign changes.
  double inside = now, outside = NAN;
  for (int k = 1; k <= 12 && std::isnan(outside); ++k) {
    const double t = now + ((first >= 0 ? 99.0 : 0.1) - now) * k / 12, value = at(t);
    if (std::isnan(value)) return std::nullopt;
    (value * first > 0 ? inside : outside) = t;
  }
  if (std::isnan(outside)) return std::nullopt;
  return halved(inside, outside, {.times = 40, .within = 1e-7}, [&](double t) -> std::optional<bool> {
    const double value = at(t);
    return std::isnan(value) ? std::nullopt : std::optional(value * first > 0);
  });
}

std::vector<VapourMargin> vapourMargins(const Network& network, const Solution& solution, const Stock* stock,
                                        std::size_t most, std::stop_token stop) {
  std::vector<VapourMargin> kinds[3];
  if (!solution.summary.usable()) return {};
  network.each([&](Id id, const Element& e) {
    using Of = VapourMargin::Of;
    const Of of = e.part->ends == Ends::self ? Of::point : e.part->lifts ? Of::pump : Of::valve;
    if (of != Of::point && !findOutcome(*e.part, of == Of::pump ? "NPSH margin" : "drop at choking")) return;
    if (const auto margin = marginOf(network, solution, id, of))
      kinds[static_cast<std::size_t>(of)].push_back({of, id, *margin, {}});
  });
  std::vector<VapourMargin> all;
  for (auto& kind : kinds) {
    std::stable_sort(kind.begin(), kind.end(),
                     [](const VapourMargin& a, const VapourMargin& b) { return a.margin_pa < b.margin_pa; });
    if (kind.size() > most) kind.resize(most);
    if (!kind.empty()) {
      VapourMargin& nearest = kind.front();
      nearest.temperature_c = temperatureWhere(
          network, solution, stock,
          [&](const Network& n, const Solution& s) { return marginOf(n, s, nearest.element, nearest.of); },
          stop);
    }
    all.insert(all.end(), kind.begin(), kind.end());
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const VapourMargin& a, const VapourMargin& b) { return a.margin_pa < b.margin_pa; });
  return all;
}

}  // namespace conduit

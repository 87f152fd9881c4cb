#include "find/exchange.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

#include "limits/limits.h"
#include "network/edits.h"
#include "network/put.h"
#include "say/words.h"

namespace conduit {

Result<std::vector<Exchange>> exchangesFor(const Network& network, const Stock* stock, const UnitSet& units,
                                           Id id, std::string_view outcome, std::string_view text,
                                           std::size_t most, std::stop_token stop) {
  const Element& e = network.at(id);
  const FieldEdit give{e.name, std::string(givenPrefix) + std::string(outcome), std::string(text)};
  const Remedy alone{
      fmt::format("Set the {} of {}", spoken(outcome), e.name), {give}, {e.name, std::string(outcome)}};
  const auto given = applyRemedy(network, alone, stock, &units);
  if (!given) return tl::unexpected(given.error());
  std::vector<Exchange> exchanges;
  // What the kind itself swaps: a tank's level for its flow.
  for (const Swap& swap : e.part->swaps) {
    const Field* field = findField(*e.part, swap.release);
    if (swap.outcome != outcome || !field || e.values.released(swap.release) ||
        (field->applies && !field->applies(e.values)))
      continue;
    exchanges.push_back(
        {{fmt::format("Set the {} of {}, solve for its {}", spoken(outcome), e.name, spoken(swap.release)),
          {{e.name, std::string(swap.give), std::string(text)},
           {e.name, std::string(foundPrefix) + std::string(swap.release), "yes"}},
          {e.name, std::string(outcome)}},
         id,
         field->key});
  }
  // More than are wanted: the element's own fields may come late, and are what is turned first.
  const Solution solved =
      solve(given->network, stock, {.units = units, .stop = std::move(stop), .offers = 3 * most});
  if (solved.summary.usable()) {
    exchanges.push_back({alone, noId, {}});
    return exchanges;
  }
  for (const Problem& problem : solved.summary.problems)
    for (const Remedy& remedy : problem.remedies) {
      if (remedy.edits.size() != 1 || !remedy.edits[0].field.starts_with(foundPrefix) ||
          remedy.edits[0].text != "yes")
        continue;
      const Id other = network.byName(remedy.edits[0].name);
      const Field* field = other == noId ? nullptr
                                         : findField(*network.at(other).part,
                                                     remedy.edits[0].field.substr(foundPrefix.size()));
      if (!field) continue;
      exchanges.push_back({{fmt::format("Set the {} of {}, solve for the {} of {}", spoken(outcome), e.name,
                                        spoken(field->key), network.at(other).name),
                            {give, remedy.edits[0]},
                            {e.name, std::string(outcome)}},
                           other,
                           field->key});
    }
  std::stable_partition(exchanges.begin(), exchanges.end(),
                        [&](const Exchange& one) { return one.element == id; });
  if (exchanges.size() > most) exchanges.resize(most);
  if (exchanges.empty()) {
    if (!solved.summary.problems.empty()) return tl::unexpected(solved.summary.problems.front());
    return tl::unexpected(
        Problem{{e.name, std::string(outcome)},
                fmt::format("nothing can be solved for in place of the {} of {}", spoken(outcome), e.name),
                {}});
  }
  return exchanges;
}

ExchangeTried tryExchange(const Network& network, const Stock* stock, const UnitSet& units,
                          const Exchange& exchange, const Solution* from, std::stop_token stop) {
  ExchangeTried tried;
  const auto edited = applyRemedy(network, exchange.remedy, stock, &units);
  if (!edited) {
    tried.why = edited.error().what;
    return tried;
  }
  const Solution solution =
      solve(edited->network, stock, {.startFrom = from, .units = units, .stop = std::move(stop)});
  tried.balances = solution.summary.usable();
  if (!tried.balances) {
    tried.why = solution.summary.problems.empty() ? solution.summary.brief(units)
                                                  : solution.summary.problems.front().what;
    return tried;
  }
  if (exchange.element != noId) tried.value_si = solution.foundFor(exchange.element, exchange.field);
  // A level or pressure that its kind swaps by itself is an outcome of the same name.
  if (!tried.value_si && exchange.element != noId) {
    const ReadingOf reading(edited->network, solution, exchange.element);
    tried.value_si = outcomeOf(*edited->network.at(exchange.element).part, exchange.field, *reading);
  }
  if (tried.value_si && exchange.element != noId) {
    const Element& e = network.at(exchange.element);
    const Field* field = findField(*e.part, exchange.field);
    const Given* was = e.given(exchange.field);
    const std::optional<double> before =
        was && field ? std::optional(resolve(*was, field->measure, solution.setting.medium))
        : field      ? field->fallback
                     : std::nullopt;
    tried.change = before && *before > 0 && *tried.value_si > 0
                       ? std::abs(std::log(*tried.value_si / *before))
                       : std::numeric_limits<double>::max();
  }
  tried.broken = standing(findings(edited->network, solution, units)).broken;
  return tried;
}

bool offeredBefore(const Exchange& one, const std::optional<ExchangeTried>& oneTried, const Exchange& other,
                   const std::optional<ExchangeTried>& otherTried, Id own) {
  const auto rank = [own](const Exchange& e, const std::optional<ExchangeTried>& t) {
    const int can = !t ? 1 : t->balances ? 0 : 2;
    return std::tuple(can, t ? t->broken : 0, e.element == own || e.element == noId ? 0 : 1,
                      t ? t->change : 0.0);
  };
  return rank(one, oneTried) < rank(other, otherTried);
}

}  // namespace conduit

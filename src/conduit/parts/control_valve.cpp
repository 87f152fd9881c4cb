#include "parts/control_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "quantity/format.h"

namespace conduit::controlvalve {
namespace {

constexpr Key<FlowCoefficient> fullKv{"Kv"};
constexpr Key<Ratio> opening{"opening"};
constexpr Key<Number> rangeability{"rangeability"};
constexpr Key<PressureDrop> leastDrop{"drop at least"};
constexpr std::string_view characters[] = {"linear", "equal percentage", "quick opening"};
bool equalPercentage(const Values& v) {
  const auto* word = v.get<std::string>("characteristic");
  return word && *word == "equal percentage";
}

const Field fields[] = {
    need(field(fullKv, 1e-6, 1e6, "fully open")),
    inSight(byDefault(field(opening, 0, 1, "share of the travel; 0 is closed"), 1.0)),
    choice("characteristic", characters, "how the coefficient follows the travel"),
    onlyWhen(byDefault(field(rangeability, 2, 1000, "of an equal percentage valve"), 50.0), equalPercentage),
    field(leastDrop, 0, 1e9, "the valve keeps control only while it takes this"),
    stockItem(),
    text("note", "anything worth saying"),
};

/// Inherent characteristic: share of the full coefficient at travel h (IEC 60534-2-4): linear h; equal percentage R^(h−1);
/// quick opening √h. Closed is closed for all.
double share(const Values& values, double h, const Medium& medium) {
  if (h <= 0) return 0.0;
  const std::string word = choiceOf(values, fields[2]);
  if (word == "equal percentage") return std::pow(getOrFallback(values, fields, rangeability, medium)->si(), h - 1.0);
  return word == "quick opening" ? std::sqrt(h) : h;
}
std::optional<double> kvNow(const Reading& r) {
  const auto kv = get(*r.values, fullKv, r.setting->medium);
  const auto h = getOrFallback(*r.values, fields, opening, r.setting->medium);
  return kv && h ? std::optional(kv->si() * share(*r.values, h->si(), r.setting->medium)) : std::nullopt;
}

/// Δp[bar] = (ρ/1000)(Q[m3/h]/Kv)² (definition of Kv, IEC 60534-1), so h = 1e5·3600²/(1000 g Kv²) Q².
double resistance(double kv, double gravity_ms2) { return 1e5 * 3600.0 * 3600.0 / (1000.0 * gravity_ms2 * kv * kv); }

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace>) {
  Prepared prepared;
  prepared.lacks = lacking(values, fields);
  if (!prepared.lacks.empty()) return prepared;
  const double h = getOrFallback(values, fields, opening, setting.medium)->si();
  const double kv = get(values, fullKv, setting.medium)->si() * share(values, h, setting.medium);
  const bool closed = kv <= 0;
  prepared.branches.push_back(
      {0, 1, std::make_unique<QuadraticLaw>(closed ? 1.0 : resistance(kv, setting.medium.gravity_ms2), std::max(kv, 1e-6) / 3600.0, false), std::nullopt, closed});
  return prepared;
}

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow},
    {"head loss", Measure::headDrop, outcome::headLoss},
    {"pressure loss", Measure::pressureDrop, outcome::pressureLoss},
    {"Kv at this opening", Measure::flowCoefficient, kvNow},
    {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
    {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
};

std::string stateWord(const Reading& r) {
  const auto kv = kvNow(r);
  return kv && *kv <= 0 ? "closed" : "open";
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r), kv = kvNow(r);
  if (stateWord(r) == "closed") return "Closed: nothing passes.";
  if (!q || !dp || !kv) return "Its flow is not determined.";
  return fmt::format("Passes {} with a {} of {}, and takes {}.", withUnit(std::abs(*q), Measure::volumeFlow, units, 3), units.unitFor(Measure::flowCoefficient).symbol,
                     asNumber(*kv, Measure::flowCoefficient, units, 3), withUnit(std::abs(*dp), Measure::pressureDrop, units, 3));
}

void check(const Reading& r, const UnitSet& units, std::vector<Check>& checks) {
  const auto least = get(*r.values, leastDrop, r.setting->medium);
  const auto dp = outcome::pressureLoss(r);
  if (!least || !dp) return;
  Check c{.label = "Drop", .measure = Measure::pressureDrop, .value = std::abs(*dp), .least = least->si()};
  if (c.broken())
    c.what = fmt::format("{} takes {}, under the {} it needs to control", r.name, withUnit(std::abs(*dp), Measure::pressureDrop, units, 3),
                         withUnit(least->si(), Measure::pressureDrop, units, 3));
  checks.push_back(std::move(c));
}

constexpr std::string_view labels[] = {"flow", "pressure loss"};

}  // namespace

const Part part{
    .key = "control valve",
    .plural = "Control valves",
    .prefix = "V",
    .letter = 'C',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 10 -6 L 10 6 Z M 0 0 L 0 -9 M -6 -9 L 6 -9 A -6 -15 12 12 0 180",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .stateWord = stateWord,
};

}  // namespace conduit::controlvalve

#include "parts/relief_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::reliefvalve {
namespace {

using seat::setPoint;
constexpr Key<FlowCoefficient> fullKv{"Kv"};

const Field fields[] = {
    assume(releasable(
               need(field(setPoint, -101325, 1e9, "set pressure: inlet gauge pressure at which it lifts"))),
           "10 bar g"),
    assume(releasable(need(field(fullKv, 1e-6, 1e6, "Kv at full lift"))), "100 Kv"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

/// Shut below its set point; lifted it lets pass what keeps its inlet there, until it is fully open.
Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (ends.empty() || !ends[0].height_m) prepared.missing.push_back({"", "a height at its inlet"});
  if (!prepared.missing.empty()) return prepared;
  const double pressure = get(values, setPoint, setting.mediumAt(ends[0].height_m))->si(),
               kv = get(values, fullKv, setting.medium)->si();
  prepared.problem = seat::underVacuum(setPoint.text, pressure, setting, *ends[0].height_m);
  const Hold hold{true, *ends[0].height_m + setting.medium.columnOf(pressure)};
  prepared.branches.push_back(
      {.from = 0,
       .to = 1,
       .law = std::make_unique<HoldingLaw>(kvResistance(kv, setting.medium.gravity_ms2), kv / 3600, hold)});
  return prepared;
}

std::string stateWord(const Reading& r) {
  const std::string word = seat::stateWord(r);
  return word == "acting" ? "lifting" : word == "wide open" ? "fully lifted" : word;
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), before = outcome::pressureBefore(r);
  if (!q || !before) return "Flow not determined.";
  const std::string state = stateWord(r),
                    set = withUnit(seat::setPressure(r, true), Measure::gaugePressure, units, 3);
  if (state == "shut")
    return fmt::format("Shut: inlet pressure {}, below its set pressure of {}.",
                       withUnit(*before, Measure::gaugePressure, units, 3), set);
  if (state == "lifting")
    return fmt::format("Lifting: relieves {}, holds inlet pressure at {}.",
                       withUnit(*q, Measure::volumeFlow, units, 3), set);
  return fmt::format("Fully lifted: relieves {}, inlet pressure {}, above its set pressure of {}.",
                     withUnit(*q, Measure::volumeFlow, units, 3),
                     withUnit(*before, Measure::gaugePressure, units, 3), set);
}
void check(const Reading& r, Checks& checks) {
  const auto before = outcome::pressureBefore(r), q = outcome::flow(r);
  if (!before || !q || stateWord(r) == "shut" || *q <= 0) return;
  const bool full = stateWord(r) == "fully lifted";
  Check& c = checks.say(CheckId::setPoint, full ? Severity::broken : Severity::near);
  if (!checks.told(c)) return;
  c.what = full ? fmt::format("{} is fully lifted and cannot hold {}: inlet pressure {}", r.name,
                              withUnit(seat::setPressure(r, true), Measure::gaugePressure, checks.units(), 3),
                              withUnit(*before, Measure::gaugePressure, checks.units(), 3))
                : fmt::format("{} has lifted and relieves {}", r.name,
                              withUnit(*q, Measure::volumeFlow, checks.units(), 3));
}

NoFlow atNoFlow(const Reading& r) {
  return {NoFlow::Way::relieves, r.setting->medium.columnOf(seat::setPressure(r, true))};
}

constexpr std::string_view labels[] = {"pressure before", "flow"};

}  // namespace

const Part part{
    .key = "relief valve",
    .plural = "Relief valves",
    .prefix = "V",
    .letter = 'E',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 0 0 Z M 10 -6 L 10 6 L 0 0 Z M 0 0 L -3 -4 L 3 -7 L -3 -10 L 3 -13 L 0 -15",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .atNoFlow = atNoFlow,
    .stateWord = stateWord,
};

}  // namespace conduit::reliefvalve

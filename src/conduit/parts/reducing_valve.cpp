#include "parts/reducing_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/across.h"
#include "parts/seat.h"
#include "quantity/format.h"

namespace conduit::reducingvalve {
namespace {

using seat::stateWord;

const auto fields = joined(seat::holdingFields("gauge pressure held at its outlet or sensing point",
                                               "sensing point; default: its outlet"),
                           std::to_array<Field>({
                               byDefault(limitField(LimitId::cavitationIndexLeast), 1.5),
                               limitField(LimitId::dropRatioMost),
                           }));

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  return seat::preparedHolding(values, fields, setting, ends, false);
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), before = outcome::pressureBefore(r), after = outcome::pressureAfter(r);
  if (!q) return "Flow not determined.";
  const std::string state = stateWord(r);
  if (state == "shut") return "Shut: downstream pressure is above its set point or its inlet.";
  if (!before || !after) return fmt::format("Passes {}.", withUnit(*q, Measure::volumeFlow, units, 3));
  if (state == "acting")
    return fmt::format("Controlling: reduces {} from {} to {}.", withUnit(*q, Measure::volumeFlow, units, 3),
                       withUnit(*before, Measure::gaugePressure, units, 3),
                       withUnit(*after, Measure::gaugePressure, units, 3));
  return fmt::format("Wide open: passes {} at {}; inlet pressure is too low for its set point.",
                     withUnit(*q, Measure::volumeFlow, units, 3),
                     withUnit(*after, Measure::gaugePressure, units, 3));
}

void check(const Reading& r, Checks& checks) {
  across::check(r, fields, checks);
  if (stateWord(r) != "wide open") return;
  const auto after = outcome::pressureAfter(r), q = outcome::flow(r);
  const double set = seat::setPressure(r, false);
  if (!after || !q || *after >= set - 1.0) return;
  Check& c = checks.hold(CheckId::setPoint, *after, {set, LimitFrom::own}, {}, Severity::near);
  if (checks.told(c))
    c.what = fmt::format("{} is wide open: outlet pressure {}, set point {}", r.name,
                         withUnit(*after, Measure::gaugePressure, checks.units(), 3),
                         withUnit(set, Measure::gaugePressure, checks.units(), 3));
}

NoFlow atNoFlow(const Reading& r) {
  return {NoFlow::Way::keeps, r.setting->medium.columnOf(seat::setPressure(r, false)),
          seat::named(*r.values, "senses")};
}

const std::vector<Outcome>& outcomes() {
  static const std::vector<Outcome> table = [] {
    std::vector<Outcome> all(seat::outcomes().begin(), seat::outcomes().end());
    all.push_back({"cavitation index", Measure::number, across::cavitationIndex});
    all.push_back({"pressure ratio", Measure::number, across::pressureRatio});
    return all;
  }();
  return table;
}

constexpr std::string_view labels[] = {"pressure before", "pressure after"};

}  // namespace

const Part part{
    .key = "reducing valve",
    .plural = "Reducing valves",
    .prefix = "V",
    .letter = 'R',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol =
        "M -10 -6 L -10 6 L 0 0 Z F M 10 -6 L 10 6 L 0 0 Z M 0 0 L 0 -8 M -5 -8 L 5 -8 L 5 -15 L -5 -15 Z M "
        "5 -11.5 L 14 -11.5 L 14 0",
    .fields = fields,
    .outcomes = outcomes(),
    .labels = labels,
    .labelsJoin = " → ",
    .prepare = prepare,
    .story = story,
    .check = check,
    .lacks = [](const Reading& r) { return across::lacks(r, fields); },
    .atNoFlow = atNoFlow,
    .working = across::working,
    .stateWord = stateWord,
};

}  // namespace conduit::reducingvalve

#include "parts/sustaining_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/seat.h"
#include "quantity/format.h"

namespace conduit::sustainingvalve {
namespace {

using seat::stateWord;

const auto fields = seat::holdingFields("minimum gauge pressure held at its inlet or sensing point",
                                        "sensing point; default: its inlet");

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  return seat::preparedHolding(values, fields, setting, ends, true);
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), before = outcome::pressureBefore(r), after = outcome::pressureAfter(r);
  if (!q) return "Flow not determined.";
  const std::string state = stateWord(r);
  if (state == "shut") return "Shut: inlet pressure is below its set point or its outlet.";
  if (!before || !after) return fmt::format("Passes {}.", withUnit(*q, Measure::volumeFlow, units, 3));
  if (state == "acting")
    return fmt::format("Controlling: passes {}, inlet held at {}, outlet {}.",
                       withUnit(*q, Measure::volumeFlow, units, 3),
                       withUnit(*before, Measure::gaugePressure, units, 3),
                       withUnit(*after, Measure::gaugePressure, units, 3));
  return fmt::format("Wide open: passes {}, inlet pressure {}, above its set point.",
                     withUnit(*q, Measure::volumeFlow, units, 3),
                     withUnit(*before, Measure::gaugePressure, units, 3));
}

void check(const Reading& r, Checks& checks) {
  const auto before = outcome::pressureBefore(r);
  const double set = seat::setPressure(r, true);
  if (stateWord(r) != "shut" || !before || !seat::named(*r.values, "senses").empty() || *before >= set - 1.0)
    return;
  Check& c = checks.hold(CheckId::setPoint, *before, {set, LimitFrom::own}, {}, Severity::near);
  if (checks.told(c))
    c.what = fmt::format("{} is shut: inlet pressure {}, set point {}", r.name,
                         withUnit(*before, Measure::gaugePressure, checks.units(), 3),
                         withUnit(set, Measure::gaugePressure, checks.units(), 3));
}

constexpr std::string_view labels[] = {"pressure before", "pressure after"};

}  // namespace

const Part part{
    .key = "sustaining valve",
    .plural = "Sustaining valves",
    .prefix = "V",
    .letter = 'U',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol =
        "F M -10 -6 L -10 6 L 0 0 Z M 10 -6 L 10 6 L 0 0 Z M 0 0 L 0 -8 M -5 -8 L 5 -8 L 5 -15 L -5 -15 Z M "
        "-5 -11.5 L -14 -11.5 L -14 0",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .labelsJoin = " → ",
    .prepare = prepare,
    .story = story,
    .check = check,
    .stateWord = stateWord,
};

}  // namespace conduit::sustainingvalve

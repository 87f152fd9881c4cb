#include "parts/fixed_pressure.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::fixedpressure {
namespace {

constexpr Key<GaugePressure> pressure{"pressure"};
constexpr Key<VolumeFlow> flowIn{"flow in"};
bool pressureFound(const Values& v) { return v.released(pressure.text); }

const Field fields[] = {
    assume(releasable(adjusts(need(field(pressure, -101325, 1e9, "pressure held at the point at any flow")))),
           "0 bar g"),
    onlyWhen(need(field(flowIn, -1e4, 1e4, "inflow when its pressure is to be found; negative: outflow")),
             pressureFound),
    limitField(LimitId::flowInLeast, "minimum flow that it gives the network"),
    limitField(LimitId::flowInMost, "maximum flow that it gives the network"),
    limitField(LimitId::flowOutLeast, "minimum flow that it takes from the network"),
    limitField(LimitId::flowOutMost, "maximum flow that it takes from the network"),
    waivedField(),
};

std::optional<double> foundFlow(const Reading& r) {
  if (pressureFound(*r.values)) {
    const auto q = get(*r.values, flowIn, r.setting->medium);
    return q ? std::optional(q->si()) : std::nullopt;
  }
  return r.inflow_m3s;
}
std::optional<double> foundPressure(const Reading& r) {
  if (const auto p =
          get(*r.values, pressure, r.setting->mediumAt(r.ends.empty() ? std::nullopt : r.ends[0].height_m)))
    return p->si();
  if (!r.head_m || r.ends.empty() || !r.ends[0].height_m) return std::nullopt;
  return r.setting->medium.pressureOf(*r.head_m - *r.ends[0].height_m);
}
const Outcome outcomes[] = {
    {"flow in", Measure::volumeFlow, foundFlow, SignBy::giving},
    {"pressure", Measure::gaugePressure, foundPressure},
};
const Swap swaps[] = {{"flow in", "pressure", "flow in"}};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (ends.empty() || !ends[0].height_m) prepared.missing.push_back({"", "a point with a height"});
  if (!prepared.missing.empty()) return prepared;
  if (pressureFound(values)) prepared.inflow_m3s = get(values, flowIn, setting.medium)->si();
  else
    prepared.holdsHead_m =
        *ends[0].height_m +
        setting.medium.columnOf(get(values, pressure, setting.mediumAt(ends[0].height_m))->si());
  return prepared;
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = foundFlow(r), p = foundPressure(r);
  if (!q || !p) return "Flow not determined.";
  return fmt::format(
      "{} {} at {}{}.", *q >= 0 ? "Supplies" : "Takes", withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
      pressureFound(*r.values) ? "a calculated " : "", withUnit(*p, Measure::gaugePressure, units));
}

constexpr std::string_view labels[] = {"pressure", "flow in"};

}  // namespace

const Part part{.key = "fixed pressure",
                .plural = "Fixed pressures",
                .prefix = "F",
                .letter = 'F',
                .group = Group::supply,
                .ends = Ends::one,
                .symbol = "O -6 0 6 M 0 0 L 12 0 M 8 -4 L 12 0 L 8 4",
                .fields = fields,
                .outcomes = outcomes,
                .swaps = swaps,
                .labels = labels,
                .prepare = prepare,
                .story = story,
                .holdsHead = true};

}  // namespace conduit::fixedpressure

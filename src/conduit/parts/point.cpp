#include "parts/point.h"

#include <fmt/format.h>

#include "quantity/format.h"

namespace conduit::point {
namespace {

constexpr Key<Height> height{"height"};
constexpr Key<VolumeFlow> outflow{"outflow"}, inflow{"inflow"};

constexpr std::string_view changes[] = {"not counted", "sudden", "cone"};
bool cone(const Values& v) {
  const auto* word = v.get<std::string>("change of bore");
  return word && *word == "cone";
}

bool tee(const Values& v) { return v.find("tee branch") != nullptr; }

const Field fields[] = {
    assume(need(field(height, -12000, 9000, "pipe centreline height above datum")), "0 m"),
    releasable(inSight(field(outflow, -1e4, 1e4, "outflow here, independent of pressure"))),
    releasable(field(inflow, -1e4, 1e4, "inflow here, independent of pressure")),
    choice("change of bore", changes,
           "loss of the reducer or enlargement between the two pipes here, by flow direction; included in "
           "the narrower pipe"),
    onlyWhen(
        byDefault(field(Key<Number>{"cone angle"}, 1, 180, "included angle of the reducer, degrees"), 30.0),
        cone),
    nameOf("tee branch", "pipe",
           "branch pipe of a three-pipe tee: tee losses then depend on the flow split (Gardel 1957)"),
    onlyWhen(byDefault(field(Key<Number>{"tee angle"}, 30, 90, "branch angle, degrees; 90 for a square tee"),
                       90.0),
             tee),
    onlyWhen(byDefault(field(Key<Ratio>{"tee fillet"}, 0, 0.15, "branch radius / run bore"), 0.0), tee),
    nameOf(serviceKey, "service", "name of the service whose limits apply"),
    field(Key<GaugePressure>{"pressure at least"}, -101325, 1e9, "here, overriding the job's"),
    field(Key<GaugePressure>{"pressure at most"}, -101325, 1e9, "here, overriding the job's"),
};

std::optional<double> heightOf(const Reading& r) {
  const auto z = get(*r.values, height, r.setting->medium);
  return z ? std::optional(z->si()) : std::nullopt;
}
std::optional<double> head(const Reading& r) { return r.head_m; }
std::optional<double> pressure(const Reading& r) {
  const auto z = heightOf(r);
  if (!r.head_m || !z) return std::nullopt;
  return r.setting->medium.pressureOf(*r.head_m - *z);
}
std::optional<double> absolutePressure(const Reading& r) {
  const auto p = pressure(r);
  return p ? std::optional(*p + r.setting->atmosphereAt(*heightOf(r))) : std::nullopt;
}

const Outcome outcomes[] = {
    {"pressure", Measure::gaugePressure, pressure},
    {"head", Measure::head, head},
    {"absolute pressure", Measure::absolutePressure, absolutePressure},
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace>) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (const auto q = get(values, outflow, setting.medium)) prepared.inflow_m3s -= q->si();
  if (const auto q = get(values, inflow, setting.medium)) prepared.inflow_m3s += q->si();
  return prepared;
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto p = pressure(r);
  std::string text;
  const auto out = get(*r.values, outflow, r.setting->medium);
  const auto in = get(*r.values, inflow, r.setting->medium);
  if (out && out->si() != 0)
    text += fmt::format("Draws off {}. ", withUnit(out->si(), Measure::volumeFlow, units, 3));
  if (in && in->si() != 0)
    text += fmt::format("Feeds in {}. ", withUnit(in->si(), Measure::volumeFlow, units, 3));
  if (!p) return text + "Pressure not determined.";
  return text + fmt::format("At {}: the hydraulic grade is {} {} the pipe.",
                            withUnit(*p, Measure::gaugePressure, units),
                            withUnit(std::abs(r.setting->medium.columnOf(*p)), Measure::headDrop, units),
                            *p < 0 ? "below" : "above");
}

void check(const Reading& r, const UnitSet& units, std::vector<Check>& checks) {
  const auto p = pressure(r);
  if (!p) return;
  const double absolute = *p + r.setting->atmosphereAt(*heightOf(r));
  if (absolute < 0) {
    checks.push_back({.label = "Absolute pressure",
                      .measure = Measure::absolutePressure,
                      .value = absolute,
                      .least = 0.0,
                      .severity = Severity::paper,
                      .what = fmt::format("the pressure at {} would have to be {}, below full vacuum", r.name,
                                          withUnit(absolute, Measure::absolutePressure, units))});
  } else {
    checks.push_back(
        {.label = "Vapour pressure",
         .measure = Measure::absolutePressure,
         .value = absolute,
         .least = r.setting->vapour_pa,
         .severity = Severity::paper,
         .what = absolute < r.setting->vapour_pa
                     ? fmt::format("the liquid would vaporise at {}: {}, vapour pressure {}", r.name,
                                   withUnit(absolute, Measure::absolutePressure, units),
                                   withUnit(r.setting->vapour_pa, Measure::absolutePressure, units))
                     : std::string()});
  }
  const auto out = get(*r.values, outflow, r.setting->medium);
  if (out && out->si() > 0 && *p < 0 && absolute >= 0)
    checks.push_back({.label = "Outflow",
                      .measure = Measure::gaugePressure,
                      .value = *p,
                      .least = 0.0,
                      .severity = Severity::paper,
                      .what = fmt::format("{} cannot supply {}: the pressure would be {}, below atmospheric",
                                          r.name, withUnit(out->si(), Measure::volumeFlow, units, 3),
                                          withUnit(*p, Measure::gaugePressure, units, 3))});
  const Limits limits = limitsFor(*r.values, *r.setting, heightOf(r));
  if (limits.pressureLeast_pa || limits.pressureMost_pa)
    checks.push_back({.label = "Pressure",
                      .measure = Measure::gaugePressure,
                      .value = *p,
                      .least = limits.pressureLeast_pa,
                      .most = limits.pressureMost_pa});
  if (limits.absoluteLeast_pa && absolute >= 0)
    checks.push_back({.label = "Minimum absolute pressure",
                      .measure = Measure::absolutePressure,
                      .value = absolute,
                      .least = limits.absoluteLeast_pa});
}

constexpr std::string_view labels[] = {"pressure"};

}  // namespace

const Part part{
    .key = "point",
    .plural = "Points",
    .prefix = "N",
    .letter = 'N',
    .group = Group::line,
    .ends = Ends::self,
    .symbol = "O 0 0 3.5",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
};

}  // namespace conduit::point

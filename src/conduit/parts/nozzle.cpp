#include "parts/nozzle.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::nozzle {
namespace {

constexpr Key<NozzleFactor> factor{"K-factor"};

const Field fields[] = {
    assume(releasable(need(field(factor, 1e-12, 10, "q = K √p, p = gauge pressure at the nozzle inlet"))),
           "80 L/min/bar^0.5"),
    opens(inSight(flag("open", true, "no: closed, no discharge")), "Open"),
    limitField(LimitId::pressureLeast, "minimum pressure for an effective jet"),
    limitField(LimitId::pressureMost, "maximum pressure for jet and hose"),
    limitField(LimitId::flowLeast, "minimum flow that it must discharge"),
    limitField(LimitId::flowMost, "maximum flow that it may discharge"),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

/// q = K √p (NFPA 13, EN 12845), p gauge at the nozzle's point, so h = q²/(K² ρ g) against the open air;
/// nothing enters.
Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (ends.empty() || !ends[0].height_m) prepared.missing.push_back({"", "a point with a height"});
  if (!prepared.missing.empty()) return prepared;
  const double k = get(values, factor, setting.medium)->si();
  prepared.vessels.push_back({*ends[0].height_m, 0.0, *ends[0].height_m});
  prepared.branches.push_back(
      {0, -1,
       std::make_unique<QuadraticLaw>(setting.medium.columnOf(1.0 / (k * k)), k * std::sqrt(3e5), true),
       std::nullopt, !flagOf(values, fields[1])});
  return prepared;
}

std::optional<double> pressure(const Reading& r) { return endPressure_pa(r, 0); }
const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow},
    {"pressure", Measure::gaugePressure, pressure},
};

std::string stateWord(const Reading& r) {
  if (!flagOf(*r.values, fields[1])) return "closed";
  return !r.branches.empty() && r.branches[0].state == BranchState::shut ? "dry" : "open";
}
std::string story(const Reading& r, const UnitSet& units) {
  if (stateWord(r) == "closed") return "Closed: no discharge.";
  const auto q = outcome::flow(r), p = pressure(r);
  if (!q || !p) return "Flow not determined.";
  if (stateWord(r) == "dry") return "Dry: pressure below atmospheric, no discharge.";
  return fmt::format("Discharges {} at {}.", withUnit(*q, Measure::volumeFlow, units, 3),
                     withUnit(*p, Measure::gaugePressure, units, 3));
}

void check(const Reading& r, Checks& checks) {
  const std::string state = stateWord(r);
  const auto p = pressure(r);
  if (state == "closed" || !p) return;
  if (state == "dry") {
    Check& c = checks.say(CheckId::dry, Severity::broken);
    if (checks.told(c))
      c.what = fmt::format("{} is dry: its inlet pressure is {}", r.name,
                           withUnit(*p, Measure::gaugePressure, checks.units(), 3));
    return;
  }
  const Limit least = ownLimit(*r.values, LimitId::pressureLeast, r.setting->medium),
              most = ownLimit(*r.values, LimitId::pressureMost, r.setting->medium);
  if (!least && !most) return;
  Check& c = checks.hold(CheckId::pressure, *p, least, most);
  if (checks.told(c))
    c.what = fmt::format("{} operates at {}, {} {}", r.name,
                         withUnit(*p, Measure::gaugePressure, checks.units(), 3), c.low() ? "below" : "above",
                         withUnit(c.low() ? *c.least : *c.most, Measure::gaugePressure, checks.units(), 3));
}

std::optional<Working> working(const Reading& r, std::string_view key) {
  const auto q = outcome::flow(r), p = pressure(r);
  const auto k = get(*r.values, factor, r.setting->medium);
  if (key != "flow" || !q || !p || !k || stateWord(r) != "open" || *p <= 0) return std::nullopt;
  Working w{.title = fmt::format("Flow of {}", r.name)};
  w.lines.push_back({"Q", "K·√p", fmt::format("{:.12g}·√{:.12g}", k->si(), *p), k->si() * std::sqrt(*p),
                     "m³/s", "NFPA 13, EN 12845; p = inlet gauge pressure in Pa, K in m³/s per √Pa"});
  return w;
}

constexpr std::string_view labels[] = {"flow"};

}  // namespace

const Part part{
    .key = "nozzle",
    .plural = "Nozzles",
    .prefix = "Z",
    .letter = 'Z',
    .group = Group::drawOff,
    .ends = Ends::one,
    .symbol = "M 0 0 L 5 0 M 13 -7 L 5 -3 L 5 3 L 13 7",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .working = working,
    .stateWord = stateWord,
};

}  // namespace conduit::nozzle

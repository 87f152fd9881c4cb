#include "parts/point.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/waiver.h"
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
    assume(
        choice("change of bore", changes,
               "loss of the reducer or enlargement between the two pipes here, by flow direction; included "
               "in the narrower pipe"),
        changes[2]),
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
    limitField(LimitId::pressureLeast, "here, overriding the job's"),
    limitField(LimitId::pressureMost, "here, overriding the job's"),
    limitField(LimitId::flowLeast, "minimum of what enters or leaves here"),
    limitField(LimitId::flowMost, "maximum of what enters or leaves here"),
    waivedField(),
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

class PointGauge final : public Gauge {
 public:
  PointGauge(const Values& values, const Setting& setting)
      : pascalPerMetre_(setting.medium.pressureOf(1.0)), vapour_pa_(setting.vapour_pa) {
    const auto z = get(values, height, setting.medium);
    if (!z) return;
    height_m_ = z->si(), air_pa_ = setting.atmosphereAt(height_m_);
    const Limits limits = limitsFor(values, setting, height_m_);
    least_ = limits[LimitId::pressureLeast], most_ = limits[LimitId::pressureMost];
    absolute_ = limits[LimitId::absoluteLeast];
    if (const auto q = get(values, outflow, setting.medium)) out_m3s_ = q->si();
    out_ = out_m3s_;
    if (const auto q = get(values, inflow, setting.medium)) out_ -= q->si();
    flowLeast_ = ownLimit(values, LimitId::flowLeast, setting.medium);
    flowMost_ = ownLimit(values, LimitId::flowMost, setting.medium);
  }

  void look(const Reading& r, Checks& checks) const override {
    checkFlow(r, std::abs(out_), flowLeast_, flowMost_, out_ < 0 ? "feeds in" : "draws off", checks);
    if (!r.head_m || !(height_m_ == height_m_)) return;
    const double p = pascalPerMetre_ * (*r.head_m - height_m_), absolute = p + air_pa_;
    if (absolute < 0) {
      Check& c = checks.hold(CheckId::vacuum, absolute, {0.0, LimitFrom::law}, {}, Severity::paper);
      if (checks.told(c))
        c.what = fmt::format("the pressure at {} would have to be {}, below full vacuum", r.name,
                             withUnit(absolute, Measure::absolutePressure, checks.units()));
    } else {
      Check& c = checks.hold(CheckId::vapour, absolute, {vapour_pa_, LimitFrom::law}, {}, Severity::paper);
      if (checks.told(c))
        c.what = fmt::format("the liquid would vaporise at {}: {}, vapour pressure {}", r.name,
                             withUnit(absolute, Measure::absolutePressure, checks.units()),
                             withUnit(vapour_pa_, Measure::absolutePressure, checks.units()));
    }
    if (out_m3s_ > 0 && p < 0 && absolute >= 0) {
      Check& c = checks.hold(CheckId::drawOff, p, {0.0, LimitFrom::law}, {}, Severity::paper);
      if (checks.told(c))
        c.what = fmt::format("{} cannot supply {}: the pressure would be {}, below atmospheric", r.name,
                             withUnit(out_m3s_, Measure::volumeFlow, checks.units(), 3),
                             withUnit(p, Measure::gaugePressure, checks.units(), 3));
    }
    if (least_ || most_) checks.hold(CheckId::pressure, p, least_, most_);
    if (absolute_ && absolute >= 0) checks.hold(CheckId::absolutePressure, absolute, absolute_, {});
  }

 private:
  double pascalPerMetre_, vapour_pa_, height_m_ = NAN, air_pa_ = 0.0;
  double out_m3s_ = 0.0, out_ = 0.0;  // drawn off; less what is fed in
  Limit least_, most_, absolute_, flowLeast_, flowMost_;
};

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
    .gauge = [](const Values& values, const Setting& setting, std::span<const EndPlace>)
        -> std::unique_ptr<const Gauge> { return std::make_unique<PointGauge>(values, setting); },
};

}  // namespace conduit::point

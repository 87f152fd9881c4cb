#include "parts/pipe/gauge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/pipe/line.h"
#include "parts/pipe/rating.h"
#include "quantity/format.h"
#include "stock/sold.h"

namespace conduit::pipe {
namespace {

class PipeGauge final : public Gauge {
 public:
  PipeGauge(const Values& values, const Setting& setting, std::span<const EndPlace> ends)
      : laid_(isLaid(values)), pascalPerMetre_(setting.medium.pressureOf(1.0)) {
    if (!laid_) return;
    const Limits limits = limitsFor(values, setting);
    if (const auto section = sectionOf(values, setting)) {
      area_m2_ = section->area_m2;
      if (!setting.hazenWilliams && !setting.manning) {
        perVelocity_ = section->hydraulic_m * section->phi / setting.viscosity_m2s;
        if (const auto e = get(values, roughness, setting.medium); e && section->hydraulic_m > 0)
          rough_ = e->si() / section->hydraulic_m;
      }
    }
    gradientMost_ = limits[LimitId::gradientMost];
    if (gradientMost_)
      if (const auto line = lineOf(values, setting, ends); line && line->length_m > 0)
        length_m_ = line->length_m;
    velocityLeast_ = limits[LimitId::velocityLeast], velocityMost_ = limits[LimitId::velocityMost];
    flowLeast_ = ownLimit(values, LimitId::flowLeast, setting.medium);
    flowMost_ = ownLimit(values, LimitId::flowMost, setting.medium);
    rating_ = ratingOf(values, setting, limits);
    const PipeSize* size = sizeOf(values, setting);
    if (size && setting.temperature_c && !derating(*size, *setting.temperature_c) &&
        !values.find(limitRow(LimitId::ratingMost).key))
      tooWarm_ = size;
    for (std::size_t i = 0; i < 2 && i < ends.size(); ++i)
      if (ends[i].height_m) height_m_[i] = *ends[i].height_m, air_pa_[i] = setting.atmosphereAt(height_m_[i]);
  }

  void look(const Reading& r, Checks& checks) const override {
    if (!laid_ || r.branches.empty()) return;
    const BranchReading& b = r.branches[0];
    const auto q = b.flow_m3s;
    if (gradientMost_ && length_m_ && b.headFrom_m && b.headTo_m) {
      const double slope = std::abs(*b.headFrom_m - *b.headTo_m) / *length_m_;
      Check& c = checks.hold(CheckId::gradient, slope, {}, gradientMost_);
      if (checks.told(c))
        c.what = fmt::format("gradient of {} is {}, above {}", r.name,
                             withUnit(slope, Measure::ratio, checks.units(), 3),
                             withUnit(*c.most, Measure::ratio, checks.units(), 3));
    }
    const std::optional<double> v = q && area_m2_ > 0 ? std::optional(std::abs(*q) / area_m2_) : std::nullopt;
    if (v && std::abs(*q) > 1e-9 && (velocityLeast_ || velocityMost_)) {
      Check& c = checks.hold(CheckId::velocity, *v, velocityLeast_, velocityMost_);
      if (checks.told(c)) tellVelocity(r, c, checks.units());
    }
    if (v && std::abs(*q) > 1e-9 && perVelocity_ > 0) checkLaw(r, *v * perVelocity_, checks);
    if (q) checkFlow(r, std::abs(*q), flowLeast_, flowMost_, "carries", checks);
    if (tooWarm_) {
      Check& c = checks.hold(CheckId::ratedTemperature, *r.setting->temperature_c, {},
                             {warmest_c(*tooWarm_), LimitFrom::catalogue});
      if (checks.told(c))
        c.what = fmt::format("{} carries liquid at {} °C; no rating of {} is available at that temperature",
                             r.name, digits(*r.setting->temperature_c, 3), tooWarm_->material);
    }
    if (!v) return;
    // What the wall feels at each end: the point's pressure less the velocity head.
    std::array<std::optional<double>, 2> point, wall;
    for (std::size_t i = 0; i < 2; ++i) {
      const auto head = i == 0 ? b.headFrom_m : b.headTo_m;
      if (!head || !(height_m_[i] == height_m_[i])) continue;
      point[i] = pascalPerMetre_ * (*head - height_m_[i]);
      wall[i] = *point[i] - r.setting->medium.dynamicPressure(*v);
    }
    if (rating_ && wall[0] && wall[1]) {
      Check& c = checks.hold(CheckId::rating, std::max(*wall[0], *wall[1]), {}, rating_);
      if (checks.told(c)) tellRating(r, c, checks.units());
    }
    for (std::size_t i = 0; i < 2; ++i) {
      if (!wall[i]) continue;
      const double absolute = *wall[i] + air_pa_[i], vapour = r.setting->vapour_pa;
      // The point's own check says it when still water there would already boil; here only what speed takes
      // off.
      if (absolute >= vapour || *point[i] + air_pa_[i] < vapour) continue;
      Check& c = checks.hold(CheckId::vapour, absolute, {vapour, LimitFrom::law}, {}, Severity::paper);
      c.at = static_cast<std::uint8_t>(i);
      if (checks.told(c))
        c.what = fmt::format("the liquid would vaporise at the {} of {}: static pressure {}",
                             i == 0 ? "start" : "end", r.name,
                             withUnit(absolute, Measure::absolutePressure, checks.units()));
    }
  }

 private:
  // Where no friction law is agreed, or is used beyond what it was measured for.
  void checkLaw(const Reading& r, double re, Checks& checks) const {
    if (re > friction::laminarEnd_re && re < friction::turbulentBegin_re) {
      Check& c =
          checks.hold(CheckId::regime, re, {friction::turbulentBegin_re, LimitFrom::law}, {}, Severity::note);
      if (checks.told(c))
        c.what = fmt::format("flow in {} is transitional, Re {}: between {} and {} its friction is uncertain",
                             r.name, digits(re, 3), friction::laminarEnd_re, friction::turbulentBegin_re);
    }
    if (rough_ > mostRough && re >= friction::turbulentBegin_re) {
      Check& c = checks.hold(CheckId::roughness, rough_, {}, {mostRough, LimitFrom::law}, Severity::note);
      if (checks.told(c))
        c.what = fmt::format("relative roughness of {} is {}; Colebrook-White holds to {}", r.name,
                             digits(rough_, 2), mostRough);
    }
  }

  static void tellVelocity(const Reading& r, Check& c, const UnitSet& units) {
    c.what = fmt::format("velocity in {} is {}, {} {}", r.name,
                         withUnit(c.value, Measure::velocity, units, 3), c.low() ? "below" : "above",
                         withUnit(c.low() ? *c.least : *c.most, Measure::velocity, units, 3));
    if (c.low()) return;
    // The next stock-like remedy: the bore at which the present flow meets the limit, said, not stocked.
    const double d = *boreOf(*r.values, *r.setting) * std::sqrt(c.value / *c.most);
    // A size of the catalogue stays one of its standard and schedule; a bore becomes that of common steel
    // pipe.
    const PipeSize *own = sizeOf(*r.values, *r.setting), *next = nullptr;
    std::vector<const PipeSize*> sizes;
    if (own) sizes = soldWith(*own, *r.setting->stock);
    else if (r.setting->stock)
      for (const PipeSize& size : r.setting->stock->pipes)
        if (size.standard == "ASME B36.10M" && size.schedule == "40") sizes.push_back(&size);
    for (const PipeSize* size : sizes)
      if (size->bore_m >= d && (!next || size->bore_m < next->bore_m)) next = size;
    if (own && next) {
      c.remedies.push_back({fmt::format("Resize {} to {}", r.name, next->name()),
                            {{r.name, "size", next->name()}},
                            {r.name, "size"}});
    } else if (!own) {
      const std::string text = fmt::format("{:.1f} mm", next ? next->bore_m * 1000 : std::ceil(d * 1000));
      c.remedies.push_back({fmt::format("Change the bore of {} to {}", r.name, text),
                            {{r.name, "bore", text}, {r.name, "size", ""}},
                            {r.name, "bore"}});
    }
  }

  bool laid_;
  // Nikuradse's roughest pipe, and the end of the charts drawn from Colebrook's formula.
  static constexpr double mostRough = 0.05;
  double pascalPerMetre_, area_m2_ = 0.0;
  double perVelocity_ = 0.0, rough_ = 0.0;  // Re over velocity; ε/D; by Darcy-Weisbach alone
  std::optional<double> length_m_;          // where a gradient is asked for
  Limit gradientMost_, velocityLeast_, velocityMost_, flowLeast_, flowMost_, rating_;
  const PipeSize* tooWarm_ = nullptr;  // no rating is known of it at this temperature
  std::array<double, 2> height_m_{NAN, NAN}, air_pa_{};
};

}  // namespace

std::unique_ptr<const Gauge> gaugeOf(const Values& values, const Setting& setting,
                                     std::span<const EndPlace> ends) {
  return std::make_unique<PipeGauge>(values, setting, ends);
}

}  // namespace conduit::pipe

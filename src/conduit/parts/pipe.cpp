#include "parts/pipe.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "friction/section.h"
#include "loss/fitting_k.h"
#include "parts/pipe_rating.h"
#include "parts/take_off.h"
#include "quantity/format.h"
#include "stock/sold.h"

namespace conduit::pipe {
namespace {

constexpr Key<Length> length{"length"};
constexpr Key<Bore> bore{"bore"};
constexpr Key<Roughness> roughness{"roughness"};
constexpr Key<Number> hazenC{"C"}, manningN{"n"}, extraK{"K"};
constexpr Key<Length> sectionWidth{"section width"}, sectionHeight{"section height"};
constexpr Key<Bore> innerPipe{"inner pipe"};
constexpr std::string_view sections[] = {"round", "rectangular", "annular"};
constexpr std::string_view sectionKey = "section";
bool isSection(const Values& v, std::size_t which) {
  const auto* word = v.get<std::string>(sectionKey);
  return word ? *word == sections[which] : which == 0;
}
bool rectangular(const Values& v) { return isSection(v, 1); }
bool annular(const Values& v) { return isSection(v, 2); }
bool piped(const Values& v) { return !rectangular(v); }
constexpr Key<GaugePressure> rating{"rating"};
constexpr std::string_view takeOffKey = "take-off", sizeKey = "size";

bool isLaid(const Values& v) {
  const bool* laid = v.get<bool>(laidKey);
  return !laid || *laid;
}
bool noTakeOff(const Values& v) {
  const auto* t = v.get<std::string>(takeOffKey);
  return !t || t->empty();
}
const Field fields[] = {
    releasable(field(length, 0, 1e7, "length along the pipe; from the take-off if there is one")),
    onlyWhen(feltBeside(releasable(inSight(field(bore, 1e-4, 20, "inside diameter")))), piped),
    onlyWhen(text(sizeKey, "catalogue size instead of the bore: \"ASME B36.10M 4 40\""), piped),
    choice(sectionKey, sections, "internal cross-section; non-round by hydraulic diameter"),
    onlyWhen(feltBeside(releasable(need(field(sectionWidth, 1e-4, 50, "internal, of a rectangular duct")))),
             rectangular),
    onlyWhen(feltBeside(releasable(need(field(sectionHeight, 1e-4, 50, "internal, of a rectangular duct")))),
             rectangular),
    onlyWhen(need(field(innerPipe, 1e-4, 20, "outside diameter of the inner pipe")), annular),
    releasable(inSight(field(roughness, 0, 0.1, "wall roughness, for Darcy-Weisbach"))),
    releasable(field(hazenC, 10, 200, "coefficient for Hazen-Williams")),
    releasable(field(manningN, 0.005, 0.2, "coefficient for Manning")),
    Field{.key = takeOffKey,
          .kind = FieldKind::takeOff,
          .help = "pieces and fittings in order: 12.4 elbow 3.1 up gate"},
    releasable(byDefault(field(extraK, 0, 1e7, "additional K, on v²/2g in the bore"), 0.0)),
    limitField(LimitId::ratingMost),
    choice(jointsKey, jointKinds,
           "thread depth is deducted from the wall for the rating; default: the service's"),
    nameOf(serviceKey, "service", "name of the service whose limits apply"),
    limitField(LimitId::velocityMost, "here, overriding the job's"),
    limitField(LimitId::velocityLeast, "here, overriding the job's"),
    limitField(LimitId::gradientMost, "here, overriding the job's"),
    limitField(LimitId::flowLeast, "minimum flow, in either direction"),
    limitField(LimitId::flowMost, "maximum flow, in either direction"),
    flag(laidKey, true, "no: planned only, no flow; if set either way, sizing may decide"),
    text("note", "free text"),
};

/// Everything the loss needs, SI.
struct Line {
  double length_m = 0, bore_m = 0, roughness_m = 0, c = 0, n = 0, k = 0;
  double added_m = 0;                  // of length_m: equivalent lengths and allowance
  friction::Section section;           // bore_m is its hydraulic diameter
  double perRe = 0;                    // what fittings lose besides their K, as a K of this over Re
  double forwardK = 0, backwardK = 0;  // changes of bore at its ends, by the direction of the flow
};

std::optional<friction::Section> sectionOf(const Values& values, const Setting& setting) {
  if (rectangular(values)) {
    const auto w = get(values, sectionWidth, setting.medium), h = get(values, sectionHeight, setting.medium);
    return w && h ? std::optional(friction::rectangle(w->si(), h->si())) : std::nullopt;
  }
  std::optional<double> d;
  if (const auto own = get(values, bore, setting.medium)) d = own->si();
  else if (const auto* name = values.get<std::string>(sizeKey); name && setting.stock)
    if (const PipeSize* size = setting.stock->pipe(*name)) d = size->bore_m;
  if (!d) return std::nullopt;
  if (!annular(values)) return friction::roundSection(*d);
  const auto inner = get(values, innerPipe, setting.medium);
  return inner && inner->si() < *d ? std::optional(friction::annulus(*d, inner->si())) : std::nullopt;
}

/// The bore, or the hydraulic diameter of a section that is not round.
std::optional<double> boreOf(const Values& values, const Setting& setting) {
  const auto section = sectionOf(values, setting);
  return section ? std::optional(section->hydraulic_m) : std::nullopt;
}

// Null when none is given.
std::shared_ptr<const TakeOffRead> readTakeOff(const Values& values, const Setting& setting) {
  const auto* words = values.get<std::string>(takeOffKey);
  return words && !words->empty() && setting.stock ? takeOffRead(*words, *setting.stock) : nullptr;
}

// Null when none is given or it cannot be read.
std::shared_ptr<const TakeOff> takeOffOf(const Values& values, const Setting& setting) {
  const auto taken = readTakeOff(values, setting);
  return taken && taken->read ? std::shared_ptr<const TakeOff>(taken, &*taken->read) : nullptr;
}

std::optional<Line> lineOf(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  const auto section = sectionOf(values, setting);
  if (!section) return std::nullopt;
  const std::optional<double> d = section->hydraulic_m;
  Line line{.bore_m = *d, .section = *section};
  // A change of bore is counted with the narrower pipe, on its velocity.
  const double byArea = section->equalArea_m();
  for (std::size_t i = 0; i < ends.size() && i < 2; ++i) {
    if (!ends[i].change || ends[i].change->other_m <= byArea * (1 + 1e-9)) continue;
    const double beta = byArea / ends[i].change->other_m, angle = ends[i].change->angle_deg;
    const double wider =
        angle >= 180 ? fittingk::suddenExpansion(beta) : fittingk::coneExpansion(beta, angle);
    const double narrower =
        angle >= 180 ? fittingk::suddenContraction(beta) : fittingk::coneContraction(beta, angle);
    line.forwardK += i == 0 ? narrower : wider;
    line.backwardK += i == 0 ? wider : narrower;
  }
  line.k = get(values, extraK, setting.medium).value_or(Number()).si();
  const auto takeOff = takeOffOf(values, setting);
  if (takeOff) line.k += takeOff->k(*d), line.perRe = takeOff->perReynolds();
  if (const auto l = get(values, length, setting.medium)) line.length_m = l->si();
  else if (takeOff) line.length_m = takeOff->length_m();
  else return std::nullopt;
  if (takeOff) {
    line.added_m = takeOff->added_m();
    line.length_m += line.added_m;
  }
  line.roughness_m = get(values, roughness, setting.medium).value_or(Roughness()).si();
  line.c = get(values, hazenC, setting.medium).value_or(Number()).si();
  line.n = get(values, manningN, setting.medium).value_or(Number()).si();
  return line;
}

/// What fittings and changes of bore lose: (K + k₁/Re) v²/2g, K by the direction of the flow.
class LocalLoss {
 public:
  LocalLoss(const Line& line, double viscosity_m2s, double gravity_ms2)
      : forward_((line.k + line.forwardK) * factor(line, gravity_ms2), 2.0),
        backward_((line.k + line.backwardK) * factor(line, gravity_ms2), 2.0),
        linear_(line.perRe * factor(line, gravity_ms2) * line.section.area_m2 * viscosity_m2s / line.bore_m) {
  }
  [[nodiscard]] static double factor(const Line& line, double gravity_ms2) {
    return 1.0 / (2 * gravity_ms2 * line.section.area_m2 * line.section.area_m2);
  }
  [[nodiscard]] Loss at(double q) const {
    Loss loss = (q < 0 ? backward_ : forward_).at(q);
    loss.drop_m += linear_ * q, loss.slope_sm2 += linear_;
    return loss;
  }
  [[nodiscard]] bool resists(bool backward) const {
    return linear_ > 0.0 || (backward ? backward_ : forward_).r > 0.0;
  }
  [[nodiscard]] bool none() const { return forward_.r == 0.0 && backward_.r == 0.0 && linear_ == 0.0; }

 private:
  PowerLoss forward_, backward_;
  double linear_;  // m/(m3/s): K = k1/Re has a loss in proportion to the flow
};

/// Darcy–Weisbach: h = (f L/D + ΣK) v²/2g with the friction factor of friction.h; slope exact. A pipe has
/// length, so that in creeping flow the friction gives the slope and K needs no law of its own. Small: the
/// solver walks over many.
class DarcyLaw final : public Law {
 public:
  DarcyLaw(const Line& line, double viscosity_m2s, double gravity_ms2)
      : perFlow2_(LocalLoss::factor(line, gravity_ms2)),
        bores_(line.length_m / line.bore_m),
        k_(line.k + line.forwardK),
        reynoldsPerFlow_(line.section.phi * line.bore_m / (line.section.area_m2 * viscosity_m2s)),
        relative_(line.roughness_m / line.bore_m),
        start_(line.section.area_m2) {}

  Loss at(double q, double& memory) const override {
    const double size = std::abs(q), re = reynoldsPerFlow_ * size, perFlow = perFlow2_ * size;
    if (re <= friction::laminarEnd_re) {  // linear friction, no division by the flow
      const double laminar = 64.0 / reynoldsPerFlow_ * bores_ * perFlow2_;
      return {(laminar + k_ * perFlow) * q, std::max(laminar + 2 * k_ * perFlow, PowerLoss::leastSlope_sm2)};
    }
    const friction::Factor f = friction::factor(re, relative_, memory);
    const double whole = f.f * bores_ + k_;
    return {whole * perFlow * q,
            std::max((2 * whole + f.f * bores_ * f.logSlope) * perFlow, PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<DarcyLaw>(*this); }
  double startFlow_m3s() const override { return start_; }  // 1 m/s

 private:
  double perFlow2_, bores_, k_, reynoldsPerFlow_, relative_, start_;
};

/// The same with what a K alone does not say: other losses backward than forward, losses by Reynolds number,
/// no length.
class UnevenDarcyLaw final : public Law {
 public:
  UnevenDarcyLaw(const Line& line, double viscosity_m2s, double gravity_ms2)
      : friction_(frictionAlone(line), viscosity_m2s, gravity_ms2),
        local_(line, viscosity_m2s, gravity_ms2),
        length_(line.length_m > 0) {}

  Loss at(double q, double& memory) const override {
    const Loss local = local_.at(q);
    if (!length_) return local;
    const Loss friction = friction_.at(q, memory);
    return {friction.drop_m + local.drop_m, friction.slope_sm2 + local.slope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<UnevenDarcyLaw>(*this); }
  double startFlow_m3s() const override { return friction_.startFlow_m3s(); }
  bool resists(bool backward) const override { return length_ || local_.resists(backward); }
  bool lossless() const override { return !length_ && local_.none(); }

 private:
  static Line frictionAlone(Line line) {
    line.k = line.forwardK = line.backwardK = line.perRe = 0.0;
    return line;
  }
  DarcyLaw friction_;
  LocalLoss local_;
  bool length_;
};

/// Hazen–Williams or Manning for the straight pipe, K for the fittings.
class PowerPipeLaw final : public Law {
 public:
  PowerPipeLaw(const Line& line, double resistance, double exponent, double viscosity_m2s, double gravity_ms2)
      : pipe_(resistance, exponent), local_(line, viscosity_m2s, gravity_ms2), start_(line.section.area_m2) {}
  Loss at(double q, double&) const override {
    const Loss p = pipe_.at(q);
    if (local_.none()) return p;
    const Loss k = local_.at(q);
    return {p.drop_m + k.drop_m, p.slope_sm2 + k.slope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<PowerPipeLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool resists(bool backward) const override { return pipe_.r > 0.0 || local_.resists(backward); }
  bool lossless() const override { return pipe_.r == 0.0 && local_.none(); }

 private:
  PowerLoss pipe_;
  LocalLoss local_;
  double start_;
};

/// Hazen and Williams wrote of velocity and hydraulic radius; the form by flow takes a round section. In
/// another the flow counts as that which would run at its velocity in the round one of its hydraulic
/// diameter: Q' = Q (π D_h²/4)/A.
double asRound(const Line& line) { return pi / 4 * line.bore_m * line.bore_m / line.section.area_m2; }
double hazenWilliamsResistance(const Line& line, const friction::HazenWilliams& law) {
  return friction::resistance(law, line.length_m, line.bore_m, line.c) *
         std::pow(asRound(line), law.flowExponent);
}

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  if (!isLaid(values)) {
    prepared.branches.push_back({.from = 0, .to = 1, .law = nullptr, .shut = true});
    return prepared;
  }
  if (const auto* name = values.get<std::string>(sizeKey);
      name && !name->empty() && setting.stock && !setting.stock->pipe(*name))
    prepared.problem = Problem{{"", "size"}, fmt::format("\"{}\" is not a catalogue size", *name), {}};
  if (const auto taken = readTakeOff(values, setting); taken && !taken->read)
    prepared.problem = Problem{{"", "take-off"}, taken->read.error().what, {}};
  if (rectangular(values)) prepared.missing = lacking(values, fields);
  else if (annular(values) && !values.find(innerPipe.text))
    prepared.missing.push_back({"inner pipe", "an inner pipe"});
  else if (!boreOf(values, setting)) {
    if (annular(values) && values.find(bore.text))
      prepared.problem =
          Problem{{"", "inner pipe"}, "the inner pipe must be smaller than the bore around it", {}};
    else prepared.missing.push_back({"bore", "a bore"});
  }
  if (noTakeOff(values) && !values.find(length.text)) prepared.missing.push_back({"length", "a length"});
  if (setting.manning         ? !values.find(manningN.text)
      : setting.hazenWilliams ? !values.find(hazenC.text)
                              : !values.find(roughness.text))
    prepared.missing.push_back(setting.manning         ? MissingField{"n", "a Manning n"}
                               : setting.hazenWilliams ? MissingField{"C", "a Hazen-Williams C"}
                                                       : MissingField{"roughness", "a roughness"});
  if (!prepared.missing.empty() || prepared.problem) return prepared;
  const Line line = *lineOf(values, setting, ends);
  std::unique_ptr<const Law> law;
  const double nu = setting.viscosity_m2s, g = setting.medium.gravity_ms2;
  if (setting.manning)
    law = std::make_unique<PowerPipeLaw>(
        line, friction::manningResistance(line.n, line.length_m, line.section), 2.0, nu, g);
  else if (setting.hazenWilliams)
    law = std::make_unique<PowerPipeLaw>(line, hazenWilliamsResistance(line, setting.hazenWilliamsLaw),
                                         setting.hazenWilliamsLaw.flowExponent, nu, g);
  else if (line.length_m > 0 && line.forwardK == line.backwardK && line.perRe == 0.0)
    law = std::make_unique<DarcyLaw>(line, nu, g);
  else law = std::make_unique<UnevenDarcyLaw>(line, nu, g);
  prepared.branches.push_back({0, 1, std::move(law)});
  return prepared;
}

/// The size of the catalogue that gives its bore.
const PipeSize* sizeOf(const Values& values, const Setting& setting) {
  const auto* name = values.get<std::string>(sizeKey);
  return name && setting.stock && !values.find(bore.text) ? setting.stock->pipe(*name) : nullptr;
}

/// The pressure the pipe may carry: as given; else of its size, less the thread (ASME B31.3, eq. 3a, with the
/// wall less 12.5 % and the thread: P = 2 S t/(D − 0.8 t), S from the rating of the plain wall), and less
/// what warmth takes of a plastic.
Limit ratingOf(const Values& values, const Setting& setting, const Limits& limits) {
  if (const Limit own = ownLimit(values, LimitId::ratingMost, setting.medium)) return own;
  const PipeSize* size = sizeOf(values, setting);
  if (!size || !size->rating_pa) return {};
  double most = *size->rating_pa;
  if (limits.threaded.value_or(false) && size->material.ends_with("steel")) {
    const double t = 0.875 * size->wall_m, left = t - threadDepth_m(size->outside_m);
    if (left <= 0) return {};
    most *= left / t * (size->outside_m - 0.8 * t) / (size->outside_m - 0.8 * left);
  }
  const auto factor = derating(size->material, setting.temperature_c.value_or(20.0));
  return factor ? Limit{most * *factor, LimitFrom::catalogue} : Limit{};
}

std::optional<double> velocity(const Reading& r) {
  if (!isLaid(*r.values)) return std::nullopt;
  const auto q = outcome::flow(r);
  const auto section = sectionOf(*r.values, *r.setting);
  return q && section ? std::optional(std::abs(*q) / section->area_m2) : std::nullopt;
}
std::optional<double> reynolds(const Reading& r) {
  const auto v = velocity(r);
  const auto d = boreOf(*r.values, *r.setting);
  return v ? std::optional(*v * *d / r.setting->viscosity_m2s) : std::nullopt;
}
std::optional<double> gradient(const Reading& r) {
  if (!isLaid(*r.values)) return std::nullopt;
  const auto h = outcome::headLoss(r);
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  return h && line && line->length_m > 0 ? std::optional(std::abs(*h) / line->length_m) : std::nullopt;
}
/// Pressure the wall feels at end i: point pressure less the velocity head (hydraulics of the pipe end).
std::optional<double> wallPressure(const Reading& r, std::size_t i) {
  const auto p = endPressure_pa(r, i), v = velocity(r);
  return p && v ? std::optional(*p - r.setting->medium.dynamicPressure(*v)) : std::nullopt;
}
std::optional<double> greatestPressure(const Reading& r) {
  const auto a = wallPressure(r, 0), b = wallPressure(r, 1);
  return a && b ? std::optional(std::max(*a, *b)) : std::nullopt;
}
std::optional<double> sumOfK(const Reading& r) {
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  const auto q = outcome::flow(r), re = reynolds(r);
  if (!line) return std::nullopt;
  return line->k + (q && *q < 0 ? line->backwardK : line->forwardK) +
         (re && *re > 0 ? line->perRe / *re : 0.0);
}

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow, SignBy::drawing},
    {"velocity", Measure::velocity, velocity},
    {"head loss", Measure::headDrop, outcome::headLoss, SignBy::drawing},
    {"pressure loss", Measure::pressureDrop, outcome::pressureLoss, SignBy::drawing},
    {"loss per metre", Measure::number, gradient},
    {"Reynolds number", Measure::number, reynolds},
    {"sum of K", Measure::number, sumOfK},
    {"greatest pressure", Measure::gaugePressure, greatestPressure},
    {"gauge reading at start", Measure::gaugePressure, [](const Reading& r) { return wallPressure(r, 0); }},
    {"gauge reading at end", Measure::gaugePressure, [](const Reading& r) { return wallPressure(r, 1); }},
};

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), v = velocity(r), h = outcome::headLoss(r), i = gradient(r);
  if (!isLaid(*r.values)) return "Planned, not installed: no flow.";
  if (!q || !v) return "Flow not determined.";
  if (std::abs(*q) < 1e-9) return "No flow.";
  std::string text = fmt::format("Carries {} at {}", withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                                 withUnit(*v, Measure::velocity, units, 3));
  if (*q < 0) text += ", from end to start";
  if (h) text += fmt::format(", head loss {}", withUnit(std::abs(*h), Measure::headDrop, units, 3));
  if (i) text += fmt::format(" ({} m per 100 m)", digits(*i * 100, 3));
  text += ".";
  const auto section = sectionOf(*r.values, *r.setting);
  if (const auto re = reynolds(r); re && !r.setting->hazenWilliams && !r.setting->manning &&
                                   *re * section->phi < friction::turbulentBegin_re)
    text += *re * section->phi <= friction::laminarEnd_re ? " The flow is laminar."
                                                          : " The flow is transitional.";
  return text;
}

class PipeGauge final : public Gauge {
 public:
  PipeGauge(const Values& values, const Setting& setting, std::span<const EndPlace> ends)
      : laid_(isLaid(values)), pascalPerMetre_(setting.medium.pressureOf(1.0)) {
    if (!laid_) return;
    const Limits limits = limitsFor(values, setting);
    if (const auto section = sectionOf(values, setting)) area_m2_ = section->area_m2;
    gradientMost_ = limits[LimitId::gradientMost];
    if (gradientMost_)
      if (const auto line = lineOf(values, setting, ends); line && line->length_m > 0)
        length_m_ = line->length_m;
    velocityLeast_ = limits[LimitId::velocityLeast], velocityMost_ = limits[LimitId::velocityMost];
    flowLeast_ = ownLimit(values, LimitId::flowLeast, setting.medium);
    flowMost_ = ownLimit(values, LimitId::flowMost, setting.medium);
    rating_ = ratingOf(values, setting, limits);
    const PipeSize* size = sizeOf(values, setting);
    if (size && setting.temperature_c && !derating(size->material, *setting.temperature_c) &&
        !values.find(rating.text))
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
    if (q) checkFlow(r, std::abs(*q), flowLeast_, flowMost_, "carries", checks);
    if (tooWarm_) {
      Check& c = checks.hold(CheckId::ratedTemperature, *r.setting->temperature_c, {},
                             {tooWarm_->material == "polyethylene" ? 40.0 : 45.0, LimitFrom::catalogue});
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
      if (checks.told(c))
        c.what = fmt::format("pressure in {} is {}, above its rating of {}", r.name,
                             withUnit(c.value, Measure::gaugePressure, checks.units()),
                             withUnit(*c.most, Measure::gaugePressure, checks.units()));
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
  double pascalPerMetre_, area_m2_ = 0.0;
  std::optional<double> length_m_;  // where a gradient is asked for
  Limit gradientMost_, velocityLeast_, velocityMost_, flowLeast_, flowMost_, rating_;
  const PipeSize* tooWarm_ = nullptr;  // no rating is known of it at this temperature
  std::array<double, 2> height_m_{NAN, NAN}, air_pa_{};
};

std::vector<KUsed> kUsed(const Reading& r) {
  std::vector<KUsed> used;
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  const auto q = outcome::flow(r), v = velocity(r), re = reynolds(r);
  if (!line || !q) return used;
  if (const auto own = get(*r.values, extraK, r.setting->medium); own && own->si() > 0)
    used.push_back({"K", 1, "given", own->si()});
  if (const auto takeOff = takeOffOf(*r.values, *r.setting))
    for (const Piece& p : takeOff->pieces) {
      const double falling = p.fitting && p.fitting->k1 && *re > 0 ? p.count * *p.fitting->k1 / *re : 0.0,
                   k = p.k(line->bore_m) + falling;
      if (p.kind == PieceKind::fitting)
        used.push_back({p.word, p.count, std::string(p.fitting->method()), k});
      if (p.kind == PieceKind::ownK) used.push_back({"K", p.count, "given in the take-off", k});
    }
  if (const double change = *q < 0 ? line->backwardK : line->forwardK; change > 0)
    used.push_back({"changes of bore at ends", 1, "Borda 1766 and Carnot 1803; Crane TP-410", change});
  // What it loses more than by its own law is what tees at its ends take.
  const Prepared own = prepare(*r.values, *r.setting, r.ends);
  const auto whole = outcome::headLoss(r);
  if (whole && *v > 0 && own.branches.size() == 1 && own.branches[0].law) {
    double memory = 0;
    const double beside = (*whole - own.branches[0].law->at(*q, memory).drop_m) * (*q < 0 ? -1 : 1);
    if (std::abs(beside) > 1e-5 + 1e-6 * std::abs(*whole))
      used.push_back({"tees at its ends", 1, "by flow split, Gardel 1957",
                      beside * 2 * r.setting->medium.gravity_ms2 / (*v * *v)});
  }
  return used;
}

std::optional<Working> working(const Reading& r, std::string_view outcomeKey) {
  const auto q = outcome::flow(r);
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  if (outcomeKey == "loss per metre" && q && line && line->length_m > 0)
    if (const auto h = outcome::headLoss(r)) {
      Working w{.title = fmt::format("Gradient of {}", r.name)};
      w.lines.push_back({"i", "h/L", fmt::format("{:.12g}/{:.12g}", std::abs(*h), line->length_m),
                         std::abs(*h) / line->length_m, "",
                         "head loss over the length including equivalent lengths"});
      return w;
    }
  if (outcomeKey == "Reynolds number" && q && line)
    if (const auto v = velocity(r)) {
      Working w{.title = fmt::format("Reynolds number of {}", r.name)};
      w.lines.push_back({"v", "Q/A", fmt::format("{:.12g}/{:.12g}", std::abs(*q), line->section.area_m2), *v,
                         "m/s", "continuity"});
      w.lines.push_back({"Re", "v·D/ν",
                         fmt::format("{:.12g}·{:.12g}/{:.12g}", *v, line->bore_m, r.setting->viscosity_m2s),
                         *v * line->bore_m / r.setting->viscosity_m2s, "",
                         "Reynolds 1883; D the hydraulic diameter, ν the kinematic viscosity"});
      return w;
    }
  if (outcomeKey == "sum of K" && line)
    if (const auto sum = sumOfK(r)) {
      Working w{.title = fmt::format("Total K of {}", r.name)};
      std::string numbers, names;
      double counted = 0;
      for (const KUsed& used : kUsed(r)) {
        if (used.what.starts_with("tees")) continue;  // by the shares of the flow, beside the sum
        counted += used.k;
        numbers += fmt::format("{}{:.12g}", numbers.empty() ? "" : " + ", used.k);
        names += fmt::format("{}{}{} ({})", names.empty() ? "" : "; ",
                             used.count > 1 ? fmt::format("{} × ", used.count) : "", used.what, used.method);
      }
      if (std::abs(counted - *sum) > 1e-6 * *sum + 1e-9) return std::nullopt;
      w.lines.push_back({"ΣK", "ΣK of its fittings", numbers.empty() ? "0" : numbers, *sum, "",
                         names.empty() ? "no fittings" : names});
      return w;
    }
  if ((outcomeKey != "head loss" && outcomeKey != "velocity") || !q || !line) return std::nullopt;
  const double flow = std::abs(*q), area = line->section.area_m2, v = flow / area,
               g = r.setting->medium.gravity_ms2;
  const bool round = isSection(*r.values, 0);
  const double sumK = sumOfK(r).value_or(0.0);
  Working w{.title = fmt::format("{} of {}", outcomeKey == "velocity" ? "Velocity" : "Head loss", r.name)};
  if (round)
    w.lines.push_back(
        {"v", "4·Q/(π·D²)", fmt::format("4·{:.6g}/(π·{:.6g}²)", flow, line->bore_m), v, "m/s", "continuity"});
  else w.lines.push_back({"v", "Q/A", fmt::format("{:.6g}/{:.6g}", flow, area), v, "m/s", "continuity"});
  if (outcomeKey == "velocity") return w;
  if (r.setting->manning) {
    const double radius = line->bore_m / 4,
                 h = line->n * line->n * line->length_m * v * v / std::pow(radius, 4.0 / 3),
                 local = sumK * v * v / (2 * g);
    w.lines.push_back(
        {"h_f", "n²·L·v²/(D/4)^(4/3)",
         fmt::format("{:.6g}²·{:.6g}·{:.8g}²/({:.8g}/4)^(4/3)", line->n, line->length_m, v, line->bore_m), h,
         "m", "Manning 1891, hydraulic radius D/4"});
    w.lines.push_back({"h_K", "ΣK·v²/(2·g)", fmt::format("{:.8g}·{:.8g}²/(2·{:.6g})", sumK, v, g), local, "m",
                       "fittings and take-off"});
    w.lines.push_back({"h", "h_f + h_K", fmt::format("{:.8g} + {:.8g}", h, local), h + local, "m", ""});
    return w;
  }
  if (r.setting->hazenWilliams) {
    const auto& law = r.setting->hazenWilliamsLaw;
    const double h = hazenWilliamsResistance(*line, law) * std::pow(flow, law.flowExponent),
                 counted = flow * asRound(*line);
    if (!round)
      w.lines.push_back({"Q'", "Q·(π·D²/4)/A",
                         fmt::format("{:.8g}·(π·{:.8g}²/4)/{:.8g}", flow, line->bore_m, area), counted,
                         "m³/s", "the flow at this velocity in a round pipe of its hydraulic diameter D"});
    w.lines.push_back({"h_f", round ? "c·L·Q^n/(C^n·D^m)" : "c·L·Q'^n/(C^n·D^m)",
                       fmt::format("{:.6g}·{:.6g}·{:.8g}^{:.6g}/({:.6g}^{:.6g}·{:.8g}^{:.6g})",
                                   law.coefficient, line->length_m, counted, law.flowExponent, line->c,
                                   law.flowExponent, line->bore_m, law.boreExponent),
                       h, "m", "Williams and Hazen 1905, in SI"});
    const double local = sumK * v * v / (2 * g);
    w.lines.push_back({"h_K", "ΣK·v²/(2·g)", fmt::format("{:.8g}·{:.8g}²/(2·{:.6g})", sumK, v, g), local, "m",
                       "fittings and take-off"});
    w.lines.push_back({"h", "h_f + h_K", fmt::format("{:.6g} + {:.6g}", h, local), h + local, "m", ""});
    return w;
  }
  const double re = line->section.phi * v * line->bore_m / r.setting->viscosity_m2s;
  if (round)
    w.lines.push_back({"Re", "v·D/ν",
                       fmt::format("{:.6g}·{:.6g}/{:.6g}", v, line->bore_m, r.setting->viscosity_m2s), re, "",
                       "Reynolds 1883"});
  else
    w.lines.push_back(
        {"Re", "φ·v·D/ν",
         fmt::format("{:.8g}·{:.8g}·{:.8g}/{:.6g}", line->section.phi, v, line->bore_m,
                     r.setting->viscosity_m2s),
         re, "", "hydraulic diameter D = 4A/P; φ = 64/(f·Re) of the laminar flow (Shah and London 1978)"});
  double memory = 0, relative = line->roughness_m / line->bore_m;
  const double f = flow > 0 ? friction::factor(re, relative, memory).f : 0.0;
  if (re <= friction::laminarEnd_re) {
    w.lines.push_back({"f", "64/Re", flow > 0 ? fmt::format("64/{:.6g}", re) : "0", f, "",
                       "Hagen-Poiseuille, Re up to 2000"});
  } else if (re >= friction::turbulentBegin_re) {
    w.lines.push_back({"f", "1/(2·lg(ε/(3.7·D) + 2.51/(Re·√f)))²",
                       fmt::format("1/(2·lg({:.6g}/(3.7·{:.6g}) + 2.51/({:.6g}·√{:.8g})))²",
                                   line->roughness_m, line->bore_m, re, f),
                       f, "", "Colebrook 1939, solved iteratively (f on both sides)"});
  } else {
    double fresh = 0;
    const auto end = friction::colebrook(friction::turbulentBegin_re, relative, fresh);
    const double s = std::log(re / friction::laminarEnd_re) / std::log(2.0);
    w.lines.push_back({"f₄", "1/(2·lg(ε/(3.7·D) + 2.51/(4000·√f₄)))²",
                       fmt::format("1/(2·lg({:.6g}/(3.7·{:.6g}) + 2.51/(4000·√{:.8g})))²", line->roughness_m,
                                   line->bore_m, end.f),
                       end.f, "", "Colebrook 1939 at Re 4000"});
    w.lines.push_back({"s", "ln(Re/2000)/ln(2)", fmt::format("ln({:.6g}/2000)/ln(2)", re), s, "",
                       "position between Re 2000 and 4000"});
    w.lines.push_back(
        {"f", "e^((2s³−3s²+1)·ln 0.032 − (s³−2s²+s)·ln 2 + (3s²−2s³)·ln f₄ + (s³−s²)·m·ln 2)",
         fmt::format("exp((2·{0:.6g}³−3·{0:.6g}²+1)·ln(0.032) − ({0:.6g}³−2·{0:.6g}²+{0:.6g})·ln(2) + "
                     "(3·{0:.6g}²−2·{0:.6g}³)·ln({1:.6g}) + ({0:.6g}³−{0:.6g}²)·({2:.6g})·ln(2))",
                     s, end.f, end.logSlope),
         f, "",
         "program's own interpolation between laminar and turbulent laws; m = d ln f/d ln Re at Re 4000"});
  }
  const double h = (f * line->length_m / line->bore_m + sumK) * v * v / (2 * g);
  w.lines.push_back({"h", "(f·L/D + ΣK)·v²/(2·g)",
                     fmt::format("({:.8g}·{:.6g}/{:.6g} + {:.8g})·{:.6g}²/(2·{:.6g})", f, line->length_m,
                                 line->bore_m, sumK, v, g),
                     h, "m", "Darcy 1857, Weisbach 1845"});
  for (const KUsed& used : kUsed(r))
    w.remark +=
        fmt::format("{}{}{} {:.4g} ({})", w.remark.empty() ? "K: " : "; ",
                    used.count > 1 ? fmt::format("{} × ", used.count) : "", used.what, used.k, used.method);
  if (!w.remark.empty()) w.remark += ".";
  if (line->added_m > 0)
    w.remark += fmt::format("{}L includes {:.6g} m of equivalent length.", w.remark.empty() ? "" : " ",
                            line->added_m);
  if (const auto whole = outcome::headLoss(r)) {
    const double beside = (*q < 0 ? -*whole : *whole) - h;
    if (std::abs(beside) > 1e-5 + 1e-6 * h) {
      w.lines.push_back({"h_T", "H₁ − H₂ − h", fmt::format("{:.9g} − {:.9g}", *q < 0 ? -*whole : *whole, h),
                         beside, "m", "tees at its ends, by flow split (Gardel 1957)"});
    }
  }
  return w;
}

Geometry geometry(const Values& values, const Setting& setting) {
  Geometry g;
  if (const auto section = isLaid(values) ? sectionOf(values, setting) : std::nullopt; section)
    g.bore_m = isSection(values, 0) ? section->hydraulic_m : section->equalArea_m();
  if (const auto l = get(values, length, setting.medium)) g.length_m = l->si();
  else if (const auto takeOff = takeOffOf(values, setting)) g.length_m = takeOff->length_m();
  g.rating_pa = ratingOf(values, setting, limitsFor(values, setting)).si;
  return g;
}

constexpr std::string_view labels[] = {"flow", "velocity"};
constexpr std::string_view workings[] = {"head loss", "velocity"};

}  // namespace

const Part part{
    .key = "pipe",
    .plural = "Lines",
    .prefix = "L",
    .letter = 'L',
    .group = Group::line,
    .ends = Ends::two,
    .symbol = "M -12 4 L -2 4 L 4 -4 L 12 -4",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .workings = workings,
    .prepare = prepare,
    .story = story,
    .gauge = [](const Values& values, const Setting& setting, std::span<const EndPlace> ends)
        -> std::unique_ptr<const Gauge> { return std::make_unique<PipeGauge>(values, setting, ends); },
    .working = working,
    .geometry = geometry,
    .kUsed = kUsed,
};

}  // namespace conduit::pipe

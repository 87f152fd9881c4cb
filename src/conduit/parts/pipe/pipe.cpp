#include "parts/pipe/pipe.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/flange.h"
#include "parts/pipe/gauge.h"
#include "parts/pipe/laws.h"
#include "parts/pipe/rating.h"
#include "parts/pipe/readings.h"
#include "parts/pipe/working.h"
#include "parts/take_off.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::pipe {
namespace {

bool rectangular(const Values& v) { return isSection(v, 1); }
bool annular(const Values& v) { return isSection(v, 2); }
bool piped(const Values& v) { return !rectangular(v); }
bool noTakeOff(const Values& v) {
  const auto* t = v.get<std::string>(takeOffKey);
  return !t || t->empty();
}

const Field fields[] = {
    releasable(field(length, 0, 1e7, "length along the pipe; from the take-off if there is one")),
    onlyWhen(feltBeside(releasable(inSight(field(bore, 1e-4, 20, "inside diameter")))), piped),
    onlyWhen(feltBeside(text(sizeKey, "catalogue size instead of the bore: \"ASME B36.10M 4 40\"")), piped),
    feltBeside(choice(sectionKey, sections, "internal cross-section; non-round by hydraulic diameter")),
    onlyWhen(feltBeside(releasable(need(field(sectionWidth, 1e-4, 50, "internal, of a rectangular duct")))),
             rectangular),
    onlyWhen(feltBeside(releasable(need(field(sectionHeight, 1e-4, 50, "internal, of a rectangular duct")))),
             rectangular),
    onlyWhen(feltBeside(need(field(innerPipe, 1e-4, 20, "outside diameter of the inner pipe"))), annular),
    releasable(inSight(field(roughness, 0, 0.1, "wall roughness, for Darcy-Weisbach"))),
    releasable(field(hazenC, 10, 200, "coefficient for Hazen-Williams")),
    releasable(field(manningN, 0.005, 0.2, "coefficient for Manning")),
    Field{.key = takeOffKey,
          .kind = FieldKind::takeOff,
          .help = "pieces and fittings in order: 12.4 elbow 3.1 up gate",
          .unfit = [](std::string_view text,
                      const Stock& stock) { return takeOffUnfit(takeOffKey, text, stock); }},
    releasable(byDefault(field(extraK, 0, 1e7, "additional K, on v²/2g in the bore"), 0.0)),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
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
  prepared.branches.push_back({0, 1, lawOf(*lineOf(values, setting, ends), setting)});
  return prepared;
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
// At a temperature of which no rating is known there is a finding already.
std::vector<Lack> lacks(const Reading& r) {
  if (!isLaid(*r.values) || ratingOf(*r.values, *r.setting, limitsFor(*r.values, *r.setting))) return {};
  const PipeSize* size = sizeOf(*r.values, *r.setting);
  if (size && r.setting->temperature_c && !derating(*size, *r.setting->temperature_c)) return {};
  return {{CheckId::rating, limitRow(LimitId::ratingMost).key}};
}

constexpr std::string_view workings[] = {"head loss", "velocity"};

}  // namespace

const Part part{.key = "pipe",
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
                .lacks = lacks,
                .gauge = gaugeOf,
                .working = working,
                .geometry = geometry,
                .kUsed = kUsed,
                .line = true};

}  // namespace conduit::pipe

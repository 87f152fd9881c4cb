#include "parts/pump/fields.h"

#include "parts/flange.h"
#include "parts/waiver.h"

namespace conduit::pump {
namespace {

bool byCurve(const Values& v) { return described(v, 0); }
// Its curve is to be found from a given flow: then no curve describes it.
bool ownMotorNotGiven(const Values& v) { return v.find(motorFull.text) == nullptr; }
bool ownMarginNotGiven(const Values& v) { return v.find(limitRow(LimitId::driverMargin).key) == nullptr; }
bool ownMarginApplies(const Values& v) {
  const bool* bySize = v.get<bool>(marginBySizeKey);
  return !bySize || !*bySize;
}
bool notSwapped(const Values& v) { return !v.released(curveKey); }

}  // namespace

std::string word(const Values& v, std::string_view key, std::string_view fallback) {
  const auto* given = v.get<std::string>(key);
  return given ? *given : std::string(fallback);
}
bool described(const Values& v, std::size_t way) { return word(v, wayKey, ways[0]) == ways[way]; }
bool curveFound(const Values& v) { return described(v, 2) || (described(v, 0) && v.released(curveKey)); }
bool byPoint(const Values& v) { return described(v, 1); }
bool byPower(const Values& v) { return described(v, 4); }
bool hasCurve(const Values& v) { return (byCurve(v) && !v.released(curveKey)) || byPoint(v); }
bool keepsPressure(const Values& v) { return hasCurve(v) && word(v, keepsKey, kept[0]) == kept[1]; }
bool keepsFlow(const Values& v) { return hasCurve(v) && word(v, keepsKey, kept[0]) == kept[2]; }
bool keepsSomething(const Values& v) { return keepsPressure(v) || keepsFlow(v); }

namespace {

bool curveUnknown(const Values& v) { return curveFound(v) || byPower(v); }
bool wantsDutyFlow(const Values& v) { return curveFound(v) || byPoint(v); }
bool wantsDutyHead(const Values& v) { return byPoint(v) || described(v, 3); }
constexpr Column curveColumns[] = {
    {"flow", Measure::volumeFlow, true, 0, 1e4},    {"head", Measure::headDrop, true, 0, 1e5},
    {"efficiency", Measure::ratio, false, 0, 1},    {"NPSH required", Measure::headDrop, false, 0, 1000},
    {"shaft power", Measure::power, false, 0, 1e9},
};
constexpr Column otherColumns[] = {
    {"speed", Measure::rotation, false, 0.01, 2000}, {"impeller", Measure::bore, false, 1e-3, 10},
    {"flow", Measure::volumeFlow, true, 0, 1e4},     {"head", Measure::headDrop, true, 0, 1e5},
    {"efficiency", Measure::ratio, false, 0, 1},     {"NPSH required", Measure::headDrop, false, 0, 1000},
    {"shaft power", Measure::power, false, 0, 1e9},
};
constexpr Column loadColumns[] = {
    {"load", Measure::ratio, true, 0, 2},
    {"efficiency", Measure::ratio, true, 0.01, 1},
};

const Field table[] = {
    onlyWhen(assume(choice(wayKey, ways, "how the pump is defined"), "duty point"), notSwapped),
    Field{.key = curveKey,
          .kind = FieldKind::table,
          .needed = true,
          .releasable = true,
          .help = "head against increasing flow of one pump at rated speed; efficiency (or shaft power) and "
                  "NPSH required if known",
          .columns = curveColumns,
          .applies = byCurve},
    Field{.key = otherCurvesKey,
          .kind = FieldKind::table,
          .help = "curves at other speeds or impeller diameters, stated in each row; interpolated between "
                  "curves, affinity laws beyond them",
          .columns = otherColumns,
          .applies = byCurve},
    assume(onlyWhen(need(field(dutyFlow, -1e4, 1e4, "required flow of the pump")), wantsDutyFlow), "10 L/s"),
    assume(onlyWhen(releasable(need(field(dutyHead, 0, 1e5, "head at the duty flow, or at any flow"))),
                    wantsDutyHead),
           "20 m"),
    onlyWhen(field(dutyEfficiency, 0.01, 1, "best efficiency, at the duty point"), byPoint),
    onlyWhen(releasable(need(field(liquidPower, 0, 1e9, "hydraulic power at any flow"))), byPower),
    onlyWhen(byDefault(field(headMost, 1e-3, 1e5, "maximum head at low flow"), 1000.0), byPower),
    onlyWhen(
        flag(displacementKey, false, "positive displacement: nothing but a relief valve limits its pressure"),
        curveUnknown),
    byDefault(field(unitCount, 1, 100, "identical pumps running together in this symbol"), 1.0),
    choice(arrangementKey, arrangements, "its pumps in parallel or in series"),
    onlyWhen(byDefault(field(stageCount, 1, 200,
                             "stages per pump; curve shape and viscosity correction use the head per stage"),
                       1.0),
             hasCurve),
    onlyWhen(field(ratedSpeed, 0.01, 2000, "speed of the given curve"), hasCurve),
    onlyWhen(releasable(adjusts(field(
                 speed, 0.01, 2000, "running speed, or maximum under speed control; default: rated speed"))),
             hasCurve),
    onlyWhen(choice(keepsKey, kept, "variable held by speed control"), hasCurve),
    onlyWhen(releasable(need(field(keptPressure, -101325, 1e9, "gauge pressure set point of speed control"))),
             keepsPressure),
    onlyWhen(nameOf(keptAtKey, "point", "sensing point; default: its discharge"), keepsPressure),
    onlyWhen(releasable(need(field(keptFlow, 0, 1e4, "flow set point of speed control"))), keepsFlow),
    onlyWhen(limitField(LimitId::speedLeast), hasCurve),
    onlyWhen(limitField(LimitId::speedMost), hasCurve),
    onlyWhen(field(ratedImpeller, 1e-3, 10, "impeller diameter of the given curve"), hasCurve),
    onlyWhen(releasable(field(impeller, 1e-3, 10, "trimmed diameter; not below about 75 % of rated")),
             hasCurve),
    onlyWhen(byDefault(
                 field(trimExponent, 1, 3,
                       "exponent of the diameter for flow and head: 2 for trims over 6 %, 3 for slight ones"),
                 2.0),
             hasCurve),
    onlyWhen(flag("viscous correction", true,
                  "to ANSI/HI 9.6.7 above 3 mm²/s where parameter B exceeds 1; needs the rated speed"),
             hasCurve),
    onlyWhen(byDefault(field(headFactor, 0.05, 1.2, "head correction for solids"), 1.0), hasCurve),
    onlyWhen(byDefault(field(efficiencyFactor, 0.05, 1.2, "efficiency correction for solids"), 1.0),
             hasCurve),
    opens(inSight(flag("running", true, "no: stopped, no flow")), "Start"),
    onlyWhen(flag("already running", false,
                  "for a curve rising from zero flow: treat as running, although it could not start against "
                  "the system head"),
             hasCurve),
    onlyWhen(
        flag("check valve", true, "at its discharge; without it flow reverses if the system head is higher"),
        hasCurve),
    field(datum, -12000, 9000, "NPSH datum height; default: its suction point's"),
    limitField(LimitId::driverMost),
    onlyWhen(limitField(LimitId::driverMargin), ownMarginApplies),
    onlyWhen(flag(marginBySizeKey, false,
                  "125 % below 22 kW, 115 % to 55 kW, 110 % above, of the driver (API 610; recalled, to be "
                  "checked)"),
             ownMarginNotGiven),
    onlyWhen(choice(motorClassKey, motorClasses,
                    "motor efficiency class to IEC 60034-30-1, by rated speed and the job's mains, at the "
                    "driver rating"),
             ownMotorNotGiven),
    field(motorFull, 0.01, 1, "full-load motor efficiency instead of a class"),
    Field{.key = motorLoadsKey,
          .kind = FieldKind::table,
          .help = "motor efficiency against % load; default: constant plus load losses",
          .columns = loadColumns},
    field(driveShare, 0.01, 1, "efficiency of frequency converter or gearbox; default: the job's"),
    choice(constructionKey, constructions, "pump construction"),
    field(solidsPassage, 1e-4, 1, "largest sphere that passes"),
    limitField(LimitId::continuousFlowLeast),
    limitField(LimitId::allowedLeast),
    limitField(LimitId::allowedMost),
    limitField(LimitId::npshMarginLeast, "NPSH available minus required; default: the job's"),
    limitField(LimitId::npshRatioLeast,
               "NPSH available over required, besides the margin; default: the job's"),
    limitField(LimitId::flowLeast, "minimum flow of all its pumps together"),
    limitField(LimitId::flowMost, "maximum flow of all its pumps together"),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    field(ofBestLeast, 0, 1,
          "lower end of the preferred region; default (ANSI/HI 9.6.3): 70 %, 80 % for nq above 87"),
    field(ofBestMost, 1, 3,
          "upper end of the preferred region; default (ANSI/HI 9.6.3): 120 %, 115 % for nq above 87"),
    stockItem(),
    nameOf(serviceKey, "service", "name of the service whose limits apply"),
    text("note", "make, size, stages"),
};

}  // namespace

constinit const std::span<const Field> fields = table;

const Field* fieldOf(std::string_view key) {
  for (const Field& f : fields)
    if (f.key == key) return &f;
  return nullptr;
}

double parallelUnits(const Values& v, const Medium& m) {
  return word(v, arrangementKey, arrangements[0]) == arrangements[0]
             ? getOrFallback(v, fields, unitCount, m)->si()
             : 1.0;
}
double seriesUnits(const Values& v, const Medium& m) {
  return word(v, arrangementKey, arrangements[0]) == arrangements[1]
             ? getOrFallback(v, fields, unitCount, m)->si()
             : 1.0;
}

}  // namespace conduit::pump

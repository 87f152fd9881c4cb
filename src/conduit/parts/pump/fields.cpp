#include "parts/pump/fields.h"

namespace conduit::pump {
namespace {

bool byCurve(const Values& v) { return described(v, 0); }
// Its curve is to be found from a given flow: then no curve describes it.
bool ownMotorNotGiven(const Values& v) { return v.find(motorFull.text) == nullptr; }
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
    onlyWhen(assume(choice(wayKey, ways, "what is known of it"), "duty point"), notSwapped),
    Field{.key = curveKey,
          .kind = FieldKind::table,
          .needed = true,
          .releasable = true,
          .help = "head against flow at the rated speed of one unit, flows rising; efficiency and NPSH "
                  "required where known; shaft power in place of efficiency",
          .columns = curveColumns,
          .applies = byCurve},
    Field{.key = otherCurvesKey,
          .kind = FieldKind::table,
          .help = "the curve as measured at other speeds, or with other impellers; each row names its own. "
                  "Between curves it is interpolated, beyond them affinity holds",
          .columns = otherColumns,
          .applies = byCurve},
    assume(onlyWhen(need(field(dutyFlow, -1e4, 1e4, "the flow the pump is to deliver")), wantsDutyFlow),
           "10 L/s"),
    assume(onlyWhen(releasable(need(
                        field(dutyHead, 0, 1e5, "the head it gives: at its duty flow, or whatever flows"))),
                    wantsDutyHead),
           "20 m"),
    onlyWhen(field(dutyEfficiency, 0.01, 1, "best, at the duty point"), byPoint),
    onlyWhen(releasable(need(field(liquidPower, 0, 1e9, "what it gives the liquid whatever flows"))),
             byPower),
    onlyWhen(byDefault(field(headMost, 1e-3, 1e5, "the head it cannot exceed when little flows"), 1000.0),
             byPower),
    byDefault(field(unitCount, 1, 100, "alike, running together inside this symbol"), 1.0),
    choice(arrangementKey, arrangements, "of its units: side by side, or one after another"),
    onlyWhen(byDefault(field(stageCount, 1, 200,
                             "impellers of one unit, one after another; shape and viscous correction go by "
                             "the head of one"),
                       1.0),
             hasCurve),
    onlyWhen(field(ratedSpeed, 0.01, 2000, "speed at which the curve holds"), hasCurve),
    onlyWhen(releasable(field(
                 speed, 0.01, 2000,
                 "speed at which it runs, the maximum where it keeps something; the rated one if not given")),
             hasCurve),
    onlyWhen(choice(keepsKey, kept, "what its speed is held for"), hasCurve),
    onlyWhen(
        releasable(need(field(keptPressure, -101325, 1e9, "gauge, kept by its speed for as long as it can"))),
        keepsPressure),
    onlyWhen(nameOf(keptAtKey, "point", "where; its discharge if not given"), keepsPressure),
    onlyWhen(releasable(need(field(keptFlow, 0, 1e4, "kept by its speed for as long as it can"))), keepsFlow),
    onlyWhen(field(leastSpeed, 0.01, 2000, "it cannot run slower"), hasCurve),
    onlyWhen(field(mostSpeed, 0.01, 2000, "it may not run faster"), hasCurve),
    onlyWhen(field(ratedImpeller, 1e-3, 10, "diameter of the impeller the curve holds for"), hasCurve),
    onlyWhen(
        releasable(field(impeller, 1e-3, 10, "its diameter, trimmed; not under some 75 % of the rated one")),
        hasCurve),
    onlyWhen(byDefault(field(trimExponent, 1, 3,
                             "flow and head each go with this power of the diameter: 2 for cuts over 6 %, 3 "
                             "for slight ones"),
                       2.0),
             hasCurve),
    onlyWhen(flag("viscous correction", true,
                  "after ANSI/HI 9.6.7 over 3 mm²/s, where its parameter B exceeds 1; needs the rated speed"),
             hasCurve),
    onlyWhen(byDefault(field(headFactor, 0.05, 1.2, "on the head, for solids in the liquid"), 1.0), hasCurve),
    onlyWhen(
        byDefault(field(efficiencyFactor, 0.05, 1.2, "on the efficiency, for solids in the liquid"), 1.0),
        hasCurve),
    inSight(flag("running", true, "off: it passes no flow")),
    onlyWhen(flag("already running", false,
                  "of a curve that rises from no flow: it runs already, where from rest it could not start "
                  "against the network"),
             hasCurve),
    onlyWhen(flag("check valve", true,
                  "at its discharge; without it liquid runs back when the network's head is the greater"),
             hasCurve),
    field(datum, -12000, 9000, "height to which its NPSH is referred; its suction point's if not given"),
    field(driver, 0, 1e9, "power the driver of one unit may give at the shaft"),
    onlyWhen(
        choice(motorClassKey, motorClasses,
               "efficiency class of its motor, IEC 60034-30-1 at 50 Hz, 2 to 6 poles by the rated speed; "
               "the driver's power is then its rating"),
        ownMotorNotGiven),
    field(motorFull, 0.01, 1, "of its motor at full load, in place of a class"),
    Field{.key = motorLoadsKey,
          .kind = FieldKind::table,
          .help = "efficiency of its motor at shares of its full load; without it by a law of constant and "
                  "load losses",
          .columns = loadColumns},
    field(driveShare, 0.01, 1, "of a frequency converter or gear before the motor; the job's if not given"),
    choice(constructionKey, constructions, "how it is built"),
    field(solidsPassage, 1e-4, 1, "diameter of the largest ball that passes it"),
    field(leastFlow, 0, 1e4, "of one unit at its rated speed: it must not run at less for long"),
    field(allowedLeast, 0, 1, "of BEP flow: the region its maker allows"),
    field(allowedMost, 1, 3, "of BEP flow: the region its maker allows"),
    field(ownMargin, 0, 100, "NPSH available less NPSH required; the job's if not given"),
    field(ofBestLeast, 0, 1,
          "of the region it should run in; if not given as ANSI/HI 9.6.3 prefers: 70 %, of specific speeds "
          "over "
          "87 80 %"),
    field(ofBestMost, 1, 3,
          "of the region it should run in; if not given as ANSI/HI 9.6.3 prefers: 120 %, of specific speeds "
          "over 87 115 %"),
    stockItem(),
    nameOf(serviceKey, "service", "whose limits hold for it, by the name of the service"),
    text("note", "make, size, stages: anything worth saying"),
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

#include "parts/pump.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <variant>

#include "curve/monotone.h"
#include "parts/pump_curve.h"
#include "quantity/format.h"

namespace conduit::pump {
namespace {

constexpr Key<Rotation> speed{"speed"}, ratedSpeed{"rated speed"};
constexpr Key<VolumeFlow> dutyFlow{"duty flow"};
constexpr Key<Height> datum{"datum"};
constexpr Key<Power> driver{"driver"};
constexpr Key<HeadDrop> ownMargin{"NPSH margin at least"};
constexpr std::string_view curveKey = "curve";

constexpr Column curveColumns[] = {
    {"flow", Measure::volumeFlow, true, 0, 1e4},
    {"head", Measure::headDrop, true, 0, 1e5},
    {"efficiency", Measure::ratio, false, 0, 1},
    {"NPSH required", Measure::headDrop, false, 0, 1000},
};
constexpr std::string_view ways[] = {"curve", "duty point", "given flow", "given head", "given power"};
constexpr std::string_view wayKey = "described by", arrangementKey = "arrangement", keepsKey = "keeps",
                           keptAtKey = "kept at";
constexpr std::string_view arrangements[] = {"parallel", "series"};
constexpr std::string_view kept[] = {"its speed", "a pressure", "a flow"};
constexpr Key<HeadDrop> dutyHead{"duty head"}, headMost{"head at most"};
constexpr Key<Ratio> dutyEfficiency{"duty efficiency"}, headFactor{"head factor"},
    efficiencyFactor{"efficiency factor"};
constexpr Key<Power> liquidPower{"power to the liquid"};
constexpr Key<Number> unitCount{"units"}, stageCount{"stages"}, trimExponent{"trim exponent"};
constexpr Key<Bore> impeller{"impeller"}, ratedImpeller{"rated impeller"};
constexpr Key<GaugePressure> keptPressure{"kept pressure"};
constexpr Key<VolumeFlow> keptFlow{"kept flow"};
constexpr Key<Rotation> leastSpeed{"speed at least"};

std::string word(const Values& v, std::string_view key, std::string_view fallback) {
  const auto* given = v.get<std::string>(key);
  return given ? *given : std::string(fallback);
}
bool described(const Values& v, std::size_t way) { return word(v, wayKey, ways[0]) == ways[way]; }
bool curveFound(const Values& v) { return described(v, 2) || (described(v, 0) && v.released(curveKey)); }
bool byCurve(const Values& v) { return described(v, 0); }
bool byPoint(const Values& v) { return described(v, 1); }
bool byPower(const Values& v) { return described(v, 4); }
bool wantsDutyFlow(const Values& v) { return curveFound(v) || byPoint(v); }
bool wantsDutyHead(const Values& v) { return byPoint(v) || described(v, 3); }
/// Its head follows a curve, whether given by points or by the duty.
bool hasCurve(const Values& v) { return (byCurve(v) && !v.released(curveKey)) || byPoint(v); }
bool curveGiven(const Values& v) { return hasCurve(v); }
bool keepsPressure(const Values& v) { return hasCurve(v) && word(v, keepsKey, kept[0]) == kept[1]; }
bool keepsFlow(const Values& v) { return hasCurve(v) && word(v, keepsKey, kept[0]) == kept[2]; }
bool keepsSomething(const Values& v) { return keepsPressure(v) || keepsFlow(v); }

const Field fields[] = {
    choice(wayKey, ways, "what is known of it"),
    Field{.key = curveKey,
          .kind = FieldKind::table,
          .needed = true,
          .releasable = true,
          .help = "head against flow at the rated speed of one unit, flows rising; efficiency and NPSH "
                  "required where known",
          .columns = curveColumns,
          .applies = byCurve},
    onlyWhen(need(field(dutyFlow, -1e4, 1e4, "the flow the pump is to deliver")), wantsDutyFlow),
    onlyWhen(
        releasable(need(field(dutyHead, 0, 1e5, "the head it gives: at its duty flow, or whatever flows"))),
        wantsDutyHead),
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
    onlyWhen(
        releasable(field(
            speed, 0.01, 2000,
            "speed at which it runs, the greatest where it keeps something; the rated one if not given")),
        hasCurve),
    onlyWhen(choice(keepsKey, kept, "what its speed is held for"), hasCurve),
    onlyWhen(
        releasable(need(field(keptPressure, -101325, 1e9, "gauge, kept by its speed for as long as it can"))),
        keepsPressure),
    onlyWhen(nameOf(keptAtKey, "point", "where; its discharge if not given"), keepsPressure),
    onlyWhen(releasable(need(field(keptFlow, 0, 1e4, "kept by its speed for as long as it can"))), keepsFlow),
    onlyWhen(field(leastSpeed, 0.01, 2000, "it cannot run slower"), keepsSomething),
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
    inSight(flag("running", true, "off: it stands still and passes nothing")),
    onlyWhen(flag("already running", false,
                  "of a curve that rises from no flow: it runs already, where from rest it could not start "
                  "against the network"),
             hasCurve),
    onlyWhen(flag("check valve", true,
                  "at its discharge; without it liquid runs back when the network's head is the greater"),
             hasCurve),
    field(datum, -12000, 9000, "height to which its NPSH is referred; its suction point's if not given"),
    field(driver, 0, 1e9, "power its driver may give at the shaft"),
    field(ownMargin, 0, 100, "NPSH available less NPSH required; the job's if not given"),
    byDefault(field(Key<Ratio>{"flow of best at least"}, 0, 1,
                    "of the region it may run in; ANSI/HI 9.6.3 prefers 70 %"),
              0.7),
    byDefault(field(Key<Ratio>{"flow of best at most"}, 1, 3,
                    "of the region it may run in; ANSI/HI 9.6.3 prefers 120 %"),
              1.2),
    stockItem(),
    nameOf(serviceKey, "service", "whose limits hold for it, by the name of the service"),
    text("note", "make, size, stages: anything worth saying"),
};
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

/// One unit as its maker has it: the rows given (even while released: its efficiency and NPSH still belong to
/// the pump), or three of the family through its duty point.
std::vector<CurveRow> makersRows(const Values& values, const Medium& medium) {
  std::vector<CurveRow> out;
  if (byPoint(values)) {
    const auto q = get(values, dutyFlow, medium);
    const auto h = get(values, dutyHead, medium);
    if (!q || !h || q->si() <= 0 || h->si() <= 0) return out;
    const auto n = get(values, ratedSpeed, medium);
    const double stage = h->si() / getOrFallback(values, fields, stageCount, medium)->si();
    const Shape shape = shapeAt(n ? n->si() * 60 * std::sqrt(q->si()) / std::pow(stage, 0.75) : 30.0);
    const auto eta = get(values, dutyEfficiency, medium);
    for (const double share : {0.0, 1.0, 1.4}) {
      CurveRow r{share * q->si(), h->si() * (shape.h0 - (shape.h0 - 1) * std::pow(share, shape.m)), {}, {}};
      const double b = shape.p0 - (shape.h0 - 1) * shape.m,
                   power = shape.p0 + (1 - shape.p0 - b) * share + b * share * share;
      if (eta && share > 0)
        r.efficiency = std::clamp(eta->si() * share * (r.head_m / h->si()) / power, 0.0, 1.0);
      out.push_back(r);
    }
    return out;
  }
  const auto* entry = values.entry(curveKey);
  const Rows* rows = entry ? std::get_if<Rows>(&entry->value) : nullptr;
  if (!rows) return out;
  for (const auto& row : *rows) {
    if (row.size() < 2 || !row[0] || !row[1]) continue;
    CurveRow r{
        resolve(*row[0], Measure::volumeFlow, medium), resolve(*row[1], Measure::headDrop, medium), {}, {}};
    if (row.size() > 2 && row[2]) r.efficiency = row[2]->value;
    if (row.size() > 3 && row[3]) r.npsh_m = resolve(*row[3], Measure::headDrop, medium);
    out.push_back(r);
  }
  return out;
}

/// ANSI/HI 9.6.7 gives its correction for B under this.
constexpr double mostViscous = 40.0;
/// Below it a liquid is near enough to the water with which curves are measured.
constexpr double likeWater_m2s = 3e-6;

std::optional<Viscous> viscousOf(const Values& values, const Setting& setting) {
  const auto rows = makersRows(values, setting.medium);
  const auto n = get(values, ratedSpeed, setting.medium), now = get(values, speed, setting.medium);
  if (!hasCurve(values) || setting.viscosity_m2s < likeWater_m2s || rows.size() < 2 || !n ||
      !flagOf(values, *fieldOf("viscous correction")))
    return std::nullopt;
  const double best = bestOf(rows).value_or(0.6 * rows.back().flow_m3s), s = now ? now->si() / n->si() : 1.0;
  std::vector<CurvePoint> heads;
  for (const CurveRow& r : rows)
    if (heads.empty() || r.flow_m3s > heads.back().x) heads.push_back({r.flow_m3s, r.head_m});
  if (best <= 0 || heads.size() < 2) return std::nullopt;
  const double head = MonotoneCurve(heads).at(best).value;
  if (head <= 0) return std::nullopt;
  const double stages = getOrFallback(values, fields, stageCount, setting.medium)->si();
  const Viscous v = viscousFactors(setting.viscosity_m2s, best * s, head * s * s / stages, n->si() * s);
  return v.b > 1 ? std::optional(v) : std::nullopt;
}

/// What stands in this symbol at the rated speed: trimmed, in this liquid, all units together. Flow is that
/// of all.
std::vector<CurveRow> rowsOf(const Values& values, const Setting& setting) {
  const Medium& medium = setting.medium;
  auto rows = makersRows(values, medium);
  const auto full = get(values, ratedImpeller, medium), cut = get(values, impeller, medium);
  const double trim = full && cut ? std::pow(cut->si() / full->si(),
                                             getOrFallback(values, fields, trimExponent, medium)->si())
                                  : 1.0;
  const double best = bestOf(rows).value_or(rows.empty() ? 1.0 : 0.6 * rows.back().flow_m3s);
  const auto viscous = viscousOf(values, setting);
  const double onHead = hasCurve(values) ? getOrFallback(values, fields, headFactor, medium)->si() : 1.0,
               onEfficiency =
                   hasCurve(values) ? getOrFallback(values, fields, efficiencyFactor, medium)->si() : 1.0;
  const double side = parallelUnits(values, medium), after = seriesUnits(values, medium);
  for (CurveRow& r : rows) {
    const double ch = viscous ? 1 - (1 - viscous->cq) * std::pow(r.flow_m3s / best, 0.75) : 1.0;
    r.flow_m3s *= trim * (viscous ? viscous->cq : 1.0) * side;
    r.head_m *= trim * ch * onHead * after;
    if (r.efficiency) *r.efficiency *= (viscous ? viscous->ceta : 1.0) * onEfficiency;
  }
  return rows;
}

double speedRatio(const Values& values, const Medium& medium) {
  const auto rated = get(values, ratedSpeed, medium), now = get(values, speed, medium);
  return rated && now ? now->si() / rated->si() : 1.0;
}

std::optional<Problem> curveFault(const Values& values, const Setting& setting) {
  const auto rows = rowsOf(values, setting);
  const auto fault = [&](const std::string& what) { return Problem{{"", std::string(curveKey)}, what, {}}; };
  for (std::size_t i = 0; i + 1 < rows.size(); ++i) {
    if (rows[i + 1].flow_m3s == rows[i].flow_m3s)
      return fault(fmt::format("the curve has two heads for one flow in rows {} and {}", i + 1, i + 2));
    if (rows[i + 1].flow_m3s < rows[i].flow_m3s)
      return fault(fmt::format("the flows of the curve must rise: row {} does not", i + 2));
  }
  if (rows.size() > 1 && rows.back().head_m >= rows.front().head_m)
    return fault("the head of the curve must fall from its first to its last point");
  if (rows.size() == 3 && rows[0].flow_m3s == 0.0 && !threePoint(rows))
    return fault(
        "three points of a curve must fall one after another, and not all at the last: give more points for "
        "another shape");
  for (std::size_t i = 1; i + 1 < rows.size(); ++i)
    if (!rows[i].npsh_m &&
        std::any_of(rows.begin(), rows.begin() + static_cast<std::ptrdiff_t>(i),
                    [](const CurveRow& r) { return r.npsh_m; }) &&
        std::any_of(rows.begin() + static_cast<std::ptrdiff_t>(i), rows.end(),
                    [](const CurveRow& r) { return r.npsh_m; }))
      return fault(fmt::format(
          "the NPSH required has a gap in row {}: give it there, or leave it out at the ends only", i + 1));
  return std::nullopt;
}

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.lacks = lacking(values, fields);
  const auto rows = rowsOf(values, setting);
  if (hasCurve(values) && prepared.lacks.empty()) {
    if (rows.size() < 2)
      prepared.lacks.push_back({std::string(byPoint(values) ? dutyFlow.text : curveKey),
                                byPoint(values) ? "a duty above nothing" : "two points of its curve"});
    else prepared.problem = curveFault(values, setting);
  }
  if (values.find(speed.text) && !values.find(ratedSpeed.text) && hasCurve(values))
    prepared.lacks.push_back({"rated speed", "a rated speed beside its speed"});
  if (values.find(impeller.text) && !values.find(ratedImpeller.text) && hasCurve(values))
    prepared.lacks.push_back({"rated impeller", "a rated impeller beside its impeller"});
  if (prepared.lacks.empty() && keepsPressure(values) && word(values, keptAtKey, "").empty() &&
      (ends.size() < 2 || !ends[1].height_m))
    prepared.lacks.push_back({"", "a height at its discharge"});
  if (!prepared.lacks.empty() || prepared.problem) return prepared;
  const bool running = flagOf(values, *fieldOf("running"));
  if (curveFound(values)) {
    prepared.branches.push_back(
        {0, 1, nullptr, running ? get(values, dutyFlow, setting.medium)->si() : 0.0, !running});
    return prepared;
  }
  Branch branch{.from = 0, .to = 1, .shut = !running};
  if (described(values, 3)) {
    branch.law = std::make_unique<FixedHeadLaw>(get(values, dutyHead, setting.medium)->si() *
                                                seriesUnits(values, setting.medium));
  } else if (byPower(values)) {
    const double units = getOrFallback(values, fields, unitCount, setting.medium)->si();
    branch.law = std::make_unique<FixedPowerLaw>(
        get(values, liquidPower, setting.medium)->si() * units, setting.medium.pressureOf(1.0),
        getOrFallback(values, fields, headMost, setting.medium)->si());
  } else {
    const double s = speedRatio(values, setting.medium);
    const double start = std::max(bestFlow(rows, s).value_or(0.6 * rows.back().flow_m3s * s), 1e-6);
    std::optional<Hold> hold;
    if (keepsPressure(values)) {
      branch.holdsAt = word(values, keptAtKey, "");
      hold = Hold{false, (branch.holdsAt.empty() ? *ends[1].height_m : 0.0) +
                             setting.medium.columnOf(
                                 get(values, keptPressure,
                                     setting.mediumAt(ends.size() > 1 ? ends[1].height_m : std::nullopt))
                                     ->si())};
    }
    const double most = keepsFlow(values) ? get(values, keptFlow, setting.medium)->si()
                                          : std::numeric_limits<double>::infinity();
    branch.law = std::make_unique<PumpLaw>(HeadCurve(rows, s), start, flagOf(values, *fieldOf("check valve")),
                                           hold, most, !flagOf(values, *fieldOf("already running")));
  }
  prepared.branches.push_back(std::move(branch));
  return prepared;
}

std::optional<double> head(const Reading& r) {
  const auto drop = outcome::headLoss(r);
  return drop ? std::optional(-*drop) : std::nullopt;
}

double ratioNow(const Reading& r);
std::optional<double> onCurve(const Reading& r, std::optional<double> CurveRow::*column, bool squared,
                              double flow) {
  std::vector<CurvePoint> points;
  for (const CurveRow& row : rowsOf(*r.values, *r.setting))
    if (row.*column) points.push_back({row.flow_m3s, *(row.*column)});
  if (points.size() < 2) return std::nullopt;
  const double s = ratioNow(r);
  if (!squared && points.front().x > 0)
    points.insert(points.begin(), CurvePoint{0, 0});  // no flow, no useful power
  return MonotoneCurve(points).at(flow / s).value * (squared ? s * s : 1.0);
}
bool running(const Reading& r) { return flagOf(*r.values, *fieldOf("running")); }

/// Speed over rated speed: as given, or where it keeps something the one at which its curve has the flow and
/// head found.
double ratioNow(const Reading& r) {
  const double most = speedRatio(*r.values, r.setting->medium);
  if (!keepsSomething(*r.values) || r.branches.empty() || r.branches[0].state != BranchState::acting)
    return most;
  const auto q = outcome::flow(r), h = head(r);
  const auto rows = rowsOf(*r.values, *r.setting);
  if (!q || !h || rows.size() < 2) return most;
  double low = 1e-3 * most, high = most;
  for (int step = 0; step < 100; ++step) {
    const double s = (low + high) / 2;
    (HeadCurve(rows, s).at(*q).value < *h ? low : high) = s;
  }
  return (low + high) / 2;
}
std::optional<double> runningSpeed(const Reading& r) {
  const auto rated = get(*r.values, ratedSpeed, r.setting->medium);
  return rated && hasCurve(*r.values) && running(r) ? std::optional(rated->si() * ratioNow(r)) : std::nullopt;
}
std::optional<double> viscousParameter(const Reading& r) {
  const auto v = viscousOf(*r.values, *r.setting);
  return v ? std::optional(v->b) : std::nullopt;
}

std::optional<double> efficiency(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || *q <= 1e-9 || !running(r)) return std::nullopt;
  const auto e = onCurve(r, &CurveRow::efficiency, false, *q);
  return e && *e > 0.01 ? e : std::nullopt;
}
std::optional<double> shaftPower(const Reading& r) {
  const auto q = outcome::flow(r), h = head(r), e = efficiency(r);
  return q && h && e ? std::optional(r.setting->medium.powerOf(*q, *h) / *e) : std::nullopt;
}
std::optional<double> datumOf(const Reading& r) {
  if (const auto z = get(*r.values, datum, r.setting->medium)) return z->si();
  return r.ends.empty() ? std::nullopt : r.ends[0].height_m;
}
std::optional<double> npshAvailable(const Reading& r) {
  const auto z = datumOf(r);
  if (r.branches.empty() || !r.branches[0].headFrom_m || !z) return std::nullopt;
  return *r.branches[0].headFrom_m - *z + r.setting->vapourDepth_m(*z);
}
std::optional<double> npshRequired(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || *q <= 1e-9 || !running(r)) return std::nullopt;
  return onCurve(r, &CurveRow::npsh_m, true, *q);
}
std::optional<double> npshMargin(const Reading& r) {
  const auto a = npshAvailable(r), b = npshRequired(r);
  return a && b ? std::optional(*a - *b) : std::nullopt;
}
std::optional<double> npshRatio(const Reading& r) {
  const auto a = npshAvailable(r), b = npshRequired(r);
  return a && b && *b > 0 ? std::optional(*a / *b) : std::nullopt;
}
std::optional<double> ofBest(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!q || !running(r)) return std::nullopt;
  const auto best = bestFlow(rowsOf(*r.values, *r.setting), ratioNow(r));
  return best && *best > 0 ? std::optional(*q / *best) : std::nullopt;
}

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow},
    {"head", Measure::headDrop, head},
    {"efficiency", Measure::ratio, efficiency},
    {"shaft power", Measure::power, shaftPower},
    {"NPSH available", Measure::headDrop, npshAvailable},
    {"NPSH required", Measure::headDrop, npshRequired},
    {"NPSH margin", Measure::headDrop, npshMargin},
    {"NPSH ratio", Measure::number, npshRatio},
    {"share of best flow", Measure::ratio, ofBest},
    {"running speed", Measure::rotation, runningSpeed},
    {"viscous parameter B", Measure::number, viscousParameter},
    {"suction pressure", Measure::gaugePressure, outcome::pressureBefore},
    {"discharge pressure", Measure::gaugePressure, outcome::pressureAfter},
    {"gauge reading before", Measure::gaugePressure, outcome::gaugeBefore},
    {"gauge reading after", Measure::gaugePressure, outcome::gaugeAfter},
};
const Swap swaps[] = {{"duty flow", "curve", "flow"}};

bool shutIn(const Reading& r) {
  const auto q = outcome::flow(r);
  return running(r) && curveGiven(*r.values) && !r.branches.empty() &&
         (r.branches[0].state == BranchState::shut || (q && std::abs(*q) < 1e-9));
}

std::string story(const Reading& r, const UnitSet& units) {
  if (!running(r)) return "Stands still; nothing passes.";
  const auto q = outcome::flow(r), h = head(r);
  if (shutIn(r)) return "Runs against a shut line: it is shut in and passes nothing.";
  if (!q || !h) return "Its duty is not determined.";
  std::string text =
      curveFound(*r.values)
          ? fmt::format("Needs a head of {} for its duty of {}", withUnit(*h, Measure::headDrop, units),
                        withUnit(*q, Measure::volumeFlow, units, 3))
          : fmt::format("Lifts {} by {}", withUnit(*q, Measure::volumeFlow, units, 3),
                        withUnit(*h, Measure::headDrop, units));
  if (const auto n = runningSpeed(r); n && (r.values->find(speed.text) || keepsSomething(*r.values)))
    text += fmt::format(" at {}", withUnit(*n, Measure::rotation, units));
  if (const auto share = ofBest(r)) text += fmt::format(", {} % of its best flow", digits(*share * 100, 3));
  text += ".";
  if (const auto margin = npshMargin(r))
    text += *margin >= 0 ? fmt::format(" The suction leaves {} above what it needs.",
                                       withUnit(*margin, Measure::headDrop, units, 2))
                         : fmt::format(" It cavitates: the suction lacks {}.",
                                       withUnit(-*margin, Measure::headDrop, units, 2));
  return text;
}

void check(const Reading& r, const UnitSet& units, std::vector<Check>& checks) {
  if (!running(r)) return;
  if (keepsSomething(*r.values) && !r.branches.empty() && r.branches[0].flow_m3s) {
    const auto n = runningSpeed(r);
    const auto least = get(*r.values, leastSpeed, r.setting->medium);
    if (n && least && r.branches[0].state == BranchState::acting) {
      Check c{.label = "Speed",
              .measure = Measure::rotation,
              .value = *n,
              .least = least->si(),
              .severity = Severity::paper};
      if (c.broken())
        c.what = fmt::format("{} would have to run at {}, and cannot run slower than {}", r.name,
                             withUnit(*n, Measure::rotation, units),
                             withUnit(least->si(), Measure::rotation, units));
      checks.push_back(std::move(c));
    }
    if (r.branches[0].state == BranchState::open && *r.branches[0].flow_m3s > 1e-9) {
      const bool pressure = keepsPressure(*r.values);
      checks.push_back({.label = "Kept",
                        .measure = Measure::number,
                        .value = 0,
                        .least = 1,
                        .severity = Severity::near,
                        .what = fmt::format("{} runs at its full speed and cannot reach the {} it is to keep",
                                            r.name, pressure ? "pressure" : "flow")});
    }
  }
  const auto q = outcome::flow(r);
  const auto rows = rowsOf(*r.values, *r.setting);
  const double s = ratioNow(r);
  if (curveGiven(*r.values) && q && !rows.empty()) {
    if (shutIn(r)) {
      checks.push_back(
          {.label = "Flow",
           .measure = Measure::volumeFlow,
           .value = 0.0,
           .least = 1e-9,
           .severity = Severity::broken,
           .what = fmt::format("{} runs but is shut in: the network stands above its {} at no flow", r.name,
                               withUnit(HeadCurve(rows, s).shutOff(), Measure::headDrop, units)),
           .remedies = {{fmt::format("Stop {}", r.name), {{r.name, "running", "no"}}, {r.name, "running"}}}});
    } else if (*q < 0) {
      checks.push_back({.label = "Flow",
                        .measure = Measure::volumeFlow,
                        .value = *q,
                        .least = 0.0,
                        .severity = Severity::broken,
                        .what = fmt::format("liquid runs back through {}: {}", r.name,
                                            withUnit(-*q, Measure::volumeFlow, units, 3)),
                        .remedies = {{fmt::format("Give {} a check valve", r.name),
                                      {{r.name, "check valve", "yes"}},
                                      {r.name, "check valve"}}}});
    } else {
      const double last = rows.back().flow_m3s * s;
      if (*q > last)
        checks.push_back({.label = "Flow on the curve",
                          .measure = Measure::volumeFlow,
                          .value = *q,
                          .most = last,
                          .severity = Severity::paper,
                          .what = fmt::format("{} runs past the end of its curve: {} against {}", r.name,
                                              withUnit(*q, Measure::volumeFlow, units, 3),
                                              withUnit(last, Measure::volumeFlow, units, 3))});
    }
  }
  if (const auto v = viscousOf(*r.values, *r.setting); v && v->b >= mostViscous)
    checks.push_back({.label = "Viscous correction",
                      .measure = Measure::number,
                      .value = v->b,
                      .most = mostViscous,
                      .severity = Severity::broken,
                      .what = fmt::format("the viscous correction of {} is beyond what ANSI/HI 9.6.7 covers: "
                                          "its parameter B is {}, and {} is the most",
                                          r.name, digits(v->b, 3), mostViscous)});
  if (const auto margin = npshMargin(r)) {
    Check c{.label = "NPSH margin",
            .measure = Measure::headDrop,
            .value = *margin,
            .least = limitsFor(*r.values, *r.setting).npshMargin_m.value_or(0.0)};
    if (c.broken()) {
      c.what = *margin < 0 ? fmt::format("{} cavitates: NPSH available {}, required {}", r.name,
                                         withUnit(*npshAvailable(r), Measure::headDrop, units, 3),
                                         withUnit(*npshRequired(r), Measure::headDrop, units, 3))
                           : fmt::format("the suction leaves {} {} above what it needs; {} is asked for",
                                         r.name, withUnit(*margin, Measure::headDrop, units, 2),
                                         withUnit(*c.least, Measure::headDrop, units, 2));
      // Every metre lower is a metre more before the pump, but for what the flow then changes: a twentieth is
      // added.
      if (r.endNames.size() == 2 && r.ends[0].height_m && r.ends[1].height_m) {
        const double by = std::ceil((*c.least - *margin) * 1.05 * 20) / 20;
        Remedy lower{fmt::format("Lower {} by {}", r.name, withUnit(by, Measure::headDrop, units, 2)),
                     {},
                     {r.name, ""}};
        for (std::size_t i = 0; i < 2; ++i)
          lower.edits.push_back({r.endNames[i], "height", fmt::format("{:.8g} m", *r.ends[i].height_m - by)});
        c.remedies.push_back(std::move(lower));
      }
    }
    checks.push_back(std::move(c));
  }
  if (const auto share = ofBest(r); share && !shutIn(r)) {
    const double least =
        getOrFallback(*r.values, fields, Key<Ratio>{"flow of best at least"}, r.setting->medium)->si();
    const double most =
        getOrFallback(*r.values, fields, Key<Ratio>{"flow of best at most"}, r.setting->medium)->si();
    Check c{.label = "Flow against best",
            .measure = Measure::ratio,
            .value = *share,
            .least = least,
            .most = most,
            .severity = Severity::near};
    if (c.broken())
      c.what = fmt::format("{} runs at {} % of its best flow; {} to {} % is {}", r.name,
                           digits(*share * 100, 3), digits(least * 100, 3), digits(most * 100, 3),
                           least == 0.7 && most == 1.2 ? "preferred (ANSI/HI 9.6.3)" : "asked for");
    checks.push_back(std::move(c));
  }
  const auto most = get(*r.values, driver, r.setting->medium);
  const auto p = shaftPower(r);
  if (most && p) {
    Check c{.label = "Driver", .measure = Measure::power, .value = *p, .most = most->si()};
    if (c.broken())
      c.what =
          fmt::format("{} asks {} at the shaft, over its driver's {}", r.name,
                      withUnit(*p, Measure::power, units, 3), withUnit(most->si(), Measure::power, units, 3));
    checks.push_back(std::move(c));
  }
}

std::optional<Working> working(const Reading& r, std::string_view outcomeKey) {
  const auto q = outcome::flow(r);
  const Setting& set = *r.setting;
  const double g = set.medium.gravity_ms2, rho = set.medium.density_kgm3;
  if (outcomeKey == "head" && q && r.branches[0].headFrom_m && r.branches[0].headTo_m) {
    Working w{.title = fmt::format("Head of {}", r.name)};
    const double s = ratioNow(r);
    const auto rows = rowsOf(*r.values, set);
    if (const auto three = threePoint(rows); three && curveGiven(*r.values) && !shutIn(r) && *q > 0) {
      w.lines.push_back(
          {"b", "ln((H₀−H₂)/(H₀−H₁))/ln(Q₂/Q₁)",
           fmt::format("ln(({0:.6g}−{2:.6g})/({0:.6g}−{1:.6g}))/ln({4:.6g}/{3:.6g})", rows[0].head_m,
                       rows[1].head_m, rows[2].head_m, rows[1].flow_m3s, rows[2].flow_m3s),
           three->b, "", "curve through three points"});
      w.lines.push_back({"a", "(H₀−H₁)/Q₁^b",
                         fmt::format("({:.6g}−{:.6g})/{:.6g}^{:.8g}", rows[0].head_m, rows[1].head_m,
                                     rows[1].flow_m3s, three->b),
                         three->a, "", ""});
      w.lines.push_back({"H", "s²·H₀ − a·s^(2−b)·Q^b",
                         fmt::format("{0:.6g}²·{1:.6g} − {2:.8g}·{0:.6g}^(2−{3:.8g})·{4:.8g}^{3:.8g}", s,
                                     three->h0, three->a, three->b, *q),
                         *head(r), "m", "affinity of centrifugal pumps, s the speed over the rated speed"});
      w.remark = "The flow is the one at which this head and what the network asks agree.";
    } else {
      w.lines.push_back({"H", "H_discharge − H_suction",
                         fmt::format("{:.8g} − {:.8g}", *r.branches[0].headTo_m, *r.branches[0].headFrom_m),
                         *head(r), "m", "energy heads at both sides"});
      if (curveGiven(*r.values) && !shutIn(r))
        w.remark = "The curve is a monotone cubic through the given points (Fritsch and Butland 1984).";
    }
    return w;
  }
  if (outcomeKey == "NPSH available" && npshAvailable(r)) {
    Working w{.title = fmt::format("NPSH available at {}", r.name)};
    w.lines.push_back({"h_air", "(p_atm − p_v)/(ρ·g)",
                       fmt::format("({:.7g} − {:.7g})/({:.7g}·{:.7g})", set.atmosphereAt(*datumOf(r)),
                                   set.vapour_pa, rho, g),
                       set.vapourDepth_m(*datumOf(r)), "m",
                       "pressure of the air (ISO 2533) less vapour pressure, as a column of the liquid"});
    w.lines.push_back({"NPSHa", "H_s − z + h_air",
                       fmt::format("{:.8g} − {:.8g} + {:.7g}", *r.branches[0].headFrom_m, *datumOf(r),
                                   set.vapourDepth_m(*datumOf(r))),
                       *npshAvailable(r), "m",
                       "ANSI/HI 9.6.1; H_s is the energy head at the suction, so no velocity head is added"});
    return w;
  }
  if (outcomeKey == "shaft power" && shaftPower(r)) {
    Working w{.title = fmt::format("Shaft power of {}", r.name)};
    w.lines.push_back(
        {"P", "ρ·g·Q·H/η",
         fmt::format("{:.7g}·{:.7g}·{:.7g}·{:.7g}/{:.7g}", rho, g, *q, *head(r), *efficiency(r)),
         *shaftPower(r), "W", "definition of pump efficiency, ISO 9906"});
    return w;
  }
  return std::nullopt;
}

std::string stateWord(const Reading& r) {
  if (!running(r)) return "off";
  return shutIn(r) ? "shut in" : "running";
}

std::vector<FigureCurve> figure(const Reading& r) {
  std::vector<FigureCurve> curves;
  const auto rows = rowsOf(*r.values, *r.setting);
  if (rows.size() < 2) return curves;
  const double s = ratioNow(r);
  const HeadCurve headCurve(rows, s);
  FigureCurve h{"head", Measure::headDrop, {}}, n{"NPSH required", Measure::headDrop, {}},
      e{"efficiency", Measure::ratio, {}};
  for (int i = 0; i <= 40; ++i) {
    const double q = headCurve.last() * i / 40;
    h.points.emplace_back(q, headCurve.at(q).value);
    if (const auto v = onCurve(r, &CurveRow::npsh_m, true, q)) n.points.emplace_back(q, *v);
    if (const auto v = onCurve(r, &CurveRow::efficiency, false, q)) e.points.emplace_back(q, *v);
  }
  if (curveGiven(*r.values)) curves.push_back(std::move(h));
  if (!n.points.empty()) curves.push_back(std::move(n));
  if (!e.points.empty()) curves.push_back(std::move(e));
  return curves;
}

constexpr std::string_view labels[] = {"flow", "head"};
constexpr std::string_view workings[] = {"head", "NPSH available", "shaft power"};

}  // namespace

const Part part{
    .key = "pump",
    .plural = "Pumps",
    .prefix = "P",
    .letter = 'P',
    .group = Group::lift,
    .ends = Ends::two,
    .symbol = "O 0 0 10 M -5 -8.7 L 10 0 L -5 8.7",
    .fields = fields,
    .outcomes = outcomes,
    .swaps = swaps,
    .labels = labels,
    .workings = workings,
    .prepare = prepare,
    .story = story,
    .check = check,
    .working = working,
    .stateWord = stateWord,
    .figure = figure,
};

}  // namespace conduit::pump

#include "parts/control_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "curve/monotone.h"
#include "loss/control_valve_flow.h"
#include "parts/across.h"
#include "parts/curve_working.h"
#include "parts/flange.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::controlvalve {
namespace {

constexpr Key<FlowCoefficient> fullKv{"Kv"};
constexpr Key<Ratio> opening{"opening"};
constexpr Key<Number> rangeability{"rangeability"};
constexpr Key<Number> recovery{"FL"}, styleModifier{"Fd"};
constexpr Key<Bore> bore{"bore"};
constexpr std::string_view characters[] = {"linear", "equal percentage", "quick opening", "table"};
constexpr std::string_view duties[] = {"control", "balancing"};
constexpr std::string_view tableKey = "travel table";
constexpr Column columns[] = {{"opening", Measure::ratio, true, 0, 1},
                              {"share of Kv", Measure::ratio, true, 0, 1.2}};
bool equalPercentage(const Values& v) {
  const auto* word = v.get<std::string>("characteristic");
  return word && *word == "equal percentage";
}

bool tabled(const Values& v) {
  const auto* word = v.get<std::string>("characteristic");
  return word && *word == "table";
}
bool sized(const Values& v) { return v.find(bore.text) != nullptr; }

const Field fields[] = {
    assume(releasable(need(field(fullKv, 1e-6, 1e6, "Kv fully open"))), "100 Kv"),
    opens(adjusts(releasable(inSight(byDefault(field(opening, 0, 1, "% of travel; 0 is closed"), 1.0)))),
          "Open"),
    choice("characteristic", characters, "inherent characteristic, Kv against travel"),
    onlyWhen(byDefault(field(rangeability, 2, 1000, "rangeability of an equal-percentage valve"), 50.0),
             equalPercentage),
    onlyWhen(Field{.key = tableKey,
                   .kind = FieldKind::table,
                   .needed = true,
                   .help = "% of full Kv against travel, both increasing",
                   .columns = columns},
             tabled),
    field(recovery, 0.1, 1,
          "pressure recovery factor, for choking to IEC 60534-2-1; about 0.9 for globe, 0.6 for butterfly "
          "valves"),
    field(bore, 1e-3, 5, "valve body bore; adjacent reducers are then included"),
    onlyWhen(field(styleModifier, 0.01, 1, "valve style modifier, for viscous flow; 0.46 for a globe plug"),
             sized),
    choice("duty", duties, "balancing: set by hand once, at any opening"),
    byDefault(limitField(LimitId::openingLeast), 0.1),
    byDefault(limitField(LimitId::openingMost), 0.9),
    byDefault(limitField(LimitId::bodyVelocityMost), 10.0),
    limitField(LimitId::dropRatioMost),
    limitField(LimitId::cavitationIndexLeast, "manufacturer's minimum cavitation index (p1 − pv)/(p1 − p2)"),
    limitField(LimitId::dropLeast, "minimum drop for the valve to control"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

const Field* fieldOf(std::string_view key) {
  return std::find_if(std::begin(fields), std::end(fields), [&](const Field& f) { return f.key == key; });
}

std::vector<CurvePoint> tableOf(const Values& values) {
  std::vector<CurvePoint> points;
  if (const Rows* rows = values.get<Rows>(tableKey))
    for (const auto& row : *rows)
      if (row.size() > 1 && row[0] && row[1]) points.push_back({row[0]->value, row[1]->value});
  if (!points.empty() && points.front().x > 0) points.insert(points.begin(), CurvePoint{0, 0});
  return points;
}

/// Inherent characteristic: share of the full coefficient at travel h (IEC 60534-2-4): linear h; equal
/// percentage R^(h−1); quick opening √h; a monotone cubic through the points of a table. Closed is closed for
/// all.
double share(const Values& values, double h, const Medium& medium) {
  if (h <= 0) return 0.0;
  const std::string word = choiceOf(values, fields[2]);
  if (word == "table") {
    const auto points = tableOf(values);
    return points.size() < 2 ? 0.0 : std::max(0.0, MonotoneCurve(points).at(h).value);
  }
  if (word == "equal percentage")
    return std::pow(getOrFallback(values, fields, rangeability, medium)->si(), h - 1.0);
  return word == "quick opening" ? std::sqrt(h) : h;
}
std::optional<double> kvNow(const Reading& r) {
  const auto kv = get(*r.values, fullKv, r.setting->medium);
  const auto h = getOrFallback(*r.values, fields, opening, r.setting->medium);
  return kv && h ? std::optional(kv->si() * share(*r.values, h->si(), r.setting->medium)) : std::nullopt;
}

/// Everything the law needs, at the present opening.
struct Trim {
  double kv = 0.0, fl = 0.9, fp = 1.0, flp = 0.9;
  std::optional<double> fd, bore_m;
  bool chokes = false;
};
Trim trimOf(const Values& values, double kv, const Setting& setting, std::span<const EndPlace> ends) {
  Trim t{.kv = kv};
  if (const auto fl = get(values, recovery, setting.medium)) t.fl = t.flp = fl->si(), t.chokes = true;
  if (const auto fd = get(values, styleModifier, setting.medium)) t.fd = fd->si();
  if (const auto d = get(values, bore, setting.medium); d && kv > 0) {
    t.bore_m = d->si();
    if (ends.size() == 2 && ends[0].bore_m && ends[1].bore_m && *ends[0].bore_m >= d->si() &&
        *ends[1].bore_m >= d->si()) {
      t.fp = valveflow::pipingFactor(kv, d->si(), *ends[0].bore_m, *ends[1].bore_m);
      t.flp = valveflow::recoveryWithPiping(t.fl, kv, d->si(), *ends[0].bore_m);
    }
  }
  return t;
}
/// Critical pressure ratio factor; with an unknown critical pressure the vapour pressure is taken as far
/// below it.
double ff(const Setting& setting) {
  return setting.critical_pa ? valveflow::criticalRatio(setting.vapour_pa, *setting.critical_pa) : 0.96;
}

/// IEC 60534-2-1: Q = FP FR Kv √(Δp/(ρ/1000)), Kv in m3/h at 1 bar.
class ControlLaw final : public Law {
 public:
  ControlLaw(const Trim& t, const Setting& setting, std::optional<Choke> choke)
      : trim_(t),
        viscosity_(setting.viscosity_m2s),
        loss_(kvResistance(t.kv * t.fp, setting.medium.gravity_ms2), 2.0),
        choke_(choke) {}
  Loss at(double q, double&) const override {
    const Loss plain = loss_.at(q);
    if (!trim_.fd || q == 0.0) return viscousAtRest(plain, q);
    const auto fr = factor(std::abs(q));
    if (fr.factor >= 1) return plain;
    const double drop = loss_.r * q * std::abs(q) / (fr.factor * fr.factor);
    return {drop, std::max(drop / q * (2 - 2 * fr.logSlope), PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<ControlLaw>(*this); }
  double startFlow_m3s() const override { return std::max(trim_.kv, 1e-6) / 3600.0; }
  std::optional<Choke> choke() const override { return choke_; }

 private:
  [[nodiscard]] valveflow::ViscousFactor factor(double q) const {
    return valveflow::viscousFactor(
        valveflow::reynolds(q, viscosity_, trim_.kv, *trim_.bore_m, trim_.fl, *trim_.fd), trim_.kv,
        *trim_.bore_m, trim_.fl);
  }
  // Creeping flow through the trim is linear: its slope at rest is that of a very small flow.
  [[nodiscard]] Loss viscousAtRest(const Loss& plain, double q) const {
    if (!trim_.fd || q != 0.0) return plain;
    const double small = 1e-9 * startFlow_m3s(), f = factor(small).factor;
    return {0.0, std::max(loss_.r * small / (f * f), PowerLoss::leastSlope_sm2)};
  }
  Trim trim_;
  double viscosity_;
  PowerLoss loss_;
  std::optional<Choke> choke_;
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const auto points = tableOf(values);
  if (tabled(values) && prepared.missing.empty()) {
    if (points.size() < 2)
      prepared.missing.push_back({std::string(tableKey), "two points in its travel table"});
    for (std::size_t i = 0; i + 1 < points.size(); ++i)
      if (points[i + 1].x <= points[i].x || points[i + 1].y < points[i].y)
        prepared.problem = Problem{{"", std::string(tableKey)},
                                   fmt::format("opening and % of Kv must increase: see the row at {} %",
                                               digits(points[i + 1].x * 100, 3)),
                                   {}};
  }
  if (!prepared.missing.empty() || prepared.problem) return prepared;
  const double h = getOrFallback(values, fields, opening, setting.medium)->si();
  const double kv = get(values, fullKv, setting.medium)->si() * share(values, h, setting.medium);
  const bool closed = kv <= 0;
  Trim trim = trimOf(values, closed ? 1.0 : kv, setting, ends);
  std::optional<Choke> choke;
  if (trim.chokes && ends.size() == 2 && ends[0].height_m && ends[1].height_m) {
    // Q = FLP Kv √((p1 − FF pv)/1 bar · 1000/ρ): in heads √(ρ g (H − base)/1e5 · 1000/ρ) = √(g (H −
    // base)/100). p1 is what the wall feels: H less v²/2g of the pipe, Q²·k. So Q² = c² (H − base − k Q²), Q
    // = c/√(1 + c² k) √(H − base).
    const double still = trim.flp * trim.kv / 3600 * std::sqrt(setting.medium.gravity_ms2 / 100);
    const auto by = [&](std::size_t i) {
      const double k = ends[i].bore_m ? velocityHeadFactor(*ends[i].bore_m, setting.medium.gravity_ms2) : 0.0;
      return still / std::sqrt(1 + still * still * k);
    };
    const auto base = [&](std::size_t i) {
      return *ends[i].height_m - setting.medium.columnOf(setting.atmosphereAt(*ends[i].height_m) -
                                                         ff(setting) * setting.vapour_pa);
    };
    choke = Choke{by(0), by(1), base(0), base(1)};
  }
  prepared.branches.push_back(
      {0, 1, std::make_unique<ControlLaw>(trim, setting, choke), std::nullopt, closed});
  return prepared;
}

/// What it takes at the flow at which it chokes, from the head that stands before it.
std::optional<double> chokingDrop(const Reading& r) {
  const auto kv = kvNow(r), q = outcome::flow(r);
  if (!kv || *kv <= 0 || !q || !r.values->find(recovery.text) || !r.branches[0].headFrom_m ||
      !r.branches[0].headTo_m)
    return std::nullopt;
  const Prepared own = prepare(*r.values, *r.setting, r.ends);
  const auto choke =
      own.branches.size() == 1 && own.branches[0].law ? own.branches[0].law->choke() : std::nullopt;
  if (!choke) return std::nullopt;
  const bool forward = *q >= 0;
  const double over =
      forward ? *r.branches[0].headFrom_m - choke->baseFrom_m : *r.branches[0].headTo_m - choke->baseTo_m;
  if (over <= 0) return 0.0;
  double memory = 0;
  const double most = (forward ? choke->coefficient : choke->backward) * std::sqrt(over);
  return r.setting->medium.pressureOf(own.branches[0].law->at(most, memory).drop_m);
}

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow, SignBy::drawing},
    {"head loss", Measure::headDrop, outcome::headLoss, SignBy::drawing},
    {"pressure loss", Measure::pressureDrop, outcome::pressureLoss, SignBy::drawing},
    {"Kv at this opening", Measure::flowCoefficient, kvNow},
    {"cavitation index", Measure::number, across::cavitationIndex},
    {"pressure ratio", Measure::number, across::pressureRatio},
    {"drop at choking", Measure::pressureDrop, chokingDrop},
    {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
    {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
    {"gauge reading before", Measure::gaugePressure, outcome::gaugeBefore},
    {"gauge reading after", Measure::gaugePressure, outcome::gaugeAfter},
};

std::string stateWord(const Reading& r) {
  const auto kv = kvNow(r);
  if (kv && *kv <= 0) return "closed";
  return !r.branches.empty() && r.branches[0].state == BranchState::acting ? "choked" : "open";
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r), kv = kvNow(r);
  if (stateWord(r) == "closed") return "Closed: no flow.";
  if (!q || !dp || !kv) return "Flow not determined.";
  return fmt::format(
      "{} {} at {} {}, pressure drop {}.", stateWord(r) == "choked" ? "Choked: passes" : "Passes",
      withUnit(std::abs(*q), Measure::volumeFlow, units, 3), units.unitFor(Measure::flowCoefficient).symbol,
      asNumber(*kv, Measure::flowCoefficient, units, 3),
      withUnit(std::abs(*dp), Measure::pressureDrop, units, 3));
}

// Near its ends a valve controls badly. One that is set by hand, once, may stand where it balances.
void checkOpening(const Reading& r, Checks& checks) {
  const auto q = outcome::flow(r);
  const Given* h = r.values->get<Given>(opening.text);
  if (!h || !q || std::abs(*q) < 1e-9 || choiceOf(*r.values, *fieldOf("duty")) != duties[0]) return;
  const Medium& m = r.setting->medium;
  const Limit least = ownOrUsual(*r.values, fields, LimitId::openingLeast, m),
              most = ownOrUsual(*r.values, fields, LimitId::openingMost, m);
  const double is = resolve(*h, Measure::ratio, m);
  Check& c =
      checks.hold(CheckId::opening, is, least, most, severityOf(least.si && is < *least.si ? least : most));
  if (checks.told(c))
    c.what = fmt::format("{} is at {} % of travel; {} to {} % is {}", r.name, digits(is * 100, 3),
                         digits(*least.si * 100, 3), digits(*most.si * 100, 3),
                         c.severity == Severity::near ? "the usual range for control" : "specified");
}

// Reducers are counted by a formula that the standard gives for valves of moderate coefficient.
void checkCoefficient(const Reading& r, Checks& checks) {
  const auto kv = kvNow(r);
  const auto d = get(*r.values, bore, r.setting->medium);
  if (!kv || !d || *kv <= 0) return;
  const double perArea = *kv / (valveflow::n18 * d->si() * d->si() * 1e6);
  if (perArea <= valveflow::mostPerArea) return;
  Check& c = checks.hold(CheckId::valveCoefficient, perArea, {},
                         {valveflow::mostPerArea, LimitFrom::standard}, Severity::note);
  if (checks.told(c))
    c.what = fmt::format("Kv/(N18·d²) of {} is {}; IEC 60534-2-1 holds to {}", r.name, digits(perArea, 2),
                         valveflow::mostPerArea);
}

void check(const Reading& r, Checks& checks) {
  const auto dp = outcome::pressureLoss(r);
  const auto choking = chokingDrop(r);
  // Whatever its two ends differ in height: then it may leave at a greater pressure than it came with.
  const auto p = across::of(r);
  if (stateWord(r) == "choked" && p && p->after_pa < r.setting->vapour_pa) {
    Check& c = checks.hold(CheckId::flashing, p->after_pa, {r.setting->vapour_pa, LimitFrom::law}, {});
    if (checks.told(c))
      c.what = fmt::format(
          "{} is choked and flashing: downstream pressure {}, below the vapour pressure of {}, so part of "
          "the liquid "
          "stays vapour",
          r.name, withUnit(c.value, Measure::absolutePressure, checks.units(), 3),
          withUnit(*c.least, Measure::absolutePressure, checks.units(), 3));
  } else if (stateWord(r) == "choked") {
    Check& c = checks.hold(CheckId::choking, std::abs(dp.value_or(0)), {}, {choking, LimitFrom::law});
    if (checks.told(c))
      c.what = fmt::format(
          "{} is choked and cavitating: the liquid vaporises in its throat, and only {} of its {} drop is "
          "effective",
          r.name, withUnit(choking.value_or(0), Measure::pressureDrop, checks.units(), 3),
          withUnit(c.value, Measure::pressureDrop, checks.units(), 3));
  } else if (choking && std::abs(dp.value_or(0)) > *choking * (1 + 1e-6) + 1) {
    Check& c = checks.hold(CheckId::choking, std::abs(dp.value_or(0)), {},
                           {std::max(*choking, 0.0), LimitFrom::law}, Severity::paper);
    if (checks.told(c))
      c.what = fmt::format(
          "{} cannot pass {}: it chokes at a lower flow", r.name,
          withUnit(std::abs(outcome::flow(r).value_or(0)), Measure::volumeFlow, checks.units(), 3));
  }
  across::check(r, fields, checks);
  checkOpening(r, checks);
  checkCoefficient(r, checks);
  const Limit least = ownLimit(*r.values, LimitId::dropLeast, r.setting->medium);
  if (!least || !dp) return;
  Check& c = checks.hold(CheckId::drop, std::abs(*dp), least, {});
  if (checks.told(c))
    c.what = fmt::format("pressure drop of {} is {}, below the {} needed for control", r.name,
                         withUnit(c.value, Measure::pressureDrop, checks.units(), 3),
                         withUnit(*c.least, Measure::pressureDrop, checks.units(), 3));
}

std::optional<Working> working(const Reading& r, std::string_view key) {
  const Medium& m = r.setting->medium;
  Working w;
  if (key == "Kv at this opening" && kvNow(r)) {
    w.title = fmt::format("Kv of {} at its opening", r.name);
    const double full = get(*r.values, fullKv, m)->si(),
                 h = getOrFallback(*r.values, fields, opening, m)->si();
    const std::string word = choiceOf(*r.values, fields[2]);
    if (h <= 0) {
      w.lines.push_back({"Kv", "0", "0", 0.0, "", "closed"});
    } else if (word == "table") {
      addCurveLines(w, MonotoneCurve(tableOf(*r.values)), h, "φ", "");
      w.lines.push_back({"Kv", "φ·Kv_full", fmt::format("{:.12g}·{:.12g}", w.lines.back().value, full),
                         *kvNow(r), "", "% of full Kv from its table"});
    } else if (word == "equal percentage") {
      const double range = getOrFallback(*r.values, fields, rangeability, m)->si();
      w.lines.push_back({"Kv", "Kv_full·R^(h − 1)",
                         fmt::format("{:.12g}·{:.12g}^({:.12g} − 1)", full, range, h), *kvNow(r), "",
                         "equal percentage, IEC 60534-2-4"});
    } else {
      const bool root = word == "quick opening";
      w.lines.push_back({"Kv", root ? "Kv_full·√h" : "Kv_full·h",
                         fmt::format("{:.12g}·{}{:.12g}", full, root ? "√" : "", h), *kvNow(r), "",
                         "inherent characteristic, IEC 60534-2-4"});
    }
    return w;
  }
  if (auto ofPressures = across::working(r, key)) return ofPressures;
  if (const auto drop = chokingDrop(r); key == "drop at choking" && drop && *drop > 0) {
    const Prepared own = prepare(*r.values, *r.setting, r.ends);
    const auto choke = own.branches[0].law->choke();
    const bool forward = *outcome::flow(r) >= 0;
    const double head = forward ? *r.branches[0].headFrom_m : *r.branches[0].headTo_m,
                 base = forward ? choke->baseFrom_m : choke->baseTo_m,
                 c = forward ? choke->coefficient : choke->backward, most = c * std::sqrt(head - base);
    double memory = 0;
    const double h = own.branches[0].law->at(most, memory).drop_m;
    w.title = fmt::format("Choked pressure drop of {}", r.name);
    w.lines.push_back({"Q_c", "c·√(H₁ − H_c)", fmt::format("{:.12g}·√({:.12g} − {:.12g})", c, head, base),
                       most, "m³/s",
                       "IEC 60534-2-1: c = F_LP·Kv in heads, H_c the height less (p_atm − F_F·p_v)/(ρ·g)"});
    const double k = h / (most * most);
    w.lines.push_back(
        {"Δp_c", "ρ·g·k·Q_c²",
         fmt::format("{:.12g}·{:.12g}·{:.12g}·{:.12g}²", m.density_kgm3, m.gravity_ms2, k, most), *drop, "Pa",
         "pressure drop at that flow; k = valve resistance"});
    return w;
  }
  return std::nullopt;
}

// Whether it chokes: without its recovery factor, or without the vapour pressure, nothing tells.
std::vector<Lack> lacks(const Reading& r) {
  const auto dp = outcome::pressureLoss(r);
  if (!dp || std::abs(*dp) < 1.0) return {};
  if (!r.values->find(recovery.text)) return {{CheckId::choking, recovery.text}};
  if (!r.setting->vapourKnown) {
    auto gaps = across::lacks(r, fields);
    gaps.push_back({CheckId::choking, "vapour pressure", true});
    return gaps;
  }
  return {};
}

constexpr std::string_view labels[] = {"flow", "pressure loss"};

}  // namespace

const Part part{
    .key = "control valve",
    .plural = "Control valves",
    .prefix = "V",
    .letter = 'C',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 10 -6 L 10 6 Z M 0 0 L 0 -9 M -6 -9 L 6 -9 A -6 -15 12 12 0 180",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .lacks = lacks,
    .working = working,
    .stateWord = stateWord,
    .balances = true};

}  // namespace conduit::controlvalve

#include "parts/pump/checks.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/pump/machine.h"
#include "parts/pump/motor.h"
#include "quantity/format.h"

namespace conduit::pump {
namespace {

void tellMargin(const Reading& r, Check& c, const UnitSet& units) {
  c.what = c.value < 0 ? fmt::format("{} cavitates: NPSH available {}, required {}", r.name,
                                     withUnit(*npshAvailable(r), Measure::headDrop, units, 3),
                                     withUnit(*npshRequired(r), Measure::headDrop, units, 3))
                       : fmt::format("NPSH margin of {} is {}; {} required", r.name,
                                     withUnit(c.value, Measure::headDrop, units, 2),
                                     withUnit(*c.least, Measure::headDrop, units, 2));
  // Every metre lower is a metre more before the pump, except what the flow then changes: a twentieth is
  // added.
  if (r.endNames.size() != 2 || !r.ends[0].height_m || !r.ends[1].height_m) return;
  const double by = std::ceil((*c.least - c.value) * 1.05 * 20) / 20;
  Remedy lower{
      fmt::format("Lower {} by {}", r.name, withUnit(by, Measure::headDrop, units, 2)), {}, {r.name, ""}};
  for (std::size_t i = 0; i < 2; ++i)
    lower.edits.push_back({r.endNames[i], "height", fmt::format("{:.8g} m", *r.ends[i].height_m - by)});
  c.remedies.push_back(std::move(lower));
}

std::optional<double> ratedSpeedOf(const Values& v, const Medium& medium) {
  const auto n = get(v, ratedSpeed, medium);
  return n ? std::optional(n->si()) : std::nullopt;
}

// Under it flow and head no longer follow the diameter, and the efficiency falls.
constexpr double leastTrim = 0.75;

// What the driver should have for what the shaft takes: as given, or by its size. API 610 (recalled, to be
// checked): 125 % below 22 kW, 115 % to 55 kW, 110 % above.
Limit marginOf(const Values& v, double driver_w, const Medium& medium) {
  if (const Limit own = ownLimit(v, LimitId::driverMargin, medium)) return own;
  if (!flagOf(v, *fieldOf(marginBySizeKey))) return {};
  return {driver_w < 22e3 ? 1.25 : driver_w <= 55e3 ? 1.15 : 1.10, LimitFrom::own};
}

// The least standard motor that gives a power, where there is one.
void offerDriver(const Reading& r, Check& c, double shaft_w) {
  const auto next = ratingFor(shaft_w);
  if (!next) return;
  const std::string text = fmt::format("{:.6g} kW", *next / 1000);
  c.remedies.push_back({fmt::format("Give {} a driver of {}", r.name, text),
                        {{r.name, std::string(driver.text), text}},
                        {r.name, std::string(driver.text)}});
}

void checkDriver(const Reading& r, double s, const std::vector<CurveRow>& rows, Checks& checks) {
  const Medium& medium = r.setting->medium;
  const Limit most = ownLimit(*r.values, LimitId::driverMost, medium);
  const auto p = most ? shaftPower(r) : std::nullopt;
  if (!p) return;
  const auto n = get(*r.values, ratedSpeed, medium);
  if (const std::string name = word(*r.values, motorClassKey, motorClasses[0]);
      n && name != motorClasses[0] && !r.values->find(motorFull.text) && !r.values->find(motorLoadsKey) &&
      !fullLoadEfficiency(name, polesFor(n->si(), r.setting->mains_hz), *most.si, r.setting->mains_hz)) {
    Check& c = checks.say(CheckId::motorClass, Severity::note);
    if (checks.told(c))
      c.what = fmt::format(
          "no efficiency is known of an {} motor of {} poles and {} at {} Hz: the job's motor efficiency is "
          "taken for {}",
          name, polesFor(n->si(), r.setting->mains_hz), withUnit(*most.si, Measure::power, checks.units(), 3),
          r.setting->mains_hz, r.name);
  }
  const double unitsIn = getOrFallback(*r.values, fields, unitCount, medium)->si(), each = *p / unitsIn;
  const std::string_view perPump = unitsIn > 1 ? " per pump" : "";
  Check& c = checks.hold(CheckId::driver, each, {}, most);
  const bool over = c.broken();
  if (checks.told(c)) {
    c.what = fmt::format("{} absorbs {} shaft power{}, above its driver rating of {}", r.name,
                         withUnit(each, Measure::power, checks.units(), 3), perPump,
                         withUnit(*c.most, Measure::power, checks.units(), 3));
    offerDriver(r, c, each);
  }
  if (over) return;
  if (const Limit margin = marginOf(*r.values, *most.si, medium); margin && each > 0) {
    Check& m = checks.hold(CheckId::driverMargin, *most.si / each, margin, {});
    if (checks.told(m)) {
      m.what = fmt::format("the driver of {} has {} % of the {} absorbed{}; {} % specified", r.name,
                           digits(m.value * 100, 3), withUnit(each, Measure::power, checks.units(), 3),
                           perPump, digits(*margin.si * 100, 3));
      offerDriver(r, m, each * *margin.si);
    }
  }
  // Where the curve ends the shaft mostly takes most.
  if (!hasCurve(*r.values) || rows.size() < 2) return;
  const double last = rows.back().flow_m3s * s;
  const auto eta = onCurve(r, &CurveRow::efficiency, false, last);
  const double lift = HeadCurve(rows, s).at(last).value;
  if (!eta || *eta <= 0.05 || lift <= 0) return;
  Check& end = checks.hold(CheckId::runOutPower, medium.powerOf(last, lift) / *eta / unitsIn, {}, most,
                           Severity::near);
  if (!checks.told(end)) return;
  end.what = fmt::format("{} would absorb {}{} at run-out, {}, above its driver rating of {}", r.name,
                         withUnit(end.value, Measure::power, checks.units(), 3), perPump,
                         withUnit(last, Measure::volumeFlow, checks.units(), 3),
                         withUnit(*end.most, Measure::power, checks.units(), 3));
  offerDriver(r, end, end.value);
}

}  // namespace

void check(const Reading& r, Checks& checks) {
  if (!running(r)) return;
  const Medium& medium = r.setting->medium;
  const Limit slowest = ownLimit(*r.values, LimitId::speedLeast, medium),
              fastest = ownLimit(*r.values, LimitId::speedMost, medium);
  if (keepsSomething(*r.values) && !r.branches.empty() && r.branches[0].flow_m3s) {
    const auto n = runningSpeed(r);
    if (n && slowest && r.branches[0].state == BranchState::acting) {
      Check& c = checks.hold(CheckId::controlledSpeed, *n, slowest, {}, Severity::paper);
      if (checks.told(c))
        c.what = fmt::format("{} would have to run at {}, below its minimum of {}", r.name,
                             withUnit(*n, Measure::rotation, checks.units()),
                             withUnit(*slowest.si, Measure::rotation, checks.units()));
    }
    if (r.branches[0].state == BranchState::open && *r.branches[0].flow_m3s > 1e-9) {
      const bool pressure = keepsPressure(*r.values);
      Check& c = checks.say(pressure ? CheckId::pressureSetPoint : CheckId::flowSetPoint, Severity::near);
      if (checks.told(c))
        c.what = fmt::format("{} is at full speed and cannot reach its {} set point", r.name,
                             pressure ? "pressure" : "flow");
    }
  }
  const auto q = outcome::flow(r);
  const double s = ratioNow(r);
  const auto rows = rowsOf(*r.values, *r.setting, s);
  if (!keepsSomething(*r.values) && hasCurve(*r.values) && (slowest || fastest)) {
    if (const auto n = runningSpeed(r)) {
      Check& c = checks.hold(CheckId::speed, *n, slowest, fastest);
      if (checks.told(c))
        c.what = fmt::format("{} would run at {}; allowed: {} {}", r.name,
                             withUnit(*n, Measure::rotation, checks.units()), c.low() ? "minimum" : "maximum",
                             withUnit(c.low() ? *c.least : *c.most, Measure::rotation, checks.units()));
    }
  }
  if (const auto n = runningSpeed(r), rated = ratedSpeedOf(*r.values, medium);
      !fastest && n && rated && *n > *rated * (1 + 1e-6)) {
    Check& c = checks.hold(CheckId::ratedSpeed, *n, {}, {rated, LimitFrom::own}, Severity::near);
    if (checks.told(c))
      c.what = fmt::format("{} runs at {}, above its rated speed of {}", r.name,
                           withUnit(*n, Measure::rotation, checks.units()),
                           withUnit(*rated, Measure::rotation, checks.units()));
  }
  if (hasCurve(*r.values) && q && !rows.empty()) {
    if (shutIn(r)) {
      Check& c = checks.say(CheckId::deadHead, Severity::broken);
      if (checks.told(c)) {
        c.what = fmt::format("{} is dead-headed: the system head exceeds its shut-off head of {}", r.name,
                             withUnit(HeadCurve(rows, s).shutOff(), Measure::headDrop, checks.units()));
        c.remedies = {{fmt::format("Stop {}", r.name), {{r.name, "running", "no"}}, {r.name, "running"}}};
      }
    } else if (*q < 0) {
      Check& c = checks.hold(CheckId::reverseFlow, *q, {0.0, LimitFrom::law}, {});
      if (checks.told(c)) {
        c.what = fmt::format("reverse flow through {}: {}", r.name,
                             withUnit(-*q, Measure::volumeFlow, checks.units(), 3));
        c.remedies = {{fmt::format("Add a check valve to {}", r.name),
                       {{r.name, "check valve", "yes"}},
                       {r.name, "check valve"}}};
      }
    } else if (const double last = rows.back().flow_m3s * s; *q > last) {
      Check& c = checks.hold(CheckId::runOut, *q, {}, {last, LimitFrom::own}, Severity::paper);
      if (checks.told(c))
        c.what = fmt::format("{} runs beyond run-out: {}, curve ends at {}", r.name,
                             withUnit(*q, Measure::volumeFlow, checks.units(), 3),
                             withUnit(last, Measure::volumeFlow, checks.units(), 3));
    }
  }
  if (const auto v = viscousOf(*r.values, *r.setting); v && v->b >= mostViscous) {
    Check& c = checks.hold(CheckId::viscosity, v->b, {}, {mostViscous, LimitFrom::law}, Severity::near);
    if (checks.told(c))
      c.what =
          fmt::format("viscosity correction of {} is outside ANSI/HI 9.6.7: parameter B is {}, maximum {}",
                      r.name, digits(v->b, 3), mostViscous);
  }
  if (const auto margin = r.setting->vapourKnown ? npshMargin(r) : std::nullopt) {
    Limit least = limitsFor(*r.values, *r.setting)[LimitId::npshMarginLeast];
    if (!least) least = {0.0, LimitFrom::law};
    Check& c = checks.hold(CheckId::npshMargin, *margin, least, {});
    if (checks.told(c)) tellMargin(r, c, checks.units());
    // Besides the margin in metres: the greater of the two counts.
    const Limit ratio = limitsFor(*r.values, *r.setting)[LimitId::npshRatioLeast];
    if (const auto is = ratio ? npshRatio(r) : std::nullopt) {
      Check& over = checks.hold(CheckId::npshRatio, *is, ratio, {});
      if (checks.told(over))
        over.what = fmt::format("{} has {} times the NPSH it requires; {} required", r.name, digits(*is, 3),
                                digits(*ratio.si, 3));
    }
  }
  if (const auto share = ofBest(r); share && !shutIn(r)) {
    const Region region = regionOf(*r.values, *r.setting);
    const bool least = r.values->get<Given>(ofBestLeast.text), most = r.values->get<Given>(ofBestMost.text);
    const auto from = [](bool own) { return own ? LimitFrom::own : LimitFrom::standard; };
    // What the engineer specified is a limit, what the standard prefers is not.
    const bool own = *share < region.least ? least : most;
    Check& c = checks.hold(CheckId::bestFlow, *share, {region.least, from(least)}, {region.most, from(most)},
                           own ? Severity::broken : Severity::near);
    if (checks.told(c))
      c.what = fmt::format("{} runs at {} % of BEP flow; {} to {} % is {}", r.name, digits(*share * 100, 3),
                           digits(region.least * 100, 3), digits(region.most * 100, 3),
                           own ? "specified" : "preferred (ANSI/HI 9.6.3)");
    const Limit low = ownLimit(*r.values, LimitId::allowedLeast, medium),
                high = ownLimit(*r.values, LimitId::allowedMost, medium);
    if (low || high) {
      Check& allowed = checks.hold(CheckId::allowedRegion, *share, low, high);
      if (checks.told(allowed))
        allowed.what = fmt::format("{} runs at {} % of BEP flow; allowable: {} {} %", r.name,
                                   digits(*share * 100, 3), allowed.low() ? "at least" : "at most",
                                   digits((allowed.low() ? *low.si : *high.si) * 100, 3));
    }
  }
  if (const Limit continuous = ownLimit(*r.values, LimitId::continuousFlowLeast, medium);
      continuous && q && s > 0 && !shutIn(r) && *q > 0) {
    const double each = *q / parallelUnits(*r.values, medium);
    Check& c = checks.hold(CheckId::continuousFlow, each, {*continuous.si * s, continuous.from}, {});
    if (checks.told(c))
      c.what = fmt::format("{} passes {}, below its minimum continuous flow of {}", r.name,
                           withUnit(each, Measure::volumeFlow, checks.units(), 3),
                           withUnit(*c.least, Measure::volumeFlow, checks.units(), 3));
  }
  // Between curves measured with other impellers no law of trims is used.
  const OtherCurves others = otherCurves(*r.values, medium);
  if (const double cut = trimRatio(*r.values, medium); cut < 1 && (others.curves.empty() || others.bySpeed)) {
    Check& c = checks.hold(CheckId::trim, cut, {leastTrim, LimitFrom::law}, {}, Severity::near);
    if (checks.told(c))
      c.what =
          fmt::format("the impeller of {} is trimmed to {} % of rated; the law of trims holds to about {} %",
                      r.name, digits(cut * 100, 3), leastTrim * 100);
  }
  checkDriver(r, s, rows, checks);
}

}  // namespace conduit::pump

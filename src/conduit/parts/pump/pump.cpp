#include "parts/pump/pump.h"

#include <fmt/format.h>

#include "parts/curve_working.h"
#include "parts/pump/checks.h"
#include "parts/pump/laws.h"
#include "parts/pump/machine.h"
#include "parts/pump/motor.h"
#include "quantity/format.h"

namespace conduit::pump {
namespace {

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow, SignBy::drawing},
    {"head", Measure::headDrop, head},
    {"efficiency", Measure::ratio, efficiency},
    {"shaft power", Measure::power, shaftPower},
    {"efficiency of its motor", Measure::ratio, motorEfficiency},
    {"motor power", Measure::power, motorPower},
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

std::string story(const Reading& r, const UnitSet& units) {
  if (!running(r)) return "Stopped: no flow.";
  const auto q = outcome::flow(r), h = head(r);
  if (shutIn(r)) return "Dead-headed: running with no flow.";
  if (!q || !h) return "Duty point not determined.";
  std::string text =
      curveFound(*r.values)
          ? fmt::format("Required head {} at its duty flow of {}", withUnit(*h, Measure::headDrop, units),
                        withUnit(*q, Measure::volumeFlow, units, 3))
          : fmt::format("Delivers {} at {}", withUnit(*q, Measure::volumeFlow, units, 3),
                        withUnit(*h, Measure::headDrop, units));
  if (const auto n = runningSpeed(r); n && (r.values->find(speed.text) || keepsSomething(*r.values)))
    text += fmt::format(", {}", withUnit(*n, Measure::rotation, units));
  if (const auto share = ofBest(r)) text += fmt::format(", {} % of BEP flow", digits(*share * 100, 3));
  text += ".";
  if (const auto margin = npshMargin(r))
    text += *margin >= 0 ? fmt::format(" NPSH margin {}.", withUnit(*margin, Measure::headDrop, units, 2))
                         : fmt::format(" Cavitating: NPSH is {} short.",
                                       withUnit(-*margin, Measure::headDrop, units, 2));
  return text;
}

std::optional<Working> working(const Reading& r, std::string_view outcomeKey) {
  const auto q = outcome::flow(r);
  const Setting& set = *r.setting;
  const double g = set.medium.gravity_ms2, rho = set.medium.density_kgm3;
  if (outcomeKey == "head" && q && r.branches[0].headFrom_m && r.branches[0].headTo_m) {
    Working w{.title = fmt::format("Head of {}", r.name)};
    const double s = ratioNow(r);
    const auto rows = rowsOf(*r.values, set, s);
    if (const auto three = threePoint(rows); three && hasCurve(*r.values) && !shutIn(r) && *q > 0) {
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
                         *head(r), "m", "affinity laws; s = speed / rated speed"});
      w.remark = "The duty point is where this head equals the required head.";
    } else {
      const bool curved = hasCurve(*r.values) && !shutIn(r) && *q > 0 && rows.size() >= 2;
      std::vector<CurvePoint> points;
      for (const CurveRow& row : rows) points.push_back({row.flow_m3s * s, row.head_m * s * s});
      if (curved &&
          std::abs(MonotoneCurve(points).at(*q).value - *head(r)) < 1e-6 * std::abs(*head(r)) + 1e-6) {
        addCurveLines(w, MonotoneCurve(points), *q, "H", "m");
        w.lines.back().value = *head(r);
        w.remark = s == 1.0 ? ""
                            : fmt::format(
                                  "The given points are scaled to {:.6g} of their speed: flow in proportion, "
                                  "head by the square. ",
                                  s);
        w.remark += "The duty point is where this head equals the required head.";
      } else {
        w.lines.push_back(
            {"H", "H_discharge − H_suction",
             fmt::format("{:.12g} − {:.12g}", *r.branches[0].headTo_m, *r.branches[0].headFrom_m), *head(r),
             "m", "energy heads on both sides"});
      }
    }
    if (const auto full = get(*r.values, ratedImpeller, set.medium),
        cut = get(*r.values, impeller, set.medium);
        full && cut)
      w.remark += fmt::format(
          " The impeller is trimmed to {:.6g} of its diameter: flow and head are scaled by that to the power "
          "{:.4g}.",
          cut->si() / full->si(), getOrFallback(*r.values, fields, trimExponent, set.medium)->si());
    return w;
  }
  if (outcomeKey == "NPSH available" && npshAvailable(r)) {
    Working w{.title = fmt::format("NPSH available at {}", r.name)};
    w.lines.push_back({"h_air", "(p_atm − p_v)/(ρ·g)",
                       fmt::format("({:.7g} − {:.7g})/({:.7g}·{:.7g})", set.atmosphereAt(*datumOf(r)),
                                   set.vapour_pa, rho, g),
                       set.vapourDepth_m(*datumOf(r)), "m",
                       "atmospheric (ISO 2533) minus vapour pressure, as head of liquid"});
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
  if (outcomeKey == "efficiency of its motor") {
    const auto now = motorNow(r);
    if (!now) return std::nullopt;
    Working w{.title = fmt::format("Efficiency of the motor of {}", r.name)};
    const auto rating = get(*r.values, driver, set.medium);
    if (now->load) {
      const double units = getOrFallback(*r.values, fields, unitCount, set.medium)->si();
      w.lines.push_back({"x", "P/(n·P_driver)",
                         fmt::format("{:.12g}/({:g}·{:.12g})", *shaftPower(r), units, rating->si()),
                         *now->load, "", "share of full load; n motors"});
    }
    if (now->curve) {
      addCurveLines(w, *now->curve, now->loadOnCurve(), "η", "");
      return w;
    }
    if (now->own)
      w.lines.push_back({"η₁", "given", fmt::format("{:.12g}", now->full), now->full, "", "at full load"});
    else
      addFullLoadLine(w, word(*r.values, motorClassKey, motorClasses[0]),
                      polesFor(get(*r.values, ratedSpeed, set.medium)->si(), set.mains_hz), rating->si(),
                      set.mains_hz);
    if (now->load)
      w.lines.push_back(
          {"η", "x/(x + (1/η₁ − 1)·(0.4 + 0.6·x²))",
           fmt::format("{0:.12g}/({0:.12g} + (1/{1:.12g} − 1)·(0.4 + 0.6·{0:.12g}²))", *now->load, now->full),
           now->efficiency, "", "own approximation: losses 0.4 constant, 0.6 with the square of the load"});
    return w;
  }
  const auto ratioOf = [&](std::string title, std::string symbol, std::string formula,
                           std::optional<double> over, std::optional<double> under,
                           std::optional<double> value, std::string unit, bool difference) {
    if (!over || !under || !value) return std::optional<Working>();
    Working w{.title = fmt::format("{} of {}", title, r.name)};
    w.lines.push_back({std::move(symbol), std::move(formula),
                       fmt::format("{:.12g} {} {:.12g}", *over, difference ? "−" : "/", *under), *value,
                       std::move(unit), ""});
    return std::optional(std::move(w));
  };
  if (outcomeKey == "motor power")
    return ratioOf("Motor input power", "P₁", "P/η_motor", shaftPower(r), motorEfficiency(r), motorPower(r),
                   "W", false);
  if (outcomeKey == "NPSH margin")
    return ratioOf("NPSH margin", "M", "NPSHa − NPSHr", npshAvailable(r), npshRequired(r), npshMargin(r), "m",
                   true);
  if (outcomeKey == "NPSH ratio")
    return ratioOf("NPSH ratio", "R", "NPSHa/NPSHr", npshAvailable(r), npshRequired(r), npshRatio(r), "",
                   false);
  if (outcomeKey == "share of best flow") {
    auto w = ratioOf("Ratio to BEP flow", "φ", "Q/Q_best", q,
                     bestFlow(rowsOf(*r.values, set, ratioNow(r)), ratioNow(r)), ofBest(r), "", false);
    if (w)
      w->remark =
          "Q_best is the vertex of a parabola through the highest given efficiency and its neighbours, at "
          "the present speed.";
    return w;
  }
  if (outcomeKey == "running speed" && runningSpeed(r)) {
    const auto rated = get(*r.values, ratedSpeed, set.medium);
    Working w{.title = fmt::format("Running speed of {}", r.name)};
    w.lines.push_back({"n", "s·n_rated", fmt::format("{:.12g}·{:.12g}", ratioNow(r), rated->si()),
                       *runningSpeed(r), "1/s",
                       "s = speed / rated speed at which the curve passes through this flow and head"});
    return w;
  }
  if (const bool eta = outcomeKey == "efficiency";
      (eta && efficiency(r)) || (outcomeKey == "NPSH required" && npshRequired(r))) {
    Working w{.title = fmt::format("{} of {}", eta ? "Efficiency" : "NPSH required", r.name)};
    const double s = ratioNow(r);
    const auto curve = curveOf(r, eta ? &CurveRow::efficiency : &CurveRow::npsh_m, !eta);
    if (!curve) return std::nullopt;
    if (s != 1.0)
      w.lines.push_back(
          {"x", "Q/s", fmt::format("{:.12g}/{:.12g}", *q, s), *q / s, "m³/s", "the flow at the rated speed"});
    // NPSH required is that of the first row below it.
    addCurveLines(w, *curve, eta ? *q / s : std::max(*q / s, curve->points().front().x), eta ? "η" : "NPSHr",
                  eta ? "" : "m", eta ? 1.0 : s * s, "the square of the speed ratio");
    return w;
  }
  if (outcomeKey == "viscous parameter B") {
    const auto found = viscousAt(*r.values, set);
    if (!found) return std::nullopt;
    Working w{.title = fmt::format("Viscous parameter B of {}", r.name)};
    w.lines.push_back(
        {"B", "16.5·ν^0.5·H^0.0625/(Q^0.375·n^0.25)",
         fmt::format("16.5·{:.12g}^0.5·{:.12g}^0.0625/({:.12g}^0.375·{:.12g}^0.25)", set.viscosity_m2s * 1e6,
                     found->head_m, found->best_m3s * 3600, found->speed_perS * 60),
         viscousParameter(r).value_or(0), "", "ANSI/HI 9.6.7-2010; ν mm²/s, H m per stage, Q m³/h, n 1/min"});
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
  const double s = ratioNow(r);
  const auto rows = rowsOf(*r.values, *r.setting, s);
  if (rows.size() < 2) return curves;
  const HeadCurve headCurve(rows, s);
  FigureCurve h{"head", Measure::headDrop, {}}, n{"NPSH required", Measure::headDrop, {}},
      e{"efficiency", Measure::ratio, {}};
  for (int i = 0; i <= 40; ++i) {
    const double q = headCurve.last() * i / 40;
    h.points.emplace_back(q, headCurve.at(q).value);
    if (const auto v = onCurve(r, &CurveRow::npsh_m, true, q)) n.points.emplace_back(q, *v);
    if (const auto v = onCurve(r, &CurveRow::efficiency, false, q)) e.points.emplace_back(q, *v);
  }
  if (hasCurve(*r.values)) curves.push_back(std::move(h));
  if (!n.points.empty()) curves.push_back(std::move(n));
  if (!e.points.empty()) curves.push_back(std::move(e));
  return curves;
}

std::vector<Lack> lacks(const Reading& r) {
  const auto q = outcome::flow(r);
  if (!running(r) || !q || *q <= 1e-9) return {};
  std::vector<Lack> all;
  if (!npshRequired(r)) all.push_back({CheckId::npshMargin, curveKey});
  else if (!r.setting->vapourKnown) all.push_back({CheckId::npshMargin, "vapour pressure", true});
  // Without an efficiency nothing tells what its driver has to give.
  const bool marginAsked =
      r.values->find(limitRow(LimitId::driverMargin).key) || flagOf(*r.values, *fieldOf(marginBySizeKey));
  if (r.values->find(driver.text) ? !shaftPower(r) : marginAsked)
    all.push_back({CheckId::driver, r.values->find(driver.text) ? curveKey : driver.text});
  return all;
}

// The greatest head of its curve from no flow to where it runs, at full speed where it keeps something.
NoFlow atNoFlow(const Reading& r) {
  const Values& v = *r.values;
  if (!running(r)) return {flagOf(v, *fieldOf("check valve")) ? NoFlow::Way::forward : NoFlow::Way::passes};
  if (described(v, 3))
    return {NoFlow::Way::lifts,
            get(v, dutyHead, r.setting->medium)->si() * seriesUnits(v, r.setting->medium)};
  if (!hasCurve(v))
    return {flagOf(v, *fieldOf(displacementKey)) ? NoFlow::Way::displaces : NoFlow::Way::unknown};
  const double s = keepsSomething(v) ? speedRatio(v, r.setting->medium) : ratioNow(r);
  const auto rows = rowsOf(v, *r.setting, s);
  if (rows.size() < 2) return {NoFlow::Way::unknown};
  const HeadCurve curve(rows, s);
  const double last = std::clamp(outcome::flow(r).value_or(0.0), 0.0, curve.last());
  double most = std::max(curve.shutOff(), curve.at(last).value);
  constexpr int looks = 40;
  for (int i = 1; i < looks; ++i) most = std::max(most, curve.at(last * i / looks).value);
  for (const CurveRow& row : rows)
    if (row.flow_m3s * s < last) most = std::max(most, curve.at(row.flow_m3s * s).value);
  return {NoFlow::Way::lifts, most};
}

constexpr std::string_view labels[] = {"flow", "head"};
constexpr std::string_view workings[] = {"head", "NPSH available", "shaft power"};

}  // namespace

const Part part{.key = "pump",
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
                .lacks = lacks,
                .atNoFlow = atNoFlow,
                .working = working,
                .stateWord = stateWord,
                .figure = figure,
                .lifts = true};

}  // namespace conduit::pump

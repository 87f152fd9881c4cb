#include "parts/pump/checks.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/pump/machine.h"
#include "quantity/format.h"

namespace conduit::pump {

void check(const Reading& r, const UnitSet& units, std::vector<Check>& checks) {
  if (!running(r)) return;
  if (keepsSomething(*r.values) && !r.branches.empty() && r.branches[0].flow_m3s) {
    const auto n = runningSpeed(r);
    const auto least = get(*r.values, leastSpeed, r.setting->medium);
    if (n && least && r.branches[0].state == BranchState::acting) {
      Check c{.label = "Controlled speed",
              .measure = Measure::rotation,
              .value = *n,
              .least = least->si(),
              .severity = Severity::paper};
      if (c.broken())
        c.what = fmt::format("{} would have to run at {}, below its minimum of {}", r.name,
                             withUnit(*n, Measure::rotation, units),
                             withUnit(least->si(), Measure::rotation, units));
      checks.push_back(std::move(c));
    }
    if (r.branches[0].state == BranchState::open && *r.branches[0].flow_m3s > 1e-9) {
      const bool pressure = keepsPressure(*r.values);
      checks.push_back(Check::saying(pressure ? "Pressure set point" : "Flow set point", Severity::near,
                                     fmt::format("{} is at full speed and cannot reach its {} set point",
                                                 r.name, pressure ? "pressure" : "flow")));
    }
  }
  const auto q = outcome::flow(r);
  const double s = ratioNow(r);
  const auto rows = rowsOf(*r.values, *r.setting, s);
  if (!keepsSomething(*r.values) && hasCurve(*r.values)) {
    const auto n = runningSpeed(r);
    const auto slowest = get(*r.values, leastSpeed, r.setting->medium),
               fastest = get(*r.values, mostSpeed, r.setting->medium);
    if (n && (slowest || fastest)) {
      Check c{.label = "Speed", .measure = Measure::rotation, .value = *n};
      if (slowest) c.least = slowest->si();
      if (fastest) c.most = fastest->si();
      if (c.broken())
        c.what =
            fmt::format("{} would run at {}; allowed: {} {}", r.name, withUnit(*n, Measure::rotation, units),
                        slowest && *n < slowest->si() ? "minimum" : "maximum",
                        withUnit(slowest && *n < slowest->si() ? slowest->si() : fastest->si(),
                                 Measure::rotation, units));
      checks.push_back(std::move(c));
    }
  }
  if (hasCurve(*r.values) && q && !rows.empty()) {
    if (shutIn(r)) {
      checks.push_back(Check::saying(
          "Flow", Severity::broken,
          fmt::format("{} is dead-headed: the system head exceeds its shut-off head of {}", r.name,
                      withUnit(HeadCurve(rows, s).shutOff(), Measure::headDrop, units)),
          {{fmt::format("Stop {}", r.name), {{r.name, "running", "no"}}, {r.name, "running"}},
           {fmt::format("Reverse {}", r.name), {{r.name, std::string(reversedKey), "yes"}}, {r.name, ""}}}));
    } else if (*q < 0) {
      checks.push_back({.label = "Flow",
                        .measure = Measure::volumeFlow,
                        .value = *q,
                        .least = 0.0,
                        .severity = Severity::broken,
                        .what = fmt::format("reverse flow through {}: {}", r.name,
                                            withUnit(-*q, Measure::volumeFlow, units, 3)),
                        .remedies = {{fmt::format("Add a check valve to {}", r.name),
                                      {{r.name, "check valve", "yes"}},
                                      {r.name, "check valve"}},
                                     {fmt::format("Reverse {}", r.name),
                                      {{r.name, std::string(reversedKey), "yes"}},
                                      {r.name, ""}}}});
    } else {
      const double last = rows.back().flow_m3s * s;
      if (*q > last)
        checks.push_back({.label = "Run-out",
                          .measure = Measure::volumeFlow,
                          .value = *q,
                          .most = last,
                          .severity = Severity::paper,
                          .what = fmt::format("{} runs beyond run-out: {}, curve ends at {}", r.name,
                                              withUnit(*q, Measure::volumeFlow, units, 3),
                                              withUnit(last, Measure::volumeFlow, units, 3))});
    }
  }
  if (const auto v = viscousOf(*r.values, *r.setting); v && v->b >= mostViscous)
    checks.push_back(
        {.label = "Viscosity correction",
         .measure = Measure::number,
         .value = v->b,
         .most = mostViscous,
         .severity = Severity::broken,
         .what =
             fmt::format("viscosity correction of {} is outside ANSI/HI 9.6.7: parameter B is {}, maximum {}",
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
                           : fmt::format("NPSH margin of {} is {}; {} required", r.name,
                                         withUnit(*margin, Measure::headDrop, units, 2),
                                         withUnit(*c.least, Measure::headDrop, units, 2));
      // Every metre lower is a metre more before the pump, except what the flow then changes: a twentieth is
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
    const Region region = regionOf(*r.values, *r.setting);
    const double least = region.least, most = region.most;
    Check c{.label = "% of BEP flow",
            .measure = Measure::ratio,
            .value = *share,
            .least = least,
            .most = most,
            .severity = Severity::near};
    if (c.broken())
      c.what = fmt::format("{} runs at {} % of BEP flow; {} to {} % is {}", r.name, digits(*share * 100, 3),
                           digits(least * 100, 3), digits(most * 100, 3),
                           !region.given ? "preferred (ANSI/HI 9.6.3)" : "specified");
    checks.push_back(std::move(c));
  }
  if (q && s > 0) {
    const auto continuous = get(*r.values, leastFlow, r.setting->medium);
    if (continuous && !shutIn(r) && *q > 0) {
      const double each = *q / parallelUnits(*r.values, r.setting->medium);
      Check c{.label = "Minimum continuous flow",
              .measure = Measure::volumeFlow,
              .value = each,
              .least = continuous->si() * s};
      if (c.broken())
        c.what = fmt::format("{} passes {}, below its minimum continuous flow of {}", r.name,
                             withUnit(each, Measure::volumeFlow, units, 3),
                             withUnit(continuous->si() * s, Measure::volumeFlow, units, 3));
      checks.push_back(std::move(c));
    }
  }
  const auto most = get(*r.values, driver, r.setting->medium);
  const auto p = shaftPower(r);
  if (most && p) {
    const double unitsIn = getOrFallback(*r.values, fields, unitCount, r.setting->medium)->si(),
                 each = *p / unitsIn;
    Check c{.label = "Driver", .measure = Measure::power, .value = each, .most = most->si()};
    if (c.broken())
      c.what = fmt::format("{} absorbs {} shaft power{}, above its driver rating of {}", r.name,
                           withUnit(each, Measure::power, units, 3), unitsIn > 1 ? " per pump" : "",
                           withUnit(most->si(), Measure::power, units, 3));
    checks.push_back(std::move(c));
  }
}

}  // namespace conduit::pump

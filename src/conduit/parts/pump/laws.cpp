#include "parts/pump/laws.h"

#include <fmt/format.h>

#include <algorithm>

#include "parts/pump/machine.h"

namespace conduit::pump {
namespace {

std::optional<Problem> curveFault(const Values& values, const Setting& setting) {
  const auto rows = rowsOf(values, setting);
  const auto fault = [&](const std::string& what) { return Problem{{"", std::string(curveKey)}, what, {}}; };
  for (std::size_t i = 0; i + 1 < rows.size(); ++i) {
    if (rows[i + 1].flow_m3s == rows[i].flow_m3s)
      return fault(fmt::format("the curve has two heads for one flow in rows {} and {}", i + 1, i + 2));
    if (rows[i + 1].flow_m3s < rows[i].flow_m3s)
      return fault(fmt::format("curve flows must increase: see row {}", i + 2));
  }
  if (const OtherCurves others = otherCurves(values, setting.medium); !others.fault.empty())
    return Problem{{"", std::string(otherCurvesKey)}, others.fault, {}};
  if (rows.size() > 1 && rows.back().head_m >= rows.front().head_m)
    return fault("the head of the curve must fall from its first to its last point");
  if (rows.size() == 3 && rows[0].flow_m3s == 0.0 && !threePoint(rows))
    return fault("the heads of a three-point curve must fall steadily: add points for another shape");
  for (std::size_t i = 1; i + 1 < rows.size(); ++i)
    if (!rows[i].npsh_m &&
        std::any_of(rows.begin(), rows.begin() + static_cast<std::ptrdiff_t>(i),
                    [](const CurveRow& r) { return r.npsh_m; }) &&
        std::any_of(rows.begin() + static_cast<std::ptrdiff_t>(i), rows.end(),
                    [](const CurveRow& r) { return r.npsh_m; }))
      return fault(
          fmt::format("NPSH required is missing in row {}: enter it; only end rows may be blank", i + 1));
  return std::nullopt;
}

}  // namespace

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const auto rows = rowsOf(values, setting);
  if (hasCurve(values) && prepared.missing.empty()) {
    if (rows.size() < 2)
      prepared.missing.push_back({std::string(byPoint(values) ? dutyFlow.text : curveKey),
                                  byPoint(values) ? "a duty above zero" : "two curve points"});
    else prepared.problem = curveFault(values, setting);
  }
  if (values.find(speed.text) && !values.find(ratedSpeed.text) && hasCurve(values))
    prepared.missing.push_back({"rated speed", "a rated speed to go with its speed"});
  if (values.find(impeller.text) && !values.find(ratedImpeller.text) && hasCurve(values))
    prepared.missing.push_back({"rated impeller", "a rated impeller diameter to go with its impeller"});
  if (prepared.missing.empty() && keepsPressure(values) && word(values, keptAtKey, "").empty() &&
      (ends.size() < 2 || !ends[1].height_m))
    prepared.missing.push_back({"", "a height at its discharge"});
  if (!prepared.missing.empty() || prepared.problem) return prepared;
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

}  // namespace conduit::pump

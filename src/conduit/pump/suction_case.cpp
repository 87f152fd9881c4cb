#include "pump/suction_case.h"

#include <fmt/format.h>

#include "fields/keys.h"
#include "network/setting.h"
#include "parts/limit.h"
#include "pump/pump_edits.h"
#include "pump/way.h"

namespace conduit {

std::optional<SuctionCase> suctionCaseOf(const Network& network, const Solution& solution, Id pump) {
  const Element* e = network.find(pump);
  if (!e || !e->part->lifts || e->ends.empty() || !solution.summary.usable()) return std::nullopt;
  const Way way = wayUp(network, solution, e->ends[0]);
  if (!way.surface || way.holder == noId || !network.at(way.holder).given(key::level)) return std::nullopt;
  SuctionCase found{.tank = way.holder};
  const Element& tank = network.at(way.holder);
  const auto take = [&](const Given* said, const Given* now) -> std::optional<Given> {
    if (!said) return std::nullopt;
    found.differs = found.differs || !now || now->value != said->value;
    return *said;
  };
  found.level = take(tank.given(limitRow(LimitId::levelLeast).key), tank.given(key::level));
  found.temperature =
      take(network.job().given(key::highestTemperature), network.job().given(key::temperature));
  return found;
}

Result<EditedModel> addSuctionCase(const Model& model, CaseId from, Id pump, const SuctionCase& found) {
  const Network now = networkOf(model, from);
  if (!now.find(pump) || !now.find(found.tank))
    return tl::unexpected(Problem{{}, "the pump or its tank is no longer there", {}});
  Draft draft(now);
  if (found.level) draft.values(found.tank).set(key::level, *found.level);
  if (found.temperature) draft.values(jobId).set(key::temperature, *found.temperature);
  const char* what = found.level && found.temperature ? "lowest level, warmest liquid"
                     : found.level                    ? "lowest level"
                                                      : "warmest liquid";
  return caseWith(model, from, fmt::format("{}: {}", now.at(pump).name, what), std::move(draft).finish(),
                  fmt::format("Add the case {} of {}", what, now.at(pump).name));
}

}  // namespace conduit

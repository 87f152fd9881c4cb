#include "pump/pump_edits.h"

#include <fmt/format.h>

#include "fields/keys.h"
#include "network/setting.h"
#include "parts/pump/fields.h"
#include "quantity/format.h"

namespace conduit {
namespace {

Given flowOf(double m3s) { return exactGiven(m3s, Measure::volumeFlow); }

}  // namespace

Result<EditedModel> caseWith(const Model& model, CaseId from, std::string name, const Network& wanted,
                             std::string said) {
  name = name.substr(0, 50);
  for (int k = 2; model.cases.byName(name); ++k) name = fmt::format("{} ({})", name.substr(0, 50), k);
  auto made = addCase(model, name, from);
  if (!made) return made;
  made->model = withEdit(made->model, made->made, wanted);
  made->name = std::move(said);
  return made;
}

Result<EditedModel> tryItem(const Model& model, CaseId from, Id id, std::string_view item,
                            std::optional<double> units) {
  const Network now = networkOf(model, from);
  if (!now.find(id) || !now.at(id).part->lifts)
    return tl::unexpected(
        problemAt(now, id, "only an existing pump can be replaced in a trial; at a supply use a proposal"));
  Draft draft(now);
  draft.values(id) = asItem(now.at(id).values, item, units);
  return caseWith(model, from, fmt::format("{} as {}", item, now.at(id).name), std::move(draft).finish(),
                  fmt::format("Try {} as {}", item, now.at(id).name));
}

Result<EditedModel> takeItem(const Model& model, Id place, std::string_view item,
                             std::optional<double> units) {
  auto there = standIn(model.drawn, place, true);
  if (!there) return tl::unexpected(there.error());
  Draft draft(std::move(there->network));
  draft.values(there->pump) = asItem(draft.network().at(there->pump).values, item, units);
  const std::string name = draft.network().at(there->pump).name;
  EditedModel edited{there->made ? fmt::format("Place {} at {}", item, model.drawn.at(place).name)
                                 : fmt::format("Use {} as {}", item, name),
                     model};
  edited.model = withEdit(model, drawingCase, std::move(draft).finish());
  return edited;
}

Result<Model> proposal(const Model& model, Id place, std::string_view item, std::optional<double> units) {
  auto taken = takeItem(model, place, item, units);
  if (!taken) return tl::unexpected(taken.error());
  return std::move(taken->model);
}

Result<EditedModel> caseOfReading(const Model& model, CaseId from, const Stock* stock, Id place,
                                  const PumpGroup& group, const CurveReading& reading) {
  Network now = networkOf(model, from);
  if (!now.find(place)) return tl::unexpected(problemAt(now, place, "no element there"));
  if (reading.rest != noId) now = restFrom(now, solve(now, stock), place, reading.rest);
  const auto setting = settingOf(now, stock);
  if (!setting) return tl::unexpected(setting.error());
  const Medium& medium = setting->medium;
  Draft draft(now);
  const Element& e = now.at(place);
  if (e.part->lifts) {
    for (std::size_t i = 0; i < group.members.size(); ++i) {
      const Id id = group.members[i];
      Values& v = draft.values(id);
      v.set(key::running, true);
      v.clear(pump::keepsKey);
      // One that gives a head gives what is read; of several that share it only the flows are known.
      if (reading.byHead && group.members.size() == 1 && reading.head_m >= 0) {
        v.set(pump::wayKey, std::string(pump::ways[3]));
        v.set(pump::dutyHead.text,
              exactGiven(reading.head_m / pump::seriesUnits(v, medium), Measure::headDrop));
      } else {
        v.set(pump::wayKey, std::string(pump::ways[2]));
        v.set(pump::dutyFlow.text, flowOf(reading.flow_m3s * group.shareOf(i)));
      }
    }
  } else if (e.part->ends == Ends::many) {
    const Given* level = now.at(place).given(key::level);
    if (!level) return tl::unexpected(problemAt(now, place, "its level is not given"));
    draft.values(place).set(key::level, exactGiven(level->value + reading.head_m, Measure::height));
  } else if (e.part->holdsHead) {
    draft.values(place).clear(key::flowIn);
    draft.values(place).set(key::pressure,
                            exactGiven(medium.pressureOf(reading.head_m), Measure::gaugePressure));
  } else {
    draft.values(place).set(key::inflow, flowOf(reading.flow_m3s));
  }
  return caseWith(model, from, fmt::format("{} reading", e.name), std::move(draft).finish(),
                  fmt::format("Save a reading of {} as a case", e.name));
}

Result<EditedModel> caseOfShared(const Model& model, CaseId from, const Stock* stock,
                                 const SharedSupply& shared, const SharedPoint& point) {
  const Network now = networkOf(model, from);
  return caseWith(model, from, fmt::format("{} reading", now.at(shared.supply).name),
                  withShared(now, stock, shared, point),
                  fmt::format("Save a reading of {} as a case", now.at(shared.supply).name));
}

}  // namespace conduit

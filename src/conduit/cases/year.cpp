#include "cases/year.h"

#include <algorithm>

#include "fields/keys.h"
#include "model/costs.h"
#include "parts/pump/machine.h"

namespace conduit {
namespace {

constexpr double usualYear_s = 8760 * 3600.0;

}  // namespace

double hoursOf(const Model& model, CaseId id) {
  const Case* which = model.cases.find(id);
  if (!which) return 0.0;
  if (id != drawingCase) {
    const Given* hours = which->about.get<Given>(cases::hours);
    return hours ? hours->value : 0.0;
  }
  if (const Given* hours = model.costs.get<Given>(costs::hours)) return hours->value;
  double others = 0.0;
  for (const Case& c : model.cases.others) others += hoursOf(model, c.id);
  return std::max(0.0, usualYear_s - others);
}

std::optional<WirePower> atTheWire(const Values& costs, const Part& part, const Reading& reading) {
  const auto shaft = outcomeOf(part, "shaft power", reading);
  if (!shaft) return std::nullopt;
  WirePower p{.shaft_w = *shaft};
  const auto motor = pump::motorEfficiency(reading), drive = pump::driveEfficiency(*reading.values);
  p.ownMotor = motor.has_value(), p.ownDrive = drive.has_value();
  p.motorEfficiency = motor.value_or(*costOf(costs, costs::motorEfficiency));
  p.driveEfficiency = drive.value_or(*costOf(costs, costs::driveEfficiency));
  p.motor_w = *shaft / p.motorEfficiency;
  p.wire_w = p.motor_w / p.driveEfficiency;
  return p;
}

Year yearOf(const Model& model, std::span<const CaseAnswerPtr> answers) {
  Year year;
  for (const CaseAnswerPtr& a : answers) {
    if (!a) continue;
    CaseYear c{.id = a->id, .hours_s = hoursOf(model, a->id), .shaft_w = std::nullopt, .unknown = {}};
    if (a->usable()) {
      c.shaft_w = 0.0;
      a->network.each([&](Id id, const Element& e) {
        if (!e.part->lifts) return;
        const ReadingOf reading(a->network, a->solution, id);
        const auto power = atTheWire(model.costs, *e.part, *reading);
        const auto flow = outcomeOf(*e.part, key::flow, *reading);
        if (power) *c.shaft_w += power->shaft_w, c.wire_w += power->wire_w;
        else if (flow && *flow > a->solution.still_m3s) c.unknown.push_back(id);
      });
      c.energy_j = c.wire_w * c.hours_s;
    }
    year.hours_s += c.hours_s, year.energy_j += c.energy_j;
    year.cases.push_back(std::move(c));
  }
  if (const auto tariff = costOf(model.costs, costs::tariff)) year.cost = year.energy_j / 3.6e6 * *tariff;
  if (const auto* word = model.costs.get<std::string>(costs::currency)) year.currency = *word;
  return year;
}

}  // namespace conduit

#include "model/pump_request.h"

#include <algorithm>

#include "fields/keys.h"
#include "parts/pump/fields.h"
#include "say/ensure.h"

namespace conduit {
namespace {

constexpr Field quantity(std::string_view key, Measure measure, double least, double most,
                         std::string_view help) {
  return {.key = key, .measure = measure, .least = least, .most = most, .help = help};
}
const Field table[] = {
    quantity(request::flow, Measure::volumeFlow, 0, 1e4, "required flow, all pumps together"),
    quantity(request::head, Measure::headDrop, 0, 1e5,
             "required head at that flow; default: from the system curve"),
    quantity(request::driver, Measure::power, 0, 1e9, "shaft power per pump"),
    quantity(request::margin, Measure::headDrop, 0, 100,
             "NPSH available minus required; default: the pump's or the job's"),
    quantity(request::units, Measure::number, 1, 100,
             "identical pumps in parallel; default: the number at this place"),
    choice(request::construction, pump::constructions, "pump construction"),
    quantity(request::solids, Measure::bore, 1e-4, 1, "largest sphere that must pass"),
    quantity(request::speed, Measure::rotation, 0.01, 2000, key::ratedSpeed),
    byDefault(quantity(request::shortBy, Measure::ratio, 0, 1, "% of the required flow"), 0.1),
    byDefault(quantity(request::overBy, Measure::ratio, 0, 10, "% of the required flow"), 0.3),
    byDefault(quantity(request::nearness, Measure::ratio, 0, 1, "closeness to the required flow"), 0.9),
    byDefault(quantity(request::efficiency, Measure::ratio, 0, 1, "efficiency at the duty point"), 0.6),
    byDefault(quantity(request::suction, Measure::ratio, 0, 1, "NPSH margin, up to the required margin"),
              0.8),
    byDefault(quantity(request::driverSize, Measure::ratio, 0, 1, "shaft power"), 0.3),
};

}  // namespace

void PumpRequests::follow(const Followed& what) {
  std::erase_if(all, [&](const PumpRequest& r) { return !what.after.find(r.at); });
}

std::span<const Field> pumpRequestFields() { return table; }

std::optional<double> askedOf(const Values& about, std::string_view key, const Medium& medium) {
  const auto field =
      std::find_if(std::begin(table), std::end(table), [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(table) && field->kind == FieldKind::quantity, "no such pump requirement");
  if (const Given* given = about.get<Given>(key)) return resolve(*given, field->measure, medium);
  return field->fallback;
}

const PumpRequest* requestAt(std::span<const PumpRequest> requests, Id at) {
  for (const PumpRequest& r : requests)
    if (r.at == at) return &r;
  return nullptr;
}

}  // namespace conduit

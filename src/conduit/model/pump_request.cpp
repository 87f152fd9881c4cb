#include "model/pump_request.h"

#include <algorithm>

#include "parts/pump/fields.h"
#include "say/ensure.h"

namespace conduit {
namespace {

constexpr Field quantity(std::string_view key, Measure measure, double least, double most,
                         std::string_view help) {
  return {.key = key, .measure = measure, .least = least, .most = most, .help = help};
}
const Field table[] = {
    quantity(request::flow, Measure::volumeFlow, 0, 1e4, "that the pump is to give, all units together"),
    quantity(request::head, Measure::headDrop, 0, 1e5,
             "that it is to give there; what the network asks if not given"),
    quantity(request::driver, Measure::power, 0, 1e9, "at the shaft of each unit"),
    quantity(request::margin, Measure::headDrop, 0, 100,
             "NPSH available less NPSH required; the pump's or the job's if not given"),
    byDefault(quantity(request::units, Measure::number, 1, 100, "alike, side by side"), 1.0),
    choice(request::construction, pump::constructions, "how it is built"),
    quantity(request::solids, Measure::bore, 1e-4, 1, "diameter of the largest ball that must pass"),
    quantity(request::speed, Measure::rotation, 0.01, 2000, "rated speed"),
    byDefault(quantity(request::shortBy, Measure::ratio, 0, 1, "of the flow asked for"), 0.1),
    byDefault(quantity(request::overBy, Measure::ratio, 0, 10, "of the flow asked for"), 0.3),
    byDefault(quantity(request::nearness, Measure::ratio, 0, 1, "to the flow asked for"), 0.9),
    byDefault(quantity(request::efficiency, Measure::ratio, 0, 1, "at the duty it runs at"), 0.6),
    byDefault(quantity(request::suction, Measure::ratio, 0, 1, "up to what is asked for"), 0.8),
    byDefault(quantity(request::driverSize, Measure::ratio, 0, 1, "power at the shaft"), 0.3),
};

}  // namespace

std::span<const Field> pumpRequestFields() { return table; }

std::optional<double> askedOf(const Values& about, std::string_view key) {
  const auto field =
      std::find_if(std::begin(table), std::end(table), [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(table) && field->kind == FieldKind::quantity,
         "nothing of that name is asked of a pump");
  if (const Given* given = about.get<Given>(key)) return given->value;
  return field->fallback;
}

const PumpRequest* requestAt(std::span<const PumpRequest> requests, Id at) {
  for (const PumpRequest& r : requests)
    if (r.at == at) return &r;
  return nullptr;
}

}  // namespace conduit

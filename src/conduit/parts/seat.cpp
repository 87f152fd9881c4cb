#include "parts/seat.h"

namespace conduit::seat {

Seated seated(const Values& values, std::span<const Field> fields, const Setting& setting, std::span<const EndPlace> ends) {
  Seated s;
  const auto own = get(values, bore, setting.medium);
  const auto d = seatBore(own ? std::optional(own->si()) : std::nullopt, ends);
  const double k = getOrFallback(values, fields, lossK, setting.medium)->si();
  if (!d && k > 0) s.lacks.push_back({"bore", "a bore, as no pipe meets it"});
  if (d) {
    s.resistance_s2m5 = k * velocityHeadFactor(*d, setting.medium.gravity_ms2);
    s.start_m3s = pi / 4 * *d * *d;
  }
  return s;
}

std::span<const Outcome> outcomes() {
  static const Outcome table[] = {
      {"flow", Measure::volumeFlow, outcome::flow},
      {"head loss", Measure::headDrop, outcome::headLoss},
      {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
      {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
  };
  return table;
}

}  // namespace conduit::seat

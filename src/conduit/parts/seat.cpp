#include "parts/seat.h"

#include "parts/flange.h"
#include "parts/waiver.h"

namespace conduit::seat {

Seated seated(const Values& values, std::span<const Field> fields, const Setting& setting,
              std::span<const EndPlace> ends) {
  Seated s;
  const auto own = get(values, bore, setting.medium);
  const auto d = seatBore(own ? std::optional(own->si()) : std::nullopt, ends);
  const double k = getOrFallback(values, fields, lossK, setting.medium)->si();
  if (!d && k > 0) s.missing.push_back({"bore", "a bore, as no pipe is connected"});
  if (d) {
    s.resistance_s2m5 = k * velocityHeadFactor(*d, setting.medium.gravity_ms2);
    s.start_m3s = pi / 4 * *d * *d;
  }
  return s;
}

std::array<Field, 13> holdingFields(std::string_view setPointHelp, std::string_view sensesHelp) {
  return {assume(releasable(adjusts(need(field(setPoint, -101325, 1e9, setPointHelp)))), "3 bar g"),
          releasable(byDefault(field(lossK, 0, 1e6, "K wide open, on v²/2g in its bore"), 4.0)),
          field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
          nameOf("senses", "point", sensesHelp),
          limitField(LimitId::flowLeast),
          limitField(LimitId::flowMost),
          byDefault(limitField(LimitId::bodyVelocityMost), 6.0),
          limitField(LimitId::ratingMost),
          flange::classField(),
          flange::materialField(),
          waivedField(),
          stockItem(),
          text("note", "free text")};
}

Prepared preparedHolding(const Values& values, std::span<const Field> fields, const Setting& setting,
                         std::span<const EndPlace> ends, bool before) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const Seated s = seated(values, fields, setting, ends);
  prepared.missing.insert(prepared.missing.end(), s.missing.begin(), s.missing.end());
  const std::size_t own = before ? 0 : 1;
  if (ends.size() <= own || !ends[own].height_m)
    prepared.missing.push_back({"", before ? "a height at its inlet" : "a height at its outlet"});
  if (!prepared.missing.empty()) return prepared;
  const double pressure = get(values, setPoint, setting.mediumAt(ends[own].height_m))->si();
  prepared.problem = underVacuum(setPoint.text, pressure, setting, *ends[own].height_m);
  const std::string senses = named(values, "senses");
  const Hold hold{before, (senses.empty() ? *ends[own].height_m : 0.0) + setting.medium.columnOf(pressure)};
  prepared.branches.push_back({.from = 0,
                               .to = 1,
                               .law = std::make_unique<HoldingLaw>(s.resistance_s2m5, s.start_m3s, hold),
                               .holdsAt = senses});
  return prepared;
}

double setPressure(const Reading& r, bool before) {
  const std::size_t own = before ? 0 : 1;
  return get(*r.values, setPoint,
             r.setting->mediumAt(own < r.ends.size() ? r.ends[own].height_m : std::nullopt))
      ->si();
}

std::string stateWord(const Reading& r) {
  if (r.branches.empty()) return "";
  switch (r.branches[0].state) {
    case BranchState::acting: return "acting";
    case BranchState::shut: return "shut";
    case BranchState::open: break;
  }
  return "wide open";
}

std::optional<Problem> underVacuum(std::string_view key, double pressure_pa, const Setting& setting,
                                   double height_m) {
  if (pressure_pa + setting.atmosphereAt(height_m) >= 0) return std::nullopt;
  return Problem{{"", std::string(key)}, "its set point is below full vacuum", {}};
}

std::string named(const Values& values, std::string_view key) {
  const auto* text = values.get<std::string>(key);
  return text ? *text : std::string();
}

std::span<const Outcome> outcomes() {
  static const Outcome table[] = {
      {"flow", Measure::volumeFlow, outcome::flow, SignBy::drawing},
      {"head loss", Measure::headDrop, outcome::headLoss, SignBy::drawing},
      {"pressure loss", Measure::pressureDrop, outcome::pressureLoss, SignBy::drawing},
      {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
      {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
      {"gauge reading before", Measure::gaugePressure, outcome::gaugeBefore},
      {"gauge reading after", Measure::gaugePressure, outcome::gaugeAfter},
  };
  return table;
}

}  // namespace conduit::seat

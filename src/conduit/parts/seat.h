// What valves that are set into a pipe and lose K v²/2g have in common: their bore, their K, the row of what
// is found.
#pragma once

#include <array>

#include "parts/part.h"

namespace conduit::seat {

inline constexpr Key<Bore> bore{"bore"};
inline constexpr Key<Number> lossK{"K"};
inline constexpr Key<GaugePressure> setPoint{"set point"};

/// Resistance of the K in its bore (its own, else the narrower pipe's), s2/m5, and the flow of 1 m/s in it. A
/// K without any bore is a lack.
struct Seated {
  double resistance_s2m5 = 0.0, start_m3s = 0.01;
  std::vector<MissingField> missing;
};
[[nodiscard]] Seated seated(const Values& values, std::span<const Field> fields, const Setting& setting,
                            std::span<const EndPlace> ends);

/// The fields of a valve that keeps a pressure at its own end or at the point it senses.
[[nodiscard]] std::array<Field, 13> holdingFields(std::string_view setPointHelp, std::string_view sensesHelp);

/// A valve set into a pipe that keeps its set point behind it (or before it), at its own end or at the point
/// it senses.
[[nodiscard]] Prepared preparedHolding(const Values& values, std::span<const Field> fields,
                                       const Setting& setting, std::span<const EndPlace> ends, bool before);

/// The set point of a device that keeps it at its outlet, or before it; Pa gauge there.
[[nodiscard]] double setPressure(const Reading& reading, bool before);

/// "acting", "shut" or "wide open" of a device that holds something by throttling.
[[nodiscard]] std::string stateWord(const Reading& reading);

/// A set point below the ground: a gauge pressure under complete vacuum. Empty when it can be held.
[[nodiscard]] std::optional<Problem> underVacuum(std::string_view key, double pressure_pa,
                                                 const Setting& setting, double height_m);

/// The name under `key`, empty when nothing is given.
[[nodiscard]] std::string named(const Values& values, std::string_view key);

/// Flow, head loss, pressure before and after.
[[nodiscard]] std::span<const Outcome> outcomes();

}  // namespace conduit::seat

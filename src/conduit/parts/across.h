// What the liquid goes through across a valve or plate: absolute pressures, cavitation index, pressure ratio.
#pragma once

#include "parts/part.h"

namespace conduit::across {

/// Static pressures at the wall of the pipes before and after, Pa absolute, in the direction of the flow; of
/// still water where no pipe is joined. Empty where they are not determined.
struct Across {
  double before_pa, after_pa;
};
[[nodiscard]] std::optional<Across> of(const Reading& reading);
/// σ = (p₁ − p_v)/(p₁ − p₂) (ISA-RP75.23); empty where nothing is lost or the vapour pressure is not known.
[[nodiscard]] std::optional<double> cavitationIndex(const Reading& reading);
/// p₁/p₂, absolute; empty where nothing is lost or p₂ is not above vacuum.
[[nodiscard]] std::optional<double> pressureRatio(const Reading& reading);

/// Holds both against what the element says, or what its kind takes.
void check(const Reading& reading, std::span<const Field> fields, Checks& checks);
/// The index is asked for and the vapour pressure is not known.
[[nodiscard]] std::vector<Lack> lacks(const Reading& reading, std::span<const Field> fields);
[[nodiscard]] std::optional<Working> working(const Reading& reading, std::string_view outcome);

}  // namespace conduit::across

// What parts share whose maker states one point, a drop at a flow: meter, exchanger, strainer.
#pragma once

#include "parts/part.h"

namespace conduit::rated {

inline constexpr Key<VolumeFlow> flow{"rated flow"};
inline constexpr Key<Number> fouling{"fouling"}, exponent{"exponent"};

[[nodiscard]] constexpr Field flowField() {
  return assume(need(field(flow, 1e-9, 1e3, "flow of the manufacturer's rated drop")), "10 L/s");
}
[[nodiscard]] constexpr Field foulingField() {
  return releasable(byDefault(field(fouling, 1, 1000, "present drop / clean drop"), 1.0));
}

/// Δp = Δp_rated · fouling · (Q/Q_rated)^n through the maker's point; fouling 1 and n = 2 where there are no
/// such fields.
[[nodiscard]] Prepared prepare(const Values& values, std::span<const Field> fields, Key<PressureDrop> drop,
                               const Setting& setting);

/// "Takes 0.25 bar at 40 L/s, 80 % of its rated flow."
[[nodiscard]] std::string story(const Reading& reading, const UnitSet& units);

}  // namespace conduit::rated

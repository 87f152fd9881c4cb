// What friction needs to know of a section that runs full: area, hydraulic diameter, and how far it is from
// round.
#pragma once

#include <cmath>

#include "quantity/quantity.h"

namespace conduit::friction {

/// Darcy's f is taken at the Reynolds number φ·v·D_h/ν, φ = 64/(f·Re) of the laminar flow: exact when
/// laminar, and within 0.3 % of the factor of Jones (J. Fluids Eng. 98, 1976, 173) when turbulent. φ = 1 for
/// a round section.
struct Section {
  double area_m2 = 0.0, hydraulic_m = 0.0, phi = 1.0;
  /// Diameter of the round section of the same area, m.
  [[nodiscard]] double equalArea_m() const { return std::sqrt(area_m2 * 4 / pi); }
};

[[nodiscard]] Section roundSection(double bore_m);
/// f·Re = 96 (1 − 1.3553 s + 1.9467 s² − 1.7012 s³ + 0.9564 s⁴ − 0.2537 s⁵), s short over long side (Shah and
/// London 1978).
[[nodiscard]] Section rectangle(double width_m, double height_m);
/// Between two pipes: f·Re = 64 (1 − r)²/(1 + r² − (1 − r²)/ln(1/r)), r inner over outer diameter (Shah and
/// London 1978).
[[nodiscard]] Section annulus(double outer_m, double inner_m);

/// Manning (1891) in SI, full section: h = n² L v²/R^(4/3), R = D_h/4, so h = r Q² with this r, s2/m5.
/// Round: 10.2936 n² L/D^(16/3).
[[nodiscard]] double manningResistance(double n, double length_m, const Section& section);

}  // namespace conduit::friction

// Salt water, glycols and slurries. Shares are by mass, 0 to 1; temperatures in degree Celsius.
#pragma once

#include "quantity/quantity.h"

namespace conduit::seawater {

/// Sharqawy, Lienhard and Zubair, Desalination and Water Treatment 16 (2010) 354: 0 to 120 °C here, salt to
/// 0.15 of the mass; density 0.1 %, viscosity 1.5 %.
inline constexpr double least_c = 0.0, most_c = 120.0, mostShare = 0.15;
/// Freezing point at 101.325 kPa, Millero (UNESCO Techn. Papers Marine Science 28, 1978), S in g/kg: −0.0575
/// S + 0.001710523 S^1.5 − 0.0002154996 S²; to 40 g/kg within 0.003 K, carried on beyond.
[[nodiscard]] double freezing_c(double salt);
[[nodiscard]] Density density(Temperature t, double salt);
[[nodiscard]] Viscosity viscosity(Temperature t, double salt);  // kinematic
[[nodiscard]] AbsolutePressure vapourPressure(Temperature t, double salt);

}  // namespace conduit::seawater

namespace conduit::glycol {

enum class Kind { ethylene, propylene };
/// Glycol share to 0.6, −10 to 80 °C (propylene 60 °C).
inline constexpr double least_c = -10.0, mostShare = 0.6;
[[nodiscard]] constexpr double most_c(Kind kind) { return kind == Kind::ethylene ? 80.0 : 60.0; }

/// Freezing point by the share of glycol, straight between rows of 5 % (ASHRAE Handbook Fundamentals,
/// uninhibited; recalled, good to 1 K).
[[nodiscard]] double freezing_c(Kind kind, double share);
/// Mixing of volumes with an excess volume set to handbook points at 20 °C (own rule of this project): 0.4 %
/// for pure glycols; inhibited commercial blends are up to 1 % denser.
[[nodiscard]] Density density(Kind kind, Temperature t, double share);
/// ln μ = a₁ + a₂x + a₃q + a₄xq + a₅q², q = 273.15/T (form and constants as in Conde 2011): 10 % ethylene, 15
/// % propylene.
[[nodiscard]] Viscosity viscosity(Kind kind, Temperature t, double share);
/// Raoult's rule, the glycol not volatile: a few % high.
[[nodiscard]] AbsolutePressure vapourPressure(Kind kind, Temperature t, double share);

}  // namespace conduit::glycol

namespace conduit::slurry {

inline constexpr double mostVolumeShare = 0.6;
/// ρ = ρ_f + φ (ρ_s − ρ_f), φ the share of the solids by volume.
[[nodiscard]] constexpr double density(double liquid_kgm3, double solids_kgm3, double volumeShare) {
  return liquid_kgm3 + volumeShare * (solids_kgm3 - liquid_kgm3);
}
/// Dynamic viscosity over that of the liquid: 1 + 2.5 φ + 10.05 φ² + 0.00273 e^(16.6 φ) (Thomas, J. Colloid
/// Sci. 20, 1965, 267), less 0.00273 so that it is 1 without solids.
[[nodiscard]] double relativeViscosity(double volumeShare);

}  // namespace conduit::slurry

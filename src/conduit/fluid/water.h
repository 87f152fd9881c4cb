// Properties of liquid water, 0 to 150 °C, and the pressure of the air by altitude.
#pragma once

#include "quantity/quantity.h"

namespace conduit::water {

inline constexpr double least_c = 0.0, most_c = 150.0;  // range of all three laws, degree Celsius

inline constexpr double critical_pa = 22.064e6;  // IAPWS R2-83 (1992)

/// Density at 101.325 kPa. Kell, J. Chem. Eng. Data 20 (1975) 97; within 0.02 % of the saturated liquid to
/// 150 °C.
[[nodiscard]] Density density(Temperature t);

/// Kinematic viscosity: dynamic viscosity of IAPWS R12-08 (2008) without the critical term (1 %), over
/// `density`.
[[nodiscard]] Viscosity viscosity(Temperature t);

/// Saturation pressure. Wagner and Pruss, J. Phys. Chem. Ref. Data 31 (2002) 387, eq. 2.5; 0.1 %.
[[nodiscard]] AbsolutePressure vapourPressure(Temperature t);

}  // namespace conduit::water

namespace conduit::air {

inline constexpr double most_m = 11000.0, least_m = -500.0;  // range of the troposphere formula

/// Mean pressure of the air at a height above the sea. ISO 2533:1975, troposphere.
[[nodiscard]] AbsolutePressure pressureAt(Height altitude);

}  // namespace conduit::air

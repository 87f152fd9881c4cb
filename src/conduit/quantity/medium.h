// Where heads meet pressures, and conserved flow meets flow by volume: the one home of both conversions.
#pragma once

#include "quantity/quantity.h"

namespace conduit {

/// The liquid and the place, as far as the conversion of a given or an outcome needs them.
struct Medium {
  double density_kgm3 = 1000.0;
  double gravity_ms2 = standardGravity_ms2;
  double atmosphere_pa = 101325.0;
  double molarMass_kgkmol = 18.015268;  // of water (IAPWS), for flows in moles; 0: not known

  /// p = ρ g h, and back.
  [[nodiscard]] double pressureOf(double column_m) const { return column_m * (density_kgm3 * gravity_ms2); }
  [[nodiscard]] double columnOf(double pressure_pa) const {
    return pressure_pa / (density_kgm3 * gravity_ms2);
  }
  /// ρ v²/2, Pa.
  [[nodiscard]] double dynamicPressure(double velocity_ms) const {
    return density_kgm3 * velocity_ms * velocity_ms / 2;
  }
  /// P = ρ g q h, W.
  [[nodiscard]] double powerOf(double flow_m3s, double head_m) const { return pressureOf(head_m) * flow_m3s; }
  [[nodiscard]] double massFlowOf(double flow_m3s) const { return flow_m3s * density_kgm3; }
  [[nodiscard]] double volumeFlowOf(double mass_kgs) const { return mass_kgs / density_kgm3; }
  [[nodiscard]] double volumeFlowOfMoles(double amount_kmols) const {
    return amount_kmols * molarMass_kgkmol / density_kgm3;
  }
};

}  // namespace conduit

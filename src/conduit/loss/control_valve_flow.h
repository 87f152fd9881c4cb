// Liquid through control valves after IEC 60534-2-1:2011. Kv in m³/h at 1 bar, bores in m, pressures absolute
// in Pa.
#pragma once

namespace conduit::valveflow {

/// With reducers the formulas hold for Kv/(N18 d²) up to 0.047, N18 = 0.865, d in mm (recalled, to be
/// checked).
inline constexpr double n18 = 0.865, mostPerArea = 0.047;

/// Critical pressure ratio factor: FF = 0.96 − 0.28 √(p_v/p_c).
[[nodiscard]] double criticalRatio(double vapour_pa, double critical_pa);

/// Piping geometry factor for a valve of bore d between pipes: FP = 1/√(1 + ΣK/N2 (Kv/d²)²), N2 = 0.0016, d
/// in mm. Between energy heads ΣK is K1 + K2, the losses of reducer and enlargement; the Bernoulli terms KB1
/// − KB2 of the standard, which counts with wall pressures, stand in the velocity heads that energy heads
/// hold already.
[[nodiscard]] double pipingFactor(double kv, double valve_m, double before_m, double after_m);

/// FLP = FL/√(1 + FL²/N2 (K1 + KB1) (Kv/d²)²): recovery factor of valve and inlet fitting together.
[[nodiscard]] double recoveryWithPiping(double fl, double kv, double valve_m, double before_m);

/// Valve Reynolds number: N4 Fd Q/(ν √(Kv FL)) (FL² Kv²/(N2 d⁴) + 1)^¼, N4 = 0.0707, Q in m³/h, ν in m²/s, d
/// in mm.
[[nodiscard]] double reynolds(double flow_m3s, double viscosity_m2s, double kv, double valve_m, double fl,
                              double fd);

/// Factor on Kv below ReV = 10 000: the less of FR = 1 + 0.33 √FL/n^¼ lg(ReV/10000) and (0.026/FL) √(n ReV),
/// at most 1, and the latter alone below ReV 10; n = N2 d⁴/Kv² for full trim (Kv/d² >= 0.016 · 0.865), else 1
/// + 140 (Kv/d²)^⅔.
struct ViscousFactor {
  double factor = 1.0, logSlope = 0.0;  // d ln FR / d ln ReV
};
[[nodiscard]] ViscousFactor viscousFactor(double reynolds, double kv, double valve_m, double fl);

}  // namespace conduit::valveflow

// Friction in full round pipes: value and slope together, exact, from creeping flow upward.
#pragma once

#include <optional>

namespace conduit::friction {

/// Bounds of the reach in which no law is agreed; ours is a smooth bridge there.
inline constexpr double laminarEnd_re = 2000.0, turbulentBegin_re = 4000.0;

/// Friction factor f (Darcy) and d ln f / d ln Re.
struct Factor {
  double f = 0.0;
  double logSlope = 0.0;
};

/// Colebrook 1939: 1/√f = −2 lg(ε/(3.7 D) + 2.51/(Re √f)), solved to rounding. Re > 0, 0 <= ε/D <= 0.1.
/// `guess` is 1/√f from a nearby Reynolds number (0: none) and receives the root; the answer does not depend
/// on it. Slope: implicit differentiation.
[[nodiscard]] Factor colebrook(double re, double relativeRoughness, double& guess);

/// Between Re 2000 and 4000 our own bridge, a cubic in ln f over ln Re with value and slope of both
/// neighbours, so that the loss f Re² rises everywhere.
[[nodiscard]] Factor bridge(double re, double relativeRoughness, double& guess);

/// All regimes. Re <= 2000: 64/Re (Hagen–Poiseuille). Re >= 4000: Colebrook. Between: the bridge.
[[nodiscard]] inline Factor factor(double re, double relativeRoughness, double& guess) {
  if (re >= turbulentBegin_re) return colebrook(re, relativeRoughness, guess);
  if (re > laminarEnd_re) return bridge(re, relativeRoughness, guess);
  return {64.0 / re, -1.0};
}

/// Hazen–Williams (Williams and Hazen 1905, 1920) in SI: h = coefficient L Q^n / (C^n D^m). Literature gives
/// the coefficient between 10.5 and 10.7; the engineer may set all three.
struct HazenWilliams {
  double coefficient = 10.67;
  double flowExponent = 1.852;
  double boreExponent = 4.8704;
};

/// Resistance r of a pipe so that h = r Q^n. Length and bore in m, C dimensionless.
[[nodiscard]] double resistance(const HazenWilliams& law, double length_m, double bore_m, double c);

}  // namespace conduit::friction

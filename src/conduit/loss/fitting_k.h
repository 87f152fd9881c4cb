// Losses of fittings as h = K v²/2g, by methods that know the Reynolds number or the bores on both sides.
#pragma once

namespace conduit::fittingk {

/// A K that falls to its turbulent value as 1/Re: K = k1/Re + turbulent. Two coefficients (Hooper, Chem. Eng.
/// 24 Aug 1981): turbulent = K∞ (1 + 25.4 mm/D). Three (Darby, Chem. Eng. July 1999): turbulent = Ki (1 +
/// Kd/Dn^0.3), Dn the nominal bore in mm and Kd in mm^0.3; the inside bore stands in for the nominal one
/// here.
[[nodiscard]] double twoK(double kInfinite, double bore_m);
[[nodiscard]] double threeK(double ki, double kd_mm03, double bore_m);

/// Changes of bore, β = small over large bore, K on the velocity in the small one.
/// Sudden expansion, momentum balance (Borda 1766, Carnot 1803): (1 − β²)².
[[nodiscard]] double suddenExpansion(double beta);
/// Sudden contraction: 0.5 (1 − β²) (Crane TP-410, 1988).
[[nodiscard]] double suddenContraction(double beta);
/// Cone of full angle θ, degrees (Crane TP-410, 1988). Expansion: 2.6 sin(θ/2) (1 − β²)² to 45°, as sudden
/// above.
[[nodiscard]] double coneExpansion(double beta, double angle_deg);
/// Contraction: 0.8 sin(θ/2) (1 − β²) to 45°, 0.5 √sin(θ/2) (1 − β²) above.
[[nodiscard]] double coneContraction(double beta, double angle_deg);

/// Tees by the share q = Q_branch/Q_common of the flow, φ = A_branch/A_common, θ the deflection of the branch
/// flow (90: square; degrees), r the fillet's radius over the common bore. K on the velocity in the common
/// leg: loss of total head between that leg and the common one. Gardel 1957, Gardel and Rechsteiner 1970. May
/// be negative for a joining leg.
struct Tee {
  double phi = 1.0, angle_deg = 90.0, fillet = 0.0;
};
[[nodiscard]] double joiningBranch(const Tee& tee, double q);
[[nodiscard]] double joiningRun(const Tee& tee, double q);
[[nodiscard]] double dividingBranch(const Tee& tee, double q);
[[nodiscard]] double dividingRun(const Tee& tee, double q);

}  // namespace conduit::fittingk

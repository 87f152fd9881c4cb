// Orifice plates in a pipe that runs full.
#pragma once

namespace conduit::orifice {

enum class Taps { corner, flange, halfway };  // halfway: D before, D/2 after

/// Bounds of ISO 5167-2:2003: bore of the plate >= 12.5 mm, of the pipe 50 to 1000 mm, their ratio 0.1 to
/// 0.75.
inline constexpr double leastBore_m = 0.0125, leastPipe_m = 0.05, mostPipe_m = 1.0, leastRatio = 0.1,
                        mostRatio = 0.75;
/// Least Reynolds number of the pipe for which the coefficient is known; below it ours stays what it is
/// there.
[[nodiscard]] double leastReynolds(double ratio, double pipe_m, Taps taps);

struct Coefficient {
  double c = 0.6, slope = 0.0;  // discharge coefficient, d C / d Re
};
/// Discharge coefficient of Reader-Harris and Gallagher 1998, ISO 5167-2:2003 section 5.3.2. `ratio` bore
/// over pipe.
[[nodiscard]] Coefficient coefficient(double ratio, double re, double pipe_m, Taps taps);

/// Metered pressure difference at a flow, Pa: Δp = ρ (1 − β⁴)/2 (4 Q/(π d² C))², ISO 5167-2:2003 equation 1,
/// liquid.
[[nodiscard]] double meteredDrop_pa(double flow_m3s, double density_kgm3, double ratio, double pipe_m,
                                    double c);

/// Permanent loss as K on the velocity in the pipe: (√(1 − β⁴(1 − C²))/(C β²) − 1)², ISO 5167-2:2003
/// section 5.4.
struct PermanentK {
  double k = 0.0, byC = 0.0;  // K, d K / d C
};
[[nodiscard]] PermanentK permanentK(double ratio, double c);

}  // namespace conduit::orifice

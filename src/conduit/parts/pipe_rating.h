// What lowers the rating of a pipe size: a thread cut into its wall, warmth.
#pragma once

#include <optional>
#include <string_view>

namespace conduit::pipe {

/// Depth of the taper thread on a steel pipe of this outside diameter, m: 0.8 of the pitch (ASME B1.20.1).
[[nodiscard]] double threadDepth_m(double outside_m);
/// What a plastic's rating at 20 °C is multiplied with at a temperature, straight between rows: PE 100 after
/// EN 12201-1 and ISO 4427-1, PVC-U after ISO 1452-2. Empty above the last row; 1 for other materials.
[[nodiscard]] std::optional<double> derating(std::string_view material, double t_c);

}  // namespace conduit::pipe

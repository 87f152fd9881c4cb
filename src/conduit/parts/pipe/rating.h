// What lowers the rating of a pipe size: a thread cut into its wall, warmth.
#pragma once

#include "parts/part.h"

namespace conduit::pipe {

/// Depth of the taper thread on a steel pipe of this outside diameter, m: 0.8 of the pitch (ASME B1.20.1).
[[nodiscard]] double threadDepth_m(double outside_m);
/// What a plastic's rating at 20 °C is multiplied with at a temperature, straight between rows: PE 100 after
/// EN 12201-1 and ISO 4427-1, PVC-U after ISO 1452-2, that of ASTM D1785 from 23 °C after the tables of its
/// makers' association (recalled, to be checked). Empty above the last row; 1 for other materials.
[[nodiscard]] std::optional<double> derating(const PipeSize& size, double t_c);
/// Of a plastic: the last row.
[[nodiscard]] double warmest_c(const PipeSize& size);

/// The size of the catalogue that gives its bore; null where none does.
[[nodiscard]] const PipeSize* sizeOf(const Values& values, const Setting& setting);
/// The pressure the pipe may carry: as given; else of its size, less the thread (ASME B31.3, eq. 3a, with the
/// wall less 12.5 % and the thread: P = 2 S t/(D − 0.8 t), S from the rating of the plain wall), and less
/// what warmth takes of a plastic. Threads halve that of ASTM D1785 schedule 80 and 120; thinner ones are not
/// to be threaded and have none then. The lesser of that and of its flanges, where it says their class.
[[nodiscard]] Limit ratingOf(const Values& values, const Setting& setting, const Limits& limits);

}  // namespace conduit::pipe

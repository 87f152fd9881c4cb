// What a solved pipe shows.
#pragma once

#include "parts/pipe/line.h"

namespace conduit::pipe {

[[nodiscard]] std::optional<double> velocity(const Reading& r);  // m/s
[[nodiscard]] std::optional<double> reynolds(const Reading& r);
[[nodiscard]] std::optional<double> gradient(const Reading& r);  // m for a metre, with equivalent lengths
/// Pressure the wall feels at end i, Pa: point pressure less the velocity head (hydraulics of the pipe end).
[[nodiscard]] std::optional<double> wallPressure(const Reading& r, std::size_t i);
[[nodiscard]] std::optional<double> greatestPressure(const Reading& r);
[[nodiscard]] std::optional<double> sumOfK(const Reading& r);

}  // namespace conduit::pipe

// Where the liquid comes near its vapour: pumps, valves that may choke, high points; and the temperature at
// which nothing is left.
#pragma once

#include <functional>

#include "solve/solve.h"

namespace conduit {

/// What is left before vapour, at one place.
struct VapourMargin {
  enum class Of { pump, valve, point } of = Of::point;
  Id element = noId;
  /// Pressure over what it must keep, Pa: of a pump NPSH available less required, of a valve the drop at
  /// which it chokes (IEC 60534-2-1) less its drop, of a point its absolute pressure less that of vapour.
  double margin_pa = 0.0;
  /// Job temperature at which nothing is left, °C; empty where it holds up to 99 °C, or is not known.
  std::optional<double> temperature_c;
};

/// The nearest first, at most `most` of each kind; temperatures of the nearest of each kind alone, as each
/// takes some twenty solves.
[[nodiscard]] std::vector<VapourMargin> vapourMargins(const Network& network, const Solution& solution,
                                                      const Stock* stock, std::size_t most = 5,
                                                      std::stop_token stop = {});

/// The job temperature, °C, at which `left(network, solution)` is nothing, sought from the present one; empty
/// where it does not change sign up to 99 °C (down to 0.1 °C), or the liquid says nothing of temperatures.
[[nodiscard]] std::optional<double> temperatureWhere(
    const Network& network, const Solution& solution, const Stock* stock,
    const std::function<std::optional<double>(const Network&, const Solution&)>& left,
    std::stop_token stop = {});

}  // namespace conduit

// Which way a device points when it is set into a line.
#pragma once

#include "solve/solution.h"

namespace conduit {

/// True when a device set into `pipe` should point from the pipe's second end to its first. A pump points
/// away from the only supply, or from the lower of two to the higher, as a pump is there to lift; everything
/// else points with the flow, and where none is known yet as the supplies would make it run. `solution` may
/// be null or older than the network. As drawn where nothing says otherwise.
[[nodiscard]] bool pointsBack(const Network& network, const Solution* solution, Id pipe, const Part& device);

}  // namespace conduit

// What a pipe is judged by: velocity, gradient, flow, rating, boiling at its ends.
#pragma once

#include "parts/part.h"

namespace conduit::pipe {

[[nodiscard]] std::unique_ptr<const Gauge> gaugeOf(const Values& values, const Setting& setting,
                                                   std::span<const EndPlace> ends);

}  // namespace conduit::pipe

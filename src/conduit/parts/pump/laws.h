// The pump's law: a curve, a head kept, a power put in; what it has no.
#pragma once

#include "parts/part.h"

namespace conduit::pump {

[[nodiscard]] Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends);

}  // namespace conduit::pump

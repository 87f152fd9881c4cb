// The reducing valve: keeps the pressure at its outlet from rising above its set point.
#pragma once

#include "parts/part.h"

namespace conduit::reducingvalve {

extern const Part part;

}  // namespace conduit::reducingvalve

// The valve that opens when the pressure before it rises to its set point.
#pragma once

#include "parts/part.h"

namespace conduit::reliefvalve {

extern const Part part;

}  // namespace conduit::reliefvalve

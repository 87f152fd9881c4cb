// The isolating valve, open or closed.
#pragma once

#include "parts/part.h"

namespace conduit::isolatingvalve {

extern const Part part;

}  // namespace conduit::isolatingvalve

// The tank with a liquid surface and one or more connections.
#pragma once

#include "parts/part.h"

namespace conduit::tank {

extern const Part part;

}  // namespace conduit::tank

// The nozzle to the open air, q = K √p.
#pragma once

#include "parts/part.h"

namespace conduit::nozzle {

extern const Part part;

}  // namespace conduit::nozzle

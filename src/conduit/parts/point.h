// The point where ends meet; it may have an outflow or an inflow.
#pragma once

#include "parts/part.h"

namespace conduit::point {

extern const Part part;

}  // namespace conduit::point

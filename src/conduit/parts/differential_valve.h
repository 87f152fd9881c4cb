// The valve that keeps a difference of pressure between two places.
#pragma once

#include "parts/part.h"

namespace conduit::differentialvalve {

extern const Part part;

}  // namespace conduit::differentialvalve

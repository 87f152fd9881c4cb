// The distance between two points, written on the drawing. No liquid passes.
#pragma once

#include "parts/part.h"

namespace conduit::dimension {

extern const Part part;

}  // namespace conduit::dimension

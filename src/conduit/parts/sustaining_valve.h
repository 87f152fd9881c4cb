// The valve that keeps a least pressure before it.
#pragma once

#include "parts/part.h"

namespace conduit::sustainingvalve {

extern const Part part;

}  // namespace conduit::sustainingvalve

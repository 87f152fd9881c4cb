// The check valve: passes forward, shuts against backward flow.
#pragma once

#include "parts/part.h"

namespace conduit::checkvalve {

extern const Part part;

}  // namespace conduit::checkvalve

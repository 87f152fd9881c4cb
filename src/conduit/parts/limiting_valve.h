// The valve that lets no more than a set flow pass.
#pragma once

#include "parts/part.h"

namespace conduit::limitingvalve {

extern const Part part;

}  // namespace conduit::limitingvalve

// Any item in a line, with the engineer's own loss law.
#pragma once

#include "parts/part.h"

namespace conduit::ownloss {

extern const Part part;

}  // namespace conduit::ownloss

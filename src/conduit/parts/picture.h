// A picture or a page under the drawing, to trace over. No liquid passes.
#pragma once

#include "parts/part.h"

namespace conduit::picture {

extern const Part part;

}  // namespace conduit::picture

// The pump by its curve, or by a duty flow whose head is found.
#pragma once

#include "parts/part.h"

namespace conduit::pump {

extern const Part part;

}  // namespace conduit::pump

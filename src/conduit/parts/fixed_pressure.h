// The fixed pressure: a supply or an end that keeps its pressure whatever flows.
#pragma once

#include "parts/part.h"

namespace conduit::fixedpressure {

extern const Part part;

}  // namespace conduit::fixedpressure

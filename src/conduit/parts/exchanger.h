// The heat exchanger, as what it takes of the head.
#pragma once

#include "parts/part.h"

namespace conduit::exchanger {

extern const Part part;

}  // namespace conduit::exchanger

// The strainer with its clean drop.
#pragma once

#include "parts/part.h"

namespace conduit::strainer {

extern const Part part;

}  // namespace conduit::strainer

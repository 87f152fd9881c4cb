// The round pipe with its take-off.
#pragma once

#include "parts/part.h"

namespace conduit::pipe {

extern const Part part;

}  // namespace conduit::pipe

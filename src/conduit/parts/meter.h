// The meter with the drop its maker states.
#pragma once

#include "parts/part.h"

namespace conduit::meter {

extern const Part part;

}  // namespace conduit::meter

// The control valve, by Kv and opening.
#pragma once

#include "parts/part.h"

namespace conduit::controlvalve {

extern const Part part;

}  // namespace conduit::controlvalve

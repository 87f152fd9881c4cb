// The orifice plate after ISO 5167-2.
#pragma once

#include "parts/part.h"

namespace conduit::orificeplate {

extern const Part part;

}  // namespace conduit::orificeplate

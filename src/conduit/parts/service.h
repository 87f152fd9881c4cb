// A service: limits that elements which name it are held to, in place of the job's. It stands nowhere on the
// drawing.
#pragma once

#include "parts/part.h"

namespace conduit::service {

extern const Part part;

}  // namespace conduit::service

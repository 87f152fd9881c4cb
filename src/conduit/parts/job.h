// The job: particulars, liquid, friction law, limits. Not equipment, but given and kept the same way.
#pragma once

#include "parts/part.h"

namespace conduit::job {

extern const Part part;

}  // namespace conduit::job

// Words on the drawing. No liquid passes.
#pragma once

#include "parts/part.h"

namespace conduit::remark {

extern const Part part;

}  // namespace conduit::remark

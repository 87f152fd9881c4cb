// Results that are followed through cases and sweeps.
#pragma once

#include "studies/study.h"

namespace conduit::watched {

extern const Study study;

}  // namespace conduit::watched

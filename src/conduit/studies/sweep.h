// The set-up of a sweep.
#pragma once

#include "studies/study.h"

namespace conduit::sweep {

extern const Study study;

}  // namespace conduit::sweep

// What is asked of pumps that are to be chosen.
#pragma once

#include "studies/study.h"

namespace conduit::pumprequests {

extern const Study study;

}  // namespace conduit::pumprequests

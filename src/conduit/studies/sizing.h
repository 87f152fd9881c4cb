// What a sizing is asked for, with the proposals that were kept.
#pragma once

#include "studies/study.h"

namespace conduit::sizing {

extern const Study study;

}  // namespace conduit::sizing

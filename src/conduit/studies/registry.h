// All studies, in the order of the file.
#pragma once

#include "studies/study.h"

namespace conduit {

[[nodiscard]] std::span<const Study* const> allStudies();

}  // namespace conduit

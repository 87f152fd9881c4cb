// The round pipe with its take-off.
#pragma once

#include "parts/part.h"

namespace conduit::pipe {

extern const Part part;

/// Said of a pipe either way: a sizing may lay it or not.
inline constexpr std::string_view laidKey = "laid";

}  // namespace conduit::pipe

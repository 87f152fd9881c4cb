// How the numbers of a pipe came about: K piece by piece, loss by its friction law.
#pragma once

#include "parts/part.h"

namespace conduit::pipe {

[[nodiscard]] std::vector<KUsed> kUsed(const Reading& r);
[[nodiscard]] std::optional<Working> working(const Reading& r, std::string_view outcomeKey);

}  // namespace conduit::pipe

// Numbers of nodes and links are int, as the sparse libraries want them; containers are indexed by size_t.
#pragma once

#include <cstddef>

namespace conduit {

[[nodiscard]] constexpr std::size_t u(int i) { return static_cast<std::size_t>(i); }

}  // namespace conduit

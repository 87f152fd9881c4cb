// Powers of ten that doubles hold exactly.
#pragma once

#include <array>

namespace conduit {

/// 10^k for k from 0 to 18.
inline constexpr std::array<double, 19> tens{1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,  1e8, 1e9,
                                             1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18};

}  // namespace conduit

// The sizes above one in the range in which it is sold.
#pragma once

#include "stock/stock.h"

namespace conduit {

/// Narrowest first; empty where it is the widest.
[[nodiscard]] std::vector<const PipeSize*> widerThan(const PipeSize& size, const Stock& stock);

}  // namespace conduit

// The sizes above one in its own standard and schedule.
#pragma once

#include "stock/stock.h"

namespace conduit {

/// Narrowest first; empty where it is the widest.
[[nodiscard]] std::vector<const PipeSize*> widerThan(const PipeSize& size, const Stock& stock);

}  // namespace conduit

// Pipe sizes as they are sold: a standard lists more walls and sizes than merchants keep.
#pragma once

#include "stock/stock.h"

namespace conduit {

/// The range in which a size is bought, by rising bore, the size itself among them: of EN 545 the preferred
/// class of each size; of EN 10220, ISO 1127 and EN 1057 one usual wall of each; of ASME B36.10M and B36.19M
/// the schedule without 1-1/4, 3-1/2 and 5 in; of every other standard, and of an own catalogue, all of its
/// schedule.
[[nodiscard]] std::vector<const PipeSize*> soldWith(const PipeSize& size, const Stock& stock);

}  // namespace conduit

// A block of cells from a spreadsheet as rows of a table field.
#pragma once

#include "fields/field.h"
#include "quantity/units.h"
#include "say/say.h"

namespace conduit {

/// The block laid over rows that are there ("0 L/s | 40 m; 10 L/s | 38 m"), from one cell on; as such a text
/// again. With headings columns go where their names say (flow, head, efficiency or eta, NPSH, power, speed,
/// impeller), and the rows take the place of all that were; a unit in brackets holds for bare numbers below
/// it, else that of the set. The Problem names the cell that cannot be read.
[[nodiscard]] Result<std::string> rowsFromBlock(std::string_view block, const Field& table,
                                                const std::vector<std::vector<std::string>>& there,
                                                std::size_t row, std::size_t column, const UnitSet& units);

}  // namespace conduit

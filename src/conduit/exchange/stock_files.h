// Reads stock files (comma-separated, a header line, # for remarks) into a Stock.
#pragma once

#include <memory>
#include <string_view>

#include "stock/stock.h"

namespace conduit {

/// Text of a shipped file of stock/, empty when there is none of that name. Made at build time.
[[nodiscard]] std::string_view shippedStock(std::string_view name);

/// The cells of one line: commas part them, quotes keep commas.
[[nodiscard]] std::vector<std::string> csvCells(std::string_view line);

/// The stock that is shipped. Made on first use and never changed.
[[nodiscard]] const Stock& shippedStock();

}  // namespace conduit

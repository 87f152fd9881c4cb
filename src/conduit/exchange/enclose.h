// What a model needs to be whole on another machine.
#pragma once

#include "network/network.h"

namespace conduit {

/// The network with every entry of `stock` that it uses and that is not shipped (sizes, fittings of
/// take-offs, stock items, the liquid) enclosed, as they are now. Shares the network when nothing is to be
/// added.
[[nodiscard]] Network withUsedStock(const Network& network, const Stock& stock);

/// What an element is given, as an item of the stock named after it: without its note, its service and what
/// is found.
[[nodiscard]] StockItem stockItemOf(const Element& element);

/// Which elements use an entry of the stock, by Id.
[[nodiscard]] std::vector<Id> usersOf(const Network& network, const Stock& stock, std::string_view file,
                                      std::string_view name);

}  // namespace conduit

// What sizing waits for: a branched network proved, published looped ones, streets with three cases, a header
// balanced.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "model/model.h"
#include "stock/stock.h"

namespace conduit::bench {

struct Loaded {
  Model model;
  std::shared_ptr<const Stock> stock;
};
[[nodiscard]] std::optional<Loaded> loaded(const std::string& file);
/// A third of its lines behind a valve or strainer, fed by a tank.
[[nodiscard]] std::optional<Loaded> branchedModel(std::size_t lines, std::size_t sizes);

void sizing();

}  // namespace conduit::bench

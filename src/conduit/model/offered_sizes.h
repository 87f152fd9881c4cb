// The sizes that a set-up offers: those of a range, those for a line, and remedies that keep to them.
#pragma once

#include "model/sizing_setup.h"
#include "say/say.h"
#include "stock/stock.h"

namespace conduit {

/// By rising bore; empty where the stock has no such standard.
[[nodiscard]] std::vector<const PipeSize*> sizesIn(const Stock& stock, const SizeRange& range);
/// Those that a line may have: of the ranges for it by its name, else for its service, else for all. Empty
/// where none is for it.
[[nodiscard]] std::vector<const PipeSize*> sizesOffered(const Stock& stock, std::span<const SizeRange> ranges,
                                                        const Element& line);

/// Whether each size that a remedy gives a line is among those to choose from.
[[nodiscard]] bool isOffered(const Remedy& remedy, const Network& network, const Stock* stock,
                             std::span<const SizeRange> ranges);

/// Remedies that give a line a size which is not among those to choose from give it the next that is, and go
/// where there is none. `ranges` as a sizing has them; none: all are to choose from.
void onlyOffered(std::vector<Remedy>& remedies, const Network& network, const Stock* stock,
                 std::span<const SizeRange> ranges);
void onlyOffered(std::vector<Finding>& findings, const Network& network, const Stock* stock,
                 std::span<const SizeRange> ranges);

}  // namespace conduit

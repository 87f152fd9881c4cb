// What the job's givens mean for every element: liquid, air, friction law, limits.
#pragma once

#include <memory_resource>

#include "network/network.h"

namespace conduit {

/// Liquid properties from the fluid laws (water) or as given (own liquid). A given outside the range of its
/// law, or one that is missing, is a Problem with its place.
[[nodiscard]] Result<Setting> settingOf(const Network& network, const Stock* stock);
/// Of that, what conversions need; of plain water where there is a problem.
[[nodiscard]] Medium mediumOf(const Network& network, const Stock* stock);

/// The element's values with those of its stock item behind them: what it says itself comes first. Gives back
/// the element's own where it names no item, else `scratch`.
[[nodiscard]] const Values& valuesOf(const Element& element, const Stock* stock, Values& scratch);

/// The fields of a stock item as values, beside the texts they were read from.
struct ItemValues {
  std::vector<std::pair<std::string, std::string>> from;
  Values values;
};
/// Reads the fields of every item that has not been read, or whose texts are others now. For a stock before
/// many elements use it; `valuesOf` reads for itself what was not.
void readItems(Stock& stock);
/// The same, shared.
[[nodiscard]] std::shared_ptr<const Stock> readAndShared(Stock stock);

/// What an element's ends see of their points: height and the widest bore that meets there.
/// `widest` is indexed by Id (see widestBores).
[[nodiscard]] std::vector<EndPlace> endPlaces(const Network& network, const Element& element,
                                              const Setting& setting, const std::vector<double>& widest);
/// The same into what the caller keeps for it; what was in there goes.
void endPlaces(const Network& network, const Element& element, const Setting& setting,
               const std::vector<double>& widest, std::pmr::vector<EndPlace>& places);

/// For every point the bore of the widest pipe that meets it, m; 0 where none does.
[[nodiscard]] std::vector<double> widestBores(const Network& network, const Setting& setting);

/// The bore of one element laid over what `widest` says of its ends.
void widenAt(const Element& element, const Setting& setting, std::vector<double>& widest);

}  // namespace conduit

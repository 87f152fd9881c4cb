// A field of many elements at once: the same text for all, arithmetic on what each has, one text for each.
#pragma once

#include <span>

#include "network/edits.h"

namespace conduit {

/// "* 1.1", "/ 2", "+ 2 m", "- 5 %", "+ 10 %": what it does to a quantity of the measure. The factor of a
/// share is of the value itself.
struct Arithmetic {
  double factor = 1.0, add = 0.0;  // new = old·factor + add, SI
  std::string words;               // "* 1.1"
};
[[nodiscard]] Result<Arithmetic> readArithmetic(std::string_view text, Measure measure, const UnitSet* units);
/// True when a text means arithmetic rather than a value.
[[nodiscard]] bool isArithmetic(std::string_view text);

/// Applies to every element that has the field given; the others are left. A value out of the field's range
/// refuses the whole. The result is typed in the unit each value had.
[[nodiscard]] Result<Edited> changeByArithmetic(const Network& network, std::span<const Id> ids,
                                                std::string_view key, std::string_view arithmetic,
                                                const UnitSet* units);

/// `texts[i]` to `ids[i]`, as one step; the first that cannot be read refuses the whole.
[[nodiscard]] Result<Edited> setTexts(const Network& network, std::span<const Id> ids, std::string_view key,
                                      std::span<const std::string> texts, const Stock* stock,
                                      const UnitSet* units);
/// What the first has to all the others.
[[nodiscard]] Result<Edited> fillDown(const Network& network, std::span<const Id> ids, std::string_view key);

}  // namespace conduit

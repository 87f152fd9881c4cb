// From what is typed in a field to its value, and back. The one place where a field's text is read, for file,
// card, ledger and remedy alike.
#pragma once

#include "network/network.h"

namespace conduit {

/// `units`: a bare number takes the unit shown there (null: it is refused, as in a file).
/// Tables: rows parted by ";", cells by "|"; an empty cell is left out. Flags: yes, no.
[[nodiscard]] Result<Value> readField(const Field& field, std::string_view text, const Stock* stock,
                                      const UnitSet* units);

/// The text of a value, as given; of a table its rows as above.
[[nodiscard]] std::string writeField(const Field& field, const Value& value);

/// In one line with the unit said back, gauge named and a choice by its display name: what the card shows.
[[nodiscard]] std::string sayField(const Field& field, const Value& value);

}  // namespace conduit

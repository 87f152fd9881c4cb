// From what is typed in a field to its value, and back. The one place where a field's text is read, for file,
// card, ledger and remedy alike.
#pragma once

#include "fields/field.h"
#include "quantity/parse.h"

namespace conduit {

/// `units`: a bare number takes the unit shown there (null: it is refused, as in a file).
/// Tables: rows parted by ";", cells by "|"; an empty cell is left out. Flags: yes, no.
[[nodiscard]] Result<Value> readField(const Field& field, std::string_view text, const Stock* stock,
                                      const UnitSet* units);

/// Rows of a table field, each of its cells as it is typed; an empty one is left out, and cells at the end
/// may be lacking.
using TypedRows = std::vector<std::vector<std::string>>;
[[nodiscard]] Result<Rows> readRows(const Field& field, const TypedRows& typed, const UnitSet* units);

/// What could not be read, with what could have been meant as remedies.
[[nodiscard]] Problem problemOf(std::string_view key, const ParseError& error);

/// The text of a value, as given; of a table its rows as above.
[[nodiscard]] std::string writeField(const Field& field, const Value& value);

/// In one line with the unit said back, gauge named and a choice by its display name: what the card shows.
[[nodiscard]] std::string sayField(const Field& field, const Value& value);

}  // namespace conduit

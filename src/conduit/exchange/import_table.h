// Rows of a table into the network: points, pipes, any kind. The plan says what each column becomes; the
// result is worked out whole before anything is taken, so a row is either in with all it says or refused with
// the reason.
//
//   ImportPlan plan = proposePlan(grid, dialect, nullptr, units);
//   auto brought = importTable(network, grid, plan, stock, units, {});
//   document.take(brought->edited);
#pragma once

#include <functional>
#include <stop_token>

#include "exchange/delimited.h"
#include "network/edits.h"

namespace conduit {

enum class ColumnIs {
  left,
  name,
  kind,
  x,
  y,
  from,
  to,
  at,
  fromX,
  fromY,
  fromHeight,
  toX,
  toY,
  toHeight,
  field
};

/// What one column of the table becomes. `unit` is that of bare numbers; null: the field's unit of the set
/// shown.
struct ColumnUse {
  ColumnIs is = ColumnIs::left;
  std::string field;  // of ColumnIs::field
  const Unit* unit = nullptr;
  friend bool operator==(const ColumnUse&, const ColumnUse&) = default;
};

struct ImportPlan {
  const Part* kind = nullptr;  // null: each row says it in its kind column
  std::vector<ColumnUse> columns;
  bool decimalComma = false;
  bool makePoints = true;  // points that are named and not there are made
};

/// What a column may become for a kind, in words for choosing: "name", "from", "x", "bore" …
struct ColumnChoice {
  ColumnUse use;
  std::string words;
};
[[nodiscard]] std::vector<ColumnChoice> columnChoices(const Part* kind);
[[nodiscard]] std::string wordsOf(const ColumnUse& use);

/// Matches headings by name and unit ("Bore [mm]", "length_m", "Elevation (ft)"); without headings, by what
/// stands in the columns. `kind` null: guessed from the headings, or from what the names are in `network`, if
/// one is given.
[[nodiscard]] ImportPlan proposePlan(const Grid& grid, const Dialect& dialect, const Part* kind,
                                     const UnitSet& units, const Network* network = nullptr);

struct RefusedRow {
  std::size_t row = 0, line = 0;  // of the grid, and of the text from which it came
  std::string column, what;
};

struct Imported {
  Edited edited;
  std::size_t made = 0, changed = 0, pointsMade = 0;
  std::size_t refusedCount = 0;
  std::vector<RefusedRow> refused;  // the first thousand
  std::vector<Id> touched;
  [[nodiscard]] std::string words() const;  // "412 new, 3 changed, 5 rows refused"
};

/// `progress` is told the share done now and then. A Problem only when nothing can be made of the plan at
/// all, or when stopped.
[[nodiscard]] Result<Imported> importTable(const Network& network, const Grid& grid, const ImportPlan& plan,
                                           const Stock* stock, const UnitSet& units,
                                           const std::function<void(double)>& progress = {},
                                           std::stop_token stop = {});

/// GeoJSON (RFC 7946): points, and lines as pipes between their ends, with their properties as columns.
/// Degrees become metres east and north of the middle. A Problem when the text is no GeoJSON or holds nothing
/// of use.
[[nodiscard]] Result<Grid> gridOfGeoJson(std::string_view text);

}  // namespace conduit

// All cases side by side: what differs in any of them, and what is watched. The one table that the desk, the
// command line and the sheet show.
#pragma once

#include "cases/balance.h"
#include "cases/watch.h"
#include "say/table_cell.h"

namespace conduit {

struct GridCell {
  std::string text;          // in the units shown, without unit; "–" where there is none
  std::string typed;         // as it was given, with its unit; what an edit begins with
  std::optional<double> si;  // of a quantity
  bool own = false;          // differs from its parent here; in the drawing: always
  bool found = false;        // released, or an outcome that is not given here
  bool assumed = false;
  std::optional<double> least, most;  // of what is watched
  bool broken = false, worst = false;
  Id where = noId;  // of what is watched: the element that sets it
};

struct GridRow {
  enum class Kind { field, given, about, watched };
  Kind kind = Kind::field;
  std::vector<Id> elements;  // that share the row; empty for what is said of a case
  std::string_view key;      // of a field or outcome
  std::string whose, what, unit;
  Measure measure = Measure::number;
  bool quantity = false;        // cells have numbers
  bool releasable = false;      // may be found in place of an outcome
  std::size_t watched = 0;      // its place in the list of what is watched
  std::size_t brings = 0;       // of a catalogue item: rows that follow, of what differs with it alone
  bool brought = false;         // one of those
  std::vector<GridCell> cells;  // one for each case
};

struct GridHeading {
  CaseId id = drawingCase;
  std::string name, remark, parent;  // parent: "base case", "based on Cold night"
  std::string verdict;  // "3 broken", "limits kept", "cannot be solved yet", "…" while it is not
  bool solved = false, bad = false;
};

struct CaseGrid {
  std::vector<GridHeading> cases;
  std::vector<GridRow> differ;  // what differs in any case, hours last
  std::vector<GridRow> watched;
};

/// A row that is wanted although nothing differs in it yet.
struct ExtraRow {
  Id element = noId;
  std::string_view key;
  friend bool operator==(const ExtraRow&, const ExtraRow&) = default;
};
/// `answers` may lack cases, or hold null; they are found by their number.
[[nodiscard]] CaseGrid gridOf(const Model& model, std::span<const CaseAnswerPtr> answers,
                              const UnitSet& units, std::span<const ExtraRow> extra = {});

/// "Gun 5 … 11", "Gun 5, Valve 3", "Gun 5 and 11 others".
[[nodiscard]] std::string namesTogether(const Network& network, std::span<const Id> ids);

/// What a case says otherwise than its parent, each in words: "B-1 running: no, and yes in Cold night".
[[nodiscard]] std::vector<std::string> differencesInWords(const Model& model, CaseId from, CaseId to,
                                                          const UnitSet& units);

/// How what is watched differs between two solved cases, the greatest change first.
struct WatchedChange {
  std::string label, from, to, unit;
  std::optional<double> share;  // of the first; empty where that is zero or one has no value
};
[[nodiscard]] std::vector<WatchedChange> changesBetween(const Model& model, const CaseAnswer& from,
                                                        const CaseAnswer& to, const UnitSet& units);

/// The grid as text for a terminal, and as lines of cells (headings first) for a table file.
[[nodiscard]] TableLines tableOf(const CaseGrid& grid, const UnitSet& units);

}  // namespace conduit

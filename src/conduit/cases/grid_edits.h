// What is typed or pasted into cells of the grid, as one edit.
#pragma once

#include "cases/case_edits.h"
#include "cases/grid.h"

namespace conduit {

/// One cell: a field or given outcome of elements in a case, or the hours of a case. An empty text is "as
/// inherited"; in the drawing it clears.
struct CellText {
  CaseId in = drawingCase;
  GridRow::Kind kind = GridRow::Kind::field;
  std::vector<Id> elements;
  std::string key, text;
};

/// All of them or none; the Problem names the first that cannot be read.
[[nodiscard]] Result<EditedModel> setCells(const Model& model, std::span<const CellText> cells,
                                           const Stock* stock, const UnitSet* units);

/// Given becomes found in this case alone, and the other way round (an outcome that is given there takes the
/// value that was found, `found`, SI).
[[nodiscard]] Result<EditedModel> swapInCase(const Model& model, CaseId in, Id element, std::string_view key,
                                             bool outcome, std::optional<double> found, const Stock* stock,
                                             const UnitSet& units);

/// "B-2 running", "B-2 running no", "Gun 1 pressure given": a field or outcome of an element, with the text
/// to be given if there is one. Empty where the text names no element with a field.
struct RowWanted {
  Id element = noId;
  std::string_view key;
  std::string text;
};
[[nodiscard]] std::optional<RowWanted> readRow(std::string_view text, const Network& network);

}  // namespace conduit

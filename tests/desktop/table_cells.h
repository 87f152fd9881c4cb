// What a reader of a table cannot read.
#pragma once

#include <QFontMetrics>
#include <QHeaderView>
#include <QStringList>

#include "look/cell_table.h"

namespace conduit::desktop {

/// Numbers and headings of a table that do not fit their column; words at the left may be cut, their whole is
/// the tip.
inline QStringList cutCells(const CellTable& table) {
  QStringList cut;
  const auto& rows = static_cast<const CellRows&>(*table.model());
  const QFontMetrics plain(face(12.5)), strong(face(12.5, true)), heading(table.horizontalHeader()->font());
  for (int c = 0; c < rows.columnCount(); ++c) {
    const int room = table.columnWidth(c);
    const QString head = rows.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString();
    if (heading.horizontalAdvance(head) + 6 > room) cut << "heading " + head;
    if (rows.columns()[static_cast<std::size_t>(c)].left) continue;
    for (int r = 0; r < rows.rowCount(); ++r)
      if (const Cell* cell = rows.at(r, c); cell && !cell->ticked)
        if ((cell->ink == Cell::Ink::strong ? strong : plain).horizontalAdvance(cell->text) + 16 +
                (cell->bar ? 70 : 0) >
            room)
          cut << head + ": " + cell->text;
  }
  return cut;
}

}  // namespace conduit::desktop

// Cells as a spreadsheet takes them from the clipboard.
#pragma once

#include <QString>

namespace conduit::desktop {

/// A spreadsheet takes text that begins like a formula for one, and runs it: an apostrophe before it says
/// that it is text. Numbers may begin with a sign.
[[nodiscard]] inline QString harmless(const QString& cell) {
  if (cell.isEmpty() || !QString("=+-@").contains(cell[0])) return cell;
  bool number = false;
  (void)cell.section(' ', 0, 0).toDouble(&number);
  return number ? cell : '\'' + cell;
}

/// One cell of a line: no tabs and breaks, plain signs and no thin spaces, and harmless.
[[nodiscard]] inline QString tabbed(QString cell) {
  return harmless(cell.remove(QString("\u202f"))
                      .replace(QString("−"), "-")
                      .replace('\t', ' ')
                      .replace('\r', ' ')
                      .replace('\n', ' '));
}

}  // namespace conduit::desktop

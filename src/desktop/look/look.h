// Colours and type, in one place (docs/design.md). Passed to whoever paints; nobody asks a global for it.
#pragma once

#include <QColor>
#include <QFont>
#include <QPalette>
#include <QString>
#include <array>

namespace conduit::desktop {

struct Look {
  QColor paper, sheet, grid, hair, field, ink, ink2, water, warning, ceiling;
  std::array<QColor, 5> flow;  // five even steps
  bool dark = false;

  [[nodiscard]] static Look light();
  [[nodiscard]] static Look night();
  [[nodiscard]] QColor onScale(double share) const;  // 0…1
  [[nodiscard]] QPalette palette() const;
  [[nodiscard]] QString styleSheet() const;
};

/// The family whose figures are all of one width; falls back to the system's when the fonts are not in the
/// program.
QString loadFonts();
[[nodiscard]] QFont face(double pixels, bool bold = false);

}  // namespace conduit::desktop

#include "plan/label_room.h"

#include <algorithm>
#include <cmath>

namespace conduit::desktop {

LabelRoom::LabelRoom(const QSize& size)
    : columns_(size.width() / cell),
      rows_(size.height() / cell),
      taken_(static_cast<std::size_t>(std::max(0, columns_) * std::max(0, rows_)), 0) {}

void LabelRoom::take(const QRectF& box) {
  const int x0 = std::max(0, static_cast<int>(box.left()) / cell),
            x1 = std::min(columns_ - 1, static_cast<int>(box.right()) / cell);
  const int y0 = std::max(0, static_cast<int>(box.top()) / cell),
            y1 = std::min(rows_ - 1, static_cast<int>(box.bottom()) / cell);
  for (int y = y0; y <= y1; ++y)
    for (int x = x0; x <= x1; ++x) taken_[static_cast<std::size_t>(y * columns_ + x)] = 1;
}

void LabelRoom::take(const QLineF& line) {
  const double length = line.length();
  const int steps = static_cast<int>(std::min(4000.0, length / cell * 1.5)) + 1;
  for (int i = 0; i <= steps; ++i) {
    const QPointF p = line.pointAt(static_cast<double>(i) / steps);
    const int x = static_cast<int>(std::floor(p.x() / cell)), y = static_cast<int>(std::floor(p.y() / cell));
    if (x >= 0 && y >= 0 && x < columns_ && y < rows_) taken_[static_cast<std::size_t>(y * columns_ + x)] = 1;
  }
}

bool LabelRoom::free(const QRectF& box) const {
  const int x0 = static_cast<int>(std::floor(box.left() / cell)), x1 = static_cast<int>(box.right()) / cell;
  const int y0 = static_cast<int>(std::floor(box.top() / cell)), y1 = static_cast<int>(box.bottom()) / cell;
  if (x0 < 0 || y0 < 0 || x1 >= columns_ || y1 >= rows_) return false;
  for (int y = y0; y <= y1; ++y)
    for (int x = x0; x <= x1; ++x)
      if (taken_[static_cast<std::size_t>(y * columns_ + x)]) return false;
  return true;
}

}  // namespace conduit::desktop

// Where on the sheet a label may still lie: a coarse map of cells that are taken.
#pragma once

#include <QLineF>
#include <QRectF>
#include <QSize>
#include <vector>

namespace conduit::desktop {

class LabelRoom {
 public:
  explicit LabelRoom(const QSize& size);
  void take(const QRectF& box);
  void take(const QLineF& line);
  /// Wholly on the sheet and on no cell that is taken.
  [[nodiscard]] bool free(const QRectF& box) const;

 private:
  static constexpr int cell = 4;  // px
  int columns_, rows_;
  std::vector<char> taken_;
};

}  // namespace conduit::desktop

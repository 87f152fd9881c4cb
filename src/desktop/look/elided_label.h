// A line of rich text that is too long for its place ends in "…", never in the middle of a letter; pointing
// at it shows the whole. Links before the end work as they do in any label.
#pragma once

#include <QLabel>
#include <optional>

namespace conduit::desktop {

class ElidedLabel : public QLabel {
  Q_OBJECT
 public:
  explicit ElidedLabel(QWidget* parent = nullptr);
  /// Where the text is cut, in pixels from the left; nothing where all of it fits.
  [[nodiscard]] std::optional<int> cutAt() const;

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
};

}  // namespace conduit::desktop

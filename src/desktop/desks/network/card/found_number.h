// A found number on the card: read, copied, and typed over, which gives it.
#pragma once

#include <QLabel>

namespace conduit::desktop {

class FoundNumber : public QLabel {
  Q_OBJECT
 public:
  explicit FoundNumber(QWidget* parent = nullptr);

 signals:
  /// Somebody begins to type over it: with this key, or with none (a double click, Enter, F2).
  void typedOver(const QString& first);

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  void enterEvent(QEnterEvent* event) override;
  void leaveEvent(QEvent* event) override;
};

}  // namespace conduit::desktop

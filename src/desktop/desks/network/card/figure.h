// The one small figure that belongs to the thing: a pump's curve and duty, a tank's level.
#pragma once

#include <QWidget>

#include "document/document.h"
#include "look/look.h"

namespace conduit::desktop {

class Stack;

class CardFigure : public QWidget {
  Q_OBJECT
 public:
  explicit CardFigure(Document& document, QWidget* parent = nullptr);
  /// False when the element has no figure.
  bool display(Id id, const Look& look);
  [[nodiscard]] QSize sizeHint() const override { return {276, wanted_}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void showPump();
  void paintTank(QPainter& p);
  Document& doc_;
  Look look_;
  Id id_ = noId;
  int wanted_ = 140;
  Stack* stack_;  // of a pump
};

}  // namespace conduit::desktop

#include "card/found_number.h"

#include <QKeyEvent>
#include <QPainter>

namespace conduit::desktop {

FoundNumber::FoundNumber(QWidget* parent) : QLabel(parent) {
  setTextFormat(Qt::RichText);
  setTextInteractionFlags(Qt::TextSelectableByMouse);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::IBeamCursor);
}

void FoundNumber::keyPressEvent(QKeyEvent* event) {
  const QString text = event->text();
  const bool plain = !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier));
  if (plain && !text.isEmpty() && (text[0].isDigit() || text[0] == '-' || text[0] == '.'))
    return emit typedOver(text);
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_F2)
    return emit typedOver({});
  QLabel::keyPressEvent(event);
}

void FoundNumber::mouseDoubleClickEvent(QMouseEvent*) { emit typedOver({}); }

// Where it can be typed over a thin line under it says so, once somebody points at it.
void FoundNumber::paintEvent(QPaintEvent* event) {
  QLabel::paintEvent(event);
  if (!hasFocus() && !underMouse()) return;
  QPainter p(this);
  QPen pen(palette().color(hasFocus() ? QPalette::WindowText : QPalette::Mid), hasFocus() ? 1.6 : 1);
  if (!hasFocus()) pen.setStyle(Qt::DotLine);
  p.setPen(pen);
  p.drawLine(QPointF(0, height() - 1.5), QPointF(width(), height() - 1.5));
}

void FoundNumber::enterEvent(QEnterEvent* event) {
  QLabel::enterEvent(event);
  update();
}
void FoundNumber::leaveEvent(QEvent* event) {
  QLabel::leaveEvent(event);
  update();
}

}  // namespace conduit::desktop

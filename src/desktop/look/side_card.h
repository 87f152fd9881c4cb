// The column at a desk's side: texts with links, one under another.
#pragma once

#include <QScrollArea>

#include "look/look.h"

class QLabel;
class QVBoxLayout;

namespace conduit::desktop {

class SideCard : public QScrollArea {
  Q_OBJECT
 protected:
  SideCard(const QString& name, const QString& spoken, int width, QWidget* parent);
  /// A text whose links come to `act`.
  QLabel* addText(const QString& name);
  virtual void act(const QString& link) = 0;
  Look look_;
  QVBoxLayout* rows_;
};

}  // namespace conduit::desktop

#include "look/side_card.h"

#include <QLabel>
#include <QVBoxLayout>

namespace conduit::desktop {

SideCard::SideCard(const QString& name, const QString& spoken, int width, QWidget* parent)
    : QScrollArea(parent), look_(Look::light()) {
  setObjectName(name);
  setAccessibleName(spoken);
  setFixedWidth(width);
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFrameShape(QFrame::NoFrame);
  auto* body = new QWidget;
  body->setFont(face(12.5));
  rows_ = new QVBoxLayout(body);
  rows_->setContentsMargins(16, 12, 16, 12);
  rows_->setSpacing(4);
  setWidget(body);
}

QLabel* SideCard::addText(const QString& name) {
  auto* label = new QLabel;
  label->setObjectName(name);
  label->setWordWrap(true);
  label->setTextFormat(Qt::RichText);
  label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(label, &QLabel::linkActivated, this, &SideCard::act, Qt::QueuedConnection);
  rows_->addWidget(label);
  return label;
}

}  // namespace conduit::desktop

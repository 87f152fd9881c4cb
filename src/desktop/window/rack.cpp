#include "window/rack.h"

#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "look/symbol.h"
#include "parts/registry.h"

namespace conduit::desktop {

RackButton::RackButton(const Part& part, QWidget* parent) : QAbstractButton(parent), part_(part), look_(Look::light()) {
  const QString name = QString::fromUtf8(part.key.data(), static_cast<int>(part.key.size()));
  setObjectName("rack." + name);
  setAccessibleName(tr("Place a %1").arg(name));
  setToolTip(tr("%1  (%2)").arg(name).arg(QChar(part.letter)));
  setFixedWidth(58);
  setMinimumHeight(20);  // a drawer pulled up takes room: the symbols come closer
  setMaximumHeight(36);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Preferred);
  setFocusPolicy(Qt::TabFocus);
}

void RackButton::setLook(const Look& look) {
  look_ = look;
  update();
}

void RackButton::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  if (underMouse() || isDown()) p.fillRect(rect().adjusted(3, 2, -3, -2), look_.field);
  if (hasFocus()) {
    p.setPen(QPen(look_.ink, 2));
    p.drawRect(rect().adjusted(3, 3, -3, -3));
  }
  p.translate(width() / 2.0 - 3, height() / 2.0 + (part_.ends == Ends::many ? 0 : 1));
  paintSymbol(p, part_.symbol, look_, (part_.ends == Ends::many ? 0.8 : 1.0) * std::min(1.0, height() / 34.0), look_.ink);
  p.setFont(face(10));
  p.setPen(look_.ink2);
  p.drawText(QRectF(13, std::min(1.0, height() / 2.0 - 17), 16, 16), Qt::AlignRight | Qt::AlignBottom, QString(QChar(part_.letter)));
}

Rack::Rack(QWidget* parent) : QWidget(parent), look_(Look::light()) {
  setObjectName("rack");
  setAccessibleName(tr("Rack"));
  setFixedWidth(58);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 6, 0, 4);
  layout->setSpacing(0);
  const std::pair<Group, QString> groups[] = {{Group::supply, tr("SUPPLY")},     {Group::line, tr("LINE")},        {Group::lift, tr("LIFT")},
                                              {Group::restrain, tr("RESTRAIN")}, {Group::drawOff, tr("DRAW OFF")}, {Group::drawing, tr("NOTE")}};
  for (const auto& [group, name] : groups) {
    auto* heading = new QLabel(name);
    heading->setAlignment(Qt::AlignCenter);
    heading->setMinimumHeight(10);
    heading->setMaximumHeight(18);
    headings_.push_back(heading);
    layout->addWidget(heading);
    for (const Part* part : allParts()) {
      if (part->group != group || !part->letter) continue;
      auto* button = new RackButton(*part, this);
      buttons_.push_back(button);
      layout->addWidget(button);
      connect(button, &QAbstractButton::clicked, this, [this, part] { emit wanted(part); });
    }
  }
  layout->addStretch(1);
}

void Rack::setLook(const Look& look) {
  look_ = look;
  for (RackButton* b : buttons_) b->setLook(look);
  for (QLabel* h : headings_) {
    h->setFont(face(10));
    h->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
  }
  update();
}

void Rack::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setPen(look_.hair);
  p.drawLine(width() - 1, 0, width() - 1, height());
}

}  // namespace conduit::desktop

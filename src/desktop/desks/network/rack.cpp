#include "desks/network/rack.h"

#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <algorithm>

#include "look/symbol.h"
#include "look/words.h"
#include "parts/registry.h"

namespace conduit::desktop {

RackButton::RackButton(const Part& part, QWidget* parent)
    : QAbstractButton(parent), part_(part), look_(Look::light()) {
  const QString name = QString::fromUtf8(part.key.data(), static_cast<int>(part.key.size()));
  setObjectName("rack." + name);
  setAccessibleName(tr("Place %1").arg(QString::fromStdString(spokenOne(part.key))));
  setToolTip(tr("%1  (%2)").arg(sentence(part.key)).arg(QChar(part.letter)));
  setMinimumHeight(22);
  setMaximumHeight(36);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
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
  paintSymbol(p, part_.symbol, look_, (part_.ends == Ends::many ? 0.8 : 1.0) * std::min(1.0, height() / 34.0),
              look_.ink);
  p.setFont(face(10));
  p.setPen(look_.ink2);
  p.drawText(QRectF(width() / 2.0 - 16, std::min(1.0, height() / 2.0 - 17), 16, 16),
             Qt::AlignRight | Qt::AlignBottom, QString(QChar(part_.letter)));
}

namespace {

constexpr int oneWide = 58, twoWide = 96, headingHigh = 18, comfortable = 27;

}  // namespace

Rack::Rack(QWidget* parent) : QWidget(parent), look_(Look::light()), grid_(new QGridLayout(this)) {
  setObjectName("rack");
  setAccessibleName(tr("Rack"));
  setMinimumHeight(1);
  grid_->setContentsMargins(0, 6, 0, 4);
  grid_->setSpacing(0);
  const std::pair<Group, QString> groups[] = {{Group::supply, tr("SUPPLY")},  {Group::line, tr("LINE")},
                                              {Group::lift, tr("PUMP")},      {Group::restrain, tr("VALVES")},
                                              {Group::inLine, tr("IN LINE")}, {Group::drawOff, tr("OUTLETS")},
                                              {Group::drawing, tr("NOTE")}};
  for (const auto& [group, name] : groups) {
    Shelf shelf{new QLabel(name, this), {}};
    shelf.heading->setAlignment(Qt::AlignCenter);
    shelf.heading->setObjectName("rack.heading");
    shelf.heading->setMinimumHeight(10);
    shelf.heading->setMaximumHeight(headingHigh);
    for (const Part* part : allParts()) {
      if (part->group != group || !part->letter) continue;
      auto* button = new RackButton(*part, this);
      shelf.buttons.push_back(button);
      connect(button, &QAbstractButton::clicked, this, [this, part] { emit wanted(part); });
    }
    shelves_.push_back(std::move(shelf));
  }
  arrange(1);
}

// Where one column would press the symbols into one another (a drawer is pulled up) they stand in two.
void Rack::arrange(int columns) {
  if (columns == columns_) return;
  columns_ = columns;
  int row = 0;
  for (const Shelf& shelf : shelves_) {
    grid_->addWidget(shelf.heading, row++, 0, 1, columns);
    int column = 0;
    for (RackButton* button : shelf.buttons) {
      grid_->addWidget(button, row, column);
      if (++column == columns) column = 0, ++row;
    }
    if (column != 0) ++row;
  }
  for (int r = 0, rows = grid_->rowCount(); r < rows; ++r) grid_->setRowStretch(r, 0);
  grid_->setRowStretch(row, 1);
  setFixedWidth(columns == 1 ? oneWide : twoWide);
}

int Rack::heightOfOneColumn() const {
  int high = 10;
  for (const Shelf& shelf : shelves_)
    high += headingHigh + comfortable * static_cast<int>(shelf.buttons.size());
  return high;
}

void Rack::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  arrange(height() < heightOfOneColumn() ? 2 : 1);
}

void Rack::setLook(const Look& look) {
  look_ = look;
  for (const Shelf& shelf : shelves_) {
    for (RackButton* b : shelf.buttons) b->setLook(look);
    shelf.heading->setFont(face(10));
    shelf.heading->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
  }
  update();
}

void Rack::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setPen(look_.hair);
  p.drawLine(width() - 1, 0, width() - 1, height());
}

}  // namespace conduit::desktop

#include "plot/stack.h"

#include <qcustomplot.h>

#include <QAction>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

#include "plot/grouped_ticker.h"
#include "plot/picture.h"

namespace conduit::desktop {

Stack::Stack(QWidget* parent)
    : QWidget(parent),
      plot_(new QCustomPlot(this)),
      words_(new QLabel(this)),
      note_(new QLabel(this)),
      look_(Look::light()) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(plot_);
  plot_->setObjectName("stack");
  plot_->setInteractions(QCP::Interactions());
  plot_->setMouseTracking(true);
  plot_->installEventFilter(this);
  plot_->setFocusPolicy(Qt::ClickFocus);
  plot_->plotLayout()->clear();
  words_->setObjectName("stack.words");
  words_->setTextFormat(Qt::RichText);
  words_->setAttribute(Qt::WA_TransparentForMouseEvents);
  words_->hide();
  note_->setObjectName("stack.note");
  note_->setWordWrap(true);
  note_->setAlignment(Qt::AlignCenter);
  note_->setMargin(24);
  note_->hide();
  setAccessibleName(tr("Figure"));
  auto* copying = new QAction(tr("Copy the picture"), plot_);
  copying->setObjectName("stack.copy");
  copying->setShortcut(QKeySequence::Copy);
  copying->setShortcutContext(Qt::WidgetShortcut);
  connect(copying, &QAction::triggered, this, &Stack::copy);
  auto* whole = new QAction(tr("Zoom out"), plot_);
  whole->setObjectName("stack.whole");
  connect(whole, &QAction::triggered, this, &Stack::zoomOut);
  plot_->addActions({copying, whole});
  plot_->setContextMenuPolicy(Qt::ActionsContextMenu);
}

QColor Stack::tone(Tone t) const {
  switch (t) {
    case Tone::ink: return look_.ink;
    case Tone::water: return look_.water;
    case Tone::quiet: return look_.ink2;
    case Tone::warning: return look_.warning;
    case Tone::other1: return look_.flow[2];
    case Tone::other2: return look_.flow[3];
    case Tone::other3: return look_.flow[1];
  }
  return look_.ink;
}

void Stack::setLook(const Look& look) {
  look_ = look;
  words_->setStyleSheet(
      QString(
          "QLabel { background: %1; color: %2; border: 1px solid %3; border-radius: 3px; padding: 4px 8px; }")
          .arg(look_.field.name(), look_.ink.name(), look_.hair.name()));
  words_->setFont(face(12));
  draw();
}

void Stack::display(StackData data) {
  const bool other =
      data.panes.size() != data_.panes.size() || std::abs(data.most - data_.most) > 1e-9 * data.most;
  data_ = std::move(data);
  if (other) zoomHigh_ = -1.0;
  draw();
}

void Stack::zoomOut() {
  zoomHigh_ = -1.0;
  draw();
}

void Stack::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  note_->setGeometry(rect());
  if (!data_.panes.empty()) draw();
}

void Stack::draw() {
  plot_->clearPlottables();
  plot_->clearItems();
  cursor_.clear();
  words_->hide();
  const auto hasPoint = [](const StackCurve& c) {
    return std::any_of(c.y.begin(), c.y.end(), [](double y) { return std::isfinite(y); });
  };
  const bool nothing =
      !data_.note.isEmpty() && std::none_of(data_.panes.begin(), data_.panes.end(), [&](const StackPane& p) {
        return !p.marks.empty() || std::any_of(p.curves.begin(), p.curves.end(), hasPoint);
      });
  plot_->setVisible(!nothing);
  note_->setVisible(nothing);
  note_->setText(data_.note);
  note_->setStyleSheet(QString("color: %1;").arg(look_.ink2.name()));
  plot_->setBackground(data_.small ? look_.paper : look_.sheet);
  if (panes_.size() != data_.panes.size()) {
    plot_->plotLayout()->clear();
    panes_.clear();
    auto* margins = new QCPMarginGroup(plot_);
    for (std::size_t i = 0; i < data_.panes.size(); ++i) {
      auto* rect = new QCPAxisRect(plot_, true);
      rect->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
      rect->setLayer("background");  // under grids, bands and curves
      for (QCPAxis* axis : rect->axes()) axis->setLayer("axes"), axis->grid()->setLayer("grid");
      plot_->plotLayout()->addElement(static_cast<int>(i), 0, rect);
      panes_.push_back(rect);
    }
    plot_->plotLayout()->setRowSpacing(0);
  }
  double shares = 0.0;
  for (const StackPane& pane : data_.panes) shares += pane.share;
  const double low = zoomHigh_ > zoomLow_ ? zoomLow_ : 0.0,
               high = zoomHigh_ > zoomLow_ ? zoomHigh_ : data_.most;
  for (std::size_t i = 0; i < panes_.size(); ++i) {
    QCPAxisRect* rect = panes_[i];
    const StackPane& pane = data_.panes[i];
    const bool last = i + 1 == panes_.size();
    plot_->plotLayout()->setRowStretchFactor(static_cast<int>(i), pane.share);
    rect->setAutoMargins(QCP::msLeft);
    rect->setMinimumMargins(QMargins(data_.small ? 26 : 44, 0, 0, 0));
    rect->setMargins(
        QMargins(0, data_.small ? 8 : 23, data_.small ? 26 : 36, last ? (data_.small ? 16 : 20) : 3));
    rect->setBackground(QBrush(look_.sheet));
    QCPAxis *x = rect->axis(QCPAxis::atBottom), *y = rect->axis(QCPAxis::atLeft);
    for (QCPAxis* axis : {x, y}) {
      axis->setTickLabelFont(face(data_.small ? 10 : 11));
      axis->setTickLabelColor(look_.ink2);
      axis->setBasePen(QPen(look_.hair));
      axis->setTickPen(Qt::NoPen);
      axis->setSubTickPen(Qt::NoPen);
      axis->grid()->setPen(QPen(look_.grid));
      axis->grid()->setZeroLinePen(QPen(look_.grid));
      axis->setNumberFormat("gb");
      axis->setNumberPrecision(5);
      axis->setPadding(0);
      axis->setTickLabelPadding(4);
    }
    x->setTickLabels(last);
    x->setRange(low, high);
    double top = 1e-9, bottom = pane.least;
    for (const StackCurve& c : pane.curves)
      for (std::size_t k = 0; k < c.x.size(); ++k)
        if (std::isfinite(c.y[k]) && c.x[k] >= low && c.x[k] <= high)
          top = std::max(top, c.y[k]), bottom = std::min(bottom, c.y[k]);
    for (const StackMark& m : pane.marks) top = std::max(top, m.y), bottom = std::min(bottom, m.y);
    if (pane.most) top = *pane.most;
    y->setRange(bottom < pane.least ? bottom * 1.08 : bottom, top * (pane.most ? 1.0 : 1.08));
    auto ticker = QSharedPointer<GroupedTicker>::create();
    ticker->setTickCount(
        std::max(2, static_cast<int>(pane.share / shares * height() / (data_.small ? 30 : 40))));
    y->setTicker(ticker);
    const auto background = [&](QCPAbstractItem* item) {
      item->setLayer("grid");
      item->setClipAxisRect(rect);
    };
    for (const StackBand& band : data_.bands) {
      auto* shade = new QCPItemRect(plot_);
      background(shade);
      for (QCPItemPosition* p : {shade->topLeft, shade->bottomRight}) {
        p->setAxes(x, y);
        p->setAxisRect(rect);
        p->setTypeX(QCPItemPosition::ptPlotCoords);
        p->setTypeY(QCPItemPosition::ptAxisRectRatio);
      }
      shade->topLeft->setCoords(band.from, 0);
      shade->bottomRight->setCoords(band.to, 1);
      shade->setPen(Qt::NoPen);
      QColor tone = look_.hair;
      tone.setAlpha(band.strong ? 120 : 50);
      shade->setBrush(tone);
    }
    std::vector<QCPGraph*> graphs(pane.curves.size(), nullptr);
    for (std::size_t k = 0; k < pane.curves.size(); ++k) {
      const StackCurve& c = pane.curves[k];
      const QPen pen(tone(c.tone), c.width, c.dashed ? Qt::DashLine : Qt::SolidLine, Qt::RoundCap,
                     Qt::RoundJoin);
      const QVector<double> xs(c.x.begin(), c.x.end()), ys(c.y.begin(), c.y.end());
      if (c.sorted) {
        auto* graph = new QCPGraph(x, y);
        graph->setPen(pen);
        graph->setData(xs, ys, true);
        graphs[k] = graph;
      } else {
        auto* line = new QCPCurve(x, y);
        line->setPen(pen);
        line->setData(xs, ys);
      }
    }
    for (std::size_t k = 0; k < pane.curves.size(); ++k) {
      const int to = pane.curves[k].shadeTo;
      if (to < 0 || !graphs[k] || !graphs[static_cast<std::size_t>(to)]) continue;
      QColor shade = pane.curves[k].shade.isValid() ? pane.curves[k].shade : look_.water;
      shade.setAlpha(look_.dark ? 46 : 30);
      graphs[k]->setBrush(shade);
      graphs[k]->setChannelFillGraph(graphs[static_cast<std::size_t>(to)]);
    }
    for (const StackLine& line : data_.lines) {
      if (line.pane >= 0 && line.pane != static_cast<int>(i)) continue;
      auto* drawn = new QCPItemStraightLine(plot_);
      drawn->setClipAxisRect(rect);
      for (QCPItemPosition* p : {drawn->point1, drawn->point2}) p->setAxes(x, y), p->setAxisRect(rect);
      drawn->point1->setCoords(line.level ? low : line.at, line.level ? line.at : y->range().lower);
      drawn->point2->setCoords(line.level ? high : line.at, line.level ? line.at : y->range().upper);
      drawn->setPen(QPen(tone(line.tone), line.tone == Tone::warning ? 1.4 : 1,
                         line.tone == Tone::warning && !line.level ? Qt::SolidLine : Qt::DotLine));
    }
    for (const StackMark& m : pane.marks) {
      auto* dot = new QCPGraph(x, y);
      dot->setData(QVector<double>{m.x}, QVector<double>{m.y});
      dot->setLineStyle(QCPGraph::lsNone);
      QCPScatterStyle style(QCPScatterStyle::ssCircle, tone(m.tone), m.ring ? look_.sheet : tone(m.tone),
                            data_.small ? 7 : 11);
      style.setPen(QPen(m.ring ? tone(m.tone) : look_.sheet, 1.5));
      dot->setScatterStyle(style);
      dot->setLayer("overlay");
      dot->setName("mark:" + m.id);
      dot->setAntialiasedScatters(true);
    }
    auto* cursor = new QCPItemStraightLine(plot_);
    cursor->setClipAxisRect(rect);
    for (QCPItemPosition* p : {cursor->point1, cursor->point2}) p->setAxes(x, y), p->setAxisRect(rect);
    cursor->setPen(QPen(look_.ink, 1));
    cursor->setVisible(false);
    cursor_.push_back(cursor);
  }
  // Once laid out, names can be put where there is room.
  plot_->setGeometry(rect());
  plot_->replot(QCustomPlot::rpImmediateRefresh);
  nameCurves();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void Stack::nameCurves() {
  std::vector<QRectF> taken;
  const auto free = [&](const QRectF& r) {
    for (const QRectF& t : taken)
      if (t.intersects(r)) return false;
    return true;
  };
  const auto put = [&](const QString& words, const QRectF& box, const QColor& ink, bool bold, bool ground) {
    auto* label = new QCPItemText(plot_);
    label->setClipToAxisRect(false);
    label->position->setType(QCPItemPosition::ptAbsolute);
    label->setPositionAlignment(Qt::AlignCenter);
    label->position->setCoords(box.center());
    label->setText(words);
    label->setFont(face(data_.small ? 10 : 11.5, bold));
    label->setColor(ink);
    label->setLayer("overlay");
    if (ground) {
      QColor behind = look_.sheet;
      behind.setAlpha(190);
      label->setBrush(behind);
    }
    taken.push_back(box);
  };
  const QFont font = face(data_.small ? 10 : 11.5), strong = face(11.5, true);
  const QFontMetricsF plain(font), bold(strong);
  // What each pane shows stands over its left upper corner, the unit of the axis along after its last number.
  for (std::size_t i = 0; i < panes_.size() && !data_.small; ++i) {
    const QRect r = panes_[i]->rect();
    const StackPane& pane = data_.panes[i];
    const double w = bold.horizontalAdvance(pane.label) + 2;
    put(pane.label, QRectF(r.left() - 30, r.top() - 21, w, 14), look_.ink, true, false);
    put(pane.unit, QRectF(r.left() - 30 + w + 6, r.top() - 21, plain.horizontalAdvance(pane.unit) + 2, 14),
        look_.ink2, false, false);
  }
  // On a card there is no room over a pane: it says what it shows inside, at the lower left.
  for (std::size_t i = 0; i < panes_.size() && data_.small; ++i) {
    const QRect r = panes_[i]->rect();
    const QString words = data_.panes[i].label + "  " + data_.panes[i].unit;
    put(words, QRectF(r.left() + 4, r.bottom() - 15, plain.horizontalAdvance(words) + 2, 13), look_.ink2,
        false, true);
  }
  if (!panes_.empty()) {
    const QRect r = panes_.back()->rect();
    const double w = plain.horizontalAdvance(data_.unit) + 4;
    put(data_.unit, QRectF(r.right() + 5, r.bottom() + 4, w, 14), look_.ink2, false, false);
  }
  for (std::size_t i = 0; i < panes_.size(); ++i) {
    QCPAxisRect* rect = panes_[i];
    QCPAxis *x = rect->axis(QCPAxis::atBottom), *y = rect->axis(QCPAxis::atLeft);
    const QRectF inside = QRectF(rect->rect()).adjusted(2, 1, -2, -1);
    for (const StackMark& m : data_.panes[i].marks)
      taken.push_back(QRectF(x->coordToPixel(m.x) - 8, y->coordToPixel(m.y) - 8, 16, 16));
    if (i == 0)
      for (const StackBand& band : data_.bands) {
        if (band.name.isEmpty() || data_.small) continue;
        const double w = plain.horizontalAdvance(band.name) + 4;
        const double left = std::max(x->coordToPixel(band.from), inside.left()) + 4;
        const QRectF box(left, inside.top() + 2, w, 15);
        if (box.right() < std::min(x->coordToPixel(band.to), inside.right()) + 1 && free(box))
          put(band.name, box, look_.ink2, false, false);
      }
    for (const StackLine& line : data_.lines) {
      if (line.name.isEmpty() || (line.pane >= 0 ? line.pane : 0) != static_cast<int>(i)) continue;
      const double w = plain.horizontalAdvance(line.name) + 6;
      for (const int side : {0, 1, 2, 3}) {
        QRectF box;
        if (line.level)
          box = QRectF(side < 2 ? inside.right() - w : inside.left() + 4,
                       y->coordToPixel(line.at) + (side % 2 == 0 ? -16 : 2), w, 15);
        else
          box = QRectF(x->coordToPixel(line.at) + (side % 2 == 0 ? 4 : -w - 4),
                       side < 2 ? inside.bottom() - 17 : inside.top() + 2, w, 15);
        if (!inside.contains(box) || !free(box)) continue;
        put(line.name, box, tone(line.tone), false, true);
        break;
      }
    }
    for (const StackCurve& c : data_.panes[i].curves) {
      if (c.name.isEmpty() || c.x.size() < 2) continue;
      const QFontMetricsF& metrics = c.width >= 2 ? bold : plain;
      const double w = metrics.horizontalAdvance(c.name) + 6;
      bool done = false;
      // Along the curve, where the name covers nothing else; the thick ones first at the left, the others
      // right.
      for (const double share : !c.sorted      ? std::vector<double>{0.0, 1.0, 0.5}
                                : c.width >= 2 ? std::vector<double>{0.04, 0.15, 0.3, 0.55, 0.8}
                                               : std::vector<double>{0.97, 0.85, 0.7, 0.5, 0.3, 0.12}) {
        const auto k = static_cast<std::size_t>(share * static_cast<double>(c.x.size() - 1));
        if (!std::isfinite(c.y[k])) continue;
        for (const int above : {1, 0}) {
          const double px = x->coordToPixel(c.x[k]), py = y->coordToPixel(c.y[k]);
          QRectF box(px - (share > 0.9 ? w : share < 0.1 ? -4 : w / 2), above ? py - 18 : py + 4, w, 15);
          box.moveLeft(
              std::clamp(box.left(), inside.left() + 2, std::max(inside.left() + 2, inside.right() - w)));
          if (!inside.contains(box) || !free(box)) continue;
          put(c.name, box, c.tone == Tone::other3 ? look_.ink2 : tone(c.tone), c.width >= 2, true);
          done = true;
          break;
        }
        if (done) break;
      }
    }
  }
}

int Stack::paneAt(const QPoint& at) const {
  for (std::size_t i = 0; i < panes_.size(); ++i)
    if (panes_[i]->rect().contains(at)) return static_cast<int>(i);
  return -1;
}

QPoint Stack::at(std::size_t pane, double x, double y) const {
  if (pane >= panes_.size()) return {};
  return plot_->mapTo(this, QPoint(static_cast<int>(panes_[pane]->axis(QCPAxis::atBottom)->coordToPixel(x)),
                                   static_cast<int>(panes_[pane]->axis(QCPAxis::atLeft)->coordToPixel(y))));
}
QPointF Stack::place(std::size_t pane, const QPoint& at) const {
  if (pane >= panes_.size()) return {};
  return {panes_[pane]->axis(QCPAxis::atBottom)->pixelToCoord(at.x()),
          panes_[pane]->axis(QCPAxis::atLeft)->pixelToCoord(at.y())};
}

void Stack::readOff(double x, const QString& html) {
  for (QCPItemStraightLine* c : cursor_) {
    c->setVisible(std::isfinite(x));
    c->point1->setCoords(x, 0);
    c->point2->setCoords(x, 1);
  }
  plot_->replot(QCustomPlot::rpQueuedReplot);
  words_->setVisible(!html.isEmpty() && std::isfinite(x));
  if (!words_->isVisible() || panes_.empty()) return;
  words_->setText(html);
  words_->adjustSize();
  // Beside the cursor, on the side that has room; near the top, where the curves are seldom.
  const QRect r = panes_.front()->rect();
  const int px = at(0, x, 0).x();
  int left = px + 12;
  if (left + words_->width() > r.right()) left = px - 12 - words_->width();
  words_->move(std::max(left, 0), r.top() + 18);
  words_->raise();
}

void Stack::moveMark(const QString& id, double x, double y) {
  for (StackPane& pane : data_.panes)
    for (StackMark& m : pane.marks)
      if (m.id == id) m.x = x, m.y = y;
  for (int i = 0; i < plot_->plottableCount(); ++i)
    if (auto* graph = qobject_cast<QCPGraph*>(plot_->plottable(i)); graph && graph->name() == "mark:" + id)
      graph->setData(QVector<double>{x}, QVector<double>{y});
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void Stack::copy() const { copyPicture(*plot_, *this); }

bool Stack::save(const QString& path) { return savePicture(*plot_, *this, path); }

bool Stack::eventFilter(QObject* watched, QEvent* event) {
  if (watched != plot_ || panes_.empty()) return QWidget::eventFilter(watched, event);
  if (event->type() == QEvent::Leave) emit left();
  if (event->type() == QEvent::Wheel) {
    const auto* wheel = static_cast<QWheelEvent*>(event);
    const int pane = paneAt(wheel->position().toPoint());
    if (pane < 0 || data_.small) return QWidget::eventFilter(watched, event);
    // About the place under the hand; never beyond the whole.
    QCPAxis* axis = panes_[static_cast<std::size_t>(pane)]->axis(QCPAxis::atBottom);
    const double x = axis->pixelToCoord(wheel->position().x()), by = wheel->angleDelta().y() > 0 ? 0.8 : 1.25;
    zoomLow_ = std::max(0.0, x - (x - axis->range().lower) * by);
    zoomHigh_ = std::min(data_.most, x + (axis->range().upper - x) * by);
    if (zoomHigh_ - zoomLow_ >= 0.999 * data_.most) zoomHigh_ = -1.0;
    draw();
    return true;
  }
  if (event->type() != QEvent::MouseMove && event->type() != QEvent::MouseButtonPress &&
      event->type() != QEvent::MouseButtonRelease && event->type() != QEvent::MouseButtonDblClick)
    return QWidget::eventFilter(watched, event);
  const auto* mouse = static_cast<QMouseEvent*>(event);
  const int pane = paneAt(mouse->pos());
  if (event->type() == QEvent::MouseButtonDblClick) {
    zoomOut();
    return true;
  }
  if (!grabbed_.isEmpty()) {
    for (std::size_t i = 0; i < data_.panes.size(); ++i)
      for (const StackMark& m : data_.panes[i].marks)
        if (m.id == grabbed_) {
          const QPointF to = place(i, mouse->pos());
          if (event->type() == QEvent::MouseMove) {
            emit dragged(grabbed_, to.x(), to.y());
          } else if (event->type() == QEvent::MouseButtonRelease) {
            const QString id = grabbed_;
            grabbed_.clear();
            plot_->unsetCursor();
            emit dropped(id, to.x(), to.y());
          }
          return true;
        }
    grabbed_.clear();
  }
  if (pane < 0) {
    if (event->type() == QEvent::MouseMove) emit left();
    return QWidget::eventFilter(watched, event);
  }
  const auto p = static_cast<std::size_t>(pane);
  QString over;
  for (const StackMark& m : data_.panes[p].marks)
    if (m.draggable && (at(p, m.x, m.y) - mouse->pos()).manhattanLength() < 14) over = m.id;
  if (event->type() == QEvent::MouseButtonPress && mouse->button() == Qt::LeftButton) {
    if (!over.isEmpty()) {
      grabbed_ = over;
      plot_->setCursor(Qt::ClosedHandCursor);
      return true;
    }
    const QPointF to = place(p, mouse->pos());
    emit clicked(to.x(), to.y(), p);
  } else if (event->type() == QEvent::MouseMove) {
    if (over.isEmpty()) plot_->unsetCursor();
    else plot_->setCursor(Qt::OpenHandCursor);
    emit pointed(place(p, mouse->pos()).x());
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace conduit::desktop

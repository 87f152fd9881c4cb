// Mouse and keys in Plan: mouse, wheel, keys, typing while drawing.
#include <QGuiApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <set>

#include "fields/keys.h"
#include "look/symbol.h"
#include "network/arrange.h"
#include "network/put.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "plan/segment.h"
#include "quantity/format.h"

namespace conduit::desktop {
Id PlanView::hit(QPointF at) {
  freshen();
  Id best = noId;
  double nearest = 1e9;
  for (const Symbol& s : symbols_) {
    const QPointF there = toScreen(s.at) + s.aside;
    const double reach = doc_.network().at(s.id).part->ends == Ends::many
                             ? 24
                             : std::clamp(12.5 * s.size, 6.0, 14.0),
                 d = std::hypot(there.x() - at.x(), there.y() - at.y());
    if (d < reach && d < nearest) nearest = d, best = s.id;
  }
  if (best != noId) return best;
  for (const auto& [id, spot] : points_) {
    const double d = std::hypot(toScreen(spot).x() - at.x(), toScreen(spot).y() - at.y());
    if (d < 8 && d < nearest) nearest = d, best = id;
  }
  if (best != noId) return best;
  for (const Band& b : bands_) {
    const QLineF line = bandLine(b);
    double d = segmentDistance(at, line.p1(), line.p2());
    if (b.riser && line.length() < 14) d = std::min(d, std::max(0.0, QLineF(riserSpot(b), at).length() - 6));
    if (d < b.width / 2 + 5 && d < nearest) nearest = d, best = b.id;
  }
  if (best != noId) return best;
  return hitPaper(at, true);
}

// Remarks and dimensions, and unlocked pictures under everything else.
Id PlanView::hitPaper(QPointF at, bool pictures) {
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->paper == Paper::remark && remarkBox(e).contains(at)) return id;
    if (e.part->paper == Paper::dimension) {
      const QLineF line = dimensionLine(e);
      if (segmentDistance(at, line.p1(), line.p2()) < 7) return id;
    }
  }
  if (pictures)
    for (const Id id : onPaper_) {
      const Element& e = doc_.network().at(id);
      if (e.part->paper == Paper::picture && !flagOf(e.values, *findField(*e.part, "locked")) &&
          pictureFrame(e).containsPoint(at, Qt::OddEvenFill))
        return id;
    }
  return noId;
}

double PlanView::snapStep() const {
  const double power = std::pow(10.0, std::floor(std::log10(12 / scale_)));
  for (const double f : {1.0, 2.0, 5.0})
    if (f * power * scale_ >= 8) return f * power;
  return 10 * power;
}

Snap PlanView::snapped(QPointF screen, Qt::KeyboardModifiers modifiers) {
  // On a picture a place is where it is, not at the next corner of the grid.
  const bool free = modifiers & Qt::ControlModifier || mode_ == Mode::scale;
  Id under = free ? noId : hit(screen);
  // The symbol of a nozzle or a fixed pressure stands for the point it is at.
  if (mode_ != Mode::look && under != noId && doc_.network().at(under).part->ends == Ends::one)
    under = doc_.network().at(under).ends[0];
  if (under != noId && !(onLine() && typed_.direction_deg())) {
    const Element& e = doc_.network().at(under);
    const QString name = QString::fromStdString(e.name);
    if (e.part->ends == Ends::self || e.part->ends == Ends::many) return {e.at, under, tr("on %1").arg(name)};
    if (e.part->geometry) {
      double share = 0.5;
      for (const Band& b : bands_)
        if (b.id == under) segmentDistance(screen, bandLine(b).p1(), bandLine(b).p2(), &share);
      const Element &a = doc_.network().at(e.ends[0]), &b = doc_.network().at(e.ends[1]);
      const Spot at{a.at.x + (b.at.x - a.at.x) * share, a.at.y + (b.at.y - a.at.y) * share};
      return {at, under,
              tr("on %1, %2 along")
                  .arg(name, QString::fromStdString(withUnit(std::hypot(at.x - a.at.x, at.y - a.at.y),
                                                             Measure::length, doc_.units(), 3)))};
    }
  }
  SnapField field;
  static const std::vector<std::pair<Id, Spot>> none;
  field.points = points_.size() <= 3000 ? &points_ : &none;
  if (onLine()) {
    field.from = spotOf(doc_.network(), lineFrom_);
    field.length_m = toScale(doc_.network()) ? typed_.length_m(doc_.units()) : std::nullopt;
    field.direction = typed_.direction_deg();
  }
  field.grid_m = snapStep();
  field.reach_m = 9 / scale_;
  field.free = free;
  return snapTo(
      toPlan(screen), field, doc_.network(),
      tr("grid %1").arg(QString::fromStdString(withUnit(field.grid_m, Measure::length, doc_.units(), 2))));
}

void PlanView::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (key == Qt::Key_Escape) {
    if (entering_) {
      entering_ = false;
      entry_.clear();
      update();
    } else if (mode_ != Mode::look) {
      endMode();
    } else {
      doc_.select({});
    }
    return;
  }
  const QString typed = event->text();
  if (onLine() && (key == Qt::Key_PageUp || key == Qt::Key_PageDown)) {
    const double step = (event->modifiers() & Qt::ShiftModifier     ? 10.0
                         : event->modifiers() & Qt::ControlModifier ? 0.1
                                                                    : 1.0) *
                        (key == Qt::Key_PageUp ? 1 : -1);
    typed_.stepRise(step * doc_.units().unitFor(Measure::headDrop).factor, doc_.units());
    return update();
  }
  if (entering_) {
    if (key == Qt::Key_Return || key == Qt::Key_Enter) return finishEntry();
    if (key == Qt::Key_Tab || key == Qt::Key_Backtab) {
      if (!onLine()) return finishEntry();
      if (const QString fault = typed_.take(entry_, entryPart_, doc_.units()); !fault.isEmpty()) {
        emit modeChanged(fault);
        return update();
      }
      const int step = key == Qt::Key_Tab ? 1 : 2;
      entryPart_ = static_cast<LinePart>((static_cast<int>(entryPart_) + step) % 3);
      entry_.clear();
      hint();
      return update();
    }
    if (key == Qt::Key_Backspace) {
      entry_.chop(1);
      if (entry_.isEmpty()) entering_ = false;
      return update();
    }
    if (!typed.isEmpty() && typed[0].isPrint() &&
        !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
      entry_ += typed;
      return update();
    }
    return QWidget::keyPressEvent(event);
  }
  if (!typed.isEmpty() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    const QChar c = typed[0];
    if (c == '?') return emit wantsKeys();
    const bool entryPossible = onLine() || (mode_ == Mode::look && doc_.selected() != noId);
    if ((c.isDigit() || c == '-' || c == '.') && entryPossible) {
      entering_ = true;
      entryPart_ = LinePart::length;
      entry_ = typed;
      return update();
    }
    if (c.isLetter()) {
      if (c.toUpper() == 'X') return splitSelected();
      if (const Part* part = partByLetter(static_cast<char>(c.toUpper().toLatin1())))
        return startKind(*part, event->modifiers() & Qt::ShiftModifier);
    }
  }
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    if (!doc_.selection().empty()) doc_.take(removeAll(doc_.network(), doc_.selection()));
    return;
  }
  if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Space) {
    if (!handHere_) hand_ = QPointF(width() / 2.0, height() / 2.0), handHere_ = true;
    if (onLine() && !typed_.empty()) return finishLinePiece();
    if (mode_ == Mode::place && placeOnSelected()) return endMode();
    const Snap s = snapped(hand_);
    clickAt(s.at, mode_ == Mode::look ? hit(hand_) : s.on, event->modifiers());
    return;
  }
  const QPointF step = key == Qt::Key_Left    ? QPointF(-1, 0)
                       : key == Qt::Key_Right ? QPointF(1, 0)
                       : key == Qt::Key_Up    ? QPointF(0, -1)
                       : key == Qt::Key_Down  ? QPointF(0, 1)
                                              : QPointF();
  if (!step.isNull()) {
    if (event->modifiers() & Qt::ControlModifier) {
      origin_ -= step * 60;
      fitted_ = false;
    } else {
      if (!handHere_) hand_ = QPointF(width() / 2.0, height() / 2.0), handHere_ = true;
      const double by = std::max(6.0, snapStep() * scale_) * (event->modifiers() & Qt::ShiftModifier ? 5 : 1);
      hand_ += step * by;
      hand_.setX(std::clamp(hand_.x(), 0.0, static_cast<double>(width())));
      hand_.setY(std::clamp(hand_.y(), 0.0, static_cast<double>(height())));
    }
    return update();
  }
  QWidget::keyPressEvent(event);
}

bool PlanView::event(QEvent* event) {
  // Tab belongs to an entry that has begun; else it moves the focus as everywhere.
  if (event->type() == QEvent::KeyPress && entering_ &&
      (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Tab ||
       static_cast<QKeyEvent*>(event)->key() == Qt::Key_Backtab)) {
    keyPressEvent(static_cast<QKeyEvent*>(event));
    return true;
  }
  return QWidget::event(event);
}

void PlanView::wheelEvent(QWheelEvent* event) {
  const double factor = std::pow(1.0015, event->angleDelta().y());
  const QPointF at = event->position();
  const double scale = std::clamp(scale_ * factor, 1e-5, 400.0);
  origin_ = at + (origin_ - at) * (scale / scale_);
  scale_ = scale;
  fitted_ = false;
  if (bands_.size() > 3000) rest_.start();
  update();
}

void PlanView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  hand_ = event->position();
  handHere_ = true;
  dragFrom_ = dragLast_ = event->position();
  if (event->button() == Qt::MiddleButton || event->button() == Qt::RightButton) {
    drag_ = Drag::pan;
    fitted_ = false;
    return;
  }
  if (entering_ && onLine()) {  // a click while typing says where; what was typed says how long
    if (const QString fault = typed_.take(entry_, entryPart_, doc_.units()); !fault.isEmpty()) {
      emit modeChanged(fault);
      return;
    }
    entering_ = false;
    entry_.clear();
  } else if (entering_ && mode_ != Mode::scale) {
    finishEntry();
  }
  if (mode_ != Mode::look) {
    const Snap s = snapped(event->position(), event->modifiers());
    clickAt(s.at, s.on, event->modifiers());
    return;
  }
  const Id under = hit(event->position());
  if (under == noId || event->modifiers() & Qt::AltModifier) {
    drag_ = event->modifiers() & Qt::AltModifier ? Drag::lasso : Drag::band;
    lasso_ = QPolygonF({event->position()});
    return;
  }
  if (!doc_.isSelected(under) || event->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier))
    clickAt({}, under, event->modifiers());
  drag_ = Drag::move;
  dragBase_ = doc_.network();
  ++dragRun_;
}

void PlanView::mouseMoveEvent(QMouseEvent* event) {
  hand_ = event->position();
  handHere_ = true;
  const QPointF by = event->position() - dragLast_;
  switch (drag_) {
    case Drag::pan: origin_ += by; break;
    case Drag::move: {
      const QPointF whole = event->position() - dragFrom_;
      if (std::hypot(whole.x(), whole.y()) < 5) break;
      const double step = snapStep();
      const double dx = std::round(whole.x() / scale_ / step) * step,
                   dy = std::round(-whole.y() / scale_ / step) * step;
      const std::vector<Id> ids = doc_.selection();
      if (dx != 0 || dy != 0) doc_.take(moveAll(dragBase_, ids, dx, dy), "move" + std::to_string(dragRun_));
      break;
    }
    case Drag::lasso: lasso_ << event->position(); break;
    case Drag::band:
    case Drag::none: break;
  }
  dragLast_ = event->position();
  update();
}

void PlanView::mouseReleaseEvent(QMouseEvent* event) {
  freshen();
  if (drag_ == Drag::band) {
    const QRectF box = QRectF(dragFrom_, event->position()).normalized();
    if (box.width() > 4 || box.height() > 4)
      selectInside([&](QPointF q) { return box.contains(q); }, event->modifiers());
    else if (!(event->modifiers() & Qt::ShiftModifier)) doc_.select({});
  }
  if (drag_ == Drag::lasso)
    selectInside([&](QPointF q) { return lasso_.containsPoint(q, Qt::OddEvenFill); }, event->modifiers());
  if (drag_ == Drag::move) doc_.endRun();
  drag_ = Drag::none;
  update();
}

// What lies wholly inside; lines by both their ends.
void PlanView::selectInside(const std::function<bool(QPointF)>& inside, Qt::KeyboardModifiers modifiers) {
  std::vector<Id> ids = modifiers & Qt::ShiftModifier ? doc_.selection() : std::vector<Id>{};
  std::set<Id> in(ids.begin(), ids.end());
  auto add = [&](Id id) {
    if (in.insert(id).second) ids.push_back(id);
  };
  for (const Symbol& s : symbols_)
    if (inside(toScreen(s.at))) add(s.id);
  for (const auto& [id, at] : points_)
    if (inside(toScreen(at))) add(id);
  for (const Band& b : bands_)
    if (inside(toScreen(b.a)) && inside(toScreen(b.b))) add(b.id);
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->paper == Paper::remark && inside(remarkBox(e).center())) add(id);
    if (e.part->paper == Paper::dimension && inside(dimensionLine(e).center())) add(id);
  }
  doc_.select(std::move(ids));
}

void PlanView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (mode_ == Mode::line) return endMode();
  if (hit(event->position()) == noId) fit();
}

void PlanView::leaveEvent(QEvent*) {
  if (mode_ == Mode::look) handHere_ = false;
  update();
}

// Beside the pointer: how long, how high, and what the click would hold on to.
QString PlanView::handWords(const Snap& s) const {
  QStringList words;
  if (onLine()) {
    const Spot from = spotOf(doc_.network(), lineFrom_);
    words << (typed_.length().isEmpty()
                  ? QString::fromStdString(withUnit(std::hypot(s.at.x - from.x, s.at.y - from.y),
                                                    Measure::length, doc_.units(), 3))
                  : typed_.length());
    const auto height = givenSi(doc_.network().at(lineFrom_).values, key::height);
    const double rise = typed_.rise_m(doc_.units());
    const bool ownHeight = s.on != noId && givenSi(doc_.network().at(s.on).values, key::height);
    if (height && !ownHeight) {
      QString level =
          tr("height %1")
              .arg(QString::fromStdString(withUnit(*height + rise, Measure::height, doc_.units(), 4)));
      if (rise != 0.0)
        level +=
            QString(" (%1 %2)")
                .arg(rise > 0 ? "↑" : "↓",
                     QString::fromStdString(withUnit(std::abs(rise), Measure::headDrop, doc_.units(), 3)));
      words << level;
    } else if (rise != 0.0) {
      words << tr("rise ") + typed_.rise();
    }
  }
  if (!s.words.isEmpty()) words << s.words;
  return words.join(", ");
}

void PlanView::drawHand(QPainter& p) {
  if (drag_ == Drag::band || drag_ == Drag::lasso) {
    p.setPen(QPen(look_.ink, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    if (drag_ == Drag::band) p.drawRect(QRectF(dragFrom_, dragLast_).normalized());
    else p.drawPolygon(lasso_);
  }
  QString words;
  if (mode_ == Mode::scale) {
    p.setPen(QPen(look_.water, 1.6));
    for (const Spot& s : measured_) p.drawEllipse(toScreen(s), 5, 5);
    if (measured_.size() == 2) p.drawLine(toScreen(measured_[0]), toScreen(measured_[1]));
  }
  if (mode_ != Mode::look && handHere_) {
    const Snap s = snapped(hand_, QGuiApplication::keyboardModifiers());
    const QPointF at = s.on != noId && doc_.network().at(s.on).part->geometry ? hand_ : toScreen(s.at);
    p.setPen(QPen(look_.water, 1.4));
    p.setBrush(Qt::NoBrush);
    if (mode_ == Mode::place && !placing_->symbol.empty()) {
      p.save();
      p.translate(at);
      paintSymbol(p, placing_->symbol, look_, 1.0, look_.water);
      p.restore();
    } else {
      p.drawEllipse(at, 6, 6);
    }
    if (lineFrom_ != noId) {
      const Spot from = spotOf(doc_.network(), lineFrom_);
      p.setPen(QPen(look_.water, 2, Qt::DashLine));
      p.drawLine(toScreen(from), at);
    }
    words = handWords(s);
  } else if (mode_ == Mode::look && handHere_ && hasFocus() && drag_ == Drag::none && !underMouse()) {
    p.setPen(QPen(look_.water, 1));
    p.drawLine(hand_ - QPointF(9, 0), hand_ + QPointF(9, 0));
    p.drawLine(hand_ - QPointF(0, 9), hand_ + QPointF(0, 9));
  }
  if (entering_) {
    words = entry_ + "│";
    if (mode_ == Mode::scale) words = tr("distance ") + words;
    else if (onLine())
      words = (entryPart_ == LinePart::rise        ? tr("rise ")
               : entryPart_ == LinePart::direction ? tr("direction ")
                                                   : tr("length ")) +
              words;
    else if (const Id id = doc_.selected(); id != noId) {
      const std::string_view key = doc_.network().at(id).part->fields[0].key;
      words = QString::fromStdString(doc_.network().at(id).name) + " " +
              QString::fromUtf8(key.data(), static_cast<int>(key.size())) + " " + words;
    }
    if (onLine() && !typed_.empty()) {
      QStringList before;
      if (!typed_.length().isEmpty() && entryPart_ != LinePart::length)
        before << tr("length ") + typed_.length();
      if (!typed_.rise().isEmpty() && entryPart_ != LinePart::rise) before << tr("rise ") + typed_.rise();
      if (typed_.direction_deg() && entryPart_ != LinePart::direction)
        before << QString("%1°").arg(*typed_.direction_deg());
      if (!before.isEmpty()) words = before.join(", ") + ", " + words;
    }
  }
  if (!words.isEmpty()) {
    p.setFont(face(12, entering_));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 14;
    QPointF at = handHere_ ? hand_ : QPointF(width() / 2.0, height() / 2.0);
    at.setX(std::min(at.x(), width() - w - 22));
    const QRectF box(at + QPointF(16, 14), QSizeF(w, 22));
    p.setPen(QPen(look_.hair, 1));
    p.setBrush(look_.field);
    p.drawRoundedRect(box, 3, 3);
    p.setPen(look_.ink);
    p.drawText(box, Qt::AlignCenter, words);
  }
}

}  // namespace conduit::desktop

// What the hand does in Plan: mouse, wheel, keys, typing while drawing.
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "parts/registry.h"
#include "plan/plan_view.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {
namespace {

double segmentDistance(QPointF p, QPointF a, QPointF b, double* share = nullptr) {
  const QPointF d = b - a;
  const double l2 = d.x() * d.x() + d.y() * d.y();
  const double t = l2 > 0 ? std::clamp(((p.x() - a.x()) * d.x() + (p.y() - a.y()) * d.y()) / l2, 0.0, 1.0) : 0.0;
  if (share) *share = t;
  const QPointF q = a + d * t;
  return std::hypot(p.x() - q.x(), p.y() - q.y());
}

}  // namespace

Id PlanView::hit(QPointF at) {
  freshen();
  Id best = noId;
  double nearest = 1e9;
  for (const Symbol& s : symbols_) {
    const double reach = doc_.network().at(s.id).part->ends == Ends::many ? 24 : 14, d = std::hypot(toScreen(s.at).x() - at.x(), toScreen(s.at).y() - at.y());
    if (d < reach && d < nearest) nearest = d, best = s.id;
  }
  if (best != noId) return best;
  for (const auto& [id, spot] : points_) {
    const double d = std::hypot(toScreen(spot).x() - at.x(), toScreen(spot).y() - at.y());
    if (d < 8 && d < nearest) nearest = d, best = id;
  }
  if (best != noId) return best;
  for (const Band& b : bands_) {
    const double d = segmentDistance(at, toScreen(b.a), toScreen(b.b));
    if (d < b.width / 2 + 5 && d < nearest) nearest = d, best = b.id;
  }
  return best;
}

double PlanView::snapStep() const {
  const double power = std::pow(10.0, std::floor(std::log10(12 / scale_)));
  for (const double f : {1.0, 2.0, 5.0})
    if (f * power * scale_ >= 8) return f * power;
  return 10 * power;
}

Spot PlanView::snapped(QPointF screen, Id* on) {
  const Id under = hit(screen);
  if (on) *on = noId;
  if (under != noId) {
    const Element& e = doc_.network().at(under);
    if (e.part->ends == Ends::self || e.part->ends == Ends::many) {
      if (on) *on = under;
      return e.at;
    }
    if (on && e.part->geometry) *on = under;
  }
  Spot s = toPlan(screen);
  const double step = snapStep();
  // In line with where the line comes from, then the grid.
  if (lineFrom_ != noId) {
    const Spot from = doc_.network().at(lineFrom_).at;
    if (std::abs(s.x - from.x) * scale_ < 9) s.x = from.x;
    else s.x = std::round(s.x / step) * step;
    if (std::abs(s.y - from.y) * scale_ < 9) s.y = from.y;
    else s.y = std::round(s.y / step) * step;
    return s;
  }
  return {std::round(s.x / step) * step, std::round(s.y / step) * step};
}

void PlanView::startKind(const Part& part) {
  setFocus();
  fitted_ = false;
  if (part.geometry) {  // a line
    mode_ = Mode::line;
    placing_ = nullptr;
    lineFrom_ = noId;
    const Id selected = doc_.selected();
    if (selected != noId && doc_.network().find(selected)) {
      const Element& e = doc_.network().at(selected);
      if (e.part->ends == Ends::self || e.part->ends == Ends::many) lineFrom_ = selected;
    }
  } else if (mode_ == Mode::line && lineFrom_ != noId && part.ends != Ends::self) {
    // Set into the line being drawn: it goes on from the other side.
    const Spot from = spotOf(doc_.network(), lineFrom_);
    const Spot to = toPlan(hand_);
    const double d = std::max(std::hypot(to.x - from.x, to.y - from.y), 1e-9), reach = 46 / scale_;
    const Spot after{from.x + (to.x - from.x) / d * reach, from.y + (to.y - from.y) / d * reach};
    if (doc_.take(setAfter(doc_.network(), lineFrom_, after, part)) && doc_.selected() != noId) {
      const Element& made = doc_.network().at(doc_.selected());
      if (made.part->ends == Ends::two) lineFrom_ = made.ends[1];
      else endMode();
    }
  } else {
    const Id selected = doc_.selected();
    if (mode_ == Mode::look && selected != noId && doc_.network().at(selected).part->geometry && part.ends != Ends::many && part.ends != Ends::self) {
      doc_.take(setInto(doc_.network(), selected, 0.5, part, doc_.stock()));  // into the selected pipe
      return;
    }
    mode_ = Mode::place;
    placing_ = &part;
  }
  hint();
  update();
}

void PlanView::splitSelected() {
  const Id id = doc_.selected();
  if (id == noId) return;
  freshen();
  double share = 0.5;
  for (const Band& b : bands_)
    if (b.id == id && handHere_) segmentDistance(hand_, toScreen(b.a), toScreen(b.b), &share);
  doc_.take(splitPipe(doc_.network(), id, share, doc_.stock()));
}

void PlanView::endMode() {
  mode_ = Mode::look;
  placing_ = nullptr;
  lineFrom_ = noId;
  entering_ = false;
  entry_.clear();
  typedLength_.clear();
  typedRise_.clear();
  hint();
  update();
}

void PlanView::hint() {
  QString text;
  if (mode_ == Mode::line)
    text = lineFrom_ == noId ? tr("Line: click where it begins. Esc ends.")
                             : tr("Line: click where it goes, or type 12.4 (length), 3 up (rise), Tab between. Letters set equipment. Esc ends.");
  if (mode_ == Mode::place)
    text = tr("%1: click where it stands%2. Esc ends.")
               .arg(QString::fromUtf8(placing_->key.data(), static_cast<int>(placing_->key.size())),
                    placing_->ends == Ends::two || placing_->ends == Ends::one ? tr(", on a pipe or a point") : QString());
  emit modeChanged(text);
}

void PlanView::clickAt(Spot spot, Id on, Qt::KeyboardModifiers modifiers) {
  freshen();
  if (mode_ == Mode::place) {
    const Part& part = *placing_;
    const Element* under = on == noId ? nullptr : doc_.network().find(on);
    bool done = false;
    if (under && under->part->geometry) {
      double share = 0.5;
      for (const Band& b : bands_)
        if (b.id == on) segmentDistance(toScreen(spot), toScreen(b.a), toScreen(b.b), &share);
      if (part.ends == Ends::two || part.ends == Ends::one) done = doc_.take(setInto(doc_.network(), on, share, part, doc_.stock()));
      else if (part.ends == Ends::self) done = doc_.take(splitPipe(doc_.network(), on, share, doc_.stock()));
    } else if (under && under->part->ends == Ends::self && part.ends != Ends::self) {
      done = doc_.take(setAfter(doc_.network(), on, {under->at.x + 46 / scale_, under->at.y}, part));
    } else {
      done = doc_.take(place(doc_.network(), part, spot, "", doc_.stock(), &doc_.units()));
    }
    if (done) endMode();
    return;
  }
  if (mode_ == Mode::line) {
    Id target = on;
    if (target != noId && doc_.network().at(target).part->geometry) {
      double share = 0.5;
      for (const Band& b : bands_)
        if (b.id == target) segmentDistance(toScreen(spot), toScreen(b.a), toScreen(b.b), &share);
      if (!doc_.take(splitPipe(doc_.network(), target, share, doc_.stock()))) return;
      target = doc_.selected();
    }
    if (target != noId && doc_.network().at(target).part->ends != Ends::self && doc_.network().at(target).part->ends != Ends::many) target = noId;
    if (lineFrom_ == noId) {
      if (target == noId) {
        if (!doc_.take(place(doc_.network(), *findPart("point"), spot, "", doc_.stock(), &doc_.units()))) return;
        target = doc_.selected();
      }
      lineFrom_ = target;
    } else {
      LineEntry entry{typedLength_.toStdString(), typedRise_.toStdString(), lineLike_};
      if (lineLike_ == noId || !doc_.network().find(lineLike_)) {
        // Like the pipe it goes on from, if there is one.
        for (const Id id : doc_.network().elementsAt(lineFrom_))
          if (doc_.network().at(id).part->geometry) entry.like = id;
      }
      if (!doc_.take(drawPipe(doc_.network(), lineFrom_, target, spot, entry, doc_.stock(), &doc_.units()))) return;
      lineLike_ = doc_.selected();
      lineFrom_ = doc_.network().at(lineLike_).ends[1];
      typedLength_.clear();
      typedRise_.clear();
      if (target != noId && doc_.network().at(target).part->ends == Ends::many) {
        endMode();
        return;
      }
    }
    hint();
    update();
    return;
  }
  std::vector<Id> ids = modifiers & (Qt::ShiftModifier | Qt::ControlModifier) ? doc_.selection() : std::vector<Id>{};
  if (on != noId) {
    if (const auto it = std::find(ids.begin(), ids.end(), on); it != ids.end()) ids.erase(it);
    else ids.push_back(on);
  }
  doc_.select(std::move(ids));
}

void PlanView::finishEntry() {
  const QString text = entry_.trimmed();
  entering_ = false;
  entry_.clear();
  if (text.isEmpty()) return update();
  const bool up = text.endsWith("up"), down = text.endsWith("down");
  if (mode_ == Mode::line && lineFrom_ != noId) {
    if (up || down || entryIsRise_) {
      QString bare = text;
      bare.remove("up").remove("down");
      typedRise_ = (down ? "-" : "") + bare.trimmed();
    } else {
      typedLength_ = text;
    }
    if (!entryIsRise_ || !typedLength_.isEmpty()) {
      // The typed length goes in the hand's direction; the drawing is to scale.
      Id on = noId;
      Spot target = snapped(hand_, &on);
      const Spot from = spotOf(doc_.network(), lineFrom_);
      if (on == noId || !doc_.network().at(on).part || doc_.network().at(on).part->ends == Ends::two) {
        const auto length = parse(typedLength_.toStdString(), Measure::length, &doc_.units().unitFor(Measure::length));
        const double d = std::hypot(target.x - from.x, target.y - from.y);
        const double drawn = length ? length->value : std::max(d, 10 / scale_);
        const double ux = d > 0 ? (target.x - from.x) / d : 1, uy = d > 0 ? (target.y - from.y) / d : 0;
        target = {from.x + ux * drawn, from.y + uy * drawn};
        on = noId;
      }
      if (up || down || entryIsRise_) {
        if (typedLength_.isEmpty()) typedLength_ = typedRise_.startsWith('-') ? typedRise_.mid(1) : typedRise_;  // straight up: as long as it rises
      }
      clickAt(target, on, {});
      entryIsRise_ = false;
    }
    return update();
  }
  if (const Id id = doc_.selected(); id != noId && !doc_.network().at(id).part->fields.empty()) {
    const Field& first = doc_.network().at(id).part->fields[0];
    const Id ids[] = {id};
    doc_.setField(ids, first.key, text);
  }
  update();
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
  if (entering_) {
    if (key == Qt::Key_Return || key == Qt::Key_Enter) return finishEntry();
    if (key == Qt::Key_Tab) {
      if (mode_ == Mode::line && lineFrom_ != noId && !entryIsRise_) {
        typedLength_ = entry_.trimmed();
        entry_.clear();
        entryIsRise_ = true;
        return update();
      }
      return finishEntry();
    }
    if (key == Qt::Key_Backspace) {
      entry_.chop(1);
      if (entry_.isEmpty()) entering_ = false;
      return update();
    }
    if (!typed.isEmpty() && typed[0].isPrint() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
      entry_ += typed;
      return update();
    }
    return QWidget::keyPressEvent(event);
  }
  if (!typed.isEmpty() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    const QChar c = typed[0];
    const bool entryPossible = (mode_ == Mode::line && lineFrom_ != noId) || (mode_ == Mode::look && doc_.selected() != noId);
    if ((c.isDigit() || c == '-' || c == '.') && entryPossible) {
      entering_ = true;
      entryIsRise_ = false;
      entry_ = typed;
      return update();
    }
    if (c.isLetter()) {
      if (c.toUpper() == 'X') return splitSelected();
      if (const Part* part = partByLetter(static_cast<char>(c.toUpper().toLatin1()))) return startKind(*part);
    }
  }
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    if (!doc_.selection().empty()) doc_.take(removeAll(doc_.network(), doc_.selection()));
    return;
  }
  if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Space) {
    Id on = noId;
    if (!handHere_) hand_ = QPointF(width() / 2.0, height() / 2.0), handHere_ = true;
    const Spot s = snapped(hand_, &on);
    clickAt(s, mode_ == Mode::look ? hit(hand_) : on, event->modifiers());
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
  if (event->type() == QEvent::KeyPress && entering_ && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Tab) {
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
  if (entering_) finishEntry();
  if (mode_ != Mode::look) {
    Id on = noId;
    const Spot s = snapped(event->position(), &on);
    clickAt(s, on, event->modifiers());
    return;
  }
  const Id under = hit(event->position());
  if (under == noId) {
    drag_ = Drag::band;
    return;
  }
  if (!doc_.isSelected(under) || event->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier)) clickAt({}, under, event->modifiers());
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
      const double dx = std::round(whole.x() / scale_ / step) * step, dy = std::round(-whole.y() / scale_ / step) * step;
      const std::vector<Id> ids = doc_.selection();
      if (dx != 0 || dy != 0) doc_.take(moveAll(dragBase_, ids, dx, dy), "move" + std::to_string(dragRun_));
      break;
    }
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
    std::vector<Id> ids = event->modifiers() & Qt::ShiftModifier ? doc_.selection() : std::vector<Id>{};
    if (box.width() > 4 || box.height() > 4) {
      auto add = [&](Id id) {
        if (std::find(ids.begin(), ids.end(), id) == ids.end()) ids.push_back(id);
      };
      for (const Symbol& s : symbols_)
        if (box.contains(toScreen(s.at))) add(s.id);
      for (const auto& [id, at] : points_)
        if (box.contains(toScreen(at))) add(id);
      for (const Band& b : bands_)
        if (box.contains(toScreen(b.a)) && box.contains(toScreen(b.b))) add(b.id);
    }
    doc_.select(std::move(ids));
  }
  if (drag_ == Drag::move) doc_.endRun();
  drag_ = Drag::none;
  update();
}

void PlanView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (mode_ == Mode::line) return endMode();
  if (hit(event->position()) == noId) fit();
}

void PlanView::leaveEvent(QEvent*) {
  if (mode_ == Mode::look) handHere_ = false;
  update();
}

void PlanView::drawHand(QPainter& p) {
  if (drag_ == Drag::band) {
    p.setPen(QPen(look_.ink, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(dragFrom_, dragLast_).normalized());
  }
  Id on = noId;
  QString words;
  if (mode_ != Mode::look && handHere_) {
    const Spot s = snapped(hand_, &on);
    const QPointF at = on != noId && doc_.network().at(on).part->geometry ? hand_ : toScreen(s);
    p.setPen(QPen(look_.water, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 6, 6);
    if (mode_ == Mode::line && lineFrom_ != noId) {
      const Spot from = spotOf(doc_.network(), lineFrom_);
      p.setPen(QPen(look_.water, 2, Qt::DashLine));
      p.drawLine(toScreen(from), at);
      words = typedLength_.isEmpty() ? QString::fromStdString(withUnit(std::hypot(s.x - from.x, s.y - from.y), Measure::length, doc_.units(), 3)) : typedLength_;
      if (!typedRise_.isEmpty()) words += tr(", rise ") + typedRise_;
    }
    if (on != noId) words += (words.isEmpty() ? "" : ", ") + tr("on ") + QString::fromStdString(doc_.network().at(on).name);
  } else if (mode_ == Mode::look && handHere_ && hasFocus() && drag_ == Drag::none && !underMouse()) {
    p.setPen(QPen(look_.water, 1));
    p.drawLine(hand_ - QPointF(9, 0), hand_ + QPointF(9, 0));
    p.drawLine(hand_ - QPointF(0, 9), hand_ + QPointF(0, 9));
  }
  if (entering_) {
    words = entry_ + "│";
    if (mode_ == Mode::line) words = (entryIsRise_ ? tr("rise ") : tr("length ")) + words;
    else if (const Id id = doc_.selected(); id != noId) {
      const std::string_view key = doc_.network().at(id).part->fields[0].key;
      words = QString::fromStdString(doc_.network().at(id).name) + " " + QString::fromUtf8(key.data(), static_cast<int>(key.size())) + " " + words;
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

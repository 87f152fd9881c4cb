// Mouse and keys in Levels: handles dragged and moved by keys.
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "levels/levels_view.h"
#include "look/round_numbers.h"
#include "quantity/format.h"

namespace conduit::desktop {

const LevelsView::Handle* LevelsView::handleAt(QPointF at) const {
  const Handle* best = nullptr;
  double nearest = 10;
  for (const Handle& h : handles_) {
    if (!doc_.network().find(h.id)) continue;
    QPointF s = toScreen(h.along_m, h.level_m);
    if (h.key == key::level) s.ry() -= 4;
    if (const double d = std::hypot(s.x() - at.x(), s.y() - at.y());
        d < nearest || (d < 10 && h.key == key::level))
      nearest = d, best = &h;
  }
  return best;
}

// A device is one thing: both its ends go with the one that is moved.
Result<Edited> LevelsView::setTo(Id id, std::string_view key, const std::string& text) const {
  if (key == key::height) return setHeight(doc_.network(), id, text, doc_.stock(), &doc_.units());
  return setField(doc_.network(), id, key, text, doc_.stock(), &doc_.units());
}

void LevelsView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  if (const Handle* h = handleAt(event->position())) {
    const Element& e = doc_.network().at(h->id);
    const Handle taken = *h;
    if (e.values.released(taken.key)) {
      doc_.select({taken.id});
      return;
    }
    dragged_ = taken;  // before selecting: the route stays pinned while something is dragged
    dragOffset_ = event->position().y() - toScreen(taken.along_m, taken.level_m).y();
    ++dragRun_;
    doc_.select({taken.id});
    return;
  }
  // A click on a stretch selects its element.
  const double along =
      (event->position().x() - left_) / std::max(1.0, width() - left_ - right_) * profile_.length_m;
  const auto& st = profile_.stations;
  const double slack = 4.0 / std::max(1.0, width() - left_ - right_) * profile_.length_m;
  Id pick = noId;
  for (std::size_t i = 0; i + 1 < st.size(); ++i) {
    if (st[i].step != st[i + 1].step) continue;
    const bool jump = st[i].along_m == st[i + 1].along_m;
    if (jump ? std::abs(along - st[i].along_m) < slack
             : along >= st[i].along_m && along <= st[i + 1].along_m) {
      pick = route_[st[i].step].element;
      if (jump) break;
    }
  }
  if (pick != noId) doc_.select({pick});
}

void LevelsView::mouseMoveEvent(QMouseEvent* event) {
  hand_ = event->position();
  handHere_ = true;
  if (dragged_) {
    const double h = std::max(10.0, size_.height() - top_ - bottom_);
    const double level = high_ - (hand_.y() - dragOffset_ - top_) / h * (high_ - low_);
    // As fine as one pixel allows, in round units of the set.
    const Unit& unit = doc_.units().unitFor(Measure::height);
    const double pixel = (high_ - low_) / h / unit.factor;
    const double step = std::pow(10.0, std::floor(std::log10(pixel))) * unit.factor;
    const double rounded = std::round(level / step) * step;
    const int decimals = std::max(0, static_cast<int>(-std::floor(std::log10(step / unit.factor)) + 0.5));
    const QString text =
        QString("%1 %2")
            .arg(inUnit(rounded, unit), 0, 'f', decimals)
            .arg(QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size())));
    doc_.take(setTo(dragged_->id, dragged_->key, text.toStdString()), "drag" + std::to_string(dragRun_));
  } else {
    setCursor(handleAt(hand_) ? Qt::SizeVerCursor : Qt::ArrowCursor);
    update();
  }
}

void LevelsView::mouseReleaseEvent(QMouseEvent*) {
  if (!dragged_) return;
  dragged_.reset();
  doc_.endRun();
  rebuild();
}

void LevelsView::leaveEvent(QEvent*) {
  handHere_ = false;
  update();
}

void LevelsView::keyPressEvent(QKeyEvent* event) {
  // Up and down move the selected height or level by a round step; left and right walk the route.
  const Id id = doc_.selected();
  const bool vertical = event->key() == Qt::Key_Up || event->key() == Qt::Key_Down;
  if (vertical && id != noId) {
    for (const Handle& h : handles_)
      if (h.id == id) {
        const double step = niceStep(high_ - low_, 200) * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
        const double level = h.level_m + (event->key() == Qt::Key_Up ? step : -step);
        doc_.take(setTo(id, h.key, exactText(std::round(level / step) * step, Measure::height, doc_.units())),
                  "nudge");
        return;
      }
  }
  if ((event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) && !route_.empty()) {
    std::size_t at = 0;
    for (std::size_t i = 0; i < route_.size(); ++i)
      if (route_[i].element == id) at = i;
    if (event->key() == Qt::Key_Right) at = std::min(at + 1, route_.size() - 1);
    else if (at > 0) --at;
    doc_.select({route_[at].element});
    return;
  }
  if (event->key() == Qt::Key_Escape) choose({});
  else QWidget::keyPressEvent(event);
}

}  // namespace conduit::desktop

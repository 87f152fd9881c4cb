// What a tool in the hand does in Plan: kinds placed, lines laid piece by piece, pictures brought to scale.
#include <algorithm>
#include <cmath>

#include "network/arrange.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "plan/segment.h"
#include "quantity/parse.h"

namespace conduit::desktop {

void PlanView::startKind(const Part& part) {
  setFocus();
  fitted_ = false;
  if (part.group == Group::drawing && part.ends == Ends::two) {  // between two points that are there
    mode_ = Mode::join;
    placing_ = &part;
    lineFrom_ = noId;
  } else if (part.geometry) {  // a line
    mode_ = Mode::line;
    placing_ = nullptr;
    lineFrom_ = noId;
    const Id selected = doc_.selected();
    if (selected != noId && doc_.network().find(selected)) {
      const Element& e = doc_.network().at(selected);
      if (e.part->ends == Ends::self || e.part->ends == Ends::many) lineFrom_ = selected;
    }
  } else if (onLine() && part.ends != Ends::self && part.ends != Ends::free) {
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
    if (mode_ == Mode::look && selected != noId && doc_.network().at(selected).part->geometry &&
        (part.ends == Ends::one || part.ends == Ends::two)) {
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
    if (b.id == id && handHere_) segmentDistance(hand_, bandLine(b).p1(), bandLine(b).p2(), &share);
  doc_.take(splitPipe(doc_.network(), id, share, doc_.stock()));
}

void PlanView::endMode() {
  mode_ = Mode::look;
  placing_ = nullptr;
  lineFrom_ = noId;
  entering_ = false;
  entry_.clear();
  typed_.clear();
  measured_.clear();
  scaled_ = noId;
  hint();
  update();
}

void PlanView::scalePicture() {
  const Id id = doc_.selected();
  if (id == noId || doc_.network().at(id).part->key != "picture") {
    emit modeChanged(tr("Select the picture that is to be brought to scale."));
    return;
  }
  endMode();
  mode_ = Mode::scale;
  scaled_ = id;
  setFocus();
  hint();
  update();
}

void PlanView::beginEntry(const QString& text) {
  if (doc_.selected() == noId) return;
  setFocus();
  entering_ = true;
  entryPart_ = LinePart::length;
  entry_ = text;
  update();
}

void PlanView::hint() {
  QString text;
  if (mode_ == Mode::line)
    text = lineFrom_ == noId ? tr("Line: click where it begins. Esc ends.")
                             : tr("Line: click, or type 12.4, 3 up, 45° (Tab between). Page Up, Page Down: "
                                  "height. Letters set equipment. Esc ends.");
  if (mode_ == Mode::join)
    text = lineFrom_ == noId ? tr("Dimension: click the first point. Esc ends.")
                             : tr("Dimension: click the second point. Esc ends.");
  if (mode_ == Mode::scale)
    text = measured_.size() < 2
               ? tr("Scale of the picture: click two places whose distance is known. Esc ends.")
               : tr("Scale of the picture: type the distance, Enter. Esc ends.");
  if (mode_ == Mode::place)
    text = tr("%1: click where it stands%2. Esc ends.")
               .arg(QString::fromUtf8(placing_->key.data(), static_cast<int>(placing_->key.size())),
                    placing_->ends == Ends::two   ? tr(", on a pipe or a point")
                    : placing_->ends == Ends::one ? tr(", on a pipe, a point or free")
                                                  : QString());
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
      if (part.ends == Ends::free)
        done = doc_.take(place(doc_.network(), part, spot, "", doc_.stock(), &doc_.units()));
      if (part.ends == Ends::two || part.ends == Ends::one)
        done = doc_.take(setInto(doc_.network(), on, share, part, doc_.stock()));
      else if (part.ends == Ends::self) done = doc_.take(splitPipe(doc_.network(), on, share, doc_.stock()));
    } else if (under && under->part->ends == Ends::self && part.ends != Ends::self &&
               part.ends != Ends::free) {
      done = doc_.take(setAfter(doc_.network(), on, {under->at.x + 46 / scale_, under->at.y}, part));
    } else {
      done = doc_.take(place(doc_.network(), part, spot, "", doc_.stock(), &doc_.units()));
    }
    if (done) {
      const bool words = part.ends == Ends::free;
      endMode();
      if (words) beginEntry();  // what a remark says is typed at once
    }
    return;
  }
  if (mode_ == Mode::join) {
    if (on == noId || doc_.network().at(on).part->ends != Ends::self) return;
    if (lineFrom_ == noId) {
      lineFrom_ = on;
      return hint();
    }
    if (on != lineFrom_ && doc_.take(joinPoints(doc_.network(), *placing_, lineFrom_, on))) endMode();
    return;
  }
  if (mode_ == Mode::scale) {
    if (measured_.size() < 2) measured_.push_back(spot);
    if (measured_.size() == 2) entering_ = true, entry_.clear();
    hint();
    return update();
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
    if (target != noId && doc_.network().at(target).part->ends != Ends::self &&
        doc_.network().at(target).part->ends != Ends::many)
      target = noId;
    if (lineFrom_ == noId) {
      if (target == noId) {
        if (!doc_.take(place(doc_.network(), *findPart("point"), spot, "", doc_.stock(), &doc_.units())))
          return;
        target = doc_.selected();
      }
      lineFrom_ = target;
    } else {
      LineEntry entry{typed_.length().toStdString(), typed_.rise().toStdString(), lineLike_};
      if (lineLike_ == noId || !doc_.network().find(lineLike_)) {
        // Like the pipe it goes on from, if there is one.
        for (const Id id : doc_.network().elementsAt(lineFrom_))
          if (doc_.network().at(id).part->geometry) entry.like = id;
      }
      if (!doc_.take(drawPipe(doc_.network(), lineFrom_, target, spot, entry, doc_.stock(), &doc_.units())))
        return;
      lineLike_ = doc_.selected();
      lineFrom_ = doc_.network().at(lineLike_).ends[1];
      typed_.clear();
      if (target != noId && doc_.network().at(target).part->ends == Ends::many) {
        endMode();
        return;
      }
    }
    hint();
    update();
    return;
  }
  std::vector<Id> ids =
      modifiers & (Qt::ShiftModifier | Qt::ControlModifier) ? doc_.selection() : std::vector<Id>{};
  if (on != noId) {
    if (const auto it = std::find(ids.begin(), ids.end(), on); it != ids.end()) ids.erase(it);
    else ids.push_back(on);
  }
  doc_.select(std::move(ids));
}

void PlanView::finishEntry() {
  const QString text = entry_.trimmed();
  if (mode_ == Mode::scale && measured_.size() == 2) {
    const auto distance = parse(text.toStdString(), Measure::length, &doc_.units().unitFor(Measure::length));
    const double drawn = std::hypot(measured_[0].x - measured_[1].x, measured_[0].y - measured_[1].y);
    if (!distance || distance->value <= 0 || drawn <= 0) {
      emit modeChanged(tr("\"%1\" is no distance; type it as 120 or 400 ft.").arg(text));
      entry_.clear();
      return update();
    }
    // The picture grows about the first click, so that what was clicked stays there.
    const Element& e = doc_.network().at(scaled_);
    const Field& field = *findField(*e.part, "width");
    const Given* width = e.given("width");
    const double grow = distance->value / drawn, now = width ? width->value : *field.fallback;
    const Id id = scaled_;
    const Spot to{measured_[0].x + (e.at.x - measured_[0].x) * grow,
                  measured_[0].y + (e.at.y - measured_[0].y) * grow};
    doc_.take(scaleDrawn(doc_.network(), id, "width", now * grow, to));
    endMode();
    return;
  }
  entering_ = false;
  entry_.clear();
  if (onLine()) {
    if (text.isEmpty() && typed_.empty()) return update();
    if (const QString fault = typed_.take(text, entryPart_, doc_.units()); !fault.isEmpty()) {
      emit modeChanged(fault);
      entering_ = true;  // what was typed stays, to be mended
      entry_ = text;
      return update();
    }
    finishLinePiece();
    return update();
  }
  if (text.isEmpty()) return update();
  if (const Id id = doc_.selected(); id != noId && !doc_.network().at(id).part->fields.empty()) {
    const Field& first = doc_.network().at(id).part->fields[0];
    const Id ids[] = {id};
    doc_.setField(ids, first.key, text);
  }
  update();
}

// The piece of line as typed, from the keyboard alone: in the hand's direction where none was typed.
void PlanView::finishLinePiece() {
  Snap target = snapped(hand_);
  const Spot from = spotOf(doc_.network(), lineFrom_);
  const bool point = target.on != noId && (doc_.network().at(target.on).part->ends == Ends::self ||
                                           doc_.network().at(target.on).part->ends == Ends::many);
  const auto length = typed_.length_m(doc_.units());
  if (!point || target.on == lineFrom_ || typed_.direction_deg()) {
    const double rise = typed_.rise_m(doc_.units());
    double dx = target.at.x - from.x, dy = target.at.y - from.y;
    if (typed_.direction_deg())
      dx = std::cos(*typed_.direction_deg() * M_PI / 180),
      dy = std::sin(*typed_.direction_deg() * M_PI / 180);
    const double d = std::hypot(dx, dy);
    if (d <= 0 || target.on == lineFrom_) dx = 1, dy = 0;
    else dx /= d, dy /= d;
    double drawn = length ? *length : std::max(d, 10 / scale_);
    if (!length && rise != 0.0 && !typed_.direction_deg()) {
      // A rise alone goes straight up: a little aside on the drawing, as long as it rises.
      drawn = std::min(std::abs(rise), 30 / scale_);
      (void)typed_.take(typed_.rise().startsWith('-') ? typed_.rise().mid(1) : typed_.rise(),
                        LinePart::length, doc_.units());
    } else if (!toScale(doc_.network()) || drawn * scale_ < 24) {
      drawn = std::max(d, 40 / scale_);
    }
    target = {{from.x + dx * drawn, from.y + dy * drawn}, noId, {}};
  }
  clickAt(target.at, target.on, {});
}

}  // namespace conduit::desktop

// What a tool in the hand does in Plan: kinds placed, lines laid piece by piece, pictures brought to scale.
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "look/words.h"
#include "network/arrange.h"
#include "parts/point.h"
#include "parts/registry.h"
#include "plan/pipe_strip.h"
#include "plan/plan_view.h"
#include "plan/segment.h"
#include "quantity/parse.h"
#include "route/way_in.h"

namespace conduit::desktop {

void PlanView::startKind(const Part& part, bool many) {
  setFocus();
  fitted_ = false;
  if (onLine() && !part.geometry && part.ends != Ends::self && part.ends != Ends::free &&
      part.group != Group::drawing) {
    // Set into the line being drawn: it goes on from the other side.
    const Spot from = spotOf(doc_.network(), lineFrom_);
    const Spot to = toPlan(hand_);
    const double d = std::max(std::hypot(to.x - from.x, to.y - from.y), 1e-9), reach = 46 / scale_;
    const Spot after{from.x + (to.x - from.x) / d * reach, from.y + (to.y - from.y) / d * reach};
    if (doc_.draw(setAfter(doc_.network(), lineFrom_, after, part)) && doc_.selected() != noId) {
      const Element& made = doc_.network().at(doc_.selected());
      if (made.part->ends == Ends::two) lineFrom_ = made.ends[1];
      else endMode();
    }
    return update();
  }
  endMode();
  placing_ = &part;
  many_ = many;
  if (part.group == Group::drawing && part.ends == Ends::two) {  // between two points that are there
    mode_ = Mode::join;
  } else if (part.geometry) {
    mode_ = Mode::line;
    placing_ = nullptr;
    strip_->follow(noId);
    strip_->setGeometry(0, height() - 31, width(), 31);
    strip_->show();
    strip_->raise();
  } else {
    mode_ = Mode::place;
  }
  hint();
  update();
}

// How far along a pipe a place on the screen is, 0…1.
double PlanView::shareAt(Id pipe, QPointF at) const {
  double share = 0.5;
  for (const Band& b : bands_)
    if (b.id == pipe) segmentDistance(at, bandLine(b).p1(), bandLine(b).p2(), &share);
  return share;
}

// The pipe that a line goes on from, which the next one is like.
Id PlanView::likeHere() const {
  Id like = noId;
  if (lineLike_ != noId && doc_.network().find(lineLike_)) return lineLike_;
  if (lineFrom_ != noId && doc_.network().at(lineFrom_).part->ends == Ends::self)
    for (const Id id : doc_.network().elementsAt(lineFrom_))
      if (doc_.network().at(id).part->geometry) like = id;
  return like;
}

// What is in the hand, placed: into a pipe, at a point, or free. False when it does not fit there.
bool PlanView::placeAt(Spot spot, Id on) {
  freshen();
  const Part& part = *placing_;
  const Network& net = doc_.network();
  const Element* under = on == noId ? nullptr : net.find(on);
  const bool device = part.ends == Ends::two || part.ends == Ends::one;
  if (under && under->part->geometry && device) {
    const bool back = part.ends == Ends::two &&
                      pointsBack(net, doc_.solved() ? &doc_.solved()->solution : nullptr, on, part);
    return doc_.draw(setInto(net, on, shareAt(on, toScreen(spot)), part, doc_.stock(), back));
  }
  if (under && under->part->geometry && part.ends == Ends::self)
    return doc_.draw(splitPipe(net, on, shareAt(on, toScreen(spot)), doc_.stock()));
  if (under && under->part->ends == Ends::self && part.ends != Ends::self && part.ends != Ends::free)
    return doc_.draw(setAfter(net, on, {under->at.x + 46 / scale_, under->at.y}, part));
  if (part.ends == Ends::two)
    return doc_.draw(placeBetween(net, part, {spot.x - 23 / scale_, spot.y}, {spot.x + 23 / scale_, spot.y}));
  return doc_.draw(place(net, part, spot, "", doc_.stock(), &doc_.units()));
}

// Enter with something selected that it fits on: into the middle of a pipe, or at a point.
bool PlanView::placeOnSelected() {
  const Element* e = doc_.selected() == noId ? nullptr : doc_.network().find(doc_.selected());
  if (!e) return false;
  const Part& part = *placing_;
  const bool pipe =
      e->part->geometry && (part.ends == Ends::two || part.ends == Ends::one || part.ends == Ends::self);
  const bool point = e->part->ends == Ends::self && part.ends != Ends::self && part.ends != Ends::free;
  return (pipe || point) && placeAt(spotOf(doc_.network(), doc_.selected()), doc_.selected());
}

void PlanView::splitSelected() {
  const Id id = doc_.selected();
  if (id == noId) return;
  freshen();
  const double share = handHere_ ? shareAt(id, hand_) : 0.5;
  doc_.draw(splitPipe(doc_.network(), id, share, doc_.stock()));
}

void PlanView::endMode() {
  mode_ = Mode::look;
  placing_ = nullptr;
  many_ = false;
  lineFrom_ = lineLike_ = noId;
  strip_->hide();
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
  if (id == noId || doc_.network().at(id).part->paper != Paper::picture) {
    emit modeChanged(tr("Select the picture to scale."));
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
    text = lineFrom_ == noId ? tr("Line: click the start point. Esc ends.")
                             : tr("Line: click, or type 12.4, 3 up, 45° (Tab). PgUp, PgDn: height. "
                                  "Letters: equipment. Esc ends.");
  if (mode_ == Mode::join)
    text = lineFrom_ == noId ? tr("Dimension: click the first point. Esc ends.")
                             : tr("Dimension: click the second point. Esc ends.");
  if (mode_ == Mode::scale)
    text = measured_.size() < 2 ? tr("Scale picture: click two points a known distance apart. Esc ends.")
                                : tr("Scale picture: type the distance, then Enter. Esc ends.");
  if (mode_ == Mode::place)
    text = tr("%1: click to place%2. %3Esc ends.")
               .arg(sentence(placing_->key),
                    placing_->ends == Ends::two || placing_->ends == Ends::one
                        ? tr(", on a pipe, a point or free")
                        : QString(),
                    many_ ? QString() : tr("Shift: several. "));
  emit modeChanged(text);
}

void PlanView::clickAt(Spot spot, Id on, Qt::KeyboardModifiers modifiers) {
  freshen();
  if (mode_ == Mode::place) {
    const Part* part = placing_;
    if (!placeAt(spot, on)) return;
    const bool again = many_ || modifiers & Qt::ShiftModifier;
    const bool words = part->ends == Ends::free;
    endMode();
    if (again) startKind(*part, many_);
    else if (words) beginEntry();  // what a remark says is typed at once
    return;
  }
  if (mode_ == Mode::join) {
    if (on == noId || doc_.network().at(on).part->ends != Ends::self) return;
    if (lineFrom_ == noId) {
      lineFrom_ = on;
      return hint();
    }
    if (on != lineFrom_ && doc_.draw(joinPoints(doc_.network(), *placing_, lineFrom_, on))) endMode();
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
      if (!doc_.draw(splitPipe(doc_.network(), target, shareAt(target, toScreen(spot)), doc_.stock())))
        return;
      target = doc_.selected();
    }
    if (target != noId && doc_.network().at(target).part->ends != Ends::self &&
        doc_.network().at(target).part->ends != Ends::many)
      target = noId;
    if (lineFrom_ == noId) {
      if (target == noId) {
        if (!doc_.draw(place(doc_.network(), point::part, spot, "", doc_.stock(), &doc_.units()))) return;
        target = doc_.selected();
      }
      lineFrom_ = target;
      lineLike_ = noId;
      strip_->follow(likeHere());
    } else {
      const LineEntry entry{typed_.length().toStdString(), typed_.rise().toStdString(),
                            strip_->likeHolds() ? likeHere() : noId};
      if (!doc_.draw(drawPipe(doc_.network(), lineFrom_, target, spot, entry, doc_.stock(), &doc_.units())))
        return;
      const bool held = strip_->likeHolds();
      lineLike_ = doc_.selected();
      lineFrom_ = doc_.network().at(lineLike_).ends[1];
      if (held) strip_->follow(lineLike_);
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
      emit modeChanged(tr("\"%1\" is not a distance; type it as 120 or 400 ft.").arg(text));
      entry_.clear();
      return update();
    }
    // The picture grows about the first click, so that what was clicked stays there.
    const Element& e = doc_.network().at(scaled_);
    const Field& field = *findField(*e.part, key::width);
    const Given* width = e.given(key::width);
    const double grow = distance->value / drawn, now = width ? width->value : *field.fallback;
    const Id id = scaled_;
    const Spot to{measured_[0].x + (e.at.x - measured_[0].x) * grow,
                  measured_[0].y + (e.at.y - measured_[0].y) * grow};
    doc_.take(scaleDrawn(doc_.network(), id, key::width, now * grow, to));
    endMode();
    return;
  }
  entering_ = false;
  entry_.clear();
  if (onLine()) {
    if (text.isEmpty() && typed_.empty()) return update();
    if (const QString fault = typed_.take(text, entryPart_, doc_.units()); !fault.isEmpty()) {
      emit modeChanged(fault);
      entering_ = true;  // what was typed stays, to be corrected
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

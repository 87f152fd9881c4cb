// How Plan is painted: bands, symbols, labels, legend, scale.
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "fields/keys.h"
#include "look/round_numbers.h"
#include "look/symbol.h"
#include "plan/label_room.h"
#include "plan/pipe_strip.h"
#include "plan/plan_view.h"
#include "quantity/format.h"

namespace conduit::desktop {

// A band on screen, beside others that lie between the same places.
QLineF PlanView::bandLine(const Band& band) const {
  QLineF line(toScreen(band.a), toScreen(band.b));
  const double length = line.length();
  if (band.offset != 0.0 && length > 14) {
    // It bows aside: short slants lead there from its ends.
    const QPointF u(line.dx() / length, line.dy() / length), n(-u.y(), u.x());
    const double in = std::min(std::abs(band.offset) + 4, length / 3);
    line = QLineF(line.p1() + n * band.offset + u * in, line.p2() + n * band.offset - u * in);
  }
  return line;
}

// Beside the five steps of the scale: not known, and at rest.
namespace {
constexpr std::size_t unknownShade = 5, stillShade = 6, shades = 7;
}

bool PlanView::still(const Band& band) const {
  return colouring_ != Colouring::pressure && band.share == 0.0 && band.flow == 0.0;
}

void PlanView::drawBands(QPainter& p, const QRectF& visible) {
  // Leads of tanks first: from the tank to the point of each connection.
  const Network& net = doc_.network();
  for (const Symbol& s : symbols_) {
    const Element& e = net.at(s.id);
    if (e.part->ends != Ends::many) continue;
    for (const Id end : e.ends) {
      p.setPen(QPen(look_.ink, 5, Qt::SolidLine, Qt::FlatCap));
      p.drawLine(toScreen(e.at), toScreen(net.at(end).at));
      p.setPen(QPen(look_.flow[1], 3, Qt::SolidLine, Qt::FlatCap));
      p.drawLine(toScreen(e.at), toScreen(net.at(end).at));
    }
  }
  const bool many = bands_.size() > 3000, far = farAway(), recorded = bands_.size() < 2000;
  p.setRenderHint(QPainter::Antialiasing, bands_.size() < 8000 && !inMotion());
  const bool rough = inMotion() && bands_.size() > 15000;  // colours alone until the view rests
  const QRectF near = visible.adjusted(-8, -8, 8, 8);
  const auto inView = [&](QPointF s, QPointF t) {
    if (std::max(s.x(), t.x()) < near.left() || std::min(s.x(), t.x()) > near.right() ||
        std::max(s.y(), t.y()) < near.top() || std::min(s.y(), t.y()) > near.bottom())
      return false;
    const double dx = s.x() - t.x(), dy = s.y() - t.y();
    return !many || dx * dx + dy * dy > 0.7 * 0.7;
  };
  // Batched by pen: outline of every width, then fills of every width and colour.
  std::vector<QVector<QLineF>> outline(9), fill(9 * shades);
  std::vector<const Band*> broken, shown;
  // Round ends cost a curve each; among hundreds of short bands square ones look the same.
  const Qt::PenCapStyle cap = bands_.size() > 300 ? Qt::SquareCap : Qt::RoundCap;
  const double thin = many ? std::min(1.0, 0.35 + scale_ / 4) : 1.0;
  for (const Band& b : bands_) {
    const QPointF from = toScreen(b.a), to = toScreen(b.b);
    if (!inView(from, to)) continue;
    if (b.incomplete) {
      broken.push_back(&b);
      continue;
    }
    const auto w = static_cast<std::size_t>(std::clamp(static_cast<int>(b.width + 0.5) - 4, 0, 8));
    const auto c = b.share < 0 ? unknownShade
                   : still(b)  ? stillShade
                               : static_cast<std::size_t>(std::clamp(static_cast<int>(b.share * 5), 0, 4));
    const QLineF line = b.offset == 0.0 ? QLineF(from, to) : bandLine(b);
    const auto add = [&](const QLineF& piece) {
      if (!rough && !far) outline[w].append(piece);
      fill[w * shades + c].append(piece);
    };
    add(line);
    if (b.offset != 0.0 && !far) {
      add({from, line.p1()});
      add({line.p2(), to});
    }
    if (recorded) painted_.lines.emplace_back(line, b.width);
    shown.push_back(&b);
  }
  for (std::size_t w = 0; w < 9 && !rough; ++w) {
    p.setPen(QPen(look_.ink, (static_cast<double>(w) + 4) * thin, Qt::SolidLine, cap));
    p.drawLines(outline[w]);
  }
  // Far away the strongest colours come last, so that nothing lies over them.
  for (const std::size_t c : {unknownShade, stillShade, std::size_t{0}, std::size_t{1}, std::size_t{2},
                              std::size_t{3}, std::size_t{4}})
    for (std::size_t w = 0; w < 9; ++w) {
      if (fill[w * shades + c].isEmpty()) continue;
      const QColor colour = c == unknownShade ? (rough ? look_.ink2 : look_.field)
                            : c == stillShade ? look_.grid
                                              : look_.flow[c];
      // Lines of one pixel are quick to draw; more is kept for wide mains and for what flows fast.
      const double wide = far ? (c == 4                         ? (rough ? 2.0 : 3.0)
                                 : !rough && (c == 3 || w >= 4) ? 2.0
                                                                : 1.0)
                              : std::max(0.6, (static_cast<double>(w) + 4) * thin - 2);
      p.setPen(QPen(colour, wide, Qt::SolidLine, far ? Qt::FlatCap : cap));
      p.drawLines(fill[w * shades + c]);
    }
  for (const Band* b : broken) {
    p.setPen(QPen(look_.ink2, 3, Qt::CustomDashLine, Qt::FlatCap));
    QPen pen = p.pen();
    pen.setDashPattern({3, 2.2});
    p.setPen(pen);
    p.drawLine(bandLine(*b));
  }
  // Arrows in the true direction of flow, one about every 130 px.
  if (!far && (!inMotion() || bands_.size() < 400))
    for (const Band* b : shown) {
      if (std::abs(b->flow) < 1e-9) continue;
      const QLineF line = bandLine(*b);
      QPointF s = line.p1(), t = line.p2();
      const double length = std::hypot(t.x() - s.x(), t.y() - s.y());
      if (length < 34) continue;
      const int count = std::max(1, static_cast<int>(length / 150));
      if (b->flow < 0) std::swap(s, t);
      const QPointF u = (t - s) / length, n(-u.y(), u.x());
      const double size = std::clamp(b->width * 0.42, 2.6, 4.2);
      p.setPen(Qt::NoPen);
      p.setBrush(b->share >= 0.4 ? look_.sheet : look_.ink);
      for (int k = 0; k < count; ++k) {
        const QPointF at = s + (t - s) * ((k + 0.5) / count);
        if (!visible.contains(at)) continue;
        p.drawPolygon(
            QPolygonF({at + u * size * 1.5, at - u * size * 1.1 + n * size, at - u * size * 1.1 - n * size}));
      }
    }
  p.setRenderHint(QPainter::Antialiasing, true);
}

// From its beginning to its end: a small open arrow on what is selected. Where it points, a flow counts
// positive.
void PlanView::drawWay(QPainter& p, QPointF at, double angle, double out) {
  p.save();
  p.translate(at);
  p.rotate(angle);
  p.setPen(QPen(look_.ink, 1.8, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.drawPolyline(QPolygonF({{out, -5}, {out + 6, 0}, {out, 5}}));
  p.restore();
}

void PlanView::drawSymbols(QPainter& p, const QRectF& visible) {
  const Network& net = doc_.network();
  const bool crowded = spacing_ < 16;
  const bool dense = spacing_ < 30;  // then points are dots, and a draw-off shows when one comes nearer
  QVector<QPointF> dots;
  for (const auto& [id, at] : points_) {
    const QPointF s = toScreen(at);
    if (!visible.contains(s)) continue;
    const Element& e = net.at(id);
    const bool selected = doc_.isSelected(id);
    if (dense && !selected) {
      if (!farAway() && jointDegree_[id] != 2) dots << s;
      continue;
    }
    const bool draws = e.value(key::outflow) != nullptr;
    if (draws) {
      p.setPen(QPen(look_.ink, 1.5));
      p.drawLine(s, s + QPointF(0, 17));
      p.drawLine(s + QPointF(-4, 12), s + QPointF(0, 17));
      p.drawLine(s + QPointF(4, 12), s + QPointF(0, 17));
    }
    const int degree = jointDegree_[id];
    if (!(degree != 2 || selected || draws || scale_ > 8)) continue;
    p.setPen(QPen(look_.ink, 1.2));
    p.setBrush(selected ? look_.water : look_.sheet);
    const double r = selected ? 4.5 : 3.0;
    p.drawEllipse(s, r, r);
  }
  p.setPen(QPen(look_.ink, 3.4, Qt::SolidLine, Qt::SquareCap));
  p.drawPoints(dots.constData(), static_cast<int>(dots.size()));
  for (const Symbol& sym : symbols_) {
    const QPointF place = toScreen(sym.at), s = place + sym.aside;
    if (!visible.adjusted(-30, -30, 30, 30).contains(s)) continue;
    const Element& e = net.at(sym.id);
    if (sym.size < 0.3 && !doc_.isSelected(sym.id)) {  // a dot stands for it
      p.setPen(Qt::NoPen);
      p.setBrush(sym.incomplete ? look_.warning : look_.ink);
      const double r = e.part->ends == Ends::many ? 3.2 : 1.7;
      p.drawEllipse(s, r, r);
      continue;
    }
    if (!sym.aside.isNull()) {
      p.setPen(QPen(look_.ink2, 1));
      p.drawLine(place, s);
      p.setPen(Qt::NoPen);
      p.setBrush(look_.ink);
      p.drawEllipse(place, 2.4, 2.4);
    }
    p.save();
    p.translate(s);
    if (e.part->ends != Ends::many) {
      double angle = sym.angle;
      p.rotate(angle);
      // A symbol that runs to the left is mirrored rather than turned upside down: its actuator stays on top.
      if (e.part->ends == Ends::two && std::abs(std::remainder(angle, 360.0)) > 90.5) p.scale(1, -1);
    }
    const double size = std::max(sym.size, doc_.isSelected(sym.id) ? 0.5 : 0.0);
    paintSymbol(p, e.part->symbol, look_, size, sym.incomplete ? look_.ink2 : look_.ink);
    p.restore();
    // Which way it was set in: a small point before it, where it begins.
    if (e.part->ends == Ends::two && !crowded && spacing_ >= 30) {
      const double way = sym.angle * M_PI / 180;
      p.setPen(QPen(look_.sheet, 0.8));
      p.setBrush(look_.ink);
      p.drawEllipse(s - QPointF(std::cos(way), std::sin(way)) * 13.5 * size, 2.4, 2.4);
    }
    // What is shut or closed says so by a stroke across.
    const SolvedPtr& solved = doc_.solved();
    if (solved && solved->usable() && solved->element(sym.id, e.part) && e.part->ends == Ends::two &&
        solved->solution.branchCount(sym.id) > 0 &&
        solved->solution.branch(sym.id, 0).state == BranchState::shut) {
      p.setPen(QPen(look_.warning, 2));
      p.drawLine(s + QPointF(-7, 9), s + QPointF(7, -9));
    }
    if (doc_.isSelected(sym.id)) {
      QPen ring(look_.ink, 1.4, Qt::DotLine);
      p.setPen(ring);
      p.setBrush(Qt::NoBrush);
      const double r = e.part->ends == Ends::many ? 27 : 19;
      p.drawEllipse(s, r, r);
      if (e.part->ends == Ends::two) drawWay(p, s, sym.angle, r + 2);
    }
  }
  for (const Band& b : bands_)
    if (doc_.isSelected(b.id) && doc_.network().at(b.id).part->geometry) {
      const QLineF line = bandLine(b);
      const QPointF s = line.p1(), t = line.p2();
      const double length = std::max(1.0, std::hypot(t.x() - s.x(), t.y() - s.y()));
      const QPointF n = QPointF(-(t - s).y(), (t - s).x()) / length * (b.width / 2 + 5);
      p.setPen(QPen(look_.ink, 1.4, Qt::DotLine));
      p.drawLine(s + n, t + n);
      p.drawLine(s - n, t - n);
      if (length > 50) drawWay(p, t, std::atan2(t.y() - s.y(), t.x() - s.x()) * 180 / M_PI, -16);
    }
  for (const Mark& mark : marks_) {
    p.setPen(Qt::NoPen);
    p.setBrush(look_.warning);
    p.drawPolygon(QPolygonF({mark.at + QPointF(0, -8), mark.at + QPointF(8, 6), mark.at + QPointF(-8, 6)}));
    p.setPen(QPen(look_.sheet, 1.8));
    p.drawLine(mark.at + QPointF(0, -3.5), mark.at + QPointF(0, 1.5));
    p.drawPoint(mark.at + QPointF(0, 4));
    if (mark.count > 1) {
      p.setFont(face(10, true));
      p.setPen(look_.warning);
      p.drawText(QRectF(mark.at + QPointF(9, -7), QSizeF(30, 13)), Qt::AlignLeft | Qt::AlignVCenter,
                 QString::number(mark.count));
    }
  }
}

namespace {

double reachOf(const Part& part, double size) { return (part.ends == Ends::many ? 15.0 : 11.0) * size; }
QRectF around(QPointF at, double r) { return {at.x() - r, at.y() - r, 2 * r, 2 * r}; }

}  // namespace

// How large each symbol is drawn and where: as large as its neighbours allow; where even small ones would lie
// on one another, beside its place. Nothing moves in the drawing itself.
void PlanView::placeSymbols(const QRectF& visible) {
  const double far = spacing_ < 12 ? 0.2 : std::clamp(spacing_ / 30, 0.45, 1.0);
  std::vector<Symbol*> seen;
  for (Symbol& s : symbols_) {
    s.aside = {};
    s.size = (doc_.network().at(s.id).part->ends == Ends::many ? 1.45 : 1.15) * far;
    if (visible.adjusted(-40, -40, 40, 40).contains(toScreen(s.at))) seen.push_back(&s);
  }
  if (far < 0.3 || seen.size() > 300) return;
  const auto part = [&](const Symbol& s) -> const Part& { return *doc_.network().at(s.id).part; };
  constexpr double smallest = 0.62;
  for (Symbol* s : seen) {
    if (part(*s).ends == Ends::many) continue;
    double allowed = s->size;
    for (const Symbol* other : seen) {
      if (other == s) continue;
      const QPointF gap = toScreen(s->at) - toScreen(other->at);
      const double d = std::hypot(gap.x(), gap.y());
      const double theirs = part(*other).ends == Ends::many ? reachOf(part(*other), other->size) : d / 2;
      allowed = std::min(allowed, std::max(smallest, (d - theirs) / 11.0));
    }
    s->size = std::min(s->size, std::max(allowed, smallest * far));
  }
  // Those that still overlap are set beside their line, the later ones of the drawing first asked to give
  // way.
  std::vector<QRectF> placed;
  for (Symbol* s : seen) {
    const double r = reachOf(part(*s), s->size);
    const QPointF at = toScreen(s->at);
    const auto free = [&](QPointF there) {
      const QRectF box = around(there, r - 1);
      return std::none_of(placed.begin(), placed.end(), [&](const QRectF& q) { return q.intersects(box); });
    };
    if (!free(at)) {
      const double way = s->angle * M_PI / 180;
      const QPointF n(std::sin(way), -std::cos(way)), u(std::cos(way), std::sin(way));
      bool found = false;
      for (const double out : {30.0, 48.0, 66.0, 84.0}) {
        for (const double side : {1.0, -1.0})
          for (const double along : {0.0, 16.0, -16.0}) {
            if (found || part(*s).ends != Ends::two || spacing_ < 20) continue;
            const QPointF there = at + n * (out * side) + u * along;
            if (!free(there) || !visible.adjusted(14, 14, -14, -14).contains(there)) continue;
            s->aside = there - at;
            found = true;
          }
        if (found) break;
      }
      if (!found) s->size = 0.22;  // a dot, until one comes nearer
    }
    placed.push_back(around(at + s->aside, reachOf(part(*s), s->size)));
  }
}

// Beside every place a finding speaks of, so that the eye lands there; near ones are gathered with a count.
void PlanView::placeMarks(const QRectF& visible) {
  marks_.clear();
  const double gather = spacing_ < 16 ? 46 : spacing_ < 30 ? 26 : 12;
  std::unordered_map<std::uint64_t, std::size_t> cells;  // where a sign stands already
  for (const auto& [id, spot] : found_) {
    QPointF at = toScreen(spot);
    if (!visible.contains(at)) continue;
    const auto cell =
        (static_cast<std::uint64_t>(at.x() / gather) << 32) | static_cast<std::uint64_t>(at.y() / gather);
    const auto [known, fresh] = cells.try_emplace(cell, marks_.size());
    if (!fresh) {
      if (known->second < marks_.size()) ++marks_[known->second].count;
      continue;
    }
    if (marks_.size() >= 60) continue;
    if (symbols_.size() < 2000)
      for (const Symbol& s : symbols_)
        if (s.id == id) at += s.aside;
    // Where it hides no symbol and no other mark.
    QPointF best = at + QPointF(17, -18);
    const auto free = [&](QPointF there) {
      const QRectF box(there.x() - 9, there.y() - 9, 18, 16);
      if (!visible.adjusted(2, 2, -2, -2).contains(box)) return false;
      for (const Symbol& s : symbols_) {
        const QPointF c = toScreen(s.at) + s.aside;
        if (std::abs(c.x() - there.x()) < 60 && std::abs(c.y() - there.y()) < 60 &&
            around(c, reachOf(*doc_.network().at(s.id).part, s.size)).intersects(box))
          return false;
      }
      return std::none_of(marks_.begin(), marks_.end(), [&](const Mark& m) {
        return QRectF(m.at.x() - 9, m.at.y() - 9, 18, 16).intersects(box);
      });
    };
    if (spacing_ >= 16 && symbols_.size() < 2000)
      for (const QPointF& out :
           {QPointF(17, -18), QPointF(-17, -18), QPointF(17, 20), QPointF(-17, 20), QPointF(0, -28),
            QPointF(0, 30), QPointF(30, 0), QPointF(-30, 0), QPointF(26, -30), QPointF(-26, -30)})
        if (free(at + out)) {
          best = at + out;
          break;
        }
    marks_.push_back({best, 1});
  }
}

void PlanView::drawLabels(QPainter& p) {
  if (inMotion() && labels_.size() > 400) return;  // at rest they are there again
  const bool stale = !doc_.current();
  const QFont bold = face(12, true), quiet = face(11.5);
  const QFontMetricsF boldWidth(bold), quietWidth(quiet);
  // Symbols, bands and the legend are taken; what would lie on them or on an earlier label is tried
  // elsewhere, then left out.
  LabelRoom room(size());
  room.take(QRectF(0, 0, 250, 50));
  const QRectF frame(2, 2, width() - 4, height() - 4);
  room.take(QRectF(0, height() - 30.0 - (strip_->isVisible() ? strip_->height() : 0), 240, 30));
  std::unordered_map<Id, QPointF> asides;
  for (const Symbol& s : symbols_) {
    const QRectF box = around(toScreen(s.at) + s.aside, reachOf(*doc_.network().at(s.id).part, s.size));
    if (!frame.intersects(box)) continue;
    room.take(box.adjusted(-1, -1, 1, 1));
    if (!s.aside.isNull()) {
      asides[s.id] = s.aside;
      room.take(QLineF(toScreen(s.at), toScreen(s.at) + s.aside));
    }
    if (symbols_.size() < 2000) painted_.symbols.push_back(box);
  }
  for (const Mark& mark : marks_) {
    const QRectF box(mark.at.x() - 9, mark.at.y() - 9, mark.count > 1 ? 34 : 18, 16);
    room.take(box);
    painted_.marks.push_back(box);
  }
  for (const auto& [id, at] : points_) {
    const QPointF s = toScreen(at);
    if (!frame.contains(s)) continue;
    if (doc_.network().at(id).value(key::outflow)) room.take(QRectF(s - QPointF(7, 6), QSizeF(14, 26)));
    else if (points_.size() < 2000) room.take(QRectF(s - QPointF(3, 3), QSizeF(6, 6)));
  }
  for (const Band& b : bands_) {
    const QLineF line = bandLine(b);
    if (QRectF(line.p1(), line.p2()).normalized().adjusted(-1, -1, 1, 1).intersects(frame)) {
      room.take(line);
      // Its edges too: a band is wider than the line in its middle.
      if (bands_.size() < 2000 && line.length() > 2) {
        const QPointF n = QPointF(-line.dy(), line.dx()) / line.length() * (b.width / 2);
        room.take(line.translated(n));
        room.take(line.translated(-n));
        if (b.offset != 0.0)
          room.take(QLineF(toScreen(b.a), line.p1())), room.take(QLineF(line.p2(), toScreen(b.b)));
      }
    }
    if (b.riser && line.length() < 14)
      room.take(QRectF(riserSpot(b) - QPointF(80, 9), QSizeF(89, 18)));  // its ring and its words
  }
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->paper == Paper::remark) room.take(remarkBox(e));
    if (e.part->paper == Paper::dimension) room.take(dimensionLine(e));
  }
  // Zoomed away the lesser labels go: first those of lines and points, then those of devices.
  const int leastOf = spacing_ < 16 ? 0 : spacing_ < 30 ? 1 : spacing_ < 42 ? 2 : 4;
  // A label belongs to the symbol it is nearest to; no other may be about as near.
  auto nearest = [&](const QRectF& box, QPointF own, const Label& label) {
    auto away = [&](QPointF q) {
      return std::hypot(std::max({box.left() - q.x(), 0.0, q.x() - box.right()}),
                        std::max({box.top() - q.y(), 0.0, q.y() - box.bottom()}));
    };
    const double mine = away(own), slack = label.rank < 2 ? -0.5 : 2.0;
    return symbols_.size() > 300 || std::none_of(symbols_.begin(), symbols_.end(), [&](const Symbol& sym) {
             return sym.id != label.id && away(toScreen(sym.at) + sym.aside) < mine + slack;
           });
  };
  int placed = 0, tried = 0;
  for (const Label& label : labels_) {
    if (label.rank > leastOf || placed > 250) break;
    const auto aside = asides.find(label.id);
    const QPointF at = toScreen(label.at) + (aside == asides.end() ? QPointF() : aside->second);
    if (!frame.contains(at)) continue;
    if (++tried > 800) break;  // among so many there is no room left
    if (label.rank == 4 && label.room * scale_ < 34) continue;
    const auto [first, second] = labelText(label);
    if (first.isEmpty()) continue;
    const double w = std::max(boldWidth.horizontalAdvance(first), quietWidth.horizontalAdvance(second)) + 6;
    const double h = second.isEmpty() ? 16 : 30;
    const double gap = label.rank == 4 ? 7 : label.rank == 3 ? 11 : 21;
    QRectF box;
    bool good = false;
    const QPointF n = label.normal;
    const QPointF sides[] = {n,       -n,          {0, -1},      {0, 1},     {1, 0},
                             {-1, 0}, {0.8, -0.8}, {-0.8, -0.8}, {0.8, 0.8}, {-0.8, 0.8}};
    for (int pass = 0; pass < 3 && !good; ++pass)
      for (const QPointF& side : sides) {
        const double reach = gap + pass * 9;
        const QPointF c = at + QPointF(side.x() * (reach + w / 2), side.y() * (reach + h / 2));
        box = QRectF(c.x() - w / 2, c.y() - h / 2, w, h);
        good = room.free(box.adjusted(3, 2, -3, -2)) && nearest(box, at, label);
        if (good) break;
      }
    if (!good) continue;
    room.take(box);
    painted_.labels.push_back(box.adjusted(3, 2, -3, -2));
    ++placed;
    const QColor tone = stale ? look_.ink2 : look_.ink;
    p.setFont(bold);
    p.setPen(label.rank < 0 ? look_.warning : tone);
    p.drawText(QRectF(box.x() + 3, box.y(), w, 16), Qt::AlignLeft | Qt::AlignVCenter, first);
    if (!second.isEmpty()) {
      p.setFont(quiet);
      p.setPen(label.rank < 0 ? look_.warning : look_.ink2);
      p.drawText(QRectF(box.x() + 3, box.y() + 14, w, 16), Qt::AlignLeft | Qt::AlignVCenter, second);
    }
  }
}

void PlanView::drawLegend(QPainter& p) {
  if (std::any_of(bands_.begin(), bands_.end(), [](const Band& b) { return b.share >= 0; })) drawScale(p);
  drawDistance(p);
}

void PlanView::drawScale(QPainter& p) {
  const QPointF at(17, 16);
  const char* names[] = {QT_TR_NOOP("Velocity"), QT_TR_NOOP("Pressure"), QT_TR_NOOP("Gradient")};
  const Unit& unit = doc_.units().unitFor(scaleMeasure_);
  const QString symbol = colouring_ == Colouring::gradient
                             ? QString("m/100 m")
                             : QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size()));
  p.setFont(face(12, true));
  p.setPen(look_.ink);
  p.drawText(QRectF(at, QSizeF(90, 14)), Qt::AlignLeft | Qt::AlignVCenter,
             tr(names[static_cast<int>(colouring_)]));
  const double nameWidth = QFontMetricsF(p.font()).horizontalAdvance(tr(names[static_cast<int>(colouring_)]));
  p.setFont(face(11.5));
  p.setPen(look_.ink2);
  p.drawText(QRectF(at + QPointF(nameWidth + 8, 0), QSizeF(120, 14)), Qt::AlignLeft | Qt::AlignVCenter,
             symbol);
  for (int i = 0; i < 5; ++i) {
    const QRectF box(at.x() + i * 34, at.y() + 18, 34, 8);
    p.setPen(QPen(look_.ink, 0.7));
    p.setBrush(look_.flow[static_cast<std::size_t>(i)]);
    p.drawRect(box);
  }
  p.setFont(face(10));
  p.setPen(look_.ink2);
  const double top = colouring_ == Colouring::gradient ? scaleTop_ * 100 : inUnit(scaleTop_, unit);
  for (int i = 0; i <= 5; ++i)
    p.drawText(QRectF(at.x() + i * 34 - 17, at.y() + 27, 34, 13), Qt::AlignCenter,
               QString::number(top * i / 5, 'g', 3));
  if (std::any_of(bands_.begin(), bands_.end(), [this](const Band& b) { return still(b); })) {
    p.setPen(QPen(look_.ink, 1));
    p.setBrush(look_.grid);
    p.drawRect(QRectF(at.x() + 184, at.y() + 16, 12, 8));
    p.setPen(look_.ink2);
    p.drawText(QPointF(at.x() + 201, at.y() + 24), tr("no flow"));
  }
}

void PlanView::drawDistance(QPainter& p) {
  const Unit& unit = doc_.units().unitFor(Measure::length);
  double metres = roundUp(90 / scale_ / unit.factor) * unit.factor;  // round in the unit that is shown
  if (metres * scale_ > 130) metres = roundUp(45 / scale_ / unit.factor) * unit.factor;
  const double y = height() - 16 - (strip_->isVisible() ? strip_->height() : 0);
  p.setPen(QPen(look_.ink, 1.2));
  p.drawLine(QPointF(17, y), QPointF(17 + metres * scale_, y));
  p.drawLine(QPointF(17, y - 4), QPointF(17, y + 4));
  p.drawLine(QPointF(17 + metres * scale_, y - 4), QPointF(17 + metres * scale_, y + 4));
  p.setFont(face(11));
  p.setPen(look_.ink2);
  p.drawText(QPointF(24 + metres * scale_, y + 4),
             QString::fromStdString(withUnit(metres, Measure::length, doc_.units(), 3)));
}

void PlanView::drawGuide(QPainter& p) {
  if (doc_.network().count() > 0 || mode_ != Mode::look) return;
  p.setPen(look_.ink2);
  p.setFont(face(17, true));
  p.drawText(rect().adjusted(0, -120, 0, 0), Qt::AlignCenter, tr("Press L, then click twice."));
  // Keys in one column, what they do in the other.
  const std::pair<QString, QString> hints[] = {
      {"L", tr("draws a line, point to point")},
      {"T  P  V  R …", tr("selects a tank, pump or valve; click to place it")},
      {"12.4", tr("a length")},
      {"3.1 up", tr("a rise;  45°  a direction;  Tab switches")},
      {"Ctrl+V", tr("pastes a table from a spreadsheet;  Ctrl+I  imports a file")},
      {"Ctrl+K", tr("finds anything by typing")},
      {"?", tr("all keyboard shortcuts")}};
  double y = height() / 2.0 - 28;
  for (const auto& [keys, what] : hints) {
    p.setFont(face(12.5, true));
    p.setPen(look_.ink);
    p.drawText(QRectF(width() / 2.0 - 250, y, 110, 20), Qt::AlignRight | Qt::AlignVCenter, keys);
    p.setFont(face(12.5));
    p.setPen(look_.ink2);
    p.drawText(QRectF(width() / 2.0 - 126, y, 420, 20), Qt::AlignLeft | Qt::AlignVCenter, what);
    y += 21;
  }
}

void PlanView::paintOn(QPainter& p, const QSize& size) {
  freshen();
  const QRectF visible(QPointF(0, 0), QSizeF(size));
  p.fillRect(visible, look_.sheet);
  p.setRenderHint(QPainter::Antialiasing, true);
  drawPictures(p);
  // Grid of round metres.
  double step = roundUp(60 / scale_);
  p.setPen(QPen(look_.grid, 1));
  const Spot a = toPlan({0, static_cast<double>(size.height())}),
             b = toPlan({static_cast<double>(size.width()), 0});
  for (double x = std::ceil(a.x / step) * step; x < b.x; x += step)
    p.drawLine(QPointF(toScreen({x, 0}).x(), 0), QPointF(toScreen({x, 0}).x(), size.height()));
  for (double y = std::ceil(a.y / step) * step; y < b.y; y += step)
    p.drawLine(QPointF(0, toScreen({0, y}).y()), QPointF(size.width(), toScreen({0, y}).y()));
  int inSight = 0;
  for (const auto& point : points_) inSight += visible.contains(toScreen(point.second));
  spacing_ = std::sqrt(size.width() * static_cast<double>(size.height()) / std::max(1, inSight));
  painted_ = {};
  placeSymbols(visible);
  placeMarks(visible);
  drawBands(p, visible);
  drawRises(p, visible);
  drawSymbols(p, visible);
  drawRemarks(p);
  drawLabels(p);
  if (doc_.network().count() > 0) drawLegend(p);
  drawGuide(p);
}

void PlanView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintOn(p, size());
  drawHand(p);
  if (hasFocus()) {
    p.setPen(QPen(look_.hair, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void PlanView::resizeEvent(QResizeEvent*) {
  strip_->setGeometry(0, height() - 31, width(), 31);
  if (fitted_) fit();
}

}  // namespace conduit::desktop

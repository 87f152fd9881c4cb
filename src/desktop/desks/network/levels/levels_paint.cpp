// How Levels is painted: ground and pipe, grade line, corridor, what a pump needs, what is read under the
// pointer.
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "levels/levels_view.h"
#include "look/round_numbers.h"
#include "quantity/format.h"

namespace conduit::desktop {

// What is incomplete is drawn broken, with its words, while the network waits for it.
void LevelsView::drawLacks(QPainter& p) {
  const SolvedPtr& solved = doc_.solved();
  if (!solved || solved->solution.summary.usable()) return;
  std::map<std::string, const Problem*> lacking;
  for (const Problem& problem : solved->solution.summary.problems)
    lacking.emplace(problem.place.name, &problem);
  const auto& st = profile_.stations;
  std::vector<QRectF> said;  // words keep clear of one another: the next row up, if there is one
  for (std::size_t i = 0; i + 1 < st.size(); ++i) {
    if (st[i].step != st[i + 1].step || st[i].step >= route_.size()) continue;
    const Element* e = doc_.network().find(route_[st[i].step].element);
    const auto it = e ? lacking.find(e->name) : lacking.end();
    if (it == lacking.end()) continue;
    const QPointF a = toScreen(st[i].along_m, st[i].height_m),
                  b = toScreen(st[i + 1].along_m, st[i + 1].height_m);
    p.setPen(QPen(look_.sheet, 4));
    p.drawLine(a, b);
    QPen broken(look_.ink2, 3, Qt::CustomDashLine, Qt::FlatCap);
    broken.setDashPattern({3, 2.2});
    p.setPen(broken);
    p.drawLine(a, b);
    const QString words = "▲ " + QString::fromStdString(it->second->what);
    p.setFont(face(11.5));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
    const double x = std::clamp((a.x() + b.x()) / 2 - w / 2, left_, std::max(left_, width() - w - 8.0));
    double y = std::min(a.y(), b.y()) - 10;
    for (const TankMark& t : profile_.tanks) {  // clear of a tank's own words
      const QPointF mark = toScreen(t.along_m, t.level_m);
      if (std::abs(mark.y() - y) < 34 && mark.x() > x - 90 && mark.x() < x + w + 20)
        y = std::min(y, mark.y() - 26);
    }
    auto box = [&] { return QRectF(x - 4, y - 13, w + 8, 16); };
    while (y > 20 && std::any_of(said.begin(), said.end(),
                                 [&](const QRectF& other) { return other.intersects(box()); }))
      y -= 16;
    if (y <= 20) continue;  // no room left: the broken line stays, and Plan and Ledger say it
    said.push_back(box());
    p.setPen(look_.warning);
    p.drawText(QPointF(x, y), words);
  }
}

void LevelsView::paintOn(QPainter& p, const QSize& size) {
  if (size != size_) scaleToFit(size);
  const QRectF whole(QPointF(0, 0), QSizeF(size));
  p.fillRect(whole, look_.sheet);
  p.setRenderHint(QPainter::Antialiasing, true);
  const Unit& unit = doc_.units().unitFor(Measure::height);
  const QRectF field(left_, top_, size.width() - left_ - right_, size.height() - top_ - bottom_);
  if (profile_.stations.empty()) {
    p.setFont(face(12.5));
    p.setPen(look_.ink2);
    p.drawText(whole, Qt::AlignCenter,
               tr("Draw a line to see heights along a route; grade lines appear once it carries flow."));
    return;
  }
  const auto& st = profile_.stations;
  // The corridor: hatched below the floor and above the ceiling.
  QPainterPath floorPath, ceilingPath;
  bool anyCeiling = false;
  {
    QPolygonF line;
    for (const Station& s : st) line << toScreen(s.along_m, s.floor_m());
    QPolygonF area = line;
    area << QPointF(line.last().x(), field.bottom()) << QPointF(line.first().x(), field.bottom());
    p.save();
    p.setClipRect(field);
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(look_.hair, Qt::BDiagPattern));
    p.drawPolygon(area);
    p.setPen(QPen(look_.ink2, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
    // The ceiling stands where a rating is given.
    for (std::size_t i = 0; i + 1 < st.size(); ++i) {
      if (!st[i].ceiling_m || st[i].step != st[i + 1].step) continue;
      const double rise = *st[i].ceiling_m - st[i].height_m;
      const QPointF a = toScreen(st[i].along_m, *st[i].ceiling_m),
                    b = toScreen(st[i + 1].along_m, st[i + 1].height_m + rise);
      p.setPen(Qt::NoPen);
      p.setBrush(QBrush(look_.hair, Qt::BDiagPattern));
      p.drawPolygon(QPolygonF({a, b, QPointF(b.x(), field.top() - 2), QPointF(a.x(), field.top() - 2)}));
      p.setPen(QPen(look_.ceiling, 1.4));
      p.drawLine(a, b);
      anyCeiling = true;
    }
    p.restore();
  }
  // Axes.
  const double step =
      niceStep((high_ - low_) / unit.factor, std::max(3, static_cast<int>(field.height() / 46))) *
      unit.factor;
  p.setFont(face(10.5));
  for (double v = std::ceil(low_ / step) * step; v <= high_; v += step) {
    const double y = toScreen(0, v).y();
    if (y < 22) continue;  // there the unit stands
    p.setPen(QPen(look_.grid, 1));
    p.drawLine(QPointF(left_, y), QPointF(field.right(), y));
    p.setPen(look_.ink2);
    p.drawText(QRectF(4, y - 8, left_ - 12, 16), Qt::AlignRight | Qt::AlignVCenter,
               withThousands(QString::number(inUnit(v, unit), 'f', step / unit.factor < 1 ? 1 : 0)));
  }
  p.setPen(look_.ink2);
  p.drawText(QRectF(4, 1, left_ - 12, 14), Qt::AlignRight,
             QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size())));
  const Unit& lengthUnit = doc_.units().unitFor(Measure::length);
  const double alongStep =
      niceStep(profile_.length_m / lengthUnit.factor, std::max(3, static_cast<int>(field.width() / 130))) *
      lengthUnit.factor;
  for (double x = 0; x <= profile_.length_m * 1.0001 && alongStep > 0; x += alongStep) {
    const QPointF at = toScreen(x, low_);
    p.setPen(QPen(look_.ink2, 1));
    p.drawLine(QPointF(at.x(), field.bottom()), QPointF(at.x(), field.bottom() + 4));
    p.drawText(QRectF(at.x() - 40, field.bottom() + 5, 80, 14), Qt::AlignCenter,
               withThousands(QString::number(inUnit(x, lengthUnit), 'g', 5)));
  }
  // Pipe line.
  QPolygonF pipe;
  for (const Station& s : st) pipe << toScreen(s.along_m, s.height_m);
  p.setPen(QPen(look_.ink, 3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.drawPolyline(pipe);
  drawLacks(p);
  // Grades: dashed energy grade, solid hydraulic grade; faint while the answer is older than the model.
  QColor water = look_.water;
  if (!doc_.current()) water.setAlphaF(0.45F);
  auto grade = [&](auto which, const QPen& pen) {
    p.setPen(pen);
    QPolygonF line;
    for (const Station& s : st) {
      if (const auto v = which(s)) {
        line << toScreen(s.along_m, *v);
      } else {
        p.drawPolyline(line);
        line.clear();
      }
    }
    p.drawPolyline(line);
  };
  grade([](const Station& s) { return s.energy_m; }, QPen(water, 1, Qt::DashLine));
  grade([](const Station& s) { return s.hydraulic_m; },
        QPen(water, 2.4, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin));
  // Where the grade leaves the corridor.
  for (std::size_t i = 0; i + 1 < st.size(); ++i) {
    auto out = [&](const Station& s) {
      return s.hydraulic_m &&
             (*s.hydraulic_m < s.floor_m() || (s.ceiling_m && *s.hydraulic_m > *s.ceiling_m));
    };
    if (!out(st[i]) && !out(st[i + 1])) continue;
    if (!st[i].hydraulic_m || !st[i + 1].hydraulic_m) continue;
    p.setPen(QPen(look_.warning, 3));
    p.drawLine(toScreen(st[i].along_m, *st[i].hydraulic_m),
               toScreen(st[i + 1].along_m, *st[i + 1].hydraulic_m));
  }
  // Labels of risers and drops; they keep out of each other's way and off the lines.
  std::vector<QRectF> taken;
  if (const QRectF lens = lensBox(size); !lens.isEmpty()) taken.push_back(lens);
  // Lines a label must not lie on: pipe and grades as painted.
  std::vector<QLineF> ink;
  for (std::size_t i = 0; i + 1 < st.size(); ++i) {
    ink.emplace_back(toScreen(st[i].along_m, st[i].height_m),
                     toScreen(st[i + 1].along_m, st[i + 1].height_m));
    if (st[i].hydraulic_m && st[i + 1].hydraulic_m)
      ink.emplace_back(toScreen(st[i].along_m, *st[i].hydraulic_m),
                       toScreen(st[i + 1].along_m, *st[i + 1].hydraulic_m));
    ink.emplace_back(toScreen(st[i].along_m, st[i].floor_m()),
                     toScreen(st[i + 1].along_m, st[i + 1].floor_m()));
    if (st[i].energy_m && st[i + 1].energy_m)
      ink.emplace_back(toScreen(st[i].along_m, *st[i].energy_m),
                       toScreen(st[i + 1].along_m, *st[i + 1].energy_m));
    if (st[i].ceiling_m && st[i + 1].ceiling_m)
      ink.emplace_back(toScreen(st[i].along_m, *st[i].ceiling_m),
                       toScreen(st[i + 1].along_m, *st[i + 1].ceiling_m));
  }
  auto clear = [&](const QRectF& box) {
    if (!field.adjusted(-2, -2, right_, 2).contains(box)) return false;
    if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& r) { return r.intersects(box); }))
      return false;
    return std::none_of(ink.begin(), ink.end(), [&](const QLineF& l) {
      if (box.contains(l.p1()) || box.contains(l.p2())) return true;
      for (const QLineF& edge :
           {QLineF(box.topLeft(), box.bottomRight()), QLineF(box.topRight(), box.bottomLeft())})
        if (l.intersects(edge, nullptr) == QLineF::BoundedIntersection) return true;
      return false;
    });
  };
  // As near as can be to where it belongs; a label that finds no room within `reach` is left out.
  auto place = [&](QRectF box, double reach = 64) -> std::optional<QRectF> {
    for (double off = 0; off <= reach; off += 6)
      for (const double sign : {-1.0, 1.0}) {
        const QRectF tried = box.translated(0, sign * off);
        if (!clear(tried)) continue;
        taken.push_back(tried);
        return tried;
      }
    return std::nullopt;
  };
  auto two = [&](const QRectF& box, const QString& first, const QString& second, const QColor& tone) {
    p.setFont(face(12, true));
    p.setPen(tone);
    p.drawText(box.adjusted(0, 0, 0, -14), Qt::AlignLeft | Qt::AlignVCenter, first);
    p.setFont(face(11));
    p.setPen(look_.ink2);
    p.drawText(box.adjusted(0, 14, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, second);
  };
  const Network& net = doc_.network();
  const std::size_t lens = taken.size();
  for (const TankMark& t : profile_.tanks) {
    const QPointF at = toScreen(t.along_m, t.level_m);
    taken.emplace_back(at.x() - 9, at.y() - 10, 18, 12);
  }
  const std::size_t marks = taken.size();
  for (const TankMark& t : profile_.tanks) {
    if (!net.find(t.tank)) continue;
    const QPointF at = toScreen(t.along_m, t.level_m);
    p.setPen(Qt::NoPen);
    p.setBrush(doc_.isSelected(t.tank) ? look_.ink : look_.water);
    p.drawPolygon(QPolygonF({at, at + QPointF(-6, -9), at + QPointF(6, -9)}));
    p.setPen(QPen(look_.water, 1.6));
    p.drawLine(at + QPointF(-9, 0), at + QPointF(9, 0));
    const bool leftEnd = t.along_m < profile_.length_m / 2;
    const QString text = QString::fromStdString(withUnit(t.level_m, Measure::height, doc_.units()));
    const double w = QFontMetricsF(face(12, true)).horizontalAdvance(text) + 4;
    if (const auto box = place(QRectF(at.x() + (leftEnd ? 10 : -10 - w), at.y() - 26, w, 15))) {
      p.setFont(face(12, true));
      p.setPen(look_.water);
      p.drawText(*box, Qt::AlignCenter, text);
    }
  }
  for (std::size_t i = 0; i + 1 < st.size(); ++i) {
    if (st[i].step != st[i + 1].step) continue;
    const Element* e = net.find(route_[st[i].step].element);
    if (!e || !st[i].energy_m || !st[i + 1].energy_m) continue;
    const double jump = *st[i + 1].energy_m - *st[i].energy_m;
    if (e->part->geometry || e->part->ends != Ends::two || std::abs(jump) < 0.012 * (high_ - low_)) continue;
    const QPointF mid = toScreen(st[i].along_m, (*st[i].energy_m + *st[i + 1].energy_m) / 2);
    const QString name = QString::fromStdString(e->name),
                  by = (jump > 0 ? "+" : "−") +
                       QString::fromStdString(withUnit(std::abs(jump), Measure::headDrop, doc_.units()));
    const double w = std::max(QFontMetricsF(face(12, true)).horizontalAdvance(name),
                              QFontMetricsF(face(11)).horizontalAdvance(by)) +
                     4;
    if (const auto box = place(QRectF(mid.x() + 7, mid.y() - 15, w, 30)))
      two(*box, name, by, doc_.isSelected(route_[st[i].step].element) ? look_.water : look_.ink);
  }
  auto word = [&](QPointF at, const QString& text, const QColor& tone) {
    const double w = QFontMetricsF(face(10.5)).horizontalAdvance(text) + 4;
    if (const auto box = place(QRectF(at.x() - w / 2, at.y(), w, 14), 18)) {
      p.setFont(face(10.5));
      p.setPen(tone);
      p.drawText(*box, Qt::AlignCenter, text);
    }
  };
  // Names of the lines, at the middle of the longest piece.
  std::size_t longest = 0;
  for (std::size_t i = 0; i + 1 < st.size(); ++i)
    if (st[i + 1].along_m - st[i].along_m > st[longest + 1].along_m - st[longest].along_m) longest = i;
  const double x = (st[longest].along_m + st[longest + 1].along_m) / 2;
  if (st[longest].hydraulic_m && st[longest + 1].hydraulic_m)
    word(toScreen(x, (*st[longest].hydraulic_m + *st[longest + 1].hydraulic_m) / 2) + QPointF(0, -18),
         tr("hydraulic grade"), look_.water);
  word(toScreen(x, (st[longest].height_m + st[longest + 1].height_m) / 2) + QPointF(0, 5), tr("pipe"),
       look_.ink);
  word(toScreen(x, (st[longest].floor_m() + st[longest + 1].floor_m()) / 2) + QPointF(0, 4),
       tr("floor (vapour pressure)"), look_.ink2);
  if (anyCeiling)
    for (const Station& s : st)
      if (s.ceiling_m && toScreen(s.along_m, *s.ceiling_m).y() > field.top() + 2) {
        word(toScreen(s.along_m, *s.ceiling_m) + QPointF(52, -15), tr("ceiling (pressure rating)"),
             look_.ceiling);
        break;
      }
  painted_.lines = ink;
  painted_.marks.assign(taken.begin() + static_cast<std::ptrdiff_t>(lens),
                        taken.begin() + static_cast<std::ptrdiff_t>(marks));
  painted_.labels.assign(taken.begin() + static_cast<std::ptrdiff_t>(marks), taken.end());
  // Selection and handles.
  for (const Handle& h : handles_) {
    const QPointF at = toScreen(h.along_m, h.level_m);
    const bool near = handHere_ && std::hypot(at.x() - hand_.x(), at.y() - hand_.y()) < 10;
    if (!near && !doc_.isSelected(h.id)) continue;
    p.setPen(QPen(look_.ink, 1.5));
    p.setBrush(doc_.isSelected(h.id) ? look_.water : look_.sheet);
    p.drawEllipse(at, 5, 5);
  }
  for (std::size_t i = 0; i + 1 < st.size(); ++i)
    if (st[i].step == st[i + 1].step && doc_.isSelected(route_[st[i].step].element) &&
        st[i + 1].along_m > st[i].along_m) {
      p.setPen(QPen(look_.ink, 1.4, Qt::DotLine));
      p.drawLine(toScreen(st[i].along_m, st[i].height_m) + QPointF(0, 7),
                 toScreen(st[i + 1].along_m, st[i + 1].height_m) + QPointF(0, 7));
    }
  drawLens(p, size);
}

// In the corner where it hides least of the pipe and the grades.
QRectF LevelsView::lensBox(const QSize& size) const {
  const auto& st = profile_.stations;
  if (st.empty() || high_ - low_ < 8 * profile_.floorDepth_m || size.height() < 150 || size.width() < 500)
    return {};
  const double w = std::clamp(size.width() * 0.25, 210.0, 236.0), h = std::min(150.0, size.height() * 0.62);
  const double right = size.width() - right_ - w - 8, left = left_ + 40, top = top_ + 4,
               bottom = size.height() - bottom_ - h - 8;
  QRectF best;
  double least = 1e300;  // px of line hidden
  for (const QPointF& corner :
       {QPointF(right, bottom), QPointF(right, top), QPointF(left, bottom), QPointF(left, top),
        QPointF((left + right) / 2, bottom), QPointF((left + right) / 2, top)}) {
    const QRectF box(corner, QSizeF(w, h));
    double hidden = 0;
    for (std::size_t i = 0; i + 1 < st.size(); ++i)
      for (double t = 0; t < 1; t += 0.05) {
        const double along = st[i].along_m + t * (st[i + 1].along_m - st[i].along_m);
        auto hides = [&](double a, double b) {
          if (box.contains(toScreen(along, a + t * (b - a))))
            hidden += 0.05 * QLineF(toScreen(st[i].along_m, a), toScreen(st[i + 1].along_m, b)).length();
        };
        hides(st[i].height_m, st[i + 1].height_m);
        if (st[i].hydraulic_m && st[i + 1].hydraulic_m) hides(*st[i].hydraulic_m, *st[i + 1].hydraulic_m);
      }
    if (hidden < least) least = hidden, best = box;
  }
  return best;
}

// Where the route spans hundreds of metres and a suction has a few, that stretch is drawn again, magnified.
void LevelsView::drawLens(QPainter& p, const QSize& size) {
  const QRectF box = lensBox(size);
  if (box.isEmpty()) return;
  const Network& net = doc_.network();
  const auto& st = profile_.stations;
  std::size_t pumpAt = 0;
  bool found = false;
  for (std::size_t i = 0; i < st.size() && !found; ++i) {
    const Element* e = net.find(route_[st[i].step].element);
    if (e && e->part->lifts && st[i].energy_m) pumpAt = i, found = true;
  }
  if (!found || pumpAt == 0) return;
  double reach = std::max(st[pumpAt].along_m - st.front().along_m, 1.0);
  double low = 1e300, high = -1e300;
  for (std::size_t i = 0; i <= pumpAt; ++i) {
    low = std::min(low, st[i].floor_m());
    high = std::max({high, st[i].height_m, st[i].energy_m.value_or(-1e300)});
  }
  const double pad = 0.08 * (high - low);
  low -= pad, high += 2.2 * pad;
  const double w = box.width();
  const QRectF in = box.adjusted(34, 20, -10, -10);
  auto at = [&](double along, double level) {
    return QPointF(in.left() + along / reach * in.width(),
                   in.top() + (high - level) / (high - low) * in.height());
  };
  p.setPen(QPen(look_.hair, 1));
  p.setBrush(look_.sheet);
  p.drawRoundedRect(box, 4, 4);
  p.save();
  p.setClipRect(box.adjusted(1, 18, -1, -1));
  QPolygonF pipe, floor, gradeLine;
  for (std::size_t i = 0; i <= pumpAt; ++i) {
    pipe << at(st[i].along_m, st[i].height_m);
    floor << at(st[i].along_m, st[i].floor_m());
    if (st[i].hydraulic_m) gradeLine << at(st[i].along_m, *st[i].hydraulic_m);
  }
  QPolygonF area = floor;
  area << QPointF(floor.last().x(), box.bottom()) << QPointF(floor.first().x(), box.bottom());
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(look_.hair, Qt::BDiagPattern));
  p.drawPolygon(area);
  p.setPen(QPen(look_.ink2, 1, Qt::DotLine));
  p.drawPolyline(floor);
  p.setPen(QPen(look_.ink, 2.4));
  p.drawPolyline(pipe);
  p.setPen(QPen(look_.water, 2));
  p.drawPolyline(gradeLine);
  // What the pump needs, above the floor at its suction.
  const Id pump = route_[st[pumpAt].step].element;
  const auto read = doc_.solved()->reading(pump, net.at(pump).part);
  const auto outcome = [&](std::string_view key) {
    return read ? outcomeOf(*net.at(pump).part, key, **read) : std::nullopt;
  };
  const auto required = outcome("NPSH required"), margin = outcome("NPSH margin");
  const double x = in.right();
  if (required) {
    const QPointF a = at(reach, st[pumpAt].floor_m()), b = at(reach, st[pumpAt].floor_m() + *required);
    p.setPen(QPen(look_.warning, 4));
    p.drawLine(QPointF(x, a.y()), QPointF(x, b.y()));
    if (margin && *margin > 0) {
      p.setPen(QPen(look_.water, 4));
      p.drawLine(QPointF(x, b.y()), QPointF(x, at(reach, *st[pumpAt].energy_m).y()));
    }
  }
  p.restore();
  p.setFont(face(10.5, true));
  const QRectF heading(box.left() + 8, box.top() + 3, w - 16, 15);
  const QString left =
      margin
          ? tr("margin %1").arg(QString::fromStdString(withUnit(*margin, Measure::headDrop, doc_.units(), 3)))
          : QString();
  const QFontMetricsF metrics(p.font());
  p.setPen(look_.ink);
  p.drawText(heading, Qt::AlignLeft,
             metrics.elidedText(tr("Suction of %1").arg(QString::fromStdString(net.at(pump).name)),
                                Qt::ElideRight, heading.width() - metrics.horizontalAdvance(left) - 8));
  p.setPen(margin && *margin < 0 ? look_.warning : look_.water);
  p.drawText(heading, Qt::AlignRight, left);
  p.setFont(face(10));
  p.setPen(look_.ink2);
  const Unit& unit = doc_.units().unitFor(Measure::height);
  const double step = niceStep((high - low) / unit.factor, 4) * unit.factor;
  for (double v = std::ceil(low / step) * step; v < high - pad; v += step)
    p.drawText(QRectF(box.left() + 2, at(0, v).y() - 7, 29, 14), Qt::AlignRight | Qt::AlignVCenter,
               withThousands(QString::number(inUnit(v, unit), 'g', 4)));
}

void LevelsView::drawReading(QPainter& p) {
  if (!handHere_ || profile_.stations.size() < 2 || hand_.x() < left_ || hand_.x() > width() - right_) return;
  const double along = (hand_.x() - left_) / std::max(1.0, width() - left_ - right_) * profile_.length_m;
  const SolvedPtr& solved = doc_.solved();
  const AlongReading at = readingAt(profile_, solved ? solved->solution.setting.medium : Medium{}, along);
  QStringList lines{tr("at %1").arg(QString::fromStdString(withUnit(along, Measure::length, doc_.units())))};
  const Element* e = doc_.network().find(route_[profile_.stations[at.station].step].element);
  if (e) lines[0] += ", " + QString::fromStdString(e->name);
  if (at.grade_m) {
    lines << tr("grade %1").arg(QString::fromStdString(withUnit(*at.grade_m, Measure::head, doc_.units())));
    QString text = QString::fromStdString(withUnit(*at.pressure_pa, Measure::gaugePressure, doc_.units(), 3));
    if (at.allowed_pa)
      text += tr(" of %1").arg(
          QString::fromStdString(asNumber(*at.allowed_pa, Measure::gaugePressure, doc_.units(), 3)));
    lines << text;
  }
  lines << tr("pipe %1").arg(QString::fromStdString(withUnit(at.height_m, Measure::height, doc_.units())));
  p.setPen(QPen(look_.ink2, 1, Qt::DotLine));
  p.drawLine(QPointF(hand_.x(), top_), QPointF(hand_.x(), this->height() - bottom_));
  double w = 0;
  for (const QString& l : lines) w = std::max(w, QFontMetricsF(face(11.5, true)).horizontalAdvance(l));
  QRectF box(hand_.x() + 12, hand_.y() - 34, w + 16, 15.0 * static_cast<double>(lines.size()) + 10);
  if (box.right() > width() - 4) box.moveRight(hand_.x() - 12);
  box.moveTop(std::clamp(box.top(), 4.0, std::max(4.0, this->height() - box.height() - 4)));
  p.setPen(QPen(look_.hair, 1));
  p.setBrush(look_.field);
  p.drawRoundedRect(box, 3, 3);
  for (int k = 0; k < lines.size(); ++k) {
    p.setFont(face(11.5, k == 1));
    p.setPen(k == 1 ? look_.water : k == 0 ? look_.ink2 : look_.ink);
    p.drawText(QRectF(box.x() + 8, box.y() + 5 + 15 * k, w + 8, 15), Qt::AlignLeft | Qt::AlignVCenter,
               lines[k]);
  }
}

void LevelsView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintOn(p, size());
  if (!profile_.stations.empty()) drawReading(p);
  if (hasFocus()) {
    p.setPen(QPen(look_.hair, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace conduit::desktop

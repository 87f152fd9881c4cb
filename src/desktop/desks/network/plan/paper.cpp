// What stands on the drawing only: pictures under it, remarks and dimensions on it; and the heights of lines.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "network/arrange.h"
#include "network/put.h"
#include "plan/plan_view.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

double fieldOr(const Element& e, std::string_view key) {
  const Field* f = findField(*e.part, key);
  const Given* g = e.given(key);
  return g ? g->value : f && f->fallback ? *f->fallback : 0.0;
}

}  // namespace

QPolygonF PlanView::pictureFrame(const Element& e) const {
  const QImage* image = pictures_.image(doc_.network(), e, doc_.folder());
  const double w = fieldOr(e, key::width) * scale_,
               h = image ? w * image->height() / image->width() : w * 0.7;
  QTransform t;
  t.translate(toScreen(e.at).x(), toScreen(e.at).y());
  t.rotate(-fieldOr(e, "turned"));
  return t.map(QPolygonF(QRectF(-w / 2, -h / 2, w, h)));
}

void PlanView::drawPictures(QPainter& p) {
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->paper != Paper::picture) continue;
    const QPolygonF frame = pictureFrame(e);
    const QImage* image = pictures_.image(doc_.network(), e, doc_.folder());
    if (image) {
      p.save();
      p.setOpacity(fieldOr(e, "strength"));
      p.setRenderHint(QPainter::SmoothPixmapTransform, true);
      QTransform t;
      t.translate(toScreen(e.at).x(), toScreen(e.at).y());
      t.rotate(-fieldOr(e, "turned"));
      const double s = fieldOr(e, key::width) * scale_ / image->width();
      t.scale(s, s);
      t.translate(-image->width() / 2.0, -image->height() / 2.0);
      p.setTransform(t, true);
      p.drawImage(0, 0, *image);
      p.restore();
    } else {  // its place is kept and says why it is empty
      p.setPen(QPen(look_.ink2, 1, Qt::DashLine));
      p.setBrush(Qt::NoBrush);
      p.drawPolygon(frame);
      p.setFont(face(11.5));
      p.drawText(frame.boundingRect(), Qt::AlignCenter | Qt::TextWordWrap,
                 QString::fromStdString(e.name) + "\n" + pictures_.why(e));
    }
    if (doc_.isSelected(id)) {
      p.setPen(QPen(look_.ink, 1.4, Qt::DotLine));
      p.setBrush(Qt::NoBrush);
      p.drawPolygon(frame);
    }
  }
}

QRectF PlanView::remarkBox(const Element& e) const {
  const auto* text = e.text(key::text);
  const QFont font = face(12 * fieldOr(e, key::size));
  const QString words = text ? QString::fromStdString(*text) : tr("type text");
  QRectF box = QFontMetricsF(font).boundingRect(QRectF(0, 0, 260 * fieldOr(e, key::size), 4000),
                                                Qt::TextWordWrap, words);
  box.moveTopLeft(toScreen(e.at));
  return box.adjusted(-4, -2, 4, 2);
}

void PlanView::drawRemarks(QPainter& p) {
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->paper == Paper::remark) {
      const auto* text = e.text(key::text);
      const QRectF box = remarkBox(e);
      p.setFont(face(12 * fieldOr(e, key::size)));
      p.setPen(text ? look_.ink : look_.ink2);
      p.drawText(box.adjusted(4, 2, -4, -2), Qt::TextWordWrap,
                 text ? QString::fromStdString(*text) : tr("type text"));
      if (doc_.isSelected(id)) {
        p.setPen(QPen(look_.ink, 1.4, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(box);
      }
    } else if (e.part->paper == Paper::dimension) {
      const auto line = dimensionLine(e);
      const auto* own = e.text(key::text);
      const Spot a = doc_.network().at(e.ends[0]).at, b = doc_.network().at(e.ends[1]).at;
      const QString words = own && !own->empty()
                                ? QString::fromStdString(*own)
                                : QString::fromStdString(withUnit(std::hypot(a.x - b.x, a.y - b.y),
                                                                  Measure::length, doc_.units(), 4));
      const double length = line.length();
      if (length < 8) continue;
      const QPointF u(line.dx() / length, line.dy() / length), n(-u.y(), u.x());
      p.setPen(QPen(look_.ink2, 1, doc_.isSelected(id) ? Qt::DotLine : Qt::SolidLine));
      p.drawLine(toScreen(a), line.p1() + n * 3);
      p.drawLine(toScreen(b), line.p2() + n * 3);
      p.drawLine(line);
      for (const auto& [at, way] :
           {std::pair{line.p1(), u}, {line.p2(), -u}}) {  // short strokes across, as draughtsmen set them
        const QPointF slant = (way + QPointF(-way.y(), way.x())) * 4;
        p.drawLine(at - slant, at + slant);
      }
      p.setFont(face(11.5));
      p.setPen(look_.ink);
      const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 8;
      p.save();
      p.translate(line.center());
      double angle = std::atan2(u.y(), u.x()) * 180 / M_PI;
      if (angle > 90.5 || angle < -89.5) angle += 180;
      p.rotate(angle);
      p.fillRect(QRectF(-w / 2, -8, w, 16), look_.sheet);
      p.drawText(QRectF(-w / 2, -8, w, 16), Qt::AlignCenter, words);
      p.restore();
    }
  }
}

QLineF PlanView::dimensionLine(const Element& e) const {
  const Spot a = doc_.network().at(e.ends[0]).at, b = doc_.network().at(e.ends[1]).at;
  const double d = std::max(std::hypot(b.x - a.x, b.y - a.y), 1e-9);
  // Without an offset of its own it keeps clear of the bands.
  const double own = fieldOr(e, "offset"), offset = own != 0.0 ? own : 26 / scale_;
  const Spot n{-(b.y - a.y) / d * offset, (b.x - a.x) / d * offset};
  return {toScreen({a.x + n.x, a.y + n.y}), toScreen({b.x + n.x, b.y + n.y})};
}

// Rise ticks: a short stroke across the band for each metre up, hollow for down; ten metres are one long
// stroke where single metres would crowd. The way is that of the drawing of the pipe, not of the flow.
void PlanView::drawRises(QPainter& p, const QRectF& visible) {
  for (const Band& b : bands_) {
    const bool wanted = heights_ || mode_ == Mode::line || doc_.isSelected(b.id);
    if (!wanted || b.rise == 0.0) continue;
    QPointF s = toScreen(b.a), t = toScreen(b.b);
    if (!QRectF(s, t).normalized().adjusted(-20, -20, 20, 20).intersects(visible)) continue;
    const double length = std::hypot(t.x() - s.x(), t.y() - s.y());
    if (length < 14) continue;  // a riser: see below
    const QPointF u = (t - s) / length, n(-u.y(), u.x());
    double unit = 1.0;
    while (std::abs(b.rise) / unit * 5.0 > length * 0.6) unit *= 10;
    const int count = static_cast<int>(std::floor(std::abs(b.rise) / unit + 1e-6));
    if (count == 0) continue;
    const double half = b.width / 2 + 3 + 2 * std::log10(unit), gap = std::min(7.0, length * 0.6 / count);
    const QPointF first = s + u * (length / 2 - gap * (count - 1) / 2);
    for (int i = 0; i < count; ++i) {
      const QPointF at = first + u * (gap * i);
      p.setPen(QPen(look_.ink, 1.6, Qt::SolidLine, Qt::RoundCap));
      if (b.rise > 0) {
        p.drawLine(at - n * half, at + n * half);
      } else {  // hollow: the stroke is an outline
        p.setPen(QPen(look_.ink, 1));
        p.setBrush(look_.sheet);
        const QPointF w = u * 1.3;
        p.drawPolygon(
            QPolygonF({at - n * half - w, at + n * half - w, at + n * half + w, at - n * half + w}));
      }
    }
  }
  if (spacing_ < 16 || (inMotion() && bands_.size() > 400)) return;
  // Risers: a line that ends above or below where it begins is a ring beside the point, with an arrow up or
  // down in it.
  for (const Band& b : bands_) {
    const QPointF s = toScreen(b.a), t = toScreen(b.b);
    if (!b.riser || std::hypot(t.x() - s.x(), t.y() - s.y()) >= 14 || !visible.contains(s)) continue;
    const QPointF at = riserSpot(b);
    p.setPen(QPen(look_.ink, 1));
    p.drawLine(s, at);
    p.setPen(QPen(look_.ink, doc_.isSelected(b.id) ? 2.4 : 1.4));
    p.setBrush(b.share < 0 ? look_.field : look_.onScale(b.share));
    p.drawEllipse(at, 8, 8);
    const double way = b.rise >= 0 ? -1 : 1;
    p.setPen(QPen(b.share >= 0.4 ? look_.sheet : look_.ink, 1.6));
    p.drawLine(at + QPointF(0, -4.5 * way), at + QPointF(0, 4.5 * way));
    p.drawLine(at + QPointF(0, 4.5 * way), at + QPointF(-3, 1.5 * way));
    p.drawLine(at + QPointF(0, 4.5 * way), at + QPointF(3, 1.5 * way));
    if (b.rise != 0.0) {
      p.setFont(face(10));
      p.setPen(look_.ink2);
      p.drawText(QRectF(at.x() - 91, at.y() - 8, 80, 16), Qt::AlignRight | Qt::AlignVCenter,
                 QString::fromStdString(withUnit(std::abs(b.rise), Measure::headDrop, doc_.units(), 3)) +
                     (b.rise > 0 ? tr(" up") : tr(" down")));
    }
  }
}

QPointF PlanView::riserSpot(const Band& b) const {
  const QPointF mid = (toScreen(b.a) + toScreen(b.b)) / 2;
  return mid + QPointF(-16, -18) - QPointF(20, 0) * b.stacked;  // where no mark of a finding stands
}

}  // namespace conduit::desktop

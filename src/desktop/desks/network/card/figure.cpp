#include "card/figure.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "parts/take_off.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

double niceTop(double v) {
  const double power = std::pow(10.0, std::floor(std::log10(std::max(v, 1e-12))));
  for (const double f : {1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0})
    if (f * power >= v) return f * power;
  return v;
}

}  // namespace

CardFigure::CardFigure(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("figure");
  setAccessibleName(tr("Figure"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

bool CardFigure::display(Id id, const Look& look) {
  id_ = id;
  look_ = look;
  const Element* e = doc_.network().find(id);
  if (!e || id == jobId) return false;
  const bool curves = e->part->figure != nullptr, tank = e->part->ends == Ends::many;
  wanted_ = curves ? 150 : tank ? 84 : 0;
  setFixedHeight(std::max(1, wanted_));
  update();
  return curves || tank;
}

void CardFigure::paintEvent(QPaintEvent*) {
  const Element* e = doc_.network().find(id_);
  if (!e) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  if (e->part->figure) paintCurves(p);
  else if (e->part->ends == Ends::many) paintTank(p);
}

void CardFigure::paintCurves(QPainter& p) {
  const SolvedPtr& solved = doc_.solved();
  const bool usable = solved && solved->usable() && solved->element(id_, doc_.network().at(id_).part);
  const Network& net = usable ? solved->network : doc_.network();
  const ReadingOf reading(net, usable ? solved->solution : Solution::none(), id_);
  const Element& e = net.at(id_);
  const auto curves = e.part->figure(*reading);
  const QRectF box(28, 6, width() - 34, height() - 26);
  p.setPen(QPen(look_.hair, 1));
  p.setBrush(look_.sheet);
  p.drawRect(box);
  double xTop = 0, yTop = 0;
  const auto outcome = [&](std::string_view key) {
    return usable ? outcomeOf(*e.part, key, *reading) : std::nullopt;
  };
  const auto q = outcome("flow"), h = outcome("head");
  const std::vector<DutyPoint> empty;
  const auto& system = usable && solved->curveOf == id_ ? solved->systemCurve.points : empty;
  for (const FigureCurve& c : curves)
    if (c.measure == Measure::headDrop)
      for (const auto& [x, y] : c.points) xTop = std::max(xTop, x), yTop = std::max(yTop, y);
  if (q) xTop = std::max(xTop, *q * 1.25);
  if (h) yTop = std::max(yTop, *h * 1.15);
  if (xTop <= 0 || yTop <= 0) return;
  const Unit& flowUnit = doc_.units().unitFor(Measure::volumeFlow);
  const Unit& headUnit = doc_.units().unitFor(Measure::headDrop);
  yTop = niceTop(yTop * 1.04 / headUnit.factor) * headUnit.factor;
  auto at = [&](double x, double y) {
    return QPointF(box.left() + x / xTop * box.width(), box.bottom() - y / yTop * box.height());
  };
  // The preferred region about the best flow.
  for (const FigureCurve& c : curves)
    if (c.measure == Measure::ratio && !c.points.empty()) {
      const auto best = std::max_element(c.points.begin(), c.points.end(),
                                         [](const auto& a, const auto& b) { return a.second < b.second; });
      p.setPen(Qt::NoPen);
      p.setBrush(look_.grid);
      const double x0 = at(0.7 * best->first, 0).x(),
                   x1 = std::min(at(1.2 * best->first, 0).x(), box.right());
      p.drawRect(QRectF(x0, box.top() + 1, std::max(0.0, x1 - x0), box.height() - 2));
    }
  p.setFont(face(10));
  p.setPen(look_.ink2);
  for (int i = 0; i <= 2; ++i) {
    p.drawText(QRectF(0, at(0, yTop * i / 2).y() - 7, 25, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(inUnit(yTop * i / 2, headUnit), 'g', 3));
  }
  const double flowStep = niceTop(inUnit(xTop, flowUnit) / 4);
  for (double x = 0; at(x * flowUnit.factor, 0).x() < box.right() - 36; x += flowStep)
    p.drawText(QRectF(at(x * flowUnit.factor, 0).x() - 20, box.bottom() + 3, 40, 14), Qt::AlignCenter,
               QString::number(x, 'g', 3));
  p.drawText(QRectF(box.right() - 60, box.bottom() + 3, 60, 14), Qt::AlignRight,
             QString::fromUtf8(flowUnit.symbol.data(), static_cast<int>(flowUnit.symbol.size())));
  p.save();
  p.setClipRect(box);
  auto draw = [&](const auto& points, const QPen& pen) {
    QPolygonF line;
    for (const auto& [x, y] : points) line << at(x, y);
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
  };
  std::vector<std::pair<double, double>> systemPoints;
  for (const DutyPoint& d : system)
    if (std::isfinite(d.head_m)) systemPoints.emplace_back(d.flow_m3s, d.head_m);
  draw(systemPoints, QPen(look_.water, 1.6));
  for (const FigureCurve& c : curves) {
    if (c.label == "head") draw(c.points, QPen(look_.ink, 2));
    if (c.label == "NPSH required") draw(c.points, QPen(look_.warning, 1.4, Qt::DashLine));
  }
  // NPSH available falls along the system's suction; only its value at the duty is known for certain.
  p.restore();
  auto word = [&](QPointF where, const QString& text, const QColor& ink, bool bold = false) {
    p.setFont(face(10, bold));
    p.setPen(ink);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(text);
    where.setX(std::clamp(where.x(), box.left() + 3, box.right() - w - 3));
    where.setY(std::clamp(where.y(), box.top() + 11, box.bottom() - 3));
    p.drawText(where, text);
  };
  for (const FigureCurve& c : curves) {
    if (c.points.empty()) continue;
    if (c.label == "head")
      word(at(c.points[2].first, c.points[2].second) + QPointF(4, -5), tr("head"), look_.ink);
    if (c.label == "NPSH required")
      word(at(c.points.back().first, c.points.back().second) + QPointF(-74, -6), tr("NPSH required"),
           look_.warning);
  }
  if (!systemPoints.empty())
    word(at(systemPoints[1].first, systemPoints[1].second) + QPointF(6, 14), tr("system"), look_.water);
  if (q && h) {
    if (const auto n = outcome("NPSH available")) {
      p.setPen(QPen(look_.warning, 1.6));
      p.setBrush(look_.sheet);
      if (const double y = *n; y > 0 && y < yTop) p.drawEllipse(at(*q, y), 3.2, 3.2);
    }
    p.setPen(QPen(look_.sheet, 1.2));
    p.setBrush(look_.water);
    p.drawEllipse(at(*q, *h), 5, 5);
    word(at(*q, *h) + QPointF(7, -7), tr("duty"), look_.ink, true);
  }
}

void CardFigure::paintTank(QPainter& p) {
  const Network& net = doc_.network();
  const Element& e = net.at(id_);
  const SolvedPtr& solved = doc_.solved();
  std::optional<double> level;
  if (const Given* z = e.given("level")) level = z->value;
  if (const auto reading = solved && e.values.released("level") ? solved->reading(id_, e.part) : nullptr)
    level = outcomeOf(*e.part, "level", **reading);
  if (!level) return;
  double low = *level, high = *level;
  std::vector<std::pair<double, QString>> taps;
  const Rows* rows = e.rows("connections");
  for (std::size_t i = 0; i < e.ends.size(); ++i) {
    std::optional<double> z;
    if (rows && i < rows->size() && !(*rows)[i].empty() && (*rows)[i][0]) z = (*rows)[i][0]->value;
    if (const Given* g = net.at(e.ends[i]).given("height"); !z && g) z = g->value;
    if (z)
      taps.emplace_back(*z, QString::fromStdString(net.at(e.ends[i]).name)), low = std::min(low, *z),
                                                                             high = std::max(high, *z);
  }
  const double pad = std::max(0.4, 0.25 * (high - low));
  low -= pad, high += pad;
  const QRectF box(14, 6, 92, height() - 12);
  auto y = [&](double z) { return box.bottom() - (z - low) / (high - low) * box.height(); };
  p.setPen(Qt::NoPen);
  p.setBrush(look_.flow[1]);
  p.drawRect(QRectF(box.left(), y(*level), box.width(), box.bottom() - y(*level)));
  p.setPen(QPen(look_.ink, 1.5));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(QPolygonF({box.topLeft(), box.bottomLeft(), box.bottomRight(), box.topRight()}));
  p.setPen(Qt::NoPen);
  p.setBrush(look_.water);
  const QPointF s(box.center().x(), y(*level));
  p.drawPolygon(QPolygonF({s, s + QPointF(-5, -7), s + QPointF(5, -7)}));
  p.setFont(face(10.5, true));
  p.setPen(look_.water);
  p.drawText(QPointF(box.right() + 34, y(*level) + 4),
             QString::fromStdString(withUnit(*level, Measure::height, doc_.units())));
  double last = y(*level);
  for (const auto& [z, name] : taps) {
    p.setPen(QPen(look_.ink, 4));
    p.drawLine(QPointF(box.right(), y(z)), QPointF(box.right() + 14, y(z)));
    if (std::abs(y(z) - last) < 12) continue;
    last = y(z);
    p.setFont(face(10));
    p.setPen(look_.ink2);
    p.drawText(QPointF(box.right() + 34, y(z) + 4),
               name + "  " + QString::fromStdString(withUnit(z, Measure::height, doc_.units())));
  }
}

}  // namespace conduit::desktop

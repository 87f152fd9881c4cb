#include "card/figure.h"

#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "plot/pump_figure.h"
#include "quantity/format.h"

namespace conduit::desktop {

CardFigure::CardFigure(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("figure");
  setAccessibleName(tr("Figure"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  stack_ = new Stack;
  layout->addWidget(stack_);
}

bool CardFigure::display(Id id, const Look& look) {
  id_ = id;
  look_ = look;
  const Element* e = doc_.network().find(id);
  if (!e || id == jobId) return false;
  const bool curves = e->part->figure != nullptr, tank = e->part->ends == Ends::many;
  wanted_ = curves ? 168 : tank ? 84 : 0;
  setFixedHeight(std::max(1, wanted_));
  stack_->setVisible(curves);
  if (curves) showPump();
  update();
  return curves || tank;
}

void CardFigure::paintEvent(QPaintEvent*) {
  const Element* e = doc_.network().find(id_);
  if (!e || e->part->ends != Ends::many) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  paintTank(p);
}

void CardFigure::showPump() {
  const SolvedPtr& solved = doc_.solved();
  const bool usable = solved && solved->usable() && solved->element(id_, doc_.network().at(id_).part);
  const Network& net = usable ? solved->network : doc_.network();
  const Solution& solution = usable ? solved->solution : Solution::none();
  const CurveSheet sheet = curveSheet(net, solution, id_, doc_.units());
  PumpFigure figure{.sheet = &sheet};
  if (usable && solved->curveOf == id_) figure.systems.push_back({{}, &solved->systemCurve});
  if (usable) {
    const ReadingOf reading(net, solution, id_);
    const Part& part = *net.at(id_).part;
    figure.duty_m3s = outcomeOf(part, key::flow, *reading),
    figure.dutyHead_m = outcomeOf(part, "head", *reading);
    if (figure.duty_m3s && *figure.duty_m3s <= 0) figure.duty_m3s.reset();
  }
  stack_->setLook(look_);
  stack_->display(stackOf(figure, doc_.units(), true));
}

void CardFigure::paintTank(QPainter& p) {
  const Network& net = doc_.network();
  const Element& e = net.at(id_);
  const SolvedPtr& solved = doc_.solved();
  std::optional<double> level;
  if (const Given* z = e.given(key::level)) level = z->value;
  if (const auto reading = solved && e.values.released(key::level) ? solved->reading(id_, e.part) : nullptr)
    level = outcomeOf(*e.part, key::level, **reading);
  if (!level) return;
  double low = *level, high = *level;
  std::vector<std::pair<double, QString>> taps;
  const Rows* rows = e.rows(key::connections);
  for (std::size_t i = 0; i < e.ends.size(); ++i) {
    std::optional<double> z;
    if (rows && i < rows->size() && !(*rows)[i].empty() && (*rows)[i][0]) z = (*rows)[i][0]->value;
    if (const Given* g = net.at(e.ends[i]).given(key::height); !z && g) z = g->value;
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

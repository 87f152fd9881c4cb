#include "plot/plot.h"

#include <qcustomplot.h>
#include <algorithm>

#include <QAction>
#include <QVBoxLayout>
#include <cmath>

#include "plot/grouped_ticker.h"
#include "plot/picture.h"

namespace conduit::desktop {

Plot::Plot(QWidget* parent) : QWidget(parent), plot_(new QCustomPlot(this)), look_(Look::light()) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(plot_);
  plot_->setObjectName("plot");
  plot_->setInteractions(QCP::Interactions());
  plot_->setMouseTracking(true);
  plot_->installEventFilter(this);
  plot_->xAxis2->setVisible(false);
  cursor_ = new QCPItemStraightLine(plot_);
  now_ = new QCPItemStraightLine(plot_);
  cursor_->setVisible(false);
  now_->setVisible(false);
  setAccessibleName(tr("Figure"));
  plot_->setFocusPolicy(Qt::ClickFocus);
  auto* copying = new QAction(tr("Copy the picture"), plot_);
  copying->setObjectName("plot.copy");
  copying->setShortcut(QKeySequence::Copy);
  copying->setShortcutContext(Qt::WidgetShortcut);
  connect(copying, &QAction::triggered, this, &Plot::copy);
  plot_->addAction(copying);
  plot_->setContextMenuPolicy(Qt::ActionsContextMenu);
}

void Plot::copy() const { copyPicture(*plot_, *this); }

void Plot::setLook(const Look& look) {
  look_ = look;
  draw();
}

void Plot::display(PlotData data) {
  data_ = std::move(data);
  draw();
}

void Plot::draw() {
  const double pointed = cursor_->visible() ? cursor_->point1->key() : NAN;
  plot_->clearGraphs();
  for (int i = plot_->itemCount(); i-- > 0;)
    if (plot_->item(i) != cursor_ && plot_->item(i) != now_) plot_->removeItem(plot_->item(i));
  plot_->setBackground(look_.sheet);
  const bool right = !data_.rightLabel.isEmpty();
  plot_->yAxis2->setVisible(right);
  plot_->yAxis2->setTickLabels(right);
  const std::pair<QCPAxis*, const QString*> axes[] = {
      {plot_->xAxis, &data_.xLabel}, {plot_->yAxis, &data_.yLabel}, {plot_->yAxis2, &data_.rightLabel}};
  for (const auto& [axis, label] : axes) {
    axis->setLabel(*label);
    axis->setLabelFont(face(11.5));
    axis->setTickLabelFont(face(11));
    axis->setLabelColor(look_.ink2);
    axis->setTickLabelColor(look_.ink2);
    axis->setBasePen(QPen(look_.hair));
    axis->setTickPen(QPen(look_.hair));
    axis->setSubTickPen(Qt::NoPen);
    axis->grid()->setPen(QPen(look_.grid));
    axis->grid()->setZeroLinePen(QPen(look_.grid));
    axis->setTickLength(0, 3);
    axis->setNumberFormat("gb");
    axis->setNumberPrecision(5);
    axis->setPadding(2);
  }
  plot_->yAxis2->grid()->setVisible(false);
  // As many numbers as there is room for.
  for (QCPAxis* axis : {plot_->yAxis, plot_->yAxis2}) {
    auto ticker = QSharedPointer<GroupedTicker>::create();
    ticker->setTickCount(std::clamp(height() / 40, 2, 6));
    axis->setTicker(ticker);
  }
  if (!data_.ticks.empty()) {
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (std::size_t i = 0; i < data_.ticks.size(); ++i)
      ticker->addTick(static_cast<double>(i), data_.ticks[i]);
    plot_->xAxis->setTicker(ticker);
  } else {
    plot_->xAxis->setTicker(QSharedPointer<GroupedTicker>::create());
  }
  for (const PlotCurve& c : data_.curves) {
    QCPGraph* graph = plot_->addGraph(plot_->xAxis, c.right ? plot_->yAxis2 : plot_->yAxis);
    const QColor tone = c.tone == 0   ? look_.water
                        : c.tone == 1 ? look_.ink
                                      : look_.flow[static_cast<std::size_t>(1 + (c.tone - 2) % 4)];
    graph->setPen(QPen(tone, c.tone == 0 ? 2.2 : 1.7, c.dashed ? Qt::DashLine : Qt::SolidLine));
    graph->setName(c.name);
    graph->setAntialiased(true);
    if (!data_.ticks.empty()) graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, 6));
    graph->setData(QVector<double>(c.x.begin(), c.x.end()), QVector<double>(c.y.begin(), c.y.end()), false);
    graph->data()->sort();
  }
  plot_->rescaleAxes();
  for (QCPAxis* axis : {plot_->yAxis, plot_->yAxis2}) axis->scaleRange(1.12);
  if (!data_.ticks.empty()) plot_->xAxis->setRange(-0.4, static_cast<double>(data_.ticks.size()) - 0.6);
  if (plot_->xAxis->range().size() <= 0)
    plot_->xAxis->setRange(plot_->xAxis->range().center(), 1, Qt::AlignCenter);
  const auto add = [&](auto* item) {
    item->setLayer("background");
    return item;
  };
  QColor shade = look_.water;
  shade.setAlpha(look_.dark ? 40 : 22);
  for (const auto& [from, to] : data_.shaded) {
    auto* rect = add(new QCPItemRect(plot_));
    rect->topLeft->setTypeY(QCPItemPosition::ptAxisRectRatio);
    rect->bottomRight->setTypeY(QCPItemPosition::ptAxisRectRatio);
    rect->topLeft->setCoords(from, 0);
    rect->bottomRight->setCoords(to, 1);
    rect->setPen(Qt::NoPen);
    rect->setBrush(shade);
  }
  for (const auto& [level, ofRight] : data_.limits) {
    auto* line = add(new QCPItemStraightLine(plot_));
    for (QCPItemPosition* p : {line->point1, line->point2}) {
      p->setAxes(plot_->xAxis, ofRight ? plot_->yAxis2 : plot_->yAxis);
    }
    line->point1->setCoords(plot_->xAxis->range().lower, level);
    line->point2->setCoords(plot_->xAxis->range().upper, level);
    line->setPen(QPen(look_.warning, 1, Qt::DotLine));
  }
  // The name of a curve stands on it, where it has room: at the right for the first, further left for others.
  for (std::size_t i = 0; i < data_.curves.size() && i < 8; ++i) {
    const PlotCurve& c = data_.curves[i];
    if (c.name.isEmpty() || c.x.empty()) continue;
    const std::size_t k = std::min(c.x.size() - 1, (c.x.size() - 1) * (86 - 14 * (i % 5)) / 100);
    if (!std::isfinite(c.y[k])) continue;
    auto* label = new QCPItemText(plot_);
    label->position->setAxes(plot_->xAxis, c.right ? plot_->yAxis2 : plot_->yAxis);
    label->position->setCoords(c.x[k], c.y[k]);
    label->setPositionAlignment(Qt::AlignHCenter | Qt::AlignBottom);
    label->setPadding(QMargins(2, 1, 2, 4));
    label->setText(c.name);
    QColor ground = look_.sheet;
    ground.setAlpha(205);  // the line goes on behind the words
    label->setBrush(ground);
    label->setFont(face(11.5));
    label->setColor(c.tone == 0 ? look_.water : look_.ink);
  }
  const auto place = [&](QCPItemStraightLine* line, double x, const QPen& pen) {
    line->setVisible(std::isfinite(x));
    if (!std::isfinite(x)) return;
    line->point1->setCoords(x, 0);
    line->point2->setCoords(x, 1);
    line->point1->setType(QCPItemPosition::ptPlotCoords);
    line->point2->setType(QCPItemPosition::ptPlotCoords);
    line->setPen(pen);
  };
  place(now_, data_.now, QPen(look_.ink2, 1, Qt::DotLine));
  place(cursor_, pointed, QPen(look_.ink, 1));
  if (plot_->width() > 1 && plot_->height() > 1) plot_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::point(double x) {
  cursor_->setVisible(std::isfinite(x));
  if (std::isfinite(x)) {
    cursor_->point1->setCoords(x, 0);
    cursor_->point2->setCoords(x, 1);
    cursor_->setPen(QPen(look_.ink, 1));
  }
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

QPoint Plot::at(double x) const {
  return plot_->mapTo(
      this, QPoint(static_cast<int>(plot_->xAxis->coordToPixel(x)), plot_->axisRect()->center().y()));
}

bool Plot::save(const QString& path) { return savePicture(*plot_, *this, path); }

bool Plot::eventFilter(QObject* watched, QEvent* event) {
  if (watched == plot_ && (event->type() == QEvent::MouseMove || event->type() == QEvent::MouseButtonPress)) {
    const auto* mouse = static_cast<QMouseEvent*>(event);
    if (!data_.curves.empty() && plot_->axisRect()->rect().contains(mouse->pos())) {
      const double x = plot_->xAxis->pixelToCoord(mouse->pos().x());
      if (event->type() == QEvent::MouseMove) emit pointed(x);
      else if (mouse->button() == Qt::LeftButton) emit clicked(x);
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace conduit::desktop

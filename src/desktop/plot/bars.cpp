#include "plot/bars.h"

#include <qcustomplot.h>

#include <QAction>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <cmath>

#include "look/round_numbers.h"
#include "plot/picture.h"
#include "quantity/format.h"

namespace conduit::desktop {

Bars::Bars(QWidget* parent) : QWidget(parent), plot_(new QCustomPlot(this)), look_(Look::light()) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(plot_);
  plot_->setMinimumSize(60, 60);
  plot_->setInteractions(QCP::Interactions());
  plot_->setMouseTracking(true);
  plot_->installEventFilter(this);
  plot_->setFocusPolicy(Qt::ClickFocus);
  auto* copying = new QAction(tr("Copy the picture"), plot_);
  copying->setShortcut(QKeySequence::Copy);
  copying->setShortcutContext(Qt::WidgetShortcut);
  connect(copying, &QAction::triggered, this, &Bars::copy);
  plot_->addAction(copying);
  plot_->setContextMenuPolicy(Qt::ActionsContextMenu);
}

void Bars::setLook(const Look& look) {
  look_ = look;
  draw();
}

void Bars::display(BarsData data) {
  data_ = std::move(data);
  draw();
}

bool Bars::save(const QString& path) { return savePicture(*plot_, *this, path); }
void Bars::copy() const { copyPicture(*plot_, *this); }

QColor Bars::tone(std::size_t kind) const {
  return kind == 0 ? look_.water : look_.flow[kind == 1 ? 2 : kind == 2 ? 1 : 3];
}

QString Bars::legend() const {
  QString words;
  for (std::size_t k = 0; k < data_.kinds.size(); ++k)
    words += QString("<span style='color:%1'>■</span> %2&nbsp;&nbsp; ")
                 .arg(tone(k).name(), data_.kinds[k].toHtmlEscaped());
  return words;
}

void Bars::draw() {
  plot_->clearPlottables();
  plot_->clearItems();
  plot_->setBackground(look_.sheet);
  for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
    axis->setTickLabelFont(face(11));
    axis->setLabelFont(face(11.5));
    axis->setTickLabelColor(look_.ink2);
    axis->setLabelColor(look_.ink2);
    axis->setBasePen(QPen(look_.hair));
    axis->setTickPen(Qt::NoPen);
    axis->setSubTickPen(Qt::NoPen);
    axis->grid()->setPen(QPen(look_.grid));
    axis->grid()->setZeroLinePen(QPen(look_.hair));
  }
  plot_->xAxis->grid()->setVisible(false);
  plot_->xAxis->setTickLabels(false);
  plot_->yAxis->setLabel(data_.unit);
  const std::size_t kinds = data_.kinds.size(), count = data_.bars.size();
  double most = 0.0;
  for (const Bar& b : data_.bars) {
    double sum = 0.0;
    for (const double s : b.shares) sum += s;
    most = std::max(most, sum);
  }
  for (const bool can : {true, false}) {
    QCPBars* below = nullptr;
    for (std::size_t k = 0; k < kinds; ++k) {
      auto* bars = new QCPBars(plot_->xAxis, plot_->yAxis);
      bars->setWidth(0.52);
      bars->setPen(can ? QPen(look_.sheet, 1) : QPen(look_.ink2, 1, Qt::DashLine));
      bars->setBrush(can ? QBrush(tone(k)) : QBrush(Qt::NoBrush));
      QVector<double> x, y;
      for (std::size_t i = 0; i < count; ++i)
        if (data_.bars[i].can == can)
          x << static_cast<double>(i), y << (k < data_.bars[i].shares.size() ? data_.bars[i].shares[k] : 0.0);
      bars->setData(x, y, true);
      if (below) bars->moveAbove(below);
      below = bars;
    }
  }
  const auto words_ = [&](double x, double y, bool inside, const QString& text, const QColor& ink, bool bold,
                          double pixels) {
    auto* item = new QCPItemText(plot_);
    item->position->setTypeX(QCPItemPosition::ptPlotCoords);
    item->position->setTypeY(inside ? QCPItemPosition::ptPlotCoords : QCPItemPosition::ptAxisRectRatio);
    item->position->setCoords(x, y);
    item->setPositionAlignment(Qt::AlignHCenter | (inside ? Qt::AlignBottom : Qt::AlignTop));
    item->setText(text);
    item->setFont(face(pixels, bold));
    item->setColor(ink);
    item->setClipToAxisRect(false);
  };
  const double room = count > 0 ? (width() - 70.0) / static_cast<double>(count) : 0.0;
  int lines = 0;
  for (std::size_t i = 0; i < count; ++i) {
    const Bar& b = data_.bars[i];
    double sum = 0.0;
    for (const double s : b.shares) sum += s;
    const double x = static_cast<double>(i);
    words_(x, sum, true, b.total, b.can ? look_.ink : look_.ink2, b.can, 11.5);
    // Under the axis, in lines of 15 pixels.
    const double height = std::max(1, plot_->axisRect()->height());
    int line = 0;
    const auto under = [&](const QString& text, const QColor& ink, bool bold) {
      if (text.isEmpty()) return;
      const QFontMetrics m(face(11, bold));
      words_(x, 1 + (5 + 15 * line++) / height, false,
             m.elidedText(text, Qt::ElideRight, static_cast<int>(room) - 4), ink, bold, 11);
    };
    under(b.name, look_.ink, b.chosen);
    under(b.under, look_.water, b.chosen);
    if (!b.can) under(b.why, look_.warning, false);
    lines = std::max(lines, line);
  }
  plot_->axisRect()->setAutoMargins(QCP::msLeft | QCP::msRight | QCP::msTop);
  plot_->axisRect()->setMargins(QMargins(0, 0, 0, 8 + 15 * std::max(lines, 1)));
  plot_->xAxis->setRange(-0.6, static_cast<double>(count) - 0.4);
  plot_->yAxis->setRange(0, most > 0 ? 1.16 * most : 1.0);
  // Round numbers, written as everywhere.
  const auto ticker = QSharedPointer<QCPAxisTickerText>::create();
  const double step = niceStep(plot_->yAxis->range().upper, 5);
  for (double y = 0.0; y <= plot_->yAxis->range().upper; y += step) ticker->addTick(y, shortNumber(y, 6));
  plot_->yAxis->setTicker(ticker);
  // Not laid out yet: it is drawn when it has its size.
  if (plot_->width() > 40 && plot_->height() > 40) plot_->replot();
}

QPoint Bars::at(std::size_t bar) const {
  return plot_->pos() + QPoint(static_cast<int>(plot_->xAxis->coordToPixel(static_cast<double>(bar))),
                               plot_->axisRect()->bottom() - 6);
}

int Bars::barAt(const QPoint& at) const {
  const double x = plot_->xAxis->pixelToCoord(at.x());
  const int i = static_cast<int>(std::lround(x));
  return i >= 0 && i < static_cast<int>(data_.bars.size()) && std::abs(x - i) < 0.45 ? i : -1;
}

bool Bars::eventFilter(QObject* watched, QEvent* event) {
  if (watched == plot_ && event->type() == QEvent::MouseMove)
    emit pointed(barAt(static_cast<QMouseEvent*>(event)->pos()));
  if (watched == plot_ && event->type() == QEvent::Resize)
    QMetaObject::invokeMethod(this, &Bars::draw, Qt::QueuedConnection);
  if (watched == plot_ && event->type() == QEvent::MouseButtonRelease)
    if (const int bar = barAt(static_cast<QMouseEvent*>(event)->pos()); bar >= 0) emit clicked(bar);
  return QWidget::eventFilter(watched, event);
}

}  // namespace conduit::desktop

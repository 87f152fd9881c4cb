#include "card/limit_bars.h"

#include <QPainter>
#include <algorithm>

#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString said(const Check& c) {
  return QString::fromUtf8(c.label().data(), static_cast<qsizetype>(c.label().size()));
}

}  // namespace

LimitBars::LimitBars(QWidget* parent) : QWidget(parent) { setAccessibleName(tr("Limits")); }

void LimitBars::display(std::vector<Check> checks, const UnitSet& units, const Look& look) {
  checks_ = std::move(checks);
  units_ = &units;
  look_ = look;
  QStringList words;
  for (const Check& c : checks_) words << said(c) + (c.broken() ? tr(" not met") : tr(" met"));
  setAccessibleDescription(words.join(", "));
  setFixedHeight(sizeHint().height());
  update();
}

int LimitBars::saidHeight(const Check& c) const {
  const QString words = "▲ " + QString::fromStdString(c.what);
  return QFontMetrics(face(12.5, true))
             .boundingRect(QRect(0, 0, 270, 400), Qt::TextWordWrap, words)
             .height() +
         8;
}

QSize LimitBars::sizeHint() const {
  if (checks_.empty()) return {276, 1};
  int height = 30;
  for (const Check& c : checks_) height += c.spoken ? saidHeight(c) : 34;
  return {276, height};
}

void LimitBars::paintEvent(QPaintEvent*) {
  if (checks_.empty()) return;
  QPainter p(this);
  const int right = width() - 6;  // in line with the numbers below, clear of the scroll bar
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setFont(face(12));
  p.setPen(look_.ink2);
  p.drawText(QRectF(0, 8, right, 16), Qt::AlignLeft | Qt::AlignVCenter, tr("Limits"));
  p.setPen(QPen(look_.hair, 1));
  p.drawLine(0, 25, right, 25);
  double y = 30;
  for (const Check& c : checks_) {
    const bool broken = c.broken();
    const QColor tone = broken ? look_.warning : look_.water;
    if (c.spoken) {  // no bar: nothing is measured against anything
      p.setFont(face(12.5, true));
      p.setPen(c.severity <= Severity::near ? look_.warning : look_.ink);
      p.drawText(QRectF(0, y, right, saidHeight(c) - 4), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                 (c.severity <= Severity::near ? "▲ " : "") + QString::fromStdString(c.what));
      y += saidHeight(c);
      continue;
    }
    QString words = QString::fromStdString(withUnit(c.value, c.measure(), *units_, 3));
    if (c.least && c.most)
      words += QString(", %1–%2").arg(QString::fromStdString(asNumber(*c.least, c.measure(), *units_, 2)),
                                      QString::fromStdString(asNumber(*c.most, c.measure(), *units_, 2)));
    else if (c.most)
      words += tr(" of %1").arg(QString::fromStdString(asNumber(*c.most, c.measure(), *units_, 3)));
    else if (c.least)
      words += tr(", at least %1").arg(QString::fromStdString(asNumber(*c.least, c.measure(), *units_, 3)));
    const QString label = said(c);
    if (broken) words = "▲ " + words;
    // Both fit beside one another, if need be with the sign in place of the words.
    const auto wide = [&](const QString& text, bool bold) {
      return QFontMetricsF(face(12.5, bold)).horizontalAdvance(text);
    };
    if (wide(label, false) + wide(words, true) + 10 > right) words.replace(tr(", at least "), ", ≥ ");
    const double room = right - wide(words, true) - 10;
    p.setFont(face(12.5));
    p.setPen(look_.ink);
    p.drawText(QRectF(0, y, room, 16), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(label, Qt::ElideRight, room));
    p.setFont(face(12.5, true));
    p.setPen(broken ? look_.warning : look_.ink);
    p.drawText(QRectF(0, y, right, 16), Qt::AlignRight | Qt::AlignVCenter, words);
    // The bar runs to somewhat past the greater of value and limit; a mark stands at each limit.
    const double top = std::max({c.value, c.most.value_or(0), c.least.value_or(0) * 2, 1e-12}) * 1.15;
    const QRectF bar(0, y + 19, right, 5);
    p.setPen(Qt::NoPen);
    p.setBrush(look_.grid);
    p.drawRoundedRect(bar, 2.5, 2.5);
    p.setBrush(tone);
    p.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * std::clamp(c.value / top, 0.0, 1.0), 5),
                      2.5, 2.5);
    p.setPen(QPen(look_.ink, 2));
    for (const auto& limit : {c.least, c.most})
      if (limit) {
        const double x = std::clamp(*limit / top, 0.0, 1.0) * bar.width();
        p.drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3));
      }
    y += 34;
  }
}

}  // namespace conduit::desktop

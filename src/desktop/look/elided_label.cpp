#include "look/elided_label.h"

#include <QAbstractTextDocumentLayout>
#include <QHelpEvent>
#include <QPainter>
#include <QTextBlock>
#include <QTextDocument>
#include <QTextLayout>
#include <QToolTip>
#include <cmath>

namespace conduit::desktop {
namespace {

constexpr QChar ellipsis(0x2026);

// The text as the label lays it: in one line, from its left.
void layOut(QTextDocument& document, const QLabel& label) {
  document.setDefaultFont(label.font());
  document.setDocumentMargin(0);
  document.setHtml(label.text());
  document.setTextWidth(-1);
}

}  // namespace

ElidedLabel::ElidedLabel(QWidget* parent) : QLabel(parent) {
  setTextFormat(Qt::RichText);
  setMinimumWidth(10);
  setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
}

std::optional<int> ElidedLabel::cutAt() const {
  if (text().isEmpty()) return std::nullopt;
  QTextDocument document;
  layOut(document, *this);
  const double room = contentsRect().width();
  if (document.idealWidth() <= room + 0.5) return std::nullopt;
  (void)document.documentLayout()->documentSize();  // lays it out
  const QTextLayout* layout = document.firstBlock().layout();
  if (!layout || layout->lineCount() == 0) return std::nullopt;
  const QTextLine line = layout->lineAt(0);
  const double mark = fontMetrics().horizontalAdvance(ellipsis) + 1;
  int at = line.xToCursor(room - mark, QTextLine::CursorOnCharacter);
  // No blank before the mark.
  const QString plain = document.firstBlock().text();
  while (at > 0 && (plain[at - 1].isSpace() || plain[at - 1] == QChar::Nbsp)) --at;
  return contentsRect().left() + static_cast<int>(std::floor(line.cursorToX(at)));
}

bool ElidedLabel::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip && cutAt()) {
    QTextDocument document;
    layOut(document, *this);
    QString whole = "<p>" + document.toPlainText().toHtmlEscaped() + "</p>";
    if (!toolTip().isEmpty()) whole += toolTip();
    QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), whole, this);
    return true;
  }
  return QLabel::event(event);
}

void ElidedLabel::paintEvent(QPaintEvent* event) {
  const auto cut = cutAt();
  if (!cut) return QLabel::paintEvent(event);
  // From the left, whatever its alignment: the beginning says most.
  QPainter p(this);
  QTextDocument document;
  layOut(document, *this);
  QAbstractTextDocumentLayout::PaintContext context;
  context.palette = palette();
  context.palette.setColor(QPalette::Text, palette().color(QPalette::WindowText));
  const QRect in = contentsRect();
  p.save();
  p.setClipRect(QRect(in.left(), in.top(), *cut - in.left(), in.height()));
  p.translate(in.left(), in.top() + (in.height() - document.size().height()) / 2);
  document.documentLayout()->draw(&p, context);
  p.restore();
  p.setPen(palette().color(QPalette::WindowText));
  p.drawText(QRect(*cut, in.top(), in.right() - *cut + 1, in.height()), Qt::AlignLeft | Qt::AlignVCenter,
             QString(ellipsis));
}

}  // namespace conduit::desktop

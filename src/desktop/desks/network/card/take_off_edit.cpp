#include "card/take_off_edit.h"

#include <QAbstractItemView>
#include <QCoreApplication>
#include <QInputMethodEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace conduit::desktop {

TakeOffEdit::TakeOffEdit(Document& document, QWidget* parent)
    : QLineEdit(parent),
      doc_(document),
      completer_(new QCompleter(this)),
      words_(new QStringListModel(this)) {
  completer_->setModel(words_);
  completer_->setWidget(this);
  completer_->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
  connect(completer_, QOverload<const QString&>::of(&QCompleter::activated), this,
          [this](const QString& item) {
            const QString word = item.section(QString::fromUtf8("  "), 0, 0),
                          before = text().left(cursorPosition()), after = text().mid(cursorPosition());
            const std::string utf8 = before.toStdString();
            const auto begun = QString::fromStdString(std::string(wordAtEnd(utf8)));
            const QString now = before.chopped(begun.size()) + word + " ";
            setText(now + after);
            setCursorPosition(static_cast<int>(now.size()));
            setModified(true);
            emit textEdited(text());
          });
  connect(this, &QLineEdit::textEdited, this, [this] { complete(); });
}

void TakeOffEdit::complete() {
  const std::string before = text().left(cursorPosition()).toStdString();
  QStringList items;
  if (!before.empty() && before.back() != ' ')
    for (const Completion& c : completionsFor(before, *doc_.stock()))
      if (items.size() < 12)
        items << QString::fromStdString(c.word) + "  " + QString::fromStdString(c.meaning);
  words_->setStringList(items);
  if (items.isEmpty() ||
      (items.size() == 1 && items.front().section("  ", 0, 0).toStdString() == wordAtEnd(before))) {
    completer_->popup()->hide();
    return;
  }
  QRect box = rect();
  box.setWidth(280);
  completer_->complete(box);
  completer_->popup()->setCurrentIndex({});
}

void TakeOffEdit::keyPressEvent(QKeyEvent* event) {
  // While words are offered, Tab takes the first; Enter takes the one in hand, else the whole line.
  if (completer_->popup()->isVisible()) {
    const QModelIndex at = completer_->popup()->currentIndex();
    if (event->key() == Qt::Key_Tab ||
        ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && at.isValid())) {
      emit completer_->activated((at.isValid() ? at : words_->index(0)).data().toString());
      completer_->popup()->hide();
      return;
    }
  }
  QLineEdit::keyPressEvent(event);
}

// A line edit has no formats of its own, but shows those an input method asks for.
void TakeOffEdit::underline(std::size_t atByte, std::size_t bytes) {
  QList<QInputMethodEvent::Attribute> formats;
  if (bytes > 0) {
    const std::string utf8 = text().toStdString();
    const auto begin = static_cast<int>(QString::fromStdString(utf8.substr(0, atByte)).size()),
               length = static_cast<int>(QString::fromStdString(utf8.substr(atByte, bytes)).size());
    QTextCharFormat format;
    format.setUnderlineStyle(QTextCharFormat::SpellCheckUnderline);
    format.setUnderlineColor(QColor("#B3401F"));
    formats.append({QInputMethodEvent::TextFormat, begin - cursorPosition(), length, format});
  }
  QInputMethodEvent event(QString(), formats);
  QCoreApplication::sendEvent(this, &event);
}

PieceStrip::PieceStrip(QWidget* parent) : QWidget(parent), look_(Look::light()) {
  setObjectName("pieces");
  setAccessibleName(tr("Pieces of the take-off"));
  setFocusPolicy(Qt::TabFocus);
}

void PieceStrip::display(const TakeOff& takeOff, const Look& look) {
  takeOff_ = takeOff;
  look_ = look;
  current_ = std::min(current_, static_cast<int>(takeOff_.pieces.size()) - 1);
  arrange();
  setVisible(!takeOff_.pieces.empty());
}

void PieceStrip::arrange() {
  boxes_.clear();
  const QFontMetricsF metrics(face(11));
  double x = 0, y = 2;
  for (const Piece& p : takeOff_.pieces) {
    const double w =
        std::min(metrics.horizontalAdvance(QString::fromStdString(p.text())) + (p.length_m() > 0 ? 26 : 14),
                 width() - 2.0);
    if (x > 0 && x + w > width()) x = 0, y += 24;
    boxes_.emplace_back(x, y, w, 20);
    x += w + 4;
  }
  setFixedHeight(static_cast<int>(takeOff_.pieces.empty() ? 0 : y + 24));
  update();
}

int PieceStrip::pieceAt(QPointF at) const {
  for (std::size_t i = 0; i < boxes_.size(); ++i)
    if (boxes_[i].contains(at)) return static_cast<int>(i);
  return -1;
}

// The gap a dragged piece would fall into: before the first piece whose middle lies behind the hand.
int PieceStrip::gapAt(QPointF at) const {
  for (std::size_t i = 0; i < boxes_.size(); ++i)
    if (at.y() < boxes_[i].top() - 2 || (at.y() < boxes_[i].bottom() + 2 && at.x() < boxes_[i].center().x()))
      return static_cast<int>(i);
  return static_cast<int>(boxes_.size());
}

void PieceStrip::removePiece(int piece) {
  if (piece < 0) return;
  takeOff_.pieces.erase(takeOff_.pieces.begin() + piece);
  emit changed(QString::fromStdString(takeOff_.text()));
}

void PieceStrip::moveTo(int from, int to) {
  if (from < 0 || to == from || to == from + 1) return;
  const Piece piece = takeOff_.pieces[static_cast<std::size_t>(from)];
  takeOff_.pieces.erase(takeOff_.pieces.begin() + from);
  takeOff_.pieces.insert(takeOff_.pieces.begin() + (to > from ? to - 1 : to), piece);
  current_ = to > from ? to - 1 : to;
  emit changed(QString::fromStdString(takeOff_.text()));
}

void PieceStrip::mousePressEvent(QMouseEvent* event) {
  setFocus();
  current_ = pieceAt(event->position());
  if (event->button() == Qt::RightButton) return removePiece(current_);
  held_ = current_;
  hand_ = event->position();
  update();
}

void PieceStrip::mouseMoveEvent(QMouseEvent* event) {
  hand_ = event->position();
  if (held_ >= 0) update();
}

void PieceStrip::mouseReleaseEvent(QMouseEvent* event) {
  const int held = std::exchange(held_, -1);
  if (held >= 0 && pieceAt(event->position()) != held) moveTo(held, gapAt(event->position()));
  update();
}

void PieceStrip::keyPressEvent(QKeyEvent* event) {
  const int n = static_cast<int>(takeOff_.pieces.size());
  if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return removePiece(current_);
  if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) {
    const int way = event->key() == Qt::Key_Left ? -1 : 1;
    if (event->modifiers() & Qt::ControlModifier) {
      if (current_ >= 0 && current_ + way >= 0 && current_ + way < n)
        moveTo(current_, way > 0 ? current_ + 2 : current_ - 1);
    } else {
      current_ = std::clamp(current_ + way, 0, n - 1);
    }
    return update();
  }
  QWidget::keyPressEvent(event);
}

void PieceStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setFont(face(11));
  for (std::size_t i = 0; i < boxes_.size(); ++i) {
    const Piece& piece = takeOff_.pieces[i];
    const QRectF box = boxes_[i];
    const bool pipe = piece.length_m() > 0;
    p.setPen(QPen(static_cast<int>(i) == current_ && hasFocus() ? look_.ink : look_.hair,
                  static_cast<int>(i) == current_ && hasFocus() ? 1.6 : 1));
    p.setBrush(piece.breaks() ? look_.grid : look_.field);
    p.drawRoundedRect(box, pipe ? 2 : 10, pipe ? 2 : 10);
    double left = box.left() + 7;
    if (pipe) {  // a short length of pipe, level or slanting
      const double slant = piece.kind == PieceKind::up ? -4 : piece.kind == PieceKind::down ? 4 : 0;
      p.setPen(QPen(look_.ink, 2.4));
      p.drawLine(QPointF(box.left() + 6, box.center().y() - slant),
                 QPointF(box.left() + 17, box.center().y() + slant));
      left += 13;
    }
    p.setPen(static_cast<int>(i) == held_ ? look_.ink2 : look_.ink);
    p.drawText(QRectF(left, box.top(), box.right() - left - 2, box.height()),
               Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(piece.text()));
  }
  if (held_ >= 0 && pieceAt(hand_) != held_) {  // where it would fall
    const int gap = gapAt(hand_);
    const QRectF beside =
        gap < static_cast<int>(boxes_.size()) ? boxes_[static_cast<std::size_t>(gap)] : boxes_.back();
    const double x = gap < static_cast<int>(boxes_.size()) ? beside.left() - 2 : beside.right() + 2;
    p.setPen(QPen(look_.water, 2.4));
    p.drawLine(QPointF(x, beside.top() - 1), QPointF(x, beside.bottom() + 1));
  }
}

}  // namespace conduit::desktop

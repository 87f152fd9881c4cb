// The take-off of a pipe: a field that completes and reads back while it is typed, and its pieces as a strip
// that can be dragged.
#pragma once

#include <QCompleter>
#include <QLabel>
#include <QLineEdit>
#include <QStringListModel>

#include "document/document.h"
#include "look/look.h"
#include "parts/take_off.h"

namespace conduit::desktop {

/// A line of words: completes the word at the cursor and underlines one that cannot be read.
class TakeOffEdit : public QLineEdit {
  Q_OBJECT
 public:
  TakeOffEdit(Document& document, QWidget* parent = nullptr);
  void underline(std::size_t atByte, std::size_t bytes);
  [[nodiscard]] QCompleter* completions() { return completer_; }

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void complete();
  Document& doc_;
  QCompleter* completer_;
  QStringListModel* words_;
};

/// The pieces in their order; one is dragged to another place, or taken out with Delete or a right click.
class PieceStrip : public QWidget {
  Q_OBJECT
 public:
  explicit PieceStrip(QWidget* parent = nullptr);
  void display(const TakeOff& takeOff, const Look& look);
  [[nodiscard]] const TakeOff& takeOff() const { return takeOff_; }
  [[nodiscard]] QRectF boxOf(std::size_t piece) const { return boxes_[piece]; }

 signals:
  void changed(const QString& text);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { arrange(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void arrange();
  void removePiece(int piece);
  void moveTo(int from, int to);
  [[nodiscard]] int pieceAt(QPointF at) const;
  [[nodiscard]] int gapAt(QPointF at) const;
  TakeOff takeOff_;
  std::vector<QRectF> boxes_;
  Look look_;
  int held_ = -1, current_ = -1;
  QPointF hand_;
};

}  // namespace conduit::desktop

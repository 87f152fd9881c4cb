// What the window knows of a desk: its word in the top strip, its commands, its look. A desk knows the
// document and no other desk.
#pragma once

#include <QKeySequence>
#include <QPainter>
#include <QWidget>
#include <algorithm>
#include <functional>

#include "document/document.h"
#include "look/look.h"

class QAction;
class QMenu;
class QUrl;

namespace conduit::desktop {

class Desk : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;

  enum class Menu { file, edit, draw, view };
  /// Makes a command of the window: its name, its words, its keys, what it does.
  using Make =
      std::function<QAction*(const QString&, const QString&, const QKeySequence&, std::function<void()>)>;

  [[nodiscard]] virtual QString word() const = 0;
  /// The key that brings it to the front; each desk has its own for good.
  [[nodiscard]] virtual QKeySequence key() const { return {}; }
  virtual void setLook(const Look& look) = 0;
  /// The desk's part of a menu; called once for each.
  virtual void fillMenu(Menu, QMenu*, const Make&) {}
  /// What stands in the top strip while the desk is the one in front; null: nothing.
  [[nodiscard]] virtual QWidget* topTool() { return nullptr; }
  /// The keyboard goes where work on this desk begins.
  virtual void takeKeyboard() { setFocus(); }
  /// As it stands, fitted to a page.
  virtual void paintPage(QPainter& painter, const QRect& page) {
    const double scale =
        std::min(page.width() / static_cast<double>(width()), page.height() / static_cast<double>(height()));
    painter.scale(scale, scale);
    render(&painter);
  }
  /// Another model is there: all of it comes into sight.
  virtual void showAll() {}
  /// A file that was dropped on the window; false: nothing for this desk.
  virtual bool takeFile(const QUrl&) { return false; }
  [[nodiscard]] virtual bool wouldTake(const QUrl&) const { return false; }

 signals:
  void says(const QString& words, bool warning);  // in the balance line
  void wantsFinder(const QString& words);
  void wantsKeys();
};

/// The desks in the order in which they stand in the top strip, the one that shows elements first.
[[nodiscard]] std::vector<Desk*> makeDesks(Document& document);

}  // namespace conduit::desktop

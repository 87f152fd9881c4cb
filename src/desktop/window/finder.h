// The finder: goes to any element, command, field, limit or stock entry by typing; gives values; selects by a
// condition.
#pragma once

#include <QAction>
#include <QFrame>
#include <QLineEdit>
#include <QListWidget>
#include <functional>

#include "document/document.h"
#include "look/look.h"

namespace conduit::desktop {

struct FinderItem {
  QString title, detail;
  std::function<void()> run;
};

class Finder : public QFrame {
  Q_OBJECT
 public:
  Finder(Document& document, std::function<QList<QAction*>()> commands, QWidget* parent);
  void setLook(const Look& look);
  /// Opens over the drawing with the keyboard in it; nothing behind it is blocked.
  void open(const QString& text = {});
  /// What the text could mean, the likeliest first.
  [[nodiscard]] std::vector<FinderItem> itemsFor(const QString& text);

 signals:
  void wantsStock(const QString& file, const QString& name);
  void wantsShown(conduit::Id id);
  void closed();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void fill();
  void runCurrent();
  void shut();

  Document& doc_;
  Look look_;
  std::function<QList<QAction*>()> commands_;
  QLineEdit* edit_;
  QListWidget* list_;
  std::vector<FinderItem> items_;
};

}  // namespace conduit::desktop

// All keys on one sheet, over the drawing until the next key or click.
#pragma once

#include <QAction>
#include <QWidget>

#include "look/look.h"

namespace conduit::desktop {

class KeysSheet : public QWidget {
  Q_OBJECT
 public:
  explicit KeysSheet(QWidget* parent);
  void open(const QList<QAction*>& commands, const Look& look);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override { shut(); }
  void keyPressEvent(QKeyEvent*) override { shut(); }

 signals:
  void closed();

 private:
  void shut();
  struct Column {
    QString title;
    std::vector<std::pair<QString, QString>> rows;  // keys, what they do
  };
  std::vector<Column> columns_;
  Look look_;
};

}  // namespace conduit::desktop

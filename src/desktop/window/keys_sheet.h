// All keys on one sheet, over the drawing until the next key or click.
#pragma once

#include <QAction>
#include <QWidget>
#include <utility>
#include <vector>

#include "look/look.h"

namespace conduit::desktop {

class KeysSheet : public QWidget {
  Q_OBJECT
 public:
  explicit KeysSheet(QWidget* parent);
  struct Group {
    QString title;
    std::vector<QAction*> commands;
  };
  void open(const std::vector<Group>& groups, const Look& look);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override { shut(); }
  void keyPressEvent(QKeyEvent*) override { shut(); }

 signals:
  void closed();

 private:
  void shut();
  struct Section {
    QString title;
    double keysWidth;
    std::vector<std::pair<QString, QString>> rows;  // keys, what they do
  };
  std::vector<Section> sections_;
  Look look_;
};

}  // namespace conduit::desktop

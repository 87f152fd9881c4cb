// The rack: few symbols, one letter each. Made from the registry, so that a new kind appears by itself.
#pragma once

#include <QAbstractButton>
#include <QWidget>

#include "look/look.h"
#include "parts/part.h"

class QGridLayout;
class QLabel;

namespace conduit::desktop {

class RackButton : public QAbstractButton {
  Q_OBJECT
 public:
  RackButton(const Part& part, QWidget* parent);
  void setLook(const Look& look);
  [[nodiscard]] QSize sizeHint() const override { return {58, 36}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  const Part& part_;
  Look look_;
};

class Rack : public QWidget {
  Q_OBJECT
 public:
  explicit Rack(QWidget* parent = nullptr);
  void setLook(const Look& look);

 signals:
  void wanted(const conduit::Part* part);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  struct Shelf {
    QLabel* heading;
    std::vector<RackButton*> buttons;
  };
  void arrange(int columns);
  [[nodiscard]] int heightOfOneColumn() const;
  Look look_;
  std::vector<Shelf> shelves_;
  QGridLayout* grid_;
  int columns_ = 0;
};

}  // namespace conduit::desktop

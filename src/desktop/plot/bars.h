// Stacked bars, one a choice: what each would cost and of what; those that cannot be are open.
#pragma once

#include <QWidget>
#include <vector>

#include "look/look.h"

class QCustomPlot;

namespace conduit::desktop {

struct Bar {
  QString name, under, why;    // below it: its name, a word in colour, why it cannot be
  std::vector<double> shares;  // of each kind, from below
  QString total;
  bool can = true, chosen = false;
};

struct BarsData {
  std::vector<QString> kinds;
  std::vector<Bar> bars;
  QString unit;  // of the axis up
};

class Bars : public QWidget {
  Q_OBJECT
 public:
  explicit Bars(QWidget* parent = nullptr);
  void setLook(const Look& look);
  void display(BarsData data);
  [[nodiscard]] const BarsData& data() const { return data_; }
  [[nodiscard]] bool save(const QString& path);  // SVG or PNG by the ending
  void copy() const;
  /// What the shares are, for a label: coloured squares with their names.
  [[nodiscard]] QString legend() const;
  /// The middle of a bar, in this widget.
  [[nodiscard]] QPoint at(std::size_t bar) const;

 signals:
  void clicked(int bar);
  void pointed(int bar);  // -1: none

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void draw();
  [[nodiscard]] QColor tone(std::size_t kind) const;
  [[nodiscard]] int barAt(const QPoint& at) const;
  QCustomPlot* plot_;
  BarsData data_;
  Look look_;
};

}  // namespace conduit::desktop

// A figure with axes: curves read off by pointing, stretches shaded, saved as a picture. What it shows is
// plain data; who owns it decides what a click means.
#pragma once

#include <QWidget>
#include <vector>

#include "look/look.h"

class QCustomPlot;
class QCPItemStraightLine;

namespace conduit::desktop {

struct PlotCurve {
  QString name;
  std::vector<double> x, y;  // y may be NaN: the curve is broken there
  bool right = false;        // against the right axis
  bool dashed = false;
  int tone = 0;  // 0: water; 1: ink; 2 …: steps of the flow scale
};

struct PlotData {
  QString xLabel, yLabel, rightLabel;  // the right axis is shown where it has a label
  std::vector<PlotCurve> curves;
  std::vector<std::pair<double, double>> shaded;  // stretches along x
  std::vector<std::pair<double, bool>> limits;    // levels of y, true: of the right axis
  std::vector<QString> ticks;                     // names of x = 0, 1, 2 …, where x is no quantity
  double now = 0.0;                               // where a mark stands; NaN: nowhere
};

class Plot : public QWidget {
  Q_OBJECT
 public:
  explicit Plot(QWidget* parent = nullptr);
  void setLook(const Look& look);
  void display(PlotData data);
  [[nodiscard]] const PlotData& data() const { return data_; }
  /// A cursor at x; NaN takes it away.
  void point(double x);
  /// By the ending of the name: SVG or PNG. False when it could not be written.
  [[nodiscard]] bool save(const QString& path);
  /// As a picture into the clipboard.
  void copy() const;
  /// Where x stands, in this widget.
  [[nodiscard]] QPoint at(double x) const;

 signals:
  void pointed(double x);
  void clicked(double x);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void draw();
  QCustomPlot* plot_;
  QCPItemStraightLine *cursor_, *now_;
  PlotData data_;
  Look look_;
};

}  // namespace conduit::desktop

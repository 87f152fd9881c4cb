// Panes one over another on one axis along: curves, bands, marks that the hand may drag; everything read off
// by pointing. What it shows is plain data; who owns it decides what a drag or a click means.
#pragma once

#include <QWidget>
#include <map>
#include <vector>

#include "look/look.h"

class QCustomPlot;
class QCPAxisRect;
class QCPItemStraightLine;
class QLabel;

namespace conduit::desktop {

enum class Tone { ink, water, quiet, warning, other1, other2, other3 };

struct StackCurve {
  QString name;              // stands on it where there is room; empty: none
  std::vector<double> x, y;  // y may be NaN: broken there
  Tone tone = Tone::ink;
  double width = 1.7;
  bool dashed = false;
  bool sorted = true;  // by rising x; a line that comes back is not
  int shadeTo = -1;    // the curve of this pane down to which the stretch between is shaded
  QColor shade{};      // of that; invalid: the water's
};

struct StackMark {
  QString id;
  double x = 0.0, y = 0.0;
  Tone tone = Tone::water;
  bool draggable = false;
  bool ring = false;  // open in the middle
};

struct StackBand {
  double from = 0.0, to = 0.0;
  QString name;
  bool strong = false;
};

/// A line across all panes, or in one (its number).
struct StackLine {
  double at = 0.0;
  QString name;
  Tone tone = Tone::quiet;
  int pane = -1;
  bool level = false;  // across the pane at a value, in place of up and down
};

struct StackPane {
  QString label, unit;
  double share = 1.0;  // of the height
  std::vector<StackCurve> curves;
  std::vector<StackMark> marks;
  double least = 0.0;            // of the axis
  std::optional<double> most{};  // else from the curves
};

struct StackData {
  QString unit;  // of the axis along
  double most = 1.0;
  std::vector<StackBand> bands;
  std::vector<StackLine> lines;
  std::vector<StackPane> panes;
  bool small = false;  // without names of axes, for a card
  QString note{};      // why nothing is drawn, and what to do; stands there where no pane has a curve
};

class Stack : public QWidget {
  Q_OBJECT
 public:
  explicit Stack(QWidget* parent = nullptr);
  void setLook(const Look& look);
  void display(StackData data);
  [[nodiscard]] const StackData& data() const { return data_; }
  /// Words beside the cursor at x; empty takes both away.
  void readOff(double x, const QString& html);
  /// Moves a mark without drawing all else anew.
  void moveMark(const QString& id, double x, double y);
  [[nodiscard]] bool save(const QString& path);  // SVG or PNG by the ending
  void copy() const;
  /// Where a place of a pane stands, in this widget, and the reverse.
  [[nodiscard]] QPoint at(std::size_t pane, double x, double y) const;
  [[nodiscard]] QPointF place(std::size_t pane, const QPoint& at) const;
  void zoomOut();
  [[nodiscard]] QSize sizeHint() const override { return {276, 150}; }

 signals:
  void pointed(double x);
  void left();
  void clicked(double x, double y, std::size_t pane);
  void dragged(const QString& mark, double x, double y);
  void dropped(const QString& mark, double x, double y);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void draw();
  void nameCurves();
  [[nodiscard]] QColor tone(Tone t) const;
  [[nodiscard]] int paneAt(const QPoint& at) const;
  QCustomPlot* plot_;
  QLabel *words_, *note_;
  std::vector<QCPAxisRect*> panes_;
  std::vector<QCPItemStraightLine*> cursor_;
  StackData data_;
  Look look_;
  QString grabbed_;
  double zoomLow_ = 0.0, zoomHigh_ = -1.0;
};

}  // namespace conduit::desktop

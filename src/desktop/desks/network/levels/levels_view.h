// Levels: how high things are along a route. Pipe, grades, the corridor between floor and ceiling; heights
// and tank levels are dragged here and the grade follows the pointer.
#pragma once

#include <QWidget>
#include <optional>

#include "document/document.h"
#include "look/look.h"
#include "route/route.h"

namespace conduit::desktop {

class LevelsView : public QWidget {
  Q_OBJECT
 public:
  explicit LevelsView(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  /// "along Tarn → P-1 → Top tank   2 840 m" and the sum of where the head went, for the divider.
  [[nodiscard]] QString routeWords() const;
  [[nodiscard]] QString sumWords() const;
  /// A route chosen by the engineer stays until it is let go (an empty one: found by itself again).
  void choose(Route route);
  [[nodiscard]] bool chosen() const { return chosen_; }
  [[nodiscard]] const Route& route() const { return route_; }
  [[nodiscard]] QPointF toScreen(double along_m, double level_m) const;
  [[nodiscard]] const Profile& profile() const { return profile_; }
  /// What was painted last, px: for who asks whether anything lies on anything else.
  struct Painted {
    std::vector<QRectF> labels, marks;
    std::vector<QLineF> lines;
  };
  [[nodiscard]] const Painted& painted() const { return painted_; }
  void paintOn(QPainter& painter, const QSize& size);

 signals:
  void routeChanged();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Handle {
    Id id = noId;
    std::string_view key;  // the field it drags
    double along_m = 0, level_m = 0;
  };
  void rebuild();
  void scaleToFit(const QSize& size);
  [[nodiscard]] QRectF lensBox(const QSize& size) const;
  void drawLacks(QPainter& p);
  void drawLens(QPainter& p, const QSize& size);
  void drawReading(QPainter& p);
  [[nodiscard]] const Handle* handleAt(QPointF at) const;
  [[nodiscard]] Result<Edited> setTo(Id id, std::string_view key, const std::string& text) const;

  Document& doc_;
  Look look_;
  Route route_;
  Profile profile_;
  bool chosen_ = false, retrace_ = false;
  std::vector<Handle> handles_;
  double low_ = 0, high_ = 1, left_ = 58, right_ = 40, top_ = 14, bottom_ = 22;
  QSize size_;
  QPointF hand_;
  bool handHere_ = false;
  std::optional<Handle> dragged_;
  double dragOffset_ = 0;
  int dragRun_ = 0;
  Painted painted_;
};

}  // namespace conduit::desktop

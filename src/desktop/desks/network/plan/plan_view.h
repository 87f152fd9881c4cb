// Plan: where things are. Bands by bore, standard symbols, true flow direction; the place where lines are
// drawn.
#pragma once

#include <QTimer>
#include <QWidget>
#include <optional>
#include <string>
#include <unordered_map>

#include "document/document.h"
#include "look/look.h"
#include "plan/line_typing.h"
#include "plan/picture_store.h"
#include "plan/snap.h"

namespace conduit::desktop {

enum class Colouring { velocity, pressure, gradient };

class PipeStrip;

class PlanView : public QWidget {
  Q_OBJECT
 public:
  explicit PlanView(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void setColouring(Colouring colouring);
  /// A picture that has been read already, under the name that its element will give.
  void havePicture(const std::string& file, const QImage& image) { pictures_.have(file, image); }
  void fit();
  /// In a line being drawn the kind is set in at its end. Else it hangs at the hand until a click (or Enter)
  /// says where: once, or with `many` again and again.
  void startKind(const Part& part, bool many = false);
  void splitSelected();
  /// Rise ticks on every line, not only on what is selected or drawn.
  void setHeights(bool on);
  [[nodiscard]] bool heights() const { return heights_; }
  /// Brings the selected picture to scale: two clicks on it, then the distance between them is typed.
  void scalePicture();
  /// Begins typing into the first field of the selected element.
  void beginEntry(const QString& text = {});
  /// Moves the sheet so that an element stands in the middle, closer if it would be too small to see.
  void showElement(Id id);
  /// Moves the drawing where the element would lie outside of it; its scale stays.
  void keepInSight(Id id);
  [[nodiscard]] QPointF toScreen(Spot at) const;
  [[nodiscard]] Spot toPlan(QPointF at) const;
  /// What lies under a screen position: points and symbols before bands.
  [[nodiscard]] Id hit(QPointF at);
  void paintOn(QPainter& painter, const QSize& size);  // for printing
  /// What was painted last, px: for who asks whether anything lies on anything else.
  struct Painted {
    std::vector<QRectF> labels, symbols, marks;
    std::vector<std::pair<QLineF, double>> lines;  // with their width
  };
  [[nodiscard]] const Painted& painted() const { return painted_; }

 signals:
  void modeChanged(const QString& hint);
  void wantsKeys();

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void leaveEvent(QEvent*) override;
  bool event(QEvent*) override;

 private:
  // What is painted and hit: made again when the network or the answer changes.
  struct Band {
    Id id;
    Spot a, b;
    double width = 4;   // px
    double share = -1;  // of the colour scale; -1: not known
    double flow = 0;
    double rise = 0;     // m from its beginning to its end
    int stacked = 0;     // how many lie between the same places before it
    double offset = 0;   // px to the side, so that stacked lines are seen beside one another
    bool riser = false;  // it ends above or below where it begins
    bool incomplete = false;
  };
  struct Symbol {
    Id id;
    Spot at;
    double angle = 0;  // degrees on screen
    bool incomplete = false;
    // Where it would lie on another it is drawn smaller, then beside its place, with a leader.
    QPointF aside{};  // px from its place
    double size = 1.15;
  };
  struct Mark {
    QPointF at;
    int count = 1;  // findings gathered in it
  };
  struct Label {
    Id id = noId;
    Spot at;
    QPointF normal;  // preferred side
    int rank = 0;
    double room = 0;  // half the element's extent
  };
  void outdate();  // the scene is made again before it is next painted or hit
  void freshen();
  void rebuild();
  [[nodiscard]] std::pair<QString, QString> labelText(const Label& label) const;
  void drawBands(QPainter& p, const QRectF& visible);
  void drawSymbols(QPainter& p, const QRectF& visible);
  void drawWay(QPainter& p, QPointF at, double angle, double out);
  void drawLabels(QPainter& p);
  void drawLegend(QPainter& p);
  void drawScale(QPainter& p);
  void drawDistance(QPainter& p);
  void drawHand(QPainter& p);
  void drawGuide(QPainter& p);
  // On the paper only (paper.cpp).
  void drawPictures(QPainter& p);
  void drawRemarks(QPainter& p);
  void drawRises(QPainter& p, const QRectF& visible);
  [[nodiscard]] QPolygonF pictureFrame(const Element& e) const;
  [[nodiscard]] QRectF remarkBox(const Element& e) const;
  [[nodiscard]] QLineF dimensionLine(const Element& e) const;
  [[nodiscard]] QPointF riserSpot(const Band& b) const;
  [[nodiscard]] Id hitPaper(QPointF at, bool pictures);
  [[nodiscard]] QString handWords(const Snap& snap) const;
  [[nodiscard]] QString value(const Reading& reading, const Part& part, std::string_view key) const;
  [[nodiscard]] double snapStep() const;
  [[nodiscard]] Snap snapped(QPointF screen, Qt::KeyboardModifiers modifiers = {});
  [[nodiscard]] bool still(const Band& band) const;
  [[nodiscard]] bool inMotion() const { return drag_ == Drag::pan || rest_.isActive(); }
  [[nodiscard]] QLineF bandLine(const Band& band) const;
  [[nodiscard]] bool onLine() const { return mode_ == Mode::line && lineFrom_ != noId; }
  void clickAt(Spot spot, Id on, Qt::KeyboardModifiers modifiers);
  void finishLinePiece();
  bool placeAt(Spot spot, Id on);
  bool placeOnSelected();
  [[nodiscard]] Id likeHere() const;
  [[nodiscard]] double shareAt(Id pipe, QPointF at) const;
  void selectInside(const std::function<bool(QPointF)>& inside, Qt::KeyboardModifiers modifiers);
  void finishEntry();
  void endMode();
  void hint();
  void placeSymbols(const QRectF& visible);
  void placeMarks(const QRectF& visible);
  [[nodiscard]] bool farAway() const { return spacing_ < 12; }  // lines alone, by their colours

  Document& doc_;
  Look look_;
  Colouring colouring_ = Colouring::velocity;
  double scale_ = 1.0;  // px per metre
  QPointF origin_;      // screen position of (0, 0)
  bool fitted_ = true;

  bool outdated_ = true;
  std::vector<Band> bands_;
  std::vector<Symbol> symbols_;
  std::vector<Mark> marks_;
  std::vector<std::pair<Id, Spot>> found_;  // the places of findings, worst first
  Painted painted_;
  std::vector<Label> labels_;
  std::vector<std::pair<Id, Spot>> points_;
  std::vector<char> jointDegree_;
  QTimer rest_;           // ends a zoom: then everything is drawn again
  double spacing_ = 100;  // px between points in sight, about
  double scaleTop_ = 1.0;
  Measure scaleMeasure_ = Measure::velocity;

  std::unordered_map<std::string, std::string> lacking_;  // name → what is said of it
  std::vector<Id> onPaper_;                               // remarks, dimensions, pictures
  mutable PictureStore pictures_{doc_, this, [this] {
                                   if (fitted_ && drag_ == Drag::none && mode_ == Mode::look) fit();
                                   update();
                                 }};
  bool heights_ = false;

  enum class Mode { look, line, place, join, scale } mode_ = Mode::look;
  const Part* placing_ = nullptr;
  bool many_ = false;  // what is placed stays in the hand
  PipeStrip* strip_;
  Id lineFrom_ = noId, lineLike_ = noId;
  QString entry_;
  bool entering_ = false;
  LinePart entryPart_ = LinePart::length;
  LineTyping typed_;
  std::vector<Spot> measured_;  // the two clicks on a picture
  Id scaled_ = noId;
  QPointF hand_;  // last position of the hand
  bool handHere_ = false;
  QPolygonF lasso_;
  enum class Drag { none, pan, band, lasso, move } drag_ = Drag::none;
  QPointF dragFrom_, dragLast_;
  Spot dragSpot_;
  int dragRun_ = 0;
  Network dragBase_;
};

}  // namespace conduit::desktop

// One case solved over values of one or two of its givens: set up in words, drawn, read off, given back.
#pragma once

#include <QTimer>
#include <QWidget>

#include "cases/sweep.h"
#include "document/background.h"
#include "document/document.h"
#include "look/look.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QToolButton;

namespace conduit::desktop {

class Plot;

class SweepPane : public QWidget {
  Q_OBJECT
 public:
  explicit SweepPane(Document& document, QWidget* parent = nullptr);
  ~SweepPane() override;
  void setLook(const Look& look);
  /// Reads the document: the set-up, what is watched, whether what is drawn is older.
  void refresh();
  /// Runs what is set up, or what the table says; what ran before is stopped.
  void run();
  void runRows(const QString& file);
  /// What was solved until then arrives as its last word.
  void stop() { work_.stop(); }
  [[nodiscard]] bool running() const { return work_.running(); }
  [[nodiscard]] const SweepResult* result() const { return result_.get(); }
  [[nodiscard]] Plot& plot() { return *plot_; }
  void focusSetup();

 signals:
  void folded(bool folded);

 private:
  void start(Sweep sweep);
  void keepSetup();
  void show();
  void readOff(double x);
  void giveBack();
  void saveTable();
  void savePicture();
  [[nodiscard]] std::size_t nearest(double x) const;
  [[nodiscard]] double xOf(std::size_t k) const;
  Document& doc_;
  Look look_;
  QLabel *title_, *status_, *read_, *links_, *hint_;
  QLineEdit *vary_, *over_, *varyToo_, *overToo_;
  QComboBox *drawn_, *drawnToo_;
  QToolButton *go_, *fold_, *rows_;
  QWidget *setup_, *figure_;
  Plot* plot_;
  QTimer rest_;
  Sweep sweep_;  // of the result
  std::shared_ptr<SweepResult> result_;
  std::uint64_t stamp_ = 0;  // of the model it was run on
  bool open_ = true, begun_ = false;
  std::size_t pointed_ = 0;
  bool pointing_ = false, pinned_ = false;  // a click keeps the reading until the next
  Background work_{tr("The sweep"), this};
};

}  // namespace conduit::desktop

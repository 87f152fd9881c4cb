// The Pumps desk: what the network asks of a pump, which pump does it, how near it is to trouble.
#pragma once

#include <QTimer>

#include "desks/desk.h"
#include "desks/pumps/study.h"

class QLabel;
class QLineEdit;
class QSplitter;

namespace conduit::desktop {

class CandidatesModel;
class CandidatesView;
class Places;
class PumpCard;
class Stack;

class PumpsDesk : public Desk {
  Q_OBJECT
 public:
  explicit PumpsDesk(Document& document);
  ~PumpsDesk() override;

  [[nodiscard]] QString word() const override { return tr("Pumps"); }
  [[nodiscard]] QKeySequence key() const override { return QKeySequence("Alt+2"); }
  void setLook(const Look& look) override;
  void fillMenu(Menu which, QMenu* menu, const Make& make) override;
  void takeKeyboard() override;

  [[nodiscard]] Places& places() { return *places_; }
  [[nodiscard]] Stack& figure() { return *figure_; }
  [[nodiscard]] PumpCard& card() { return *card_; }
  [[nodiscard]] CandidatesView& candidates() { return *candidates_; }
  [[nodiscard]] const StudyResultPtr& result() const { return result_; }
  /// Everything that was asked for is there, of this very model.
  [[nodiscard]] bool settled() const;
  /// The data sheet of the pump, or of the selection: PDF or HTML by the ending of the name.
  bool writeSheet(const QString& path, bool ofSelection);
  /// A proposal that was made last, if any.
  [[nodiscard]] const std::optional<Model>& proposed() const { return proposal_; }

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void later(int ms = 60);
  void begin();
  void receive(const StudyResultPtr& result);
  void showFigure();
  [[nodiscard]] QString whyNoFigure() const;
  void showCandidates();
  void readAt(std::optional<double> flow_m3s, std::optional<double> head_m);
  void giveBack();
  void tryItem(const QString& item);
  void takeItem(const QString& item);
  void point(double x);
  void act(const QString& link);
  void exportFigure();
  void exportTable();
  void exportSheet(bool ofSelection);
  Document& doc_;
  Look look_;
  Places* places_;
  Stack* figure_;
  PumpCard* card_;
  CandidatesModel* model_;
  CandidatesView* candidates_;
  QLabel *title_, *foot_, *readWords_, *giveBack_;
  QLineEdit *readFlow_, *readHead_;
  QSplitter* split_;
  PumpStudy study_{doc_, this};
  QTimer later_;
  StudyResultPtr result_;
  std::uint64_t stamp_ = 0;  // of the model the last study was begun with
  CaseId case_ = drawingCase;
  bool stale_ = true;
  std::optional<DutyPoint> read_;
  bool readByHead_ = false;
  std::optional<SharedPoint> sharedRead_;
  std::optional<Model> proposal_;
  QString proposed_;
};

}  // namespace conduit::desktop

// The Cases desk: all cases side by side, the card of the current one, sweeps below.
#pragma once

#include <QTimer>

#include "desks/desk.h"

class QLineEdit;
class QSplitter;
class QToolButton;

namespace conduit::desktop {

class CaseCard;
class GridModel;
class GridView;
class SweepPane;

class CasesDesk : public Desk {
  Q_OBJECT
 public:
  explicit CasesDesk(Document& document);
  ~CasesDesk() override;

  [[nodiscard]] QString word() const override { return tr("Cases"); }
  [[nodiscard]] QKeySequence key() const override { return QKeySequence("Alt+4"); }
  void setLook(const Look& look) override;
  void fillMenu(Menu which, QMenu* menu, const Make& make) override;
  void takeKeyboard() override;

  [[nodiscard]] GridView& grid() { return *view_; }
  [[nodiscard]] GridModel& model() { return *model_; }
  [[nodiscard]] CaseCard& card() { return *card_; }
  [[nodiscard]] SweepPane& sweep() { return *sweep_; }
  void newCase();
  void setAsRows(bool asRows);
  /// The grid as a table file, by the ending of the name.
  bool writeGrid(const QString& path);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void later();
  void refresh();
  void exportTable();
  void moveCurrent(int by);
  Document& doc_;
  Look look_;
  GridModel* model_;
  GridView* view_;
  CaseCard* card_;
  SweepPane* sweep_;
  QLineEdit* add_;
  QToolButton* turn_;
  QWidget* foot_;
  QSplitter* split_;
  QTimer later_;
  bool stale_ = true;
  CaseId shown_ = noCase;  // that was brought into sight
};

}  // namespace conduit::desktop

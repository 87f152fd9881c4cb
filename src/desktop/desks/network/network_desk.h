// The Network desk: Plan above, Levels below, the card beside, the drawer at the foot.
#pragma once

#include "desks/desk.h"

class QLabel;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace conduit::desktop {

class PlanView;
class LevelsView;
class Card;
class Ledger;
class FindingsPage;
class StockPage;
class ImportPage;
class Rack;
struct PictureFile;

class NetworkDesk : public Desk {
  Q_OBJECT
 public:
  explicit NetworkDesk(Document& document);
  ~NetworkDesk() override;

  [[nodiscard]] QString word() const override { return tr("Network"); }
  [[nodiscard]] QKeySequence key() const override { return QKeySequence("Alt+1"); }
  void setLook(const Look& look) override;
  void fillMenu(Menu which, QMenu* menu, const Make& make) override;
  [[nodiscard]] QWidget* topTool() override;
  void takeKeyboard() override;
  /// Title, Plan and Levels.
  void paintPage(QPainter& painter, const QRect& page) override;
  void showAll() override;
  bool takeFile(const QUrl& url) override;
  [[nodiscard]] bool wouldTake(const QUrl& url) const override;

  void showDrawer(int page);  // 0 findings, 1 ledger, 2 stock, 3 import, -1 shut
  /// Puts a picture under the drawing: by its path from the model's file where it lies beside it, else inside
  /// the model. It is read off the thread of the window and placed when it has been.
  void placePicture(const QString& path);
  [[nodiscard]] PlanView& plan() { return *plan_; }
  [[nodiscard]] LevelsView& levels() { return *levels_; }
  [[nodiscard]] Card& card() { return *card_; }
  [[nodiscard]] Ledger& ledger() { return *ledger_; }
  [[nodiscard]] FindingsPage& findingsPage() { return *findings_; }
  [[nodiscard]] StockPage& stockPage() { return *stockPage_; }
  [[nodiscard]] ImportPage& importTable() { return *importPage_; }

 private:
  // The commands, in commands.cpp.
  void fillFile(QMenu* file, const Make& make);
  void fillEdit(QMenu* edit, const Make& make);
  void fillDraw(QMenu* draw, const Make& make);
  void fillView(QMenu* view, const Make& make);
  void nextIncomplete(int way);
  void placeRead(const QString& path, const PictureFile& picture);
  void keepPictureInside();
  [[nodiscard]] std::vector<Id> selectionOrAll() const;
  bool copy();
  void paste();

  void makeColours();
  void refreshHandle();
  void say(const QString& words, bool warning);

  Document& doc_;
  Look look_;
  Background placing_{tr("The reading of the picture"), this};
  int models_ = 0;  // how many have been opened: what was begun for an earlier one is not put into this one
  PlanView* plan_;
  LevelsView* levels_;
  Card* card_;
  Ledger* ledger_;
  FindingsPage* findings_;
  StockPage* stockPage_ = nullptr;
  ImportPage* importPage_ = nullptr;
  Rack* rack_;
  QSplitter* split_;
  QStackedWidget* drawer_;
  QWidget *divider_, *handle_;
  QLabel *path_, *routeLabel_, *sumLabel_, *saved_;
  QToolButton *findingsButton_, *ledgerButton_, *stockButton_, *colours_, *routeFree_;
  QString
      clipped_;  // the model text last put on the clipboard, so that pasting it again goes a little further
  int pasted_ = 0;
};

}  // namespace conduit::desktop

// Hangs up the views of the Network desk and gives the commands their keys. Holds no model of its own.
#pragma once

#include <QMainWindow>

#include "document/document.h"
#include "look/look.h"

class QSplitter;
class QStackedWidget;
class QToolButton;
class QLabel;

namespace conduit::desktop {

class PlanView;
class LevelsView;
class Card;
class Ledger;
class FindingsList;
class StockPage;
class BringInPage;
class Finder;
class KeysSheet;
class BalanceLine;
class Rack;
struct PictureFile;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(QWidget* parent = nullptr);
  ~MainWindow() override;
  bool openFile(const QString& path);
  void setLook(bool dark);
  /// Title, Plan and Levels as they stand, fitted to a page.
  void paintPage(QPainter& painter, const QRect& page);
  void showDrawer(int page);  // 0 findings, 1 ledger, 2 stock, 3 bring in, -1 shut
  [[nodiscard]] Document& document() { return *doc_; }
  [[nodiscard]] PlanView& plan() { return *plan_; }
  [[nodiscard]] LevelsView& levels() { return *levels_; }
  [[nodiscard]] Card& card() { return *card_; }
  [[nodiscard]] Ledger& ledger() { return *ledger_; }
  [[nodiscard]] StockPage& stockPage() { return *stockPage_; }
  [[nodiscard]] BringInPage& bringIn() { return *bringIn_; }
  [[nodiscard]] Finder& finder() { return *finder_; }
  /// Puts a picture under the drawing: by its path from the model's file where it lies beside it, else inside
  /// the model. It is read off the thread of the window and placed when it has been.
  void placePicture(const QString& path);
  /// Words that are asked when unsaved changes would be lost; tests answer in its place.
  std::function<bool(const QString&)> askToDrop, askToReplace;
  /// Under the name as typed in the dialog; its ending is added where it lacks one.
  bool saveUnder(QString path);

 protected:
  void closeEvent(QCloseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  // The commands, in commands.cpp.
  void makeActions();
  void makeFileMenu(QMenu* menu);
  void makeEditMenu(QMenu* menu);
  void makeDrawMenu(QMenu* menu);
  void makeViewMenu(QMenu* menu);
  void fillHistory(QMenu* menu);
  void nextIncomplete(int way);
  void placeRead(const QString& path, const PictureFile& picture);
  void keepPictureInside();
  [[nodiscard]] std::vector<Id> selectionOrAll() const;
  void makeTop();
  void refreshTitle();
  void refreshHistory();
  void remember(const QString& path);
  void fillRecent();
  bool mayDrop();
  bool saveAs();
  bool save();
  bool copy();
  void paste();
  void print();
  QAction* command(const QString& name, const QString& words, const QKeySequence& keys,
                   std::function<void()> run);

  std::unique_ptr<Document> doc_;
  int models_ = 0;  // how many have been opened: what was begun for an earlier one is not put into this one
  Look look_;
  PlanView* plan_;
  LevelsView* levels_;
  Card* card_;
  Ledger* ledger_;
  FindingsList* findings_;
  StockPage* stockPage_ = nullptr;
  BringInPage* bringIn_ = nullptr;
  Finder* finder_ = nullptr;
  KeysSheet* keys_ = nullptr;
  BalanceLine* balance_;
  Rack* rack_;
  QSplitter* split_;
  QStackedWidget* drawer_;
  QWidget *top_, *divider_, *handle_;
  QLabel *title_, *path_, *routeLabel_, *sumLabel_, *saved_, *deskName_;
  QToolButton *menu_, *units_, *findingsButton_, *ledgerButton_, *stockButton_, *colours_, *routeFree_;
  QMenu* recent_;
  QAction *undo_, *redo_;
  QString
      clipped_;  // the model text last put on the clipboard, so that pasting it again goes a little further
  int pasted_ = 0;
};

}  // namespace conduit::desktop

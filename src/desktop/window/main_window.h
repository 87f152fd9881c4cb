// Hangs up the desks and gives the commands their keys. Holds no model of its own.
#pragma once

#include <QMainWindow>

#include <map>

#include "desks/desk.h"

class QStackedWidget;
class QToolButton;
class QLabel;

namespace conduit::desktop {

class Finder;
class KeysSheet;
class BalanceLine;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  /// `hangUp` makes the desks; they become the window's.
  explicit MainWindow(std::vector<Desk*> (*hangUp)(Document&) = makeDesks);
  ~MainWindow() override;
  bool openFile(const QString& path);
  /// A link to the unsaved work that an earlier run left behind.
  void offerRecovery(const QString& file);
  void setLook(bool dark);
  /// By its place in the top strip, from 0.
  void showDesk(std::size_t number);
  /// The one in front.
  [[nodiscard]] Desk& desk() const;
  /// Brings the desk of that kind to the front.
  template <class D>
  void showDeskOf() {
    for (std::size_t i = 0; i < desks_.size(); ++i)
      if (dynamic_cast<D*>(desks_[i])) return showDesk(i);
  }
  /// The desk of a kind, whether in front or not; it is there.
  template <class D>
  [[nodiscard]] D& deskOf() const {
    for (Desk* desk : desks_)
      if (auto* wanted = qobject_cast<D*>(desk)) return *wanted;
    qFatal("there is no such desk");
  }
  [[nodiscard]] Document& document() { return *doc_; }
  [[nodiscard]] Finder& finder() { return *finder_; }
  /// Words that are asked when unsaved changes would be lost; tests answer in its place.
  std::function<bool(const QString&)> askToDrop, askToReplace;
  /// Under the name as typed in the dialog; its ending is added where it has none.
  bool saveUnder(QString path);

 protected:
  void closeEvent(QCloseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;

 private:
  // The commands, in commands.cpp.
  void makeActions();
  void applyLook();
  void openKeys();
  void makeFileMenu(QMenu* menu);
  void makeEditMenu(QMenu* menu);
  void fillFromDesks(Desk::Menu which, QMenu* menu);
  void fillHistory(QMenu* menu);
  void markDesk();
  void makeTop();
  void refreshTitle();
  void fillCases();
  void refreshHistory();
  void remember(const QString& path);
  void fillRecent();
  bool mayDrop();
  bool saveAs();
  bool save();
  void print();
  QAction* command(const QString& name, const QString& words, const QKeySequence& keys,
                   std::function<void()> run);

  std::unique_ptr<Document> doc_;
  Look look_;
  bool shown_ = false;
  std::vector<Desk*> desks_;
  std::vector<QToolButton*> deskButtons_;
  std::map<Desk*, std::vector<QAction*>> commandsOf_;
  QStackedWidget* stack_ = nullptr;
  Finder* finder_ = nullptr;
  KeysSheet* keys_ = nullptr;
  BalanceLine* balance_;
  QWidget* top_;
  QLabel* title_;
  QToolButton *menu_, *units_, *case_;
  QMenu* cases_;
  QMenu* recent_;
  QAction *undo_, *redo_;
};

}  // namespace conduit::desktop

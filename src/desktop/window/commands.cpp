// The commands of the window: their words, keys and what they do.
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QToolButton>
#include <algorithm>

#include "window/finder.h"
#include "window/keys_sheet.h"
#include "window/main_window.h"

namespace conduit::desktop {

void MainWindow::makeActions() {
  auto* menu = new QMenu(this);
  makeFileMenu(menu->addMenu(tr("File")));
  makeEditMenu(menu->addMenu(tr("Edit")));
  fillFromDesks(Desk::Menu::draw, menu->addMenu(tr("Draw")));
  auto* view = menu->addMenu(tr("View"));
  for (std::size_t i = 0; i < desks_.size(); ++i)
    if (!desks_[i]->key().isEmpty())
      view->addAction(command(QString("desk.show.%1").arg(desks_[i]->word().toLower()),
                              tr("%1 desk").arg(desks_[i]->word()), desks_[i]->key(),
                              [this, i] { showDesk(i); }));
  view->addSeparator();
  fillFromDesks(Desk::Menu::view, view);
  view->addAction(command("view.dark", tr("Dark or light theme"), QKeySequence("Ctrl+Shift+L"),
                          [this] { setLook(!look_.dark); }));
  menu->addAction(command("find", tr("Find anything"), QKeySequence("Ctrl+K"), [this] { finder_->open(); }));
  QAction* keys = command("keys", tr("Keyboard shortcuts"), QKeySequence("F1"), [this] { openKeys(); });
  // The sign may come with Shift or without.
  keys->setShortcuts({QKeySequence("F1"), QKeySequence("?"), QKeySequence(Qt::SHIFT | Qt::Key_Question)});
  menu->addAction(keys);
  menu_->setMenu(menu);
  command("menu", tr("Open the menu"), QKeySequence("F10"), [this] { menu_->showMenu(); });
  auto* units = new QMenu(this);
  for (const UnitSet& set : UnitSet::all())
    units->addAction(QString::fromStdString(set.name()), this, [this, &set] { doc_->setUnits(set); });
  units->addSeparator();
  units->addAction(tr("Unit overrides …"), this, [this] {
    doc_->select({});
    emit doc_->wantsField(jobId, "own units");
  });
  units_->setMenu(units);
}

// The commands by desk, those of every desk first.
void MainWindow::openKeys() {
  std::vector<KeysSheet::Group> groups{{tr("Every desk"), {}}};
  for (QAction* action : actions())
    if (std::none_of(commandsOf_.begin(), commandsOf_.end(), [&](const auto& of) {
          return std::find(of.second.begin(), of.second.end(), action) != of.second.end();
        }))
      groups.front().commands.push_back(action);
  for (Desk* desk : desks_) groups.push_back({tr("%1 desk").arg(desk->word()), commandsOf_[desk]});
  keys_->open(groups, look_);
}

void MainWindow::makeFileMenu(QMenu* file) {
  file->addAction(command("file.new", tr("New"), QKeySequence::New, [this] {
    if (mayDrop()) doc_->startNew();
  }));
  file->addAction(command("file.open", tr("Open …"), QKeySequence::Open, [this] {
    const QString path = QFileDialog::getOpenFileName(
        this, tr("Open a model"), QFileInfo(doc_->path()).path(), tr("Level Conduit models (*.lconduit)"));
    if (!path.isEmpty()) openFile(path);
  }));
  recent_ = file->addMenu(tr("Recent"));
  fillRecent();
  file->addSeparator();
  fillFromDesks(Desk::Menu::file, file);
  file->addSeparator();
  file->addAction(command("file.save", tr("Save"), QKeySequence::Save, [this] { save(); }));
  file->addAction(
      command("file.save-as", tr("Save as …"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); }));
  file->addAction(
      command("file.print", tr("Print current view …"), QKeySequence::Print, [this] { print(); }));
  file->addSeparator();
  file->addAction(command("file.quit", tr("Quit"), QKeySequence("Ctrl+Q"), [this] { close(); }));
}

// Each desk's own part; its commands answer while it is the one in front.
void MainWindow::fillFromDesks(Desk::Menu which, QMenu* menu) {
  for (Desk* desk : desks_)
    desk->fillMenu(which, menu,
                   [this, desk](const QString& name, const QString& words, const QKeySequence& keys,
                                std::function<void()> run) {
                     QAction* action = command(name, words, keys, std::move(run));
                     commandsOf_[desk].push_back(action);
                     return action;
                   });
}

void MainWindow::makeEditMenu(QMenu* edit) {
  undo_ = command("edit.undo", tr("Undo"), QKeySequence::Undo, [this] { doc_->undo(); });
  redo_ = command("edit.redo", tr("Redo"), QKeySequence("Ctrl+Shift+Z"), [this] { doc_->redo(); });
  edit->addActions({undo_, redo_});
  auto* history = edit->addMenu(tr("History"));
  history->setObjectName("history");
  connect(history, &QMenu::aboutToShow, this, [this, history] { fillHistory(history); });
  command("edit.history", tr("History"), QKeySequence("Ctrl+H"),
          [this, history] { history->popup(desk().mapToGlobal(QPoint(60, 20))); });
  edit->addSeparator();
  fillFromDesks(Desk::Menu::edit, edit);
}

// The steps of the history, newest first; where it stands is marked, and a click jumps.
void MainWindow::fillHistory(QMenu* menu) {
  menu->clear();
  const History& h = doc_->history();
  const std::size_t newest = std::min(h.size(), h.at() + 12), oldest = h.at() > 25 ? h.at() - 25 : 0;
  for (std::size_t i = newest; i-- > oldest;) {
    QAction* a = menu->addAction(i == 0 ? tr("as opened") : QString::fromStdString(h.nameOf(i)), this,
                                 [this, i] { doc_->jumpTo(i); });
    a->setCheckable(true);
    a->setChecked(i == h.at());
  }
  if (oldest > 0) menu->addAction(tr("%1 earlier steps").arg(oldest), this, [this] { doc_->jumpTo(0); });
}

}  // namespace conduit::desktop

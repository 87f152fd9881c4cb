#include "window/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPrintDialog>
#include <QPrinter>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QTime>
#include <QToolButton>
#include <QVBoxLayout>

#include "cases/grid.h"
#include "desks/desk.h"
#include "window/balance_line.h"
#include "window/finder.h"
#include "window/keys_sheet.h"

namespace conduit::desktop {
namespace {

bool isModel(const QUrl& url) { return url.toLocalFile().endsWith(".lconduit", Qt::CaseInsensitive); }

}  // namespace

MainWindow::MainWindow(std::vector<Desk*> (*hangUp)(Document&))
    : doc_(std::make_unique<Document>()), look_(Look::light()) {
  setObjectName("window");
  setAcceptDrops(true);
  resize(1280, 800);
  askToDrop = [this](const QString& words) {
    return QMessageBox::question(this, tr("Unsaved changes"), words,
                                 QMessageBox::Discard | QMessageBox::Cancel,
                                 QMessageBox::Cancel) == QMessageBox::Discard;
  };
  askToReplace = [this](const QString& words) {
    return QMessageBox::question(this, tr("Save the model"), words, QMessageBox::Save | QMessageBox::Cancel,
                                 QMessageBox::Cancel) == QMessageBox::Save;
  };
  // What leads to an element, a field, an entry of the stock or the findings leads to the desk that shows
  // them. Said before there are desks, so that the desk comes to the front first and then puts the keyboard
  // where it is wanted.
  const auto home = [this] { showDesk(0); };
  connect(doc_.get(), &Document::wantsField, this, home);
  connect(doc_.get(), &Document::wantsShown, this, home);
  connect(doc_.get(), &Document::wantsStock, this, home);
  connect(doc_.get(), &Document::wantsFindings, this, home);
  connect(doc_.get(), &Document::wantsNotJudged, this, home);
  balance_ = new BalanceLine(*doc_);
  desks_ = hangUp(*doc_);
  stack_ = new QStackedWidget;
  for (Desk* desk : desks_) {
    stack_->addWidget(desk);
    connect(desk, &Desk::says, this,
            [this](const QString& words, bool warning) { balance_->say(words, warning); });
    connect(desk, &Desk::wantsFinder, this, [this](const QString& words) { finder_->open(words); });
    connect(desk, &Desk::wantsKeys, this, &MainWindow::openKeys);
  }
  makeTop();
  auto* central = new QWidget;
  auto* layout = new QVBoxLayout(central);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(top_);
  layout->addWidget(stack_, 1);
  setCentralWidget(central);
  finder_ = new Finder(
      *doc_, [this] { return actions(); }, this);
  keys_ = new KeysSheet(this);
  connect(finder_, &Finder::closed, this, [this] { desk().takeKeyboard(); });
  connect(finder_, &Finder::wantsShown, doc_.get(), &Document::wantsShown);
  connect(finder_, &Finder::wantsStock, doc_.get(), &Document::wantsStock);
  connect(keys_, &KeysSheet::closed, this, [this] { desk().takeKeyboard(); });
  connect(balance_, &BalanceLine::wantsFindings, doc_.get(), &Document::wantsFindings);

  makeActions();
  connect(doc_.get(), &Document::refused, this, [this](const QString& why) { balance_->say(why, true); });
  connect(doc_.get(), &Document::said, this, [this](const QString& what) { balance_->say(what, false); });
  connect(doc_.get(), &Document::fileChanged, this, [this] { refreshTitle(), refreshHistory(); });
  connect(doc_.get(), &Document::changed, this, &MainWindow::refreshHistory);
  connect(doc_.get(), &Document::unitsChanged, this, &MainWindow::refreshTitle);
  connect(doc_.get(), &Document::caseChanged, this, &MainWindow::refreshTitle);
  setLook(QSettings().value("look").toString() == "dark");
  refreshTitle();
  refreshHistory();
  showDesk(0);
}

MainWindow::~MainWindow() {
  delete takeCentralWidget();  // the views look at the document: they go first
}

void MainWindow::makeTop() {
  top_ = new QWidget;
  top_->setFixedHeight(46);
  auto* line = new QHBoxLayout(top_);
  line->setContentsMargins(8, 0, 14, 0);
  line->setSpacing(8);
  menu_ = new QToolButton;
  menu_->setObjectName("menu");
  menu_->setAccessibleName(tr("Menu"));
  menu_->setText("☰");
  menu_->setPopupMode(QToolButton::InstantPopup);
  title_ = new QLabel;
  title_->setObjectName("job.title");
  title_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  units_ = new QToolButton;
  units_->setObjectName("units");
  units_->setAccessibleName(tr("Unit set"));
  units_->setPopupMode(QToolButton::InstantPopup);
  line->addWidget(menu_);
  for (std::size_t i = 0; i < desks_.size(); ++i) {
    auto* button = new QToolButton;
    button->setObjectName(i == 0 ? QString("desk") : QString("desk.%1").arg(i));
    button->setText(desks_[i]->word());
    connect(button, &QToolButton::clicked, this, [this, i] { showDesk(i); });
    deskButtons_.push_back(button);
    line->addWidget(button);
  }
  line->addSpacing(16);
  line->addWidget(balance_, 1);
  // The current case stands under the title; a click chooses another.
  case_ = new QToolButton;
  case_->setObjectName("case");
  case_->setAccessibleName(tr("Current case"));
  case_->setPopupMode(QToolButton::InstantPopup);
  cases_ = new QMenu(this);
  case_->setMenu(cases_);
  connect(cases_, &QMenu::aboutToShow, this, &MainWindow::fillCases);
  auto* names = new QVBoxLayout;
  names->setSpacing(0);
  names->setContentsMargins(0, 2, 0, 2);
  names->addStretch(1);
  names->addWidget(title_);
  names->addWidget(case_, 0, Qt::AlignRight);
  names->addStretch(1);
  line->addLayout(names);
  for (Desk* desk : desks_)
    if (QWidget* tool = desk->topTool()) line->addWidget(tool);
  line->addWidget(units_);
}

void MainWindow::fillCases() {
  cases_->clear();
  const CaseGrid grid = gridOf(doc_->model(), doc_->answers(), doc_->units());
  for (const GridHeading& h : grid.cases) {
    QAction* action =
        cases_->addAction(QString("%1\t%2").arg(QString::fromStdString(h.name).replace("&", "&&"),
                                                QString::fromStdString(h.verdict)),
                          this, [this, id = h.id] { doc_->setCase(id); });
    action->setCheckable(true);
    action->setChecked(h.id == doc_->currentCase());
  }
  cases_->addSeparator();
  cases_->addAction(tr("New case from this one"), this,
                    [this] { doc_->takeModel(addCase(doc_->model(), {}, doc_->currentCase())); });
}

QAction* MainWindow::command(const QString& name, const QString& words, const QKeySequence& keys,
                             std::function<void()> run) {
  auto* action = new QAction(words, this);
  action->setObjectName(name);
  action->setShortcut(keys);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
  addAction(action);
  return action;
}

void MainWindow::setLook(bool dark) {
  look_ = dark ? Look::night() : Look::light();
  QSettings().setValue("look", dark ? "dark" : "light");
  applyLook();
}

// Faces given to a widget before it is polished do not hold on every platform: the style sheet then brings
// the system's. They are given again once all is on the screen.
void MainWindow::showEvent(QShowEvent* event) {
  QMainWindow::showEvent(event);
  if (shown_) return;
  shown_ = true;
  applyLook();
}

void MainWindow::applyLook() {
  qApp->setPalette(look_.palette());
  qApp->setFont(face(12.5));
  qApp->setStyleSheet(look_.styleSheet());
  for (Desk* desk : desks_) desk->setLook(look_);
  finder_->setLook(look_);
  balance_->setLook(look_);
  top_->setObjectName("top");
  top_->setStyleSheet(QString("#top { border-bottom: 1px solid %1; }").arg(look_.hair.name()));
  markDesk();
  title_->setFont(face(12.5, true));
  refreshTitle();
}

void MainWindow::refreshTitle() {
  const QString title = doc_->title();
  title_->setText(title.size() > 44 ? title.left(43) + "…" : title);
  title_->setToolTip(doc_->path());
  setWindowTitle(QString("%1%2 — Level Conduit").arg(doc_->dirty() ? "*" : "", title));
  units_->setText(QString::fromStdString(doc_->units().name()));
  const QString name = QString::fromStdString(doc_->caseNow().name);
  case_->setText(tr("case: %1").arg(name.size() > 34 ? name.left(33) + "…" : name));
  case_->setVisible(doc_->model().cases.count() > 1);
}

// The word of the desk in front is underlined; its tools stand in the strip, its commands answer.
void MainWindow::markDesk() {
  for (std::size_t i = 0; i < desks_.size(); ++i) {
    const bool front = desks_[i] == &desk();
    deskButtons_[i]->setFont(face(13, front));
    deskButtons_[i]->setStyleSheet(
        QString("border: none; border-bottom: 3px solid %1; padding: 10px 2px 8px 2px;")
            .arg(front ? look_.water.name() : QString("transparent")));
    if (QWidget* tool = desks_[i]->topTool()) tool->setVisible(front);
    for (QAction* action : commandsOf_[desks_[i]]) action->setEnabled(front);
  }
}

void MainWindow::showDesk(std::size_t number) {
  stack_->setCurrentWidget(desks_.at(number));
  markDesk();
  desk().takeKeyboard();
}

Desk& MainWindow::desk() const { return *static_cast<Desk*>(stack_->currentWidget()); }

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  if (keys_ && keys_->isVisible()) keys_->setGeometry(rect());
}

void MainWindow::refreshHistory() {
  undo_->setEnabled(doc_->history().canUndo());
  redo_->setEnabled(doc_->history().canRedo());
  undo_->setText(doc_->history().canUndo()
                     ? tr("Undo: %1").arg(QString::fromStdString(doc_->history().undoName()))
                     : tr("Undo"));
  redo_->setText(doc_->history().canRedo()
                     ? tr("Redo: %1").arg(QString::fromStdString(doc_->history().redoName()))
                     : tr("Redo"));
}

bool MainWindow::mayDrop() {
  return !doc_->dirty() || askToDrop(tr("Changes to %1 are not saved. Discard them?").arg(doc_->title()));
}

void MainWindow::offerRecovery(const QString& file) {
  const QFileInfo info(file);
  const QString name = info.completeBaseName().section('-', 0, -2);
  balance_->offer(tr("Recover unsaved work from %1, %2")
                      .arg(name.isEmpty() ? tr("an earlier session") : name,
                           QLocale().toString(info.lastModified(), QLocale::ShortFormat)),
                  [this, file] {
                    if (!mayDrop()) return offerRecovery(file);
                    if (doc_->recover(file)) emit doc_->said(tr("Recovered. Save it, or start a new model."));
                  });
}

bool MainWindow::openFile(const QString& path) {
  if (!mayDrop()) return false;
  if (!doc_->open(path)) return false;
  balance_->say({}, false);
  remember(path);
  for (Desk* desk : desks_) desk->showAll();
  return true;
}

bool MainWindow::save() {
  if (doc_->path().isEmpty()) return saveAs();
  return doc_->save(doc_->path());
}

bool MainWindow::saveAs() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Save the model"), doc_->path(),
                                                    tr("Level Conduit models (*.lconduit)"));
  return !path.isEmpty() && saveUnder(path);
}

bool MainWindow::saveUnder(QString path) {
  if (!path.endsWith(".lconduit")) {  // the dialog asked about the name as typed, not about this one
    path += ".lconduit";
    if (QFileInfo::exists(path) &&
        !askToReplace(tr("%1 already exists. Replace it?").arg(QFileInfo(path).fileName())))
      return false;
  }
  if (!doc_->save(path)) return false;
  remember(path);
  return true;
}

void MainWindow::remember(const QString& path) {
  QSettings settings;
  QStringList list = settings.value("recent").toStringList();
  const QString full = QFileInfo(path).absoluteFilePath();
  list.removeAll(full);
  list.prepend(full);
  settings.setValue("recent", list.mid(0, 10));
  fillRecent();
}

void MainWindow::fillRecent() {
  recent_->clear();
  for (const QString& path : QSettings().value("recent").toStringList())
    recent_->addAction(path, this, [this, path] { openFile(path); });
  recent_->setEnabled(!recent_->isEmpty());
}

void MainWindow::print() {
  QPrinter printer(QPrinter::ScreenResolution);
  printer.setPageOrientation(QPageLayout::Landscape);
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  QPainter p(&printer);
  desk().paintPage(p, p.viewport());
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!mayDrop()) return event->ignore();
  doc_->dropRecovery();
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  for (const QUrl& url : event->mimeData()->urls())
    if (isModel(url) || desk().wouldTake(url)) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  for (const QUrl& url : event->mimeData()->urls()) {
    if (isModel(url)) openFile(url.toLocalFile());
    else if (!desk().takeFile(url)) continue;
    return;
  }
}

}  // namespace conduit::desktop

#include "window/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
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

#include "card/card.h"
#include "drawer/findings_list.h"
#include "drawer/ledger.h"
#include "levels/levels_view.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "window/balance_line.h"
#include "window/rack.h"

namespace conduit::desktop {

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent), doc_(std::make_unique<Document>()), look_(Look::light()) {
  setObjectName("window");
  setAcceptDrops(true);
  resize(1280, 800);
  askToDrop = [this](const QString& words) {
    return QMessageBox::question(this, tr("Unsaved changes"), words, QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Cancel) == QMessageBox::Discard;
  };
  plan_ = new PlanView(*doc_);
  levels_ = new LevelsView(*doc_);
  card_ = new Card(*doc_);
  ledger_ = new Ledger(*doc_);
  findings_ = new FindingsList(*doc_);
  balance_ = new BalanceLine(*doc_);
  rack_ = new Rack;
  makeTop();

  // Divider between Plan and Levels: the route and where the head went.
  divider_ = new QWidget;
  divider_->setFixedHeight(26);
  auto* dividerLine = new QHBoxLayout(divider_);
  dividerLine->setContentsMargins(15, 0, 12, 0);
  auto* levelsName = new QLabel(tr("Levels"));
  levelsName->setObjectName("levels.name");
  routeLabel_ = new QLabel;
  routeLabel_->setObjectName("route");
  routeLabel_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  sumLabel_ = new QLabel;
  sumLabel_->setObjectName("head.sum");
  routeFree_ = new QToolButton;
  routeFree_->setText(tr("let the route go"));
  routeFree_->setObjectName("route.free");
  routeFree_->hide();
  connect(routeFree_, &QToolButton::clicked, this, [this] { levels_->choose({}); });
  dividerLine->addWidget(levelsName);
  dividerLine->addSpacing(8);
  dividerLine->addWidget(routeLabel_, 1);
  dividerLine->addWidget(routeFree_);
  dividerLine->addWidget(sumLabel_);
  connect(levels_, &LevelsView::routeChanged, this, [this] {
    routeLabel_->setText(levels_->routeWords());
    sumLabel_->setText(levels_->sumWords());
    routeFree_->setVisible(levels_->chosen());
  });

  split_ = new QSplitter(Qt::Vertical);
  split_->setObjectName("split");
  split_->setHandleWidth(1);
  split_->setChildrenCollapsible(false);
  auto* lower = new QWidget;
  auto* lowerLayout = new QVBoxLayout(lower);
  lowerLayout->setContentsMargins(0, 0, 0, 0);
  lowerLayout->setSpacing(0);
  lowerLayout->addWidget(divider_);
  lowerLayout->addWidget(levels_, 1);
  split_->addWidget(plan_);
  split_->addWidget(lower);
  split_->setSizes({430, 296});
  split_->setStretchFactor(0, 3);
  split_->setStretchFactor(1, 2);

  drawer_ = new QStackedWidget;
  drawer_->setObjectName("drawer");
  drawer_->addWidget(findings_);
  drawer_->addWidget(ledger_);
  drawer_->setFixedHeight(196);
  drawer_->hide();
  handle_ = new QWidget;
  handle_->setFixedHeight(30);
  auto* handleLine = new QHBoxLayout(handle_);
  handleLine->setContentsMargins(12, 0, 16, 0);
  findingsButton_ = new QToolButton;
  findingsButton_->setObjectName("drawer.findings");
  findingsButton_->setAccessibleName(tr("Findings"));
  ledgerButton_ = new QToolButton;
  ledgerButton_->setObjectName("drawer.ledger");
  ledgerButton_->setAccessibleName(tr("Ledger"));
  ledgerButton_->setText(tr("Ledger"));
  path_ = new QLabel;
  path_->setObjectName("worst");
  path_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  path_->setTextFormat(Qt::RichText);
  path_->setTextInteractionFlags(Qt::LinksAccessibleByMouse);
  connect(
      path_, &QLabel::linkActivated, this,
      [this](const QString& link) {
        if (!doc_->solved() || doc_->solved()->findings.empty()) return;
        const Finding f = doc_->solved()->findings.front();
        if (link == "place") doc_->apply({"", {}, f.place});
        else if (!f.remedies.empty()) doc_->apply(f.remedies.front());
      },
      Qt::QueuedConnection);
  saved_ = new QLabel;
  saved_->setObjectName("saved");
  handleLine->addWidget(findingsButton_);
  handleLine->addWidget(ledgerButton_);
  handleLine->addSpacing(8);
  handleLine->addWidget(path_, 1);
  handleLine->addWidget(saved_);
  connect(findingsButton_, &QToolButton::clicked, this, [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 0 ? -1 : 0); });
  connect(ledgerButton_, &QToolButton::clicked, this, [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 1 ? -1 : 1); });
  connect(balance_, &BalanceLine::wantsFindings, this, [this] { showDrawer(0); });

  auto* middle = new QWidget;
  auto* middleLayout = new QHBoxLayout(middle);
  middleLayout->setContentsMargins(0, 0, 0, 0);
  middleLayout->setSpacing(0);
  middleLayout->addWidget(rack_);
  middleLayout->addWidget(split_, 1);
  middleLayout->addWidget(card_);
  auto* central = new QWidget;
  auto* layout = new QVBoxLayout(central);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(top_);
  layout->addWidget(middle, 1);
  layout->addWidget(drawer_);
  layout->addWidget(handle_);
  setCentralWidget(central);

  makeActions();
  connect(rack_, &Rack::wanted, this, [this](const Part* part) { plan_->startKind(*part); });
  connect(plan_, &PlanView::modeChanged, this, [this](const QString& hint) { balance_->say(hint, false); });
  connect(doc_.get(), &Document::refused, this, [this](const QString& why) { balance_->say(why, true); });
  connect(doc_.get(), &Document::said, this, [this](const QString& what) { balance_->say(what, false); });
  connect(doc_.get(), &Document::wantsField, this, [this](Id, const QString& field) { card_->focusField(field); });
  connect(doc_.get(), &Document::fileChanged, this, [this] { refreshTitle(), refreshHistory(); });
  connect(doc_.get(), &Document::changed, this, &MainWindow::refreshHistory);
  connect(doc_.get(), &Document::unitsChanged, this, &MainWindow::refreshTitle);
  connect(doc_.get(), &Document::answered, this, &MainWindow::refreshTitle);
  setLook(QSettings().value("look").toString() == "dark");
  refreshTitle();
  refreshHistory();
  plan_->setFocus();
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
  deskName_ = new QLabel(tr("Network"));
  deskName_->setObjectName("desk");
  title_ = new QLabel;
  title_->setObjectName("job.title");
  title_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  colours_ = new QToolButton;
  colours_->setObjectName("colours");
  colours_->setAccessibleName(tr("What the colours show"));
  colours_->setPopupMode(QToolButton::InstantPopup);
  units_ = new QToolButton;
  units_->setObjectName("units");
  units_->setAccessibleName(tr("Set of units"));
  units_->setPopupMode(QToolButton::InstantPopup);
  line->addWidget(menu_);
  line->addWidget(deskName_);
  line->addSpacing(16);
  line->addWidget(balance_, 1);
  line->addWidget(title_);
  line->addWidget(colours_);
  line->addWidget(units_);
}

QAction* MainWindow::command(const QString& name, const QString& words, const QKeySequence& keys, std::function<void()> run) {
  auto* action = new QAction(words, this);
  action->setObjectName(name);
  action->setShortcut(keys);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
  addAction(action);
  return action;
}

void MainWindow::makeActions() {
  auto* menu = new QMenu(this);
  auto* file = menu->addMenu(tr("File"));
  file->addAction(command("file.new", tr("New"), QKeySequence::New, [this] {
    if (mayDrop()) doc_->startNew();
  }));
  file->addAction(command("file.open", tr("Open …"), QKeySequence::Open, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("Open a model"), QFileInfo(doc_->path()).path(), tr("Level Conduit models (*.lconduit)"));
    if (!path.isEmpty()) openFile(path);
  }));
  recent_ = file->addMenu(tr("Recent"));
  fillRecent();
  file->addSeparator();
  file->addAction(command("file.save", tr("Save"), QKeySequence::Save, [this] { save(); }));
  file->addAction(command("file.save-as", tr("Save as …"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); }));
  file->addAction(command("file.print", tr("Print the present view …"), QKeySequence::Print, [this] { print(); }));
  file->addSeparator();
  file->addAction(command("file.quit", tr("Quit"), QKeySequence("Ctrl+Q"), [this] { close(); }));
  auto* edit = menu->addMenu(tr("Edit"));
  undo_ = command("edit.undo", tr("Undo"), QKeySequence::Undo, [this] { doc_->undo(); });
  redo_ = command("edit.redo", tr("Redo"), QKeySequence("Ctrl+Shift+Z"), [this] { doc_->redo(); });
  edit->addActions({undo_, redo_});
  edit->addSeparator();
  edit->addAction(command("edit.copy", tr("Copy"), QKeySequence("Ctrl+C"), [this] { copy(); }));
  edit->addAction(command("edit.paste", tr("Paste"), QKeySequence("Ctrl+V"), [this] { paste(); }));
  edit->addAction(command("edit.duplicate", tr("Duplicate"), QKeySequence("Ctrl+D"), [this] { copy(), paste(); }));
  edit->addAction(command("edit.delete", tr("Delete"), QKeySequence("Ctrl+Delete"), [this] {
    if (!doc_->selection().empty()) doc_->take(removeAll(doc_->network(), doc_->selection()));
  }));
  edit->addAction(command("edit.all", tr("Select all"), QKeySequence("Ctrl+A"), [this] {
    std::vector<Id> ids;
    doc_->network().each([&](Id id, const Element&) { ids.push_back(id); });
    doc_->select(std::move(ids));
  }));
  edit->addSeparator();
  edit->addAction(command("edit.reverse", tr("Reverse"), QKeySequence("Ctrl+R"), [this] {
    if (!doc_->selection().empty()) doc_->take(reverseAll(doc_->network(), doc_->selection()));
  }));
  edit->addAction(command("edit.split", tr("Split the pipe (X)"), QKeySequence(), [this] { plan_->splitSelected(); }));
  auto* view = menu->addMenu(tr("View"));
  view->addAction(command("view.fit", tr("Fit Plan"), QKeySequence("Ctrl+0"), [this] { plan_->fit(); }));
  view->addAction(command("view.dark", tr("Dark or light"), QKeySequence("Ctrl+Shift+L"), [this] { setLook(!look_.dark); }));
  view->addAction(command("view.findings", tr("Findings"), QKeySequence("F3"), [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 0 ? -1 : 0); }));
  view->addAction(command("view.ledger", tr("Ledger"), QKeySequence("F4"), [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 1 ? -1 : 1); }));
  view->addAction(command("view.plan", tr("Go to Plan"), QKeySequence("F6"), [this] { plan_->setFocus(); }));
  view->addAction(command("view.levels", tr("Go to Levels"), QKeySequence("F7"), [this] { levels_->setFocus(); }));
  view->addAction(command("view.card", tr("Go to the card"), QKeySequence("F8"), [this] { card_->focusField(""); }));
  view->addAction(command("view.working", tr("Working of the main found number"), QKeySequence("Ctrl+="), [this] {
    if (doc_->selected() == noId) return;
    const Part& part = *doc_->network().at(doc_->selected()).part;
    if (!part.workings.empty()) card_->showWorking(QString::fromUtf8(part.workings[0].data(), static_cast<int>(part.workings[0].size())));
  }));
  view->addAction(command("view.route", tr("Route between two selected points"), QKeySequence("Ctrl+T"), [this] {
    if (doc_->selection().size() == 2) levels_->choose(routeBetween(doc_->network(), doc_->selection()[0], doc_->selection()[1]));
    else balance_->say(tr("Select two points (Shift and click) for a route of your own."), true);
  }));
  menu_->setMenu(menu);
  command("menu", tr("Open the menu"), QKeySequence("F10"), [this] { menu_->showMenu(); });
  auto* colours = new QMenu(this);
  const std::pair<QString, Colouring> scales[] = {{tr("Velocity"), Colouring::velocity}, {tr("Pressure"), Colouring::pressure}, {tr("Loss per metre"), Colouring::gradient}};
  for (const auto& [name, colouring] : scales) colours->addAction(name, this, [this, name = name, c = colouring] { plan_->setColouring(c), colours_->setText(name); });
  colours_->setMenu(colours);
  colours_->setText(tr("Velocity"));
  auto* units = new QMenu(this);
  for (const UnitSet& set : UnitSet::all()) units->addAction(QString::fromStdString(set.name()), this, [this, &set] { doc_->setUnits(set); });
  units_->setMenu(units);
}

void MainWindow::setLook(bool dark) {
  look_ = dark ? Look::night() : Look::light();
  QSettings().setValue("look", dark ? "dark" : "light");
  qApp->setPalette(look_.palette());
  qApp->setFont(face(12.5));
  qApp->setStyleSheet(look_.styleSheet());
  plan_->setLook(look_);
  levels_->setLook(look_);
  card_->setLook(look_);
  ledger_->setLook(look_);
  findings_->setLook(look_);
  balance_->setLook(look_);
  rack_->setLook(look_);
  const QString hair = look_.hair.name(), quiet = QString("color: %1").arg(look_.ink2.name());
  top_->setObjectName("top");
  top_->setStyleSheet(QString("#top { border-bottom: 1px solid %1; }").arg(hair));
  handle_->setObjectName("handle");
  handle_->setStyleSheet(QString("#handle { border-top: 1px solid %1; }").arg(hair));
  drawer_->setStyleSheet(QString("#drawer { border-top: 1px solid %1; }").arg(hair));
  divider_->setObjectName("divider");
  divider_->setStyleSheet(QString("#divider { border-bottom: 1px solid %1; }").arg(hair));
  card_->setStyleSheet(QString("#card { border-left: 1px solid %1; }").arg(hair));
  if (auto* name = findChild<QLabel*>("levels.name")) name->setFont(face(12.5, true));
  for (QLabel* label : {sumLabel_, saved_}) label->setStyleSheet(quiet);
  deskName_->setFont(face(13, true));
  deskName_->setStyleSheet(QString("border-bottom: 3px solid %1; padding: 10px 2px 8px 2px;").arg(look_.water.name()));
  title_->setFont(face(12.5, true));
  refreshTitle();
}

void MainWindow::refreshTitle() {
  const QString title = doc_->title();
  title_->setText(title.size() > 44 ? title.left(43) + "…" : title);
  title_->setToolTip(doc_->path());
  setWindowTitle(QString("%1%2 — Level Conduit").arg(doc_->dirty() ? "*" : "", title));
  units_->setText(QString::fromStdString(doc_->units().name()));
  saved_->setText(doc_->dirty() ? tr("not saved") : doc_->path().isEmpty() ? QString() : tr("saved"));
  const auto solved = doc_->solved();
  const std::size_t count = solved ? solved->findings.size() : 0;
  findingsButton_->setText(count ? tr("Findings  %1").arg(count) : tr("Findings"));
  findingsButton_->setFont(face(12.5, count > 0));
  QString worst;
  if (count && !drawer_->isVisible()) {
    const Finding& f = solved->findings.front();
    QString what = QString::fromStdString(f.what);
    if (!what.isEmpty()) what[0] = what[0].toUpper();
    worst = QString("<a href='place' style='color:%1;text-decoration:none'>%2</a>").arg(look_.ink.name(), what.toHtmlEscaped() + ".");
    if (!f.remedies.empty())
      worst += QString("&nbsp;&nbsp;&nbsp;<a href='remedy' style='color:%1'>%2</a>").arg(look_.water.name(), QString::fromStdString(f.remedies.front().words).toHtmlEscaped());
  }
  path_->setText(worst);
}

void MainWindow::refreshHistory() {
  undo_->setEnabled(doc_->history().canUndo());
  redo_->setEnabled(doc_->history().canRedo());
  undo_->setText(doc_->history().canUndo() ? tr("Undo: %1").arg(QString::fromStdString(doc_->history().undoName())) : tr("Undo"));
  redo_->setText(doc_->history().canRedo() ? tr("Redo: %1").arg(QString::fromStdString(doc_->history().redoName())) : tr("Redo"));
}

void MainWindow::showDrawer(int page) {
  drawer_->setVisible(page >= 0);
  if (page >= 0) drawer_->setCurrentIndex(page);
  findingsButton_->setDown(page == 0);
  ledgerButton_->setDown(page == 1);
  refreshTitle();
  if (page == 1) ledger_->table()->setFocus();
  if (page < 0) plan_->setFocus();
}

bool MainWindow::mayDrop() { return !doc_->dirty() || askToDrop(tr("The changes to %1 are not saved. Drop them?").arg(doc_->title())); }

bool MainWindow::openFile(const QString& path) {
  if (!mayDrop()) return false;
  if (!doc_->open(path)) return false;
  balance_->say({}, false);
  remember(path);
  plan_->fit();
  return true;
}

bool MainWindow::save() {
  if (doc_->path().isEmpty()) return saveAs();
  return doc_->save(doc_->path());
}

bool MainWindow::saveAs() {
  QString path = QFileDialog::getSaveFileName(this, tr("Save the model"), doc_->path(), tr("Level Conduit models (*.lconduit)"));
  if (path.isEmpty()) return false;
  if (!path.endsWith(".lconduit")) path += ".lconduit";
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
  for (const QString& path : QSettings().value("recent").toStringList()) recent_->addAction(path, this, [this, path] { openFile(path); });
  recent_->setEnabled(!recent_->isEmpty());
}

void MainWindow::copy() {
  if (doc_->selection().empty()) return;
  clipboard_ = cutOut(doc_->network(), doc_->selection());
  pasted_ = 0;
  emit doc_->said(tr("%1 elements copied").arg(clipboard_->count()));
}

void MainWindow::paste() {
  if (!clipboard_) return;
  ++pasted_;
  std::vector<Id> placed;
  // Beside the original, a little further each time.
  const double by = 10.0 * pasted_;
  if (doc_->take(insert(doc_->network(), *clipboard_, by, -by, &placed))) doc_->select(placed);
}

void MainWindow::print() {
  QPrinter printer(QPrinter::ScreenResolution);
  printer.setPageOrientation(QPageLayout::Landscape);
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  QPainter p(&printer);
  paintPage(p, p.viewport());
}

void MainWindow::paintPage(QPainter& p, const QRect& page) {
  const double scale = std::min(page.width() / static_cast<double>(plan_->width()), page.height() / static_cast<double>(plan_->height() + levels_->height() + 30));
  p.scale(scale, scale);
  p.setFont(face(12, true));
  p.drawText(QPointF(4, 14), doc_->title() + "   " + levels_->routeWords());
  p.translate(0, 20);
  plan_->paintOn(p, plan_->size());
  p.translate(0, plan_->height() + 8);
  levels_->paintOn(p, levels_->size());
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!mayDrop()) return event->ignore();
  doc_->dropRecovery();
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  for (const QUrl& url : event->mimeData()->urls())
    if (url.toLocalFile().endsWith(".lconduit")) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  for (const QUrl& url : event->mimeData()->urls())
    if (url.toLocalFile().endsWith(".lconduit")) {
      openFile(url.toLocalFile());
      return;
    }
}

}  // namespace conduit::desktop

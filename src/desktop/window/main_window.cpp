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
#include "drawer/bring_in_page.h"
#include "drawer/findings_list.h"
#include "drawer/ledger.h"
#include "drawer/stock_page.h"
#include "levels/levels_view.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "window/balance_line.h"
#include "window/finder.h"
#include "window/keys_sheet.h"
#include "window/rack.h"

namespace conduit::desktop {
namespace {

bool endsIn(const QUrl& url, std::initializer_list<const char*> endings) {
  const QString file = url.toLocalFile().toLower();
  return std::any_of(endings.begin(), endings.end(), [&](const char* e) { return file.endsWith(e); });
}
bool isModel(const QUrl& url) { return endsIn(url, {".lconduit"}); }
bool isTable(const QUrl& url) { return endsIn(url, {".csv", ".tsv", ".txt", ".xlsx", ".geojson", ".json"}); }
bool isPicture(const QUrl& url) { return endsIn(url, {".png", ".jpg", ".jpeg", ".svg", ".pdf"}); }

}  // namespace

MainWindow::MainWindow(QWidget* parent)
    : QMainWindow(parent), doc_(std::make_unique<Document>()), look_(Look::light()) {
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
  stockPage_ = new StockPage(*doc_);
  bringIn_ = new BringInPage(*doc_);
  drawer_->addWidget(stockPage_);
  drawer_->addWidget(bringIn_);
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
  stockButton_ = new QToolButton;
  stockButton_->setObjectName("drawer.stock");
  stockButton_->setAccessibleName(tr("Stock"));
  stockButton_->setText(tr("Stock"));
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
  handleLine->addWidget(stockButton_);
  handleLine->addSpacing(8);
  handleLine->addWidget(path_, 1);
  handleLine->addWidget(saved_);
  connect(findingsButton_, &QToolButton::clicked, this,
          [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 0 ? -1 : 0); });
  connect(ledgerButton_, &QToolButton::clicked, this,
          [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 1 ? -1 : 1); });
  connect(stockButton_, &QToolButton::clicked, this,
          [this] { showDrawer(drawer_->isVisible() && drawer_->currentIndex() == 2 ? -1 : 2); });
  connect(ledger_, &Ledger::wantsBringIn, bringIn_, &BringInPage::openText);
  connect(bringIn_, &BringInPage::opened, this, [this] { showDrawer(3); });
  connect(bringIn_, &BringInPage::done, this, [this] {
    showDrawer(-1);
    plan_->fit();
  });
  connect(balance_, &BalanceLine::wantsFindings, this, [this] { showDrawer(0); });

  auto* middle = new QWidget;
  auto* middleLayout = new QHBoxLayout(middle);
  middleLayout->setContentsMargins(0, 0, 0, 0);
  middleLayout->setSpacing(0);
  middleLayout->addWidget(rack_);
  middleLayout->addWidget(split_, 1);
  middleLayout->addWidget(card_);
  middle->setMinimumHeight(300);
  auto* central = new QWidget;
  auto* layout = new QVBoxLayout(central);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(top_);
  layout->addWidget(middle, 1);
  layout->addWidget(drawer_);
  layout->addWidget(handle_);
  setCentralWidget(central);
  finder_ = new Finder(
      *doc_, [this] { return actions(); }, this);
  keys_ = new KeysSheet(this);
  connect(finder_, &Finder::closed, this, [this] { plan_->setFocus(); });
  connect(finder_, &Finder::wantsShown, this, [this](Id id) {
    if (doc_->network().find(id)) plan_->showElement(id);
  });
  connect(finder_, &Finder::wantsStock, this, [this](const QString& file, const QString& name) {
    showDrawer(2);
    stockPage_->showEntry(file, name);
  });
  connect(keys_, &KeysSheet::closed, this, [this] { plan_->setFocus(); });

  makeActions();
  connect(rack_, &Rack::wanted, this, [this](const Part* part) { plan_->startKind(*part); });
  connect(plan_, &PlanView::wantsKeys, this, [this] { keys_->open(actions(), look_); });
  connect(plan_, &PlanView::modeChanged, this, [this](const QString& hint) { balance_->say(hint, false); });
  connect(doc_.get(), &Document::refused, this, [this](const QString& why) { balance_->say(why, true); });
  connect(doc_.get(), &Document::replaced, this, [this] { ++models_; });
  connect(doc_.get(), &Document::said, this, [this](const QString& what) { balance_->say(what, false); });
  connect(doc_.get(), &Document::wantsField, this,
          [this](Id, const QString& field) { card_->focusField(field); });
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
  qApp->setPalette(look_.palette());
  qApp->setFont(face(12.5));
  qApp->setStyleSheet(look_.styleSheet());
  plan_->setLook(look_);
  levels_->setLook(look_);
  card_->setLook(look_);
  ledger_->setLook(look_);
  findings_->setLook(look_);
  stockPage_->setLook(look_);
  bringIn_->setLook(look_);
  finder_->setLook(look_);
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
  deskName_->setStyleSheet(
      QString("border-bottom: 3px solid %1; padding: 10px 2px 8px 2px;").arg(look_.water.name()));
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
    worst = QString("<a href='place' style='color:%1;text-decoration:none'>%2</a>")
                .arg(look_.ink.name(), what.toHtmlEscaped() + ".");
    if (!f.remedies.empty())
      worst += QString("&nbsp;&nbsp;&nbsp;<a href='remedy' style='color:%1'>%2</a>")
                   .arg(look_.water.name(), QString::fromStdString(f.remedies.front().words).toHtmlEscaped());
  }
  path_->setText(worst);
}

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

void MainWindow::showDrawer(int page) {
  drawer_->setVisible(page >= 0);
  if (page >= 0) {
    drawer_->setCurrentIndex(page);
    drawer_->setFixedHeight(page == 0 ? 196 : page == 1 ? 236 : 320);
  }
  findingsButton_->setDown(page == 0);
  ledgerButton_->setDown(page == 1);
  stockButton_->setDown(page == 2);
  refreshTitle();
  if (page == 1) ledger_->table()->setFocus();
  if (page == 2) stockPage_->table()->setFocus();
  if (page < 0) plan_->setFocus();
}

bool MainWindow::mayDrop() {
  return !doc_->dirty() || askToDrop(tr("The changes to %1 are not saved. Drop them?").arg(doc_->title()));
}

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
  const QString path = QFileDialog::getSaveFileName(this, tr("Save the model"), doc_->path(),
                                                    tr("Level Conduit models (*.lconduit)"));
  return !path.isEmpty() && saveUnder(path);
}

bool MainWindow::saveUnder(QString path) {
  if (!path.endsWith(".lconduit")) {  // the dialog asked about the name as typed, not about this one
    path += ".lconduit";
    if (QFileInfo::exists(path) &&
        !askToReplace(tr("%1 is there already. Replace it?").arg(QFileInfo(path).fileName())))
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
  paintPage(p, p.viewport());
}

void MainWindow::paintPage(QPainter& p, const QRect& page) {
  const double scale =
      std::min(page.width() / static_cast<double>(plan_->width()),
               page.height() / static_cast<double>(plan_->height() + levels_->height() + 30));
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
    if (isModel(url) || isTable(url) || isPicture(url)) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  for (const QUrl& url : event->mimeData()->urls()) {
    if (isModel(url)) openFile(url.toLocalFile());
    else if (isTable(url)) bringIn_->openFile(url.toLocalFile());
    else if (isPicture(url)) placePicture(url.toLocalFile());
    else continue;
    return;
  }
}

}  // namespace conduit::desktop

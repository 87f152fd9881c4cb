#include "desks/network/network_desk.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QUrl>
#include <QVBoxLayout>

#include "card/card.h"
#include "desks/network/rack.h"
#include "drawer/findings_page.h"
#include "drawer/import_page.h"
#include "drawer/ledger.h"
#include "drawer/stock_page.h"
#include "levels/levels_view.h"
#include "look/elided_label.h"
#include "network/assume.h"
#include "plan/plan_view.h"

namespace conduit::desktop {
namespace {

bool endsIn(const QUrl& url, std::initializer_list<const char*> endings) {
  const QString file = url.toLocalFile().toLower();
  return std::any_of(endings.begin(), endings.end(), [&](const char* e) { return file.endsWith(e); });
}
bool isTable(const QUrl& url) { return endsIn(url, {".csv", ".tsv", ".txt", ".xlsx", ".geojson", ".json"}); }
bool isPicture(const QUrl& url) { return endsIn(url, {".png", ".jpg", ".jpeg", ".svg", ".pdf"}); }

}  // namespace

NetworkDesk::NetworkDesk(Document& document) : doc_(document), look_(Look::light()) {
  plan_ = new PlanView(doc_);
  levels_ = new LevelsView(doc_);
  card_ = new Card(doc_);
  ledger_ = new Ledger(doc_);
  findings_ = new FindingsPage(doc_);
  rack_ = new Rack;
  makeColours();

  // Divider between Plan and Levels: the route and where the head went.
  divider_ = new QWidget;
  divider_->setFixedHeight(26);
  auto* dividerLine = new QHBoxLayout(divider_);
  dividerLine->setContentsMargins(15, 0, 12, 0);
  auto* levelsName = new QLabel(tr("Levels"));
  levelsName->setObjectName("levels.name");
  routeLabel_ = new ElidedLabel;
  routeLabel_->setObjectName("route");
  // Both as wide as their words while there is room; where there is not, both give way.
  routeLabel_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
  sumLabel_ = new ElidedLabel;
  sumLabel_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
  sumLabel_->setObjectName("head.sum");
  routeFree_ = new QToolButton;
  routeFree_->setText(tr("clear the route"));
  routeFree_->setObjectName("route.free");
  routeFree_->hide();
  connect(routeFree_, &QToolButton::clicked, this, [this] { levels_->choose({}); });
  dividerLine->addWidget(levelsName);
  dividerLine->addSpacing(8);
  dividerLine->addWidget(routeLabel_, 1);
  dividerLine->addWidget(routeFree_);
  dividerLine->addWidget(sumLabel_);
  connect(levels_, &LevelsView::routeChanged, this, [this] {
    routeLabel_->setText(levels_->routeWords().toHtmlEscaped().replace("  ", "&nbsp; "));
    sumLabel_->setText(levels_->sumWords().toHtmlEscaped());
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
  stockPage_ = new StockPage(doc_);
  importPage_ = new ImportPage(doc_);
  drawer_->addWidget(stockPage_);
  drawer_->addWidget(importPage_);
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
  stockButton_->setAccessibleName(tr("Catalogue"));
  stockButton_->setText(tr("Catalogue"));
  path_ = new ElidedLabel;
  path_->setObjectName("worst");
  path_->setTextInteractionFlags(Qt::LinksAccessibleByMouse);
  connect(
      path_, &QLabel::linkActivated, this,
      [this](const QString& link) {
        if (!doc_.solved() || doc_.solved()->findings.empty()) return;
        const Finding f = doc_.solved()->findings.front();
        if (link == "place") doc_.apply({"", {}, f.place});
        else if (!f.remedies.empty()) doc_.apply(f.remedies.front());
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
  connect(ledger_, &Ledger::wantsImport, importPage_, &ImportPage::openText);
  connect(importPage_, &ImportPage::opened, this, [this] { showDrawer(3); });
  connect(importPage_, &ImportPage::done, this, [this] {
    showDrawer(-1);
    plan_->fit();
  });

  auto* middle = new QWidget;
  auto* middleLayout = new QHBoxLayout(middle);
  middleLayout->setContentsMargins(0, 0, 0, 0);
  middleLayout->setSpacing(0);
  middleLayout->addWidget(rack_);
  middleLayout->addWidget(split_, 1);
  middleLayout->addWidget(card_);
  middle->setMinimumHeight(300);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(middle, 1);
  layout->addWidget(drawer_);
  layout->addWidget(handle_);

  connect(rack_, &Rack::wanted, this, [this](const Part* part) { plan_->startKind(*part); });
  connect(plan_, &PlanView::wantsKeys, this, &Desk::wantsKeys);
  connect(plan_, &PlanView::modeChanged, this, [this](const QString& hint) { say(hint, false); });
  doc_.watch(placing_);
  connect(&doc_, &Document::replaced, this, [this] { ++models_; });
  connect(&doc_, &Document::wantsField, this, [this](Id, const QString& field) { card_->focusField(field); });
  connect(&doc_, &Document::wantsShown, this, [this](Id id) {
    if (doc_.network().find(id)) plan_->showElement(id);
  });
  connect(&doc_, &Document::wantsStock, this, [this](const QString& file, const QString& name) {
    showDrawer(2);
    stockPage_->showEntry(file, name);
  });
  connect(&doc_, &Document::wantsFindings, this, [this] { showDrawer(0); });
  connect(&doc_, &Document::wantsNotJudged, this, [this] {
    showDrawer(0);
    findingsPage().show(FindingsPage::Page::notJudged);
  });
  for (const auto signal :
       {&Document::fileChanged, &Document::unitsChanged, &Document::answered, &Document::casesAnswered})
    connect(&doc_, signal, this, &NetworkDesk::refreshHandle);
  refreshHandle();
}

NetworkDesk::~NetworkDesk() = default;

void NetworkDesk::say(const QString& words, bool warning) { emit says(words, warning); }

void NetworkDesk::takeKeyboard() { plan_->setFocus(); }

void NetworkDesk::showAll() { plan_->fit(); }

QWidget* NetworkDesk::topTool() { return colours_; }

bool NetworkDesk::wouldTake(const QUrl& url) const { return isTable(url) || isPicture(url); }

bool NetworkDesk::takeFile(const QUrl& url) {
  if (isTable(url)) importPage_->openFile(url.toLocalFile());
  else if (isPicture(url)) placePicture(url.toLocalFile());
  return wouldTake(url);
}

void NetworkDesk::makeColours() {
  colours_ = new QToolButton;
  colours_->setObjectName("colours");
  colours_->setAccessibleName(tr("Colour scale"));
  colours_->setPopupMode(QToolButton::InstantPopup);
  auto* colours = new QMenu(this);
  const std::pair<QString, Colouring> scales[] = {{tr("Velocity"), Colouring::velocity},
                                                  {tr("Pressure"), Colouring::pressure},
                                                  {tr("Gradient"), Colouring::gradient}};
  for (const auto& [name, colouring] : scales)
    colours->addAction(
        name, this, [this, name = name, c = colouring] { plan_->setColouring(c), colours_->setText(name); });
  colours_->setMenu(colours);
  colours_->setText(tr("Velocity"));
}

void NetworkDesk::setLook(const Look& look) {
  look_ = look;
  plan_->setLook(look_);
  levels_->setLook(look_);
  card_->setLook(look_);
  ledger_->setLook(look_);
  findings_->setLook(look_);
  stockPage_->setLook(look_);
  importPage_->setLook(look_);
  rack_->setLook(look_);
  const QString hair = look_.hair.name(), quiet = QString("color: %1").arg(look_.ink2.name());
  handle_->setObjectName("handle");
  handle_->setStyleSheet(QString("#handle { border-top: 1px solid %1; }").arg(hair));
  drawer_->setStyleSheet(QString("#drawer { border-top: 1px solid %1; }").arg(hair));
  divider_->setObjectName("divider");
  divider_->setStyleSheet(QString("#divider { border-bottom: 1px solid %1; }").arg(hair));
  card_->setStyleSheet(QString("#card { border-left: 1px solid %1; }").arg(hair));
  if (auto* name = findChild<QLabel*>("levels.name")) name->setFont(face(12.5, true));
  for (QLabel* label : {sumLabel_, saved_}) label->setStyleSheet(quiet);
  refreshHandle();
}

// The foot of the desk: how many findings, the worst of them, whether the file is up to date.
void NetworkDesk::refreshHandle() {
  saved_->setText(doc_.dirty() ? tr("unsaved") : doc_.path().isEmpty() ? QString() : tr("saved"));
  const auto solved = doc_.solved();
  // Of all cases, as the list has them.
  std::size_t count = solved ? solved->findings.size() : 0;
  for (const CaseAnswerPtr& a : doc_.answers())
    if (a && a->id != doc_.currentCase()) count += a->findings.size();
  findingsButton_->setText(count ? tr("Findings  %1").arg(count) : tr("Findings"));
  findingsButton_->setFont(face(12.5, count > 0));
  QString worst;
  if (solved && !solved->findings.empty() && !drawer_->isVisible()) {
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

void NetworkDesk::showDrawer(int page) {
  drawer_->setVisible(page >= 0);
  if (page >= 0) {
    drawer_->setCurrentIndex(page);
    drawer_->setFixedHeight(page == 0 ? 196 : page == 1 ? 236 : 320);
  }
  findingsButton_->setDown(page == 0);
  ledgerButton_->setDown(page == 1);
  stockButton_->setDown(page == 2);
  refreshHandle();
  if (page == 1) ledger_->table()->setFocus();
  if (page == 2) stockPage_->table()->setFocus();
  if (page < 0) plan_->setFocus();
  // Plan is lower now: what is looked at does not vanish below its edge.
  QTimer::singleShot(0, plan_, [this] {
    if (const Id id = doc_.selected(); id != noId && id != jobId && doc_.network().find(id))
      plan_->keepInSight(id);
  });
}

// Title and case, Plan, Levels, and what nobody has given yet: who checks the page must see it.
void NetworkDesk::paintPage(QPainter& p, const QRect& page) {
  QString assumed;
  const auto said = assumedSaid(doc_.network());
  constexpr std::size_t most = 24;
  for (std::size_t i = 0; i < said.size() && i < most; ++i)
    assumed += (i ? "; " : "") + QString::fromStdString(said[i]);
  if (said.size() > most) assumed += tr("; and %1 more elements").arg(said.size() - most);
  if (!assumed.isEmpty()) assumed = tr("Assumed values: %1.").arg(assumed);
  const QFont small = face(11);
  const int foot = assumed.isEmpty() ? 0
                                     : QFontMetrics(small)
                                               .boundingRect(QRect(0, 0, plan_->width() - 8, 4000),
                                                             Qt::TextWordWrap, assumed)
                                               .height() +
                                           10;
  const double scale =
      std::min(page.width() / static_cast<double>(plan_->width()),
               page.height() / static_cast<double>(plan_->height() + levels_->height() + 30 + foot));
  p.scale(scale, scale);
  p.setFont(face(12, true));
  QString title = doc_.title();
  if (doc_.model().cases.count() > 1)
    title += "   " + tr("case: %1").arg(QString::fromStdString(doc_.caseNow().name));
  p.drawText(QPointF(4, 14), title + "   " + levels_->routeWords());
  p.translate(0, 20);
  plan_->paintOn(p, plan_->size());
  p.translate(0, plan_->height() + 8);
  levels_->paintOn(p, levels_->size());
  if (assumed.isEmpty()) return;
  p.translate(0, levels_->height() + 6);
  p.setFont(small);
  p.setPen(Look::light().ink);
  p.drawText(QRect(4, 0, plan_->width() - 8, foot), Qt::TextWordWrap, assumed);
}

}  // namespace conduit::desktop

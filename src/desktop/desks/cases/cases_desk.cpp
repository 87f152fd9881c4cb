#include "desks/cases/cases_desk.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QSplitter>
#include <QToolButton>
#include <QVBoxLayout>
#include <utility>

#include "desks/cases/case_card.h"
#include "desks/cases/grid_view.h"
#include "desks/cases/sweep_pane.h"
#include "exchange/table_file.h"

namespace conduit::desktop {

CasesDesk::CasesDesk(Document& document) : doc_(document), look_(Look::light()) {
  model_ = new GridModel(doc_, this);
  view_ = new GridView(doc_, *model_);
  card_ = new CaseCard(doc_);
  foot_ = new QWidget;
  foot_->setObjectName("cases.foot");
  foot_->setFixedHeight(34);
  auto* line = new QHBoxLayout(foot_);
  line->setContentsMargins(18, 4, 12, 4);
  add_ = new QLineEdit;
  add_->setObjectName("cases.add");
  add_->setAccessibleName(tr("Add a row"));
  add_->setPlaceholderText(tr("add a row:  B-2 running no  ·  Gun 1 pressure  ·  pumps NPSH margin minimum"));
  turn_ = new QToolButton;
  turn_->setObjectName("cases.turn");
  line->addWidget(add_, 1);
  line->addWidget(turn_);
  connect(add_, &QLineEdit::returnPressed, this, [this] {
    if (!add_->text().trimmed().isEmpty() && model_->addRow(add_->text())) add_->clear();
  });
  connect(turn_, &QToolButton::clicked, this, [this] { setAsRows(!model_->asRows()); });
  connect(view_, &GridView::wantsCase, this, &CasesDesk::newCase);
  auto* upper = new QWidget;
  auto* upperLayout = new QVBoxLayout(upper);
  upperLayout->setContentsMargins(0, 0, 0, 0);
  upperLayout->setSpacing(0);
  upperLayout->addWidget(view_, 1);
  upperLayout->addWidget(foot_);
  split_ = new QSplitter(Qt::Vertical);
  split_->setHandleWidth(1);
  split_->setChildrenCollapsible(false);
  split_->addWidget(upper);
  sweep_ = new SweepPane(doc_);
  split_->addWidget(sweep_);
  split_->setSizes({506, 248});
  split_->setStretchFactor(0, 1);
  split_->setStretchFactor(1, 0);
  connect(sweep_, &SweepPane::folded, this, [this](bool folded) {
    sweep_->setMaximumHeight(folded ? 34 : QWIDGETSIZE_MAX);
    if (!folded) split_->setSizes({height() - 290, 290});
  });
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(split_, 1);
  layout->addWidget(card_);
  for (const auto signal :
       {&Document::changed, &Document::casesAnswered, &Document::caseChanged, &Document::unitsChanged})
    connect(&doc_, signal, this, &CasesDesk::later);
  // Answers of many cases come close upon one another.
  later_.setSingleShot(true);
  later_.setInterval(40);
  connect(&later_, &QTimer::timeout, this, &CasesDesk::refresh);
  setAsRows(false);
}

CasesDesk::~CasesDesk() = default;

void CasesDesk::later() {
  stale_ = true;
  if (isVisible() && !later_.isActive()) later_.start();
}

void CasesDesk::refresh() {
  if (!isVisible()) return;
  stale_ = false;
  model_->refresh();
  // Another case than before, made current elsewhere perhaps.
  if (std::exchange(shown_, doc_.currentCase()) != doc_.currentCase()) view_->showCurrent();
  card_->refresh();
  sweep_->refresh();
  view_->viewport()->update();
  view_->frozen().viewport()->update();
  view_->horizontalHeader()->viewport()->update();
  view_->frozen().horizontalHeader()->viewport()->update();
}

void CasesDesk::showEvent(QShowEvent* event) {
  Desk::showEvent(event);
  if (stale_) refresh();
}

void CasesDesk::setLook(const Look& look) {
  look_ = look;
  view_->setLook(look);
  card_->setLook(look);
  sweep_->setLook(look);
  sweep_->setStyleSheet(QString("#sweep { border-top: 1px solid %1; }").arg(look.hair.name()));
  foot_->setStyleSheet(QString("#cases\\.foot { border-top: 1px solid %1; }").arg(look_.hair.name()));
}

void CasesDesk::takeKeyboard() {
  view_->setFocus();
  if (!view_->currentIndex().isValid() && model_->rowCount() > 1) view_->setCurrentIndex(model_->index(1, 1));
}

void CasesDesk::newCase() {
  if (doc_.takeModel(addCase(doc_.model(), {}, doc_.currentCase()))) {
    refresh();
    card_->focusName();
  }
}

// The drawing stays the first.
void CasesDesk::moveCurrent(int by) {
  const auto& others = doc_.model().cases.others;
  for (std::size_t i = 0; i < others.size(); ++i)
    if (others[i].id == doc_.currentCase()) {
      const int to = static_cast<int>(i) + by;
      if (to >= 0 && to < static_cast<int>(others.size()))
        doc_.takeModel(moveCase(doc_.model(), others[i].id, static_cast<std::size_t>(to)));
      return;
    }
}

void CasesDesk::setAsRows(bool asRows) {
  view_->setAsRows(asRows);
  turn_->setText(asRows ? tr("cases as columns") : tr("cases as rows"));
}

void CasesDesk::fillMenu(Menu which, QMenu* menu, const Make& make) {
  if (which == Menu::view) {
    menu->addAction(make("desk.cases", tr("Cases as rows or columns"), QKeySequence("Ctrl+Shift+B"),
                         [this] { setAsRows(!model_->asRows()); }));
  } else if (which == Menu::edit) {
    menu->addAction(make("case.new", tr("New case from the current one"), QKeySequence("Ctrl+Shift+N"),
                         [this] { newCase(); }));
    menu->addAction(
        make("case.left", tr("Move case left"), QKeySequence("Alt+Shift+Left"), [this] { moveCurrent(-1); }));
    menu->addAction(make("case.right", tr("Move case right"), QKeySequence("Alt+Shift+Right"),
                         [this] { moveCurrent(1); }));
    menu->addAction(make("case.row", tr("Add a row to the grid"), QKeySequence("Ctrl+Shift+I"),
                         [this] { add_->setFocus(); }));
    menu->addAction(make("sweep.setup", tr("Set up a sweep"), QKeySequence("Ctrl+Shift+W"),
                         [this] { sweep_->focusSetup(); }));
  } else if (which == Menu::file) {
    menu->addAction(make("case.table", tr("Export cases …"), {}, [this] { exportTable(); }));
  }
}

void CasesDesk::exportTable() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export cases"), {}, tr("Tables (*.xlsx *.csv)"));
  if (!path.isEmpty()) writeGrid(path);
}

bool CasesDesk::writeGrid(const QString& path) {
  const auto done = writeTable(path.toStdString(),
                               tableOf(gridOf(doc_.model(), doc_.answers(), doc_.units()), doc_.units()));
  if (!done) emit doc_.refused(QString::fromStdString(done.error().what));
  return done.has_value();
}

}  // namespace conduit::desktop

#include "drawer/findings_page.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QToolButton>
#include <tuple>

#include "drawer/findings_list.h"
#include "limits/not_judged.h"
#include "look/cell_table.h"
#include "look/words.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::desktop {

FindingsPage::FindingsPage(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  list_ = new FindingsList(doc_);
  rows_ = new CellRows(this);
  table_ = new CellTable(*rows_);
  table_->setObjectName("limits.table");
  table_->setAccessibleName(tr("Limits in force"));
  gapRows_ = new CellRows(this);
  gapTable_ = new CellTable(*gapRows_);
  gapTable_->setObjectName("notJudged.table");
  gapTable_->setAccessibleName(tr("Not judged"));
  pages_ = new QStackedWidget;
  pages_->addWidget(list_);
  pages_->addWidget(table_);
  pages_->addWidget(gapTable_);
  auto* group = new QButtonGroup(this);
  const std::tuple<QString, const char*, Page> tabs[] = {
      {tr("Findings"), "findings.tab", Page::findings},
      {tr("Limits in force"), "limits.tab", Page::limits},
      {tr("Not judged"), "notJudged.tab", Page::notJudged}};
  auto* strip = new QVBoxLayout;
  strip->setContentsMargins(12, 8, 4, 8);
  strip->setSpacing(2);
  for (const auto& [words, name, page] : tabs) {
    auto* button = new QToolButton;
    button->setText(words);
    button->setObjectName(name);
    button->setCheckable(true);
    button->setChecked(page == Page::findings);
    group->addButton(button);
    connect(button, &QToolButton::clicked, this, [this, page = page] { show(page); });
    strip->addWidget(button);
    tabs_[static_cast<int>(page)] = button;
  }
  strip->addStretch(1);
  auto* all = new QHBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(0);
  all->addLayout(strip);
  all->addWidget(pages_, 1);
  connect(table_, &CellTable::opened, this, &FindingsPage::go);
  connect(table_, &CellTable::rowChosen, this, &FindingsPage::go);
  connect(gapTable_, &CellTable::opened, this, &FindingsPage::goToGap);
  connect(gapTable_, &CellTable::rowChosen, this, &FindingsPage::goToGap);
  doc_.watch(work_);
  later_.setSingleShot(true);
  later_.setInterval(200);
  connect(&later_, &QTimer::timeout, this, &FindingsPage::refresh);
  connect(&doc_, &Document::answered, &later_, qOverload<>(&QTimer::start));
  connect(&doc_, &Document::casesAnswered, &later_, qOverload<>(&QTimer::start));
  connect(&doc_, &Document::unitsChanged, &later_, qOverload<>(&QTimer::start));
}

void FindingsPage::setLook(const Look& look) {
  look_ = look;
  list_->setLook(look), table_->setLook(look), gapTable_->setLook(look);
  QString sheet;
  for (const QToolButton* tab : tabs_) {
    const QString name = QString("#%1").arg(tab->objectName().replace(".", "\\."));
    sheet += QString(
                 "%4 { border: none; border-left: 3px solid transparent; border-radius: 0; padding: 3px 8px; "
                 "color: %1; text-align: left; } "
                 "%4:checked { color: %2; font-weight: 600; border-left: 3px solid %3; } "
                 "%4:focus { border-top: 1px dotted %2; border-bottom: 1px dotted %2; } ")
                 .arg(look.ink2.name(), look.ink.name(), look.water.name(), name);
  }
  setStyleSheet(sheet);
}

void FindingsPage::show(Page page) {
  tabs_[static_cast<int>(page)]->setChecked(true);
  pages_->setCurrentIndex(static_cast<int>(page));
  refresh();
}

void FindingsPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

// Made when it is looked at, beside the window: it judges every element of every case.
void FindingsPage::refresh() {
  if (!isVisible()) return;
  if (pages_->currentIndex() == static_cast<int>(Page::notJudged)) return displayGaps();
  if (pages_->currentIndex() != static_cast<int>(Page::limits)) return;
  work_.begin([this, answers = doc_.answers()](const Background::Post& post, std::stop_token stop) {
    auto rows = limitRegister(answers, stop);
    if (stop.stop_requested()) return;
    post([this, rows = std::move(rows)] {
      register_ = rows;
      display();
    });
  });
}

void FindingsPage::display() {
  const bool several = doc_.model().cases.count() > 1;
  std::vector<CellColumn> columns{{tr("Limit"), true, 230},
                                  {tr("Source"), true, 110},
                                  {tr("Holds for"), true, 110},
                                  {tr("Worst"), false, 100},
                                  {tr("At"), true, 110}};
  if (several) columns.push_back({tr("Case"), true, 130});
  columns.push_back({tr("Margin"), true, 0});
  std::vector<std::vector<Cell>> cells;
  for (const RegisterRow& r : register_) {
    const bool bad = r.broken() && r.severity <= Severity::broken;
    const Element* e = doc_.model().drawn.find(r.worstAt);
    const Case* in = doc_.model().cases.find(r.worstIn);
    std::vector<Cell> line{
        {.text = text(limitSaid(r, doc_.units())), .ink = bad ? Cell::Ink::strong : Cell::Ink::plain},
        {.text = text(sourceSaid(r)), .ink = Cell::Ink::quiet},
        {.text = text(heldSaid(r, doc_.model())), .ink = Cell::Ink::quiet},
        {.text = text(worstSaid(r, doc_.units())), .ink = Cell::Ink::strong},
        {.text = e ? text(nameOf(doc_.model().drawn, r.worstAt)) : QString()}};
    if (several) line.push_back({.text = in ? text(in->name) : QString()});
    Cell margin{.text = (bad ? QString::fromUtf8("▲ ") : QString()) + text(marginSaid(r, doc_.units())),
                .ink = bad ? Cell::Ink::warning : Cell::Ink::plain};
    margin.bar = std::clamp(1 + r.beyond, 0.0, 1.5);
    line.push_back(std::move(margin));
    cells.push_back(std::move(line));
  }
  const QSignalBlocker still(table_);
  rows_->display(std::move(columns), std::move(cells));
}

// Of the case in sight: what could not be judged, what was worked out by a law outside its range, what
// somebody says does not apply.
void FindingsPage::displayGaps() {
  const SolvedPtr& solved = doc_.solved();
  gaps_.clear();
  std::vector<CellColumn> columns{
      {tr("Check"), true, 170}, {tr("Of"), true, 130}, {tr("Status"), true, 110}, {tr("Reason"), true, 0}};
  std::vector<std::vector<Cell>> cells;
  const auto add = [&](std::string_view check, const QString& of, const QString& status,
                       const std::string& reason, Id place, std::string_view field) {
    gaps_.emplace_back(place, field);
    cells.push_back({{.text = text(check), .ink = Cell::Ink::strong},
                     {.text = of},
                     {.text = status, .ink = Cell::Ink::quiet},
                     {.text = text(reason), .ink = Cell::Ink::quiet}});
  };
  const auto nameAt = [&](Id id) {
    const Element* e = id == jobId ? nullptr : solved->network.find(id);
    return e ? text(e->name) : tr("job");
  };
  if (solved) {
    for (const NotJudged& g : solved->notJudged)
      add(labelOf(g.check), g.element == jobId ? tr("all points") : nameAt(g.element), tr("not judged"),
          lackSaid(g), g.place, g.field);
    for (const Finding& f : solved->findings) {
      if (!f.doubtful) continue;
      const Id id = solved->network.byName(f.place.name);
      add(f.check, nameAt(id == noId ? jobId : id), tr("doubtful"), f.what, id == noId ? jobId : id, "");
    }
    for (const LeftOut& l : notApplicable(solved->network))
      add(l.check, nameAt(l.element), tr("does not apply"), l.why, l.element, waivedKey);
  }
  if (gaps_.empty()) {
    columns.front().width = 400;
    cells.push_back({{.text = solved && solved->solution.summary.usable()
                                  ? tr("Nothing: every check that applies was judged.")
                                  : tr("Nothing yet: there is no solution."),
                      .ink = Cell::Ink::quiet},
                     {},
                     {},
                     {}});
  }
  const QSignalBlocker still(gapTable_);
  gapRows_->display(std::move(columns), std::move(cells));
}

// To the field that would say it.
void FindingsPage::goToGap(int row) {
  if (row < 0 || row >= static_cast<int>(gaps_.size())) return;
  const auto [place, field] = gaps_[static_cast<std::size_t>(row)];
  if (place != jobId && !doc_.network().find(place)) return;
  if (place == jobId) {
    doc_.select({});
  } else {
    doc_.select({place});
    emit doc_.wantsShown(place);
  }
  emit doc_.wantsField(place, text(field));
}

// To where the limit has its worst value, in the case that has it.
void FindingsPage::go(int row) {
  if (row < 0 || row >= static_cast<int>(register_.size())) return;
  const RegisterRow r = register_[static_cast<std::size_t>(row)];
  if (!doc_.model().drawn.find(r.worstAt)) return;
  doc_.setCase(r.worstIn);
  doc_.select({r.worstAt});
  emit doc_.wantsShown(r.worstAt);
}

}  // namespace conduit::desktop

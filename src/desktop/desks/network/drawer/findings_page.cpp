#include "drawer/findings_page.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QToolButton>

#include "drawer/findings_list.h"
#include "look/cell_table.h"
#include "look/words.h"
#include "quantity/format.h"

namespace conduit::desktop {

FindingsPage::FindingsPage(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  list_ = new FindingsList(doc_);
  rows_ = new CellRows(this);
  table_ = new CellTable(*rows_);
  table_->setObjectName("limits.table");
  table_->setAccessibleName(tr("Limits in force"));
  pages_ = new QStackedWidget;
  pages_->addWidget(list_);
  pages_->addWidget(table_);
  auto* group = new QButtonGroup(this);
  const auto tab = [&](const QString& words, const char* name, bool limits) {
    auto* button = new QToolButton;
    button->setText(words);
    button->setObjectName(name);
    button->setCheckable(true);
    group->addButton(button);
    connect(button, &QToolButton::clicked, this, [this, limits] { showLimits(limits); });
    return button;
  };
  asFindings_ = tab(tr("Findings"), "findings.tab", false);
  asLimits_ = tab(tr("Limits in force"), "limits.tab", true);
  asFindings_->setChecked(true);
  auto* strip = new QVBoxLayout;
  strip->setContentsMargins(12, 8, 4, 8);
  strip->setSpacing(2);
  strip->addWidget(asFindings_);
  strip->addWidget(asLimits_);
  strip->addStretch(1);
  auto* all = new QHBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(0);
  all->addLayout(strip);
  all->addWidget(pages_, 1);
  connect(table_, &CellTable::opened, this, &FindingsPage::go);
  connect(table_, &CellTable::rowChosen, this, &FindingsPage::go);
  later_.setSingleShot(true);
  later_.setInterval(200);
  connect(&later_, &QTimer::timeout, this, &FindingsPage::refresh);
  connect(&doc_, &Document::answered, &later_, qOverload<>(&QTimer::start));
  connect(&doc_, &Document::casesAnswered, &later_, qOverload<>(&QTimer::start));
  connect(&doc_, &Document::unitsChanged, &later_, qOverload<>(&QTimer::start));
}

void FindingsPage::setLook(const Look& look) {
  look_ = look;
  list_->setLook(look), table_->setLook(look);
  setStyleSheet(QString("#findings\\.tab, #limits\\.tab { border: none; border-left: 3px solid transparent; "
                        "border-radius: 0; padding: 3px 8px; color: %1; text-align: left; }"
                        "#findings\\.tab:checked, #limits\\.tab:checked { color: %2; font-weight: 600; "
                        "border-left: 3px solid %3; }"
                        "#findings\\.tab:focus, #limits\\.tab:focus { border-top: 1px dotted %2; "
                        "border-bottom: 1px dotted %2; }")
                    .arg(look.ink2.name(), look.ink.name(), look.water.name()));
}

void FindingsPage::showLimits(bool limits) {
  (limits ? asLimits_ : asFindings_)->setChecked(true);
  pages_->setCurrentIndex(limits ? 1 : 0);
  refresh();
}

void FindingsPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

// Made when it is looked at, beside the window: it judges every element of every case.
void FindingsPage::refresh() {
  if (!isVisible() || pages_->currentIndex() != 1) return;
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
        {.text = text(withUnit(r.worst, measureOf(r.check), doc_.units(), 3)), .ink = Cell::Ink::strong},
        {.text = e ? text(e->name) : QString()}};
    if (several) line.push_back({.text = in ? text(in->name) : QString()});
    Cell margin{.text = r.broken() ? (bad ? QString::fromUtf8("▲ ") + tr("not met") : tr("outside"))
                                   : tr("%1 %").arg(text(digits(std::min(-r.beyond * 100, 999.0), 2))),
                .ink = bad ? Cell::Ink::warning : Cell::Ink::plain};
    margin.bar = std::clamp(1 + r.beyond, 0.0, 1.5);
    line.push_back(std::move(margin));
    cells.push_back(std::move(line));
  }
  const QSignalBlocker still(table_);
  rows_->display(std::move(columns), std::move(cells));
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

#include "desks/sizing/sizing_desk.h"

#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "desks/sizing/costs_page.h"
#include "desks/sizing/proposal_card.h"
#include "desks/sizing/setup_panel.h"
#include "exchange/table_file.h"
#include "jobs/alarm.h"
#include "look/cell_table.h"
#include "look/elided_label.h"
#include "look/page_file.h"
#include "look/words.h"
#include "model/sizing_setup.h"
#include "plot/bars.h"
#include "quantity/format.h"
#include "sizing/data_sheet.h"

namespace conduit::desktop {

SizingDesk::SizingDesk(Document& document) : doc_(document), look_(Look::light()) {
  setup_ = new SetupPanel(doc_);
  card_ = new ProposalCard;
  rows_ = new CellRows(this);
  table_ = new CellTable(*rows_);
  table_->setObjectName("sizing.table");
  table_->setAccessibleName(tr("Lines and sizes"));
  bars_ = new Bars;
  bars_->setAccessibleName(tr("Cost by size"));
  costs_ = new CostsPage(doc_);

  auto* strip = new QWidget;
  strip->setObjectName("sizing.strip");
  strip->setFixedHeight(38);
  auto* line = new QHBoxLayout(strip);
  line->setContentsMargins(8, 0, 14, 0);
  line->setSpacing(8);
  for (const auto& [words, name] :
       {std::pair{tr("One line"), "line"}, std::pair{tr("Whole network"), "network"},
        std::pair{tr("Balance"), "balance"}, std::pair{tr("Costs"), "costs"}}) {
    auto* tab = new QToolButton;
    tab->setObjectName(QString("sizing.way.%1").arg(name));
    tab->setText(words);
    tab->setCheckable(true);
    tab->setToolButtonStyle(Qt::ToolButtonTextOnly);
    const Way way = static_cast<Way>(tabs_.size());
    connect(tab, &QToolButton::clicked, this, [this, way] { go(way); });
    tabs_.push_back(tab);
    line->addWidget(tab);
  }
  which_ = new QComboBox;
  which_->setObjectName("sizing.line");
  which_->setAccessibleName(tr("Current line"));
  which_->setFixedWidth(130);
  line->addSpacing(8);
  line->addWidget(which_);
  story_ = new ElidedLabel;
  story_->setObjectName("sizing.story");
  story_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  story_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(story_, &QLabel::linkActivated, this, &SizingDesk::act);
  line->addWidget(story_, 1);
  connect(which_, &QComboBox::activated, this, [this](int i) {
    doc_.select({which_->itemData(i).toUInt()});
    later();
  });

  lower_ = new QWidget;
  lower_->setObjectName("sizing.lower");
  auto* lowerLayout = new QVBoxLayout(lower_);
  lowerLayout->setContentsMargins(12, 8, 12, 6);
  lowerLayout->setSpacing(2);
  title_ = new ElidedLabel;
  title_->setObjectName("sizing.title");
  lowerLayout->addWidget(title_);
  lowerLayout->addWidget(bars_, 1);
  auto* split = new QSplitter(Qt::Vertical);
  split->setHandleWidth(1);
  split->setChildrenCollapsible(false);
  split->addWidget(table_);
  split->addWidget(lower_);
  split->setSizes({400, 300});
  split->setStretchFactor(0, 3);
  split->setStretchFactor(1, 2);
  pages_ = new QStackedWidget;
  pages_->addWidget(split);
  pages_->addWidget(costs_);
  auto* middle = new QWidget;
  auto* middleLayout = new QVBoxLayout(middle);
  middleLayout->setContentsMargins(0, 0, 0, 0);
  middleLayout->setSpacing(0);
  middleLayout->addWidget(strip);
  middleLayout->addWidget(pages_, 1);
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(setup_);
  layout->addWidget(middle, 1);
  layout->addWidget(card_);

  later_.setSingleShot(true);
  connect(&later_, &QTimer::timeout, this, &SizingDesk::renew);
  for (const auto signal : {&Document::changed, &Document::unitsChanged, &Document::caseChanged})
    connect(&doc_, signal, this, &SizingDesk::later);
  connect(&doc_, &Document::selectionChanged, this, &SizingDesk::later);
  connect(&doc_, &Document::replaced, this, [this] {
    work_.leave(), aside_.leave(), duties_.leave();
    found_.reset(), task_.reset(), line_.reset(), flows_.reset(), ticked_.reset();
    kept_.clear(), exact_.clear(), seen_ = 0, furtherBy_ = 0;
    later();
  });
  connect(rows_, &CellRows::ticked, this, &SizingDesk::keepTicked);
  connect(rows_, &CellRows::typed, this, [this](int row, int, const QString& words) {
    // The table is laid anew by it: not while it still edits.
    QMetaObject::invokeMethod(
        this, [this, row, words] { typedCell(row, words); }, Qt::QueuedConnection);
  });
  connect(table_, &CellTable::rowChosen, this, &SizingDesk::rowChosen);
  connect(table_, &CellTable::opened, this, [this](int row) {
    if (way_ == Way::network && found_ && row < static_cast<int>(found_->task.rows.size())) {
      const auto& lines = found_->task.rows[static_cast<std::size_t>(row)].lines;
      doc_.select(lines);
      emit doc_.wantsShown(lines.front());
    } else if (way_ == Way::balance && row < static_cast<int>(valves_.size())) {
      doc_.select({valves_[static_cast<std::size_t>(row)]});
      emit doc_.wantsShown(valves_[static_cast<std::size_t>(row)]);
    }
  });
  connect(card_, &ProposalCard::asked, this, &SizingDesk::act);
  connect(card_, &ProposalCard::takes, this, &SizingDesk::take);
  connect(card_, &ProposalCard::searches, this, [this] {
    if (work_.running()) stop();
    else search();
  });
  connect(card_, &ProposalCard::goalTyped, this, &SizingDesk::typedGoal);
  connect(&work_, &Background::ended, this, &SizingDesk::showAll);
  for (Background* const work : {&work_, &aside_, &duties_}) doc_.watch(*work);
  // In place of "solving".
  connect(&aside_, &Background::failed, this, [this](const QString& why) {
    if (way_ != Way::line || line_) return;
    noLine_ = why;
    showLine();
  });
  go(Way::network);
}

SizingDesk::~SizingDesk() = default;

// ---- words

QString SizingDesk::span(const QColor& ink, const QString& words) const {
  return QString("<span style='color:%1'>%2</span>").arg(ink.name(), words);
}
QString SizingDesk::linkTo(const QString& to, const QString& words) const {
  return QString("<a href='%1' style='color:%2'>%3</a>").arg(to, look_.water.name(), words.toHtmlEscaped());
}
QString SizingDesk::money(double v) const {
  // Hundreds are enough of what is guessed to tenths; small sums are said whole.
  return text(digits(v, std::abs(v) >= 1e5 ? 4 : 3));
}

// The nominal size, with the schedule and the standard only where it could be another without them.
QString SizingDesk::sizeShort(const SizingTask& task, const PipeSize& size) const {
  if (&size == &notLaid()) return tr("omitted");
  bool standards = false, schedules = false;
  // What ASME counts is inches.
  const auto inches = [](const PipeSize& of) { return of.standard.starts_with("ASME"); };
  for (const SizingRow& row : task.rows)
    for (const PipeSize* s : row.sizes) {
      if (s == &notLaid()) continue;
      if (s->nominal != size.nominal || inches(*s) != inches(size)) continue;
      schedules = schedules || s->schedule != size.schedule;
      standards = standards || (s->schedule == size.schedule && s->standard != size.standard);
    }
  QString words = text(size.nominal);
  if (inches(size)) words += " in";
  else if (size.nominal.find_first_not_of("0123456789") == std::string::npos) words = "DN " + words;
  if (schedules) words += " " + text(size.schedule);
  if (standards) words = text(size.standard) + " " + words;
  return words;
}

QString SizingDesk::brokenShort(const std::string& label, const Element* at) {
  constexpr qsizetype room = 13;
  const QString words = text(label);
  return QString::fromUtf8("▲ ") + words +
         (at && words.size() + static_cast<qsizetype>(at->name.size()) < room ? " " + text(at->name)
                                                                              : QString());
}

QString SizingDesk::totals(const SizingVerdict* now, const SizingVerdict* then) const {
  const QString quiet = look_.ink2.name(), currency = text(pricesOf(doc_.model().costs).currency);
  QString rows =
      QString(
          "<table width='100%' cellspacing='0' cellpadding='2'><tr style='color:%1'><td>%2</td><td "
          "align='right'>%3</td><td align='right'>%4</td></tr>")
          .arg(quiet, currency.isEmpty() ? tr("Total") : tr("Total, %1").arg(currency.toHtmlEscaped()),
               tr("now"), tr("proposed"));
  const auto row = [&](const QString& what, auto of, bool strong, const QString& unit = {}) {
    const auto say = [&](const SizingVerdict* v) {
      return v && std::isfinite(of(*v)) ? money(of(*v)) + unit : QString::fromUtf8("–");
    };
    rows +=
        QString(
            "<tr><td>%1</td><td align='right' style='color:%4'>%2</td><td align='right'><b>%3</b></td></tr>")
            .arg(strong ? "<b>" + what + "</b>" : what, say(now), say(then), quiet);
  };
  const auto any = [&](auto of) { return (now && of(*now) != 0) || (then && of(*then) != 0); };
  row(
      tr("pipe, installed"), [](const SizingVerdict& v) { return v.laid; }, false);
  const auto pumps = [](const SizingVerdict& v) { return v.pumps; };
  if (any(pumps)) row(tr("pumps"), pumps, false);
  const auto energy = [](const SizingVerdict& v) { return v.energyCost; };
  if (any(energy)) row(tr("energy"), energy, false);
  const auto upkeep = [](const SizingVerdict& v) { return v.upkeep; };
  if (any(upkeep)) row(tr("maintenance"), upkeep, false);
  row(
      tr("whole-life cost"), [](const SizingVerdict& v) { return v.wholeLife; }, true);
  if (pricesOf(doc_.model().costs).interest > 0)
    row(
        tr("undiscounted"), [](const SizingVerdict& v) { return v.plainSum; }, false);
  const double years = pricesOf(doc_.model().costs).years;
  // Of one line the sums have that line alone: nothing to divide by what the whole network delivers.
  if (way_ != Way::line && ((now && now->perCubicMetre(years)) || (then && then->perCubicMetre(years)))) {
    const auto each = [&](const SizingVerdict* v) {
      const auto per = v ? v->perCubicMetre(years) : std::nullopt;
      return per ? text(digits(*per, 3)) : QString::fromUtf8("–");
    };
    rows +=
        QString(
            "<tr><td>%1</td><td align='right' style='color:%4'>%2</td><td align='right'><b>%3</b></td></tr>")
            .arg(tr("per m³ delivered"), each(now), each(then), quiet);
  }
  const auto mass = [](const SizingVerdict& v) { return v.mass_kg / 1000; };
  if (any(mass)) row(tr("mass"), mass, false, " t");
  return rows + "</table>";
}

// ---- what is looked at

void SizingDesk::later() {
  stale_ = true;
  if (isVisible()) later_.start(40);
}

void SizingDesk::showEvent(QShowEvent* event) {
  Desk::showEvent(event);
  if (stale_) later_.start(0);
}

void SizingDesk::go(Way way) {
  way_ = way;
  for (std::size_t i = 0; i < tabs_.size(); ++i) tabs_[i]->setChecked(i == static_cast<std::size_t>(way));
  pages_->setCurrentIndex(way == Way::costs ? 1 : 0);
  which_->setVisible(way == Way::line);
  card_->refuseGoal({});
  later();
}

void SizingDesk::makeTask() {
  const std::uint64_t stamp = doc_.history().stamp();
  if (task_ && seen_ == stamp && task_->units == doc_.units()) return;
  seen_ = stamp;
  auto made =
      sizingTask(doc_.model(), optionsOf(doc_.model().of<SizingSetup>()), doc_.sharedStock(), doc_.units());
  task_ = made ? std::make_shared<const SizingTask>(std::move(*made)) : nullptr;
  noTask_ = made ? std::string() : made.error().what;
  setup_->showLeft(task_ ? task_->left : std::vector<std::pair<Id, std::string>>{});
}

void SizingDesk::renew() {
  if (!isVisible()) return;
  stale_ = false;
  makeTask();
  setup_->refresh();
  offerLines();
  if (way_ == Way::line) studyLine();
  if (way_ == Way::balance) studyBalance();
  if (way_ == Way::network && !aside_.running()) judgeKept();
  readDuties();
  showAll();
}

void SizingDesk::showAll() {
  card_->showGoal({}, {});
  lower_->setVisible(way_ != Way::network || found_);
  switch (way_) {
    case Way::line: showLine(); break;
    case Way::network: showNetwork(); break;
    case Way::balance: showBalance(); break;
    case Way::costs:
      costs_->refresh();
      story_->clear();
      card_->showCourse(nullptr);
      card_->showTake({}, false);
      card_->showSearch({});
      if (task_ && found_ && found_->stamp == seen_ && found_->proposal.now)
        card_->show(
            "<b>" + tr("Present model") + "</b>" + totals(&*found_->proposal.now, &found_->proposal.verdict),
            {});
      else
        card_->show("<b>" + tr("Costs") + "</b><br>" +
                        span(look_.ink2, tr("Saved in the model file and used for all costs on this desk.")),
                    {});
  }
}

void SizingDesk::take() {
  if (way_ == Way::network && found_ && found_->done) {
    std::vector<bool> ticked(ticks_.begin(), ticks_.end());
    const auto count = std::count(ticked.begin(), ticked.end(), true);
    if (count == 0) return;
    SizingTask now = found_->task;
    now.model = doc_.model();
    doc_.takeModel(EditedModel{tr("Apply sizes of %1 rows").arg(count).toStdString(),
                               withSizes(now, found_->proposal.choice, ticked)});
  } else if (way_ == Way::line && line_ && table_->row() >= 0 &&
             table_->row() < static_cast<int>(line_->sizes.size())) {
    const LineSize& s = line_->sizes[static_cast<std::size_t>(table_->row())];
    Draft draft(doc_.model().drawn);
    for (const Id id : line_->lines) {
      if (!doc_.model().drawn.find(id)) continue;
      giveSize(draft, id, *s.size);
    }
    doc_.takeModel(
        EditedModel{tr("Resize %1 to %2")
                        .arg(text(doc_.model().drawn.at(line_->lines.front()).name), text(s.size->name()))
                        .toStdString(),
                    withEdit(doc_.model(), drawingCase, std::move(draft).finish())});
  } else if (way_ == Way::balance && flows_ && flows_->balanced) {
    doc_.takeModel(
        EditedModel{tr("Apply the openings of %1 valves").arg(flows_->branches.size()).toStdString(),
                    withEdit(doc_.model(), doc_.currentCase(), flows_->network)});
  }
}

void SizingDesk::act(const QString& link) {
  const QString what = link.section(':', 0, 0);
  const auto at = static_cast<std::size_t>(link.section(':', 1).toUInt());
  const SizingSetup& setup = doc_.model().of<SizingSetup>();
  if (what == "each") {
    eachCost_ = !eachCost_;
    showLine();
  } else if (what == "show") {
    const Id id = static_cast<Id>(at);
    if (doc_.network().find(id)) doc_.select({id}), emit doc_.wantsShown(id);
  } else if (what == "keep" && found_ && found_->done) {
    SizingSetup next = setup;
    KeptSizes kept{.name = tr("Proposal %1").arg(setup.kept.size() + 1).toStdString()};
    for (std::size_t r = 0; r < found_->task.rows.size(); ++r)
      for (const Id id : found_->task.rows[r].lines)
        kept.sizes.push_back({id, found_->task.rows[r].sizes[found_->proposal.choice[r]]->name()});
    next.kept.push_back(std::move(kept));
    doc_.takeModel(withSizing(doc_.model(), tr("Save a proposal").toStdString(), std::move(next)));
    // The set-up alone changed: what was found is still of this model.
    auto same = std::make_shared<Found>(*found_);
    same->stamp = doc_.history().stamp();
    found_ = same;
  } else if (what == "letgo") {
    SizingSetup next = setup;
    std::erase_if(next.branches, [&](const BranchGoal& b) { return b.valve == static_cast<Id>(at); });
    flows_.reset();
    doc_.takeModel(withSizing(doc_.model(), tr("Clear a design flow").toStdString(), std::move(next)));
  } else if (what == "remedy" && flows_ && at < flows_->remedies.size()) {
    doc_.apply(Remedy(flows_->remedies[at]));
  } else if (what == "two" && found_ && found_->done && found_->proposal.two &&
             found_->stamp == doc_.history().stamp()) {
    const TwoSizes& two = *found_->proposal.two;
    EditedModel edited{tr("Apply %1 two-size lines").arg(two.lines.size()).toStdString(),
                       withEdit(doc_.model(), drawingCase, two.model.drawn)};
    SizingSetup laid = edited.model.of<SizingSetup>();
    laid.laying = two.model.of<SizingSetup>().laying;
    edited.model.setups.set(std::move(laid));
    doc_.takeModel(std::move(edited));
  } else if (what == "drop" && at < setup.kept.size()) {
    SizingSetup next = setup;
    next.kept.erase(next.kept.begin() + static_cast<std::ptrdiff_t>(at));
    doc_.takeModel(withSizing(doc_.model(), tr("Delete a saved proposal").toStdString(), std::move(next)));
  } else if (what == "kept" && at < setup.kept.size() && task_) {
    const auto choice = choiceOf(*task_, setup.kept[at].sizes);
    if (!choice) {
      emit doc_.refused(
          tr("%1 uses sizes or lines that are no longer available.").arg(text(setup.kept[at].name)));
      return;
    }
    work_.begin([this, task = *task_, choice = *choice, stamp = seen_, name = setup.kept[at].name](
                    const Background::Post& post, std::stop_token stop) {
      const Alarm alarm(stop, task.options.seconds);
      Judge judge(task, lanes({}), alarm.token());
      SizingProposal p;
      p.choice = choice;
      p.verdict = judge.evaluate(choice, 0, {.words = true, .deliveries = &p.delivered});
      SizeChoice now;
      for (const SizingRow& r : task.rows)
        if (r.now) now.push_back(static_cast<std::uint16_t>(*r.now));
      if (now.size() == task.rows.size()) p.now = judge.evaluate(now, 0, true);
      p.governed = governedOf(task, judge, choice, p.verdict, {.stop = alarm.token()});
      p.how = "saved as " + name;
      auto found = std::make_shared<Found>(Found{task, p, stamp, 0.0, true});
      post([this, found] {
        found_ = found;
        ticks_.assign(found->task.rows.size(), 0);
        for (std::size_t r = 0; r < ticks_.size(); ++r)
          ticks_[r] = found->task.rows[r].now != found->proposal.choice[r];
        ticked_ = found->proposal.verdict;
        tickedDeliveries_ = found->proposal.delivered;
        showNetwork();
      });
    });
  } else if (what == "cones" && found_ && found_->done && found_->stamp == doc_.history().stamp()) {
    const auto& points = found_->proposal.notCounted;
    doc_.takeModel(EditedModel{tr("Count reducers at %1 points").arg(points.size()).toStdString(),
                               withCones(doc_.model(), points)});
  } else if (what == "deliveries" || what == "lines") {
    deliveries_ = what == "deliveries";
    showNetwork();
    if (deliveries_) table_->scrollToTop();  // the lowest are first
    else table_->scrollTo(table_->currentIndex());
  } else if (what == "costs") {
    go(Way::costs);
  }
}

void SizingDesk::setLook(const Look& look) {
  look_ = look;
  setup_->setLook(look), card_->setLook(look), table_->setLook(look), bars_->setLook(look),
      costs_->setLook(look);
  setStyleSheet(
      QString(
          "#sizing\\.strip { border-bottom: 1px solid %1; } #sizing\\.lower { border-top: 1px solid %1; }"
          "#sizing\\.strip QToolButton { color: %2; border: none; border-bottom: 3px solid transparent; "
          "border-radius: 0; padding: 8px 10px 5px 10px; }"
          "#sizing\\.strip QToolButton:checked { color: %3; font-weight: 600; border-bottom: 3px solid %4; }"
          "#sizing\\.strip QToolButton:focus { border: 1px dotted %3; border-bottom: 3px solid %4; }")
          .arg(look.hair.name(), look.ink2.name(), look.ink.name(), look.water.name()));
  showAll();
  if (way_ == Way::network) rowChosen(table_->row());
}

void SizingDesk::takeKeyboard() {
  if (way_ == Way::costs) costs_->setFocus();
  else if (rows_->rowCount() > 0) table_->setFocus();
  else setup_->takeKeyboard();
}

void SizingDesk::fillMenu(Menu which, QMenu* menu, const Make& make) {
  if (which == Menu::file) {
    menu->addAction(make("sizing.sheet", tr("Sizing data sheet …"), {}, [this] { exportSheet(); }));
    menu->addAction(make("sizing.export", tr("Export sizes …"), {}, [this] { exportTable(); }));
    menu->addAction(make("sizing.picture", tr("Export sizing figure …"), {}, [this] { exportFigure(); }));
  } else if (which == Menu::edit) {
    menu->addAction(
        make("sizing.search", tr("Search sizes for the whole network"), QKeySequence("Ctrl+Shift+O"), [this] {
          if (isVisible()) search();
        }));
    menu->addAction(make("sizing.take", tr("Apply the proposal"), QKeySequence("Ctrl+Shift+Return"), [this] {
      if (isVisible()) take();
    }));
  } else if (which == Menu::view) {
    for (const auto& [words, name, way] : {std::tuple{tr("Sizing: one line"), "one", Way::line},
                                           std::tuple{tr("Sizing: whole network"), "whole", Way::network},
                                           std::tuple{tr("Sizing: balance"), "flows", Way::balance},
                                           std::tuple{tr("Sizing: costs"), "money", Way::costs}}) {
      const Way to = way;
      menu->addAction(make(QString("sizing.go.%1").arg(name), words, {}, [this, to] { go(to); }));
    }
  }
}

void SizingDesk::exportTable() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export sizes"), {}, tr("Tables (*.xlsx *.csv)"));
  if (path.isEmpty()) return;
  if (const auto done = writeTable(path.toStdString(), rows_->table()); !done)
    emit doc_.refused(text(done.error().what));
}

void SizingDesk::exportFigure() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export sizing figure"), {}, tr("Pictures (*.svg *.png)"));
  if (!path.isEmpty() && !bars_->save(path)) emit doc_.refused(tr("%1 could not be written").arg(path));
}

void SizingDesk::exportSheet() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Data sheet"), {}, tr("Pages (*.pdf *.html)"));
  if (!path.isEmpty()) writeSheet(path);
}

bool SizingDesk::writeSheet(const QString& path) {
  QString why;
  if (!found_ || !found_->done) why = tr("There is no proposal to export yet.");
  else
    why = writePage(sizingSheet(found_->task, found_->proposal), path, {.title = tr("Sizes"), .wide = true});
  if (!why.isEmpty()) emit doc_.refused(why);
  return why.isEmpty();
}

}  // namespace conduit::desktop

#include "desks/sizing/sizing_desk.h"

#include <QComboBox>
#include <QElapsedTimer>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "cases/watch.h"
#include "desks/sizing/costs_page.h"
#include "desks/sizing/proposal_card.h"
#include "desks/sizing/setup_panel.h"
#include "exchange/table_file.h"
#include "look/cell_table.h"
#include "look/page_file.h"
#include "look/round_numbers.h"
#include "look/words.h"
#include "plot/bars.h"
#include "plot/plot.h"
#include "quantity/format.h"
#include "quantity/parse.h"
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
  bars_->setAccessibleName(tr("What each size costs"));
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
  which_->setAccessibleName(tr("The line that is looked at"));
  which_->setFixedWidth(130);
  line->addSpacing(8);
  line->addWidget(which_);
  story_ = new QLabel;
  story_->setObjectName("sizing.story");
  story_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  story_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
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
  title_ = new QLabel;
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
    work_.leave(), aside_.leave();
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
  connect(&work_, &Background::failed, this, [this](const QString& why) { emit doc_.refused(why); });
  connect(&aside_, &Background::failed, this, [this](const QString& why) { emit doc_.refused(why); });
  go(Way::network);
}

SizingDesk::~SizingDesk() { work_.leave(), aside_.leave(); }

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

// The nominal size, with the schedule and the standard only where there are several.
QString SizingDesk::sizeShort(const SizingTask& task, const PipeSize& size) const {
  if (&size == &notLaid()) return tr("not laid");
  bool standards = false, schedules = false;
  for (const SizingRow& row : task.rows)
    for (const PipeSize* s : row.sizes) {
      if (s == &notLaid()) continue;
      standards = standards || s->standard != size.standard;
      schedules = schedules || s->schedule != size.schedule;
    }
  QString words = text(size.nominal);
  // What ASME counts is inches.
  if (size.standard.starts_with("ASME")) words += " in";
  else if (bool number = false; size.nominal.find_first_not_of("0123456789") == std::string::npos && !number)
    words = "DN " + words;
  if (schedules) words += " " + text(size.schedule);
  if (standards) words = text(size.standard) + " " + words;
  return words;
}

QString SizingDesk::totals(const SizingVerdict* now, const SizingVerdict* then) const {
  const QString quiet = look_.ink2.name();
  QString rows =
      QString(
          "<table width='100%' cellspacing='0' cellpadding='2'><tr style='color:%1'><td>%2</td><td "
          "align='right'>%3</td><td align='right'>%4</td></tr>")
          .arg(quiet, tr("In all"), tr("now"), tr("proposed"));
  const auto row = [&](const QString& what, auto of, bool strong, const QString& unit = {}) {
    const auto say = [&](const SizingVerdict* v) {
      return v ? money(of(*v)) + unit : QString::fromUtf8("–");
    };
    rows +=
        QString(
            "<tr><td>%1</td><td align='right' style='color:%4'>%2</td><td align='right'><b>%3</b></td></tr>")
            .arg(strong ? "<b>" + what + "</b>" : what, say(now), say(then), quiet);
  };
  const auto any = [&](auto of) { return (now && of(*now) != 0) || (then && of(*then) != 0); };
  row(
      tr("pipe, laid"), [](const SizingVerdict& v) { return v.laid; }, false);
  const auto pumps = [](const SizingVerdict& v) { return v.pumps; };
  if (any(pumps)) row(tr("pumps"), pumps, false);
  const auto energy = [](const SizingVerdict& v) { return v.energyCost; };
  if (any(energy)) row(tr("energy"), energy, false);
  const auto upkeep = [](const SizingVerdict& v) { return v.upkeep; };
  if (any(upkeep)) row(tr("upkeep"), upkeep, false);
  const QString currency = text(pricesOf(doc_.model().costs).currency);
  row(
      currency.isEmpty() ? tr("whole life") : tr("whole life, %1").arg(currency.toHtmlEscaped()),
      [](const SizingVerdict& v) { return v.wholeLife; }, true);
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
  auto made = sizingTask(doc_.model(), optionsOf(doc_.model().sizing), doc_.sharedStock(), doc_.units());
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
            "<b>" + tr("As it stands") + "</b>" + totals(&*found_->proposal.now, &found_->proposal.verdict),
            {});
      else
        card_->show("<b>" + tr("Costs") + "</b><br>" +
                        span(look_.ink2,
                             tr("They belong to the model and go with its file. Every sum on this desk is "
                                "reckoned with them.")),
                    {});
  }
}

// ---- the whole network

void SizingDesk::search() {
  makeTask();
  go(Way::network);
  if (!task_) {
    emit doc_.refused(text(noTask_));
    return;
  }
  aside_.leave();
  SizingTask task = *task_;
  // Further: from the next seed on, for what stands.
  if (found_ && found_->stamp == seen_) task.options.seed += ++furtherBy_;
  else furtherBy_ = 0;
  const auto before = found_ && found_->stamp == seen_ ? found_ : nullptr;
  ticked_.reset();
  const std::uint64_t stamp = seen_;
  work_.begin([this, task = std::move(task), stamp, before](const Background::Post& post,
                                                            std::stop_token stop) {
    QElapsedTimer clock;
    clock.start();
    const auto show = [&](const SizingProposal& p, bool done) {
      auto found =
          std::make_shared<Found>(Found{task, p, stamp, static_cast<double>(clock.elapsed()) / 1000, done});
      // The better of this search and the one before it.
      const bool keep = done && before && !p.verdict.betterThan(before->proposal.verdict) &&
                        !before->proposal.choice.empty();
      auto shown = keep ? before : std::shared_ptr<const Found>(std::move(found));
      post([this, shown, done] {
        found_ = shown;
        const std::size_t n = shown->task.rows.size();
        ticks_.assign(n, 0);
        for (std::size_t r = 0; r < n && r < shown->proposal.choice.size(); ++r)
          ticks_[r] = shown->task.rows[r].now != shown->proposal.choice[r];
        ticked_ = shown->proposal.verdict;
        if (way_ == Way::network) showNetwork();
        if (done && table_->row() < 0 && rows_->rowCount() > 0) table_->selectRow(0);
      });
    };
    SearchOptions options;
    options.jobs.stop = stop;
    std::int64_t last = -1000;
    options.better = [&](const SizingProposal& p) {
      if (clock.elapsed() - last < 150) return;
      last = clock.elapsed();
      show(p, false);
    };
    const SizingProposal best = searchSizes(task, options);
    if (!best.choice.empty()) show(best, true);
  });
  showNetwork();
}

void SizingDesk::stop() {
  work_.stop();
  card_->showSearch(tr("Stopping …"));
}

void SizingDesk::keepTicked(int row, bool on) {
  if (way_ != Way::network || !found_ || row >= static_cast<int>(ticks_.size())) return;
  const auto r = static_cast<std::size_t>(row);
  // A line without a size of those there are has nothing to stay at.
  if (!on && !found_->task.rows[r].now) return;
  if (found_->task.rows[r].now == found_->proposal.choice[r]) return;
  ticks_[r] = on;
  judgeTicked();
  showNetwork();
}

// What is ticked is solved as a whole at once.
void SizingDesk::judgeTicked() {
  ticked_.reset();
  if (!found_ || !found_->done) return;
  SizeChoice choice = found_->proposal.choice;
  for (std::size_t r = 0; r < choice.size(); ++r)
    if (!ticks_[r] && found_->task.rows[r].now)
      choice[r] = static_cast<std::uint16_t>(*found_->task.rows[r].now);
  aside_.begin([this, found = found_, choice](const Background::Post& post, std::stop_token) {
    Judge judge(found->task, 1);
    const SizingVerdict v = judge.of(choice, 0, true);
    post([this, v] {
      ticked_ = v;
      showNetwork();
    });
  });
}

void SizingDesk::judgeKept() {
  kept_.assign(doc_.model().sizing.kept.size(), std::nullopt);
  if (kept_.empty() || !task_) return;
  aside_.begin([this, task = task_](const Background::Post& post, std::stop_token stop) {
    Judge judge(*task, 1);
    const auto& all = task->model.sizing.kept;
    for (std::size_t k = 0; k < all.size() && !stop.stop_requested(); ++k)
      if (const auto choice = choiceOf(*task, all[k].sizes)) {
        const SizingVerdict v = judge.of(*choice, 0);
        post([this, k, v] {
          if (k < kept_.size()) kept_[k] = v;
          if (way_ == Way::network) showNetwork();
        });
      }
  });
}

void SizingDesk::rowChosen(int row) {
  if (row < 0) return;
  if (way_ == Way::line) return showLine();
  if (way_ == Way::balance) return showBalance();
  if (way_ != Way::network || !found_ || !found_->done || row >= static_cast<int>(found_->task.rows.size()))
    return;
  const auto r = static_cast<std::size_t>(row);
  aside_.begin([this, found = found_, r](const Background::Post& post, std::stop_token stop) {
    Judge judge(found->task, lanes({}));
    const auto verdicts = runJobs(found->task.rows[r].sizes.size(),
                                  [&](std::size_t s, std::size_t lane, std::stop_token) {
                                    SizeChoice c = found->proposal.choice;
                                    c[r] = static_cast<std::uint16_t>(s);
                                    return judge.of(c, lane, true);
                                  },
                                  {.stop = stop});
    std::vector<SizingVerdict> all;
    for (const auto& v : verdicts) all.push_back(v ? *v : SizingVerdict{});
    post([this, all, r, found] {
      if (found == found_ && way_ == Way::network) showBars(all, r);
    });
  });
}

void SizingDesk::showBars(const std::vector<SizingVerdict>& verdicts, std::size_t r) {
  const SizingTask& task = found_->task;
  const SizingRow& row = task.rows[r];
  const bool mass = task.options.wanted == Wanted::mass;
  BarsData data;
  if (mass) data.kinds = {tr("mass, kg")};
  else data.kinds = {tr("pipe, laid"), tr("upkeep"), tr("energy more than the least")};
  // Energy is of the whole network: what a size takes more than the best of them.
  double least = 1e300;
  for (const SizingVerdict& v : verdicts)
    if (v.keeps()) least = std::min(least, v.energyCost + v.pumps);
  const std::size_t chosen = found_->proposal.choice[r];
  const std::size_t first = chosen > 4 ? chosen - 3 : 0, last = std::min(verdicts.size(), first + 7);
  for (std::size_t s = first; s < last; ++s) {
    const SizingVerdict& v = verdicts[s];
    Bar bar{.name = sizeShort(task, *row.sizes[s]), .can = v.keeps(), .chosen = s == chosen};
    const double laid = row.length_m * row.sizes[s]->costPerMetre.value_or(0.0);
    if (mass) bar.shares = {row.length_m * row.sizes[s]->mass_kgm.value_or(0.0)};
    else
      bar.shares = {laid, laid * task.prices.upkeep * task.prices.upkeepWorth,
                    v.balanced ? std::max(0.0, v.energyCost + v.pumps - least) : 0.0};
    double sum = 0.0;
    for (const double share : bar.shares) sum += share;
    bar.total = money(sum);
    bar.under = s == chosen ? tr("proposed") : row.now == s ? tr("now") : QString();
    if (!bar.can && v.worst) {
      const Element* e = v.worst->element == noId ? nullptr : task.model.drawn.find(v.worst->element);
      bar.why = QString::fromUtf8("▲ ") + text(v.worst->label) + (e ? " " + text(e->name) : QString());
    }
    data.bars.push_back(std::move(bar));
  }
  bars_->display(std::move(data));
  title_->setText(
      QString("<b>%1</b>&nbsp;&nbsp; %2&nbsp;&nbsp;&nbsp; %3")
          .arg(text(linesSaid(task, row)).toHtmlEscaped(),
               span(look_.ink2,
                    mass ? tr("all else as proposed")
                         : tr("in %1 years, all else as proposed").arg(task.prices.years, 0, 'g', 3)),
               bars_->legend()));
}

void SizingDesk::showNetwork() {
  const SizingTask* task = found_ ? &found_->task : task_.get();
  if (!task) {
    rows_->display({}, {});
    story_->clear();
    bars_->display({});
    title_->clear();
    card_->showCourse(nullptr);
    card_->showTake({}, false);
    card_->showSearch({});
    card_->show(
        "<b>" + tr("Nothing to size") + "</b><br>" + sentence(noTask_) + "." +
            (doc_.model().sizing.ranges.empty()
                 ? "<p>" +
                       span(look_.ink2,
                            tr("Lines that have a bore alone need sizes to choose from: add some at the "
                               "left, such as ASME B36.10M 40.")) +
                       "</p>"
                 : QString()),
        {});
    return;
  }
  const int at = table_->row();
  const bool older = found_ && found_->stamp != doc_.history().stamp();
  const SizingProposal* p = found_ ? &found_->proposal : nullptr;
  const bool mass = task->options.wanted == Wanted::mass;
  std::vector<CellColumn> columns{{tr("Line"), true, 94},
                                  {tr("Now"), true, 70},
                                  {tr("Proposed"), true, 78},
                                  {tr("Governed by"), true, 0},
                                  {mass ? tr("kg now") : tr("Cost now"), false, 76},
                                  {tr("proposed"), false, 76},
                                  {tr("take"), false, 46}};
  std::vector<std::vector<Cell>> cells;
  std::size_t unchanged = 0, count = 0;
  double ways = 0.0;
  std::size_t lines = 0;
  for (std::size_t r = 0; r < task->rows.size(); ++r) {
    const SizingRow& row = task->rows[r];
    ways += std::log10(static_cast<double>(row.sizes.size()));
    lines += row.lines.size();
    const auto cost = [&](const PipeSize* s) {
      const auto each = mass ? s->mass_kgm : s->costPerMetre;
      return each ? money(*each * row.length_m) : QString::fromUtf8("–");
    };
    const PipeSize* now = row.now ? row.sizes[*row.now] : nullptr;
    const bool proposed = p && r < p->choice.size();
    const PipeSize* then = proposed ? row.sizes[p->choice[r]] : nullptr;
    const bool changes = proposed && row.now != p->choice[r];
    if (proposed && !changes) ++unchanged;
    if (changes && ticks_[r]) ++count;
    std::vector<Cell> line(7);
    line[0] = {.text = text(linesSaid(*task, row, 3)),
               .ink = changes || !proposed ? Cell::Ink::strong : Cell::Ink::plain,
               .tip = text(linesSaid(*task, row, 40)) + ", " +
                      text(withUnit(row.length_m, Measure::length, doc_.units()))};
    line[1] = {.text = now ? sizeShort(*task, *now) : QString::fromUtf8("–"),
               .tip = now ? text(now->name()) : tr("none of the sizes to choose from")};
    if (then)
      line[2] = {.text = sizeShort(*task, *then),
                 .ink = changes ? Cell::Ink::strong : Cell::Ink::quiet,
                 .tip = text(then->name())};
    if (p && r < p->governed.size()) {
      const Governed& g = p->governed[r];
      line[3] = {.text = text(governedShort(*task, row, g)),
                 .ink = g.by == Governed::By::limit ? Cell::Ink::plain : Cell::Ink::quiet,
                 .tip = text(governedSaid(*task, g)) +
                        (g.limit && !g.limit->what.empty() ? ": " + text(g.limit->what) : QString())};
      // How far the next size down would go beyond the limit.
      if (g.limit && g.limit->by < 100) line[3].bar = 1 + std::min(g.limit->by, 0.5);
    }
    line[4] = {.text = now ? cost(now) : QString::fromUtf8("–"), .ink = Cell::Ink::quiet};
    if (then) line[5] = {.text = cost(then), .ink = changes ? Cell::Ink::strong : Cell::Ink::plain};
    if (changes) line[6] = {.ticked = ticks_[r] != 0};
    cells.push_back(std::move(line));
  }
  rows_->display(std::move(columns), std::move(cells));
  if (at >= 0 && at < rows_->rowCount()) {
    const QSignalBlocker still(table_);
    table_->selectRow(at);
  }
  story_->setText(
      span(look_.ink2, tr("%1 lines, %2 rows, 1e%3 ways%4")
                           .arg(lines)
                           .arg(task->rows.size())
                           .arg(ways, 0, 'f', 0)
                           .arg(unchanged > 0 ? tr(", %1 unchanged").arg(unchanged) : QString())));
  const bool running = work_.running();
  // The card.
  QString above = QString("<span style='font-size:17px'><b>%1</b></span> ").arg(tr("Proposal"));
  const QString quiet = look_.ink2.name();
  if (!p) {
    above +=
        "<br>" + (running ? tr("The first choices are being judged …")
                          : tr("None yet. A search judges every choice by solving the whole network in %1.")
                                .arg(task->cases.size() == 1 ? tr("one case")
                                                             : tr("%1 cases").arg(task->cases.size())));
    if (task->left.size() > 0 && !running)
      above += "<br>" + span(look_.ink2, tr("%1 lines are left as they are.").arg(task->left.size()));
    card_->show(above, {});
    card_->showCourse(nullptr);
    card_->showTake({}, false);
    card_->showSearch(running ? tr("Stop") : tr("Search sizes"));
    bars_->display({});
    title_->clear();
    return;
  }
  above += span(look_.ink2, tr("%1 s, %2 choices")
                                .arg(found_->seconds, 0, 'f', 1)
                                .arg(shortNumber(static_cast<double>(p->judged), 7)));
  if (older) above += "<br>" + span(look_.warning, tr("Older than the model, which was changed since."));
  if (running) above += "<br>" + span(look_.water, tr("Still searching; this is the best so far."));
  QString says;
  if (p->now && p->now->objective > 0) {
    const double by = 1 - p->verdict.objective / p->now->objective;
    const QString what = mass ? tr("Weighs") : tr("Costs");
    const QString than = task->options.wanted == Wanted::wholeLife
                             ? tr("over %1 years than the sizes drawn").arg(task->prices.years, 0, 'g', 3)
                             : tr("than the sizes drawn");
    says = std::abs(by) < 5e-4 ? tr("%1 as much as the sizes drawn").arg(what)
                               : QString("%1 %2 % %3 %4")
                                     .arg(what)
                                     .arg(std::abs(by) * 100, 0, 'f', std::abs(by) < 0.1 ? 1 : 0)
                                     .arg(by > 0 ? tr("less") : tr("more"), than);
    says += p->verdict.keeps() ? (p->now->keeps() ? tr(" and keeps every limit.")
                                                  : tr(" and keeps every limit; those drawn do not."))
                               : QString(".");
  } else {
    says = p->verdict.keeps() ? tr("Keeps every limit.") : QString();
  }
  if (!p->verdict.keeps())
    says += " " + span(look_.warning, tr("In so many trials none was found that keeps every limit."));
  for (const std::string& said : {smallestSaid(*task, *p), efficiencySaid(*task, p->verdict)})
    if (!said.empty()) says += "<br>" + span(look_.ink2, text(said).toHtmlEscaped() + ".");
  above += "<p>" + says + "</p>" + totals(p->now ? &*p->now : nullptr, &p->verdict);
  above += QString("<p style='color:%1'>%2</p>").arg(quiet, tr("How good it is"));
  if (p->proved) {
    above += "<p><b>" + tr("Proved: none is cheaper.") + "</b></p>";
  } else if (p->bound) {
    const double gap = p->verdict.objective / *p->bound - 1;
    above += "<table width='100%' cellpadding='2' cellspacing='0'><tr><td>" + tr("No answer can be under") +
             "</td><td align='right'><b>" + money(*p->bound) + "</b></td></tr><tr><td>" +
             tr("so this one is at most") +
             QString("</td><td align='right'><b>%1</b></td></tr></table>")
                 .arg(gap < 2 ? tr("%1 % above the best").arg(gap * 100, 0, 'f', gap < 0.1 ? 1 : 0)
                              : tr("%1 times the best").arg(1 + gap, 0, 'f', 1)) +
             (gap > 0.3 ? span(look_.ink2, tr("A weak bound: it may be far better than that.")) : QString());
  } else {
    above += "<p>" +
             tr("No bound is known below which no answer can lie%1.")
                 .arg(p->noBound.empty() ? QString() : ": " + text(p->noBound).toHtmlEscaped()) +
             "</p>";
  }
  PlotData course;
  bool moves = false;
  for (const auto& [trials, cost] : p->course) moves = moves || cost != p->course.front().second;
  if (moves) {
    // Thousands, where it is many: numbers that can be read.
    const double scale = p->course.front().second >= 1e5 ? 1e-3 : 1.0;
    PlotCurve best{.name = {}, .tone = 0};
    for (const auto& [trials, cost] : p->course)
      best.x.push_back(static_cast<double>(trials)), best.y.push_back(cost * scale);
    course.curves.push_back(std::move(best));
    if (p->bound) {
      PlotCurve bound{.name = tr("bound"), .dashed = true, .tone = 1};
      bound.x = {0.0, static_cast<double>(p->course.back().first)},
      bound.y = {*p->bound * scale, *p->bound * scale};
      course.curves.push_back(std::move(bound));
    }
    course.xLabel = scale < 1 ? tr("trials; the best so far, in thousands") : tr("trials; the best so far");
    course.now = NAN;
  }
  card_->showCourse(moves ? &course : nullptr);
  QString below;
  const SizingVerdict& judged = ticked_ ? *ticked_ : p->verdict;
  if (judged.worst && judged.violation > 0) {
    below += QString("<p style='color:%1'>%2</p><p>%3</p>")
                 .arg(quiet, tr("Would break"),
                      span(look_.warning,
                           QString::fromUtf8("▲ ") + text(brokenSaid(*task, *judged.worst)).toHtmlEscaped()) +
                          (judged.worst->what.empty() ? QString()
                                                      : "<br>" + text(judged.worst->what).toHtmlEscaped()));
    if (judged.worst->element != noId)
      below += linkTo(QString("show:%1").arg(judged.worst->element), tr("show where"));
  }
  if (found_->done) {
    below += "<p>" + linkTo("keep", tr("Keep as a proposal to compare")) + "</p>";
    below += "<p>" + span(look_.ink2, text(p->how).toHtmlEscaped()) + "</p>";
  }
  const auto& kept = doc_.model().sizing.kept;
  if (!kept.empty()) {
    below += QString("<p style='color:%1'>%2</p><table width='100%' cellpadding='2' cellspacing='0'>")
                 .arg(quiet, tr("Kept"));
    for (std::size_t k = 0; k < kept.size(); ++k) {
      const SizingVerdict* v = k < kept_.size() && kept_[k] ? &*kept_[k] : nullptr;
      below += QString("<tr><td>%1</td><td align='right'>%2</td><td align='right'>%3</td></tr>")
                   .arg(linkTo(QString("kept:%1").arg(k), text(kept[k].name)),
                        v ? (v->keeps() ? money(v->objective)
                                        : span(look_.warning, money(v->objective) + QString::fromUtf8(" ▲")))
                          : span(look_.ink2, tr("other sizes")),
                        linkTo(QString("drop:%1").arg(k), QString::fromUtf8("×")));
    }
    below += "</table>";
  }
  card_->show(above, below);
  if (!found_->done) {
    card_->showTake({}, false);
  } else {
    QString words = count == 0   ? tr("Nothing is ticked")
                    : count == 1 ? tr("Take the one ticked")
                                 : tr("Take the %1 ticked").arg(count);
    if (count > 0)
      words += "\n" + (!ticked_             ? tr("being solved …")
                       : ticked_->keeps()   ? tr("keeps every limit, %1").arg(money(ticked_->objective))
                       : !ticked_->balanced ? tr("does not balance")
                                            : tr("breaks a limit, %1").arg(money(ticked_->objective)));
    card_->showTake(words, count > 0);
  }
  card_->showSearch(running     ? tr("Stop, keep the best")
                    : older     ? tr("Search again")
                    : p->proved ? QString()
                                : tr("Search further"));
}

void SizingDesk::take() {
  if (way_ == Way::network && found_ && found_->done) {
    std::vector<bool> ticked(ticks_.begin(), ticks_.end());
    const auto count = std::count(ticked.begin(), ticked.end(), true);
    if (count == 0) return;
    SizingTask now = found_->task;
    now.model = doc_.model();
    doc_.takeModel(EditedModel{tr("Take sizes of %1 rows").arg(count).toStdString(),
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
        EditedModel{tr("Give %1 the size %2")
                        .arg(text(doc_.model().drawn.at(line_->lines.front()).name), text(s.size->name()))
                        .toStdString(),
                    withEdit(doc_.model(), drawingCase, std::move(draft).finish())});
  } else if (way_ == Way::balance && flows_ && flows_->balanced) {
    doc_.takeModel(
        EditedModel{tr("Take the openings of %1 valves").arg(flows_->branches.size()).toStdString(),
                    withEdit(doc_.model(), doc_.currentCase(), flows_->network)});
  }
}

void SizingDesk::act(const QString& link) {
  const QString what = link.section(':', 0, 0);
  const auto at = static_cast<std::size_t>(link.section(':', 1).toUInt());
  const SizingSetup& setup = doc_.model().sizing;
  if (what == "show") {
    const Id id = static_cast<Id>(at);
    if (doc_.network().find(id)) doc_.select({id}), emit doc_.wantsShown(id);
  } else if (what == "keep" && found_ && found_->done) {
    SizingSetup next = setup;
    KeptSizes kept{.name = tr("Proposal %1").arg(setup.kept.size() + 1).toStdString()};
    for (std::size_t r = 0; r < found_->task.rows.size(); ++r)
      for (const Id id : found_->task.rows[r].lines)
        kept.sizes.push_back({id, found_->task.rows[r].sizes[found_->proposal.choice[r]]->name()});
    next.kept.push_back(std::move(kept));
    doc_.takeModel(withSizing(doc_.model(), tr("Keep a proposal").toStdString(), std::move(next)));
    // The set-up alone changed: what was found is still of this model.
    auto same = std::make_shared<Found>(*found_);
    same->stamp = doc_.history().stamp();
    found_ = same;
  } else if (what == "drop" && at < setup.kept.size()) {
    SizingSetup next = setup;
    next.kept.erase(next.kept.begin() + static_cast<std::ptrdiff_t>(at));
    doc_.takeModel(withSizing(doc_.model(), tr("Drop a kept proposal").toStdString(), std::move(next)));
  } else if (what == "kept" && at < setup.kept.size() && task_) {
    const auto choice = choiceOf(*task_, setup.kept[at].sizes);
    if (!choice) {
      emit doc_.refused(tr("%1 was made of other sizes or other lines than there are to choose from now.")
                            .arg(text(setup.kept[at].name)));
      return;
    }
    work_.begin([this, task = *task_, choice = *choice, stamp = seen_, name = setup.kept[at].name](
                    const Background::Post& post, std::stop_token stop) {
      Judge judge(task, lanes({}));
      SizingProposal p;
      p.choice = choice;
      p.verdict = judge.of(choice, 0, true);
      SizeChoice now;
      for (const SizingRow& r : task.rows)
        if (r.now) now.push_back(static_cast<std::uint16_t>(*r.now));
      if (now.size() == task.rows.size()) p.now = judge.of(now, 0, true);
      p.governed = governedOf(task, judge, choice, p.verdict, {.stop = stop});
      p.how = "kept as " + name;
      auto found = std::make_shared<Found>(Found{task, p, stamp, 0.0, true});
      post([this, found] {
        found_ = found;
        ticks_.assign(found->task.rows.size(), 0);
        for (std::size_t r = 0; r < ticks_.size(); ++r)
          ticks_[r] = found->task.rows[r].now != found->proposal.choice[r];
        ticked_ = found->proposal.verdict;
        showNetwork();
      });
    });
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
    menu->addAction(make("sizing.sheet", tr("Data sheet of the sizing …"), {}, [this] { exportSheet(); }));
    menu->addAction(make("sizing.export", tr("Sizes as a table …"), {}, [this] { exportTable(); }));
    menu->addAction(make("sizing.picture", tr("Figure of the sizes …"), {}, [this] { exportFigure(); }));
  } else if (which == Menu::edit) {
    menu->addAction(
        make("sizing.search", tr("Search sizes for the whole network"), QKeySequence("Ctrl+Shift+S"), [this] {
          if (isVisible()) search();
        }));
    menu->addAction(
        make("sizing.take", tr("Take what is proposed"), QKeySequence("Ctrl+Shift+Return"), [this] {
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
      QFileDialog::getSaveFileName(this, tr("Sizes as a table"), {}, tr("Tables (*.xlsx *.csv)"));
  if (path.isEmpty()) return;
  if (const auto done = writeTable(path.toStdString(), rows_->table()); !done)
    emit doc_.refused(text(done.error().what));
}

void SizingDesk::exportFigure() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Figure of the sizes"), {}, tr("Pictures (*.svg *.png)"));
  if (!path.isEmpty() && !bars_->save(path)) emit doc_.refused(tr("%1 could not be written").arg(path));
}

void SizingDesk::exportSheet() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Data sheet"), {}, tr("Pages (*.pdf *.html)"));
  if (!path.isEmpty()) writeSheet(path);
}

bool SizingDesk::writeSheet(const QString& path) {
  QString why;
  if (!found_ || !found_->done) why = tr("There is no proposal yet to write down.");
  else
    why = writePage(sizingSheet(found_->task, found_->proposal), path, {.title = tr("Sizes"), .wide = true});
  if (!why.isEmpty()) emit doc_.refused(why);
  return why.isEmpty();
}

void SizingDesk::paintPage(QPainter& p, const QRect& page) {
  const double scale =
      std::min(page.width() / static_cast<double>(width()), page.height() / static_cast<double>(height()));
  p.scale(scale, scale);
  render(&p);
}

}  // namespace conduit::desktop

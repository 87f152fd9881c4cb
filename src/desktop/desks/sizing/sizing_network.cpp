// Of the Sizing desk: the whole network.
#include <QElapsedTimer>
#include <QLabel>
#include <cmath>

#include "desks/sizing/proposal_card.h"
#include "desks/sizing/sizing_desk.h"
#include "look/cell_table.h"
#include "look/round_numbers.h"
#include "look/words.h"
#include "model/sizing_setup.h"
#include "plot/bars.h"
#include "plot/plot.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

bool isShort(const DutyMet& d) { return d.then_m3s.value_or(0.0) < d.duty.least_m3s * (1 - 1e-9); }

}  // namespace

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
        tickedDeliveries_ = shown->proposal.delivered;
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
  if (way_ != Way::network || deliveries_ || !found_ || row >= static_cast<int>(ticks_.size())) return;
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
  aside_.begin([this, found = found_, choice](const Background::Post& post, std::stop_token stop) {
    Judge judge(found->task, 1, stop);
    std::vector<DutyMet> delivered;
    const SizingVerdict v = judge.evaluate(choice, 0, {.words = true, .deliveries = &delivered});
    if (v.stopped) return;
    post([this, v, delivered] {
      ticked_ = v;
      tickedDeliveries_ = delivered;
      showNetwork();
    });
  });
}

// What is asked for every taker goes by the cases as they are: solved beside all else.
void SizingDesk::readDuties() {
  if (!task_ || dutiesOf_ == seen_) return;
  duties_.begin([this, task = task_, stamp = seen_](const Background::Post& post, std::stop_token stop) {
    const Judge judge(*task, 1, stop);
    if (stop.stop_requested()) return;
    auto duties = judge.duties();
    post([this, duties = std::move(duties), stamp] {
      dutiesOf_ = stamp;
      setup_->showDuties(duties);
    });
  });
}

// "Gun 4  12.0 → 11.8  98.3 %"; `who` is marked-up text.
QString SizingDesk::deliveryRow(const QString& who, double now, double then, bool fallsShort) const {
  const auto flow = [&](double si) { return text(asNumber(si, Measure::volumeFlow, doc_.units(), 3)); };
  const QString share = text(digits(now > 0 ? then / now * 100 : 100.0, 3)) + " %";
  return QString("<tr><td>%1</td><td align='right'>%2</td><td align='right'>%3</td></tr>")
      .arg(who, flow(now) + QString::fromUtf8(" → ") + flow(then),
           fallsShort ? span(look_.warning, QString::fromUtf8("▲ ") + share) : "<b>" + share + "</b>");
}
QString SizingDesk::deliveryRows(const QString& rows) const {
  return QString("<p style='color:%1'>%2</p><table width='100%' cellpadding='2' cellspacing='0'>%3</table>")
      .arg(look_.ink2.name(),
           tr("Deliveries, %1, lowest first").arg(text(doc_.units().unitFor(Measure::volumeFlow).symbol)),
           rows);
}

// The worst of them for the card, and the way to all.
QString SizingDesk::deliveriesSaid(const std::vector<DutyMet>& delivered) const {
  const SizingTask* task = found_ ? &found_->task : nullptr;
  if (!task || delivered.empty()) return {};
  QString rows;
  std::size_t shown = 0;
  for (const DutyMet& d : delivered) {
    if (d.duty.now_m3s <= 0 || shown == 3) continue;
    ++shown;
    const Element* e = task->model.drawn.find(d.duty.taker);
    const Case* in = task->model.cases.find(d.duty.id);
    rows += deliveryRow(
        (e ? text(e->name) : QString()).toHtmlEscaped() +
            (task->cases.size() > 1 && in ? span(look_.ink2, ", " + text(in->name).toHtmlEscaped())
                                          : QString()),
        d.duty.now_m3s, d.then_m3s.value_or(0.0), isShort(d));
  }
  if (rows.isEmpty()) return {};
  const std::string unknown = unknownDeliveriesSaid(*task, delivered);
  return deliveryRows(rows) +
         (deliveries_ ? linkTo("lines", tr("show the lines"))
                      : linkTo("deliveries", tr("show all %1").arg(delivered.size()))) +
         (unknown.empty() ? QString() : "<br>" + span(look_.warning, text(unknown).toHtmlEscaped() + "."));
}

// In place of the lines: by case and taker, the worst first.
void SizingDesk::showDeliveries(const std::vector<DutyMet>& delivered) {
  const Page::Table table = deliveriesTable(found_->task, delivered);
  constexpr int widths[] = {100, 106, 80, 84, 78, 84, 0};
  constexpr Cell::Ink inks[] = {Cell::Ink::strong, Cell::Ink::quiet, Cell::Ink::quiet, Cell::Ink::strong,
                                Cell::Ink::plain,  Cell::Ink::plain, Cell::Ink::quiet};
  std::vector<CellColumn> columns;
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    QString head = text(table.columns[c]);
    head[0] = head[0].toUpper();
    columns.push_back({head, c < 2 || c == 6, widths[c]});
  }
  std::vector<std::vector<Cell>> cells;
  for (std::size_t r = 0; r < table.rows.size(); ++r) {
    std::vector<Cell> line;
    for (std::size_t c = 0; c < table.columns.size(); ++c)
      line.push_back({.text = text(table.rows[r][c]), .ink = inks[c]});
    if (isShort(delivered[r])) line[4].ink = Cell::Ink::warning;
    cells.push_back(std::move(line));
  }
  rows_->display(std::move(columns), std::move(cells));
}

void SizingDesk::judgeKept() {
  kept_.assign(doc_.model().of<SizingSetup>().kept.size(), std::nullopt);
  if (kept_.empty() || !task_) return;
  aside_.begin([this, task = task_](const Background::Post& post, std::stop_token stop) {
    Judge judge(*task, 1, stop);
    const auto& all = task->model.of<SizingSetup>().kept;
    for (std::size_t k = 0; k < all.size() && !stop.stop_requested(); ++k)
      if (const auto choice = choiceOf(*task, all[k].sizes)) {
        const SizingVerdict v = judge.evaluate(*choice, 0);
        if (v.stopped) return;
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
  if (way_ != Way::network || !found_ || !found_->done) return;
  if (deliveries_) {
    if (row >= static_cast<int>(tickedDeliveries_.size())) return;
    const Id taker = tickedDeliveries_[static_cast<std::size_t>(row)].duty.taker;
    if (doc_.network().find(taker)) doc_.select({taker});
    return;
  }
  if (row >= static_cast<int>(found_->task.rows.size())) return;
  const auto r = static_cast<std::size_t>(row);
  aside_.begin([this, found = found_, r](const Background::Post& post, std::stop_token stop) {
    Judge judge(found->task, lanes({}), stop);
    const auto verdicts = runJobs(found->task.rows[r].sizes.size(),
                                  [&](std::size_t s, std::size_t lane, std::stop_token) {
                                    SizeChoice c = found->proposal.choice;
                                    c[r] = static_cast<std::uint16_t>(s);
                                    return judge.evaluate(c, lane, true);
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
  const bool mass = task.options.objective == Objective::mass;
  BarsData data;
  if (mass) data.kinds = {tr("mass, kg")};
  else data.kinds = {tr("pipe, installed"), tr("maintenance"), tr("energy above minimum")};
  // Energy is of the whole network: what a size takes more than the best of them.
  double least = 1e300;
  for (const SizingVerdict& v : verdicts)
    if (v.keeps()) least = std::min(least, v.energyCost + v.pumps);
  const std::size_t chosen = found_->proposal.choice[r];
  const std::size_t first = chosen > 4 ? chosen - 3 : 0, last = std::min(verdicts.size(), first + 7);
  for (std::size_t s = first; s < last; ++s) {
    const SizingVerdict& v = verdicts[s];
    Bar bar{.name = sizeShort(task, *row.sizes[s]), .can = v.keeps(), .chosen = s == chosen};
    const double laid = row.laid[s];
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
      bar.why = brokenShort(v.worst->label(), e);
    }
    data.bars.push_back(std::move(bar));
  }
  bars_->display(std::move(data));
  title_->setText(
      QString("<b>%1</b>&nbsp;&nbsp; %2&nbsp;&nbsp;&nbsp; %3")
          .arg(text(linesSaid(task, row)).toHtmlEscaped(),
               span(look_.ink2,
                    mass ? tr("rest as proposed")
                         : tr("over %1 years, rest as proposed").arg(task.prices.years, 0, 'g', 3)),
               bars_->legend()));
}

// ", least delivery 98 %", of what is ticked; nothing where all get what they have.
QString SizingDesk::leastDelivered() const {
  for (const DutyMet& d : tickedDeliveries_)
    if (d.duty.now_m3s > 0)
      return d.share() < 0.9995 ? "\n" + tr("deliveries from %1 %").arg(text(digits(d.share() * 100, 3)))
                                : QString();
  return {};
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
    card_->show("<b>" + tr("Nothing to size") + "</b><br>" + sentence(noTask_) + "." +
                    (doc_.model().of<SizingSetup>().ranges.empty()
                         ? "<p>" +
                               span(look_.ink2, tr("Lines with only a bore need available sizes: add some on "
                                                   "the left, such as ASME B36.10M 40.")) +
                               "</p>"
                         : QString()),
                {});
    return;
  }
  const int at = table_->row();
  const bool older = found_ && found_->stamp != doc_.history().stamp();
  const SizingProposal* p = found_ ? &found_->proposal : nullptr;
  const bool mass = task->options.objective == Objective::mass;
  std::vector<CellColumn> columns{{tr("Line"), true, 94},
                                  {tr("Now"), true, 70},
                                  {tr("Proposed"), true, 78},
                                  {tr("Governed by"), true, 0},
                                  {mass ? tr("kg now") : tr("Cost now"), false, 76},
                                  {tr("proposed"), false, 76},
                                  {tr("apply"), false, 46}};
  std::vector<std::vector<Cell>> cells;
  std::size_t unchanged = 0, count = 0;
  double ways = 0.0;
  std::size_t lines = 0;
  for (std::size_t r = 0; r < task->rows.size(); ++r) {
    const SizingRow& row = task->rows[r];
    ways += std::log10(static_cast<double>(row.sizes.size()));
    lines += row.lines.size();
    const auto cost = [&](std::size_t s, Cell::Ink ink) {
      const PipeSize& size = *row.sizes[s];
      const bool known = mass ? size.mass_kgm.has_value() : size.costPerMetre.has_value();
      const double sum = !known ? 0.0 : mass ? *size.mass_kgm * row.length_m : row.laid[s];
      return Cell{.text = known ? money(sum) : QString::fromUtf8("–"),
                  .number = known ? std::optional(sum) : std::nullopt,
                  .ink = ink};
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
               .tip = now ? text(now->name()) : tr("not an available size")};
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
    line[4] = now ? cost(*row.now, Cell::Ink::quiet)
                  : Cell{.text = QString::fromUtf8("–"), .ink = Cell::Ink::quiet};
    if (then) line[5] = cost(p->choice[r], changes ? Cell::Ink::strong : Cell::Ink::plain);
    if (changes) line[6] = {.ticked = ticks_[r] != 0};
    cells.push_back(std::move(line));
  }
  if (found_ && found_->proposal.delivered.empty()) deliveries_ = false;
  if (deliveries_ && found_) showDeliveries(tickedDeliveries_);
  else rows_->display(std::move(columns), std::move(cells));
  if (at >= 0 && at < rows_->rowCount()) {
    const QSignalBlocker still(table_);
    table_->selectRow(at);
  }
  story_->setText(
      span(look_.ink2, tr("%1 lines, %2 rows, 1e%3 combinations%4")
                           .arg(lines)
                           .arg(task->rows.size())
                           .arg(ways, 0, 'f', 0)
                           .arg(unchanged > 0 ? tr(", %1 unchanged").arg(unchanged) : QString())));
  const bool running = work_.running();
  // The card.
  QString above = QString("<span style='font-size:17px'><b>%1</b></span> ").arg(tr("Proposal"));
  const QString quiet = look_.ink2.name();
  if (!p) {
    above += "<br>" + (running ? tr("Evaluating the first selections …")
                               : tr("None yet. The search solves the whole network for each selection in %1.")
                                     .arg(task->cases.size() == 1 ? tr("one case")
                                                                  : tr("%1 cases").arg(task->cases.size())));
    if (task->left.size() > 0 && !running)
      above += "<br>" + span(look_.ink2, tr("%1 lines are fixed.").arg(task->left.size()));
    card_->show(above, {});
    card_->showCourse(nullptr);
    card_->showTake({}, false);
    card_->showSearch(running ? tr("Stop") : tr("Search sizes"));
    bars_->display({});
    title_->clear();
    return;
  }
  above += span(look_.ink2, p->judged > 0 ? tr("%1 s, %2 evaluations")
                                                .arg(found_->seconds, 0, 'f', 1)
                                                .arg(shortNumber(static_cast<double>(p->judged), 7))
                                          : tr("%1 s").arg(found_->seconds, 0, 'f', 1));
  if (older) above += "<br>" + span(look_.warning, tr("Out of date: the model has changed."));
  if (running) above += "<br>" + span(look_.water, tr("Searching; best so far."));
  QString says;
  if (p->now && p->now->objective > 0) {
    const double by = 1 - p->verdict.objective / p->now->objective;
    const QString what = mass ? tr("Weighs") : tr("Costs");
    const QString than = task->options.objective == Objective::wholeLife
                             ? tr("over %1 years than the present sizes").arg(task->prices.years, 0, 'g', 3)
                             : tr("than the present sizes");
    says = std::abs(by) < 5e-4 ? tr("%1 the same as the present sizes").arg(what)
                               : QString("%1 %2 % %3 %4")
                                     .arg(what)
                                     .arg(std::abs(by) * 100, 0, 'f', std::abs(by) < 0.1 ? 1 : 0)
                                     .arg(by > 0 ? tr("less") : tr("more"), than);
    const QString met =
        p->verdict.notJudged.empty() ? tr("meets all limits") : tr("meets all limits that could be judged");
    says += p->verdict.keeps()
                ? tr(" and %1%2.").arg(met, p->now->keeps() ? QString() : tr("; the present sizes do not"))
                : QString(".");
  } else {
    says = !p->verdict.keeps()            ? QString()
           : p->verdict.notJudged.empty() ? tr("Meets all limits.")
                                          : tr("Meets all limits that could be judged.");
  }
  if (!p->noneCan.empty()) says += " " + span(look_.warning, text(noneSaid(*p)).toHtmlEscaped() + ".");
  else if (!p->verdict.keeps())
    says += " " + span(look_.warning, tr("No selection found that meets all limits."));
  for (const std::string& said :
       {notJudgedSaid(p->verdict), conflictSaid(*task, *p), smallestSaid(*task, *p),
        energySaid(*task, p->verdict), hoursSaid(*task, p->verdict), narrowingsSaid(*p),
        stayingSaid(*task, p->staying), madeUpSaid(*task), leftOutSaid(*task)})
    if (!said.empty()) says += "<br>" + span(look_.ink2, text(said).toHtmlEscaped() + ".");
  if (!p->notCounted.empty())
    says += "<br>" + span(look_.ink2, text(notCountedSaid(p->notCounted)).toHtmlEscaped() + ". ") +
            (older || !found_->done ? QString() : linkTo("cones", tr("count a 30° cone there")));
  above += "<p>" + says + "</p>" + totals(p->now ? &*p->now : nullptr, &p->verdict) +
           deliveriesSaid(found_->done ? tickedDeliveries_ : std::vector<DutyMet>());
  above += QString("<p style='color:%1'>%2</p>").arg(quiet, tr("Optimality"));
  if (p->proved) {
    above += "<p><b>" + tr("Proven optimum.") + "</b></p>";
  } else if (!p->noneCan.empty()) {
    above += "<p>" + tr("Closest found to meeting all limits.") + "</p>";
  } else if (p->bound && !p->verdict.keeps()) {
    above += "<p>" + tr("Lower bound with all limits met: %1.").arg(money(*p->bound)) + "</p>";
  } else if (p->bound) {
    const double gap = p->verdict.objective / *p->bound - 1;
    above += "<table width='100%' cellpadding='2' cellspacing='0'><tr><td>" + tr("Lower bound") +
             "</td><td align='right'><b>" + money(*p->bound) + "</b></td></tr><tr><td>" +
             tr("this proposal, at most") +
             QString("</td><td align='right'><b>%1</b></td></tr></table>")
                 .arg(gap < 2 ? tr("%1 % above optimum").arg(gap * 100, 0, 'f', gap < 0.1 ? 1 : 0)
                              : tr("%1 times optimum").arg(1 + gap, 0, 'f', 1)) +
             (gap > 0.3 ? span(look_.ink2, tr("Weak bound: the true gap may be much smaller.")) : QString());
  } else {
    above += "<p>" +
             tr("No lower bound%1.")
                 .arg(p->noBound.empty() ? QString() : ": " + text(p->noBound).toHtmlEscaped()) +
             "</p>";
  }
  if (p->two) {
    QStringList each;
    for (std::size_t k = 0; k < p->two->lines.size() && k < 6; ++k)
      each << text(twoSaid(*task, p->two->lines[k])).toHtmlEscaped();
    if (p->two->lines.size() > 6) each << tr("and %1 more").arg(p->two->lines.size() - 6);
    above += "<p>" + text(twoSaid(*task, *p)).toHtmlEscaped() +
             (!older ? ": " + linkTo("two", tr("apply")) : QString(".")) + "<br>" +
             span(look_.ink2, each.join("<br>")) + "</p>";
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
    course.xLabel = scale < 1 ? tr("trials (best cost in thousands)") : tr("trials (best cost)");
    course.now = NAN;
  }
  card_->showCourse(moves ? &course : nullptr);
  QString below;
  const SizingVerdict& judged = ticked_ ? *ticked_ : p->verdict;
  if (judged.worst && judged.violation > 0) {
    below += QString("<p style='color:%1'>%2</p><p>%3</p>")
                 .arg(quiet, tr("Not met"),
                      span(look_.warning,
                           QString::fromUtf8("▲ ") + text(brokenSaid(*task, *judged.worst)).toHtmlEscaped()) +
                          (judged.worst->what.empty() ? QString()
                                                      : "<br>" + text(judged.worst->what).toHtmlEscaped()));
    if (judged.worst->element != noId)
      below += linkTo(QString("show:%1").arg(judged.worst->element), tr("show"));
  }
  if (found_->done) {
    below += "<p>" + linkTo("keep", tr("Save for comparison")) + "</p>";
    below += "<p>" + span(look_.ink2, text(p->how).toHtmlEscaped()) + "</p>";
  }
  const auto& kept = doc_.model().of<SizingSetup>().kept;
  if (!kept.empty()) {
    below += QString("<p style='color:%1'>%2</p><table width='100%' cellpadding='2' cellspacing='0'>")
                 .arg(quiet, tr("Saved proposals"));
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
    QString words = count == 0   ? tr("Nothing selected")
                    : count == 1 ? tr("Apply the selected row")
                                 : tr("Apply %1 selected").arg(count);
    if (count > 0)
      words += "\n" + (!ticked_ ? tr("solving …")
                       : ticked_->keeps()
                           ? tr("meets all limits, %1%2").arg(money(ticked_->objective), leastDelivered())
                       : !ticked_->balanced ? tr("no solution")
                                            : tr("limit not met, %1").arg(money(ticked_->objective)));
    card_->showTake(words, count > 0);
  }
  card_->showSearch(running     ? tr("Stop, keep the best")
                    : older     ? tr("Search again")
                    : p->proved ? QString()
                                : tr("Continue search"));
}

}  // namespace conduit::desktop

// Of the Sizing desk: one line, and balance.
#include <QComboBox>
#include <QLabel>
#include <cmath>
#include <functional>

#include "desks/sizing/proposal_card.h"
#include "desks/sizing/sizing_desk.h"
#include "look/cell_table.h"
#include "look/choices.h"
#include "look/words.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "plot/bars.h"
#include "plot/plot.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {

// Pipes that are selected, else the first there is.
std::vector<Id> SizingDesk::linesLooked() const {
  std::vector<Id> lines;
  for (const Id id : doc_.selection())
    if (const Element* e = id == jobId ? nullptr : doc_.model().drawn.find(id); e && e->part->line)
      lines.push_back(id);
  if (lines.empty()) {
    for (const Id id : lineIds_)
      if (const Element* e = doc_.model().drawn.find(id); e && e->part->line) lines.push_back(id);
  }
  if (lines.empty())
    doc_.model().drawn.each([&](Id id, const Element& e) {
      if (lines.empty() && e.part->line) lines.push_back(id);
    });
  return lines;
}

void SizingDesk::offerLines() {
  if (way_ != Way::line) return;
  std::vector<std::pair<QString, QVariant>> all;
  doc_.model().drawn.each([&](Id id, const Element& e) {
    if (e.part->line && all.size() < 5000) all.push_back({text(e.name), id});
  });
  const auto lines = linesLooked();
  offer(*which_, all, lines.empty() ? QVariant() : QVariant(lines.front()));
}

void SizingDesk::studyLine() {
  const auto lines = linesLooked();
  const std::uint64_t stamp = doc_.history().stamp();
  if (lines.empty()) {
    line_.reset(), lineIds_.clear();
    noLine_ = tr("No line in this network.");
    return;
  }
  if (line_ && lines == lineIds_ && lineStamp_ == stamp) return;
  const bool other = lines != lineIds_;
  lineIds_ = lines, lineStamp_ = stamp;
  if (other) line_.reset(), exact_.clear();
  noLine_.clear();
  aside_.begin([this, model = doc_.model(), lines, in = doc_.currentCase(), stock = doc_.sharedStock(),
                units = doc_.units()](const Background::Post& post, std::stop_token stop) {
    auto found =
        sizesOfLine(model, in, lines, optionsOf(model.of<SizingSetup>()), stock, units, {.stop = stop});
    if (stop.stop_requested()) return;
    post([this, found = std::move(found)] {
      if (found) line_ = *found;
      else line_.reset(), noLine_ = text(found.error().what);
      if (way_ == Way::line) {
        const int kept = table_->row();
        showLine();
        // The size it has is the one that is marked at first.
        if (kept < 0 && line_)
          for (std::size_t i = 0; i < line_->sizes.size(); ++i)
            if (line_->sizes[i].now) table_->selectRow(static_cast<int>(i));
      }
    });
  });
}

namespace {

// Three figures, three decimals at most: what a wide line loses is next to nothing.
QString asSmall(double value) {
  const double size = std::abs(value);
  if (size >= 0.1 || size == 0) return text(digits(value, 3));
  return (value < 0 ? QString::fromUtf8("−") : QString()) +
         (size < 5e-4 ? QString("<0.001") : QString::number(size, 'f', 3));
}

}  // namespace

void SizingDesk::showLine() {
  card_->showCourse(nullptr);
  card_->showSearch({});
  const UnitSet& units = doc_.units();
  if (!line_) {
    rows_->display({}, {});
    bars_->display({});
    title_->clear();
    story_->clear();
    card_->showTake({}, false);
    card_->show(noLine_.isEmpty() ? span(look_.ink2, tr("Solving every size …"))
                                  : "<b>" + tr("No sizes to show") + "</b><br>" + noLine_.toHtmlEscaped(),
                {});
    return;
  }
  const OneLine& l = *line_;
  const Network& n = doc_.model().drawn;
  const auto unit = [&](Measure m) { return text(units.unitFor(m).symbol); };
  // What is shown, and the number in all its digits.
  using Said = std::pair<QString, std::optional<double>>;
  const auto shown = [](std::optional<double> v, auto asText) -> Said {
    return {v ? asText(*v) : QString::fromUtf8("–"), v};
  };
  const auto in = [&](std::optional<double> v, Measure m) {
    return v ? std::optional(inUnit(*v, units.unitFor(m))) : std::nullopt;
  };
  const auto say = [&](std::optional<double> v, Measure m) {
    return shown(in(v, m), [](double value) { return text(digits(value, 3)); });
  };
  const auto small = [&](std::optional<double> v, Measure m) { return shown(in(v, m), asSmall); };
  const int at = table_->row();
  // Columns that would say nothing are left out: the limits at the right are to stay in sight.
  const bool suction = std::any_of(l.sizes.begin(), l.sizes.end(),
                                   [](const LineSize& s) { return s.leastMargin_m.has_value(); });
  const Prices prices = pricesOf(doc_.model().costs);
  // With a pump and interest there are most: each then as wide as its numbers, so that nothing is cut off.
  const bool many = suction && prices.interest > 0 && !eachCost_;
  // A schedule that all have is said once.
  const std::string schedule = l.sizes.empty() ? std::string() : l.sizes.front().size->schedule;
  const bool one = std::all_of(l.sizes.begin(), l.sizes.end(),
                               [&](const LineSize& s) { return s.size->schedule == schedule; });
  std::vector<CellColumn> columns{
      {one && !schedule.empty() ? tr("Size, %1").arg(text(schedule)) : tr("Size"), true, many ? 64 : 0}};
  std::vector<std::function<Said(const LineSize&)>> told;  // of each column between size and limits
  const auto tell = [&](const QString& head, int width, std::function<Said(const LineSize&)> of,
                        const QString& tip = {}) {
    columns.push_back({head, false, width, tip});
    told.push_back(std::move(of));
  };
  const auto cost = [&](const QString& head, int width, double SizingVerdict::*of, const QString& tip) {
    tell(
        head, width,
        [this, of, shown](const LineSize& s) {
          return shown(s.verdict.laid > 0 ? std::optional(s.verdict.*of) : std::nullopt,
                       [this](double value) { return money(value); });
        },
        tip);
  };
  tell(unit(Measure::velocity), many ? 54 : 57,
       [&](const LineSize& s) { return small(s.velocity_ms, Measure::velocity); });
  if (!eachCost_)
    tell(tr("10³ Re"), many ? 53 : 56, [&](const LineSize& s) {
      return shown(s.reynolds ? std::optional(*s.reynolds / 1000) : std::nullopt,
                   [](double value) { return text(digits(value, 3)); });
    });
  tell(tr("loss, %1").arg(unit(Measure::headDrop)), 62,
       [&](const LineSize& s) { return small(s.loss_m, Measure::headDrop); });
  if (!eachCost_) {
    tell(tr("m/100 m"), many ? 64 : 66, [&](const LineSize& s) {
      return shown(s.gradient ? std::optional(*s.gradient * 100) : std::nullopt, asSmall);
    });
    tell(tr("end, %1").arg(unit(Measure::gaugePressure)), many ? 70 : 74,
         [&](const LineSize& s) { return say(s.endPressure_pa, Measure::gaugePressure); });
    if (suction)
      tell(tr("NPSH, %1").arg(unit(Measure::headDrop)), many ? 63 : 64,
           [&](const LineSize& s) { return say(s.leastMargin_m, Measure::headDrop); });
  }
  cost(many ? tr("inst.") : tr("installed"), 60, &SizingVerdict::laid, tr("installed cost"));
  if (eachCost_) {
    cost(tr("pumps"), 64, &SizingVerdict::pumps, tr("cost of pumps"));
    cost(tr("maint."), 64, &SizingVerdict::upkeep, tr("maintenance"));
    cost(tr("energy"), 72, &SizingVerdict::energyCost, tr("energy cost"));
  }
  cost(tr("whole-life"), 72, &SizingVerdict::wholeLife, tr("whole-life cost"));
  if (prices.interest > 0) cost(tr("undisc."), 72, &SizingVerdict::plainSum, tr("undiscounted total"));
  columns.push_back({tr("Limits"), true, many ? 71 : 100});
  std::vector<std::vector<Cell>> cells;
  BarsData data;
  data.kinds = {tr("pipe, installed"), tr("maintenance"), tr("energy above minimum")};
  // Energy and pumps are of the whole network: what a size takes more than the best of them.
  double least = 1e300, leastPumps = 1e300, mostPumps = 0.0;
  for (const LineSize& s : l.sizes)
    if (!s.breaksMore) {
      least = std::min(least, s.verdict.energyCost);
      leastPumps = std::min(leastPumps, s.verdict.pumps), mostPumps = std::max(mostPumps, s.verdict.pumps);
    }
  const bool withPumps = mostPumps > leastPumps;
  if (withPumps) data.kinds.push_back(tr("pumps above minimum"));
  std::size_t first = 0;
  if (l.sizes.size() > 7) {
    std::size_t middle = l.cheapest.value_or(0);
    for (std::size_t i = 0; i < l.sizes.size(); ++i)
      if (l.sizes[i].now && !l.cheapest) middle = i;
    first = std::min(middle > 3 ? middle - 3 : 0, l.sizes.size() - 7);
  }
  for (std::size_t i = 0; i < l.sizes.size(); ++i) {
    const LineSize& s = l.sizes[i];
    const SizingVerdict& v = s.verdict;
    const bool breaks = s.breaksMore, cheapest = l.cheapest == i;
    const Cell::Ink ink = breaks ? Cell::Ink::quiet : cheapest ? Cell::Ink::strong : Cell::Ink::plain;
    QString name = text(s.size->nominal) + (one ? QString() : " " + text(s.size->schedule));
    if (s.now) name += tr(", now");
    else if (cheapest && !many) name += tr(", cheapest");  // of the present size its ink and the card say it
    std::vector<Cell> row{{.text = name, .ink = ink, .tip = text(s.size->name())}};
    for (const auto& of : told) {
      auto [words, number] = of(s);
      row.push_back({.text = std::move(words), .number = number, .ink = ink});
    }
    Cell limits{.text = v.keeps() ? tr("met") : tr("not met"),
                .ink = v.keeps() ? Cell::Ink::quiet
                       : breaks  ? Cell::Ink::warning
                                 : Cell::Ink::plain};
    if (v.worst && !v.keeps()) {
      const Case* which = doc_.model().cases.find(v.worst->id);
      const Element* e = v.worst->element == noId ? nullptr : n.find(v.worst->element);
      limits.text = many ? text(v.worst->label()).section(' ', 0, 0) : text(v.worst->label());
      limits.tip = (e ? text(e->name) + ", " : QString()) + (which ? text(which->name) + ": " : QString()) +
                   text(v.worst->what);
      if (!breaks) limits.tip = tr("as with the present size; ") + limits.tip;
    }
    if (s.leastDelivery && s.leastDelivery->share() < 0.9995) {
      const Element* e = n.find(s.leastDelivery->duty.taker);
      limits.tip += (limits.tip.isEmpty() ? QString() : "\n") +
                    tr("%1 would get %2 % of its present flow")
                        .arg(e ? text(e->name) : QString())
                        .arg(text(digits(std::max(0.0, s.leastDelivery->share()) * 100, 3)));
    }
    row.push_back(std::move(limits));
    cells.push_back(std::move(row));
    if (i < first || i >= first + 7 || v.laid <= 0) continue;
    Bar bar{.name = text(s.size->nominal),
            .under = cheapest ? tr("cheapest")
                     : s.now  ? tr("now")
                              : QString(),
            .can = !breaks,
            .chosen = cheapest};
    bar.shares = {v.laid, v.laid * prices.upkeep * prices.upkeepWorth,
                  v.balanced ? std::max(0.0, v.energyCost - least) : 0.0};
    if (withPumps) bar.shares.push_back(v.balanced ? std::max(0.0, v.pumps - leastPumps) : 0.0);
    double sum = 0.0;
    for (const double share : bar.shares) sum += share;
    bar.total = money(sum);
    if (v.worst && breaks) {
      const Element* e = v.worst->element == noId ? nullptr : n.find(v.worst->element);
      bar.why = brokenShort(v.worst->label(), e);
    }
    data.bars.push_back(std::move(bar));
  }
  rows_->display(std::move(columns), std::move(cells));
  if (at >= 0 && at < rows_->rowCount()) {
    const QSignalBlocker still(table_);
    table_->selectRow(at);
  }
  bars_->display(std::move(data));
  QStringList names;
  for (const Id id : l.lines)
    if (const Element* e = n.find(id)) names << text(e->name);
  const QString name = names.size() > 3
                           ? names.mid(0, 3).join(", ") + tr(" and %1 more").arg(names.size() - 3)
                           : names.join(", ");
  title_->setText(QString("<b>%1</b>&nbsp;&nbsp; %2&nbsp;&nbsp;&nbsp; %3")
                      .arg(name.toHtmlEscaped(),
                           span(look_.ink2, tr("over %1 years, rest unchanged").arg(prices.years, 0, 'g', 3)),
                           bars_->legend()));
  story_->setText(
      span(look_.ink2, tr("in %1 · ")
                           .arg(task_ && task_->cases.size() > 1 ? tr("%1 cases").arg(task_->cases.size())
                                                                 : tr("one case"))) +
      linkTo("each", eachCost_ ? tr("flow") : tr("each cost")) +
      (l.folded.empty() ? QString() : span(look_.ink2, tr(" · %1 sizes left out").arg(l.folded.size()))));
  const LineSize* marked = table_->row() >= 0 && table_->row() < static_cast<int>(l.sizes.size())
                               ? &l.sizes[static_cast<std::size_t>(table_->row())]
                               : nullptr;
  const LineSize *now = nullptr, *cheapest = l.cheapest ? &l.sizes[*l.cheapest] : nullptr;
  for (const LineSize& s : l.sizes)
    if (s.now) now = &s;
  QString above = QString("<span style='font-size:17px'><b>%1</b></span><br>").arg(name.toHtmlEscaped());
  if (cheapest)
    above += cheapest == now
                 ? tr("The present size is the cheapest with no further limit not met.")
                 : tr("%1 is the cheapest with no further limit not met.").arg(text(cheapest->size->name()));
  else above += tr("No size meets the limits that are met now.");
  const LineSize* then = marked && marked != now ? marked : cheapest;
  above += "<p>" + totals(now ? &now->verdict : nullptr, then ? &then->verdict : nullptr) + "</p>";
  above += QString("<p style='color:%1'>%2</p>").arg(look_.ink2.name(), tr("Economic bore at this flow"));
  if (l.economic) {
    const EconomicBore& e = *l.economic;
    above += QString("<b>%1</b>").arg(text(withUnit(e.bore_m, Measure::bore, units, 4)));
    if (e.below || e.above)
      above += tr(", between %1 and %2")
                   .arg(e.below ? text(e.below->nominal) : tr("none"),
                        e.above ? text(e.above->nominal) : tr("none"));
    above +=
        "<br>" + span(look_.ink2,
                      QString::fromUtf8("(5 B/(m a))<sup>1/(m+5)</sup> = (5·%1/(%2·%3))<sup>1/(%2+5)</sup> m")
                          .arg(text(digits(e.b, 4)), text(digits(e.m, 4)),
                               text(digits(e.a * (1 + prices.upkeep * prices.upkeepWorth), 4))));
    above += "<br>" + span(look_.ink2, tr("installed cost per metre a Dᵐ, a incl. maintenance; pumping B/D⁵, "
                                          "B = 8 f ρ Q³/(π² η) · tariff · hours · present-value factor"));
  } else {
    above += span(look_.ink2, tr("none: %1").arg(text(l.whyNoEconomic).toHtmlEscaped()));
  }
  if (task_ && now)
    if (const std::string said = energySaid(*task_, now->verdict); !said.empty())
      above += "<p>" + span(look_.ink2, text(said).toHtmlEscaped() + ".") + "</p>";
  card_->showGoal(tr("Exact bore for"), tr("velocity 1.5 m/s;  N-3 pressure 2 bar"));
  card_->showTake(marked && !marked->now ? tr("Use %1").arg(text(marked->size->name())) +
                                               (marked->verdict.keeps() ? "\n" + tr("meets all limits")
                                                : marked->breaksMore    ? "\n" + tr("limit not met")
                                                                     : "\n" + tr("no further limit not met"))
                  : marked ? tr("Present size")
                           : tr("Select a size"),
                  marked && !marked->now);
  card_->show(above, exact_);
}

void SizingDesk::typedGoal(const QString& words) {
  const auto lines = linesLooked();
  card_->refuseGoal({});
  exact_.clear();
  if (words.isEmpty() || lines.empty()) return showLine();
  const Network& n = doc_.network();
  const auto goal = boreGoal(words.toStdString(), n, lines.front(), doc_.units());
  if (!goal) {
    card_->refuseGoal(sentence(goal.error().what) + ".");
    return;
  }
  aside_.begin([this, n, line = lines.front(), goal = *goal, stock = doc_.sharedStock(), units = doc_.units(),
                words](const Background::Post& post, const std::stop_token& stop) {
    const auto bore = exactBore(n, line, goal.element, goal.outcome, goal.wanted, stock, units, stop);
    if (stop.stop_requested()) return;
    post([this, bore, words, units] {
      if (bore)
        exact_ = "<p>" +
                 tr("%1: a bore of %2")
                     .arg(words.toHtmlEscaped(),
                          "<b>" + text(withUnit(bore->bore_m, Measure::bore, units, 5)) + "</b>") +
                 (bore->below || bore->above ? tr(", between %1 and %2")
                                                   .arg(bore->below ? text(bore->below->name()) : tr("none"),
                                                        bore->above ? text(bore->above->name()) : tr("none"))
                                             : QString()) +
                 "</p>";
      else
        exact_ = "<p>" +
                 span(look_.warning, QString::fromUtf8("▲ ") + text(bore.error().what).toHtmlEscaped()) +
                 "</p>";
      if (way_ == Way::line) showLine();
    });
  });
}

// ---- balance

void SizingDesk::studyBalance() {
  valves_.clear();
  const Network& n = doc_.network();
  n.each([&](Id id, const Element& e) {
    if (e.part->balances) valves_.push_back(id);
  });
  const Medium medium = mediumOf(n, doc_.stock());
  std::vector<BranchFlow> flows;
  for (const BranchGoal& b : doc_.model().of<SizingSetup>().branches)
    if (const Element* e = n.find(b.valve); e && e->part->balances) {
      const auto flow = parseIn(medium, b.flow.typed, Measure::volumeFlow);
      if (flow) flows.push_back({b.valve, *flow});
      else refusedFlows_[b.valve] = text(flow.error().what);
    }
  const std::uint64_t stamp = doc_.history().stamp();
  if (flows_ && flowsStamp_ == stamp) return;
  flowsStamp_ = stamp;
  if (flows.empty()) {
    flows_.reset();
    return;
  }
  aside_.begin([this, n, flows, stock = doc_.sharedStock(), units = doc_.units()](
                   const Background::Post& post, const std::stop_token& stop) {
    auto found = balanceFlows(n, flows, stock, units, stop);
    if (stop.stop_requested()) return;
    post([this, found = std::move(found)] {
      flows_ = found;
      if (way_ == Way::balance) showBalance();
    });
  });
}

void SizingDesk::showBalance() {
  card_->showCourse(nullptr);
  card_->showSearch({});
  const UnitSet& units = doc_.units();
  const Network& n = doc_.network();
  const auto unit = [&](Measure m) { return text(units.unitFor(m).symbol); };
  const auto say = [&](std::optional<double> v, Measure m, int figures = 3) {
    return v ? text(digits(inUnit(*v, units.unitFor(m)), figures)) : QString::fromUtf8("–");
  };
  const int at = table_->row();
  const QString head = unit(Measure::headDrop), flow = unit(Measure::volumeFlow);
  std::vector<CellColumn> columns{
      {tr("Valve"), true, 0},
      {tr("design flow"), false, 92},
      {tr("open, %1").arg(flow), false, 84, tr("flow with every valve wide open")},
      {tr("avail., %1").arg(head), false, 80, tr("available head with all branches at design flow")},
      {tr("drop open"), false, 76, tr("head loss wide open at design flow")},
      {tr("opening"), false, 66},
      {tr("Kv"), false, 54},
      {tr("authority"), false, 70},
      {tr("check, %1").arg(flow), false, 78, tr("check solution with these openings")}};
  BarsData data;
  data.kinds = {tr("drop wide open"), tr("to throttle")};
  data.unit = head;
  std::vector<std::vector<Cell>> cells;
  for (const Id id : valves_) {
    const Element* e = n.find(id);
    if (!e) continue;
    std::vector<Cell> row(9);
    row[0] = {.text = text(e->name), .ink = Cell::Ink::strong};
    const BranchGoal* goal = nullptr;
    for (const BranchGoal& b : doc_.model().of<SizingSetup>().branches)
      if (b.valve == id) goal = &b;
    row[1] = {
        .text = goal ? text(goal->flow.typed) : QString(), .typed = true, .tip = tr("type the design flow")};
    if (const auto why = refusedFlows_.find(id); why != refusedFlows_.end())
      row[1].refused = true, row[1].tip = why->second;
    const BalancedBranch* b = nullptr;
    if (flows_ && flows_->index != noId && goal)
      for (const BalancedBranch& each : flows_->branches)
        if (each.valve == id) b = &each;
    if (b) {
      if (flows_->index == id) row[0].text += tr(", index"), row[0].tip = tr("index circuit");
      if (data.bars.size() < 12) {
        const auto metres = [&](double m) { return inUnit(m, units.unitFor(Measure::headDrop)); };
        Bar bar{.name = text(e->name), .can = b->spare_m >= 0, .chosen = flows_->index == id};
        bar.shares = {metres(b->spare_m >= 0 ? b->wideOpen_m : std::max(0.0, b->there_m)),
                      metres(std::max(0.0, b->spare_m))};
        bar.total = say(b->there_m, Measure::headDrop);
        if (flows_->index == id) bar.under = tr("index");
        if (b->spare_m < 0)
          bar.why = QString::fromUtf8("▲ ") +
                    tr("%1 short").arg(text(withUnit(-b->spare_m, Measure::headDrop, units, 3)));
        data.bars.push_back(std::move(bar));
      }
      const double over = b->without_m3s ? *b->without_m3s / b->flow_m3s - 1 : 0.0;
      row[2] = {.text = b->without_m3s ? say(b->without_m3s, Measure::volumeFlow) +
                                             QString(" %1%2 %")
                                                 .arg(over < 0 ? QString::fromUtf8("−") : "+")
                                                 .arg(std::abs(over) * 100, 0, 'f', 0)
                                       : QString::fromUtf8("–"),
                .ink = Cell::Ink::quiet,
                .tip = tr("with every valve wide open")};
      const auto in = [&](std::optional<double> v, Measure m) {
        return v ? std::optional(inUnit(*v, units.unitFor(m))) : std::nullopt;
      };
      row[3] = {.text = say(b->there_m, Measure::headDrop),
                .number = in(b->there_m, Measure::headDrop),
                .tip = tr("available head with all branches at design flow")};
      row[4] = {.text = say(b->wideOpen_m, Measure::headDrop),
                .number = in(b->wideOpen_m, Measure::headDrop),
                .ink = Cell::Ink::quiet,
                .tip = tr("head loss wide open at design flow")};
      row[5] = {.text = b->opening ? text(digits(*b->opening * 100, 3)) + " %" : tr("too small"),
                .ink = b->opening ? Cell::Ink::strong : Cell::Ink::warning,
                .tip = b->opening ? QString()
                                  : tr("cannot pass its design flow even wide open: %1 short")
                                        .arg(text(withUnit(-b->spare_m, Measure::headDrop, units, 3)))};
      row[6] = {.text = say(b->kv, Measure::flowCoefficient), .number = in(b->kv, Measure::flowCoefficient)};
      row[7] = {
          .text = b->authority ? text(digits(*b->authority, 2)) : QString::fromUtf8("–"),
          .ink = b->authority && *b->authority < 0.3 ? Cell::Ink::warning : Cell::Ink::plain,
          .tip = tr(
              "valve authority: drop wide open at design flow / drop when shut; below 0.3 control is poor")};
      row[8] = {.text = say(b->again_m3s, Measure::volumeFlow, 4),
                .number = in(b->again_m3s, Measure::volumeFlow),
                .ink = Cell::Ink::quiet,
                .tip = tr("check solution with these openings")};
    }
    cells.push_back(std::move(row));
  }
  rows_->display(std::move(columns), std::move(cells));
  if (at >= 0 && at < rows_->rowCount()) {
    const QSignalBlocker still(table_);
    table_->selectRow(at);
  }
  bars_->display(std::move(data));
  title_->setText(QString("<b>%1</b>&nbsp;&nbsp; %2&nbsp;&nbsp;&nbsp; %3")
                      .arg(tr("Available head at each valve"),
                           span(look_.ink2, tr("all branches at design flow")), bars_->legend()));
  lower_->setVisible(!bars_->data().bars.empty());
  story_->setText(span(look_.ink2, doc_.currentCase() == drawingCase
                                       ? QString()
                                       : tr("in %1").arg(text(doc_.caseNow().name).toHtmlEscaped())));
  QString above = QString("<span style='font-size:17px'><b>%1</b></span><br>").arg(tr("Balance"));
  if (valves_.empty()) {
    above += tr("No control valve in this network. Add one to each branch to be balanced.");
    card_->showTake({}, false);
  } else if (!flows_) {
    above +=
        doc_.model().of<SizingSetup>().branches.empty()
            ? tr("Type the design flow of each branch to find the index circuit and every valve opening.")
            : span(look_.ink2, tr("Solving …"));
    card_->showTake({}, false);
  } else if (!flows_->balanced) {
    above += span(look_.warning, QString::fromUtf8("▲ ") + sentence(flows_->why).toHtmlEscaped() + ".");
    for (const Id id : flows_->letGo)
      if (n.find(id))
        above += "<br>" + linkTo(QString("letgo:%1").arg(id),
                                 tr("Clear the design flow of %1").arg(text(n.at(id).name)));
    for (std::size_t i = 0; i < flows_->remedies.size(); ++i)
      above += "<br>" + linkTo(QString("remedy:%1").arg(i), text(flows_->remedies[i].words));
    card_->showTake({}, false);
  } else {
    const Element* index = n.find(flows_->index);
    above += tr("<b>%1</b> is the index circuit: with its valve wide open the supply head can be %2 lower.")
                 .arg(index ? text(index->name).toHtmlEscaped() : QString(),
                      "<b>" + text(withUnit(flows_->save_m, Measure::headDrop, units, 3)) + "</b>");
    if (flows_->save_m < 0)
      above += " " + span(look_.warning,
                          tr("The supply head must be raised by this amount, or the branch is short."));
    above +=
        "<p>" +
        span(look_.ink2,
             flows_->worst < 1e-6
                 ? tr("Check solution: every branch has its design flow.")
                 : tr("Check solution: flows within %1 % of design.").arg(flows_->worst * 100, 0, 'g', 2)) +
        "</p>";
    QString rows;
    std::size_t shown = 0;
    for (const DeliveryChange& d : flows_->deliveries) {
      const Element* e = n.find(d.taker);
      if (!e || d.now_m3s <= 0 || ++shown > 4) continue;
      rows += deliveryRow(text(e->name).toHtmlEscaped(), d.now_m3s, d.then_m3s,
                          flows_->worst >= 1e-6 && !d.kept());
    }
    if (!rows.isEmpty()) above += deliveryRows(rows);
    const int marked = table_->row();
    for (const BalancedBranch& b : flows_->branches) {
      if (marked < 0 || marked >= static_cast<int>(valves_.size()) ||
          b.valve != valves_[static_cast<std::size_t>(marked)])
        continue;
      QStringList instead;
      if (b.orifice_m)
        instead << tr("valve wide open with an orifice plate, bore <b>%1</b> (ISO 5167-2)")
                       .arg(text(withUnit(*b.orifice_m, Measure::bore, units, 3)) +
                            (b.platePipe_m
                                 ? tr(" in %1").arg(text(withUnit(*b.platePipe_m, Measure::bore, units, 3)))
                                 : QString()));
      if (b.setPoint_pa)
        instead << tr("a pressure-reducing valve of the same size, set to <b>%1</b>")
                       .arg(text(withUnit(*b.setPoint_pa, Measure::gaugePressure, units, 3)));
      if (!b.stockValve.empty())
        instead << tr("smallest suitable catalogue valve: <b>%1</b>").arg(text(b.stockValve).toHtmlEscaped());
      if (!instead.isEmpty())
        above += "<p>" +
                 span(look_.ink2, tr("Alternatives for %1:").arg(text(n.at(b.valve).name).toHtmlEscaped())) +
                 "<br>" + instead.join("<br>") + "</p>";
    }
    card_->showTake(tr("Apply %1 openings").arg(flows_->branches.size()), true);
  }
  card_->show(above, {});
}

void SizingDesk::typedCell(int row, const QString& words) {
  if (way_ != Way::balance || row < 0 || row >= static_cast<int>(valves_.size())) return;
  const Id valve = valves_[static_cast<std::size_t>(row)];
  SizingSetup next = doc_.model().of<SizingSetup>();
  std::erase_if(next.branches, [&](const BranchGoal& b) { return b.valve == valve; });
  refusedFlows_.erase(valve);
  if (!words.trimmed().isEmpty()) {
    const auto in = parseIn(mediumOf(doc_.network(), doc_.stock()), words.trimmed().toStdString(),
                            Measure::volumeFlow, &doc_.units().unitFor(Measure::volumeFlow));
    if (!in || !(*in > 0)) {
      refusedFlows_[valve] = in ? tr("enter a flow above zero") : text(in.error().what);
      emit doc_.refused(tr("%1: %2").arg(text(doc_.network().at(valve).name), refusedFlows_[valve]));
      showBalance();
      return;
    }
    next.branches.push_back({valve, *parse(words.trimmed().toStdString(), Measure::volumeFlow,
                                           &doc_.units().unitFor(Measure::volumeFlow))});
  }
  flows_.reset();
  doc_.takeModel(withSizing(doc_.model(), tr("Set a design flow").toStdString(), std::move(next)));
}

}  // namespace conduit::desktop

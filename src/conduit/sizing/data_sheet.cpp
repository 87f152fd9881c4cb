#include "sizing/data_sheet.h"

#include <fmt/format.h>

#include <cctype>

#include "fields/keys.h"
#include "quantity/format.h"
#include "sizing/words.h"

namespace conduit {

Page sizingSheet(const SizingTask& task, const SizingProposal& p) {
  Page page;
  const std::string* title = task.model.drawn.job().text(key::title);
  page.blocks.push_back(Page::Heading{title && !title->empty() ? "Line sizes, " + *title : "Sizes"});
  const std::string_view least = sizing::wanted[static_cast<std::size_t>(task.options.objective)];
  std::string cases;
  for (const CaseId id : task.cases) cases += (cases.empty() ? "" : ", ") + task.model.cases.find(id)->name;
  page.blocks.push_back(
      Page::Sentence{fmt::format("Minimum {} with all limits met in {}: {}.", least,
                                 task.cases.size() == 1 ? "one case" : "all sizing cases", cases)});
  page.blocks.push_back(Page::Sentence{
      p.verdict.keeps()
          ? (p.verdict.notJudged.empty() ? "The proposed sizes meet all limits."
                                         : "The proposed sizes meet all limits that could be judged.")
      : p.verdict.worst
          ? "The proposed sizes do not meet all limits; worst: " + brokenSaid(task, *p.verdict.worst) +
                (p.verdict.worst->what.empty() ? "." : " (" + p.verdict.worst->what + ").")
          : "The proposed sizes do not meet all limits."});
  for (const std::string& said :
       {notJudgedSaid(p.verdict), noneSaid(p), conflictSaid(task, p), worstDeliverySaid(task, p.delivered),
        unknownDeliveriesSaid(task, p.delivered), smallestSaid(task, p), energySaid(task, p.verdict),
        hoursSaid(task, p.verdict), pairsSaid(task), narrowingsSaid(p), stayingSaid(task, p.staying),
        notCountedSaid(p.notCounted), madeUpSaid(task)})
    if (!said.empty()) page.blocks.push_back(Page::Sentence{said + "."});
  Page::Table lines{
      .title = "Lines",
      .columns = {"line", "length", "now", "proposed", "installed cost now", "proposed", "governed by"},
      .rows = {}};
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    const SizingRow& row = task.rows[r];
    const PipeSize& size = *row.sizes[p.choice[r]];
    const auto cost = [&](std::size_t s) {
      return row.sizes[s]->costPerMetre ? digits(row.laid[s], 4) : std::string("-");
    };
    lines.rows.push_back({linesSaid(task, row, 8), withUnit(row.length_m, Measure::length, task.units),
                          row.now ? row.sizes[*row.now]->name() : "-", size.name(),
                          row.now ? cost(*row.now) : "-", cost(p.choice[r]),
                          r < p.governed.size() ? governedSaid(task, p.governed[r]) : ""});
  }
  page.blocks.push_back(std::move(lines));
  if (!p.delivered.empty()) page.blocks.push_back(deliveriesTable(task, p.delivered));
  if (p.two) {
    page.blocks.push_back(Page::Sentence{twoSaid(task, p) + ":"});
    for (const TwoSizeLine& line : p.two->lines)
      page.blocks.push_back(Page::Sentence{twoSaid(task, line) + ".", true});
  }
  Page::Table sums{.title = fmt::format("Total over {:.4g} years{}{}", task.prices.years,
                                        task.prices.currency.empty() ? "" : ", ", task.prices.currency),
                   .columns = {"", "now", "proposed"},
                   .rows = {}};
  const auto sum = [&](const char* what, auto of) {
    sums.rows.push_back({what, p.now ? digits(of(*p.now), 4) : "-", digits(of(p.verdict), 4)});
  };
  sum("pipe, installed", [](const SizingVerdict& v) { return v.laid; });
  sum("pumps", [](const SizingVerdict& v) { return v.pumps; });
  sum("energy", [](const SizingVerdict& v) { return v.energyCost; });
  sum("maintenance", [](const SizingVerdict& v) { return v.upkeep; });
  sum(task.prices.interest > 0 ? "whole-life cost, present value" : "whole-life cost",
      [](const SizingVerdict& v) { return v.wholeLife; });
  if (task.prices.interest > 0)
    sum("whole-life cost, undiscounted", [](const SizingVerdict& v) { return v.plainSum; });
  if (const std::string each = perCubicMetreSaid(task, p.verdict); !each.empty())
    sums.rows.push_back(
        {"whole-life cost per m³ delivered", p.now ? perCubicMetreSaid(task, *p.now) : "-", each});
  sums.rows.push_back({"mass", p.now ? massSaid(*p.now) : "-", massSaid(p.verdict)});
  page.blocks.push_back(std::move(sums));
  page.blocks.push_back(Page::Heading{"Optimality", 2});
  std::string how = p.how + ".";
  how[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(how[0])));
  page.blocks.push_back(Page::Sentence{std::move(how)});
  std::string good = "Proven optimum: no selection of these sizes that meets all limits costs less.";
  if (!p.proved)
    good = !p.noneCan.empty() ? ""
           : p.bound          ? fmt::format("Lower bound with all limits met: {}.", digits(*p.bound, 4))
                              : "No lower bound" + (p.noBound.empty() ? "." : ": " + p.noBound + ".");
  if (!good.empty()) page.blocks.push_back(Page::Sentence{std::move(good)});
  if (const std::string said = leftOutSaid(task); !said.empty())
    page.blocks.push_back(Page::Sentence{said + ".", true});
  for (const auto& [id, why] : task.left)
    page.blocks.push_back(Page::Sentence{task.model.drawn.at(id).name + ": " + why + ".", true});
  return page;
}

}  // namespace conduit

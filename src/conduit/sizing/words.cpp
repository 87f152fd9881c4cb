#include "sizing/words.h"

#include <fmt/format.h>

#include <algorithm>

#include "quantity/format.h"

namespace conduit {
namespace {

std::string caseSaid(const SizingTask& task, CaseId id) {
  const Case* which = task.model.cases.find(id);
  return which && task.cases.size() > 1 ? ", " + which->name : std::string();
}

}  // namespace

std::string linesSaid(const SizingTask& task, const SizingRow& row, std::size_t most) {
  std::string names;
  for (std::size_t i = 0; i < row.lines.size(); ++i) {
    if (i == most && row.lines.size() > most + 1)
      return names + fmt::format(" and {} more", row.lines.size() - most);
    names += (i ? ", " : "") + task.model.drawn.at(row.lines[i]).name;
  }
  return names;
}

std::string brokenSaid(const SizingTask& task, const BrokenLimit& b) {
  const Element* e = b.element == noId ? nullptr : task.model.drawn.find(b.element);
  return b.label + (e ? " at " + e->name : "") + caseSaid(task, b.id);
}

std::string efficiencySaid(const SizingTask& task, const SizingVerdict& v) {
  return v.efficiencyOfCosts ? fmt::format("Pumps that say no efficiency count with the {} % of the costs",
                                           digits(task.prices.pumpEfficiency * 100, 3))
                             : std::string();
}

std::string smallestSaid(const SizingTask& task, const SizingProposal& p) {
  std::size_t count = 0;
  const SizingRow* first = nullptr;
  for (std::size_t r = 0; r < p.governed.size(); ++r) {
    if (p.governed[r].by != Governed::By::smallest || task.rows[r].sizes.size() < 2) continue;
    if (count++ == 0) first = &task.rows[r];
  }
  if (count == 0) return {};
  return fmt::format(
      "{} at the smallest size there is, for no limit asks more: {}. Where more must flow, say so: a least "
      "pressure, the flow of a branch, a larger size to begin with",
      count == 1 ? "One row stands" : fmt::format("{} rows stand", count),
      linesSaid(task, *first, 2) + (count > 1 ? " and others" : ""));
}

std::string noneSaid(const SizingProposal& p) {
  return p.noneCan.empty() ? p.noneCan : "No choice of these sizes keeps every limit, proved: " + p.noneCan;
}

std::string fightSaid(const SizingTask& task, const SizingProposal& p) {
  if (!p.fight) return {};
  return fmt::format("{} a size {} would mend {} and break {}", linesSaid(task, task.rows[p.fight->row], 2),
                     p.fight->by > 0 ? "up" : "down", brokenSaid(task, p.fight->mends),
                     brokenSaid(task, p.fight->breaks));
}

std::string twoSaid(const SizingTask& task, const TwoSizeLine& line) {
  const SizingRow& row = task.rows[line.row];
  return fmt::format("{}: {} of {}, then {} of {}", linesSaid(task, row),
                     withUnit(line.nearer_m, Measure::length, task.units), row.sizes[line.nearer]->name(),
                     withUnit(row.length_m - line.nearer_m, Measure::length, task.units),
                     row.sizes[line.farther]->name());
}

std::string twoSaid(const SizingTask& task, const SizingProposal& p) {
  if (!p.two) return {};
  return fmt::format("With {} of two sizes {}, {} % less; every limit is kept",
                     p.two->lines.size() == 1 ? linesSaid(task, task.rows[p.two->lines.front().row])
                                              : fmt::format("{} lines", p.two->lines.size()),
                     digits(p.two->objective, 4),
                     digits((1 - p.two->objective / p.verdict.objective) * 100, 2));
}

std::string governedSaid(const SizingTask& task, const Governed& g) {
  if (g.by == Governed::By::smallest) return "the smallest there is";
  if (g.by == Governed::By::notLaid) return "the limits are kept without it";
  if (g.by == Governed::By::cost) return fmt::format("a size down costs {} more", digits(g.dearer, 3));
  return g.limit ? "a size down: " + brokenSaid(task, *g.limit) : "a size down breaks a limit";
}

std::string governedShort(const SizingTask& task, const SizingRow& row, const Governed& g) {
  if (g.by == Governed::By::smallest) return "smallest";
  if (g.by == Governed::By::notLaid) return "kept without it";
  if (g.by == Governed::By::cost) return fmt::format("a size down: {} dearer", digits(g.dearer, 3));
  if (!g.limit) return "a limit";
  const bool own = std::find(row.lines.begin(), row.lines.end(), g.limit->element) != row.lines.end();
  const Element* e = own || g.limit->element == noId ? nullptr : task.model.drawn.find(g.limit->element);
  return g.limit->label + (e ? " " + e->name : "") + caseSaid(task, g.limit->id);
}

}  // namespace conduit

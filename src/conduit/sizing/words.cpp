#include "sizing/words.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

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

std::string energySaid(const SizingTask& task, const SizingVerdict& v) {
  std::string said, cases;
  if (v.efficiencyOfCosts)
    said = fmt::format("Pumps without efficiency data use {} % (Costs)",
                       digits(task.prices.pumpEfficiency * 100, 3));
  for (const CaseId id : v.withoutEnergy)
    cases += (cases.empty() ? "" : ", ") + task.model.cases.find(id)->name;
  if (!cases.empty())
    said += fmt::format("{}Excludes the energy of {}: no solution", said.empty() ? "" : ". ", cases);
  return said;
}

std::string massSaid(const SizingVerdict& v) {
  return std::isfinite(v.mass_kg) ? digits(v.mass_kg / 1000, 4) + " t" : "mass unknown";
}

std::string leftOutSaid(const SizingTask& task) {
  if (task.leftOut.empty()) return {};
  std::string names;
  for (std::size_t i = 0; i < task.leftOut.size() && i < 4; ++i) names += (i ? ", " : "") + task.leftOut[i];
  if (task.leftOut.size() > 4) names += fmt::format(" and {} more", task.leftOut.size() - 4);
  return fmt::format("Not offered, no {} in the catalogue: {}",
                     task.options.objective == Objective::mass ? "mass" : "cost", names);
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
      "{} at the smallest available size, as no limit requires more: {}. To require more, set a minimum "
      "pressure, a design flow or a larger first size",
      count == 1 ? "One row is" : fmt::format("{} rows are", count),
      linesSaid(task, *first, 2) + (count > 1 ? " and others" : ""));
}

std::string noneSaid(const SizingProposal& p) {
  return p.noneCan.empty() ? p.noneCan : "Proven: no selection of these sizes meets all limits: " + p.noneCan;
}

std::string conflictSaid(const SizingTask& task, const SizingProposal& p) {
  if (!p.conflict) return {};
  return fmt::format("{} one size {} would meet {} but not {}",
                     linesSaid(task, task.rows[p.conflict->row], 2), p.conflict->by > 0 ? "up" : "down",
                     brokenSaid(task, p.conflict->meets), brokenSaid(task, p.conflict->breaks));
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
  return fmt::format("With {} in two sizes {}, {} % less; all limits met",
                     p.two->lines.size() == 1 ? linesSaid(task, task.rows[p.two->lines.front().row])
                                              : fmt::format("{} lines", p.two->lines.size()),
                     digits(p.two->objective, 4),
                     digits((1 - p.two->objective / p.verdict.objective) * 100, 2));
}

std::string governedSaid(const SizingTask& task, const Governed& g) {
  if (g.by == Governed::By::smallest) return "smallest available";
  if (g.by == Governed::By::notLaid) return "limits met without it";
  if (g.by == Governed::By::unknown) return "not examined: time limit reached";
  if (g.by == Governed::By::cost) return fmt::format("next size down costs {} more", digits(g.dearer, 3));
  return g.limit ? "next size down fails: " + brokenSaid(task, *g.limit) : "next size down fails a limit";
}

std::string governedShort(const SizingTask& task, const SizingRow& row, const Governed& g) {
  if (g.by == Governed::By::smallest) return "smallest";
  if (g.by == Governed::By::notLaid) return "met without it";
  if (g.by == Governed::By::unknown) return "not examined";
  if (g.by == Governed::By::cost) return fmt::format("size down: {} more", digits(g.dearer, 3));
  if (!g.limit) return "a limit";
  const bool own = std::find(row.lines.begin(), row.lines.end(), g.limit->element) != row.lines.end();
  const Element* e = own || g.limit->element == noId ? nullptr : task.model.drawn.find(g.limit->element);
  return g.limit->label + (e ? " " + e->name : "") + caseSaid(task, g.limit->id);
}

}  // namespace conduit

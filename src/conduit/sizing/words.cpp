#include "sizing/words.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "cases/year.h"
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
  return b.label() + (e ? " at " + e->name : "") + caseSaid(task, b.id);
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

std::string notJudgedSaid(const SizingVerdict& v) {
  return v.notJudged.empty() ? std::string() : "Not judged: " + v.notJudged;
}

std::string_view limitsMetSaid(const SizingVerdict& v) {
  return v.notJudged.empty() ? "all limits met" : "all limits met that could be judged";
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
  if (g.by == Governed::By::run) return "next size down would narrow the run";
  if (g.by == Governed::By::cost) return fmt::format("next size down costs {} more", digits(g.dearer, 3));
  return g.limit ? "next size down fails: " + brokenSaid(task, *g.limit) : "next size down fails a limit";
}

std::string governedShort(const SizingTask& task, const SizingRow& row, const Governed& g) {
  if (g.by == Governed::By::smallest) return "smallest";
  if (g.by == Governed::By::notLaid) return "met without it";
  if (g.by == Governed::By::unknown) return "not examined";
  if (g.by == Governed::By::run) return "narrows the run";
  if (g.by == Governed::By::cost) return fmt::format("size down: {} more", digits(g.dearer, 3));
  if (!g.limit) return "a limit";
  const bool own = std::find(row.lines.begin(), row.lines.end(), g.limit->element) != row.lines.end();
  const Element* e = own || g.limit->element == noId ? nullptr : task.model.drawn.find(g.limit->element);
  return g.limit->label() + (e ? " " + e->name : "") + caseSaid(task, g.limit->id);
}

std::string dutySaid(const SizingTask& task, const Duty& duty) {
  switch (duty.by) {
    case Duty::By::own: return "own minimum flow";
    case Duty::By::given: return "given flow";
    case Duty::By::drawn: return fmt::format("present flow less {:.3g} %", task.options.tolerance * 100);
    case Duty::By::loosened: {
      const auto& all = task.options.deliveries;
      const auto asked =
          std::find_if(all.begin(), all.end(), [&](const DeliveryAsked& a) { return a.taker == duty.taker; });
      return fmt::format("present flow less {:.3g} % (its own)", asked->share.value_or(0.0) * 100);
    }
    case Duty::By::dropped: return "not required";
    case Duty::By::unknown: return "no minimum set: " + duty.why;
  }
  return {};
}

std::string worstDeliverySaid(const SizingTask& task, std::span<const DutyMet> delivered) {
  for (const DutyMet& d : delivered) {
    if (d.duty.now_m3s <= 0) continue;
    if (d.share() > 1 - 1e-4) return "All users get at least their present flow";
    return fmt::format("Least delivery: {} {} % of its present flow{}",
                       task.model.drawn.at(d.duty.taker).name, digits(std::max(0.0, d.share()) * 100, 3),
                       caseSaid(task, d.duty.id));
  }
  return {};
}

std::string unknownDeliveriesSaid(const SizingTask& task, std::span<const DutyMet> delivered) {
  const DutyMet* first = nullptr;
  std::size_t count = 0;
  for (const DutyMet& d : delivered)
    if (d.duty.by == Duty::By::unknown && ++count == 1) first = &d;
  if (!first) return {};
  return fmt::format("No required delivery is set for {}{}: {}", task.model.drawn.at(first->duty.taker).name,
                     count > 1 ? fmt::format(" and {} more", count - 1) : caseSaid(task, first->duty.id),
                     first->duty.why);
}

Page::Table deliveriesTable(const SizingTask& task, std::span<const DutyMet> delivered, std::size_t most) {
  Page::Table table{.title = "Deliveries",
                    .columns = {"user", "case", "now", "proposed", "% of now", "required", "basis"},
                    .rows = {}};
  const auto flow = [&](double si) { return withUnit(si, Measure::volumeFlow, task.units, 3); };
  for (const DutyMet& d : delivered.first(std::min(most, delivered.size())))
    table.rows.push_back({task.model.drawn.at(d.duty.taker).name, task.model.cases.find(d.duty.id)->name,
                          flow(d.duty.now_m3s), d.then_m3s ? flow(*d.then_m3s) : "-",
                          d.duty.now_m3s > 0 ? digits(d.share() * 100, 4) : "-",
                          d.duty.least_m3s > 0 ? flow(d.duty.least_m3s) : "-", dutySaid(task, d.duty)});
  return table;
}

std::string hoursSaid(const SizingTask& task, const SizingVerdict& v) {
  std::string said;
  for (const auto& [id, seconds] : v.hoursOf) {
    const double now = hoursOf(task.model, id);
    if (std::abs(seconds - now) <= 0.002 * now) continue;
    said += fmt::format("{}{} {:.4g} → {:.4g} h", said.empty() ? "" : ", ", task.model.cases.find(id)->name,
                        now / 3600, seconds / 3600);
  }
  return said.empty() ? said : "Hours for the volume delivered now: " + said;
}

std::string perCubicMetreSaid(const SizingTask& task, const SizingVerdict& v) {
  const auto each = v.perCubicMetre(task.prices.years);
  if (!each) return {};
  const std::string& money = task.prices.currency;
  return fmt::format("{}{}/m³", digits(*each, 3), money.empty() ? money : " " + money);
}

std::string stayingSaid(const SizingTask& task, std::span<const Staying> staying) {
  if (staying.empty()) return {};
  std::string names;
  for (std::size_t i = 0; i < staying.size() && i < 6; ++i) {
    const Staying& s = staying[i];
    names += fmt::format("{}{}{} in {}", i ? ", " : "", task.model.drawn.at(s.device).name,
                         s.bore_m ? " (" + withUnit(*s.bore_m, Measure::bore, task.units, 3) + ")" : "",
                         task.model.drawn.at(s.line).name);
  }
  if (staying.size() > 6) names += fmt::format(" and {} more", staying.size() - 6);
  return "Not resized with their lines: " + names;
}

std::string pairsSaid(const SizingTask& task) {
  std::string words;
  std::size_t pairs = 0;
  for (const SizingRow& row : task.rows)
    if (row.pair && ++pairs <= 6) words += (words.empty() ? "" : "; ") + linesSaid(task, row);
  if (pairs == 0) return {};
  return "Flow and return are of one size: " + words +
         (pairs > 6 ? fmt::format(" and {} more", pairs - 6) : std::string());
}

std::string notCountedSaid(std::span<const Id> points) {
  if (points.empty()) return {};
  return fmt::format("No reducer loss is counted at {} {} where bores change", points.size(),
                     points.size() == 1 ? "point" : "points");
}

std::string narrowingsSaid(const SizingProposal& p) {
  if (p.narrowings == 0) return {};
  return fmt::format("{} and widens again: the limits leave no other choice found",
                     p.narrowings == 1 ? "One run narrows" : fmt::format("{} runs narrow", p.narrowings));
}

std::string madeUpSaid(const SizingTask& task) {
  const bool any = std::any_of(task.rows.begin(), task.rows.end(), [](const SizingRow& row) {
    return std::any_of(row.sizes.begin(), row.sizes.end(), [](const PipeSize* s) {
      return s != &notLaid() && s->origin == Origin::shipped && s->costPerMetre;
    });
  });
  return any && task.options.objective != Objective::mass
             ? "Pipe costs are the catalogue's made-up prices: replace them with your own"
             : std::string();
}

}  // namespace conduit

#include "cases_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include "cases/grid.h"
#include "cases/year.h"
#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "json.h"
#include "json/utf8.h"
#include "model/watched.h"
#include "quantity/format.h"
#include "read_model.h"
#include "say/page.h"

namespace conduit::cli {
namespace {

Json jsonOf(const GridRow& row, const Model& model, bool watched) {
  Json o = {{"of", Json::array()}, {watched ? "outcome" : "field", std::string(row.key)}};
  for (const Id id : row.elements) o["of"].push_back(model.drawn.at(id).name);
  if (watched) {
    const Watched& w = model.of<WatchedResults>().all[row.watched];
    o["outcome"] = w.outcome;
    if (w.over != Watched::Over::one) o["over"] = std::string(overWord(w.over));
    if (!w.condition.empty()) o["where"] = w.condition;
  } else {
    o["given_outcome"] = row.kind == GridRow::Kind::given;
  }
  o["unit_shown"] = row.unit;
  o["cells"] = Json::array();
  for (const GridCell& c : row.cells) {
    Json cell = {{"shown", c.text}, {"value_si", number(c.si)}};
    if (watched) {
      cell["at_least_si"] = number(c.least), cell["at_most_si"] = number(c.most);
      cell["broken"] = c.broken, cell["worst"] = c.worst;
      cell["at"] = c.where == noId ? Json(nullptr) : Json(model.drawn.at(c.where).name);
    } else {
      cell["typed"] = c.typed, cell["own"] = c.own, cell["found"] = c.found;
    }
    o["cells"].push_back(std::move(cell));
  }
  return o;
}

Json jsonOf(const Model& model, const CaseGrid& grid, std::span<const CaseAnswerPtr> answers,
            const Year& year) {
  Json out = {{"cases", Json::array()}, {"differ", Json::array()}, {"watched", Json::array()}};
  for (std::size_t i = 0; i < grid.cases.size(); ++i) {
    const GridHeading& h = grid.cases[i];
    const Case& c = *model.cases.find(h.id);
    Json o = {{"name", h.name}, {"from", Json(nullptr)}, {"balanced", h.solved}, {"verdict", h.verdict}};
    if (h.id != drawingCase) o["from"] = model.cases.find(c.parent)->name;
    o["limits_broken"] = answers[i]->standing.broken;
    o["on_paper_only"] = answers[i]->standing.onPaperOnly;
    o["hours_in_a_year"] = year.cases[i].hours_s / 3600.0;
    o["shaft_power_w"] = number(year.cases[i].shaft_w);
    o["energy_at_the_wire_j"] = year.cases[i].energy_j;
    o["counts_for_sizing"] = flagOf(c, cases::counts);
    o["on_the_sheet"] = flagOf(c, cases::issued);
    o["findings"] = Json::array();
    for (const Finding& f : answers[i]->findings) o["findings"].push_back(f.what);
    out["cases"].push_back(std::move(o));
  }
  for (const GridRow& row : grid.differ) out["differ"].push_back(jsonOf(row, model, false));
  for (const GridRow& row : grid.watched) out["watched"].push_back(jsonOf(row, model, true));
  out["year"] = {{"hours", year.hours_s / 3600.0},
                 {"energy_at_the_wire_j", year.energy_j},
                 {"cost", number(year.cost)},
                 {"currency", year.currency}};
  return out;
}

// Cells in columns, the first to the left.
std::string columnsOfText(const std::vector<std::vector<std::string>>& lines) {
  std::vector<std::size_t> widths;
  for (const auto& line : lines)
    for (std::size_t c = 0; c < line.size(); ++c) {
      widths.resize(std::max(widths.size(), c + 1));
      widths[c] = std::max(widths[c], columnsOf(line[c]));
    }
  std::string text;
  for (const auto& line : lines) {
    for (std::size_t c = 0; c < line.size(); ++c) {
      const std::string pad(widths[c] - columnsOf(line[c]), ' ');
      text += c == 0 ? line[c] + pad : "  " + pad + line[c];
    }
    text.erase(text.find_last_not_of(' ') + 1);
    text += '\n';
  }
  return text;
}

}  // namespace

CLI::App* CasesCommand::addTo(CLI::App& app) {
  CLI::App* cases = app.add_subcommand(
      "cases", "Solve every case and compare them: differences, watched results, energy and cost per year.");
  cases->add_option("FILE", file, "a model file (.lconduit)")->required();
  cases->add_flag("--json", json, "as JSON on standard output, SI values (docs/cli.md)");
  cases->add_option("--units", units, "unit set of the table: SI water, SI process, US");
  return cases;
}

int CasesCommand::run(std::ostream& out, std::ostream& err) const {
  auto model = modelFrom(file, err);
  if (!model) return unusableInput;
  const auto shown = unitsOf(*model, units, err);
  if (!shown) return unusableInput;
  const auto answers = balanceCases(*model, model->cases.ids(), stockFor(model->drawn, shippedStock()),
                                    {.units = *shown, .jobs = {}});
  const CaseGrid grid = gridOf(*model, answers, *shown);
  const Year year = yearOf(*model, answers);
  if (json) {
    print(out, jsonOf(*model, grid, answers, year));
  } else {
    out << plainUtf8(columnsOfText(textsOf(tableOf(grid, *shown)))) << '\n';
    out << fmt::format("Per year: {} h, {} kWh electrical input", digits(year.hours_s / 3600, 3),
                       digits(year.energy_j / 3.6e6, 4));
    if (year.cost) out << fmt::format(", {} {}", digits(*year.cost, 4), plainUtf8(year.currency));
    out << (year.tooLong() ? "; the hours exceed one year\n" : "\n");
    for (const CaseYear& c : year.cases)
      for (const Id id : c.unknown)
        out << plainUtf8(fmt::format("  excludes {} in {}: no efficiency given\n", model->drawn.at(id).name,
                                     model->cases.find(c.id)->name));
    for (const CaseAnswerPtr& a : answers)
      for (const Finding& f : a->findings)
        if (f.severity <= Severity::broken)
          out << plainUtf8(fmt::format("{}: {}\n", model->cases.find(a->id)->name, f.what));
  }
  int worst = limitsKept;
  for (const CaseAnswerPtr& a : answers) {
    const bool failed = !a->fault.empty() || a->solution.summary.verdict == Verdict::notConverged;
    if (failed)
      err << plainUtf8(fmt::format("{}: not solved: {}\n", model->cases.find(a->id)->name, a->fault));
    worst = std::max<int>(worst, failed                   ? internalFault
                                 : !a->usable()           ? cannotBalance
                                 : a->standing.broken > 0 ? limitBroken
                                                          : limitsKept);
  }
  return ended(worst, out, err);
}

}  // namespace conduit::cli

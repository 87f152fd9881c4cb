#include "solve_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include <fstream>

#include "cases/case_edits.h"
#include "cases/register.h"
#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "find/remedies.h"
#include "json.h"
#include "json/utf8.h"
#include "limits/limits.h"
#include "limits/not_judged.h"
#include "model/offered_sizes.h"
#include "model/sizing_setup.h"
#include "network/edits.h"
#include "parts/registry.h"
#include "pump/suction_budget.h"
#include "quantity/format.h"
#include "read_model.h"
#include "report.h"
#include "say/page.h"
#include "say/words.h"
#include "solve/solve.h"

namespace conduit::cli {
namespace {

// The suction budget of every pump that has one, in the order of the model.
Budgets budgetsOf(const Network& network, const Solution& solution, const Stock* stock) {
  Budgets budgets;
  network.each([&](Id id, const Element& e) {
    if (!e.part->lifts) return;
    if (auto budget = suctionBudget(network, solution, stock, id))
      budgets.emplace_back(id, std::move(*budget));
  });
  return budgets;
}

std::string recordText(const Model& model, const Network& network, const Solution& solution) {
  std::string text = "Record of a solution\n\n" + solution.summary.full() +
                     "\nSteps: state set, step, largest head residual [m], largest mass residual / "
                     "throughput, step factor\n";
  for (const StepRecord& s : solution.steps) {
    if (s.step == 0) {
      std::string states;
      for (const auto& [id, state] : s.notOpen)
        states += fmt::format("{}{} {}", states.empty() ? "" : ", ", network.at(id).name,
                              spoken(state == BranchState::shut ? "shut" : "acting"));
      text += fmt::format("  set {}: {}\n", s.run, states.empty() ? "all open" : states);
    }
    text += fmt::format("{:>6} {:>6} {:>12.3e} {:>12.3e} {:>8.4g}{}\n", s.run, s.step, s.head_m, s.massShare,
                        s.share, s.exact ? " exact" : "");
  }
  text += "\nFinal device states\n";
  for (const std::string& s : solution.summary.states) text += "  " + s + "\n";
  return text + "\nThe model\n\n" + writeModel(model);
}

}  // namespace

CLI::App* SolveCommand::addTo(CLI::App& app) {
  CLI::App* solve =
      app.add_subcommand("solve", "Solve a model and report flows, heads, pressures and findings.");
  solve->add_option("FILE", file, "a model file (.lconduit)")->required();
  solve->add_flag("--json", json, "results as JSON on standard output, SI values (docs/cli.md)");
  solve->add_option("--units", units, "unit set of the report: SI water, SI process, US");
  solve->add_flag("--suction", suction, "add the suction budget (NPSH item by item) of every pump");
  auto* one = solve->add_option("--case", caseName, "case to solve; default: the base case");
  auto* all =
      solve->add_flag("--all-cases", allCases, "solve every case, base case first; exit status of the worst");
  all->excludes(one);
  solve->add_flag("--strict", strict, "exit status 1 also where a check that applies is not judged");
  auto* byNumber = solve->add_option("--apply-remedy", remedy,
                                     "apply the remedy with this number in the report, and solve again");
  solve->add_option("--write", write, "write the model with that remedy to this file")->needs(byNumber);
  auto* kept = solve->add_option("--record", record,
                                 "write every solution step and the model to this file, for a fault report");
  all->excludes(byNumber)->excludes(kept);
  solve
      ->add_flag("--limits", limits,
                 "list every limit in force with its worst value over all cases, instead of the report")
      ->excludes(one)
      ->excludes(all)
      ->excludes(byNumber)
      ->excludes(kept);
  return solve;
}

// What a run was given, read once for all cases.
struct SolveCommand::Given {
  Model model;
  UnitSet units;
  std::shared_ptr<const Stock> stock;
};

int SolveCommand::run(std::ostream& out, std::ostream& err) const {
  auto model = modelFrom(file, err);
  if (!model) return unusableInput;
  const auto shown = unitsOf(*model, units, err);
  if (!shown) return unusableInput;
  Given given{std::move(*model), *shown, nullptr};
  given.stock = stockFor(given.model.drawn, shippedStock());
  if (limits) return reportLimits(given, out, err);
  const CaseSet& cases = given.model.cases;
  std::vector<CaseId> ids{drawingCase};
  if (allCases) ids = cases.ids();
  if (!caseName.empty()) {
    const Case* which = cases.byName(caseName);
    if (!which) return unusable(err, noSuchCase(given.model, caseName));
    ids = {which->id};
  }
  int worst = limitsKept;
  for (std::size_t i = 0; i < ids.size(); ++i) {
    const std::string name = plainUtf8(cases.find(ids[i])->name);
    if (json && allCases) {
      out << (i ? ",\n" : "{\"cases\": [\n") << "{\"case\": " << quotedJson(name) << ", \"answer\":\n";
    } else if (!json && cases.count() > 1) {
      out << (i ? "\n" : "") << "Case: " << name;
      if (!allCases) out << fmt::format(" (one of {}; --all-cases reports them all)", cases.count());
      out << "\n\n";
    }
    const int status = report(given, ids[i], out, err);
    if (status == unusableInput) return status;
    worst = std::max(worst, status);
    if (json && allCases) out << "}";
  }
  if (json && allCases) out << "\n]}\n";
  return ended(worst, out, err);
}

int SolveCommand::reportLimits(const Given& given, std::ostream& out, std::ostream& err) const {
  const auto answers =
      balanceCases(given.model, given.model.cases.ids(), given.stock, {.units = given.units});
  const auto rows = limitRegister(answers);
  Json unsolved = Json::array();
  int status = limitsKept;
  for (const CaseAnswerPtr& a : answers) {
    const bool solved = a && a->solution.summary.usable();
    if (!solved && a) unsolved.push_back(given.model.cases.find(a->id)->name);
    status = std::max<int>(status, !solved                  ? cannotBalance
                                   : a->standing.broken > 0 ? limitBroken
                                                            : limitsKept);
  }
  if (json) {
    constexpr const char* from[] = {"physical", "default", "job", "service", "own", "catalogue", "standard"};
    Json list = Json::array();
    for (const RegisterRow& r : rows)
      list.push_back({{"limit", std::string(labelOf(r.check))},
                      {"side", r.most ? "at most" : "at least"},
                      {"value", r.limit},
                      {"measure", std::string(nameOf(measureOf(r.check)))},
                      {"source", from[static_cast<std::size_t>(r.from)]},
                      {"service", r.service.empty() ? Json(nullptr) : Json(r.service)},
                      {"elements", r.elements},
                      {"worst", r.worst},
                      {"at", given.model.drawn.at(r.worstAt).name},
                      {"case", given.model.cases.find(r.worstIn)->name},
                      {"met", !r.broken()},
                      {"beyond", r.beyond}});
    print(out, Json{{"limits", std::move(list)}, {"cases_without_solution", std::move(unsolved)}});
  } else {
    out << plainUtf8(plainText({{registerTable(rows, given.model, given.units)}}));
    for (const Json& name : unsolved)
      out << plainUtf8(fmt::format("not included: {}: no solution\n", name.get<std::string>()));
  }
  return ended(status, out, err);
}

// Applies the remedy asked for to the model; an exit status other than `limitsKept` ends the run.
int SolveCommand::applyOne(Given& given, CaseId id, const std::vector<Finding>& found, std::ostream& out,
                           std::ostream& err) const {
  std::vector<const Remedy*> all;
  for (const Finding& f : found)
    for (const Remedy& r : f.remedies) all.push_back(&r);
  if (*remedy < 1 || static_cast<std::size_t>(*remedy) > all.size()) {
    const std::string those =
        all.empty() ? "the report has none" : fmt::format("the report has 1 to {}", all.size());
    return unusable(err, fmt::format("there is no remedy {}: {}", *remedy, those));
  }
  const Remedy& chosen = *all[static_cast<std::size_t>(*remedy) - 1];
  if (chosen.edits.empty())
    return unusable(err, fmt::format("remedy {} ({}) only points to an element and changes nothing", *remedy,
                                     chosen.words));
  const auto edited = applyRemedy(networkOf(given.model, id), chosen, given.stock.get(), &given.units);
  if (!edited) return unusable(err, edited.error().what);
  given.model = withEdit(given.model, id, edited->network);
  if (!write.empty())
    if (const auto saved = saveModel(given.model, write); !saved) {
      return unusable(err, saved.error().what);
    }
  if (!json) out << "Applied: " << chosen.words << "\n\n";
  return limitsKept;
}

int SolveCommand::report(Given& given, CaseId id, std::ostream& out, std::ostream& err) const {
  Network network = networkOf(given.model, id);
  SolveOptions options;
  options.units = given.units;
  options.record = !record.empty();
  Solution solution;
  std::vector<Finding> found;
  const auto balance = [&] {
    solution = solve(network, given.stock.get(), options);
    found = findings(network, solution, given.units);
    addTriedRemedies(found, network, solution, given.stock.get(), given.units);
    onlyOffered(found, network, given.stock.get(), given.model.of<SizingSetup>().ranges);
  };
  balance();
  if (remedy) {
    if (const int status = applyOne(given, id, found, out, err); status != limitsKept) return status;
    network = networkOf(given.model, id);
    balance();
  }
  if (!record.empty()) {
    if (std::ofstream to(record); !(to << recordText(given.model, network, solution)) || !to.flush()) {
      return unusable(err, fmt::format("the record cannot be written to {}", record));
    }
  }
  const auto budgets = suction ? budgetsOf(network, solution, given.stock.get()) : Budgets();
  if (json) {
    reportJson(out, network, solution, found, suction ? &budgets : nullptr);
  } else {
    reportText(out, network, solution, found, given.units);
    reportSuction(out, network, budgets, given.units);
  }
  if (solution.summary.verdict == Verdict::notConverged) {
    err << solution.summary.brief(given.units) << '\n';
    return internalFault;
  }
  if (!solution.summary.usable()) return cannotBalance;
  if (strict && !notJudged(network, solution).empty()) return limitBroken;
  return standing(found).broken > 0 ? limitBroken : limitsKept;
}

}  // namespace conduit::cli

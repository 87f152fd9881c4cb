#include "solve_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include <fstream>

#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "exchange/utf8.h"
#include "find/remedies.h"
#include "limits/limits.h"
#include "network/edits.h"
#include "parts/registry.h"
#include "pump/suction_budget.h"
#include "quantity/format.h"
#include "report.h"
#include "solve/solve.h"

namespace conduit::cli {
namespace {

// The suction budget of every pump that has one, in the order of the model.
Budgets budgetsOf(const Network& network, const Solution& solution, const Stock* stock) {
  Budgets budgets;
  network.each([&](Id id, const Element& e) {
    if (e.part->group != Group::lift) return;
    if (auto budget = suctionBudget(network, solution, stock, id))
      budgets.emplace_back(id, std::move(*budget));
  });
  return budgets;
}

std::string recordText(const Model& model, const Solution& solution) {
  const Network& network = model.drawn;
  std::string text = "Record of a solution\n\n" + solution.summary.full() +
                     "\nSteps: set of states, step, largest head residual [m], largest mass residual over "
                     "throughput, share of the step taken\n";
  for (const StepRecord& s : solution.steps) {
    if (s.step == 0) {
      std::string states;
      for (const auto& [id, state] : s.notOpen)
        states += fmt::format("{}{} {}", states.empty() ? "" : ", ", network.at(id).name,
                              state == BranchState::shut ? "shut" : "acting");
      text += fmt::format("  set {}: {}\n", s.run, states.empty() ? "all open" : states);
    }
    text += fmt::format("{:>6} {:>6} {:>12.3e} {:>12.3e} {:>8.4g}{}\n", s.run, s.step, s.head_m, s.massShare,
                        s.share, s.exact ? " exact" : "");
  }
  text += "\nDevice states at the end\n";
  for (const std::string& s : solution.summary.states) text += "  " + s + "\n";
  return text + "\nThe model\n\n" + writeModel(model);
}

}  // namespace

CLI::App* SolveCommand::addTo(CLI::App& app) {
  CLI::App* solve =
      app.add_subcommand("solve", "Balance a model and report flows, heads, pressures and findings.");
  solve->add_option("FILE", file, "a model file (.lconduit)")->required();
  solve->add_flag("--json", json, "results as JSON on standard output, SI values (docs/cli.md)");
  solve->add_option("--units", units, "set of units of the report: SI water, SI process, US");
  solve->add_flag("--suction", suction,
                  "with the suction budget of every pump: what adds to its NPSH and what takes from it");
  auto* byNumber = solve->add_option(
      "--apply-remedy", remedy,
      "apply the remedy of this number, as the report numbers them, and report what follows");
  solve->add_option("--write", write, "write the model with that remedy to this file")->needs(byNumber);
  solve->add_option(
      "--record", record,
      "write every step of the solution to this file, with the model, to be attached to a report");
  return solve;
}

int SolveCommand::run(std::ostream& out, std::ostream& err) const {
  auto model = loadModel(file, &shippedStock());
  if (!model) {
    for (const Problem& p : model.error()) err << plainUtf8(p.what) << '\n';
    return unusableInput;
  }
  Network* const network = &model->drawn;
  const auto* own = network->job().text("units");
  const std::string wanted = units.empty() ? (own ? *own : "SI water") : units;
  const UnitSet* set = UnitSet::find(wanted);
  if (!set && !units.empty()) {
    err << fmt::format("there is no set of units \"{}\"; there are", wanted);
    for (const UnitSet& s : UnitSet::all()) err << " \"" << s.name() << '"';
    err << '\n';
    return unusableInput;
  }
  if (!set) set = &UnitSet::siWater();
  const auto* single = network->job().text("own units");
  const UnitSet shown =
      units.empty() && single ? set->with(*single) : *set;  // what was asked for on the command line stands
  SolveOptions options;
  options.units = shown;
  const auto stock = stockFor(*network, shippedStock());
  options.record = !record.empty();
  Solution solution = solve(*network, stock.get(), options);
  auto found = findings(*network, solution, shown);
  addTriedRemedies(found, *network, solution, stock.get(), shown);
  if (remedy) {
    std::vector<const Remedy*> all;
    for (const Finding& f : found)
      for (const Remedy& r : f.remedies) all.push_back(&r);
    if (*remedy < 1 || static_cast<std::size_t>(*remedy) > all.size()) {
      err << fmt::format(
          "there is no remedy {}: {}\n", *remedy,
          all.empty() ? "the report has none" : fmt::format("the report has those from 1 to {}", all.size()));
      return unusableInput;
    }
    const Remedy chosen = *all[static_cast<std::size_t>(*remedy) - 1];
    if (chosen.edits.empty()) {
      err << fmt::format("remedy {} ({}) leads to a place and changes nothing\n", *remedy, chosen.words);
      return unusableInput;
    }
    const auto edited = applyRemedy(*network, chosen, stock.get(), &shown);
    if (!edited) {
      err << edited.error().what << '\n';
      return unusableInput;
    }
    model->drawn = edited->network;
    if (!write.empty())
      if (const auto saved = saveModel(*model, write); !saved) {
        err << saved.error().what << '\n';
        return unusableInput;
      }
    if (!json) out << "Applied: " << chosen.words << "\n\n";
    solution = solve(*network, stock.get(), options);
    found = findings(*network, solution, shown);
    addTriedRemedies(found, *network, solution, stock.get(), shown);
  }
  if (!record.empty()) {
    if (std::ofstream file(record); !(file << recordText(*model, solution)) || !file.flush()) {
      err << fmt::format("the record cannot be written to {}\n", record);
      return unusableInput;
    }
  }
  const auto budgets = suction ? budgetsOf(*network, solution, stock.get()) : Budgets();
  if (json) {
    reportJson(out, *network, solution, found, suction ? &budgets : nullptr);
  } else {
    reportText(out, *network, solution, found, shown);
    reportSuction(out, *network, budgets, shown);
  }
  if (!out.flush()) {
    err << "the report could not be written to the end: the place it goes to takes no more\n";
    return unusableInput;
  }
  if (solution.summary.verdict == Verdict::notConverged) {
    err << solution.summary.brief(shown) << '\n';
    return internalFault;
  }
  if (!solution.summary.usable()) return cannotBalance;
  return standing(found).broken > 0 ? limitBroken : limitsKept;
}

}  // namespace conduit::cli

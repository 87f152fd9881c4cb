#include "command_line.h"

#include <CLI/CLI.hpp>

#include "exchange/fields_page.h"
#include "exchange/model_file.h"
#include "quantity/units.h"
#include "solve_command.h"

namespace conduit::cli {

int run(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
  CLI::App app{"Steady pressure and flow in pipe networks with pumps, valves and fittings.",
               "level-conduit-cli"};
  app.set_version_flag("--version", "level-conduit-cli " CONDUIT_VERSION);
  app.require_subcommand(1);
  app.footer(
      "Exit status: 0 balanced and all limits kept; 1 balanced, a limit broken; 2 cannot be balanced; 3 "
      "unusable input; 4 internal fault.");
  SolveCommand solve;
  CLI::App* solveApp =
      app.add_subcommand("solve", "Balance a model and report flows, heads, pressures and findings.");
  solveApp->add_option("FILE", solve.file, "a model file (.lconduit)")->required();
  solveApp->add_flag("--json", solve.json, "results as JSON on standard output, SI values (docs/cli.md)");
  solveApp->add_option("--units", solve.units, "set of units of the report: SI water, SI process, US");
  solveApp->add_flag("--suction", solve.suction,
                     "with the suction budget of every pump: what adds to its NPSH and what takes from it");
  auto* remedy = solveApp->add_option(
      "--apply-remedy", solve.remedy,
      "apply the remedy of this number, as the report numbers them, and report what follows");
  solveApp->add_option("--write", solve.write, "write the model with that remedy to this file")
      ->needs(remedy);
  solveApp->add_option(
      "--record", solve.record,
      "write every step of the solution to this file, with the model, to be attached to a report");
  CLI::App* schemaApp = app.add_subcommand("schema", "Print the JSON Schema of the model file.");
  CLI::App* fieldsApp =
      app.add_subcommand("fields", "Print every kind with its fields, ranges and defaults, as Markdown.");
  try {
    std::vector<std::string> reversed(arguments.rbegin(), arguments.rend());
    app.parse(reversed);
  } catch (const CLI::ParseError& stop) {
    const int status = app.exit(stop, out, err);
    return status == 0 ? 0 : unusableInput;
  }
  if (*schemaApp) {
    out << modelSchema();
    return out.flush() ? limitsKept : unusableInput;
  }
  if (*fieldsApp) {
    out << fieldsPage();
    return out.flush() ? limitsKept : unusableInput;
  }
  return solve.run(out, err);
}

}  // namespace conduit::cli

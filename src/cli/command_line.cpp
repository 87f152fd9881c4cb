#include "command_line.h"

#include <CLI/CLI.hpp>

#include "command.h"

namespace conduit::cli {

int run(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
  CLI::App app{"Steady pressure and flow in pipe networks with pumps, valves and fittings.",
               "level-conduit-cli"};
  app.set_version_flag("--version", "level-conduit-cli " CONDUIT_VERSION);
  app.require_subcommand(1);
  app.footer(
      "Exit status: 0 solved, all limits met; 1 solved, a limit not met; 2 no solution; 3 unusable input; 4 "
      "internal error.");
  const auto commands = makeCommands();
  std::vector<CLI::App*> apps;
  for (const auto& command : commands) apps.push_back(command->addTo(app));
  try {
    std::vector<std::string> reversed(arguments.rbegin(), arguments.rend());
    app.parse(reversed);
  } catch (const CLI::ParseError& stop) {
    const int status = app.exit(stop, out, err);
    return status == 0 ? 0 : unusableInput;
  }
  for (std::size_t i = 0; i < commands.size(); ++i)
    if (*apps[i]) return commands[i]->run(out, err);
  return unusableInput;
}

}  // namespace conduit::cli

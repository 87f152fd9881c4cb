#include "command_line.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include <set>

#include "command.h"
#include "read_model.h"

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
  std::string names;
  std::set<std::string> known;
  for (const auto& command : commands) {
    apps.push_back(command->addTo(app));
    known.insert(apps.back()->get_name());
    names += (names.empty() ? "" : ", ") + apps.back()->get_name();
  }
  // Said here, for the library only says that one is missing.
  if (arguments.empty()) return unusable(err, fmt::format("name a command: {}", names));
  if (!arguments.front().starts_with('-') && known.count(arguments.front()) == 0)
    return unusable(
        err, fmt::format("there is no command {}; commands: {}", quotedJson(arguments.front()), names));
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

// A command of the command line: what it is called with, and what it does.
#pragma once

#include <memory>
#include <ostream>
#include <vector>

namespace CLI {
class App;
}

namespace conduit::cli {

class Command {
 public:
  virtual ~Command() = default;
  /// Its name, options and help.
  virtual CLI::App* addTo(CLI::App& app) = 0;
  /// The exit status (see Exit).
  [[nodiscard]] virtual int run(std::ostream& out, std::ostream& err) const = 0;
};

/// All there are, in the order of the help: one line each in commands.cpp.
[[nodiscard]] std::vector<std::unique_ptr<Command>> makeCommands();

}  // namespace conduit::cli

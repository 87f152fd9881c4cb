// The command line: one class a command, run with streams of the caller's so that tests can listen.
#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace conduit::cli {

/// Exit status, the same for every command.
enum Exit { limitsKept = 0, limitBroken = 1, cannotBalance = 2, unusableInput = 3, internalFault = 4 };

/// `arguments` without the program's name.
[[nodiscard]] int run(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

}  // namespace conduit::cli

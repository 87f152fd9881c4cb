// Where commands are entered: one line each.
#include "balance_command.h"
#include "cases_command.h"
#include "command.h"
#include "pages_commands.h"
#include "pumps_command.h"
#include "size_command.h"
#include "solve_command.h"
#include "sweep_command.h"

namespace conduit::cli {

std::vector<std::unique_ptr<Command>> makeCommands() {
  std::vector<std::unique_ptr<Command>> all;
  all.push_back(std::make_unique<SolveCommand>());
  all.push_back(std::make_unique<CasesCommand>());
  all.push_back(std::make_unique<SweepCommand>());
  all.push_back(std::make_unique<GatherCommand>());
  all.push_back(std::make_unique<PumpsCommand>());
  all.push_back(std::make_unique<SizeCommand>());
  all.push_back(std::make_unique<BalanceCommand>());
  all.push_back(std::make_unique<SchemaCommand>());
  all.push_back(std::make_unique<FieldsCommand>());
  return all;
}

}  // namespace conduit::cli

// level-conduit-cli solve FILE [--json] [--units SET] [--apply-remedy N [--write FILE]] [--suction] [--record
// FILE]
#pragma once

#include <optional>
#include <string>

#include "command.h"

namespace conduit::cli {

struct SolveCommand final : Command {
  std::string file;
  bool json = false;
  std::string units;          // empty: the model's own set
  bool suction = false;       // with the suction budget of every pump
  std::optional<int> remedy;  // number of the remedy to be applied before reporting, as a report numbers them
  std::string write;          // file for the model with that remedy
  std::string record;         // file for the record of the solution, step by step
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

}  // namespace conduit::cli

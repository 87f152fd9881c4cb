// level-conduit-cli solve FILE [--case NAME | --all-cases] [--json] [--units SET] [--apply-remedy N [--write
// FILE]] [--suction] [--record FILE] | --limits
#pragma once

#include <optional>
#include <string>

#include "command.h"
#include "model/case_set.h"
#include "say/say.h"

namespace conduit::cli {

struct SolveCommand final : Command {
  std::string file;
  bool json = false, strict = false;
  std::string caseName;       // empty: the drawing
  bool allCases = false;      // one report after another
  std::string units;          // empty: the model's own set
  bool limits = false;        // the register of limits over all cases instead
  bool suction = false;       // with the suction budget of every pump
  std::optional<int> remedy;  // number of the remedy to be applied before reporting, as a report numbers them
  std::string write;          // file for the model with that remedy
  std::string record;         // file for the record of the solution, step by step
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;

 private:
  struct Given;
  [[nodiscard]] int report(Given& given, CaseId id, std::ostream& out, std::ostream& err) const;
  [[nodiscard]] int reportLimits(const Given& given, std::ostream& out, std::ostream& err) const;
  [[nodiscard]] int applyOne(Given& given, CaseId id, const std::vector<Finding>& found, std::ostream& out,
                             std::ostream& err) const;
};

}  // namespace conduit::cli

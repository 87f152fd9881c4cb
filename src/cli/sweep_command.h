// level-conduit-cli sweep FILE (--vary GIVEN --over VALUES)… | --rows TABLE  [--watch OUTCOME]… [--case NAME]
//                   [--part K/N] [--json] [--write FILE] [--units SET] [--threads N]
// level-conduit-cli gather PART… [--json] [--write FILE]
#pragma once

#include <string>
#include <vector>

#include "command.h"

namespace conduit::cli {

/// One case solved for many values of its givens, the whole or one part of many.
struct SweepCommand final : Command {
  std::string file, rows, inCase, part, write, units;
  std::vector<std::string> vary, over, watch;
  bool json = false;
  int threads = 0;
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

/// Parts of one sweep put together; what is missing is named.
struct GatherCommand final : Command {
  std::vector<std::string> files;
  std::string write;
  bool json = false;
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

}  // namespace conduit::cli

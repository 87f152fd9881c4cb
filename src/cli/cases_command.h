// level-conduit-cli cases FILE [--json] [--units SET]
#pragma once

#include <string>

#include "command.h"

namespace conduit::cli {

/// All cases side by side: what differs, what is watched, the worst of each row, a year's energy.
struct CasesCommand final : Command {
  std::string file;
  bool json = false;
  std::string units;  // empty: the model's own set
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

}  // namespace conduit::cli

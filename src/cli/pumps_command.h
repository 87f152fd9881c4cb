// `pumps`: duties, system curves, candidates, suction and cost of pumps.
#pragma once

#include <string>

#include "command.h"

namespace conduit::cli {

class PumpsCommand final : public Command {
 public:
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;

 private:
  class Run;
  std::string file_, pump_, at_, case_, units_, share_, other_, leastPressure_, flow_, head_, most_, hold_;
  bool curve_ = false, candidates_ = false, sheet_ = false, json_ = false;
};

}  // namespace conduit::cli

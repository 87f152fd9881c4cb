// `balance`: control valves set so that every branch passes what it should.
#pragma once

#include <string>
#include <vector>

#include "command.h"

namespace conduit::cli {

class BalanceCommand final : public Command {
 public:
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;

 private:
  std::string file_, case_, write_, units_;
  std::vector<std::string> flows_;
  bool json_ = false;
};

}  // namespace conduit::cli

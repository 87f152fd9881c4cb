// `size`: the sizes of a whole network, or what each size would do in one line.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "command.h"

namespace conduit::cli {

class SizeCommand final : public Command {
 public:
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;

 private:
  std::string file_, least_, line_, for_, case_, write_, units_, tolerance_;
  std::vector<std::string> sizes_, keep_, tie_, untie_, drop_;
  std::optional<double> seconds_;
  std::optional<std::uint64_t> seed_;
  std::optional<std::size_t> trials_;
  bool twoSizes_ = false, apply_ = false, sheet_ = false, json_ = false;
};

}  // namespace conduit::cli

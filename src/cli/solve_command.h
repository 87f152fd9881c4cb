// level-conduit-cli solve FILE [--json] [--units SET]
#pragma once

#include <ostream>
#include <string>

namespace conduit::cli {

struct SolveCommand {
  std::string file;
  bool json = false;
  std::string units;  // empty: the model's own set
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const;
};

}  // namespace conduit::cli

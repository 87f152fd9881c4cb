// The command line run inside the test, with streams that the test reads.
#pragma once

#include <unistd.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string>
#include <vector>

#include "command_line.h"

namespace conduit::test {

struct Ran {
  int status;
  std::string out, err;
  [[nodiscard]] nlohmann::json json() const { return nlohmann::json::parse(out); }
};
[[nodiscard]] inline Ran ran(const std::vector<std::string>& arguments) {
  std::ostringstream out, err;
  const int status = cli::run(arguments, out, err);
  return {status, out.str(), err.str()};
}
/// A path in the folder for temporary files that no test running beside this one takes.
[[nodiscard]] inline std::string scratchPath(const std::string& name) {
  return testing::TempDir() + "cli-" + std::to_string(::getpid()) + "-" + name;
}
/// A file with that text.
[[nodiscard]] inline std::string scratch(const std::string& text,
                                         const std::string& name = "model.lconduit") {
  std::ofstream(scratchPath(name)) << text;
  return scratchPath(name);
}
[[nodiscard]] inline std::string textOf(const std::string& file) {
  std::stringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

inline const std::string samples = SOURCE_DIR "/samples/";
inline const std::string kestrel = samples + "kestrel-fell.lconduit";
inline const std::string millpond = samples + "millpond.lconduit";
inline const std::string larch = samples + "larch-court.lconduit";
inline const std::string twoLoops = SOURCE_DIR "/tests/sizing/two_loop.lconduit";

}  // namespace conduit::test

#include "exchange/reader_limits.h"

#include <fmt/format.h>

#include <vector>

namespace conduit {
std::string beyondShape(std::string_view json, std::string_view what) {
  std::vector<std::size_t> keys;  // of the object or list at each depth
  std::size_t line = 1;
  bool inText = false;
  for (std::size_t i = 0; i < json.size(); ++i) {
    const char c = json[i];
    if (c == '\n') ++line;
    if (inText) {
      if (c == '\\') ++i;
      else if (c == '"') inText = false;
    } else if (c == '"') {
      inText = true;
    } else if (c == '{' || c == '[') {
      keys.push_back(0);
      if (keys.size() > nestingMost)
        return fmt::format("line {}: nested more than {} deep; {} is not", line, nestingMost, what);
    } else if ((c == '}' || c == ']') && !keys.empty()) {
      keys.pop_back();
    } else if (c == ':' && !keys.empty() && ++keys.back() > keysMost) {
      return fmt::format("line {}: an object with more than {} keys; {} has none", line, keysMost, what);
    }
  }
  return {};
}

}  // namespace conduit

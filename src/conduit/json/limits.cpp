#include "json/limits.h"
#include "quantity/format.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <vector>

namespace conduit {
namespace {

// What the shape of JSON hangs on; all else is walked over.
constexpr auto marks = [] {
  std::array<bool, 256> is{};
  for (const char c : {'"', '{', '}', '[', ']', ':'}) is[static_cast<unsigned char>(c)] = true;
  return is;
}();

}  // namespace

std::string beyondShape(std::string_view json, std::string_view what) {
  std::vector<std::size_t> keys;  // of the object or list at each depth
  std::size_t i = 0;
  const auto line = [&] {
    return 1 + std::count(json.begin(), json.begin() + static_cast<std::ptrdiff_t>(i), '\n');
  };
  for (;; ++i) {
    while (i < json.size() && !marks[static_cast<unsigned char>(json[i])]) ++i;
    if (i >= json.size()) return {};
    switch (json[i]) {
      case '"':
        for (++i; i < json.size() && json[i] != '"'; ++i)
          if (json[i] == '\\') ++i;
        break;
      case '{':
      case '[':
        keys.push_back(0);
        if (keys.size() > nestingMost)
          return fmt::format("line {}: nested deeper than {} levels; not valid in {}", line(), nestingMost,
                             what);
        break;
      case ':':
        if (!keys.empty() && ++keys.back() > keysMost)
          return fmt::format("line {}: object with more than {} keys; not valid in {}", line(),
                             counted(keysMost), what);
        break;
      default:
        if (!keys.empty()) keys.pop_back();
    }
  }
}

}  // namespace conduit

// Words as they are typed: without the blanks about them, without regard to capitals. ASCII alone; other
// bytes pass.
#pragma once

#include <cctype>
#include <string>
#include <string_view>

namespace conduit {

/// Without blanks, tabs and line breaks at both ends.
[[nodiscard]] inline std::string_view trimmed(std::string_view text, std::string_view blanks = " \t\r\n") {
  const auto first = text.find_first_not_of(blanks);
  return first == std::string_view::npos ? std::string_view()
                                         : text.substr(first, text.find_last_not_of(blanks) - first + 1);
}

/// In small letters.
[[nodiscard]] inline std::string lowered(std::string_view text) {
  std::string out(text);
  for (char& c : out) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

}  // namespace conduit

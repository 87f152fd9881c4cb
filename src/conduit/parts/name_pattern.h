// How names of a kind run on, said by example as the first of them: "pipe W-001; pump PU-1".
#pragma once

#include <string>
#include <string_view>

namespace conduit {

struct Part;

/// The names "stem + number", the number with at least `width` digits.
struct NamePattern {
  std::string stem;
  int first = 1;
  int width = 1;
  [[nodiscard]] std::string name(int number) const;
};

/// "W-001" → stem "W-", first 1, width 3; a name without a number at its end counts on from 1 behind a dash.
[[nodiscard]] NamePattern patternOf(std::string_view firstName);

/// The pattern of a kind in a text of patterns, else its prefix and a dash.
[[nodiscard]] NamePattern patternIn(std::string_view patterns, const Part& part);

/// Why a text of patterns cannot be used; empty when it can.
[[nodiscard]] std::string patternFault(std::string_view patterns);

}  // namespace conduit

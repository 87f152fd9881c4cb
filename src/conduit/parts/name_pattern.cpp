#include "parts/name_pattern.h"

#include <fmt/format.h>

#include "parts/registry.h"
#include "quantity/words.h"

namespace conduit {
namespace {

// "pipe W-001" → the kind and the name; the kind is all but the last word.
std::pair<std::string_view, std::string_view> kindAndName(std::string_view entry) {
  entry = trimmed(entry);
  const auto blank = entry.find_last_of(" \t");
  if (blank == std::string_view::npos) return {entry, {}};
  return {trimmed(entry.substr(0, blank)), entry.substr(blank + 1)};
}

template <class Visit>
void eachPattern(std::string_view patterns, Visit visit) {
  while (!patterns.empty()) {
    const auto end = patterns.find_first_of(";\n");
    const auto entry = trimmed(patterns.substr(0, end));
    if (!entry.empty()) visit(entry);
    if (end == std::string_view::npos) return;
    patterns.remove_prefix(end + 1);
  }
}

}  // namespace

std::string NamePattern::name(int number) const { return fmt::format("{}{:0{}}", stem, number, width); }

NamePattern patternOf(std::string_view firstName) {
  std::size_t digits = 0;
  while (digits < firstName.size() && digits < 8 && firstName[firstName.size() - 1 - digits] >= '0' &&
         firstName[firstName.size() - 1 - digits] <= '9')
    ++digits;
  if (digits == 0) return {std::string(firstName) + "-", 1, 1};
  NamePattern pattern{std::string(firstName.substr(0, firstName.size() - digits)), 0,
                      static_cast<int>(digits)};
  for (const char c : firstName.substr(firstName.size() - digits))
    pattern.first = pattern.first * 10 + (c - '0');
  return pattern;
}

NamePattern patternIn(std::string_view patterns, const Part& part) {
  NamePattern pattern{std::string(part.prefix) + "-", 1, 1};
  eachPattern(patterns, [&](std::string_view entry) {
    const auto [kind, name] = kindAndName(entry);
    if (kind == part.key && !name.empty()) pattern = patternOf(name);
  });
  return pattern;
}

std::string patternFault(std::string_view patterns) {
  std::string fault;
  eachPattern(patterns, [&](std::string_view entry) {
    if (!fault.empty()) return;
    const auto [kind, name] = kindAndName(entry);
    const Part* part = findPart(kind);
    if (name.empty() || !part || part->ends == Ends::none)
      fault =
          fmt::format("\"{}\" is not a kind with its first name, such as \"pipe W-001; pump PU-1\"", entry);
    else if (name.size() > 40 || name.find_first_of("\"\\") != std::string_view::npos)
      fault = fmt::format("\"{}\" cannot start a numbered series", name);
  });
  return fault;
}

}  // namespace conduit

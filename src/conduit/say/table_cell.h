// A table as it goes to a file: what each cell shows, and where that is a number the number itself.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace conduit {

struct TableCell {
  std::string text;
  std::optional<double> number{};  // in the unit of its row or heading, in all its digits
  bool bad = false, worst = false;
};
using TableLines = std::vector<std::vector<TableCell>>;

/// What is shown, alone.
[[nodiscard]] inline std::vector<std::vector<std::string>> textsOf(const TableLines& lines) {
  std::vector<std::vector<std::string>> texts;
  for (const auto& line : lines) {
    auto& cells = texts.emplace_back();
    for (const TableCell& cell : line) cells.push_back(cell.text);
  }
  return texts;
}

}  // namespace conduit

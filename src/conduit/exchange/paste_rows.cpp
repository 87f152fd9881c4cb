#include "exchange/paste_rows.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "exchange/delimited.h"
#include "fields/keys.h"
#include "quantity/parse.h"

namespace conduit {
namespace {

constexpr std::size_t rowsMost = 500;

std::string lower(std::string_view text) {
  std::string out(text);
  std::transform(out.begin(), out.end(), out.begin(), [](unsigned char c) {
    return c < 128 ? static_cast<char>(std::tolower(c)) : static_cast<char>(c);
  });
  return out;
}

// The unit of a heading: in brackets, else nothing.
std::string unitOfHeading(const std::string& heading) {
  for (const auto& [open, close] : {std::pair{'[', ']'}, std::pair{'(', ')'}}) {
    const auto a = heading.find(open), b = heading.rfind(close);
    if (a != std::string::npos && b != std::string::npos && b > a + 1)
      return heading.substr(a + 1, b - a - 1);
  }
  return {};
}

// Which column of the field a heading means.
std::optional<std::size_t> columnOf(const std::string& heading, const Field& table) {
  const std::string words = lower(heading);
  static constexpr std::array<std::pair<std::string_view, std::string_view>, 14> names{
      {{"npsh", "NPSH required"},
       {"effic", "efficiency"},
       {"eta", "efficiency"},
       {"η", "efficiency"},
       {"power", "shaft power"},
       {"p2", "shaft power"},
       {"flow", "flow"},
       {"capacity", "flow"},
       {"head", "head"},
       {"speed", "speed"},
       {"rpm", "speed"},
       {"impeller", "impeller"},
       {"diameter", "impeller"},
       {"load", "load"}}};
  const auto find = [&](std::string_view key) -> std::optional<std::size_t> {
    for (std::size_t c = 0; c < table.columns.size(); ++c)
      if (table.columns[c].key == key) return c;
    return std::nullopt;
  };
  for (const auto& [word, key] : names)
    if (words.find(word) != std::string::npos)
      if (const auto at = find(key)) return at;
  for (std::size_t c = 0; c < table.columns.size(); ++c)
    if (words.starts_with(lower(table.columns[c].key))) return c;
  if (words == "q" || words.starts_with("q ") || words.starts_with("q[")) return find(key::flow);
  if (words == "h" || words.starts_with("h ") || words.starts_with("h[")) return find("head");
  return std::nullopt;
}

}  // namespace

Result<std::string> rowsFromBlock(std::string_view block, const Field& table,
                                  const std::vector<std::vector<std::string>>& there, std::size_t row,
                                  std::size_t column, const UnitSet& units) {
  const auto fault = [&](std::string what) {
    return tl::unexpected(Problem{{"", std::string(table.key)}, std::move(what), {}});
  };
  Dialect dialect = guessDialect(block);
  Grid grid = readGrid(block, dialect);
  // Numbers with their units are no headings.
  if (std::any_of(grid.headings.begin(), grid.headings.end(),
                  [](const std::string& h) { return !h.empty() && h[0] >= '0' && h[0] <= '9'; })) {
    dialect.headings = false;
    grid = readGrid(block, dialect);
  }
  if (grid.rows.empty()) return fault("there is nothing to paste");
  if (grid.tooMuch || grid.rows.size() > rowsMost) return fault(fmt::format("more than {} rows", rowsMost));
  std::vector<std::optional<std::size_t>> to(grid.columns);
  std::vector<std::string> unit(grid.columns);
  std::vector<std::vector<std::string>> cells = there;
  if (!grid.headings.empty()) {
    bool any = false;
    for (std::size_t c = 0; c < grid.headings.size() && c < to.size(); ++c) {
      to[c] = columnOf(grid.headings[c], table);
      unit[c] = unitOfHeading(grid.headings[c]);
      any = any || to[c];
    }
    if (!any)
      return fault(
          fmt::format("no heading of the block names a column such as \"{}\"", table.columns[0].key));
    cells.clear(), row = 0;
  } else {
    for (std::size_t c = 0; c < to.size(); ++c)
      if (column + c < table.columns.size()) to[c] = column + c;
  }
  for (std::size_t r = 0; r < grid.rows.size(); ++r) {
    if (cells.size() <= row + r) cells.resize(row + r + 1);
    auto& line = cells[row + r];
    line.resize(table.columns.size());
    for (std::size_t c = 0; c < grid.rows[r].size() && c < to.size(); ++c) {
      if (!to[c]) continue;
      std::string cell = plainNumber(grid.rows[r][c], dialect.decimalComma);
      const Column& into = table.columns[*to[c]];
      const bool bare = cell.find_first_not_of("0123456789.+-eE") == std::string::npos;
      if (!cell.empty() && bare) {
        const std::string sign = !unit[c].empty() ? unit[c] : std::string(units.unitFor(into.measure).symbol);
        if (!sign.empty()) cell += " " + sign;
      }
      if (!cell.empty()) {
        const auto given = parse(cell, into.measure, &units.unitFor(into.measure));
        if (!given) return fault(fmt::format("row {}, {}: {}", r + 1, into.key, given.error().what));
        if (given->basis == Basis::direct && (given->value < into.least || given->value > into.most))
          return fault(fmt::format("row {}, {}: {} is out of range", r + 1, into.key, cell));
      }
      line[*to[c]] = cell;
    }
  }
  std::string text;
  for (const auto& line : cells) {
    if (std::all_of(line.begin(), line.end(), [](const std::string& cell) { return cell.empty(); })) continue;
    if (!text.empty()) text += "; ";
    for (std::size_t c = 0; c < line.size(); ++c) text += (c ? " | " : "") + line[c];
  }
  return text;
}

}  // namespace conduit

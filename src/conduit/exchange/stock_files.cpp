#include "exchange/stock_files.h"

#include <charconv>
#include <functional>

#include "say/ensure.h"

namespace conduit {
namespace {

double number(const std::string& text) {
  double v = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
  ensure(error == std::errc() && end == text.data() + text.size(), "a shipped stock file has a cell that is no number");
  return v;
}

void eachRow(std::string_view file, std::size_t columns, const std::function<void(const std::vector<std::string>&)>& take) {
  std::string_view text = shippedStock(file);
  ensure(!text.empty(), "a shipped stock file is missing");
  bool header = true;
  while (!text.empty()) {
    const auto end = text.find('\n');
    const std::string_view line = text.substr(0, end);
    text = end == std::string_view::npos ? std::string_view{} : text.substr(end + 1);
    if (line.empty() || line.front() == '#') continue;
    if (std::exchange(header, false)) continue;
    const auto cells = csvCells(line);
    ensure(cells.size() == columns, "a shipped stock file has a row of the wrong length");
    take(cells);
  }
}

}  // namespace

std::vector<std::string> csvCells(std::string_view line) {
  std::vector<std::string> cells(1);
  bool quoted = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (c == '"' && quoted && i + 1 < line.size() && line[i + 1] == '"') {
      cells.back() += '"';
      ++i;
    } else if (c == '"') {
      quoted = !quoted;
    } else if (c == ',' && !quoted) {
      cells.emplace_back();
    } else if (c != '\r') {
      cells.back() += c;
    }
  }
  return cells;
}

const Stock& shippedStock() {
  static const Stock stock = [] {
    Stock s;
    eachRow("pipes.csv", 7, [&](const auto& c) { s.pipes.push_back({c[0], c[1], c[2], number(c[3]) / 1000, number(c[4]) / 1000, number(c[5]) / 1000, c[6]}); });
    eachRow("fittings.csv", 5, [&](const auto& c) {
      Fitting f{c[0], c[1], {}, {}, c[4]};
      if (!c[2].empty()) f.k = number(c[2]);
      if (!c[3].empty()) f.boresLong = number(c[3]);
      s.fittings.push_back(std::move(f));
    });
    eachRow("roughness.csv", 6, [&](const auto& c) { s.roughness.push_back({c[0], c[1], number(c[2]) / 1000, number(c[3]) / 1000, number(c[4]) / 1000, c[5]}); });
    return s;
  }();
  return stock;
}

}  // namespace conduit

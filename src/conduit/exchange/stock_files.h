// Stock as open files (comma-separated, a header line, # for remarks): the shipped ones, the engineer's own
// beside them, and the same rows inside a model. One table of columns says how each list is read, written and
// edited.
//
//   Stock own;
//   for (const Problem& p : readStockFile(own, "pipes.csv", text, Origin::own)) ...
#pragma once

#include <filesystem>
#include <memory>
#include <span>
#include <string_view>
#include <unordered_map>

#include "say/say.h"
#include "stock/stock.h"

namespace conduit {

/// Text of a shipped file of stock/, empty when there is none of that name. Made at build time.
[[nodiscard]] std::string_view shippedStock(std::string_view name);

/// The cells of one line: commas part them, quotes keep commas.
[[nodiscard]] std::vector<std::string> csvCells(std::string_view line);
/// The line whose cells they are.
[[nodiscard]] std::string csvLine(std::span<const std::string> cells);

/// The stock that is shipped. Made on first use and never changed.
[[nodiscard]] const Stock& shippedStock();

/// One list of the catalogue, such as pipes.csv.
struct StockList {
  std::string_view file;                  // "pipes.csv"
  std::string_view title;                 // "Pipe sizes"
  std::vector<std::string_view> columns;  // headings as in the file; units are part of them
};
[[nodiscard]] std::span<const StockList> stockLists();

/// How many entries a list has, and the entry `i` as cells; `origin` tells where it comes from.
[[nodiscard]] std::size_t stockSize(const Stock& stock, std::string_view file);
[[nodiscard]] std::vector<std::string> stockRow(const Stock& stock, std::string_view file, std::size_t i);
[[nodiscard]] Origin stockOrigin(const Stock& stock, std::string_view file, std::size_t i);
/// The name under which an entry is used: "ASME B36.10M 4 40", "elbow".
[[nodiscard]] std::string stockName(const Stock& stock, std::string_view file, std::size_t i);
/// Where the entries of one list stand, for many rows put one after another; `seen` of them are in it.
struct StockIndex {
  std::unordered_map<std::string, std::size_t> at;
  std::size_t seen = 0;
};
/// Adds the row, or puts it in the place of the entry of its name. The Problem names the column.
[[nodiscard]] Result<bool> putStockRow(Stock& stock, std::string_view file,
                                       std::span<const std::string> cells, Origin origin,
                                       StockIndex* index = nullptr);
/// Takes the entry of that name away; false when there is none.
bool dropStockRow(Stock& stock, std::string_view file, std::string_view name);

/// Reads a whole file into `stock`; rows that cannot be read are Problems ("line 12: …") and left out.
[[nodiscard]] std::vector<Problem> readStockFile(Stock& stock, std::string_view file, std::string_view text,
                                                 Origin origin);
[[nodiscard]] std::string writeStockFile(const Stock& stock, std::string_view file);

/// The engineer's own files of a folder; files that are not there are empty lists.
[[nodiscard]] Stock readOwnStock(const std::filesystem::path& folder, std::vector<Problem>* problems);
/// Writes the lists that have entries; each file is replaced at once or stays as it was.
[[nodiscard]] Result<bool> writeOwnStock(const Stock& stock, const std::filesystem::path& folder);

}  // namespace conduit

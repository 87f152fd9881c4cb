// Text of a table from anywhere: a file in any common dialect, a block from the clipboard.
//
//   Dialect dialect = guessDialect(bytes);
//   Grid grid = readGrid(bytes, dialect);
#pragma once

#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace conduit {

enum class Encoding { utf8, utf16, latin };

/// How the text is to be read. Each part is guessed by itself and may be corrected by hand.
struct Dialect {
  char separator = ',';
  bool decimalComma = false;
  bool headings = true;
  Encoding encoding = Encoding::utf8;
  friend bool operator==(const Dialect&, const Dialect&) = default;
};

/// Rows of cells, trimmed, in UTF-8. Rows may be of different lengths. `line` is where row i began in the
/// text, from 1.
struct Grid {
  std::vector<std::string> headings;  // empty when there are none
  std::vector<std::vector<std::string>> rows;
  std::vector<std::size_t> line;
  std::size_t columns = 0;  // of the longest row
  bool tooMuch =
      false;  // there was more than may be: columnsMost, cellsMost; what stands here is only the beginning
};

/// Judged by the first 200 lines: the separator that parts them most evenly, commas as decimal marks where
/// another sign separates, headings where the first row has no number but the next has.
[[nodiscard]] Dialect guessDialect(std::string_view bytes);

/// Quotes keep separators and line breaks; rows without any content are left out; marks of writing direction
/// are dropped.
[[nodiscard]] Grid readGrid(std::string_view bytes, const Dialect& dialect, std::stop_token stop = {});

[[nodiscard]] std::string toUtf8(std::string_view bytes, Encoding encoding);

/// A number of the dialect with a decimal point and without group marks, or the text as it is when it is no
/// number.
[[nodiscard]] std::string plainNumber(std::string_view cell, bool decimalComma);

/// Lines of cells as CSV (RFC 4180): commas, quotes where a cell needs them.
[[nodiscard]] std::string csvText(const std::vector<std::vector<std::string>>& lines);

}  // namespace conduit

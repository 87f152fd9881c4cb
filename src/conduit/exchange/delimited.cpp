#include "exchange/delimited.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <map>

#include "json/limits.h"
#include "json/utf8.h"

namespace conduit {
namespace {

void append(std::string& out, std::uint32_t code) {
  if (code < 0x80) {
    out += static_cast<char>(code);
  } else if (code < 0x800) {
    out += static_cast<char>(0xC0 | (code >> 6));
    out += static_cast<char>(0x80 | (code & 63));
  } else if (code < 0x10000) {
    out += static_cast<char>(0xE0 | (code >> 12));
    out += static_cast<char>(0x80 | ((code >> 6) & 63));
    out += static_cast<char>(0x80 | (code & 63));
  } else {
    out += static_cast<char>(0xF0 | (code >> 18));
    out += static_cast<char>(0x80 | ((code >> 12) & 63));
    out += static_cast<char>(0x80 | ((code >> 6) & 63));
    out += static_cast<char>(0x80 | (code & 63));
  }
}

bool validUtf8(std::string_view s) {
  for (std::size_t i = 0; i < s.size();) {
    const std::size_t n = characterAt(s, i);
    if (n == 0) return false;
    i += n;
  }
  return true;
}

// Marks that turn the direction of writing, joiners of no width and the byte order mark: they would hide in
// names.
bool invisible(std::string_view s, std::size_t i) {
  if (i + 2 >= s.size() || static_cast<unsigned char>(s[i]) < 0xD8) return false;
  const auto a = static_cast<unsigned char>(s[i]), b = static_cast<unsigned char>(s[i + 1]),
             c = static_cast<unsigned char>(s[i + 2]);
  if (a == 0xE2 && b == 0x80) return (c >= 0x8B && c <= 0x8F) || (c >= 0xAA && c <= 0xAE);
  if (a == 0xE2 && b == 0x81) return c >= 0xA0 && c <= 0xAF;
  return a == 0xEF && b == 0xBB && c == 0xBF;
}

std::string clean(std::string_view cell) {
  std::string out;
  for (std::size_t i = 0; i < cell.size();) {
    if (invisible(cell, i)) {
      i += 3;
      continue;
    }
    const auto c = static_cast<unsigned char>(cell[i]);
    if (c == 0xC2 && i + 1 < cell.size() &&
        static_cast<unsigned char>(cell[i + 1]) == 0xA0) {  // a blank that does not break
      out += ' ';
      i += 2;
      continue;
    }
    out += c < 32 ? ' ' : static_cast<char>(c);
    ++i;
  }
  const auto first = out.find_first_not_of(' ');
  return first == std::string::npos ? std::string()
                                    : out.substr(first, out.find_last_not_of(' ') - first + 1);
}

// Latin letters as Windows writes them (code page 1252) above 0x7F.
constexpr std::array<std::uint16_t, 32> windows{
    0x20AC, 0x81,   0x201A, 0x0192, 0x201E, 0x2026, 0x2020, 0x2021, 0x02C6, 0x2030, 0x0160,
    0x2039, 0x0152, 0x8D,   0x017D, 0x8F,   0x90,   0x2018, 0x2019, 0x201C, 0x201D, 0x2022,
    0x2013, 0x2014, 0x02DC, 0x2122, 0x0161, 0x203A, 0x0153, 0x9D,   0x017E, 0x0178};

// Calls back with each cell; `endRow` after the last of a row, with the line it began on.
template <class Cell, class Row>
void walk(std::string_view text, char separator, Cell cell, Row endRow) {
  std::string quotedCell;
  std::size_t line = 1, began = 1, start = 0;
  bool wasQuoted = false;
  auto finish = [&](std::size_t end) {
    if (wasQuoted) cell(quotedCell);
    else cell(text.substr(start, end - start));
    wasQuoted = false;
    quotedCell.clear();
  };
  for (std::size_t i = 0; i <= text.size(); ++i) {
    if (i == text.size() || text[i] == '\n' || text[i] == '\r') {
      if (i == text.size() && start == i && began == line && !wasQuoted &&
          (i == 0 || text[i - 1] == '\n' || text[i - 1] == '\r'))
        return;
      finish(i);
      if (!endRow(began)) return;
      if (i < text.size() && text[i] == '\r' && i + 1 < text.size() && text[i + 1] == '\n') ++i;
      ++line;
      began = line;
      start = i + 1;
      continue;
    }
    if (text[i] == '"' && !wasQuoted &&
        text.substr(start, i - start).find_first_not_of(" ") == std::string_view::npos) {
      // A quoted cell, to its closing quote; an unclosed quote is only a letter.
      std::size_t k = i + 1, lines = 0;
      std::string content;
      bool closed = false;
      for (; k < text.size(); ++k) {
        if (text[k] == '"') {
          if (k + 1 < text.size() && text[k + 1] == '"') {
            content += '"';
            ++k;
            continue;
          }
          closed = true;
          break;
        }
        if (text[k] == '\n') ++lines;
        if (lines > 100) break;
        content += text[k];
      }
      if (closed) {
        quotedCell = std::move(content);
        wasQuoted = true;
        line += lines;
        i = k;
        continue;
      }
    }
    if (text[i] == separator) {
      finish(i);
      start = i + 1;
    }
  }
}

bool looksLikeNumber(std::string_view cell) {
  bool digit = false;
  for (const char c : cell) {
    if (c >= '0' && c <= '9') digit = true;
    else if (c != '.' && c != ',' && c != '-' && c != '+' && c != 'e' && c != 'E' && c != ' ' && c != '\'' &&
             static_cast<unsigned char>(c) < 0x80)
      return false;
  }
  return digit;
}

}  // namespace

std::string toUtf8(std::string_view bytes, Encoding encoding) {
  std::string out;
  if (encoding == Encoding::utf8) {
    if (bytes.starts_with("\xEF\xBB\xBF")) bytes.remove_prefix(3);
    if (validUtf8(bytes)) return std::string(bytes);
    for (std::size_t i = 0;
         i < bytes.size();) {  // what is no letter becomes the mark for that, so that names stay writable
      const std::size_t n = characterAt(bytes, i);
      if (n == 0) append(out, 0xFFFD);
      else out += bytes.substr(i, n);
      i += std::max<std::size_t>(n, 1);
    }
    return out;
  }
  out.reserve(bytes.size());
  if (encoding == Encoding::latin) {
    for (const char ch : bytes) {
      const auto c = static_cast<unsigned char>(ch);
      append(out, c >= 0x80 && c < 0xA0 ? windows[c - 0x80] : c);
    }
    return out;
  }
  const bool big = bytes.size() >= 2 && static_cast<unsigned char>(bytes[0]) == 0xFE;
  auto unit = [&](std::size_t i) {
    const auto a = static_cast<unsigned char>(bytes[i]), b = static_cast<unsigned char>(bytes[i + 1]);
    return static_cast<std::uint32_t>(big ? a << 8 | b : b << 8 | a);
  };
  for (std::size_t i = 0; i + 1 < bytes.size(); i += 2) {
    std::uint32_t code = unit(i);
    if (code == 0xFEFF) continue;
    if (code >= 0xD800 && code < 0xDC00 && i + 3 < bytes.size()) {
      const std::uint32_t low = unit(i + 2);
      if (low >= 0xDC00 && low < 0xE000) code = 0x10000 + ((code - 0xD800) << 10) + (low - 0xDC00), i += 2;
    }
    append(out, code >= 0xD800 && code < 0xE000 ? 0xFFFD : code);
  }
  return out;
}

Dialect guessDialect(std::string_view bytes) {
  Dialect d;
  const std::string_view head = bytes.substr(0, 65536);
  if (head.size() >= 2 &&
      ((static_cast<unsigned char>(head[0]) == 0xFF && static_cast<unsigned char>(head[1]) == 0xFE) ||
       (static_cast<unsigned char>(head[0]) == 0xFE && static_cast<unsigned char>(head[1]) == 0xFF)))
    d.encoding = Encoding::utf16;
  else if (!validUtf8(bytes)) d.encoding = Encoding::latin;
  const std::string text = toUtf8(head, d.encoding);
  // The separator with which the rows have the most cells in common; a comma between digits alone speaks
  // against it.
  double best = -1.0;
  for (const char separator : {'\t', ';', ',', '|'}) {
    std::map<std::size_t, int> widths;
    std::size_t cells = 0;
    int rows = 0;
    walk(
        text, separator, [&](std::string_view) { ++cells; },
        [&](std::size_t) {
          ++widths[std::exchange(cells, 0)];
          return ++rows < 200;
        });
    std::size_t width = 1;
    int count = 0;
    for (const auto& [w, n] : widths)
      if (w > 1 && n > count) width = w, count = n;
    const double score = rows ? static_cast<double>(count) / rows *
                                    (separator == '\t'  ? 3.0
                                     : separator == ';' ? 2.0
                                     : separator == '|' ? 1.2
                                                        : 1.0) *
                                    (1.0 + 0.01 * static_cast<double>(width))
                              : 0.0;
    if (count > 0 && score > best) best = score, d.separator = separator;
  }
  // One column of numbers with decimal commas has a comma in every row too: "12,5" below "44,5 ft".
  if (d.separator == ',' && text.find('\t') == std::string::npos && text.find('"') == std::string::npos) {
    bool column = true;
    int rows = 0;
    for (std::size_t from = 0; from < text.size() && column && rows < 200;) {
      const auto end = text.find('\n', from);
      const std::string line =
          clean(std::string_view(text).substr(from, end == std::string::npos ? end : end - from));
      from = end == std::string::npos ? text.size() : end + 1;
      if (line.empty()) continue;
      ++rows;
      const auto digits = line.find_first_not_of("0123456789", line.front() == '-' ? 1 : 0);
      if (digits == std::string::npos) continue;  // a whole number
      const bool number = digits > 0 && line[digits] == ',' && digits + 1 < line.size() &&
                          line[digits + 1] >= '0' && line[digits + 1] <= '9' &&
                          line.find(',', digits + 1) == std::string::npos;
      column = number;
    }
    if (column && rows > 0) {
      d.separator = '\t';
      d.decimalComma = true;
      d.headings = false;
      return d;
    }
  }
  // Which mark stands before the decimals: "1.234,5" and "12,5" against "1,234.5" and "12.5".
  int comma = 0, point = 0;
  std::vector<std::vector<std::string>> first;
  first.emplace_back();
  walk(
      text, d.separator,
      [&](std::string_view cell) {
        const std::string c = clean(cell);
        first.back().push_back(c);
        if (!looksLikeNumber(c)) return;
        const auto lastComma = c.rfind(','), lastPoint = c.rfind('.');
        if (lastComma != std::string::npos && (lastPoint == std::string::npos || lastPoint < lastComma))
          comma += c.size() - lastComma - 1 != 3 || lastPoint != std::string::npos ? 2 : 1;
        if (lastPoint != std::string::npos && (lastComma == std::string::npos || lastComma < lastPoint))
          point += c.size() - lastPoint - 1 != 3 || lastComma != std::string::npos ? 2 : 1;
      },
      [&](std::size_t) {
        first.emplace_back();
        return first.size() < 200;
      });
  d.decimalComma = d.separator != ',' && comma > point;
  auto numbers = [](const std::vector<std::string>& row) {
    return std::count_if(row.begin(), row.end(),
                         [](const std::string& c) { return !c.empty() && looksLikeNumber(c); });
  };
  std::erase_if(first, [](const auto& row) {
    return std::all_of(row.begin(), row.end(), [](const std::string& c) { return c.empty(); });
  });
  d.headings = !first.empty() && numbers(first.front()) == 0 &&
               (first.size() < 2 || numbers(first[1]) > 0 || first.front().size() > 1);
  return d;
}

Grid readGrid(std::string_view bytes, const Dialect& dialect, std::stop_token stop) {
  Grid grid;
  const std::string text = toUtf8(bytes, dialect.encoding);
  std::vector<std::string> row;
  bool headings = dialect.headings;
  std::size_t cells = 0;
  walk(
      text, dialect.separator, [&](std::string_view cell) { row.push_back(clean(cell)); },
      [&](std::size_t line) {
        const bool blank =
            std::all_of(row.begin(), row.end(), [](const std::string& c) { return c.empty(); });
        if (!blank) {
          cells += row.size();
          if (row.size() > columnsMost || cells > cellsMost) {
            grid.tooMuch = true;
            return false;
          }
          grid.columns = std::max(grid.columns, row.size());
          if (std::exchange(headings, false)) {
            grid.headings = row;
          } else {
            grid.rows.push_back(row);
            grid.line.push_back(line);
          }
        }
        row.clear();
        return !stop.stop_requested();
      });
  return grid;
}

std::string plainNumber(std::string_view cell, bool decimalComma) {
  if (!looksLikeNumber(cell)) return std::string(cell);
  std::string out;
  const char decimal = decimalComma ? ',' : '.', group = decimalComma ? '.' : ',';
  for (std::size_t i = 0; i < cell.size(); ++i) {
    const char c = cell[i];
    if (c == decimal) {
      out += '.';
    } else if (c == group || c == ' ' || c == '\'') {
      // A group has three digits behind it; anything else is not a number of this dialect.
      std::size_t digits = 0;
      while (i + 1 + digits < cell.size() && cell[i + 1 + digits] >= '0' && cell[i + 1 + digits] <= '9')
        ++digits;
      if (c == group && digits != 3) return std::string(cell);
    } else if (static_cast<unsigned char>(c) < 0x80) {
      out += c;
    } else {
      i += static_cast<unsigned char>(c) >= 0xE0 ? 2 : 1;  // thin blanks between groups
    }
  }
  return out;
}

std::string csvText(const std::vector<std::vector<std::string>>& lines) {
  std::string text;
  for (const auto& line : lines) {
    for (std::size_t i = 0; i < line.size(); ++i) {
      if (i > 0) text += ',';
      if (line[i].find_first_of(",\"\r\n") == std::string::npos) {
        text += line[i];
        continue;
      }
      text += '"';
      for (const char c : line[i]) text += c == '"' ? std::string("\"\"") : std::string(1, c);
      text += '"';
    }
    text += "\r\n";
  }
  return text;
}

}  // namespace conduit

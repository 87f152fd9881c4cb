#include "exchange/table_file.h"

#include <fmt/format.h>
#include <unistd.h>
#include <xlsxwriter.h>

#include <array>
#include <charconv>
#include <fstream>

#include "exchange/atomic_file.h"
#include "exchange/delimited.h"
#include "json/utf8.h"
#include "quantity/format.h"

namespace conduit {
namespace {

constexpr std::size_t sheetRowsMost = 1'048'576, columnsMostOfSheet = 16'384, lettersMost = 32'767;

// The bytes of a spreadsheet; it is made in a folder of its own that nobody else can write to.
Result<std::string> spreadsheet(const TableLines& lines) {
  std::string folder = (std::filesystem::temp_directory_path() / "level-conduit-XXXXXX").string();
  if (!::mkdtemp(folder.data())) return refused("cannot create a temporary file for the spreadsheet");
  const std::string file = folder + "/table.xlsx";
  lxw_workbook* book = workbook_new(file.c_str());
  lxw_worksheet* sheet = book ? workbook_add_worksheet(book, "Table") : nullptr;
  if (!sheet) return refused("cannot create a temporary file for the spreadsheet");
  lxw_doc_properties properties{};
  properties.created = 946684800;  // the same table gives the same bytes
  workbook_set_properties(book, &properties);
  lxw_format* bold = workbook_add_format(book);
  format_set_bold(bold);
  // By not met and worst.
  std::array<lxw_format*, 4> marked{nullptr, bold, workbook_add_format(book), workbook_add_format(book)};
  for (const std::size_t bad : {2, 3}) format_set_font_color(marked[bad], LXW_COLOR_RED);
  format_set_bold(marked[3]);
  for (std::size_t r = 0; r < lines.size(); ++r)
    for (std::size_t c = 0; c < lines[r].size(); ++c) {
      const auto row = static_cast<lxw_row_t>(r);
      const auto column = static_cast<lxw_col_t>(c);
      const TableCell& cell = lines[r][c];
      lxw_format* const mark = r == 0 ? bold : marked[(cell.bad ? 2 : 0) + (cell.worst ? 1 : 0)];
      if (const auto number = r == 0 ? std::nullopt : cell.number ? cell.number : numberIn(cell.text))
        worksheet_write_number(sheet, row, column, *number, mark);
      else if (!cell.text.empty())
        worksheet_write_string(sheet, row, column, plainUtf8(cell.text).c_str(), mark);
    }
  worksheet_freeze_panes(sheet, 1, 1);
  const lxw_error end = workbook_close(book);
  std::ifstream in(file, std::ios::binary);
  std::string bytes{std::istreambuf_iterator<char>(in), {}};
  std::error_code ignored;
  std::filesystem::remove_all(folder, ignored);
  if (end != LXW_NO_ERROR)
    return refused(fmt::format("the spreadsheet could not be created: {}", lxw_strerror(end)));
  return bytes;
}

}  // namespace

std::optional<double> numberIn(std::string_view cell) {
  std::string plain;
  for (std::size_t i = 0; i < cell.size();) {
    if (cell.substr(i, 3) == "\u2009") {
      i += 3;
    } else if (cell.substr(i, 3) == "\u2212") {
      plain += '-', i += 3;
    } else {
      plain += cell[i++];
    }
  }
  double value = 0.0;
  const auto [end, fault] = std::from_chars(plain.data(), plain.data() + plain.size(), value);
  const bool whole = fault == std::errc() && end == plain.data() + plain.size() && !plain.empty();
  return whole && value - value == 0.0 ? std::optional(value) : std::nullopt;
}

Result<bool> writeTable(const std::filesystem::path& file, const TableLines& lines) {
  if (file.extension() != ".xlsx") return writeWhole(file, csvText(textsOf(lines)));
  if (lines.size() > sheetRowsMost)
    return refused(fmt::format("a spreadsheet holds at most {} rows, this table has {}: save as CSV",
                               counted(sheetRowsMost), counted(lines.size())));
  for (const auto& line : lines) {
    if (line.size() > columnsMostOfSheet)
      return refused(
          fmt::format("a spreadsheet holds at most {} columns: save as CSV", counted(columnsMostOfSheet)));
    for (const TableCell& cell : line)
      if (cell.text.size() > lettersMost)
        return refused(
            fmt::format("a spreadsheet cell holds at most {} characters: save as CSV", counted(lettersMost)));
  }
  auto bytes = spreadsheet(lines);
  if (!bytes) return tl::unexpected(bytes.error());
  return writeWhole(file, *bytes);
}

}  // namespace conduit

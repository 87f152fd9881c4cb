// A table of results as a file: CSV, or a spreadsheet (XLSX) whose numbers are numbers.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "say/say.h"
#include "say/table_cell.h"

namespace conduit {

/// By the ending of the name: ".xlsx", else CSV. The first line is the heading; it stays in sight in a
/// spreadsheet. Written whole or not at all. A spreadsheet has 1,048,576 rows, 16,384 columns and 32,767
/// characters in a cell at most; a longer table is a Problem that says so. A spreadsheet has numbers in all
/// their digits, what is not met in red and the worst in bold; CSV has them as they are shown.
[[nodiscard]] Result<bool> writeTable(const std::filesystem::path& file, const TableLines& lines);

/// The number that a cell shows ("2 970" with thin spaces, "−1.5"); empty where it is none.
[[nodiscard]] std::optional<double> numberIn(std::string_view cell);

}  // namespace conduit

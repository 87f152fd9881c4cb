// A table of results as a file: CSV, or a spreadsheet (XLSX) whose numbers are numbers.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "say/say.h"

namespace conduit {

/// By the ending of the name: ".xlsx", else CSV. The first line is the heading; it stays in sight in a
/// spreadsheet. Written whole or not at all. A spreadsheet has 1,048,576 rows, 16,384 columns and 32,767
/// characters in a cell at most; a longer table is a Problem that says so.
[[nodiscard]] Result<bool> writeTable(const std::filesystem::path& file,
                                      const std::vector<std::vector<std::string>>& lines);

/// The number that a cell shows ("2 970" with thin spaces, "−1.5"); empty where it is none.
[[nodiscard]] std::optional<double> numberIn(std::string_view cell);

}  // namespace conduit

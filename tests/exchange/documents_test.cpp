// What the documentation shows must run, and what it lists must be there.
#include <gtest/gtest.h>

#include <fmt/format.h>

#include <fstream>
#include <map>
#include <sstream>

#include "command_line.h"
#include "exchange/fields_page.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "parts/registry.h"
#include "solve/solve.h"

namespace conduit {
namespace {

std::string document(const std::string& name) {
  std::ifstream in(std::string(SOURCE_DIR) + name);
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

TEST(Documents, theModelShownInTheFileFormatBalances) {
  const std::string text = document("/docs/file-format.md");
  const auto begin = text.find("```json\n") + 8;
  const auto network = readDrawn(text.substr(begin, text.find("```", begin) - begin), &shippedStock());
  ASSERT_TRUE(network) << network.error().front().what;
  EXPECT_TRUE(solve(*network, &shippedStock()).summary.usable());
}

// The page against the tables of the parts, read line by line: a row for each field and no other, with what
// it takes.
TEST(Documents, thePageOfFieldsSaysWhatThePartsTake) {
  std::istringstream page(document("/docs/fields.md"));
  std::map<std::string, std::map<std::string, std::string>> rows;  // by kind, by field
  std::string kind;
  for (std::string line; std::getline(page, line);) {
    if (line.starts_with("**") && line.find("**", 2) != std::string::npos)
      kind = line.substr(2, line.find("**", 2) - 2);
    if (line.starts_with("| `")) rows[kind][line.substr(3, line.find('`', 3) - 3)] = line;
  }
  for (const Part* part : allParts()) {
    std::size_t count = 0;
    for (const Field& f : part->fields) {
      const auto row = rows[std::string(part->key)].find(std::string(f.key));
      ASSERT_NE(row, rows[std::string(part->key)].end())
          << part->key << ": " << f.key << "; run level-conduit-cli fields > docs/fields.md";
      ++count;
      const std::string& text = row->second;
      EXPECT_NE(text.find(f.help), std::string::npos) << text;
      EXPECT_EQ(text.find("**needed**") != std::string::npos, f.needed) << text;
      for (const std::string_view word : f.choices)
        EXPECT_NE(text.find(fmt::format("`{}`", word)), std::string::npos) << text;
      for (const Column& c : f.columns)
        EXPECT_NE(text.find(fmt::format("`{}`", c.key)), std::string::npos) << text;
      if (f.kind == FieldKind::quantity && f.measure != Measure::number) {
        const auto symbol = std::string(UnitSet::siWater().unitFor(f.measure).symbol);
        EXPECT_NE(text.find(symbol), std::string::npos) << text;
      }
    }
    EXPECT_EQ(rows[std::string(part->key)].size(), count)
        << part->key << ": a row of a field that is no more";
  }
}

TEST(Documents, theReadmesCommandsAndPicturesAreThere) {
  const std::string text = document("/README.md");
  for (std::size_t at = text.find("](docs/"); at != std::string::npos; at = text.find("](docs/", at + 1)) {
    const std::string path = text.substr(at + 2, text.find(')', at) - at - 2);
    EXPECT_TRUE(std::ifstream(std::string(SOURCE_DIR "/") + path).good()) << path;
  }
  for (const char* command : {"./demo", "./check"}) EXPECT_NE(text.find(command), std::string::npos);
}

TEST(Documents, theCommandLinesPageNamesWhatItPrints) {
  const std::string page = document("/docs/cli.md");
  std::ostringstream out, err;
  EXPECT_EQ(cli::run({"solve", SOURCE_DIR "/tests/limits/pond.lconduit", "--json"}, out, err), 0);
  const std::string json = out.str();
  for (std::size_t at = json.find("\n \""); at != std::string::npos;
       at = json.find("\n \"", at + 1)) {  // keys of the outermost level
    const std::string key = json.substr(at + 3, json.find('"', at + 3) - at - 3);
    EXPECT_NE(page.find("`" + key), std::string::npos) << key;
  }
}

TEST(Documents, everyStockFileNamesItsSources) {
  for (const char* name : {"pipes.csv", "fittings.csv", "roughness.csv"}) {
    std::istringstream lines{std::string(shippedStock(name))};
    std::string line;
    int rows = 0;
    while (std::getline(lines, line)) {
      if (line.empty() || line[0] == '#') continue;
      const auto cells = csvCells(line);
      EXPECT_FALSE(cells.back().empty()) << name << ": " << line;
      ++rows;
    }
    EXPECT_GT(rows, 20) << name;
  }
}

TEST(Csv, cellsKeepQuotedCommasAndQuotes) {
  EXPECT_EQ(csvCells(R"(a,"b, c","d ""e""",)"), (std::vector<std::string>{"a", "b, c", "d \"e\"", ""}));
}

}  // namespace
}  // namespace conduit

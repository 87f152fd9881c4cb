// Tables as files: numbers are numbers again when the spreadsheet is read back by another program.
#include "exchange/table_file.h"

#include <gtest/gtest.h>

#include <array>
#include <cstdio>
#include <fstream>

#include "exchange/delimited.h"

namespace conduit {
namespace {

std::string outputOf(const std::string& command) {
  std::string text;
  std::array<char, 4096> some{};
  if (FILE* pipe = popen(command.c_str(), "r")) {
    while (const std::size_t n = fread(some.data(), 1, some.size(), pipe)) text.append(some.data(), n);
    pclose(pipe);
  }
  return text;
}

}  // namespace

TEST(TableFile, aSpreadsheetIsReadBackByAnotherProgram) {
  const std::string file = testing::TempDir() + "cases.xlsx";
  const TableLines lines{
      {{""}, {"unit"}, {"Cold night"}, {"Refill, slow"}},
      {{"B-1 speed"}, {"rpm"}, {"2\u2009970"}, {"\u22121.5"}},
      {{"say \"no\""}, {""}, {"takes 10.7"}, {"–"}},
      {{"a third"}, {"m"}, {"333 000 (worst)", 1e6 / 3, true, true}, {"333 000", 1e6 / 3}}};
  ASSERT_TRUE(writeTable(file, lines));
  const Grid grid = readGrid(outputOf("xlsx2csv '" + file + "'"), {.headings = false});
  ASSERT_EQ(grid.rows.size(), 4u);
  EXPECT_EQ(grid.rows[0][3], "Refill, slow");
  EXPECT_EQ(grid.rows[1][2], "2970");
  EXPECT_EQ(grid.rows[1][3], "-1.5");
  EXPECT_EQ(grid.rows[2][0], "say \"no\"");
  // All digits, also of what is marked.
  for (const std::size_t column : {2, 3})
    EXPECT_NEAR(std::stod(grid.rows[3][column]), 1e6 / 3, 1e-6) << "that program shows six decimals";
  // The same table, the same bytes.
  std::ifstream in(file, std::ios::binary);
  const std::string once{std::istreambuf_iterator<char>(in), {}};
  ASSERT_TRUE(writeTable(file, lines));
  std::ifstream again(file, std::ios::binary);
  EXPECT_EQ((std::string{std::istreambuf_iterator<char>(again), {}}), once);
}

TEST(TableFile, asCsvItIsReadBackAsItWas) {
  const std::string file = testing::TempDir() + "cases.csv";
  const TableLines lines{{{"a"}, {"b, c"}}, {{"quoted \"so\""}, {"5", 5.0001}}};
  ASSERT_TRUE(writeTable(file, lines));
  std::ifstream in(file, std::ios::binary);
  EXPECT_EQ(readGrid(std::string{std::istreambuf_iterator<char>(in), {}}, {.headings = false}).rows,
            textsOf(lines));
  EXPECT_FALSE(writeTable("/no/such/folder/a.csv", lines));
  EXPECT_FALSE(writeTable("/no/such/folder/a.xlsx", lines));
}

TEST(TableFile, numbersAreToldFromWords) {
  EXPECT_EQ(numberIn("2\u2009970.5"), 2970.5);
  EXPECT_EQ(numberIn("\u22123"), -3.0);
  for (const char* words : {"", "–", "takes 5", "5 L/s", "nan", "inf", "1e999", "yes"})
    EXPECT_FALSE(numberIn(words)) << words;
}

}  // namespace conduit

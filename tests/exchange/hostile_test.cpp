// Input that means harm, or was merely broken: refused with a sentence and in a moment, or read without harm.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "exchange/atomic_file.h"
#include "exchange/delimited.h"
#include "exchange/import_table.h"
#include "exchange/stock_files.h"
#include "json/limits.h"
#include "json/utf8.h"
#include "model_text.h"

namespace conduit {
namespace {

namespace fs = std::filesystem;

std::string many(const std::string& one, std::size_t times, const std::string& between = "") {
  std::string all;
  for (std::size_t i = 0; i < times; ++i) all += (i && !between.empty() ? between : "") + one;
  return all;
}
std::string numbered(const char* format, int times) {
  std::string all;
  for (int i = 0; i < times; ++i) all += (i ? "," : "") + fmt::format(fmt::runtime(format), i);
  return all;
}
std::string whole(const std::string& rest) {
  return R"({"format":"level-conduit","version":1,)" + rest + "}";
}

struct Hostile {
  const char* name;
  std::string (*text)();  // made when it is wanted: some are large
  const char* says;       // null: it is read
};
class HostileModels : public testing::TestWithParam<Hostile> {};

TEST_P(HostileModels, areReadOrRefusedInWordsAndUtf8) {
  const auto n = readDrawn(GetParam().text(), &shippedStock());
  ASSERT_EQ(n.has_value(), GetParam().says == nullptr) << (n ? "" : n.error().front().what.substr(0, 200));
  if (n) return (void)solve(*n, &shippedStock());
  std::string all;
  for (const Problem& p : n.error()) all += p.what + "\n";
  EXPECT_NE(all.find(GetParam().says), std::string::npos) << all.substr(0, 400);
  EXPECT_EQ(plainUtf8(all), all) << "never half a character";
  EXPECT_LT(all.size(), 200000u);
}

const std::string connected =
    R"("points":[{"name":"A"}],"elements":[{"kind":"%","name":"M","connections":[{"point":"A"}]}])";
std::string unconnected(const std::string& kind) {
  return whole(std::string(connected).replace(connected.find('%'), 1, kind));
}

INSTANTIATE_TEST_SUITE_P(
    All, HostileModels,
    testing::Values(
        Hostile{"remark_with_connections", [] { return unconnected("remark"); }, nullptr},
        Hostile{"service_with_connections", [] { return unconnected("service"); }, nullptr},
        Hostile{"picture_with_connections", [] { return unconnected("picture"); }, nullptr},
        Hostile{"dimension_without_ends", [] { return unconnected("dimension"); }, "must name a point"},
        Hostile{
            "a_number_without_end",
            [] { return whole(R"("points":[{"name":"A","height":")" + many("\xC2\xB3", 400000) + "\"}]"); },
            "longer than 10 000 characters"},
        Hostile{"many_unknown_keys",
                [] { return whole(R"("points":[{"name":"A",)" + numbered("\"k{}\":1", 40000) + "}]"); },
                "more than 1\u202f000 keys"},
        Hostile{"a_thousand_unknown_keys",
                [] { return whole(R"("points":[{"name":"A",)" + numbered("\"k{}\":1", 999) + "}]"); },
                nullptr},
        Hostile{"a_key_twice",
                [] { return whole(R"("points":[{"name":"A","height":"1 m","height":"2 m"}])"); },
                "line 1: A: \"height\" is given twice"},
        Hostile{"a_name_twice_in_one", [] { return whole(R"("points":[{"name":"A","name":"B"}])"); },
                "\"name\" is given twice"},
        Hostile{"many_rows_of_stock",
                [] { return whole(R"("stock":{"pipes.csv":[)" + many("{}", stockRowsMost + 1, ",") + "]}"); },
                "more than 20\u202f000 rows"},
        Hostile{"stock_of_one_name",
                [] {
                  return whole(
                      R"("stock":{"equipment.csv":[)" +
                      numbered(R"({{"kind":"pump","name":"P{0}","field":"duty flow","value":"1 L/s"}})",
                               19000) +
                      "]}");
                },
                nullptr},
        Hostile{"files_beyond_all_measure",
                [] { return whole(R"("files":{"a":")" + many("QUFB", enclosedBytesMost / 3 + 2) + "\"}"); },
                "exceed 64 MiB"},
        Hostile{"brackets_within_a_text",
                [] {
                  return whole(R"("points":[],"elements":[{"kind":"remark","name":"R","text":")" +
                               many("[{", 70) + "\"}]");
                },
                nullptr},
        Hostile{
            "a_table_without_end",
            [] {
              return whole(
                  R"("points":[{"name":"A"},{"name":"B"}],"elements":[{"kind":"pump","name":"P","from":"A","to":"B","curve":[)" +
                  numbered(R"({{"flow":"{} L/s","head":"1 m"}})", 600) + "]}]");
            },
            "more than 500 rows"},
        Hostile{"a_name_of_two_bytes_each",
                [] { return whole(R"("points":[{"name":")" + many("\xC3\xA9", 100) + "\"}]"); },
                "is not a valid name"},
        Hostile{"nameless_of_two_bytes_each",
                [] { return whole(R"("points":[{"nam":")" + many("\xC3\xA9", 100) + "\"}]"); },
                "no \"name\""},
        Hostile{"found_is_no_list",
                [] { return whole(R"("points":[{"name":"A","found":{"a":1},"given":{"pressure":{}}}])"); },
                "does not begin with a number"}),
    [](const auto& one) { return one.param.name; });

TEST(Hostile, geoJsonOfAnyShape) {
  for (const char* bad :
       {R"({"type":5})", R"({"type":"Feature","geometry":{"type":[1]}})",
        R"({"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":)"})
    EXPECT_FALSE(gridOfGeoJson(bad)) << bad;
  const auto feature = [](const std::string& properties) {
    return R"({"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":{)" +
           properties + "}}";
  };
  const auto collection = [](const std::string& features) {
    return R"({"type":"FeatureCollection","features":[)" + features + "]}";
  };
  std::string each;  // every feature with a property of its own: columns times rows
  for (int i = 0; i < 3000; ++i) each += (i ? "," : "") + feature(fmt::format("\"p{}\":1", i));
  const auto wide = gridOfGeoJson(collection(each));
  ASSERT_FALSE(wide);
  EXPECT_NE(wide.error().what.find("500 different properties"), std::string::npos) << wide.error().what;
  const auto noted = gridOfGeoJson(collection(feature("\"note\":\"" + many("[", 80) + "\"")));
  EXPECT_TRUE(noted) << "brackets within a text are not nesting: " << noted.error().what;
}

TEST(Hostile, aTableBeyondItsLimitsSaysSo) {
  Dialect commas;
  commas.separator = ',';
  EXPECT_TRUE(readGrid(many("1", columnsMost + 1, ","), commas).tooMuch);
  const Grid most = readGrid(many("1", columnsMost, ","), commas);
  EXPECT_FALSE(most.tooMuch);
  EXPECT_EQ(most.columns + most.headings.size(), columnsMost + most.headings.size());
}

// Rows that begin like a remark, and line breaks within a field, go and come back whole.
TEST(Hostile, anOwnStockKeepsEveryText) {
  Stock own;
  const std::vector<std::vector<std::string>> rows = {
      {"#pump", "P\n1", "note", "two\r\nlines, \"quoted\"", "#source"},
      {"pump", "=1+1", "duty flow", "1 L/s", ""}};
  for (const auto& row : rows) ASSERT_TRUE(putStockRow(own, "equipment.csv", row, Origin::own));
  Stock again;
  ASSERT_TRUE(readStockFile(again, "equipment.csv", "# a remark\n" + writeStockFile(own, "equipment.csv"),
                            Origin::own)
                  .empty());
  ASSERT_EQ(stockSize(again, "equipment.csv"), rows.size());
  for (std::size_t i = 0; i < rows.size(); ++i) EXPECT_EQ(stockRow(again, "equipment.csv", i), rows[i]);
}

TEST(Hostile, anOwnStockBeyondItsLimitsKeepsTheRest) {
  Stock own;
  const auto problems =
      readStockFile(own, "fittings.csv", "word,k\n" + many("elbow,0.5\n", stockRowsMost + 5), Origin::own);
  ASSERT_EQ(problems.size(), 1u);
  EXPECT_NE(problems[0].what.find(fmt::format("line {}", stockRowsMost + 2)), std::string::npos)
      << problems[0].what;
}

class Saving : public testing::Test {
 protected:
  void SetUp() override {
    dir = fs::temp_directory_path() / ("conduit-hostile-" + std::to_string(::getpid()));
    fs::create_directories(dir / "below");
    std::ofstream(dir / "old") << "old";
  }
  void TearDown() override { fs::remove_all(dir); }
  std::string read(const fs::path& file) {
    std::ifstream in(file);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  mode_t mode(const fs::path& file) {
    struct stat state {};
    ::stat(file.c_str(), &state);
    return state.st_mode & 07777;
  }
  fs::path dir;
};

TEST_F(Saving, goesThroughLinksAndKeepsTheMode) {
  ::chmod((dir / "old").c_str(), 0640);
  fs::create_symlink("../old", dir / "below" / "link");
  fs::create_symlink("link", dir / "below" / "link of link");
  ASSERT_TRUE(writeWhole(dir / "below" / "link of link", "new"));
  EXPECT_TRUE(fs::is_symlink(dir / "below" / "link of link"));
  EXPECT_TRUE(fs::is_symlink(dir / "below" / "link"));
  EXPECT_EQ(read(dir / "old"), "new");
  EXPECT_EQ(mode(dir / "old"), 0640u);
  fs::create_symlink("not yet", dir / "dangling");
  ASSERT_TRUE(writeWhole(dir / "dangling", "made"));
  EXPECT_EQ(read(dir / "not yet"), "made");
  fs::create_symlink("round", dir / "round");
  EXPECT_FALSE(writeWhole(dir / "round", "x"));
}

TEST_F(Saving, replacesNothingButRegularFilesThatMayBeWritten) {
  ::chmod((dir / "old").c_str(), 0444);
  ::mkfifo((dir / "fifo").c_str(), 0600);
  for (const char* name : {"old", "fifo", "below"}) {
    const auto done = writeWhole(dir / name, "new");
    ASSERT_FALSE(done) << name;
    EXPECT_NE(done.error().what.find("is unchanged"), std::string::npos) << done.error().what;
  }
  EXPECT_EQ(read(dir / "old"), "old");
  EXPECT_TRUE(fs::is_fifo(dir / "fifo"));
  EXPECT_FALSE(writeWhole("/dev/null", "new"));
  EXPECT_TRUE(fs::is_character_file("/dev/null"));
}

TEST_F(Saving, takesNamesUpToTheSystemsLengthAndTidiesAfterTheKilled) {
  const std::string longest(255, 'n');
  ASSERT_TRUE(writeWhole(dir / longest, "new"));
  EXPECT_EQ(read(dir / longest), "new");
  EXPECT_FALSE(writeWhole(dir / (longest + "n"), "new"));
  // What a killed process left has its number in its name; a number that no process has is past the greatest
  // there can be.
  const std::string prefix =
      fmt::format(".level-conduit-{:x}-", static_cast<unsigned long>(::gethostid()) & 0xffffffffUL);
  std::ofstream(dir / (prefix + "999999999-0011223344556677.part")) << "half";
  std::ofstream(dir / (prefix + std::to_string(::getppid()) + "-0011223344556677.part"))
      << "of one that lives";
  std::ofstream(dir / "my own.part") << "not ours";
  ASSERT_TRUE(writeWhole(dir / "old", "new"));
  EXPECT_FALSE(fs::exists(dir / (prefix + "999999999-0011223344556677.part")));
  EXPECT_TRUE(fs::exists(dir / (prefix + std::to_string(::getppid()) + "-0011223344556677.part")));
  EXPECT_TRUE(fs::exists(dir / "my own.part"));
}

TEST(Utf8, isCutBetweenCharactersAndMendedByQuestionMarks) {
  EXPECT_EQ(cut("a\xC3\xA9z", 2), "a");
  EXPECT_EQ(cut("a\xC3\xA9z", 3), "a\xC3\xA9");
  EXPECT_EQ(plainUtf8("ok \xC3\xA9 \xFF \xC3 \xE2\x82 \xED\xA0\x80 \xF0\x9F\x9A\xB0"),
            "ok \xC3\xA9 ? ? ?? ??? \xF0\x9F\x9A\xB0");
}

}  // namespace
}  // namespace conduit

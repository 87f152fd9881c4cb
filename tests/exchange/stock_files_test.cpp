#include "exchange/stock_files.h"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "exchange/base64.h"
#include "exchange/enclose.h"
#include "fields/entry.h"
#include "model_text.h"
#include "network/edits.h"
#include "network/setting.h"
#include "parts/registry.h"

namespace conduit {
namespace {

namespace fs = std::filesystem;
using namespace test;

TEST(StockFiles, everyListWritesWhatItReads) {
  for (const StockList& list : stockLists()) {
    Stock again;
    const std::string text = writeStockFile(shippedStock(), list.file);
    EXPECT_TRUE(readStockFile(again, list.file, text, Origin::own).empty()) << list.file;
    EXPECT_EQ(stockSize(again, list.file), stockSize(shippedStock(), list.file)) << list.file;
    EXPECT_EQ(writeStockFile(again, list.file), text) << list.file;
  }
}

// Fitting weights against the sizes: steel at 7850 kg/m3 (8000 and 7900 stainless, 8940 copper, plastics as
// their rows say), to the 2 % that rounding of walls leaves.
TEST(StockFiles, massesFollowFromWallAndDensity) {
  for (const PipeSize& p : shippedStock().pipes) {
    const double density = p.standard == "ASME B36.19M"                ? 8000
                           : p.material == "stainless steel"           ? 7900
                           : p.material == "carbon steel"              ? 7850
                           : p.material == "copper"                    ? 8940
                           : p.material == "polyethylene"              ? 955
                           : p.material == "PVC-U"                     ? 1400
                           : p.material == "cross-linked polyethylene" ? 940
                           : p.material == "polypropylene"             ? 905
                                                                       : 0;
    if (density == 0 || !p.mass_kgm) continue;
    const double mass = 3.14159265 * (p.outside_m - p.wall_m) * p.wall_m * density;
    EXPECT_NEAR(*p.mass_kgm, mass, 0.02 * mass + 0.006) << p.name();
  }
}

// Ratings by the rule that each row names, from its own wall; to a part in two hundred, for they are rounded.
TEST(StockFiles, ratingsFollowFromTheRuleTheirRowsName) {
  std::size_t checked = 0;
  for (const PipeSize& p : shippedStock().pipes) {
    if (!p.rating_pa) continue;
    const double d = p.outside_m, t = 0.875 * p.wall_m;
    double bar = 0.0;
    if (p.standard == "ASME B36.19M")  // A312 TP304L, 115 MPa; the thin and the wide ones are welded, 0.8
      bar =
          2 * (p.schedule == "5S" || p.schedule == "10S" || d > 0.215 ? 0.8 : 1.0) * 1150 * t / (d - 0.8 * t);
    else if (p.standard == "ASME B36.10M") bar = 2 * 1380 * t / (d - 0.8 * t);  // B31.3, 3a
    else if (p.standard == "EN 10220" || p.standard == "EN 10216-2")
      bar = 2 * 1500 * t / (d - t);  // EN 13480-3
    else if (p.standard == "ISO 1127") bar = 2 * 0.7 * 1500 * 0.9 * p.wall_m / (d - 0.9 * p.wall_m);
    else if (p.standard == "ASTM D1785 PVC") bar = 2 * 137.9 * p.wall_m / (d - p.wall_m);
    else continue;
    EXPECT_NEAR(*p.rating_pa / 1e5, bar, 0.005 * bar) << p.name();
    ++checked;
  }
  EXPECT_GT(checked, 490u);
  // PE 100: 20 MRS/(C (SDR − 1)) bar with 10 MPa and 1.25 is the class, rounded down to a preferred pressure.
  for (const auto& [sdr, bar] :
       {std::pair{"SDR 9", 20.0}, {"SDR 11", 16.0}, {"SDR 17", 10.0}, {"SDR 21", 8.0}, {"SDR 26", 6.0}})
    for (const PipeSize& p : shippedStock().pipes)
      if (p.standard == "ISO 4427 PE100" && p.schedule == sdr)
        EXPECT_NEAR(*p.rating_pa, bar * 1e5, 1) << p.name();
}

TEST(StockFiles, everyShippedItemFitsItsKind) {
  for (const StockItem& item : shippedStock().items) {
    const Part* part = findPart(item.kind);
    ASSERT_NE(part, nullptr) << item.kind;
    ASSERT_NE(findField(*part, stockItemKey), nullptr) << item.kind;
    for (const auto& [key, text] : item.fields) {
      const Field* field = findField(*part, key);
      ASSERT_NE(field, nullptr) << item.item << ": " << key;
      const auto value = readField(*field, text, &shippedStock(), nullptr);
      EXPECT_TRUE(value) << item.item << ": " << (value ? "" : value.error().what);
    }
  }
}

TEST(StockFiles, badRowsAreNamedByLineAndColumnAndLeftOut) {
  Stock own;
  const auto problems =
      readStockFile(own, "pipes.csv",
                    "# "
                    "mine\nstandard,nominal,schedule,outside_mm,wall_mm,bore_mm\nOwn,50,A,60,3,54\nOwn,80,A,"
                    "abc,3,80\nOwn,90,A,60,3,70\n,1,A,60,3,54\nOwn,50,A,60,2,56\nOwn,60,A,60,3,54,\nOwn,70,A,"
                    "60,3,54,,, odd\n",
                    Origin::own);
  ASSERT_EQ(problems.size(), 4u);
  EXPECT_NE(problems[0].what.find("line 4: outside_mm"), std::string::npos) << problems[0].what;
  EXPECT_NE(problems[1].what.find("line 5"), std::string::npos);
  EXPECT_NE(problems[2].what.find("line 6: standard"), std::string::npos);
  EXPECT_NE(problems[3].what.find("line 9: 9 cells under 6 headings"), std::string::npos) << problems[3].what;
  ASSERT_EQ(own.pipes.size(), 2u) << "an empty cell more is none; the later row of a name stands";
  EXPECT_NEAR(own.pipes[0].bore_m, 0.056, 1e-12);
  EXPECT_FALSE(readStockFile(own, "pipes.csv", "a,b\n1,2\n", Origin::own).empty());
}

TEST(StockFiles, anOwnFolderIsWrittenAndReadAgain) {
  const fs::path folder = fs::temp_directory_path() / ("stock_test_" + std::to_string(::getpid()));
  Stock own;
  const std::string cells[] = {"long-bend", "bend of the yard, \"R 5\"", "", "9", "", "", "", "", "measured"};
  EXPECT_FALSE(putStockRow(own, "fittings.csv", cells, Origin::own)) << "a quote has no place in a cell";
  const std::string good[] = {"long-bend", "bend of the yard, R 5", "", "9", "", "", "", "", "measured"};
  ASSERT_TRUE(putStockRow(own, "fittings.csv", good, Origin::own));
  ASSERT_TRUE(writeOwnStock(own, folder));
  std::vector<Problem> problems;
  const Stock again = readOwnStock(folder, &problems);
  EXPECT_TRUE(problems.empty());
  ASSERT_NE(again.fitting("long-bend"), nullptr);
  EXPECT_EQ(again.fitting("long-bend")->origin, Origin::own);
  EXPECT_TRUE(dropStockRow(own, "fittings.csv", "long-bend"));
  ASSERT_TRUE(writeOwnStock(own, folder));
  EXPECT_TRUE(readOwnStock(folder, nullptr).empty());
  fs::remove_all(folder);
}

// The engineer's own size and fitting travel inside the file, and the model means the same where they are not
// on the shelf.
TEST(StockFiles, whatAModelUsesTravelsWithIt) {
  Stock own;
  const std::string size[] = {"Yard", "100", "A", "steel", "108", "4", "100", "10.3", "16", "25.5", "own"},
                    bend[] = {"long-bend", "", "", "9", "", "", "", "", "own"};
  ASSERT_TRUE(putStockRow(own, "pipes.csv", size, Origin::own));
  ASSERT_TRUE(putStockRow(own, "fittings.csv", bend, Origin::own));
  const Stock both = laidOver(shippedStock(), own);
  Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"5 L/s\""),
                    held("A", 20) +
                        ",{\"kind\":\"pipe\",\"name\":\"L-1\",\"from\":\"A\",\"to\":\"B\",\"roughness\":\"0."
                        "05 mm\",\"length\":\"50 m\"}");
  n = setField(n, n.byName("L-1"), "size", "Yard 100 A", &both, nullptr)->network;
  n = setField(n, n.byName("L-1"), "take-off", "50 2x long-bend", &both, nullptr)->network;
  EXPECT_EQ(usersOf(n, both, "pipes.csv", "Yard 100 A"), std::vector<Id>{n.byName("L-1")});
  const std::string text = writeModel(withUsedStock(n, both));
  const auto elsewhere = readDrawn(text, &shippedStock());
  ASSERT_TRUE(elsewhere) << elsewhere.error().front().what;
  const auto stock = stockFor(*elsewhere, shippedStock());
  const Solution here = solve(n, &both), there = solve(*elsewhere, stock.get());
  ASSERT_TRUE(there.summary.usable());
  EXPECT_EQ(headAt(n, here, "B"), headAt(*elsewhere, there, "B"));
  EXPECT_EQ(writeModel(*elsewhere), text);
}

TEST(StockFiles, anItemGivesWhatTheElementDoesNot) {
  const Network n = model(
      point("A", 0) + "," + point("B", 0),
      device("pump", "P-1", "A", "B", "\"stock item\":\"Fold 25-25 four-pole\",\"speed\":\"1200 rpm\""));
  Values scratch;
  const Values& v = valuesOf(n.at(n.byName("P-1")), &shippedStock(), scratch);
  ASSERT_NE(v.get<Rows>("curve"), nullptr);
  EXPECT_GT(v.get<Rows>("curve")->size(), 3u);
  EXPECT_EQ(v.get<Given>("speed")->typed, "1200 rpm");
  EXPECT_EQ(v.get<Given>("rated speed")->typed, "1450 rpm");
}

TEST(Base64, knownTextsAndBack) {
  // RFC 4648, section 10.
  for (const auto& [bytes, text] : {std::pair{"", ""},
                                    {"f", "Zg=="},
                                    {"fo", "Zm8="},
                                    {"foo", "Zm9v"},
                                    {"foob", "Zm9vYg=="},
                                    {"fooba", "Zm9vYmE="},
                                    {"foobar", "Zm9vYmFy"}}) {
    EXPECT_EQ(toBase64(bytes), text);
    EXPECT_EQ(fromBase64(text), bytes);
  }
  for (const char* bad : {"Zg=", "Zg==Zg", "Z!==", "Z"}) EXPECT_FALSE(fromBase64(bad)) << bad;
}

}  // namespace
}  // namespace conduit

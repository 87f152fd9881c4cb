// Tables there and back: whatever dialect a grid is written in, and whatever network a table is made of.
#include <gtest/gtest.h>

#include <fmt/format.h>

#include "exchange/import_table.h"
#include "exchange/spread_out.h"
#include "model_text.h"
#include "parts/registry.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

using namespace test;

std::string written(const std::vector<std::vector<std::string>>& rows, char separator) {
  std::string text;
  for (const auto& row : rows) {
    for (std::size_t c = 0; c < row.size(); ++c) {
      if (c) text += separator;
      const bool quote = row[c].find_first_of(std::string("\"\n") + separator) != std::string::npos;
      if (!quote) {
        text += row[c];
        continue;
      }
      text += '"';
      for (const char ch : row[c]) text += ch == '"' ? std::string("\"\"") : std::string(1, ch);
      text += '"';
    }
    text += '\n';
  }
  return text;
}

// Names with commas, quotes and blanks, numbers with either mark: every dialect is guessed and read to the
// same grid.
TEST(TableProperties, everyDialectReadsToTheSameGrid) {
  Chance c{5};
  const char* names[] = {"L-1", "Main, east", "the \"old\" line", "Nord \xC3\x9C", "B 7"};
  for (int round = 0; round < 200; ++round) {
    const char separator = "\t;,|"[round % 4];
    const bool comma = separator != ',' && c.oneIn(2);
    std::vector<std::vector<std::string>> rows{{"name", "length (m)", "bore (mm)", "note"}};
    const int count = 2 + c.below(20);
    for (int r = 0; r < count; ++r) {
      std::string number = fmt::format("{:.2f}", c.between(1, 900));
      if (comma) number[number.find('.')] = ',';
      rows.push_back({fmt::format("{} {}", names[c.below(5)], r), number, std::to_string(20 + c.below(400)),
                      c.oneIn(3) ? names[c.below(5)] : "x"});
    }
    const std::string text = written(rows, separator);
    const Dialect dialect = guessDialect(text);
    ASSERT_EQ(dialect.separator, separator) << text;
    ASSERT_EQ(dialect.decimalComma, comma) << text;
    const Grid grid = readGrid(text, dialect);
    ASSERT_EQ(grid.headings, rows[0]);
    ASSERT_EQ(grid.rows.size(), rows.size() - 1);
    for (std::size_t r = 0; r < grid.rows.size(); ++r) {
      EXPECT_EQ(grid.rows[r][0], rows[r + 1][0]);
      EXPECT_EQ(plainNumber(grid.rows[r][1], comma).find(','), std::string::npos);
      EXPECT_EQ(grid.rows[r][3], rows[r + 1][3]);
    }
  }
}

// A random network written as one table and imported into an empty sheet balances to the same flows.
TEST(TableProperties, aNetworkWrittenAsATableComesBack) {
  for (const std::uint64_t seed : {3u, 4u, 5u}) {
    const Network n = gridNetwork(120, seed);
    std::vector<std::string> heads{"kind", "name", "at", "from", "to", "x", "y"};
    std::vector<std::string> keys;
    for (const Part* part : allParts())
      for (const Field& f : part->fields)
        if (part->ends != Ends::none && f.kind != FieldKind::table &&
            std::find(keys.begin(), keys.end(), f.key) == keys.end())
          keys.emplace_back(f.key);
    std::vector<std::vector<std::string>> rows{heads};
    for (const std::string& k : keys) rows[0].push_back(k);
    bool whole = true;
    n.each([&](Id, const Element& e) {
      if (e.part->ends == Ends::many) whole = false;  // its connections are a table of their own
      std::vector<std::string> row(rows[0].size());
      row[0] = e.part->key;
      row[1] = e.name;
      if (e.part->ends == Ends::one) row[2] = n.at(e.ends[0]).name;
      if (e.part->ends == Ends::two) row[3] = n.at(e.ends[0]).name, row[4] = n.at(e.ends[1]).name;
      if (e.part->ends == Ends::self) row[5] = fmt::format("{}", e.at.x), row[6] = fmt::format("{}", e.at.y);
      for (std::size_t k = 0; k < keys.size(); ++k) {
        const Field* f = findField(*e.part, keys[k]);
        const Value* v = f ? e.value(f->key) : nullptr;
        if (v)
          row[7 + k] = std::holds_alternative<Given>(*v)         ? std::get<Given>(*v).typed
                       : std::holds_alternative<std::string>(*v) ? std::get<std::string>(*v)
                       : std::get<bool>(*v)                      ? "yes"
                                                                 : "no";
      }
      rows.push_back(row);
    });
    const std::string text = written(rows, '\t');
    const Dialect dialect = guessDialect(text);
    const Grid grid = readGrid(text, dialect);
    const auto brought = importTable(Network(), grid, proposePlan(grid, dialect, nullptr, UnitSet::siWater()),
                                     &shippedStock(), UnitSet::siWater());
    ASSERT_TRUE(brought) << brought.error().what;
    ASSERT_EQ(brought->refusedCount, 0u) << brought->refused[0].column << ": " << brought->refused[0].what;
    ASSERT_EQ(brought->made, n.count());
    if (!whole) continue;
    const Solution here = answer(n), there = answer(brought->edited.network);
    n.each([&](Id id, const Element& e) {
      if (e.part->key == "pipe")
        EXPECT_NEAR(*here.branch(id, 0).flow_m3s, flow(brought->edited.network, there, e.name), 1e-9)
            << e.name;
    });
  }
}

// Nothing lies on anything else, what is joined lies near, and what had a place keeps it.
TEST(TableProperties, whatHadNoPlaceIsSpreadOut) {
  Chance c{9};
  for (int round = 0; round < 30; ++round) {
    Draft draft{Network()};
    std::vector<Id> points, unplaced;
    const int count = 3 + c.below(200);
    for (int i = 0; i < count; ++i) {
      const bool has = i > 0 && c.oneIn(10);
      points.push_back(draft.addPoint("", has ? Spot{10000.0 + 100 * i, 5000} : Spot{}));
      if (!has) unplaced.push_back(points.back());
      if (i > 0 && !c.oneIn(8))
        draft.add(*findPart("pipe"), "", {points[static_cast<std::size_t>(c.below(i))], points.back()});
    }
    const Network before = draft.network();
    spreadOut(draft, unplaced);
    std::set<std::pair<long, long>> spots;
    for (const Id id : points) {
      const Spot s = draft.network().at(id).at;
      EXPECT_TRUE(spots.insert({std::lround(s.x * 10), std::lround(s.y * 10)}).second)
          << "round " << round << ": two points lie on one another";
      if (std::find(unplaced.begin(), unplaced.end(), id) == unplaced.end()) EXPECT_EQ(s, before.at(id).at);
    }
  }
  // A chain of 20 000 is no deeper than the heap.
  Draft draft{Network()};
  std::vector<Id> chain{draft.addPoint("", {})};
  for (int i = 0; i < 20000; ++i) {
    chain.push_back(draft.addPoint("", {}));
    draft.add(*findPart("pipe"), "", {chain[chain.size() - 2], chain.back()});
  }
  spreadOut(draft, chain);
  EXPECT_GT(draft.network().at(chain.back()).at.x, draft.network().at(chain.front()).at.x + 20000 * 29.0);
}

// Bytes at random, in any dialect: read to something, and imported in part or refused, never more.
TEST(TableProperties, bytesAtRandomDoNoHarm) {
  Chance c{77};
  const Network n = model(point("A", 1) + "," + point("B", 2), pipe("L-1", "A", "B", 5));
  const std::string before = writeModel(n);
  for (int round = 0; round < 400; ++round) {
    std::string text;
    const int length = c.below(400);
    for (int i = 0; i < length; ++i)
      text += c.oneIn(6)    ? "\t;,|\n\"=\r"[c.below(8)]
              : c.oneIn(20) ? static_cast<char>(c.below(256))
                            : "abL-1name.,50 mxyfromto"[c.below(22)];
    if (c.oneIn(3)) text = "name,from,to,length\n" + text;
    Dialect dialect = guessDialect(text);
    if (c.oneIn(4))
      dialect = {"\t;,|"[c.below(4)], c.oneIn(2), c.oneIn(2), static_cast<Encoding>(c.below(3))};
    const Grid grid = readGrid(text, dialect);
    const auto brought = importTable(
        n, grid, proposePlan(grid, dialect, c.oneIn(2) ? findPart("pipe") : nullptr, UnitSet::siWater(), &n),
        &shippedStock(), UnitSet::siWater());
    if (!brought) continue;
    EXPECT_EQ(brought->made + brought->changed + brought->refusedCount, grid.rows.size());
    const std::string after = writeModel(brought->edited.network);
    EXPECT_TRUE(readDrawn(after, &shippedStock())) << after;
  }
  EXPECT_EQ(writeModel(n), before) << "the network imported into is a value of its own";
}

}  // namespace
}  // namespace conduit

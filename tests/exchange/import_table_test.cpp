#include "exchange/import_table.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "parts/registry.h"

namespace conduit {
namespace {

using namespace test;

Result<Imported> bring(const Network& n, std::string_view text, const Part* kind = nullptr,
                       bool makePoints = true) {
  const Dialect dialect = guessDialect(text);
  const Grid grid = readGrid(text, dialect);
  ImportPlan plan = proposePlan(grid, dialect, kind, UnitSet::siWater());
  plan.makePoints = makePoints;
  return importTable(n, grid, plan, &shippedStock(), UnitSet::siWater());
}
double given(const Network& n, const char* name, const char* key) {
  const Given* g = n.at(n.byName(name)).given(key);
  return g ? g->value : NAN;
}

struct DialectCase {
  const char* text;
  char separator;
  bool decimalComma, headings;
};
class Dialects : public testing::TestWithParam<DialectCase> {};
TEST_P(Dialects, areFoundByThemselves) {
  const Dialect d = guessDialect(GetParam().text);
  EXPECT_EQ(d.separator, GetParam().separator);
  EXPECT_EQ(d.decimalComma, GetParam().decimalComma);
  EXPECT_EQ(d.headings, GetParam().headings);
}
INSTANTIATE_TEST_SUITE_P(
    Common, Dialects,
    testing::Values(DialectCase{"name,length\nL-1,12.5\nL-2,3.25\n", ',', false, true},
                    DialectCase{"name;length\nL-1;12,5\nL-2;3,25\n", ';', true, true},
                    DialectCase{"name\tlength\r\nL-1\t12.5\r\n", '\t', false, true},
                    DialectCase{"L-1\tA\tB\t12,5\nL-2\tB\tC\t1.234,5\n", '\t', true, false},
                    DialectCase{"name|x|y\nN-1|1|2\nN-2|3|4\n", '|', false, true},
                    DialectCase{"name;length\nL-1;1,234.5\nL-2;22.25\n", ';', false, true},
                    DialectCase{"33\n44,5 ft\n12,75\n", '\t', true, false},
                    DialectCase{"\"name, of it\",length\n\"a, b\",1.5\n", ',', false, true}));

TEST(Delimited, quotesEncodingsAndHiddenMarks) {
  const Grid g = readGrid(
      "name,note\n\"A \"\"x\"\", y\",\"two\nlines\"\n\n\xE2\x80\x8FN-\xE2\x80\xAE"
      "2,plain\n",
      {});
  ASSERT_EQ(g.rows.size(), 2u);
  EXPECT_EQ(g.rows[0][0], "A \"x\", y");
  EXPECT_EQ(g.rows[0][1], "two lines");
  EXPECT_EQ(g.rows[1][0], "N-2") << "marks that turn the writing are dropped";
  EXPECT_EQ(g.line[1], 5u);
  const std::string latin = "name;h\xF6he\nN;1\n";
  EXPECT_EQ(guessDialect(latin).encoding, Encoding::latin);
  EXPECT_EQ(readGrid(latin, guessDialect(latin)).headings[1], "h\xC3\xB6he");
  std::string wide = "\xFF\xFE";
  for (const char c : std::string("name\tx\nN\t1\n")) wide += c, wide += '\0';
  EXPECT_EQ(guessDialect(wide).encoding, Encoding::utf16);
  EXPECT_EQ(readGrid(wide, guessDialect(wide)).rows[0][0], "N");
}

TEST(Delimited, numbersOfADialect) {
  EXPECT_EQ(plainNumber("1.234,5", true), "1234.5");
  EXPECT_EQ(plainNumber("1,234.5", false), "1234.5");
  EXPECT_EQ(plainNumber("12 500", false), "12500");
  EXPECT_EQ(plainNumber("1\xE2\x80\xAF"
                        "250,75",
                        true),
            "1250.75");
  EXPECT_EQ(plainNumber("12.5 mm", false), "12.5 mm");
}

TEST(Import, pointsAndPipesByTheirHeadings) {
  const auto points =
      bring(Network(),
            "Node;X (m);Y (m);Elevation [ft];Demand (m3/h)\nA;0;0;100;\nB;50;10;90;3,6\nC;80;10;82,5;7.2\n");
  ASSERT_TRUE(points) << points.error().what;
  EXPECT_EQ(points->made, 3u) << points->words();
  const Network& n = points->edited.network;
  EXPECT_NEAR(given(n, "A", "height"), 30.48, 1e-9);
  EXPECT_NEAR(given(n, "B", "outflow"), 1e-3, 1e-12);
  EXPECT_EQ(n.at(n.byName("C")).at, (Spot{80, 10}));
  const auto pipes = bring(
      n, "id,from node,to node,Length,Diameter [mm],roughness_mm\nP1,A,B,52,150,0.1\nP2,B,C,31.5,100,0.1\n");
  ASSERT_TRUE(pipes);
  EXPECT_EQ(pipes->made, 2u) << (pipes->refused.empty() ? "" : pipes->refused[0].what);
  const Network& m = pipes->edited.network;
  EXPECT_NEAR(given(m, "P2", "bore"), 0.1, 1e-12);
  EXPECT_NEAR(given(m, "P2", "length"), 31.5, 1e-12);
  EXPECT_NEAR(given(m, "P1", "roughness"), 1e-4, 1e-12);
  EXPECT_EQ(m.at(m.byName("P2")).ends[0], m.byName("B"));
}

// Every kind of bad row, each alone: refused with its line and the reason; the good rows around it come in
// whole.
struct BadRow {
  const char *row, *why;
};
class BadRows : public testing::TestWithParam<BadRow> {};
TEST_P(BadRows, areRefusedWholeAndSaidWhy) {
  const Network before = model(point("A", 1) + "," + point("B", 2) + "," + point("C", 3),
                               pipe("Old", "A", "B", 5) + "," + held("A", 10));
  const std::string text = std::string("name,from,to,length,bore (mm),kind\nGood-1,A,B,10,100,pipe\n") +
                           GetParam().row + "\nGood-2,B,C,20,80,pipe\n";
  const auto brought = bring(before, text);
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->made, 2u) << brought->words();
  ASSERT_EQ(brought->refused.size(), 1u);
  EXPECT_EQ(brought->refused[0].line, 3u);
  EXPECT_NE(brought->refused[0].what.find(GetParam().why), std::string::npos) << brought->refused[0].what;
  EXPECT_EQ(brought->edited.network.count(), before.count() + 2) << "nothing of the bad row";
}
INSTANTIATE_TEST_SUITE_P(
    All, BadRows,
    testing::Values(BadRow{"X,A,B,12 bar,100,pipe", "not a unit of length"},
                    BadRow{"X,A,B,abc,100,pipe", "abc"}, BadRow{"X,A,B,=C4*2,100,pipe", "formula"},
                    BadRow{"X,A,B,#REF!,100,pipe", "formula"}, BadRow{"X,A,A,5,100,pipe", "same point"},
                    BadRow{"X,A,,5,100,pipe", "does not give its end point"},
                    BadRow{"Good-1,A,B,5,100,pipe", "already in row 2"},
                    BadRow{"B,A,B,5,100,pipe", "is a point"},
                    BadRow{"X,A,Old,5,100,pipe", "a line must end at a point"},
                    BadRow{"X,A,B,5,100,hose", "unknown kind"}, BadRow{"X,A,B,5,1e9,pipe", "out of range"},
                    BadRow{"X,A,B,-5,100,pipe", "out of range"}, BadRow{"X\\,A,B,5,100,pipe", "1 to 60"},
                    BadRow{"X,A,\"Q\"\"\",5,100,pipe", "1 to 60"}));

TEST(Import, existingElementsAreChangedAndEmptyCellsLeaveThem) {
  const Network before = model(point("A", 1) + "," + point("B", 2) + "," + point("C", 3),
                               pipe("L-1", "A", "B", 5) + "," + held("A", 10));
  const auto brought = bring(before, "name,length,bore (mm),to\nL-1,77,,C\n", findPart("pipe"));
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->changed, 1u);
  const Network& n = brought->edited.network;
  EXPECT_NEAR(given(n, "L-1", "length"), 77, 1e-12);
  EXPECT_NEAR(given(n, "L-1", "bore"), 0.1, 1e-12);
  EXPECT_EQ(n.at(n.byName("L-1")).ends[1], n.byName("C"));
}

TEST(Import, pipesWithEndsOnlyMakeTheirPointsAndLieApart) {
  const auto brought = bring(
      Network(),
      "name\tfrom\tto\tlength\tbore "
      "(mm)\nL1\tA\tB\t10\t100\nL2\tB\tC\t10\t100\nL3\tB\tD\t10\t100\nL4\tD\tE\t10\t80\nM1\tX\tY\t5\t50\n");
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->pointsMade, 7u);
  const Network& n = brought->edited.network;
  std::set<std::pair<double, double>> spots;
  n.each([&](Id, const Element& e) {
    if (e.part->ends == Ends::self)
      EXPECT_TRUE(spots.insert({e.at.x, e.at.y}).second) << e.name << " lies on another";
  });
  const auto strict = bring(Network(), "name,from,to,length\nL1,A,B,10\n", nullptr, false);
  ASSERT_TRUE(strict);
  EXPECT_EQ(strict->made, 0u);
  EXPECT_EQ(strict->refusedCount, 1u);
}

TEST(Import, coordinatesJoinWhatMeets) {
  const auto brought = bring(
      Network(), "name,x1,y1,z1,x2,y2,z2,bore (mm)\nL1,0,0,10,30,40,10,100\nL2,30.01,40,10,30,100,10,100\n");
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->pointsMade, 3u) << "the second begins where the first ends, within a few centimetres";
  const Network& n = brought->edited.network;
  EXPECT_NEAR(given(n, "L1", "length"), 50, 1e-9) << "to scale: 3, 4, 5";
  EXPECT_EQ(n.at(n.byName("L1")).ends[1], n.at(n.byName("L2")).ends[0]);
  EXPECT_NEAR(n.at(n.at(n.byName("L2")).ends[1]).given("height")->value, 10, 1e-12);
}

TEST(Import, everyKindThatThereIs) {
  std::string text = "kind,name,at,from,to,x,y\n";
  int rows = 0;
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none) continue;
    const std::string key(part->key);
    text += key + ",new " + key + "," + (part->ends == Ends::one ? "A" : "") + "," +
            (part->ends == Ends::two ? "A,B" : ",") + ",5," + std::to_string(++rows) + "\n";
  }
  const auto brought = bring(model(point("A", 1) + "," + point("B", 2), ""), text);
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->made, static_cast<std::size_t>(rows))
      << (brought->refused.empty() ? "" : brought->refused[0].what);
  EXPECT_TRUE(readDrawn(writeModel(brought->edited.network), &shippedStock()));
}

TEST(Import, aTankNamedAsAnEndGetsAConnection) {
  const auto tank = bring(Network(), "kind,name,x,y,level\ntank,T1,0,0,50\n");
  ASSERT_EQ(tank->made, 1u);
  const auto lines =
      bring(tank->edited.network, "name,from,to,length,bore (mm)\nL1,T1,N1,10,100\nL2,T1,N2,10,100\n");
  ASSERT_EQ(lines->made, 2u) << lines->refused[0].what;
  EXPECT_EQ(lines->edited.network.at(lines->edited.network.byName("T1")).ends.size(), 2u);
}

TEST(Import, geoJson) {
  const char* text = R"({"type":"FeatureCollection","features":[
    {"type":"Feature","geometry":{"type":"Point","coordinates":[500,200,12]},"properties":{"name":"A"}},
    {"type":"Feature","geometry":{"type":"LineString","coordinates":[[500,200],[530,240],[530,300,15]]},"properties":{"name":"L1","bore [mm]":80}},
    {"type":"Feature","geometry":{"type":"Polygon","coordinates":[]},"properties":{}},
    {"type":"Feature","geometry":{"type":"LineString","coordinates":[[1]]},"properties":{"name":"broken"}}]})";
  const auto grid = gridOfGeoJson(text);
  ASSERT_TRUE(grid) << grid.error().what;
  const ImportPlan plan = proposePlan(*grid, {}, nullptr, UnitSet::siWater());
  const auto brought = importTable(Network(), *grid, plan, &shippedStock(), UnitSet::siWater());
  ASSERT_TRUE(brought);
  EXPECT_EQ(brought->made, 2u) << (brought->refused.empty() ? "" : brought->refused[0].what);
  EXPECT_EQ(brought->refusedCount, 1u);
  const Network& n = brought->edited.network;
  EXPECT_NEAR(given(n, "L1", "length"), 110, 1e-6) << "along the line: 50 and 60";
  EXPECT_NEAR(given(n, "L1", "bore"), 0.08, 1e-12);
  EXPECT_EQ(n.at(n.byName("L1")).ends[0], n.byName("A"));
  for (const char* bad :
       {"", "[]", "{\"type\":\"Feature\"}", "{\"type\":\"FeatureCollection\",\"features\":3}"})
    EXPECT_FALSE(gridOfGeoJson(bad)) << bad;
}

// Degrees: a line of 0.001° north at 60° is 111.19 m long, one of 0.001° east half of that (sphere of
// 6371.0088 km).
TEST(Import, degreesBecomeMetres) {
  const auto grid = gridOfGeoJson(R"({"type":"FeatureCollection","features":[
    {"type":"Feature","geometry":{"type":"LineString","coordinates":[[10,60],[10,60.001]]},"properties":{"name":"north"}},
    {"type":"Feature","geometry":{"type":"LineString","coordinates":[[10,60],[10.001,60]]},"properties":{"name":"east"}}]})");
  const auto brought = importTable(Network(), *grid, proposePlan(*grid, {}, nullptr, UnitSet::siWater()),
                                   &shippedStock(), UnitSet::siWater());
  EXPECT_NEAR(given(brought->edited.network, "north", "length"), 111.195, 0.01);
  EXPECT_NEAR(given(brought->edited.network, "east", "length"), 55.6, 0.01);
}

TEST(Import, isStoppedWithoutATrace) {
  std::string text = "name,x,y\n";
  for (int i = 0; i < 20000; ++i) text += "N" + std::to_string(i) + "," + std::to_string(i) + ",0\n";
  const Grid grid = readGrid(text, guessDialect(text));
  std::stop_source stop;
  double seen = 0;
  const auto brought = importTable(
      Network(), grid, proposePlan(grid, guessDialect(text), nullptr, UnitSet::siWater()), &shippedStock(),
      UnitSet::siWater(),
      [&](double share) {
        seen = share;
        if (share > 0.2) stop.request_stop();
      },
      stop.get_token());
  EXPECT_FALSE(brought);
  EXPECT_GT(seen, 0.2);
  EXPECT_LT(seen, 0.5);
}

}  // namespace
}  // namespace conduit

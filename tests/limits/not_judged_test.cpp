// What applies and cannot be judged is listed, and nothing else; with the values that would tell it is
// judged.
#include "limits/not_judged.h"

#include "limits/limits.h"
#include "plain_models.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

const std::string
    rows =
        R"("curve":[{"flow":"0 L/s","head":"40 m","NPSH required":"1 m"},{"flow":"20 L/s","head":"32 m","NPSH required":"2 m"},{"flow":"40 L/s","head":"12 m","NPSH required":"4 m"}])",
    noNpsh =
        R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"32 m"},{"flow":"40 L/s","head":"12 m"}])",
    vapour = R"(,"vapour pressure":"2.3 kPa")";

// Held at S, pumped to A, through a valve to B and a line to E, where 10 L/s are drawn.
struct Said {
  const char* about;
  std::string job, pump, valve, line, words;
};
Model modelOf(const Said& s) {
  return plainModel(point("S", 0) + "," + point("A", 0) + "," + point("B", 0) + "," +
                        point("E", 0, R"("outflow":"10 L/s")"),
                    fixedAt("F", "S", "1 bar") + "," + device("pump", "P", "S", "A", s.pump) + "," +
                        device("control valve", "V", "A", "B", R"("Kv":"60 m3/h","bore":"80 mm")" + s.valve) +
                        "," +
                        device("pipe", "L", "B", "E", R"("length":"50 m","roughness":"0.1 mm",)" + s.line),
                    "", s.job);
}
const std::string bare = R"("bore":"80 mm")", rated = R"("bore":"80 mm","rating":"16 bar")",
                  bought = R"("size":"ASME B36.10M 3 40")", fl = R"(,"FL":"0.9")";

TEST(NotJudged, isWhatAppliesAndIsNotKnown) {
  for (const Said& s : {Said{"all is known", vapour, rows, fl, rated, ""},
                        {"a size that has a rating", vapour, rows, fl, bought, ""},
                        {"no rating", vapour, rows, fl, bare, "Pressure rating: 1 line"},
                        {"no NPSH required", vapour, noNpsh, fl, rated, "NPSH margin: 1 pump"},
                        {"no recovery factor", vapour, rows, "", rated, "Choking: 1 control valve"},
                        {"no vapour pressure", "", rows, fl, rated,
                         "NPSH margin: 1 pump; Vapour pressure: all points; Choking: 1 control valve"},
                        {"nothing", "", noNpsh, "", bare,
                         "NPSH margin: 1 pump; Pressure rating: 1 line; Vapour pressure: all points; "
                         "Choking: 1 control valve"},
                        {"a pump that stands: its NPSH does not matter", vapour,
                         noNpsh + R"(,"running":false)", fl, rated, ""}}) {
    const Model m = modelOf(s);
    Network n = m.drawn;
    if (std::string(s.about).starts_with("a pump that stands")) {
      Draft draft(n);  // nothing can pass it
      draft.values(n.byName("E")).clear("outflow");
      n = std::move(draft).finish();
    }
    const Solution answer = solve(n, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << s.about << ": " << answer.summary.full();
    const auto gaps = notJudged(n, answer);
    EXPECT_EQ(notJudgedSaid(n, gaps), s.words) << s.about;
    for (const NotJudged& g : gaps) {
      const Element& at = g.place == jobId ? n.job() : n.at(g.place);
      EXPECT_NE(findField(*at.part, g.field), nullptr) << s.about << ": " << g.field;
      // It has no such check: neither kept nor broken.
      if (g.element == jobId) continue;
      for (const Check& c : checksOf(n, answer, g.element)) EXPECT_NE(c.id, g.check) << s.about;
    }
  }
  EXPECT_TRUE(notJudged(modelOf({"", "", noNpsh, "", bare, ""}).drawn, Solution::none()).empty());
}

// 983 kg/m³ without a vapour pressure: a margin counted from none would be 0.24 bar, 2.5 m, too good at 64
// °C.
TEST(NotJudged, aMarginThatRestsOnNoVapourPressureIsNone) {
  const Network n = modelOf({"", R"(,"NPSH margin at least":"1 m")", rows, fl, rated, ""}).drawn;
  const Solution answer = solve(n, catalogue().get());
  for (const Check& c : checksOf(n, answer, n.byName("P"))) EXPECT_NE(c.id, CheckId::npshMargin);
}

TEST(NotJudged, isSaidByTheCommandLine) {
  const std::string points = point("S", 0) + "," + point("E", 0, R"("outflow":"10 L/s")");
  const auto file = [&](const std::string& line) {
    return fileOf(points, fixedAt("F", "S", "3 bar") + "," + pipe("L", "S", "E", 50, "100 mm", line), "",
                  plainJob + vapour);
  };
  const std::string rated = file(R"("rating":"16 bar")");
  EXPECT_EQ(ran({"solve", rated, "--strict"}).status, 0);
  EXPECT_EQ(ran({"solve", rated}).out.find("Not judged"), std::string::npos);
  const std::string open = file("");  // in its place
  EXPECT_EQ(ran({"solve", open}).status, 0);
  EXPECT_EQ(ran({"solve", open, "--strict"}).status, 1);
  EXPECT_NE(ran({"solve", open}).out.find("Not judged: Pressure rating: 1 line."), std::string::npos);
  const auto json = nlohmann::json::parse(ran({"solve", open, "--json"}).out);
  ASSERT_EQ(json["not_judged"].size(), 1u);
  EXPECT_EQ(json["not_judged"][0]["name"], "L");
  EXPECT_EQ(json["not_judged"][0]["give"], "rating");
  EXPECT_EQ(json["not_judged"][0]["why"], "no rating is given");
}

// A misspelt key is named once, of whatever it is.
TEST(UnknownKeys, areSaidAndKept) {
  const std::string file = scratch(
      R"({"format":"level-conduit","version":2,"ploints":[],"job":{"titel":"x",)" + plainJob +
      R"(},"points":[)" + point("A", 0, R"("outflw":"6 L/s")") + "," + point("B", 0) + R"(],"elements":[)" +
      fixedAt("F", "A", "1 bar") + "," + pipe("L", "A", "B", 10, "100 mm", R"("ratng":"16 bar")") + "," +
      fixedAt("G", "B", "1 bar") + "]}");
  const Ran said = ran({"solve", file});
  EXPECT_EQ(said.status, cli::limitsKept) << said.err << said.out;
  for (const char* words : {"\"outflw\" for A", "\"ratng\" for L", "\"ploints\", \"titel\" for the job"})
    EXPECT_NE(said.out.find(words), std::string::npos) << words << said.out;
  EXPECT_EQ(said.out.find("for B"), std::string::npos) << said.out;
}

}  // namespace
}  // namespace conduit::test

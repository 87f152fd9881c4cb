// The grid of all cases, differences in words, a year's energy.
#include "cases/grid.h"
#include "plain_models.h"

#include "cases/case_edits.h"
#include "cases/grid_edits.h"
#include "cases/year.h"
#include "fields/keys.h"
#include "model/costs.h"
#include "model/watched.h"
#include "model_text.h"

namespace conduit {
namespace {

// Three guns of K 60 L/min/√bar at 4 bar: 2 L/s each; P lifts 3 L/s by 20 m at 60 %.
Model guns() {
  return {test::model(
      test::point("A", 0) + "," + test::point("W", 0) + "," + test::point("D", 0, "\"outflow\":\"3 L/s\""),
      R"({"kind":"fixed pressure","name":"S","point":"A","pressure":"4 bar"},)"
      R"({"kind":"nozzle","name":"Gun 1","point":"A","K-factor":"60 L/min/bar^0.5"},)"
      R"({"kind":"nozzle","name":"Gun 2","point":"A","K-factor":"60 L/min/bar^0.5"},)"
      R"({"kind":"nozzle","name":"Gun 3","point":"A","K-factor":"60 L/min/bar^0.5"},)" +
          test::held("W", 0) + "," +
          test::device(
              "pump", "P", "W", "D",
              R"("curve":[{"flow":"0 L/s","head":"22 m","efficiency":"60 %"},{"flow":"3 L/s","head":"20 m","efficiency":"60 %"},)"
              R"({"flow":"6 L/s","head":"17 m","efficiency":"60 %"}],"efficiency":"60 %")"))};
}
Model made(Result<EditedModel> done) {
  EXPECT_TRUE(done) << done.error().what;
  return done ? done->model : Model();
}
Model setIn(const Model& model, CaseId id, std::vector<const char*> names, const char* key,
            const char* text) {
  const Network shown = networkOf(model, id);
  Remedy all;
  for (const char* name : names) all.edits.push_back({name, key, text});
  const auto done = applyRemedy(shown, all, &shippedStock(), nullptr);
  EXPECT_TRUE(done) << done.error().what;
  return withEdit(model, id, done->network);
}

}  // namespace

// A found number that is given in one case is that number, to its last figure.
TEST(Grid, aFoundNumberThatIsGivenKeepsItsDigits) {
  const Model model = made(addCase(guns(), "Other", drawingCase));
  const CaseId other = model.cases.others.front().id;
  const Id gun = model.drawn.byName("Gun 1");
  const double found = 0.0020123456789012345;
  const auto edited =
      swapInCase(model, other, gun, key::flow, true, found, &shippedStock(), UnitSet::siWater());
  ASSERT_TRUE(edited) << edited.error().what;
  const Network there = networkOf(edited->model, other);
  EXPECT_NEAR(there.at(gun).values.goal(key::flow)->value, found, 2e-16 * found);
  EXPECT_EQ(model.drawn.at(gun).values.goal(key::flow), nullptr);
}

TEST(Grid, showsWhatDiffersOnceAndWhatIsWatchedWithItsWorst) {
  Model model = made(addCase(guns(), "One gun", drawingCase));
  const CaseId one = model.cases.others.front().id;
  model = setIn(model, one, {"Gun 2", "Gun 3"}, "open", "no");
  model = setIn(model, one, {"S"}, "pressure", "6.25 bar");
  model = made(
      watch(model, {.over = Watched::Over::sum, .outcome = "flow", .elements = {}, .condition = "nozzles"}));
  model = made(watch(
      model, {.over = Watched::Over::least, .outcome = "pressure", .elements = {}, .condition = "nozzles"}));
  const auto answers = balanceCases(model, model.cases.ids(), stockFor(model.drawn, shippedStock()));
  for (const auto& a : answers) ASSERT_TRUE(a->usable()) << a->solution.summary.full();
  const CaseGrid grid = gridOf(model, answers, UnitSet::siWater());
  ASSERT_EQ(grid.cases.size(), 2u);
  EXPECT_EQ(grid.cases[1].parent, "based on Base case");
  ASSERT_EQ(grid.differ.size(), 3u) << "two guns share a row; pressure; hours";
  const auto open =
      std::find_if(grid.differ.begin(), grid.differ.end(), [](const GridRow& r) { return r.key == "open"; });
  ASSERT_NE(open, grid.differ.end());
  EXPECT_EQ(open->whose, "Gun 2, 3");
  EXPECT_EQ(open->cells[0].text, "yes");
  EXPECT_EQ(open->cells[1].text, "no");
  EXPECT_TRUE(open->cells[1].own);
  // 60·√4/60 = 2 L/s each of three; 60·√6.25/60 = 2.5 L/s of one.
  ASSERT_EQ(grid.watched.size(), 2u);
  EXPECT_NEAR(*grid.watched[0].cells[0].si, 3 * 0.002, 1e-12);
  EXPECT_NEAR(*grid.watched[0].cells[1].si, 0.0025, 1e-12);
  EXPECT_EQ(grid.watched[0].cells[0].text, "6.00");
  EXPECT_FALSE(grid.watched[0].cells[0].worst) << "of a sum nobody can tell";
  EXPECT_TRUE(grid.watched[1].cells[0].worst) << "4 bar is less than 6.25";
  const auto words = differencesInWords(model, drawingCase, one, UnitSet::siWater());
  ASSERT_EQ(words.size(), 2u);
  EXPECT_NE(std::find(words.begin(), words.end(), "Gun 2, 3 open: no (Base case: yes)"), words.end())
      << words[0];
  const auto changes = changesBetween(model, *answers[0], *answers[1], UnitSet::siWater());
  ASSERT_EQ(changes.size(), 2u);
  EXPECT_EQ(changes[0].label, "Nozzles sum of flow") << "−58 % before +56 %";
  EXPECT_NEAR(*changes[0].share, -3.5 / 6, 1e-9);
}

TEST(Grid, aFoundFieldShowsWhatWasFoundAndItsOutcomeWhatIsGiven) {
  Model model = made(addCase(guns(), "Held", drawingCase));
  const CaseId held = model.cases.others.front().id;
  model = setIn(model, held, {"Gun 1"}, "given flow", "3 L/s");
  model = setIn(model, held, {"Gun 1"}, "found K-factor", "yes");
  const auto answers = balanceCases(model, model.cases.ids(), stockFor(model.drawn, shippedStock()));
  ASSERT_TRUE(answers[1]->usable());
  const CaseGrid grid = gridOf(model, answers, UnitSet::siWater());
  ASSERT_EQ(grid.differ.size(), 3u);
  const GridRow& k = grid.differ[0];
  EXPECT_EQ(k.key, "K-factor");
  EXPECT_FALSE(k.cells[0].found);
  EXPECT_TRUE(k.cells[1].found);
  EXPECT_NEAR(*k.cells[1].si / *k.cells[0].si, 1.5, 1e-9) << "3 L/s in place of 2";
  const GridRow& flow = grid.differ[1];
  EXPECT_EQ(flow.kind, GridRow::Kind::given);
  EXPECT_TRUE(flow.cells[0].found);
  EXPECT_EQ(flow.cells[0].text, "2.000");
  EXPECT_EQ(flow.cells[1].text, "3");
}

TEST(Grid, aYearIsTheShaftPowerOverItsLossesByTheHours) {
  Model model = made(addCase(guns(), "Off", drawingCase));
  const CaseId off = model.cases.others.front().id;
  model = setIn(model, off, {"P"}, "running", "no");
  model = setIn(model, off, {"D"}, "outflow", "0 L/s");
  model = made(setAbout(model, off, cases::hours, "760 h", nullptr));
  model = made(setCost(model, costs::tariff, "0.2", nullptr));
  model = made(setCost(model, costs::motorEfficiency, "90 %", nullptr));
  model = made(setCost(model, costs::driveEfficiency, "95 %", nullptr));
  const auto answers = balanceCases(model, model.cases.ids(), stockFor(model.drawn, shippedStock()));
  const Year year = yearOf(model, answers);
  ASSERT_EQ(year.cases.size(), 2u);
  // ρgQH/η with ρ at 10 °C 999.70 kg/m³ (Kell 1975): 999.70·9.80665·0.003·20/0.6; 8,760 − 760 h.
  const double shaft = 999.70 * 9.80665 * 0.003 * 20 / 0.6;
  EXPECT_NEAR(*year.cases[0].shaft_w, shaft, shaft * 2e-5);
  EXPECT_EQ(*year.cases[1].shaft_w, 0.0);
  EXPECT_NEAR(year.energy_j, shaft / (0.9 * 0.95) * 8000 * 3600, year.energy_j * 2e-5);
  EXPECT_NEAR(*year.cost, year.energy_j / 3.6e6 * 0.2, 1e-9);
  EXPECT_FALSE(year.tooLong());
  model = made(setAbout(model, drawingCase, cases::hours, "8700 h", nullptr));
  EXPECT_TRUE(yearOf(model, answers).tooLong());
}

TEST(Grid, namesTogetherAreShort) {
  const Network n = guns().drawn;
  const auto ids = [&](std::vector<const char*> names) {
    std::vector<Id> all;
    for (const char* name : names) all.push_back(n.byName(name));
    return all;
  };
  EXPECT_EQ(namesTogether(n, ids({"Gun 1"})), "Gun 1");
  EXPECT_EQ(namesTogether(n, ids({"Gun 1", "Gun 2", "Gun 3"})), "Gun 1 … 3");
  EXPECT_EQ(namesTogether(n, ids({"Gun 1", "Gun 3"})), "Gun 1, 3");
  EXPECT_EQ(namesTogether(n, ids({"Gun 1", "P"})), "Gun 1, P");
  EXPECT_EQ(namesTogether(n, ids({"Gun 1", "P", "S", "D"})), "Gun 1 and 3 others");
}

TEST(CaseTable, aCountIsACount) {
  using namespace test;
  const auto m = readModel(
      R"({"format":"level-conduit","version":2,"cases":[{"drawing":true,"name":"One"},{"name":"Two","differs":[{"element":"P","units":"2"}]}],"points":[)" +
          point("A", 0) + "," + point("B", 0) + R"(],"elements":[)" + fixedAt("F", "A", "1 bar") + "," +
          device("pump", "P", "A", "B",
                 R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}])") +
          "]}",
      &shippedStock());
  ASSERT_TRUE(m.has_value());
  const auto words = differencesInWords(*m, m->cases.byName("Two")->id, drawingCase, UnitSet::siWater());
  ASSERT_EQ(words.size(), 1u);
  EXPECT_EQ(words[0], "P units: 1 (Two: 2)");
}

TEST(CaseTable, whatAnItemBringsIsOneRow) {
  using namespace test;
  // The case has another item and a note of its own with it: one row.
  const std::string file = fileOf(
      point("A", 0) + "," + point("B", 0),
      tankAt("T", "A", "5 m", "0 m") + "," + tankAt("U", "B", "10 m", "0 m") + "," +
          device(
              "pump", "P", "A", "B",
              R"("curve":[{"flow":"0 L/s","head":"60 m"},{"flow":"20 L/s","head":"30 m"}],"note":"as found")"),
      R"("cases":[{"drawing":true,"name":"Now"},{"name":"Other","differs":[{"element":"P","stock item":"Fold 12.5-25","note":"as tried"}]},{"name":"Noted","differs":[{"element":"T","level":"6 m"}]}],)");
  const Ran r = ran({"cases", file});
  EXPECT_NE(r.out.find("P catalogue item (and 1 of its fields)"), std::string::npos) << r.out << r.err;
  EXPECT_EQ(r.out.find("P note"), std::string::npos) << r.out;
  EXPECT_NE(r.out.find("T level"), std::string::npos) << r.out;
}

}  // namespace conduit

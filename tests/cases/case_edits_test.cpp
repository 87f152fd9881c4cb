// Cases: edits of the network while one of them is current, and edits of the cases themselves.
#include "cases/case_edits.h"

#include <random>

#include "cases/balance.h"
#include "model/watched.h"
#include "model_text.h"
#include "network/arrange.h"
#include "parts/registry.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

// A valve between two held pressures: Q = Kv·√(g·ΔH/100) in m³/h, whatever the density (IEC 60534-1).
Model valveBetween() {
  return {test::model(
      test::point("A", 0) + "," + test::point("C", 0),
      test::held("A", 50) + "," + test::held("C", 20) + "," +
          test::device("control valve", "V", "A", "C", "\"Kv\":\"60 Kv\",\"opening\":\"100 %\""))};
}
Network edited(const Network& network, const char* name, const char* key, const char* text) {
  // As a remedy edits, which may let fields be found.
  auto done = applyRemedy(network, {"", {{name, key, text}}, {}}, &shippedStock(), &UnitSet::siWater());
  EXPECT_TRUE(done) << done.error().what;
  return done ? done->network : network;
}
Model with(Result<EditedModel> done) {
  EXPECT_TRUE(done) << done.error().what;
  return done ? done->model : Model();
}
std::string typed(const Network& n, const char* name, const char* key) {
  const Element& e = n.at(n.byName(name));
  const Given* g = e.given(key);
  return g ? g->typed : e.values.released(key) ? "found" : "";
}
double flowOf(const CaseAnswerPtr& a, const char* name) { return test::flow(a->network, a->solution, name); }

// Day: ΔH 30 m; Night: 18 m; Throttled, from Night: 10 L/s given, the opening found.
struct Three {
  Model model = valveBetween();
  CaseId night = noCase, throttled = noCase;
  Three() {
    model = with(addCase(model, "Night", drawingCase));
    night = model.cases.byName("Night")->id;
    model = withEdit(model, night, edited(networkOf(model, night), "held A", "pressure", "38 m"));
    model = with(addCase(model, "Throttled", night));
    throttled = model.cases.byName("throttled")->id;
    const Network found = edited(networkOf(model, throttled), "V", "given flow", "10 L/s");
    model = withEdit(model, throttled, edited(found, "V", "found opening", "yes"));
  }
};

}  // namespace

TEST(Cases, aDifferenceHoldsInItsCaseAndInThoseThatDeriveFromIt) {
  const Three t;
  EXPECT_EQ(typed(t.model.drawn, "held A", "pressure"), "50.000000 m") << "the drawing stays";
  EXPECT_EQ(typed(networkOf(t.model, t.throttled), "held A", "pressure"), "38 m");
  const auto answers = balanceCases(t.model, t.model.cases.ids(), stockFor(t.model.drawn, shippedStock()));
  ASSERT_EQ(answers.size(), 3u);
  // 60·√(9.80665·30/100)/3600, 60·√(9.80665·18/100)/3600, as given; to the solver's 1e-7 m.
  EXPECT_NEAR(flowOf(answers[0], "V"), 60 * std::sqrt(9.80665 * 30 / 100) / 3600, 1e-9);
  EXPECT_NEAR(flowOf(answers[1], "V"), 60 * std::sqrt(9.80665 * 18 / 100) / 3600, 1e-9);
  EXPECT_NEAR(flowOf(answers[2], "V"), 0.010, 1e-12);
  // 36 = 60·h·√(9.80665·18/100): h = 0.45160.
  const auto opening = answers[2]->solution.foundFor(t.model.drawn.byName("V"), "opening");
  ASSERT_TRUE(opening);
  EXPECT_NEAR(*opening, 36.0 / (60 * std::sqrt(9.80665 * 18 / 100)), 1e-7);
}

TEST(Cases, anOutcomeGivenInACaseMustFindSomethingInThatCase) {
  Three t;
  const Network tooMuch = edited(networkOf(t.model, t.night), "V", "given flow", "10 L/s");
  const Model next = withEdit(t.model, t.night, tooMuch);
  const auto answers = balanceCases(next, next.cases.ids(), stockFor(next.drawn, shippedStock()));
  EXPECT_TRUE(answers[0]->usable()) << "the drawing knows nothing of it";
  EXPECT_EQ(answers[1]->solution.summary.verdict, Verdict::cannotYet);
  EXPECT_FALSE(answers[1]->findings.empty());
  EXPECT_TRUE(answers[2]->usable()) << "it has its opening found";
  const CaseStanding all = standingOf(answers);
  EXPECT_EQ(all.balanced, 2u);
  EXPECT_EQ(all.worstIn, t.night);
}

TEST(Cases, whatIsAsInheritedDiffersNoMore) {
  Three t;
  const Id held = t.model.drawn.byName("held A");
  Model next =
      withEdit(t.model, t.night, edited(networkOf(t.model, t.night), "held A", "pressure", "50.000000 m"));
  EXPECT_TRUE(next.cases.find(t.night)->differs.empty());
  next = with(inherit(t.model, t.night, std::vector{held}, "pressure", false));
  EXPECT_TRUE(next.cases.find(t.night)->differs.empty());
  EXPECT_FALSE(inherit(next, t.night, std::vector{held}, "pressure", false)) << "nothing differs there";
  // A change of the drawing reaches the cases that say nothing of their own.
  next = withEdit(next, drawingCase, edited(next.drawn, "held A", "pressure", "44 m"));
  EXPECT_EQ(typed(networkOf(next, t.throttled), "held A", "pressure"), "44 m");
  next = withEdit(t.model, drawingCase, edited(t.model.drawn, "held A", "pressure", "44 m"));
  EXPECT_EQ(typed(networkOf(next, t.night), "held A", "pressure"), "38 m") << "its own stays";
}

TEST(Cases, structureActsForAllWhateverCaseIsCurrent) {
  Three t;
  const Network shown = networkOf(t.model, t.night);
  auto renamed = rename(shown, shown.byName("V"), "V-9");
  ASSERT_TRUE(renamed);
  EXPECT_TRUE(isStructural(shown, renamed->network));
  Model next = withEdit(t.model, t.night, renamed->network);
  for (const CaseId id : next.cases.ids()) EXPECT_NE(networkOf(next, id).byName("V-9"), noId);
  EXPECT_EQ(typed(next.drawn, "held A", "pressure"), "50.000000 m") << "the case's value stays the case's";
  EXPECT_EQ(typed(networkOf(next, t.throttled), "V-9", "opening"), "found");
  // A new line holds for all, with all that was given to it.
  auto line =
      joinPoints(networkOf(next, t.throttled), *findPart("pipe"), shown.byName("A"), shown.byName("C"));
  ASSERT_TRUE(line);
  Network drawn = line->network;
  const std::string pipe = drawn.at(line->made).name;
  next = withEdit(next, t.throttled, drawn);
  EXPECT_NE(next.drawn.byName(pipe), noId);
  EXPECT_EQ(typed(networkOf(next, t.throttled), "V-9", "opening"), "found");
  EXPECT_EQ(typed(next.drawn, "V-9", "opening"), "100 %");
  // What is removed is removed from all, and so is what cases said of it.
  auto removed = removeAll(networkOf(next, t.night), std::vector{next.drawn.byName("V-9")});
  ASSERT_TRUE(removed);
  next = withEdit(next, t.night, removed->network);
  EXPECT_EQ(next.drawn.byName("V-9"), noId);
  EXPECT_TRUE(next.cases.find(t.throttled)->differs.empty());
  // Titles and how it is drawn are of the drawing.
  next = withEdit(next, t.night, edited(networkOf(next, t.night), "job", "title", "Upper works"));
  EXPECT_EQ(*next.drawn.job().text("title"), "Upper works");
  next = withEdit(next, t.night, edited(networkOf(next, t.night), "job", "temperature", "4 °C"));
  EXPECT_EQ(next.drawn.job().given("temperature"), nullptr) << "of the case";
}

TEST(Cases, whoIsNamedInACaseGoesOnBeingNamed) {
  Model model{test::model(test::point("A", 0) + "," + test::point("B", 0) + "," + test::point("C", 0),
                          test::held("A", 50) + "," + test::pipe("L", "B", "C", 10) + "," +
                              test::device("reducing valve", "R", "A", "B", "\"set point\":\"2 bar\""))};
  model = with(addCase(model, "", drawingCase));
  const CaseId id = model.cases.others.front().id;
  EXPECT_EQ(model.cases.others.front().name, "Case 2");
  model = withEdit(model, id, edited(networkOf(model, id), "R", "senses", "C"));
  auto renamed = rename(model.drawn, model.drawn.byName("C"), "C-far");
  ASSERT_TRUE(renamed);
  model = withEdit(model, drawingCase, renamed->network);
  const Network there = networkOf(model, id);
  EXPECT_EQ(*there.at(there.byName("R")).text("senses"), "C-far");
}

TEST(Cases, aFieldOrAnElementForAllCasesInstead) {
  Three t;
  const Id held = t.model.drawn.byName("held A"), valve = t.model.drawn.byName("V");
  Model next = with(giveToAll(t.model, t.throttled, held, "pressure"));
  EXPECT_EQ(typed(next.drawn, "held A", "pressure"), "38 m");
  EXPECT_TRUE(next.cases.find(t.night)->differs.empty()) << "it came from there";
  next = with(giveToAll(next, t.throttled, valve));
  EXPECT_EQ(typed(next.drawn, "V", "opening"), "found");
  EXPECT_EQ(next.drawn.at(valve).values.goal("flow")->typed, "10 L/s");
  EXPECT_TRUE(next.cases.find(t.throttled)->differs.empty());
  EXPECT_FALSE(giveToAll(next, t.throttled, valve));
}

TEST(Cases, namesAndParentsThatCannotBeAreRefused) {
  const Three t;
  EXPECT_FALSE(addCase(t.model, "night", drawingCase)) << "the name is taken, whatever its capitals";
  EXPECT_FALSE(addCase(t.model, "two\nlines", drawingCase));
  EXPECT_FALSE(addCase(t.model, "Dusk", 99));
  EXPECT_FALSE(renameCase(t.model, t.night, "AS DRAWN"));
  EXPECT_FALSE(setParent(t.model, t.night, t.throttled)) << "a ring";
  EXPECT_FALSE(setParent(t.model, t.night, t.night));
  EXPECT_FALSE(setParent(t.model, drawingCase, t.night));
  EXPECT_FALSE(removeCase(t.model, drawingCase));
  EXPECT_FALSE(makeDrawing(t.model, drawingCase));
  EXPECT_FALSE(setAbout(t.model, t.night, cases::hours, "9000 h", nullptr)) << "no year has so many";
  EXPECT_FALSE(setAbout(t.model, t.night, cases::counts, "perhaps", nullptr));
  EXPECT_EQ(with(setAbout(t.model, drawingCase, cases::hours, "700 h", nullptr))
                .costs.get<Given>(cases::hours)
                ->value,
            700 * 3600.0)
      << "the drawing's hours have one home";
}

// On random networks with random cases: a case is what was edited; whoever does not derive from it keeps all;
// removing, promoting and saving change no network that is not meant.
TEST(Cases, onRandomModelsEditsReachWhatIsMeantAndNothingElse) {
  std::mt19937 chance(14);
  const auto content = [](const Network& n) { return writeModel(n); };
  const auto changed = [&](const Network& network) {
    Draft draft(network);
    for (int i = 0; i < 12; ++i) {
      const Id id = static_cast<Id>(chance() % network.bound());
      const Element* e = network.find(id);
      if (!e || id == jobId) continue;
      const Field& f = e->part->fields[chance() % e->part->fields.size()];
      if (f.ofDrawing || f.kind != FieldKind::quantity) continue;
      const double v = 1.0 + static_cast<double>(chance() % 50);
      if (chance() % 3 == 0 && f.releasable && e->values.entry(f.key)) draft.values(id).release(f.key);
      else if (chance() % 4 == 0) draft.values(id).clear(f.key);
      else draft.values(id).set(f.key, Given{v, Basis::direct, std::to_string(v)});
      if (chance() % 5 == 0 && !e->part->outcomes.empty())
        draft.values(id).give(e->part->outcomes.front().key, Given{v, Basis::direct, std::to_string(v)});
    }
    return std::move(draft).finish();
  };
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    Model model{test::randomNetwork(seed, 30)};
    for (int i = 0; i < 4; ++i)
      model = with(addCase(model, "", model.cases.ids()[chance() % model.cases.count()]));
    for (int step = 0; step < 8; ++step) {
      const CaseId id = model.cases.ids()[chance() % model.cases.count()];
      std::map<CaseId, std::string> before;
      for (const CaseId c : model.cases.ids()) before[c] = content(networkOf(model, c));
      const Network wanted = changed(networkOf(model, id));
      const Model next = withEdit(model, id, wanted);
      EXPECT_EQ(content(networkOf(next, id)), content(wanted)) << "seed " << seed;
      for (const CaseId c : model.cases.ids())
        if (!model.cases.derives(c, id)) EXPECT_EQ(content(networkOf(next, c)), before[c]) << "seed " << seed;
      model = next;
    }
    std::map<CaseId, std::string> all;
    for (const CaseId c : model.cases.ids()) all[c] = content(networkOf(model, c));
    const CaseId one = model.cases.others[chance() % model.cases.others.size()].id;
    const Model removed = with(removeCase(model, one)), promoted = with(makeDrawing(model, one));
    for (const CaseId c : model.cases.ids()) {
      if (c != one) EXPECT_EQ(content(networkOf(removed, c)), all[c]) << "seed " << seed;
      EXPECT_EQ(content(networkOf(promoted, c)), all[c == drawingCase ? one : c]) << "seed " << seed;
    }
    // A structural edit with any case current: fields of other cases, and of the drawing, stay.
    const Network shown = networkOf(model, one);
    Id pipe = noId;
    shown.each([&](Id id, const Element& e) {
      if (e.part->key == "pipe") pipe = id;
    });
    ASSERT_NE(pipe, noId);
    const auto cut = removeAll(shown, std::vector{pipe});
    ASSERT_TRUE(cut);
    const Model without = withEdit(model, one, cut->network);
    for (const CaseId c : model.cases.ids()) {
      // The same elements taken away (a point goes with its last line unless it does something in that case).
      Draft same(networkOf(model, c));
      for (Id id = 0; id < shown.bound(); ++id)
        if (same.network().find(id) && !cut->network.find(id)) same.remove(id);
      EXPECT_EQ(content(networkOf(without, c)), content(std::move(same).finish()))
          << "seed " << seed << " case " << c;
    }
  }
}

// Through the file: names in place of numbers, and nothing lost.
TEST(Cases, theFileCarriesThemWhole) {
  Three t;
  Model model = with(setAbout(t.model, t.night, cases::hours, "1000 h", nullptr));
  model = with(setAbout(model, t.night, cases::remark, "from dusk to dawn", nullptr));
  model = with(setAbout(model, t.throttled, cases::counts, "no", nullptr));
  model = with(renameCase(model, drawingCase, "Day"));
  model = withEdit(model, t.night, edited(networkOf(model, t.night), "V", "opening", ""));
  model = with(watch(model, {.over = Watched::Over::one,
                             .outcome = "flow",
                             .elements = {model.drawn.byName("V")},
                             .condition = {}}));
  model = with(watch(
      model, {.over = Watched::Over::least, .outcome = "pressure", .elements = {}, .condition = "points"}));
  const std::string text = writeModel(model);
  const auto again = readModel(text, &shippedStock());
  ASSERT_TRUE(again) << again.error().front().what;
  EXPECT_EQ(writeModel(*again), text);
  ASSERT_EQ(again->cases.count(), 3u);
  EXPECT_EQ(again->cases.drawing.name, "Day");
  for (const char* name : {"Day", "Night", "Throttled"})
    EXPECT_EQ(writeModel(networkOf(*again, again->cases.byName(name)->id)),
              writeModel(networkOf(model, model.cases.byName(name)->id)));
  EXPECT_FALSE(flagOf(*again->cases.byName("Throttled"), cases::counts));
  EXPECT_EQ(*again->cases.byName("Night")->about.get<std::string>(cases::remark), "from dusk to dawn");
  EXPECT_EQ(again->of<WatchedResults>().all.size(), 2u);
}

class BadCases : public testing::TestWithParam<std::pair<const char*, const char*>> {};
TEST_P(BadCases, areSaidWithTheirLine) {
  const auto [text, said] = GetParam();
  const auto model =
      readModel(std::string(R"({"format":"level-conduit","version":2,)") + "\n" + text + "," + "\n" +
                    R"("points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m"}],
             "elements":[{"kind":"pipe","name":"L","from":"A","to":"B","length":"5 m","bore":"50 mm","roughness":"0.1 mm"}]})",
                &shippedStock());
  ASSERT_FALSE(model);
  EXPECT_NE(model.error().front().what.find(said), std::string::npos) << model.error().front().what;
  EXPECT_NE(model.error().front().what.find("line 2"), std::string::npos) << model.error().front().what;
}
INSTANTIATE_TEST_SUITE_P(
    Every, BadCases,
    testing::Values(
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"X","bore":"5 mm"}]}])", "there is no X"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"L","bore":"5 bananas"}]}])", "bananas"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"L","found":["material"]}]}])",
                  "cannot be solved for"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"L","given":{"warmth":"5 m"}}]}])",
                  "has no result"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"L","given":{"flow":"5 bananas"}}]}])",
                  "flow of L"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"job","title":"x"}]}])",
                  "same in every case"},
        std::pair{R"("cases":[{"name":"N","differs":[{"element":"L","boer":"5 mm"}]}])", "has no field"},
        std::pair{R"("cases":[{"name":"N","differs":{"L":{}}}])", "must be a list"},
        std::pair{R"("cases":[{"name":"N","differs":["L"]}])", "an object with an"},
        std::pair{R"("cases":[{"name":"N"},{"name":"n"}])", "two cases"},
        std::pair{R"("cases":[{"name":"N","from":"M"}])", "there is no case"},
        std::pair{R"("cases":[{"name":"N","from":"M"},{"name":"M","from":"N"}])", "based on itself"},
        std::pair{R"("cases":[{"name":"N"},{"name":"D","drawing":true}])", "must be the first case"},
        std::pair{R"("cases":[{"remark":"none"}])", "no \"name\""},
        std::pair{R"("cases":{"N":{}})", "must be a list"},
        std::pair{R"("watched outcomes":[{"outcome":"flow","of":["X"]}])", "there is no X"},
        std::pair{R"("watched outcomes":[{"outcome":"warmth","of":["L"]}])", "has no result"},
        std::pair{R"("watched outcomes":[{"outcome":"flow","over":"best","where":"pipes"}])",
                  "least, greatest"},
        std::pair{R"("watched outcomes":[{"outcome":"flow","where":"pipes"}])", "over"},
        std::pair{R"("watched outcomes":[{"outcome":"flow","over":"sum","where":"bananas"}])", "bananas"}));

}  // namespace conduit

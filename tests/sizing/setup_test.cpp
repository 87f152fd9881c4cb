// What a sizing is asked for: in the file, as limits, as ties and ranges.
#include <gtest/gtest.h>

#include "cases/case_edits.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "model/sizing_setup.h"
#include "plain_models.h"
#include "sizing/choices.h"
#include "sizing/search.h"
#include "sizing/slopes.h"
#include "sizing/words.h"

namespace conduit::test {
namespace {

const char* everything =
    R"({"format":"level-conduit","version":2,"job":{},
"sizing":{"least":"mass","trials":"12","seed":"3","sizes":[{"standard":"ASME B36.10M","schedule":"40","from":"2","to":"6","service":"Mains"}],
"left as they are":["L-2"],"one size together":[{"name":"both","lines":["L-1","L-3"]}],
"laying":[{"name":"main road","more for 1 m":"40","more for 1 m and 100 mm":"12.5","lines":["L-2","L-3"]}],
"branches":[{"valve":"V","flow":"3 L/s"}],"kept proposals":[{"name":"first","sizes":{"L-1":"ASME B36.10M 4 40","gone":"x"}}],"of later":{"a":1}},
"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m"},{"name":"C","height":"0 m"},{"name":"D","height":"0 m"},{"name":"E","height":"0 m"}],
"elements":[{"kind":"pipe","name":"L-1","from":"A","to":"B","length":"10 m","size":"ASME B36.10M 4 40","roughness":"0.1 mm"},
{"kind":"pipe","name":"L-2","from":"B","to":"C","length":"10 m","size":"ASME B36.10M 4 40","roughness":"0.1 mm"},
{"kind":"pipe","name":"L-3","from":"C","to":"D","length":"10 m","size":"ASME B36.10M 4 40","roughness":"0.1 mm"},
{"kind":"control valve","name":"V","from":"D","to":"E","Kv":"20 m3/h"},
{"kind":"fixed pressure","name":"S","point":"A","pressure":"2 bar"},{"kind":"fixed pressure","name":"R","point":"E","pressure":"1 bar"}]})";

TEST(SizingSetup, goesThroughTheFileAndBack) {
  const auto model = readModel(everything, &shippedStock());
  ASSERT_TRUE(model.has_value()) << model.error().front().what;
  const SizingSetup& s = model->of<SizingSetup>();
  EXPECT_EQ(*s.about.get<std::string>(sizing::least), "mass");
  EXPECT_DOUBLE_EQ(sizingNumber(s.about, sizing::trials), 12);
  ASSERT_EQ(s.ranges.size(), 1u);
  EXPECT_EQ(said(s.ranges[0]), "ASME B36.10M 40 from 2 to 6 for Mains");
  EXPECT_EQ(*rangeFrom(said(s.ranges[0]), shippedStock()), s.ranges[0]);
  EXPECT_EQ(s.left, std::vector<Id>{model->drawn.byName("L-2")});
  EXPECT_EQ(s.tied.at(0).lines.size(), 2u);
  EXPECT_DOUBLE_EQ(s.branches.at(0).flow.value, 0.003);
  ASSERT_EQ(s.laying.size(), 1u);
  EXPECT_EQ(said(s.laying[0]), "main road 40 + 12.5");
  EXPECT_EQ(s.layingOf(model->drawn.byName("L-3")), &s.laying[0]);
  EXPECT_EQ(s.layingOf(model->drawn.byName("L-1")), nullptr);
  EXPECT_EQ(s.kept.at(0).sizes.size(), 1u) << "a line that is gone since is no fault";
  const std::string text = writeModel(*model);
  EXPECT_NE(text.find("\"of later\""), std::string::npos);
  const auto again = readModel(text, &shippedStock());
  ASSERT_TRUE(again.has_value());
  EXPECT_EQ(again->of<SizingSetup>().ranges, s.ranges);
  EXPECT_EQ(again->of<SizingSetup>().laying, s.laying);
  EXPECT_EQ(writeModel(*again), text);
  // By Id inside: renamed, it is the same; taken away, it is left out.
  Draft draft(model->drawn);
  draft.rename(model->drawn.byName("L-2"), "Main");
  Model renamed = *model;
  renamed.drawn = std::move(draft).finish();
  EXPECT_NE(writeModel(renamed).find("\"left as they are\": [\"Main\"]"), std::string::npos);
  // The first version knew nothing of it: somebody else's key, passed on.
  std::string old = everything;
  old.replace(old.find("\"version\":2"), 11, "\"version\":1");
  const auto first = readModel(old, &shippedStock());
  ASSERT_TRUE(first.has_value());
  EXPECT_TRUE(first->of<SizingSetup>().empty());
}

struct Wrong {
  const char *from, *to, *says;
};
class SizingSetupWrong : public testing::TestWithParam<Wrong> {};
TEST_P(SizingSetupWrong, isSaidWithItsPlace) {
  std::string text = everything;
  const auto at = text.find(GetParam().from);
  ASSERT_NE(at, std::string::npos);
  text.replace(at, std::string(GetParam().from).size(), GetParam().to);
  const auto model = readModel(text, &shippedStock());
  ASSERT_FALSE(model.has_value());
  EXPECT_NE(model.error().front().what.find(GetParam().says), std::string::npos)
      << model.error().front().what;
  EXPECT_NE(model.error().front().what.find("line "), std::string::npos) << model.error().front().what;
}
INSTANTIATE_TEST_SUITE_P(
    All, SizingSetupWrong,
    testing::Values(Wrong{R"("trials":"12")", R"("trials":"-1")", "trials"},
                    Wrong{R"("least":"mass")", R"("least":"beauty")", "least"},
                    Wrong{R"(["L-2"])", R"(["L-9"])", "there is no L-9"},
                    Wrong{R"(["L-2"])", R"(["V"])", "V is not a pipe"},
                    Wrong{R"(["L-2"])", R"("L-2")", "must be a list"},
                    Wrong{R"(["L-1","L-3"])", R"(["L-1"])", "at least two \"lines\""},
                    Wrong{R"("more for 1 m":"40")", R"("more for 1 m":"-4")", "main road"},
                    Wrong{R"("more for 1 m":"40")", R"("more for 1 m":"much")", "main road"},
                    Wrong{R"("name":"main road",)", "", "no \"name\""},
                    Wrong{R"(["L-2","L-3"])", R"(["L-2","X"])", "there is no X"},
                    Wrong{R"("flow":"3 L/s")", R"("flow":"3 bar")", "flow of V"},
                    Wrong{R"("standard":"ASME B36.10M","schedule")", R"("schedule")", "standard"},
                    Wrong{R"([{"valve")", R"([5,{"valve")", "must be an object"}));

TEST(SizingSetup, aClassOfLayingIsTypedInWords) {
  const std::vector<LayingClass> known{{.name = "in the hall", .perMetre = 7}};
  struct Typed {
    const char *text, *name;
    double each, by100;
  };
  for (const Typed& t :
       {Typed{"road 40 + 12", "road", 40, 12}, Typed{"main road 40", "main road", 40, 0},
        Typed{" road  2.5+0.5 ", "road", 2.5, 0.5}, Typed{"in the hall", "in the hall", 7, 0},
        Typed{"B 12 road 0", "B 12 road", 0, 0}}) {
    const auto c = layingFrom(t.text, known);
    ASSERT_TRUE(c.has_value()) << t.text;
    EXPECT_EQ(c->name, t.name);
    EXPECT_DOUBLE_EQ(c->perMetre, t.each);
    EXPECT_NEAR(c->byDiameter * 0.1, t.by100, 1e-12);
  }
  for (const char* text : {"", "road", "40", "+ 12", "road 40 +", "road -4", "road 40 + x", "road much"})
    EXPECT_FALSE(layingFrom(text, known).has_value()) << text;
}

// By hand: 10 m each at 4 and 6 inches, in a road that adds 40 a metre and 12.5 for 100 mm of outside
// diameter (114.3 and 168.3 mm).
TEST(SizingSetup, aClassOfLayingIsInTheCosts) {
  auto model = readModel(everything, &shippedStock());
  ASSERT_TRUE(model.has_value());
  edit<SizingSetup>(*model, [&](SizingSetup& s) { s.ranges.clear(), s.left.clear(), s.tied.clear(); });
  SizingOptions options;
  options.objective = Objective::laid;
  const auto stock = readAndShared(shippedStock());
  const auto with = sizingTask(*model, options, stock, UnitSet::siWater());
  edit<SizingSetup>(*model, [&](SizingSetup& s) { s.laying.clear(); });
  const auto without = sizingTask(*model, options, stock, UnitSet::siWater());
  ASSERT_TRUE(with && without);
  ASSERT_EQ(with->rows.size(), 3u);
  for (std::size_t r = 0; r < 3; ++r)
    for (std::size_t s = 0; s < with->rows[r].sizes.size(); ++s) {
      const double outside = with->rows[r].sizes[s]->outside_m,
                   more = r == 0 ? 0 : 10 * (40 + 12.5 * outside / 0.1);
      EXPECT_NEAR(with->rows[r].laid[s] - without->rows[r].laid[s], more, 1e-9);
    }
}

// Sizes for one line by its name come before those of all; a name that is neither a service nor a line is
// said.
TEST(SizingSetup, sizesMayBeOfOneLine) {
  auto model = readModel(everything, &shippedStock());
  ASSERT_TRUE(model.has_value());
  edit<SizingSetup>(*model, [&](SizingSetup& s) { s.left.clear(), s.tied.clear(); });
  const auto stock = readAndShared(shippedStock());
  SizingOptions options;
  options.objective = Objective::laid;
  options.ranges = {*rangeFrom("ASME B36.10M 40 from 2 to 6", *stock),
                    *rangeFrom("ASME B36.10M 80 from 3 to 4 for L-2", *stock)};
  auto task = sizingTask(*model, options, stock, UnitSet::siWater());
  ASSERT_TRUE(task.has_value()) << task.error().what;
  EXPECT_EQ(task->rows[0].sizes.front()->name(), "ASME B36.10M 2 40");
  EXPECT_EQ(task->rows[1].sizes.front()->name(), "ASME B36.10M 3 80");
  EXPECT_EQ(task->rows[1].sizes.back()->name(), "ASME B36.10M 4 80");
  options.ranges[1].service = "L-22";
  task = sizingTask(*model, options, stock, UnitSet::siWater());
  ASSERT_FALSE(task.has_value());
  EXPECT_NE(task.error().what.find("no service or line L-22"), std::string::npos) << task.error().what;
}

// One line of 100 m to a point that asks for 3.9 bar at 5 L/s of a source at 4 bar, and for at least 2.5 m/s
// in the line: wide enough for the pressure it is too slow. The two limits are named.
TEST(SizingSetup, limitsThatFightAreNamed) {
  const auto model = readModel(
      R"({"format":"level-conduit","version":2,"job":{"velocity at most":"9 m/s","velocity at least":"2.5 m/s"},"points":[)" +
          point("S", 0) + "," + point("A", 0, R"("outflow":"5 L/s","pressure at least":"3.9 bar")") +
          R"(],"elements":[{"kind":"fixed pressure","name":"F","point":"S","pressure":"4 bar"},{"kind":"pipe","name":"L","from":"S","to":"A","length":"100 m","size":"ASME B36.10M 2 40","roughness":"0.05 mm"}]})",
      &shippedStock());
  ASSERT_TRUE(model.has_value()) << model.error().front().what;
  SizingOptions options;
  options.objective = Objective::laid;
  const auto stock = readAndShared(shippedStock());
  const auto task = sizingTask(*model, options, stock, UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  const SizingProposal p = searchSizes(*task);
  ASSERT_FALSE(p.verdict.keeps());
  ASSERT_TRUE(p.conflict.has_value());
  const std::set<std::string> two{p.conflict->meets.label(), p.conflict->breaks.label()};
  EXPECT_EQ(two, (std::set<std::string>{"Pressure", "Velocity"})) << conflictSaid(*task, p);
  // True: that size does mend the one and break the other more.
  Judge judge(*task, 1);
  SizeChoice c = p.choice;
  ASSERT_TRUE(resize(*task, c, p.conflict->row, p.conflict->by));
  const double v = 0.005 / (M_PI / 4 * std::pow(task->rows[0].sizes[c[0]]->bore_m, 2)),
               now = 0.005 / (M_PI / 4 * std::pow(task->rows[0].sizes[p.choice[0]]->bore_m, 2));
  EXPECT_TRUE(p.conflict->breaks.check == CheckId::velocity ? v < 2.5 && v < now : v > now);
}

TEST(SizingSetup, aRouteIsTiedByItsEnds) {
  const auto model = readModel(everything, &shippedStock());
  ASSERT_TRUE(model.has_value());
  const Network& n = model->drawn;
  const auto lines = linesAlong(n, n.byName("A"), n.byName("D"));
  EXPECT_EQ(lines, (std::vector<Id>{n.byName("L-1"), n.byName("L-2"), n.byName("L-3")}));
  EXPECT_EQ(linesAlong(n, n.byName("D"), n.byName("B")), (std::vector<Id>{n.byName("L-3"), n.byName("L-2")}));
  EXPECT_TRUE(linesAlong(n, n.byName("A"), n.byName("A")).empty());
}

// A branch passes at least what it should: the least size that does, against a hand's own bisection over the
// sizes, each solved.
TEST(SizingSetup, aBranchFlowIsALimit) {
  auto model = readModel(everything, &shippedStock());
  ASSERT_TRUE(model.has_value());
  edit<SizingSetup>(*model, [&](SizingSetup& s) { s.ranges.clear(), s.left.clear(), s.tied.clear(); });
  edit<SizingSetup>(*model, [&](SizingSetup& s) { s.about = {}, s.laying.clear(); });
  for (const double wanted : {0.002, 0.004, 0.0053}) {
    edit<SizingSetup>(*model, [&](SizingSetup& s) { s.branches.at(0).flow.value = wanted; });
    SizingOptions options = optionsOf(model->of<SizingSetup>());
    options.objective = Objective::laid;
    options.trials = 5;
    options.tied = {{model->drawn.byName("L-1"), model->drawn.byName("L-2"), model->drawn.byName("L-3")}};
    const auto stock = readAndShared(shippedStock());
    const auto task = sizingTask(*model, options, stock, UnitSet::siWater());
    ASSERT_TRUE(task.has_value());
    ASSERT_EQ(task->rows.size(), 1u);
    const SizingProposal p = searchSizes(*task);
    ASSERT_TRUE(p.verdict.keeps()) << wanted;
    Judge judge(*task, 1);
    double cheapest = 1e300;
    for (std::uint16_t s = 0; s < task->rows[0].sizes.size(); ++s) {
      const Network n = judge.network(drawingCase, {s});
      const Solution answer = solve(n, stock.get());
      const double q = answer.branch(n.byName("V"), 0).flow_m3s.value_or(0);
      bool broken = q < wanted * (1 - 1e-6);
      n.each([&](Id id, const Element&) {
        for (const Check& c : checksOf(n, answer, id, UnitSet::siWater()))
          broken = broken || (c.severity <= Severity::broken && c.broken());
      });
      if (!broken) cheapest = std::min(cheapest, 30 * *task->rows[0].sizes[s]->costPerMetre);
    }
    EXPECT_DOUBLE_EQ(p.verdict.laid, cheapest) << wanted;
  }
}

// A case that has a size of its own keeps it, when a choice is judged as when it is taken.
TEST(SizingSetup, aCaseKeepsASizeOfItsOwn) {
  std::string text = everything;
  text.insert(
      text.find("\"points\""),
      R"("cases":[{"drawing":true,"name":"now"},{"name":"old pipe","differs":[{"element":"L-1","size":"ASME B36.10M 2 40"}]}],)");
  auto model = readModel(text, &shippedStock());
  ASSERT_TRUE(model.has_value()) << model.error().front().what;
  model->setups.set(SizingSetup{});
  const auto stock = readAndShared(shippedStock());
  const auto task = sizingTask(*model, {.objective = Objective::laid}, stock, UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  const CaseId old = model->cases.others.at(0).id;
  SizeChoice choice;
  for (const SizingRow& r : task->rows) choice.push_back(static_cast<std::uint16_t>(r.sizes.size() - 3));
  Judge judge(*task, 1);
  const Model taken = withSizes(*task, choice);
  for (const CaseId id : {drawingCase, old}) {
    const Network judged = judge.network(id, choice), then = networkOf(taken, id);
    judged.each([&](Id line, const Element& e) {
      if (e.part->key == "pipe") EXPECT_EQ(*e.text("size"), *then.at(line).text("size")) << id << e.name;
    });
  }
  EXPECT_EQ(*judge.network(old, choice).at(model->drawn.byName("L-1")).text("size"), "ASME B36.10M 2 40");
}

TEST(SizingSetup, whatHangsTogetherIsOfferedToBeTied) {
  const auto model = loadModel(SOURCE_DIR "/samples/larch-court.lconduit", &shippedStock());
  ASSERT_TRUE(model.has_value());
  const auto offers = tiesOffered(model->drawn);
  ASSERT_EQ(offers.size(), 3u);
  for (const TiedLines& t : offers) EXPECT_TRUE(t.name.starts_with("both sides of ")) << t.name;
  // What is tied already is not offered again.
  EXPECT_EQ(tiesOffered(model->drawn, offers).size(), 0u);
  const auto kestrel = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock());
  ASSERT_TRUE(kestrel.has_value());
  std::set<Id> once;
  for (const TiedLines& t : tiesOffered(kestrel->drawn)) {
    EXPECT_GE(t.lines.size(), 2u);
    for (const Id id : t.lines) EXPECT_TRUE(once.insert(id).second) << "no line in two ties";
  }
  for (const auto& [words, why] :
       {std::pair{"ASME B36.10M 40 from 2 to 99", "no size 99"},
        std::pair{"ASME B36.10M 40 from 4 to 2", "size 4 is larger than 2"},
        std::pair{"Rope 4", "no standard and schedule \"Rope 4\""}, std::pair{"", "no standard"}}) {
    const auto range = rangeFrom(words, shippedStock());
    ASSERT_FALSE(range.has_value()) << words;
    EXPECT_NE(range.error().what.find(why), std::string::npos) << range.error().what;
  }
}

}  // namespace
}  // namespace conduit::test

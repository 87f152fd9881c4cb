// Sizes as they are sold, runs that do not narrow and widen, devices that stay, reducers that are not
// counted.
#include "sizing/runs.h"

#include "model/sizing_setup.h"
#include "parts/registry.h"
#include "plain_models.h"
#include "sizing/choices.h"
#include "sizing/search.h"
#include "sizing/words.h"
#include "stock/sold.h"

namespace conduit::test {
namespace {

// By the lists of the standards: EN 545 goes on above DN 300 in its next class; EN 10220 has one wall a size;
// EN 1057 22 × 0.9 goes with 15 × 0.7, not with 28 × 0.9 alone.
TEST(SoldSizes, areOfOneRangeOfTheStandard) {
  struct Said {
    const char* size;
    std::vector<std::string> has, lacks;
  };
  for (const Said& s :
       {Said{"EN 545 300 C40", {"EN 545 450 C30", "EN 545 800 C25", "EN 545 80 C40"}, {"EN 545 300 K9"}},
        {"EN 545 300 K9", {"EN 545 800 K9"}, {"EN 545 450 C30"}},
        {"EN 10220 100 3.6", {"EN 10220 50 2.9", "EN 10220 300 7.1"}, {"EN 10220 50 3.6"}},
        {"EN 10220 100 5.0", {"EN 10220 100 5.0", "EN 10220 50 2.9"}, {"EN 10220 100 3.6"}},
        {"ISO 1127 80 2.0", {"ISO 1127 25 2.0", "ISO 1127 250 2.6"}, {"ISO 1127 250 3.2"}},
        {"EN 1057 22 0.9", {"EN 1057 15 0.7", "EN 1057 54 1.2"}, {"EN 1057 15 1"}},
        {"EN 1057 22 1", {"EN 1057 15 1", "EN 1057 108 2.5"}, {"EN 1057 22 0.9"}},
        {"ASME B36.10M 4 40",
         {"ASME B36.10M 3 40", "ASME B36.10M 6 40"},
         {"ASME B36.10M 5 40", "ASME B36.10M 3-1/2 40", "ASME B36.10M 1-1/4 40", "ASME B36.10M 4 80"}},
        {"ASME B36.10M 5 40", {"ASME B36.10M 5 40", "ASME B36.10M 4 40"}, {"ASME B36.10M 3-1/2 40"}},
        {"EN 10255 4 medium", {"EN 10255 5 medium"}, {"EN 10255 4 heavy"}}}) {
    const PipeSize* size = shippedStock().pipe(s.size);
    ASSERT_TRUE(size) << s.size;
    std::set<std::string> names;
    double bore = 0.0;
    for (const PipeSize* p : soldWith(*size, shippedStock())) {
      EXPECT_GE(p->bore_m, bore) << "by rising bore";
      bore = p->bore_m;
      names.insert(p->name());
    }
    EXPECT_TRUE(names.contains(s.size)) << s.size;
    for (const std::string& name : s.has) EXPECT_TRUE(names.contains(name)) << s.size << " with " << name;
    for (const std::string& name : s.lacks) EXPECT_FALSE(names.contains(name)) << s.size << " with " << name;
  }
  // An own catalogue is offered whole.
  Stock own = shippedStock();
  for (PipeSize& p : own.pipes)
    if (p.standard == "ASME B36.10M") p.origin = Origin::own;
  std::set<std::string> names;
  for (const PipeSize* p : soldWith(*own.pipe("ASME B36.10M 4 40"), own)) names.insert(p->nominal);
  EXPECT_TRUE(names.contains("5") && names.contains("3-1/2"));
}

class Runs : public testing::Test {
 protected:
  static std::string sized(const std::string& name, const std::string& from, const std::string& to,
                           int length, const std::string& size) {
    return fmt::format(
        R"({{"kind":"pipe","name":"{}","from":"{}","to":"{}","length":"{} m","size":"ASME B36.10M {} 40","roughness":"0.1 mm"}})",
        name, from, to, length, size);
  }
  // A tank, four lines one behind the other of unlike lengths past a valve and a meter, a draw-off; then on.
  SizingTask task() {
    std::string points, elements = tankAt("T", "P0", "40 m", "0 m") + ",";
    for (int i = 0; i < 8; ++i)
      points += (i ? "," : "") + point(fmt::format("P{}", i), 0,
                                       i == 6   ? R"("outflow":"12 L/s","pressure at least":"1.2 bar")"
                                       : i == 7 ? R"("outflow":"3 L/s","pressure at least":"1 bar")"
                                                : "");
    const int lengths[] = {90, 260, 140, 310};
    elements += sized("L-1", "P0", "P1", lengths[0], "6") + "," +
                device("isolating valve", "V", "P1", "P2", R"("bore":"154.1 mm")") + "," +
                sized("L-2", "P2", "P3", lengths[1], "6") + "," + sized("L-3", "P4", "P3", lengths[2], "6") +
                "," + device("check valve", "C", "P4", "P5", "") + "," +
                sized("L-4", "P5", "P6", lengths[3], "6") + "," + sized("L-5", "P6", "P7", 80, "6");
    const Model m = plainModel(points, elements);
    SizingOptions o = optionsOf(m.of<SizingSetup>());
    o.objective = Objective::laid, o.trials = 40, o.seconds = 0;
    return *sizingTask(m, o, catalogue(), UnitSet::siWater());
  }
  static std::uint16_t sizeIn(const SizingTask& t, std::size_t row, const std::string& nominal) {
    for (std::size_t s = 0; s < t.rows[row].sizes.size(); ++s)
      if (t.rows[row].sizes[s]->nominal == nominal) return static_cast<std::uint16_t>(s);
    ADD_FAILURE() << nominal;
    return 0;
  }
  static SizeChoice of(const SizingTask& t, std::initializer_list<const char*> nominals) {
    SizeChoice c;
    for (const char* n : nominals) c.push_back(sizeIn(t, c.size(), n));
    return c;
  }
};

TEST_F(Runs, gothroughDevicesAndEndAtDrawOffs) {
  const SizingTask t = task();
  const auto runs = runsOf(t);
  ASSERT_EQ(runs.size(), 1u);
  EXPECT_EQ(runs[0].size(), 4u) << "L-5 is behind a draw-off";
  struct Said {
    std::initializer_list<const char*> sizes;
    std::size_t narrow;
  };
  for (const Said& s : {Said{{"6", "6", "4", "4", "2"}, 0},
                        {{"6", "4", "6", "4", "2"}, 1},
                        {{"4", "6", "6", "4", "8"}, 0},
                        {{"4", "3", "3", "4", "2"}, 1},
                        {{"3", "4", "4", "6", "2"}, 0},
                        {{"6", "6", "6", "6", "10"}, 0}}) {
    const SizeChoice c = of(t, s.sizes);
    EXPECT_EQ(narrowings(t, runs, c), s.narrow);
    if (s.narrow == 0) continue;
    const auto other = straightened(t, runs, c);
    ASSERT_FALSE(other.empty());
    for (const SizeChoice& straight : other) {
      EXPECT_EQ(narrowings(t, runs, straight), 0u);
      EXPECT_EQ(straight[4], c[4]) << "what is not of the run stays";
    }
  }
}

// Of all choices without narrow places the proposal is no dearer than the cheapest that a plain enumeration
// finds, widened or in order; and with them a proof is none.
TEST_F(Runs, aProposalDoesNotNarrowAndWiden) {
  const SizingTask t = task();
  const auto runs = runsOf(t);
  const SizingProposal p = searchSizes(t);
  ASSERT_TRUE(p.verdict.keeps());
  EXPECT_EQ(narrowings(t, runs, p.choice), 0u);
  EXPECT_EQ(p.narrowings, 0u);
  ASSERT_TRUE(p.bound.has_value());
  EXPECT_LE(*p.bound, p.verdict.objective * (1 + 1e-12));
  // Cheapest of all straight choices within a few sizes, each judged.
  Judge judge(t, 1);
  double best = 1e300;
  const char* kept[] = {"2-1/2", "3", "4", "6"};
  SizeChoice c = p.choice;
  for (const char* a : kept)
    for (const char* b : kept)
      for (const char* d : kept)
        for (const char* e : kept) {
          c[0] = sizeIn(t, 0, a), c[1] = sizeIn(t, 1, b), c[2] = sizeIn(t, 2, d), c[3] = sizeIn(t, 3, e);
          if (narrowings(t, runs, c) > 0) continue;
          const SizingVerdict v = judge.evaluate(c, 0);
          if (v.keeps()) best = std::min(best, v.objective);
        }
  EXPECT_LE(p.verdict.objective, best * 1.05);
  EXPECT_GE(p.verdict.objective, best * (1 - 1e-9));
}

// What stands on the drawing only is nothing to the water: it ends no run, hides no change of bore.
TEST_F(Runs, aDimensionOnTheDrawingChangesNothing) {
  const SizingTask t = task();
  SizingTask drawn = t;
  Draft d(t.model.drawn);
  const Part& dimension = *findPart("dimension");
  const auto at = [&](const char* name) { return t.model.drawn.byName(name); };
  d.add(dimension, "", {at("P2"), at("P3")});
  d.add(dimension, "", {at("P3"), at("P6")});
  drawn.model.drawn = std::move(d).finish();
  ASSERT_EQ(runsOf(drawn).size(), 1u);
  EXPECT_EQ(runsOf(drawn)[0].size(), 4u);
  const SizeChoice c = of(t, {"6", "6", "4", "4", "3"});
  EXPECT_EQ(changesNotCounted(t, c).size(), 2u);
  EXPECT_EQ(changesNotCounted(drawn, c), changesNotCounted(t, c));
  EXPECT_EQ(tiesOffered(drawn.model.drawn).size(), tiesOffered(t.model.drawn).size());
  // Nor to what is delivered, where a size on the way is assumed.
  for (SizingTask* each : {&drawn}) {
    Draft assumed(each->model.drawn);
    ASSERT_TRUE(assumed.values(at("L-1")).assume("size"));
    each->model.drawn = std::move(assumed).finish();
    EXPECT_EQ(Judge(*each, 1).evaluate(c, 0).balanced, true);
  }
}

// Time that is over before the runs are looked at does not leave them as they are.
TEST_F(Runs, areStraightenedWhenTheTimeOfTheSearchIsOver) {
  SizingTask t = task();
  t.options.seconds = 0.02, t.options.trials = 100000;
  for (std::uint64_t seed = 1; seed < 6; ++seed) {
    t.options.seed = seed;
    const SizingProposal p = searchSizes(t);
    EXPECT_EQ(p.narrowings, narrowings(t, runsOf(t), p.choice));
    if (p.verdict.keeps()) EXPECT_EQ(p.narrowings, 0u) << seed;
  }
}

TEST_F(Runs, whatStaysAndWhatIsNotCountedIsSaid) {
  const SizingTask t = task();
  const SizeChoice c = of(t, {"6", "4", "4", "4", "3"});
  const auto staying = stayingIn(t, c);
  ASSERT_EQ(staying.size(), 1u) << "the check valve has no bore of its own: it follows";
  EXPECT_EQ(stayingSaid(t, staying), "Not resized with their lines: V (154 mm) in L-2");
  EXPECT_TRUE(stayingIn(t, of(t, {"6", "6", "4", "4", "3"})).empty());
  // L-2 and L-3 meet at P3 alike; 4 in and 3 in meet at P6, which draws off: two pipes, one change.
  const auto points = changesNotCounted(t, c);
  ASSERT_EQ(points.size(), 1u);
  EXPECT_EQ(t.model.drawn.at(points[0]).name, "P6");
  const Model with = withCones(t.model, points);
  EXPECT_EQ(*with.drawn.at(points[0]).text("change of bore"), "cone");
  SizingTask counted = t;
  counted.model = with;
  EXPECT_TRUE(changesNotCounted(counted, c).empty());
  EXPECT_NE(madeUpSaid(t), "");
  SizingTask mass = t;
  mass.options.objective = Objective::mass;
  EXPECT_EQ(madeUpSaid(mass), "");
}

}  // namespace
}  // namespace conduit::test

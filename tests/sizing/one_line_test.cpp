// One line and what a checker asks of it: the pump that lifts it, pumps by hand, the cheapest size, plates
// and authority of a branch with equipment in it, what remedies and candidates take from users.
#include "sizing/one_line.h"
#include "find/remedies.h"
#include "plain_models.h"
#include "pump/selection.h"
#include "sizing/balance_flows.h"

namespace conduit::test {
namespace {

std::string lift(const std::string& name, const std::string& from, const std::string& to,
                 const char* efficiency, const std::string& more = "") {
  return device("pump", name, from, to,
                fmt::format(R"("curve":[{{"flow":"0 L/s","head":"60 m","efficiency":"{0}"}},)"
                            R"({{"flow":"200 L/s","head":"40 m","efficiency":"{0}"}}]{1})",
                            efficiency, more));
}
const std::string main_ =
    R"({"kind":"pipe","name":"Main","from":"B","to":"C","length":"1000 m","size":"ASME B36.10M 10 40","roughness":"0.1 mm"})";

// D = (5 B/(m a))^(1/(m + 5)): B goes by one over the efficiency, so bores are as (η₁/η₂)^(1/(m + 5)). A pump
// elsewhere in the model changes nothing; its own motor does.
TEST(EconomicBore, isOfThePumpThatLiftsTheLine) {
  const std::string
      points = point("A", 0) + "," + point("B", 0) + "," + point("C", 20) + "," + point("X", 0) + "," +
               point("Y", 0) + "," + point("Z", 0),
      ends = fixedAt("Well", "A", "0 bar") + "," + fixedAt("Top", "C", "0 bar") + "," + main_,
      other = "," + fixedAt("W", "X", "0 bar") + "," + lift("A-other", "X", "Y", "0.3") + "," +
              pipe("Small", "Y", "Z", 500, "50 mm") + "," + fixedAt("V", "Z", "0 bar"),
      costs =
          R"("costs":{"tariff":"0.15","hours in a year":"4000 h","motor efficiency":"100 %","drive efficiency":"100 %"})",
      pumped =
          R"("costs":{"tariff":"0.15","hours in a year":"4000 h","motor efficiency":"100 %","drive efficiency":"100 %","pump cost for 1 kW":"900"})";
  const auto bore = [&](const std::string& elements, const std::string& with) {
    const Model m = plainModel(points, elements, with);
    const Solution s = answer(m.drawn);
    const auto here = economicAt(m, drawingCase, m.drawn, s, m.drawn.byName("Main"), *catalogue());
    EXPECT_TRUE(here.bore.has_value()) << here.why;
    return here.bore.value_or(EconomicBore{});
  };
  const EconomicBore alone = bore(ends + "," + lift("P", "A", "B", "0.8"), costs);
  EXPECT_EQ(bore(ends + "," + lift("P", "A", "B", "0.8") + other, costs).bore_m, alone.bore_m);
  EXPECT_EQ(bore(ends + other + "," + lift("P", "A", "B", "0.8"), costs).bore_m, alone.bore_m);
  const double share = 1 / (alone.m + 5);
  EXPECT_NEAR(bore(ends + "," + lift("P", "A", "B", "0.4"), costs).bore_m, alone.bore_m * std::pow(2, share),
              1e-6 * alone.bore_m);
  EXPECT_NEAR(bore(ends + "," + lift("P", "A", "B", "0.8", R"(,"motor efficiency":"50 %")"), costs).bore_m,
              alone.bore_m * std::pow(2, share), 1e-6 * alone.bore_m);
  // With pumps: B and 8 f ρ Q³/(π² η) · 0.9 of money a watt, over 0.15/3.6e6 · 4 000 · 3 600 · 20 of energy.
  EXPECT_FALSE(alone.withPumps_m.has_value());
  const EconomicBore both = bore(ends + "," + lift("P", "A", "B", "0.8"), pumped);
  const double more = 0.9 / (0.15 / 3.6e6 * 4000 * 3600 * 20);
  EXPECT_NEAR(*both.withPumps_m, both.bore_m * std::pow(1 + more, share), 1e-9);
}

// A smaller size is cheaper and breaks, at another element than the present one does, a limit that it meets:
// whatever the worst share, it is not the cheapest.
TEST(OneLine, theCheapestBreaksNothingMoreAtAnyElement) {
  const Model m = plainModel(
      point("A", 0) + "," + point("B", 0, R"("outflow":"1 L/s")") + "," +
          point("C", 0, R"("outflow":"12 L/s","pressure at least":"2.0 bar")"),
      fixedAt("S", "A", "2.6 bar") + "," +
          R"({"kind":"pipe","name":"L-1","from":"A","to":"B","length":"30 m","size":"ASME B36.10M 2-1/2 40","roughness":"0.1 mm"},)" +
          R"({"kind":"pipe","name":"L-2","from":"A","to":"C","length":"150 m","size":"ASME B36.10M 4 40","roughness":"0.1 mm"})",
      "", R"(,"velocity at most":"0.2 m/s")");
  SizingOptions o;
  o.objective = Objective::laid;
  const auto table = sizesOfLine(m, drawingCase, {m.drawn.byName("L-2")}, o, catalogue(), UnitSet::siWater());
  ASSERT_TRUE(table.has_value()) << table.error().what;
  ASSERT_TRUE(table->cheapest.has_value());
  // Every size breaks the velocity (1.5 m/s and more over 0.2 by far); less only wider ones.
  const LineSize* present = nullptr;
  for (const LineSize& s : table->sizes) {
    if (s.now) present = &s;
    EXPECT_EQ(s.breaksMore, s.size->bore_m < 0.102) << s.size->name();
  }
  ASSERT_TRUE(present);
  EXPECT_EQ(&table->sizes[*table->cheapest], present) << "marked also where it is the present size";
  for (const LineSize& s : table->folded) EXPECT_TRUE(s.breaksMore) << s.size->name();
}

// Sizes with which users starve are folded; the least delivery of each is that of solving it.
TEST(OneLine, foldsWhatStarvesUsers) {
  const Model m = plainModel(
      point("A", 0) + "," + point("B", 0),
      tankAt("Up", "A", "30 m", "0 m") + "," + tankAt("Low", "B", "12 m", "0 m") + "," +
          R"({"kind":"pipe","name":"L","from":"A","to":"B","length":"800 m","size":"ASME B36.10M 6 40","roughness":"0.05 mm"})",
      "", R"(,"velocity at most":"30 m/s")");
  SizingOptions o;
  o.objective = Objective::laid;
  const Id line = m.drawn.byName("L");
  const auto table = sizesOfLine(m, drawingCase, {line}, o, catalogue(), UnitSet::siWater());
  ASSERT_TRUE(table.has_value());
  const double now = flow(m.drawn, answer(m.drawn), "L");
  std::size_t folded = 0;
  const auto compare = [&](const LineSize& s, bool isFolded) {
    Draft d(m.drawn);
    giveSize(d, line, *s.size);
    const Network n = std::move(d).finish();
    const double share = flow(n, answer(n), "L") / now;
    ASSERT_TRUE(s.leastDelivery.has_value()) << s.size->name();
    EXPECT_NEAR(s.leastDelivery->share(), share, 1e-6) << s.size->name();
    EXPECT_EQ(isFolded, share < 0.5) << s.size->name();
    folded += isFolded;
  };
  for (const LineSize& s : table->sizes) compare(s, false);
  for (const LineSize& s : table->folded) compare(s, true);
  EXPECT_GT(folded, 3u);
}

// The plate for a valve with an exchanger between it and the header is for the branch's own bore, 40 mm, not
// the header's 100 mm: put in and plainly solved, it passes the flow.
TEST(Balance, platesAreForTheBoreOfTheBranchPastEquipment) {
  const std::string points = point("A", 0) + "," + point("H", 0) + "," + point("G", 0) + "," + point("K", 0) +
                             "," + point("M", 0) + "," + point("R", 0) + "," + point("T", 0) + "," +
                             point("E", 0);
  const auto network = [&](const std::string& plate) {
    return model(points,
                 held("A", 15) + "," + held("E", 0) + "," + pipe("Head", "A", "H", 20) + "," +
                     pipe("Back", "R", "E", 20) + "," +
                     device("own loss", "X", "K", "M", R"("bore":"40 mm","K":"6")") + "," +
                     device("control valve", "V", "H", "G", R"("Kv":"20 m3/h","characteristic":"linear")") +
                     "," +
                     (plate.empty() ? device("own loss", "O", "G", "K", R"("bore":"40 mm","K":"0")")
                                    : device("orifice plate", "O", "G", "K", plate)) +
                     "," + pipe("Branch", "M", "R", 25, "40 mm") + "," +
                     device("control valve", "W", "H", "T", R"("Kv":"40 m3/h","characteristic":"linear")") +
                     "," + pipe("Other", "T", "R", 25, "65 mm"),
                 plainJob);
  };
  const Network n = network("");
  const std::vector<BranchFlow> flows{{n.byName("V"), 0.0015}, {n.byName("W"), 0.004}};
  const FlowBalance b = balanceFlows(n, flows, catalogue(), UnitSet::siWater());
  ASSERT_TRUE(b.balanced) << b.why;
  ASSERT_TRUE(b.branches[0].orifice_m && b.branches[0].platePipe_m);
  EXPECT_NEAR(*b.branches[0].platePipe_m, 0.040, 1e-12);
  EXPECT_NEAR(b.branches[1].platePipe_m.value_or(0.065), 0.065, 1e-12);
  const Network plated =
      network(fmt::format(R"("pipe bore":"40 mm","bore":"{:.12g} mm")", *b.branches[0].orifice_m * 1000));
  // W as balanced, V wide open with the plate.
  Draft d(plated);
  d.values(plated.byName("W")).set("opening", Given{*b.branches[1].opening, Basis::direct, ""});
  const Network set = std::move(d).finish();
  EXPECT_NEAR(flow(set, answer(set), "V"), 0.0015, 2e-5);
}

// What a fix or another pump takes from users is said with it.
TEST(Deliveries, areSaidOfCandidates) {
  const Model m =
      plainModel(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                 fixedAt("Well", "A", "1 bar") + "," + lift("P", "A", "B", "0.7") + "," +
                     pipe("L", "B", "C", 50, "200 mm") +
                     R"(,{"kind":"nozzle","name":"Z","point":"C","K-factor":"900 L/min/bar^0.5"})");
  const Id pump = m.drawn.byName("P");
  const Selection chosen = select(m, pump, {}, catalogue(), {});
  std::size_t said = 0;
  for (const auto* list : {&chosen.can, &chosen.cannot})
    for (const Candidate& c : *list)
      for (const CandidateDuty& d : c.cases) {
        if (!d.solved) continue;
        ASSERT_TRUE(d.leastDelivery.has_value()) << c.item;
        EXPECT_EQ(m.drawn.at(d.leastDelivery->taker).name, "Z");
        EXPECT_NEAR(d.leastDelivery->then_m3s, d.duty.flow_m3s.value_or(0.0), 1e-9) << c.item;
        ++said;
      }
  EXPECT_GT(said, 20u);
  const std::vector<DeliveryChange> lost{{m.drawn.byName("Z"), 0.010, 0.0085}},
      none{{m.drawn.byName("Z"), 0.010, 0.0099}}, dry{{m.drawn.byName("Z"), 0.010, -0.001}};
  EXPECT_EQ(lossSaid(m.drawn, lost), "Z gets 85 % of its present flow");
  EXPECT_EQ(lossSaid(m.drawn, none), "");
  EXPECT_EQ(lossSaid(m.drawn, dry), "Z gets nothing");
}

}  // namespace
}  // namespace conduit::test

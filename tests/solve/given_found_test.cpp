// Any outcome given, any field found. Expected values by hand where the hand can; else the answer is put back
// as a given and the plain network must return what was asked.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <set>

#include "exchange/stock_files.h"
#include "limits/limits.h"
#include "model_text.h"
#include "network/edits.h"
#include "network/put.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

Network with(Network n, const std::vector<FieldEdit>& edits) {
  const auto edited = applyRemedy(n, Remedy{"test", edits, {}}, &shippedStock(), nullptr);
  EXPECT_TRUE(edited) << (edited ? "" : edited.error().what);
  return edited->network;
}
double outcomeOf(const Network& n, const Solution& s, const std::string& name, std::string_view key) {
  const Id id = n.byName(name);
  const ReadingOf reading(n, s, id);
  return findOutcome(*n.at(id).part, key)->of(*reading).value_or(NAN);
}
// The network with what was found put in as givens and nothing given instead.
Network putBack(const Network& n, const Solution& s) {
  Draft d(n);
  for (const FoundField& f : s.found)
    d.values(f.element).set(f.field, Given{f.value, Basis::direct, fmt::format("{}", f.value)});
  n.each([&](Id id, const Element& e) {
    const auto goals = e.values.goals();
    for (const auto& g : goals) d.values(id).ungive(g.outcome);
  });
  return std::move(d).finish();
}

// A supply at A (30 m), line to B, a device to C, line to D that draws 10 L/s; D also feeds E.
Network row(const std::string& device) {
  return model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
                   point("D", 2, "\"outflow\":\"10 L/s\"") + "," + point("E", 0, "\"outflow\":\"4 L/s\""),
               held("A", 40) + "," + pipe("L-1", "A", "B", 100) + "," + device + "," +
                   pipe("L-2", "C", "D", 80) + "," + pipe("L-3", "D", "E", 60, "80 mm"));
}
const std::string valve =
    R"({"kind":"control valve","name":"V-1","from":"B","to":"C","Kv":"60 Kv","opening":"80 %"})";
const std::string pumpText =
    R"({"kind":"pump","name":"P-1","from":"B","to":"C","rated speed":"1450 rpm","speed":"1450 rpm","curve":[{"flow":"0 L/s","head":"32 m"},{"flow":"15 L/s","head":"28 m"},{"flow":"30 L/s","head":"16 m"}]})";

struct Question {
  const char* name;
  std::string device;
  std::vector<FieldEdit> edits;
  const char *element, *outcome;
  double wanted, tolerance;
};
class Questions : public testing::TestWithParam<Question> {};

TEST_P(Questions, areAnsweredAndTheAnswerPutBackGivesWhatWasAsked) {
  const Question& q = GetParam();
  const Network n = with(row(q.device), q.edits);
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  ASSERT_FALSE(s.found.empty());
  EXPECT_NEAR(outcomeOf(n, s, q.element, q.outcome), q.wanted, q.tolerance);
  const Network plain = putBack(n, s);
  const Solution again = solve(plain, &shippedStock());
  ASSERT_TRUE(again.summary.usable()) << again.summary.full();
  EXPECT_NEAR(outcomeOf(plain, again, q.element, q.outcome), q.wanted, q.tolerance);
}

INSTANTIATE_TEST_SUITE_P(
    Asked, Questions,
    testing::Values(Question{"valve_for_pressure",
                             valve,
                             {{"V-1", "found opening", "yes"}, {"D", "given pressure", "1.5 bar"}},
                             "D",
                             "pressure",
                             1.5e5,
                             1},
                    Question{"kv_for_drop",
                             valve,
                             {{"V-1", "found Kv", "yes"}, {"V-1", "given pressure loss", "0.7 bar"}},
                             "V-1",
                             "pressure loss",
                             0.7e5,
                             1},
                    Question{"supply_for_far_pressure",
                             valve,
                             {{"held A", "found pressure", "yes"}, {"E", "given pressure", "2 bar"}},
                             "E",
                             "pressure",
                             2e5,
                             1},
                    Question{"outflow_for_pressure",
                             valve,
                             {{"E", "found outflow", "yes"}, {"E", "given pressure", "1.2 bar"}},
                             "E",
                             "pressure",
                             1.2e5,
                             1},
                    Question{"far_outflow_for_pressure",
                             valve,
                             {{"D", "found outflow", "yes"}, {"E", "given pressure", "1.2 bar"}},
                             "E",
                             "pressure",
                             1.2e5,
                             1},
                    Question{"bore_for_velocity",
                             valve,
                             {{"L-3", "found bore", "yes"}, {"L-3", "given velocity", "1.5 m/s"}},
                             "L-3",
                             "velocity",
                             1.5,
                             1e-7},
                    Question{"bore_for_pressure",
                             valve,
                             {{"L-2", "found bore", "yes"}, {"E", "given pressure", "2.3 bar"}},
                             "E",
                             "pressure",
                             2.3e5,
                             1},
                    Question{"roughness_for_pressure",
                             valve,
                             {{"L-1", "found roughness", "yes"}, {"D", "given pressure", "2 bar"}},
                             "D",
                             "pressure",
                             2e5,
                             1},
                    Question{"speed_for_pressure",
                             pumpText,
                             {{"P-1", "found speed", "yes"}, {"E", "given pressure", "4.5 bar"}},
                             "E",
                             "pressure",
                             4.5e5,
                             1},
                    Question{"speed_for_suction",
                             pumpText,
                             {{"P-1", "found speed", "yes"}, {"P-1", "given head", "20 m"}},
                             "P-1",
                             "head",
                             20,
                             1e-6},
                    Question{"two_at_once",
                             valve,
                             {{"V-1", "found opening", "yes"},
                              {"D", "given pressure", "1.5 bar"},
                              {"L-3", "found bore", "yes"},
                              {"E", "given pressure", "1.6 bar"}},
                             "E",
                             "pressure",
                             1.6e5,
                             1}),
    [](const auto& one) { return one.param.name; });

TEST(GivenFound, byHand) {
  // v = 4Q/(πD²): D = √(4 · 0.004/(π · 1.5)) = 58.27 mm.
  Network n = with(row(valve), {{"L-3", "found bore", "yes"}, {"L-3", "given velocity", "1.5 m/s"}});
  EXPECT_NEAR(*solve(n, &shippedStock()).foundFor(n.byName("L-3"), "bore"),
              std::sqrt(4 * 0.004 / (M_PI * 1.5)), 1e-10);
  // Δp = (ρ/1000)(Q/Kv)² bar: with 14 L/s = 50.4 m3/h and 0.7 bar Kv = 50.4 √(ρ/1000/0.7).
  n = with(
      row(valve),
      {{"V-1", "found Kv", "yes"}, {"V-1", "given pressure loss", "0.7 bar"}, {"V-1", "opening", "100 %"}});
  const Solution s = solve(n, &shippedStock());
  EXPECT_NEAR(*s.foundFor(n.byName("V-1"), "Kv"),
              50.4 * std::sqrt(s.setting.medium.density_kgm3 / 1000 / 0.7), 1e-6);
}

// Two parallel ways, so that a flow can be asked of one: local, no search.
Network ways() {
  return model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0, "\"outflow\":\"20 L/s\"") + "," +
                   point("M", 0) + "," + point("N", 0),
               held("A", 30) + "," + pipe("L-1", "A", "B", 50, "150 mm") + "," + pipe("L-2", "B", "M", 60) +
                   "," + R"({"kind":"control valve","name":"V-1","from":"M","to":"C","Kv":"200 Kv"})" + "," +
                   pipe("L-3", "B", "C", 90));
}

TEST(GivenFound, aFlowForTheValvesOwnOpeningIsWorkedOutAfterwards) {
  Network n = with(ways(), {{"V-1", "found opening", "yes"}, {"V-1", "given flow", "6 L/s"}});
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  EXPECT_NEAR(*s.branch(n.byName("V-1"), 0).flow_m3s, 0.006, 1e-15);
  const Network plain = putBack(n, s);
  EXPECT_NEAR(*solve(plain, &shippedStock()).branch(n.byName("V-1"), 0).flow_m3s, 0.006, 1e-9);
}

struct Refused {
  const char* name;
  std::string device;
  std::vector<FieldEdit> edits;
  const char* says;
};
class Refusals : public testing::TestWithParam<Refused> {};

TEST_P(Refusals, areSaidInWordsAndTheFirstEditMendsThem) {
  const Network n = with(GetParam().device.empty() ? ways() : row(GetParam().device), GetParam().edits);
  const Solution s = solve(n, &shippedStock());
  ASSERT_EQ(s.summary.verdict, Verdict::cannotYet) << s.summary.full();
  const Problem& p = s.summary.problems.front();
  EXPECT_NE(p.what.find(GetParam().says), std::string::npos) << p.what;
  for (const Remedy& r : p.remedies) {
    if (r.edits.empty()) continue;
    const auto mended = applyRemedy(n, r, &shippedStock(), nullptr);
    ASSERT_TRUE(mended) << r.words << ": " << mended.error().what;
    EXPECT_TRUE(solve(mended->network, &shippedStock()).summary.usable())
        << r.words << "\n"
        << solve(mended->network, &shippedStock()).summary.full();
    return;
  }
  FAIL() << "no remedy is an edit: " << p.what;
}

INSTANTIATE_TEST_SUITE_P(
    Said, Refusals,
    testing::Values(
        Refused{
            "too_little", valve, {{"V-1", "found opening", "yes"}}, "the given values do not determine it"},
        Refused{"too_much",
                valve,
                {{"E", "given pressure", "1.6 bar"}},
                "nothing that affects it is free to be solved for"},
        Refused{"twice",
                valve,
                {{"V-1", "found opening", "yes"},
                 {"D", "given pressure", "1.5 bar"},
                 {"E", "given pressure", "1.4 bar"}},
                "overdetermined"},
        // E depends on D alone: a bore behind it cannot move the pressure before it.
        Refused{"dead_branch",
                valve,
                {{"L-3", "found bore", "yes"}, {"D", "given pressure", "1.5 bar"}},
                "nothing that affects it"},
        Refused{"past_open", "", {{"V-1", "found opening", "yes"}, {"V-1", "given flow", "12 L/s"}}, "100 %"},
        Refused{
            "past_kv", valve, {{"V-1", "found opening", "yes"}, {"D", "given pressure", "3.2 bar"}}, "V-1"}),
    [](const auto& one) { return one.param.name; });

TEST(GivenFound, aSupplyHeadReleasedLeavesNoFixedHeadAndIsStillFound) {
  Network n = model(point("A", 0) + "," + point("B", 5, "\"outflow\":\"8 L/s\""),
                    held("A", 10) + "," + pipe("L-1", "A", "B", 100));
  n = with(n, {{"held A", "found pressure", "yes"}, {"B", "given pressure", "3 bar"}});
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  // By hand: the head at A is that at B plus the loss of the line, which does not depend on the head.
  const Network plain = model(point("A", 0) + "," + point("B", 5, "\"outflow\":\"8 L/s\""),
                              held("A", 10) + "," + pipe("L-1", "A", "B", 100));
  const Solution p = solve(plain, &shippedStock());
  const double loss = *p.head(plain.byName("A")) - *p.head(plain.byName("B"));
  EXPECT_NEAR(*s.head(n.byName("A")), 5 + 3e5 / (s.setting.medium.density_kgm3 * 9.80665) + loss, 1e-6);
}

TEST(GivenFound, whatCannotBeFoundSaysSo) {
  const Network n = row(valve);
  for (const FieldEdit& edit :
       {FieldEdit{"V-1", "found characteristic", "yes"}, FieldEdit{"V-1", "found note", "yes"},
        FieldEdit{"V-1", "given colour", "1"}}) {
    const auto refused = applyRemedy(n, Remedy{"", {edit}, {}}, &shippedStock(), nullptr);
    ASSERT_FALSE(refused) << edit.field;
    EXPECT_NE(refused.error().what.find("V-1"), std::string::npos);
  }
}

TEST(GivenFound, foundQuantitiesPutBackReturnTheSameNetwork) {
  // A grid with a hundred of its lines' bores found from the pressures they lead to.
  const Network plain = gridNetwork(300, 12);
  const Solution before = solve(plain, &shippedStock());
  ASSERT_TRUE(before.summary.usable());
  Draft d(plain);
  int swaps = 0;
  std::vector<char> taken(plain.bound(), 0);
  plain.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || swaps >= 8 || id % 17 != 0) return;
    const Id to = e.ends[1];
    if (taken[to] || outcomeOf(plain, before, e.name, "Reynolds number") < 5000)
      return;  // roughness plays no part in laminar flow
    taken[to] = 1;
    ++swaps;
    const double p = (*before.head(to) - plain.at(to).given("height")->value) *
                     (before.setting.medium.density_kgm3 * 9.80665);
    d.values(to).give("pressure", Given{p, Basis::direct, ""});
    d.values(id).release("roughness");
  });
  ASSERT_GE(swaps, 4);
  const Network n = std::move(d).finish();
  const Solution s = solve(n, &shippedStock());
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  plain.each([&](Id id, const Element& e) {
    if (e.part->key == "point") EXPECT_NEAR(*s.head(id), *before.head(id), 1e-5) << e.name;
  });
  for (const FoundField& f : s.found) EXPECT_NEAR(f.value, 1e-4, 1e-8);  // 0.1 mm, as it was
}

TEST(GivenFound, aPipeTurnedRoundIsAskedForTheSameFlow) {
  const Network n = with(ways(), {{"L-3", "found K", "yes"}, {"L-3", "given flow", "6 L/s"}});
  Draft d(n);
  d.reverse(n.byName("L-3"));
  const Network turned = std::move(d).finish();
  EXPECT_EQ(turned.at(turned.byName("L-3")).values.goal("flow")->typed, "-6 L/s");
  const Solution a = solve(n, &shippedStock()), b = solve(turned, &shippedStock());
  ASSERT_TRUE(a.summary.usable() && b.summary.usable()) << a.summary.full();
  EXPECT_NEAR(*a.foundFor(n.byName("L-3"), "K"), *b.foundFor(n.byName("L-3"), "K"), 1e-6);
}

// Two lines in a row lose 20 m. For a velocity v in the second, of bore d, the flow is v π d²/4: the first
// then loses more with d, the second less, and two bores come to 20 m. By Hazen-Williams both follow from a
// bisection of the closed form.
TEST(GivenFound, ofTwoAnswersTheOtherIsNamedAndCanBeHad) {
  const std::string c = "\"C\":\"130\"";
  const Network start =
      with(model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                 held("A", 30) + "," + held("C", 10) + "," + pipe("L-1", "A", "B", 100, "100 mm", c) + "," +
                     pipe("L-2", "B", "C", 100, "150 mm", c),
                 "\"friction law\":\"Hazen-Williams\""),
           {{"L-2", "found bore", "yes"}, {"L-2", "given velocity", "1.5 m/s"}});
  const auto lost = [](double d) {
    const double q = 1.5 * 3.14159265358979 * d * d / 4, r = 10.67 * 100 / std::pow(130, 1.852);
    return r * std::pow(q, 1.852) * (std::pow(0.1, -4.8704) + std::pow(d, -4.8704)) - 20;
  };
  const auto root = [&](double low, double high) {
    for (int k = 0; k < 100; ++k)
      ((lost(low) < 0) == (lost((low + high) / 2) < 0) ? low : high) = (low + high) / 2;
    return low;
  };
  const double thick = root(0.05, 0.5), thin = root(0.005, 0.05);
  const Solution s = answer(start);
  EXPECT_NEAR(*s.foundFor(start.byName("L-2"), "bore"), thick, 1e-6 * thick)
      << "from the 150 mm that was kept";
  ASSERT_EQ(s.summary.notes.size(), 1u);
  const auto other = applyRemedy(start, s.summary.notes[0].remedies.at(0), &shippedStock(), nullptr);
  ASSERT_TRUE(other);
  const Solution t = answer(other->network);
  EXPECT_NEAR(*t.foundFor(start.byName("L-2"), "bore"), thin, 1e-6 * thin);
  ASSERT_EQ(t.summary.notes.size(), 1u) << "and the first is the other now";
  // More than there can be: the velocity is greatest where the two losses change alike, d = 0.1 m
  // (1.1664/3.704)^(1/4.8704).
  const Network tooFast = with(start, {{"L-2", "given velocity", "9 m/s"}});
  const Solution refused = solve(tooFast, &shippedStock());
  ASSERT_FALSE(refused.summary.usable());
  EXPECT_NE(refused.summary.problems[0].what.find("closest at 78.9 mm"), std::string::npos)
      << refused.summary.problems[0].what;
  const auto slower =
      applyRemedy(tooFast, refused.summary.problems[0].remedies.at(0), &shippedStock(), nullptr);
  ASSERT_TRUE(slower);
  EXPECT_NEAR(*answer(slower->network).foundFor(start.byName("L-2"), "bore"), 0.0789, 0.004)
      << "just beside the top";
  // With one answer there is nothing to say: the flow through both rises with the bore.
  const Solution one =
      answer(with(start, {{"L-2", "given velocity", ""}, {"L-1", "given velocity", "1.5 m/s"}}));
  EXPECT_TRUE(one.summary.notes.empty());
}

// The width of a duct is felt by what is set into it: a valve without a bore of its own takes that of the
// narrower pipe. Found, and put back, the network must give the pressure that was asked for.
TEST(GivenFound, theWidthOfADuctIsFeltByTheValveBesideIt) {
  for (const char* side : {"section width", "section height"}) {
    const Network duct = model(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
            point("D", 0, R"("outflow":"12 L/s")"),
        held("A", 30) +
            R"(,{"kind":"pipe","name":"L-1","from":"A","to":"B","length":"40 m","section":"rectangular","section width":"70 mm","section height":"70 mm","roughness":"0.1 mm"},)" +
            device("isolating valve", "V", "B", "C", R"("K":"8")") + "," +
            pipe("L-2", "C", "D", 30, "150 mm") + "," + pipe("L-3", "A", "D", 400, "40 mm"));
    for (const char* pressure : {"22 m", "15 m", "5 m"}) {
      const Network asked =
          with(duct, {{"L-1", std::string("found ") + side, "yes"}, {"D", "given pressure", pressure}});
      const Solution s = answer(asked);
      const Network back = putBack(asked, s);
      const double wanted = outcomeOf(asked, s, "D", "pressure");
      EXPECT_NEAR(outcomeOf(back, answer(back), "D", "pressure"), wanted, 1.0) << side << pressure;
      EXPECT_NEAR(wanted, std::stod(pressure) * 9.80665 * answer(back).setting.medium.density_kgm3, 2.0);
    }
  }
}

// What was found is where the next search begins; its answer is that of a search begun afresh.
TEST(GivenFound, aWarmSearchAgreesWithAColdOne) {
  Network n = with(row(valve), {{"V-1", "found opening", "yes"}, {"E", "given pressure", "2.2 bar"}});
  Solution last = answer(n);
  for (const char* pressure : {"2.25 bar", "2.1 bar", "2.2 bar"}) {
    n = with(n, {{"E", "given pressure", pressure}});
    SolveOptions from{.startFrom = &last};
    Solution warm = solve(n, &shippedStock(), from);
    const Solution cold = answer(n);
    ASSERT_TRUE(warm.summary.usable() && warm.summary.warm) << warm.summary.full();
    EXPECT_LE(warm.summary.iterations, cold.summary.iterations);
    EXPECT_NEAR(*warm.foundFor(n.byName("V-1"), "opening"), *cold.foundFor(n.byName("V-1"), "opening"), 1e-7);
    last = std::move(warm);
  }
}

// Random swaps on random networks: any field that can be released, from another value than the true one, for
// any outcome that was found. An answer exists, so the search may only rarely come back without one; what it
// calls an answer must be one, by the plain network with what was found put back; and a pair that does not
// belong together must be told so.
TEST(GivenFound, randomSwapsEndInATrueAnswerOrInWords) {
  int asked = 0, answered = 0, inVain = 0;
  for (std::uint64_t seed = 0; seed < 500; ++seed) {
    Chance c{seed * 31 + 7};
    const Network plain =
        seed % 2 ? richNetwork(seed % 97, 20 + c.below(120)) : randomNetwork(seed % 97, 20 + c.below(120));
    const Solution before = solve(plain, &shippedStock());
    if (!before.summary.usable()) continue;
    Draft d(plain);
    const int pairs = 1 + c.below(3);
    std::set<std::pair<Id, std::string_view>> released, given;
    const auto any = [&] {
      for (;;)
        if (const Id id = static_cast<Id>(1 + c.below(static_cast<int>(plain.bound()) - 1)); plain.find(id))
          return id;
    };
    while (static_cast<int>(released.size()) < pairs) {
      const Id id = any();
      const Element& e = plain.at(id);
      if (e.part->fields.empty()) continue;
      const Field& f =
          e.part->fields[static_cast<std::size_t>(c.below(static_cast<int>(e.part->fields.size())))];
      const Given* kept = f.releasable && f.kind == FieldKind::quantity ? e.given(f.key) : nullptr;
      if (!kept || !released.emplace(id, f.key).second) continue;
      d.values(id).set(f.key, Given{std::clamp(kept->value * std::exp(c.between(-1, 1)), f.least, f.most),
                                    Basis::direct, ""});
      d.values(id).release(f.key);
    }
    while (static_cast<int>(given.size()) < pairs) {
      const Id id = any();
      const auto outcomes = plain.at(id).part->outcomes;
      if (outcomes.empty()) continue;
      const Outcome& o = outcomes[static_cast<std::size_t>(c.below(static_cast<int>(outcomes.size())))];
      const double value = outcomeOf(plain, before, plain.at(id).name, o.key);
      if (!std::isfinite(value) || !given.emplace(id, o.key).second) continue;
      d.values(id).give(o.key, Given{value, Basis::direct, ""});
    }
    const Network swapped = std::move(d).finish();
    const Solution s = solve(swapped, &shippedStock());
    ++asked;
    ASSERT_TRUE(s.summary.verdict == Verdict::balanced || s.summary.verdict == Verdict::cannotYet ||
                s.summary.verdict == Verdict::noStates)
        << seed << s.summary.full();
    if (!s.summary.usable()) {
      ASSERT_FALSE(s.summary.problems.empty()) << seed;
      EXPECT_FALSE(s.summary.problems[0].remedies.empty()) << seed << ": " << s.summary.problems[0].what;
      const std::string& what = s.summary.problems[0].what;
      inVain += what.starts_with("no ") || what.find("would need") != std::string::npos;
      continue;
    }
    ++answered;
    const Network back = putBack(swapped, s);
    const Solution again = answer(back);
    // What flows, flows; a device that passes something is in the state it was said to be in (open and acting
    // may be one where it stands just wide open); and what was wrong is wrong.
    back.each([&](Id id, const Element& e) {
      for (std::size_t b = 0; b < again.branchCount(id); ++b) {
        const BranchReading x = s.branch(id, b), y = again.branch(id, b);
        ASSERT_EQ(x.flow_m3s.has_value(), y.flow_m3s.has_value()) << seed << " " << e.name;
        if (!x.flow_m3s) continue;
        EXPECT_NEAR(*x.flow_m3s, *y.flow_m3s, 1e-6 * std::abs(*y.flow_m3s) + 1e-8) << seed << " " << e.name;
        if (std::abs(*y.flow_m3s) > 1e-6)
          EXPECT_EQ(x.state == BranchState::shut, y.state == BranchState::shut) << seed << " " << e.name;
      }
    });
    // What is broken is broken with the values given, and nothing else is.
    const auto broken = [](const Network& network, const Solution& solution) {
      std::set<std::string> names;
      for (const Finding& f : findings(network, solution, UnitSet::siWater()))
        if (f.severity == Severity::broken) names.insert(f.place.name + ": " + f.place.field);
      return names;
    };
    EXPECT_EQ(broken(swapped, s), broken(back, again)) << seed;
    for (const auto& [id, key] :
         given) {  // to 1e-5, or to what the head tolerance of two balances makes of it
      const double wanted = outcomeOf(plain, before, plain.at(id).name, key),
                   is = outcomeOf(back, again, plain.at(id).name, key);
      const Measure measure = findOutcome(*plain.at(id).part, key)->measure;
      const bool pressure = measure == Measure::gaugePressure || measure == Measure::absolutePressure ||
                            measure == Measure::pressureDrop;
      EXPECT_NEAR(is, wanted, std::max(1e-5 * std::abs(wanted), pressure ? 2e-3 : 2e-7))
          << seed << ": " << key << " of " << plain.at(id).name;
    }
  }
  EXPECT_GT(answered, asked / 4) << "of " << asked;
  EXPECT_LT(inVain, asked / 12) << "pairs that do not decide one another among them";
}

}  // namespace
}  // namespace conduit::test

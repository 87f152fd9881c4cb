#include "solve/response.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "quantity/parse.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

// Every number of an answer, in the order of its places.
std::vector<double> numbers(const Solution& s) {
  const Places places(s);
  std::vector<double> all(places.count(), 0.0);
  for (std::size_t b = 0; b < s.branches.size(); ++b) {
    all[places.flow(b)] = s.branches[b].flow_m3s;
    all[places.headFrom(b)] = s.branches[b].headFrom_m, all[places.headTo(b)] = s.branches[b].headTo_m;
  }
  for (std::size_t id = 0; id < s.pointHead_m.size(); ++id)
    all[places.head(static_cast<Id>(id))] = s.pointHead_m[id];
  for (std::size_t id = 0; id < s.heldInflow_m3s.size(); ++id)
    all[places.inflow(static_cast<Id>(id))] = s.heldInflow_m3s[id];
  for (std::size_t v = 0; v < s.vesselHead_m.size(); ++v) all[places.vessel(v)] = s.vesselHead_m[v];
  return all;
}

Network lengthened(const Network& n, Id pipe, double by) {
  Draft draft(n);
  Given length = *n.at(pipe).given("length");
  length.value *= by, length.typed.clear();
  draft.values(pipe).set("length", length);
  return std::move(draft).finish();
}

// A pipe made a little longer and a little shorter, each solved: half the difference is what the response
// says, everywhere. 4e-3 of the greatest shift of its kind, for what is left of the second order.
void isWhatSolvingSays(const Network& n, std::size_t& compared) {
  const Solution s = solve(n, &shippedStock());
  const auto response = Response::about(n, &shippedStock(), s);
  if (!response) return;
  n.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || !e.given("length") || std::abs(s.branch(id, 0).flow_m3s.value_or(0)) < 1e-5)
      return;
    std::vector<double> shift;
    if (!response->ofLoss({id, 0}, shift)) return;
    const auto law = lawOf(lengthened(n, id, 1.004), s, id);
    ASSERT_NE(law, nullptr);
    const auto loss = response->lossMore({id, 0}, law.get(), shift);
    ASSERT_TRUE(loss.has_value()) << e.name;
    const Solution longer = solve(lengthened(n, id, 1.004), &shippedStock(), {.startFrom = &s}),
                   shorter = solve(lengthened(n, id, 1 / 1.004), &shippedStock(), {.startFrom = &s});
    if (longer.summary.states != s.summary.states || shorter.summary.states != s.summary.states) return;
    auto up = numbers(longer), down = numbers(shorter);
    ASSERT_EQ(up.size() + s.found.size(), response->numbers());
    double greatest[2] = {1e-9, 1e-6};  // of flows, of heads
    const Places places(s);
    const auto kind = [&](std::size_t i) {
      return (i < places.head(0) && i % 3 == 0) || (i >= places.inflow(0) && i < places.vessel(0)) ? 0 : 1;
    };
    for (std::size_t i = 0; i < up.size(); ++i)
      if (std::isfinite(up[i] - down[i]))
        greatest[kind(i)] = std::max(greatest[kind(i)], std::abs(up[i] - down[i]) / 2);
    for (std::size_t i = 0; i < up.size(); ++i) {
      if (!std::isfinite(up[i] - down[i])) continue;
      EXPECT_NEAR(*loss * shift[i], (up[i] - down[i]) / 2, 4e-3 * greatest[kind(i)] + 1e-8)
          << e.name << " place " << i;
      ++compared;
    }
    for (std::size_t k = 0; k < s.found.size(); ++k) {
      const double by = (longer.found[k].value - shorter.found[k].value) / 2;
      EXPECT_NEAR(*loss * shift[up.size() + k], by, 1e-2 * std::abs(by) + 1e-9 * std::abs(s.found[k].value))
          << e.name << ", " << s.found[k].field;
      ++compared;
    }
  });
}

TEST(Response, ofAMetreMoreIsWhatSolvingSaysInRandomNetworks) {
  std::size_t compared = 0;
  for (unsigned seed = 1; seed <= 12; ++seed) isWhatSolvingSays(randomNetwork(seed, 25), compared);
  EXPECT_GT(compared, 10000u);
}

// A pump with its check valve, a reducing valve that acts, a tank, an open valve without loss (a join), and a
// level whose inflow is found.
TEST(Response, ofAMetreMoreIsWhatSolvingSaysBesideDevices) {
  const Network n = model(
      point("S", 0) + "," + point("A", 0) + "," + point("B", 5) + "," + point("C", 5) + "," + point("D", 5) +
          "," + point("E", 4, R"("outflow":"4 L/s")") + "," + point("T", 25),
      held("S", 3) + "," + held("T", 12) + "," +
          device(
              "pump", "P", "S", "A",
              R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"32 m"},{"flow":"40 L/s","head":"12 m"}])") +
          "," + pipe("L1", "A", "B", 200, "150 mm") + "," + pipe("L2", "B", "T", 300) + "," +
          device("isolating valve", "V", "B", "C", R"("K":"0")") + "," +
          device("reducing valve", "R", "C", "D", R"("set point":"1.5 bar")") + "," +
          pipe("L3", "D", "E", 80));
  const Solution s = answer(n);
  ASSERT_EQ(state(n, s, "R"), BranchState::acting);
  std::size_t compared = 0;
  isWhatSolvingSays(n, compared);
  EXPECT_GT(compared, 60u);
}

// A line that is not laid: what laying it does, from the answer without it, is near what solving it says (to
// first order, so a tenth); and the other way round.
TEST(Response, ofALineLaidOrTakenAwayIsNearWhatSolvingSays) {
  const auto with = [&](bool laid) {
    return model(point("S", 0) + "," + point("A", 0) + "," + point("B", 0, R"("outflow":"20 L/s")"),
                 held("S", 40) + "," + pipe("L1", "S", "A", 300, "150 mm") + "," +
                     pipe("L2", "A", "B", 300, "150 mm") + "," +
                     pipe("L3", "S", "B", 600, "50 mm", laid ? R"("laid":true)" : R"("laid":false)"));
  };
  const Network without = with(false), there = with(true);
  const Id l3 = there.byName("L3");
  const Solution none = answer(without), laid = answer(there);
  std::vector<double> shift;
  const auto response = Response::about(without, &shippedStock(), none);
  ASSERT_NE(response, nullptr);
  EXPECT_FALSE(response->ofLoss({l3, 0}, shift));
  ASSERT_TRUE(response->ofPassing({l3, 0}, shift));
  const auto law = lawOf(there, none, l3);
  ASSERT_NE(law, nullptr);
  const auto q = response->flowPassing({l3, 0}, *law, shift);
  ASSERT_TRUE(q.has_value());
  EXPECT_NEAR(*q, flow(there, laid, "L3"), 0.1 * *q);
  const std::size_t b = response->places().head(there.byName("B"));
  const double gains = headAt(there, laid, "B") - headAt(without, none, "B");
  EXPECT_NEAR(*q * shift[b], gains, 0.1 * gains);
  // Away with it: nothing passes, exactly.
  const auto back = Response::about(there, &shippedStock(), laid);
  ASSERT_TRUE(back->ofLoss({l3, 0}, shift));
  const auto loss = back->lossMore({l3, 0}, nullptr, shift);
  ASSERT_TRUE(loss.has_value());
  const std::size_t own = back->places().flow(laid.branchBegin[l3]);
  EXPECT_NEAR(flow(there, laid, "L3") + *loss * shift[own], 0.0, 1e-12);
  EXPECT_NEAR(*loss * shift[b], -gains, 0.1 * gains);
}

// What is found goes along: fields of a law, heads that are held, flows in; outcomes of other elements, of
// its own, and such as read the field themselves. A bore is felt by what meets the line: no first order.
TEST(Response, takesFoundFieldsAlong) {
  const std::string curve =
      R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"32 m"},{"flow":"40 L/s","head":"12 m"}],"rated speed":"1450 rpm")";
  const auto network = [&](const std::map<std::string, std::string>& more) {
    const auto of = [&](const std::string& name) {
      return more.contains(name) ? more.at(name) : std::string();
    };
    const auto and_ = [&](const std::string& name) { return of(name).empty() ? "" : "," + of(name); };
    return model(point("S", 0) + "," + point("A", 0, of("A")) + "," + point("B", 5) + "," + point("C", 5) +
                     "," + point("E", 4, of("E").empty() ? R"("outflow":"4 L/s")" : of("E")) + "," +
                     point("T", 25),
                 held("S", 3) + "," + R"({"kind":"fixed pressure","name":"F","point":"T")" +
                     (of("F").empty() ? R"(,"pressure":"1 bar")" : "," + of("F")) + "}," +
                     device("pump", "P", "S", "A", curve + and_("P")) + "," +
                     pipe("L1", "A", "B", 200, "150 mm", of("L1")) + "," +
                     pipe("L2", "B", "T", 300, "100 mm", of("L2")) + "," +
                     device("control valve", "V", "B", "C", R"("Kv":"30 m3/h")" + and_("V")) + "," +
                     pipe("L3", "C", "E", 80, "80 mm", of("L3")));
  };
  struct Asked {
    const char* about;
    std::map<std::string, std::string> more;
    bool first = true;
  };
  for (const Asked& a :
       {Asked{"speed for a flow elsewhere",
              {{"P", R"("found":["speed"])"}, {"L2", R"("given":{"flow":"9 L/s"})"}}},
        {"speed for a pressure", {{"P", R"("found":["speed"])"}, {"A", R"("given":{"pressure":"3.8 bar"})"}}},
        {"speed for its power", {{"P", R"("found":["speed"])"}, {"L2", R"("given":{"velocity":"1.1 m/s"})"}}},
        {"a loss for a pressure", {{"L2", R"("found":["K"])"}, {"A", R"("given":{"pressure":"4.05 bar"})"}}},
        {"a wall for its own flow", {{"L2", R"("found":["roughness"],"given":{"flow":"8 L/s"})"}}},
        {"a pressure held for another",
         {{"F", R"("found":["pressure"])"}, {"A", R"("given":{"pressure":"3.85 bar"})"}}},
        {"a draw-off for a pressure",
         {{"E", R"("found":["outflow"])"}, {"A", R"("given":{"pressure":"3.8 bar"})"}}},
        {"an opening for a pressure",
         {{"V", R"("found":["opening"])"}, {"E", R"("outflow":"4 L/s","given":{"pressure":"3.0 bar"})"}}},
        {"two at once",
         {{"P", R"("found":["speed"])"},
          {"L2", R"("found":["K"],"given":{"flow":"9 L/s"})"},
          {"A", R"("given":{"pressure":"4.1 bar"})"}}},
        {"a bore", {{"L2", R"("found":["bore"],"given":{"flow":"12 L/s"})"}}, false}}) {
    const Network n = network(a.more);
    const Solution s = solve(n, &shippedStock());
    ASSERT_TRUE(s.summary.usable()) << a.about << ": " << s.summary.full();
    ASSERT_FALSE(s.found.empty()) << a.about;
    ASSERT_EQ(Response::about(n, &shippedStock(), s) != nullptr, a.first) << a.about;
    SCOPED_TRACE(a.about);
    std::size_t compared = 0;
    isWhatSolvingSays(n, compared);
    if (a.first) EXPECT_GT(compared, 40u);
  }
}

// No first order: a bore was found, or there is no answer.
TEST(Response, isNotGivenWhereThereIsNoFirstOrder) {
  const std::string points = point("S", 0) + "," + point("A", 0, R"("outflow":"5 L/s")");
  const Network plain = model(points, held("S", 40) + "," + pipe("L1", "S", "A", 300));
  EXPECT_NE(Response::about(plain, &shippedStock(), answer(plain)), nullptr);
  EXPECT_EQ(Response::about(plain, &shippedStock(), Solution{}), nullptr);
  Draft draft(plain);
  draft.values(plain.byName("L1")).release("bore");
  draft.values(plain.byName("A")).give("pressure", *parse("3 bar", Measure::gaugePressure));
  const Network asks = std::move(draft).finish();
  const Solution found = answer(asks);
  ASSERT_FALSE(found.found.empty());
  EXPECT_EQ(Response::about(asks, &shippedStock(), found), nullptr);
}

}  // namespace
}  // namespace conduit::test

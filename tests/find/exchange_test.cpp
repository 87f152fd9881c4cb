#include "find/exchange.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "network/edits.h"

namespace conduit {
namespace {

using test::held;
using test::model;
using test::pipe;
using test::point;

const UnitSet& si() { return UnitSet::siWater(); }

// 50 m at A, a line, a control valve, a line, and 8 L/s drawn at D.
Network throttled() {
  return model(
      point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0, R"("outflow":"8 L/s")"),
      held("A", 50) + "," + pipe("L-1", "A", "B", 300) + "," + pipe("L-2", "C", "D", 300) +
          R"(,{"kind":"control valve","name":"V-1","from":"B","to":"C","Kv":"40 Kv","opening":"50 %"})");
}

TEST(Exchange, whatIsMadeToBeTurnedComesFirstAndEachHasItsValue) {
  const Network n = throttled();
  const Id d = n.byName("D");
  const auto exchanges = exchangesFor(n, &shippedStock(), si(), d, "pressure", "2.5 bar");
  ASSERT_TRUE(exchanges) << exchanges.error().what;
  ASSERT_GE(exchanges->size(), 3u);
  EXPECT_EQ(exchanges->front().field, "opening");
  EXPECT_EQ(exchanges->front().element, n.byName("V-1"));
  std::size_t good = 0;
  for (const Exchange& e : *exchanges) {
    const ExchangeTried tried = tryExchange(n, &shippedStock(), si(), e, nullptr, {});
    if (!tried.balances) {
      EXPECT_FALSE(tried.why.empty()) << e.remedy.words;
      continue;
    }
    ++good;
    // The second route: the value put in by hand gives that pressure.
    ASSERT_TRUE(tried.value_si) << e.remedy.words;
    const auto put = setField(
        n, e.element, e.field,
        std::to_string(*tried.value_si) +
            [&] {
              const Measure m = findField(*n.at(e.element).part, e.field)->measure;
              return m == Measure::ratio ? std::string() : " " + std::string(unitsOf(m).front().symbol);
            }(),
        &shippedStock(), nullptr);
    if (!put) continue;  // a unit whose factor is not one
    const Unit& unit = unitsOf(findField(*n.at(e.element).part, e.field)->measure).front();
    if (unit.factor != 1.0 || unit.offset != 0.0) continue;
    const Solution s = solve(put->network, &shippedStock());
    EXPECT_NEAR(s.setting.medium.pressureOf(*s.head(d)), 2.5e5, 50) << e.remedy.words;
  }
  EXPECT_GE(good, 2u);
}

TEST(Exchange, applyingOneIsOneStepThatBalances) {
  const Network n = throttled();
  const auto exchanges = exchangesFor(n, &shippedStock(), si(), n.byName("D"), "pressure", "2.5 bar");
  ASSERT_TRUE(exchanges);
  const auto done = applyRemedy(n, exchanges->front().remedy, &shippedStock(), &si());
  ASSERT_TRUE(done);
  EXPECT_EQ(done->name, "Set the pressure of D, solve for the opening of V-1");
  const Solution s = solve(done->network, &shippedStock());
  ASSERT_TRUE(s.summary.usable());
  EXPECT_NEAR(s.setting.medium.pressureOf(*s.head(n.byName("D"))), 2.5e5, 1);
  const ExchangeTried tried = tryExchange(n, &shippedStock(), si(), exchanges->front(), nullptr, {});
  EXPECT_EQ(*tried.value_si, *s.foundFor(n.byName("V-1"), "opening"));
}

TEST(Exchange, saysWhyWhatCannotBe) {
  const Network n = throttled();
  const Id d = n.byName("D");
  EXPECT_FALSE(exchangesFor(n, &shippedStock(), si(), d, "pressure", "a lot"));
  // More than the supply has: no opening does it, and each says so.
  const auto exchanges = exchangesFor(n, &shippedStock(), si(), d, "pressure", "9 bar");
  ASSERT_TRUE(exchanges);
  const ExchangeTried tried = tryExchange(n, &shippedStock(), si(), exchanges->front(), nullptr, {});
  EXPECT_FALSE(tried.balances);
  EXPECT_FALSE(tried.why.empty());
}

TEST(Exchange, aTankSwapsItsLevelForItsFlow) {
  const Network n = model(point("A", 0) + "," + point("B", 0),
                          R"({"kind":"tank","name":"T-1","level":"20 m","connections":[{"point":"A"}]},)"
                          R"({"kind":"tank","name":"T-2","level":"5 m","connections":[{"point":"B"}]},)" +
                              pipe("L-1", "A", "B", 400));
  const auto exchanges = exchangesFor(n, &shippedStock(), si(), n.byName("T-1"), "flow out", "12 L/s");
  ASSERT_TRUE(exchanges);
  EXPECT_EQ(exchanges->front().field, "level");
  const ExchangeTried tried = tryExchange(n, &shippedStock(), si(), exchanges->front(), nullptr, {});
  ASSERT_TRUE(tried.balances) << tried.why;
  ASSERT_TRUE(tried.value_si);
  // The level above T-2's is what 12 L/s lose in the pipe, with whatever entrance and exit take.
  const auto put =
      setField(n, n.byName("T-1"), "level", std::to_string(*tried.value_si) + " m", &shippedStock(), nullptr);
  const Solution s = solve(put->network, &shippedStock());
  EXPECT_NEAR(*s.branch(n.byName("L-1"), 0).flow_m3s, 0.012, 1e-7);
}

}  // namespace
}  // namespace conduit

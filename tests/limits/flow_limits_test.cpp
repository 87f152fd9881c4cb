// Least and greatest flows: by direction for devices and for those who take, by size for pipes and points.
// Flows by hand through valves that lose (Q/60)² bar.
#include "limits/deliveries.h"
#include "limits/limits.h"
#include "parts/registry.h"
#include "plain_models.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

std::vector<Check> of(const Network& n, const Solution& s, const std::string& name, CheckId id) {
  std::vector<Check> found;
  for (Check& c : checksOf(n, s, n.byName(name), UnitSet::siWater()))
    if (c.id == id) found.push_back(std::move(c));
  return found;
}
Network withField(const Network& n, const std::string& name, std::string_view key, double m3s) {
  Draft d(n);
  d.values(n.byName(name)).set(key, Given{m3s, Basis::direct, ""});
  return std::move(d).finish();
}

// Every kind that has the field, wherever chance puts it: a little under what it passes is met, a little over
// is not, and turned round it passes that much in reverse.
TEST(FlowLimits, holdEveryKindByItsDirection) {
  std::set<std::string_view> kinds;
  std::vector<Network> networks;
  for (std::uint64_t seed = 0; seed < 40; ++seed) networks.push_back(richNetwork(seed, 60));
  // Kinds that chance does not lay.
  networks.push_back(
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
            fixedAt("S", "A", "4 bar") + "," + fixedAt("R", "D", "1 bar") + "," +
                device("meter", "Q", "A", "B", R"("rated flow":"10 L/s","rated drop":"0.2 bar")") + "," +
                device("exchanger", "E", "B", "C", R"("rated flow":"10 L/s","rated drop":"0.3 bar")") + "," +
                device("relief valve", "V", "C", "D", R"("set point":"1.5 bar","Kv":"30 Kv")")));
  for (std::size_t seed = 0; seed < networks.size(); ++seed) {
    const Network& n = networks[seed];
    const Solution s = solve(n, &shippedStock());
    if (!s.summary.usable()) continue;
    n.each([&](Id id, const Element& e) {
      const Field* f = findField(*e.part, "flow at least");
      if (!f || e.part->ends == Ends::self || isShutByGivens(e.values)) return;
      const auto q =
          ReadingOf(n, s, id)->branches.empty() ? std::nullopt : outcome::flow(*ReadingOf(n, s, id));
      if (!q || std::abs(*q) < 1e-6) return;
      kinds.insert(e.part->key);
      const bool bySize = e.part->geometry != nullptr;
      for (const double share : {0.99, 1.01}) {
        const Network asked = withField(n, e.name, "flow at least", std::abs(*q) * share);
        const auto checks = of(asked, s, e.name, CheckId::flow);
        ASSERT_EQ(checks.size(), 1u) << e.name;
        EXPECT_EQ(checks[0].broken(), share > 1 || (*q < 0 && !bySize)) << seed << " " << e.name << *q;
        EXPECT_EQ(checks[0].severity, Severity::broken);
        if (checks[0].broken())
          EXPECT_EQ(checks[0].what.find("in reverse") != std::string::npos, *q < 0 && !bySize)
              << checks[0].what;
      }
      if (const Field* most = findField(*e.part, "flow at most"); most && !most->needed) {
        const Network asked = withField(n, e.name, "flow at most", std::abs(*q) * 0.99);
        EXPECT_EQ(of(asked, s, e.name, CheckId::flow).at(0).broken(), *q > 0 || bySize) << e.name;
      }
    });
  }
  for (const char* kind :
       {"pipe", "pump", "isolating valve", "control valve", "check valve", "reducing valve",
        "sustaining valve", "relief valve", "limiting valve", "differential valve", "meter", "nozzle",
        "exchanger", "strainer", "orifice plate", "own loss"})
    EXPECT_TRUE(kinds.contains(kind)) << kind;
}

// 2 bar against 1 bar over (Q/60)² bar: 60 m³/h, 16.667 L/s.
TEST(FlowLimits, ofSuppliesByHand) {
  struct Asked {
    const char *name, *key;
    double m3s;
    bool broken;
  };
  const Network n = model(
      point("A", 0) + "," + point("B", 0),
      fixedAt("S", "A", "2 bar") + "," + fixedAt("R", "B", "1 bar") + "," + kv60("V", "A", "B"), plainJob);
  const Solution s = answer(n);
  for (const Asked& a : {Asked{"S", "flow in at least", 0.0166, false},
                         {"S", "flow in at least", 0.0168, true},
                         {"S", "flow in at most", 0.0166, true},
                         {"S", "flow out at least", 0.001, true},
                         {"S", "flow out at most", 0.001, false},
                         {"R", "flow out at least", 0.0166, false},
                         {"R", "flow out at least", 0.0168, true},
                         {"R", "flow out at most", 0.0166, true},
                         {"R", "flow in at least", 0.001, true}}) {
    const Network asked = withField(n, a.name, a.key, a.m3s);
    const bool in = std::string_view(a.key).starts_with("flow in");
    const auto checks = of(asked, s, a.name, in ? CheckId::flowIn : CheckId::flowOut);
    ASSERT_EQ(checks.size(), 1u) << a.name << a.key;
    EXPECT_NEAR(std::abs(checks[0].value), flowBy(1e5), 1e-9);
    EXPECT_EQ(checks[0].broken(), a.broken) << a.name << " " << a.key << " " << a.m3s;
  }
  // A tank's words are the other way round: in is into the tank.
  const Network t =
      model(point("A", 0) + "," + point("B", 0),
            fixedAt("S", "A", "2 bar") + "," + tankAt("T", "B", "10 m", "0 m") + "," + kv60("V", "A", "B"),
            plainJob);
  const Solution filled = answer(t);
  const double q = flowBy(2e5 - gamma_Nm3 * 10);
  for (const double share : {0.99, 1.01}) {
    EXPECT_EQ(of(withField(t, "T", "flow in at least", q * share), filled, "T", CheckId::flowIn)[0].broken(),
              share > 1);
    EXPECT_TRUE(
        of(withField(t, "T", "flow out at least", q * share), filled, "T", CheckId::flowOut)[0].broken());
  }
}

TEST(FlowLimits, ofPointsClosedNozzlesAndSetPoints) {
  const Network n = model(
      point("A", 0) + "," + point("B", 0, R"("outflow":"5 L/s","flow at least":"6 L/s")") + "," +
          point("C", 0, R"("inflow":"2 L/s","flow at most":"1 L/s")") + "," + point("D", 0),
      fixedAt("S", "A", "3 bar") + "," + kv60("V", "A", "B") + "," + kv60("W", "C", "B") + "," +
          device("limiting valve", "I", "B", "D",
                 R"("bore":"50 mm","flow at most":"1 L/s","flow at least":"1.2 L/s")") +
          "," +
          R"({"kind":"nozzle","name":"Z","point":"D","K-factor":"80 L/min/bar^0.5","flow at least":"9 L/s"})" +
          "," +
          R"({"kind":"nozzle","name":"Y","point":"D","K-factor":"80 L/min/bar^0.5","flow at least":"9 L/s","open":false})",
      plainJob);
  const Solution s = answer(n);
  EXPECT_TRUE(of(n, s, "B", CheckId::flow).at(0).broken());
  EXPECT_TRUE(of(n, s, "C", CheckId::flow).at(0).broken()) << "by size: 2 L/s enter";
  EXPECT_TRUE(of(n, s, "Z", CheckId::flow).at(0).broken());
  EXPECT_TRUE(of(n, s, "Y", CheckId::flow).empty()) << "closed by its own given";
  const auto limiting = of(n, s, "I", CheckId::flow);
  ASSERT_EQ(limiting.size(), 1u);
  EXPECT_FALSE(limiting[0].most) << "its greatest flow is its set point";
  EXPECT_TRUE(limiting[0].broken());
}

// What takers get: a draw-off without the pressure it is to have gets nothing.
TEST(Deliveries, byHand) {
  const std::string parts = fixedAt("S", "A", "3 bar") + "," + fixedAt("R", "C", "1 bar") + "," +
                            kv60("V", "A", "B") + "," + kv60("W", "B", "C");
  for (const auto& [least, delivered] : {std::pair{"1.5 bar", 0.005}, {"2.5 bar", 0.0}}) {
    const Network n =
        model(point("A", 0) + "," +
                  point("B", 0, fmt::format(R"("outflow":"5 L/s","pressure at least":"{}")", least)) + "," +
                  point("C", 0),
              parts, plainJob);
    const Solution s = answer(n);
    // 3 − p = (Q/60)², p − 1 = ((Q − 18)/60)² bar with Q in m³/h.
    double low = 0.018 * 1000, high = 200;
    for (int k = 0; k < 80; ++k) {
      const double q = (low + high) / 2, p = 3 - q * q / 3600;
      (p - 1 > (q - 18) * (q - 18) / 3600 ? low : high) = q;
    }
    const auto all = deliveriesOf(n, s);
    ASSERT_EQ(all.size(), 3u);
    for (const Delivery& d : all) {
      const std::string& name = n.at(d.taker).name;
      EXPECT_NEAR(d.flow_m3s,
                  name == "B"   ? delivered
                  : name == "S" ? -low / 3600
                                : (low - 18) / 3600,
                  1e-8)
          << name;
      EXPECT_EQ(d.given, name == "B");
    }
    EXPECT_NEAR(taken(all), delivered + (low - 18) / 3600, 1e-8);
  }
  const std::vector<Delivery> now{
      {1, 0.010, false}, {2, 0.004, false}, {3, -0.020, false}, {4, 0.002, false}},
      then{{1, 0.009, false}, {2, -0.001, false}, {3, -0.010, false}, {4, 0.003, false}};
  const auto changes = deliveryChanges(now, then);
  ASSERT_EQ(changes.size(), 3u);
  EXPECT_EQ(changes[0].taker, 2u) << "turned round: the worst";
  EXPECT_NEAR(changes[0].share(), -0.25, 1e-12);
  EXPECT_NEAR(changes[1].share(), 0.9, 1e-12);
  EXPECT_NEAR(changes[2].share(), 1.5, 1e-12);
}

// One table: job, services and kinds have the fields it names, with its measure, and no other.
TEST(LimitTable, isWhereEveryLimitFieldComesFrom) {
  for (const LimitRow& row : limitTable) {
    std::size_t kinds = 0;
    for (const Part* part : allParts())
      if (const Field* f = findField(*part, row.key)) {
        ++kinds;
        EXPECT_EQ(f->measure, measureOf(row.id)) << part->key << " " << row.key;
        EXPECT_EQ(f->most, row.to) << part->key << " " << row.key;
      }
    EXPECT_GT(kinds, 0u) << row.key;
    const bool shared = static_cast<std::size_t>(row.id) < sharedLimits;
    EXPECT_EQ(findField(*findPart("service"), row.key) != nullptr, shared) << row.key;
    const Field* ofJob = findField(*findPart("job"), row.key);
    EXPECT_EQ(ofJob != nullptr, shared) << row.key;
    if (ofJob) EXPECT_EQ(ofJob->fallback, row.fallback) << row.key;
    EXPECT_FALSE(labelOf(row.check).empty());
  }
  // The element's own before its service's, that before the job's, that before the default.
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
            held("A", 20) + "," + held("D", 0) + "," + pipe("L-1", "A", "B", 10) + "," +
                pipe("L-2", "B", "C", 10, "100 mm", R"("service":"Main")") + "," +
                pipe("L-3", "C", "D", 10, "100 mm", R"("service":"Main","velocity at most":"4 m/s")") +
                R"(,{"kind":"service","name":"Main","velocity at most":"2 m/s"})",
            R"("velocity at least":"0.1 m/s")");
  const Setting s = *settingOf(n, nullptr);
  struct Said {
    const char* name;
    double most;
    LimitFrom from;
  };
  for (const Said& e : {Said{"L-1", 3.0, LimitFrom::fallback},
                        {"L-2", 2.0, LimitFrom::service},
                        {"L-3", 4.0, LimitFrom::own}}) {
    const Limits limits = limitsFor(n.at(n.byName(e.name)).values, s);
    EXPECT_DOUBLE_EQ(*limits[LimitId::velocityMost].si, e.most) << e.name;
    EXPECT_EQ(limits[LimitId::velocityMost].from, e.from) << e.name;
    EXPECT_DOUBLE_EQ(*limits[LimitId::velocityLeast].si, 0.1) << e.name;
    EXPECT_EQ(limits[LimitId::velocityLeast].from, LimitFrom::job) << e.name;
    EXPECT_FALSE(limits[LimitId::gradientMost]);
  }
}

// The quick judging of many answers counts what the findings count, whatever differs from the network that
// its gauges were read from.
TEST(Gauges, countWhatTheFindingsCount) {
  std::size_t compared = 0, broken = 0;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    Chance c{seed * 17 + 3};
    Network base = richNetwork(seed, 50);
    {
      Draft d(base);
      d.values(jobId).set("velocity at most", Given{c.between(0.3, 2), Basis::direct, ""});
      d.values(jobId).set("pressure at least", Given{c.between(0, 4e5), Basis::direct, ""});
      if (seed % 3 == 0) d.values(jobId).set("gradient at most", Given{0.01, Basis::direct, ""});
      base = std::move(d).finish();
    }
    const Solution start = solve(base, &shippedStock());
    if (!start.summary.usable()) continue;
    const Gauges gauges(base, start);
    for (int k = 0; k < 8; ++k) {
      Draft d(base);
      for (int change = 0; change < 1 + k % 3; ++change) {
        const Id id = k == 7 ? jobId : static_cast<Id>(1 + c.below(static_cast<int>(base.bound()) - 1));
        if (!base.find(id)) continue;
        const Element& e = base.at(id);
        const char* key = id == jobId                  ? "temperature"
                          : e.part->key == "point"     ? (c.below(2) ? "height" : "outflow")
                          : e.part->key == "pipe"      ? (c.below(2) ? "bore" : "length")
                          : findField(*e.part, "bore") ? "bore"
                                                       : "";
        const Field* f = findField(*e.part, key);
        const Given* was = e.given(key);
        if (!f || (!was && id != jobId)) continue;
        d.values(id).set(f->key,
                         Given{id == jobId ? 60.0 : was->value * c.between(0.7, 1.4), Basis::direct, ""});
      }
      const Network n = std::move(d).finish();
      const Solution s = solve(n, &shippedStock());
      if (!s.summary.usable()) continue;
      const Standing quick = gauges.standing(n, s), whole = standing(findings(n, s, UnitSet::siWater()));
      EXPECT_EQ(quick.broken, whole.broken) << seed << " " << k;
      EXPECT_EQ(quick.near, whole.near) << seed << " " << k;
      EXPECT_EQ(quick.onPaperOnly, whole.onPaperOnly) << seed << " " << k;
      ++compared, broken += whole.broken;
    }
  }
  EXPECT_GT(compared, 200u);
  EXPECT_GT(broken, 500u);
}

}  // namespace
}  // namespace conduit::test

// A supply that provides a share of all draw-offs, by hand and drawn again.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "plain_models.h"
#include "pump/supply_curve.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

TEST(Share, allOfItWithoutAnotherSupplyIsAllOfIt) {
  // 20 L/s to M at 2 bar through Kv 60: FA stands at 2 bar + 1.44 bar, whether FB is named or not.
  const std::string file =
      fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"20 L/s")") + "," + point("B", 0),
             fixedAt("FA", "A", "5 bar") + "," + fixedAt("FB", "B", "5 bar") + "," + kv60("V1", "A", "M") +
                 "," + kv60("V2", "M", "B"));
  const double expected = (2e5 + dropOf(0.020)) / gamma_Nm3;
  for (const std::vector<std::string>& other : {std::vector<std::string>{}, {"--other", "FB"}}) {
    std::vector<std::string> what{
        "pumps", file,     "--at",   "FA",    "--share", "100 %", "--least-pressure",
        "2 bar", "--flow", "20 L/s", "--json"};
    what.insert(what.end(), other.begin(), other.end());
    const Ran r = ran(what);
    ASSERT_EQ(r.status, cli::limitsKept) << r.err;
    EXPECT_NEAR(r.json()["read"]["head_m"].get<double>(), expected, 1e-6) << other.size();
  }
}

TEST(Share, aThirdSupplyIsCounted) {
  // M at 2 bar: FC holds 4 bar and gives by its valve; FA gives 12 of 30 L/s; FB what is left, which it
  // takes.
  const std::string file = fileOf(point("A", 0) + "," + point("M", 0, R"("outflow":"30 L/s")") + "," +
                                      point("B", 0) + "," + point("C", 0),
                                  fixedAt("FA", "A", "5 bar") + "," + fixedAt("FB", "B", "5 bar") + "," +
                                      fixedAt("FC", "C", "4 bar") + "," + kv60("V1", "A", "M") + "," +
                                      kv60("V2", "B", "M") + "," + kv60("V3", "C", "M"));
  const std::vector<std::string> what{
      "pumps", file,     "--at",  "FA", "--share", "40 %", "--other", "FB", "--least-pressure",
      "2 bar", "--flow", "12 L/s"};
  auto json = what;
  json.push_back("--json");
  const Ran r = ran(json);
  ASSERT_EQ(r.status, cli::limitsKept) << r.err;
  const double third = flowBy(2e5), other = 0.030 - 0.012 - third;
  const auto read = r.json()["read"];
  EXPECT_NEAR(read["other_m3s"].get<double>(), other, 1e-8);
  EXPECT_NEAR(read["other_level_m"].get<double>(), (2e5 - dropOf(other)) / gamma_Nm3, 1e-5);
  EXPECT_EQ(read["besides"][0]["supply"], "FC");
  EXPECT_NEAR(read["besides"][0]["flow_m3s"].get<double>(), third, 1e-8);
  EXPECT_NEAR(read["head_m"].get<double>(), (2e5 + dropOf(0.012)) / gamma_Nm3, 1e-5);
  const Ran text = ran(what);
  EXPECT_NE(text.out.find("FC provides"), std::string::npos) << text.out;
  EXPECT_NE(text.out.find("FB takes"), std::string::npos) << text.out;
}

TEST(Share, ofRandomNetworksUnderEachLawIsWhatTheNetworkWithItGives) {
  // Rings with three supplies; each point read is drawn again with its heads held, and solved: the supply
  // gives that flow, and the least pressure is just kept.
  int read = 0;
  for (std::uint64_t seed = 0; seed < 36; ++seed) {
    Chance chance{seed * 19 + 3};
    const auto& [law, wall] = frictionLaws[seed % 3];
    std::string places, elements;
    const int ring = 5 + chance.below(5);
    for (int i = 0; i < ring; ++i) {
      const std::string here = "R" + std::to_string(i), next = "R" + std::to_string((i + 1) % ring);
      places +=
          (i ? "," : "") + point(here, chance.between(0, 10),
                                 fmt::format(R"("outflow":"{} L/s")", i % 2 ? chance.between(1, 8) : 0.0));
      elements += (i ? "," : "") +
                  device("pipe", "P" + std::to_string(i), here, next,
                         fmt::format(R"("length":"{} m","bore":"150 mm",{})", chance.between(50, 400), wall));
    }
    const char* supplies[] = {"FA", "FB", "FC"};
    for (int k = 0; k < 3; ++k) {
      const std::string at = "S" + std::to_string(k);
      places += "," + point(at, 0);
      elements += "," + fixedAt(supplies[k], at, fmt::format("{} bar", chance.between(3, 5))) + "," +
                  device("pipe", "Q" + std::to_string(k), at, "R" + std::to_string(k * ring / 3),
                         fmt::format(R"("length":"120 m","bore":"150 mm",{})", wall));
    }
    const Network n = model(places, elements, jobUnder(law));
    const Solution base = answer(n);
    const SharedSupply shared{.supply = n.byName("FA"),
                              .other = n.byName("FB"),
                              .share = chance.oneIn(4) ? 1.0 : 0.4,
                              .least_pa = 1.5e5};
    const double flow = chance.between(0.003, 0.012);
    const auto p = sharedAtFlow(n, &shippedStock(), base, shared, flow);
    if (!p) continue;
    ++read;
    const Network with = withShared(n, &shippedStock(), shared, *p);
    const Solution s = answer(with);
    double gives = NAN, other = NAN, third = NAN, least = 1e9;
    for (const SupplyShare& share : s.summary.shares) {
      if (share.element == shared.supply) gives = share.inflow_m3s;
      if (share.element == shared.other) other = share.inflow_m3s;
      if (with.at(share.element).name == "FC") third = share.inflow_m3s;
    }
    with.each([&](Id id, const Element& e) {
      if (e.part->key == "point" && e.name[0] == 'R')
        least = std::min(least, (*s.head(id) - e.given("height")->value) * gamma_Nm3);
    });
    // S2 belongs to a supply too, but one that is neither of the two: it counts like the ring.
    least = std::min(least, (*s.head(with.byName("S2"))) * gamma_Nm3);
    EXPECT_NEAR(gives, flow, 1e-7) << seed;
    EXPECT_NEAR(other, p->other_m3s, 1e-7) << seed;
    ASSERT_EQ(p->besides.size(), 1u);
    EXPECT_NEAR(third, p->besides[0].second, 1e-7) << seed;
    EXPECT_NEAR(least, 1.5e5, 2) << seed << " Pa";
  }
  EXPECT_GT(read, 20);
}

}  // namespace
}  // namespace conduit::test

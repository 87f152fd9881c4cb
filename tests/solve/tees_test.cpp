// Tees with short legs, by Gardel's K applied a second way.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "loss/fitting_k.h"
#include "plain_models.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

// How far the head lost along a leg is from friction and the tee's K (Gardel 1957, by the functions whose
// values laws_test.cpp compares), m; friction as the same pipe loses it alone. Empty where the branch is the
// common leg or two legs carry nearly the same: there the losses of two readings are mixed.
std::optional<double> teeMiss(const Network& n, const Solution& s, const std::string& tee, double angle_deg) {
  const Id at = n.byName(tee);
  struct Leg {
    double in_m3s, loss_m, friction_m, area_m2;  // flow into the tee; lost from its far end to the tee
    bool branch;
  };
  std::vector<Leg> legs;
  n.each([&](Id id, const Element& e) {
    if (e.part->key != "pipe" || (e.ends[0] != at && e.ends[1] != at)) return;
    const double q = *s.branch(id, 0).flow_m3s, sign = e.ends[1] == at ? 1 : -1;
    const std::string far = n.at(e.ends[1] == at ? e.ends[0] : e.ends[1]).name;
    const double bore = e.given("bore")->value;
    const Network alone = model(
        point("P", 0) + "," + point("Q", 0, fmt::format(R"("outflow":"{:.17g} L/s")", q * 1000)),
        held("P", 50) + "," +
            device("pipe", "L", "P", "Q",
                   fmt::format(R"("length":"{}","bore":"{}","roughness":"{}")", e.given("length")->typed,
                               e.given("bore")->typed, e.given("roughness")->typed)),
        plainJob);
    const double friction = 50 - headAt(alone, answer(alone), "Q");
    legs.push_back({sign * q, headAt(n, s, far) - headAt(n, s, tee), sign * friction, M_PI / 4 * bore * bore,
                    e.name == *n.at(at).text("tee branch")});
  });
  const Leg &common = *std::max_element(
                legs.begin(), legs.end(),
                [](const Leg&a, const Leg&b) { return std::abs(a.in_m3s) < std::abs(b.in_m3s); }),
            &branch = *std::find_if(legs.begin(), legs.end(), [](const Leg&l) { return l.branch; });
  for (const Leg& l : legs)
    if (&l != &common && std::abs(l.in_m3s) > 0.985 * std::abs(common.in_m3s)) return std::nullopt;
  if (&common == &branch) return std::nullopt;
  const bool joining = common.in_m3s < 0;
  const fittingk::Tee shape{.phi = std::min(branch.area_m2 / common.area_m2, 1.0), .angle_deg = angle_deg};
  const double share = std::abs(branch.in_m3s / common.in_m3s),
               head = std::pow(common.in_m3s / common.area_m2, 2) / (2 * gravity);
  double miss = 0;
  for (const Leg& l : legs) {
    double k = 0;
    if (&l != &common && joining)
      k = l.branch ? fittingk::joiningBranch(shape, share) : fittingk::joiningRun(shape, share);
    if (&l != &common && !joining)
      k = l.branch ? -fittingk::dividingBranch(shape, share) : -fittingk::dividingRun(shape, share);
    miss = std::max(miss, std::abs(l.loss_m - l.friction_m - k * head));
  }
  return miss;
}

TEST(Tee, twoOfWhoseLegsEndAtOnePointHasAnAnswer) {
  const Network n = model(
      R"({"name":"N-3","height":"21.8662 m"},{"name":"N-5","height":"39.6987 m","outflow":"1.79886 L/s"},{"name":"N-8","height":"19.7279 m","tee branch":"L-14","tee angle":"45"})",
      device("pipe", "L-14", "N-5", "N-8",
             R"("length":"3.97322 m","bore":"151.511 mm","roughness":"0.0015 mm")") +
          "," +
          device("pipe", "L-19", "N-3", "N-8",
                 R"("length":"310.266 m","size":"ASME B36.19M 4 10S","roughness":"0.05 mm")") +
          "," +
          device("pipe", "L-22", "N-8", "N-5",
                 R"("length":"0.336741 m","bore":"77.3899 mm","roughness":"0.104572 mm")") +
          "," + fixedAt("F-2", "N-3", "7.1024 bar"));
  const Solution s = answer(n);
  EXPECT_NEAR(flow(n, s, "L-19"), 1.79886e-3, 1e-9);
  EXPECT_NEAR(flow(n, s, "L-22") - flow(n, s, "L-14"), 1.79886e-3, 1e-9);
  EXPECT_GT(flow(n, s, "L-14"), 0) << "drawn along by the others, back to the tee";
}

TEST(Tee, withShortLegsEndsInATrueAnswerOrASaidOne) {
  // Loops of two short legs at a tee, of every proportion: never without a word.
  int solved = 0, judged = 0;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    Chance chance{seed * 13 + 1};
    const double angle = chance.oneIn(2) ? 45 : 90;
    const auto leg = [&](const char* name, const char* from, const char* to) {
      return device("pipe", name, from, to,
                    fmt::format(R"("length":"{} m","bore":"{} mm","roughness":"0.05 mm")",
                                chance.between(0.1, 6), chance.between(40, 160)));
    };
    const Network n = model(
        point("S", 0) + "," + point("D", 0, fmt::format(R"("outflow":"{} L/s")", chance.between(0.2, 20))) +
            "," +
            point("T", 0,
                  fmt::format(R"("tee branch":"{}","tee angle":"{}")", chance.oneIn(2) ? "A" : "B", angle)),
        fixedAt("F", "S", "5 bar") + "," + leg("A", "T", "D") + "," + leg("B", "T", "D") + "," +
            leg("C", "S", "T"),
        plainJob);
    const Solution s = solve(n, &shippedStock());
    EXPECT_TRUE(s.summary.verdict == Verdict::balanced || s.summary.verdict == Verdict::noStates) << seed;
    if (!s.summary.usable()) continue;
    ++solved;
    const auto miss = teeMiss(n, s, "T", angle);
    judged += miss.has_value();
    EXPECT_LT(miss.value_or(0), 2e-6) << seed;
  }
  EXPECT_GT(solved, 50);
  EXPECT_GT(judged, 30);
}

}  // namespace
}  // namespace conduit::test

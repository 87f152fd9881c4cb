// What passive networks can and cannot do: linear ones against elimination, order of heads, symmetry of
// devices and of files. No expected number comes from the program.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "exchange/model_file.h"
#include "network/network.h"
#include "plain_models.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

// Fifty times as thick as glycerol: the flows of these tests stay laminar.
const std::string syrup = R"("liquid":"own liquid","density":"1250 kg/m3","viscosity":"50000 mm2/s")";

// ---- Linear networks: Hagen and Poiseuille, solved here by elimination ----------------------------------

using Numbers = std::vector<double>;

// Gauss with the largest of each column as pivot.
Numbers eliminate(std::vector<Numbers> m, Numbers right) {
  const std::size_t n = right.size();
  for (std::size_t c = 0; c < n; ++c) {
    std::size_t pivot = c;
    for (std::size_t r = c; r < n; ++r)
      if (std::abs(m[r][c]) > std::abs(m[pivot][c])) pivot = r;
    std::swap(m[c], m[pivot]), std::swap(right[c], right[pivot]);
    for (std::size_t r = 0; r < n; ++r) {
      const double share = r == c ? 0.0 : m[r][c] / m[c][c];
      for (std::size_t k = c; share != 0.0 && k < n; ++k) m[r][k] -= share * m[c][k];
      right[r] -= share * right[c];
    }
  }
  for (std::size_t c = 0; c < n; ++c) right[c] /= m[c][c];
  return right;
}

// Conductances of a laminar network, Q = C (Hᵢ − Hⱼ), C = π gravity d⁴/(128 ν L) (Hagen 1839, Poiseuille
// 1846).
struct Linear {
  struct Line {
    int from, to;
    double length, bore;
  };
  int points;
  std::vector<Line> lines;
  static double conductance(const Line& l) {
    return M_PI * gravity * std::pow(l.bore, 4) / (128 * 0.05 * l.length);
  }
  // Heads with point 0 held and a draw at each other point.
  [[nodiscard]] Numbers heads(double held_m, const Numbers& draws) const {
    std::vector<Numbers> m(draws.size(), Numbers(draws.size(), 0.0));
    for (const Line& l : lines) {
      const auto i = static_cast<std::size_t>(l.from), j = static_cast<std::size_t>(l.to);
      const double c = conductance(l);
      m[i][i] += c, m[j][j] += c, m[i][j] -= c, m[j][i] -= c;
    }
    Numbers right(draws.size());
    for (std::size_t i = 0; i < draws.size(); ++i) right[i] = -draws[i];
    m[0].assign(draws.size(), 0.0), m[0][0] = 1, right[0] = held_m;
    return eliminate(std::move(m), std::move(right));
  }
  [[nodiscard]] Network network(double held_m, const Numbers& draws) const {
    std::string places, elements = held("N0", held_m);
    for (int i = 0; i < points; ++i)
      places += (i ? "," : "") + point("N" + std::to_string(i), 0,
                                       i && draws[static_cast<std::size_t>(i)] != 0
                                           ? flowField("outflow", draws[static_cast<std::size_t>(i)])
                                           : "");
    for (std::size_t k = 0; k < lines.size(); ++k)
      elements += ",{\"kind\":\"pipe\",\"name\":\"L" + std::to_string(k) + "\",\"from\":\"N" +
                  std::to_string(lines[k].from) + "\",\"to\":\"N" + std::to_string(lines[k].to) +
                  "\",\"length\":" + quoted(lines[k].length, "m") +
                  ",\"bore\":" + quoted(lines[k].bore * 1000, "mm") + R"(,"roughness":"0 mm"})";
    return model(places, elements, syrup);
  }
};

// A ring with chords, every length and bore by chance; the same seed gives the same.
Linear someLinear(std::uint64_t seed) {
  Chance chance{seed * 31 + 7};
  Linear net{.points = 5 + chance.below(12), .lines = {}};
  for (int i = 0; i < net.points; ++i) net.lines.push_back({i, (i + 1) % net.points, 0, 0});
  for (int i = 0; i < net.points / 2; ++i) {
    const int from = chance.below(net.points);
    net.lines.push_back({from, (from + 2 + chance.below(net.points - 3)) % net.points, 0, 0});
  }
  for (Linear::Line& l : net.lines) l.length = chance.between(5, 200), l.bore = chance.between(0.05, 0.25);
  return net;
}

class LinearNetworks : public testing::TestWithParam<int> {};

TEST_P(LinearNetworks, agreeWithElimination) {
  for (int k = 0; k < 10; ++k) {
    const auto seed = static_cast<std::uint64_t>(GetParam() * 10 + k);
    const Linear net = someLinear(seed);
    Chance chance{seed + 1};
    Numbers draws(static_cast<std::size_t>(net.points), 0.0);
    for (std::size_t i = 1; i < draws.size(); ++i)
      draws[i] = chance.oneIn(3) ? 0.0 : chance.between(-2e-6, 4e-6);
    const Numbers expected = net.heads(7, draws);
    const Network n = net.network(7, draws);
    const Solution s = answer(n);
    const double range = *std::max_element(expected.begin(), expected.end()) -
                         *std::min_element(expected.begin(), expected.end()) + 1e-3;
    for (int i = 0; i < net.points; ++i)
      EXPECT_NEAR(headAt(n, s, "N" + std::to_string(i)), expected[static_cast<std::size_t>(i)], 1e-6 * range)
          << "seed " << seed;
    for (std::size_t l = 0; l < net.lines.size(); ++l)
      EXPECT_NEAR(flow(n, s, "L" + std::to_string(l)),
                  Linear::conductance(net.lines[l]) * (expected[static_cast<std::size_t>(net.lines[l].from)] -
                                                       expected[static_cast<std::size_t>(net.lines[l].to)]),
                  1e-6 * 5e-6 + 1e-13)
          << "seed " << seed << " line " << l;
  }
}

TEST_P(LinearNetworks, drawsAddUpAndActOnEachOtherAlike) {
  const Linear net = someLinear(static_cast<std::uint64_t>(GetParam()) + 500);
  const int i = 1, j = net.points - 2;
  const auto fallAt = [&](double atI, double atJ) {
    Numbers draws(static_cast<std::size_t>(net.points), 0.0);
    draws[static_cast<std::size_t>(i)] = atI, draws[static_cast<std::size_t>(j)] = atJ;
    const Network n = net.network(9, draws);
    const Solution s = answer(n);
    return std::pair{9 - headAt(n, s, "N" + std::to_string(i)), 9 - headAt(n, s, "N" + std::to_string(j))};
  };
  const double q = 3e-6;
  const auto [ii, ji] = fallAt(q, 0);
  const auto [ij, jj] = fallAt(0, q);
  const auto [both_i, both_j] = fallAt(q, q);
  EXPECT_NEAR(ij, ji, 1e-6 * ii) << "reciprocity";
  EXPECT_NEAR(both_i, ii + ij, 1e-6 * both_i) << "superposition";
  EXPECT_NEAR(both_j, ji + jj, 1e-6 * both_j);
  const auto [twice, other] = fallAt(2 * q, 0);
  EXPECT_NEAR(twice, 2 * ii, 1e-6 * twice);
  EXPECT_NEAR(other, 2 * ji, 1e-6 * other + 1e-9);
}
INSTANTIATE_TEST_SUITE_P(Seeds, LinearNetworks, testing::Range(0, 12));

// ---- Order: what a passive network can and cannot do ----------------------------------------------------

class Passive : public testing::TestWithParam<int> {};

TEST_P(Passive, noPointLiesOverAllItsNeighbours) {
  // Where nothing is fed in, a head is at most the highest beside it; with a draw it is below that.
  const Network n = gridNetwork(300, static_cast<std::uint64_t>(GetParam()) + 40);
  const Solution s = answer(n);
  std::map<Id, double> highest;
  std::set<Id> supplied;
  n.each([&](Id id, const Element& e) {
    for (const Id end : e.ends) {
      if (e.part->ends == Ends::many || e.part->key == "fixed pressure") supplied.insert(end);
      if (e.part->key != "pipe") continue;
      for (const Id other : e.ends)
        if (other != end && *s.head(other) > (highest.contains(end) ? highest[end] : -1e9))
          highest[end] = *s.head(other);
    }
    static_cast<void>(id);
  });
  int judged = 0;
  for (const auto& [id, top] : highest) {
    if (supplied.contains(id)) continue;
    const Given* draw = n.at(id).given("outflow");
    if (draw && draw->value < 0) continue;
    ++judged;
    EXPECT_LE(*s.head(id), top + 1e-9) << n.at(id).name;
  }
  EXPECT_GT(judged, 100);
}

TEST_P(Passive, aHigherSupplyLowersNoHeadAndALargerDrawRaisesNone) {
  const Network n = gridNetwork(250, static_cast<std::uint64_t>(GetParam()) + 90);
  const Solution before = answer(n);
  Id tank = noId, drawn = noId;
  n.each([&](Id id, const Element& e) {
    if (tank == noId && e.part->key == "tank") tank = id;
    if (drawn == noId && e.given("outflow") && e.given("outflow")->value > 0) drawn = id;
  });
  ASSERT_NE(tank, noId);
  ASSERT_NE(drawn, noId);
  const auto with = [&](Id id, const char* key, double by) {
    Draft d(n);
    Given v = *n.at(id).given(key);
    v.value += by;
    d.values(id).set(key, v);
    return std::move(d).finish();
  };
  const Network higher = with(tank, "level", 3.0), thirsty = with(drawn, "outflow", 0.002);
  const Solution up = answer(higher), down = answer(thirsty);
  int moved = 0;
  n.each([&](Id id, const Element& e) {
    if (e.part->key != "point") return;
    EXPECT_GE(*up.head(id), *before.head(id) - 1e-8) << e.name;
    EXPECT_LE(*down.head(id), *before.head(id) + 1e-8) << e.name;
    moved += *up.head(id) > *before.head(id) + 0.1;
  });
  EXPECT_GT(moved, 5) << "the supply counts for something";
}

TEST_P(Passive, allHeightsRaisedTogetherChangeNoFlow) {
  const Network n = gridNetwork(200, static_cast<std::uint64_t>(GetParam()) + 140);
  Draft d(n);
  n.each([&](Id id, const Element& e) {
    for (const char* key : {"height", "level"})
      if (const Given* z = e.given(key)) {
        Given higher = *z;
        higher.value += 777;
        d.values(id).set(key, higher);
      }
  });
  const Network raised = std::move(d).finish();
  const Solution a = answer(n), b = answer(raised);
  n.each([&](Id id, const Element& e) {
    if (e.part->key == "point") EXPECT_NEAR(*b.head(id) - *a.head(id), 777, 1e-7) << e.name;
    if (e.part->key == "pipe")
      EXPECT_NEAR(*b.branch(id, 0).flow_m3s, *a.branch(id, 0).flow_m3s, 1e-10) << e.name;
  });
}
INSTANTIATE_TEST_SUITE_P(Seeds, Passive, testing::Range(0, 6));

// ---- Symmetry
// ----------------------------------------------------------------------------------------------

TEST(Symmetry, equalSpokesOfARingCarryTheSame) {
  for (const int n : {3, 4, 7, 12}) {
    std::string places = point("hub", 0), elements = held("hub", 40);
    for (int i = 0; i < n; ++i) {
      const std::string here = "R" + std::to_string(i), next = "R" + std::to_string((i + 1) % n);
      places += "," + point(here, 0, flowField("outflow", 0.003));
      elements += "," + pipe("spoke" + std::to_string(i), "hub", here, 80) + "," +
                  pipe("rim" + std::to_string(i), here, next, 50);
    }
    const Network net = model(places, elements, plainJob);
    const Solution s = answer(net);
    for (int i = 0; i < n; ++i) {
      EXPECT_NEAR(flow(net, s, "spoke" + std::to_string(i)), 0.003, 1e-9) << n;
      EXPECT_NEAR(flow(net, s, "rim" + std::to_string(i)), 0, 1e-7) << n;
      EXPECT_NEAR(headAt(net, s, "R" + std::to_string(i)), headAt(net, s, "R0"), 1e-7) << n;
    }
  }
}

TEST(Symmetry, aBalancedBridgeHasNoFlowAcross) {
  // Lengths 100 : 200 = 150 : 300 of one law: the bridge lies between equal heads (Wheatstone).
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," +
                point("D", 0, flowField("outflow", 0.01)),
            held("A", 60) + "," + pipe("1", "A", "B", 100) + "," + pipe("2", "B", "D", 200) + "," +
                pipe("3", "A", "C", 150) + "," + pipe("4", "C", "D", 300) + "," + pipe("5", "B", "C", 30),
            plainJob);
  const Solution s = answer(n);
  EXPECT_NEAR(headAt(n, s, "B"), headAt(n, s, "C"), 1e-6);
  EXPECT_NEAR(flow(n, s, "5"), 0, 1e-6);
  EXPECT_NEAR(flow(n, s, "1"), flow(n, s, "2"), 1e-6);
}

struct Turned {
  std::string kind, fields;
  bool oneWay;
};
void PrintTo(const Turned& t, std::ostream* out) { *out << t.kind; }

class TurnedRound : public testing::TestWithParam<Turned> {};

// From 30 m to 4 m through one device: turned round, a two-way device carries as much; a one-way device none.
TEST_P(TurnedRound, carriesAsMuchOrNothing) {
  const auto net = [&](bool turned) {
    return model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
                 held("A", 30) + "," + held("D", 4) + "," + pipe("L1", "A", "B", 60) + "," +
                     device(GetParam().kind, "X", turned ? "C" : "B", turned ? "B" : "C", GetParam().fields) +
                     "," + pipe("L2", "C", "D", 90),
                 plainJob);
  };
  const Network straight = net(false), turned = net(true);
  const Solution a = answer(straight), b = answer(turned);
  EXPECT_GT(flow(straight, a, "X"), 1e-3);
  if (GetParam().oneWay) {
    EXPECT_EQ(flow(turned, b, "X"), 0.0);
    EXPECT_NEAR(headAt(turned, b, "B"), 30, 1e-9) << "at rest with its supply";
    EXPECT_NEAR(headAt(turned, b, "C"), 4, 1e-9);
  } else {
    EXPECT_NEAR(flow(turned, b, "X"), -flow(straight, a, "X"), 1e-11);
    EXPECT_NEAR(headAt(turned, b, "B"), headAt(straight, a, "B"), 1e-8);
  }
}
INSTANTIATE_TEST_SUITE_P(
    OfEveryDevice, TurnedRound,
    testing::Values(Turned{"pipe", R"("length":"30 m","bore":"80 mm","roughness":"0.1 mm")", false},
                    Turned{"isolating valve", R"("K":"3","bore":"80 mm")", false},
                    Turned{"control valve", R"("Kv":"60 Kv","opening":"60 %")", false},
                    Turned{"strainer", R"("rated flow":"5 L/s","clean drop":"0.2 bar")", false},
                    Turned{"meter", R"("rated flow":"5 L/s","rated drop":"0.2 bar")", false},
                    Turned{"exchanger", R"("rated flow":"5 L/s","rated drop":"0.2 bar")", false},
                    Turned{"own loss", R"("law":"K","K":"5","bore":"80 mm")", false},
                    Turned{"check valve", R"("K":"3","bore":"80 mm")", true},
                    Turned{"reducing valve", R"("set point":"2 bar","K":"3","bore":"80 mm")", true}),
    [](const auto& row) {
      std::string name = row.param.kind;
      std::erase(name, ' ');
      return name;
    });

TEST(Symmetry, theOrderInTheFileChangesNothing) {
  for (const int seed : {3, 11, 29}) {
    const Network n = gridNetwork(120, static_cast<std::uint64_t>(seed));
    auto json = nlohmann::ordered_json::parse(writeModel(Model(n)));
    for (const char* list : {"points", "elements"}) std::reverse(json[list].begin(), json[list].end());
    const auto reversed = readDrawn(json.dump(), &shippedStock());
    ASSERT_TRUE(reversed.has_value());
    const Solution a = answer(n), b = answer(*reversed);
    n.each([&](Id id, const Element& e) {
      const Id other = reversed->byName(e.name);
      ASSERT_NE(other, noId) << e.name;
      if (e.part->key == "point") EXPECT_NEAR(*a.head(id), *b.head(other), 1e-8) << e.name;
      if (e.part->key == "pipe")
        EXPECT_NEAR(*a.branch(id, 0).flow_m3s, *b.branch(other, 0).flow_m3s, 1e-9) << e.name;
    });
  }
}

}  // namespace
}  // namespace conduit::test

// What must hold for every network, whatever its numbers: laws of similarity, of linear networks, of symmetry
// and of order. No expected number comes from the program; where one is needed it is worked out here.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <set>

#include "exchange/model_file.h"
#include "model_text.h"
#include "network/network.h"
#include "solve/random_network.h"

namespace conduit::test {
namespace {

constexpr double g = 9.80665;
const std::string water = R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")";
// Fifty times as thick as glycerol: the flows of these tests stay laminar.
const std::string syrup = R"("liquid":"own liquid","density":"1250 kg/m3","viscosity":"50000 mm2/s")";

std::string quoted(double v, const std::string& unit) { return fmt::format("\"{:.17g} {}\"", v, unit); }
std::string outflow(double m3s) { return "\"outflow\":" + quoted(m3s * 1000, "L/s"); }

// ---- Units: the same network in two languages ----------------------------------------------------------

struct InTwoUnits {
  std::string name, si, us;  // an element from B to C
};
void PrintTo(const InTwoUnits& d, std::ostream* out) { *out << d.name; }

// Each US value is the SI value converted by the definitions: 1 in = 25.4 mm, 1 ft = 12 in, 1 US gallon =
// 231 in³, 1 lbf = 0.45359237 · 9.80665 N.
constexpr double inch = 0.0254, foot = 0.3048, gallon = 231 * inch * inch * inch,
                 psi = 0.45359237 * g / (inch * inch), gpm = gallon / 60;
constexpr double cvOfKv = 1 / 0.865;  // IEC 60534-2-1, the ratio of its constants N1

std::vector<InTwoUnits> inTwoUnits() {
  const auto kind = [](const std::string& k) {
    return "{\"kind\":\"" + k + R"(","name":"X","from":"B","to":"C",)";
  };
  return {
      {"pipe", kind("pipe") + R"("length":"120 m","bore":"80 mm","roughness":"0.1 mm","K":"2"})",
       kind("pipe") + "\"length\":" + quoted(120 / foot, "ft") + ",\"bore\":" + quoted(80 / 25.4, "in") +
           ",\"roughness\":" + quoted(0.1 / 25.4, "in") + ",\"K\":\"2\"}"},
      {"controlValve", kind("control valve") + R"("Kv":"40 Kv","opening":"70 %"})",
       kind("control valve") + "\"Kv\":" + quoted(40 * cvOfKv, "Cv") + R"(,"opening":"0.7"})"},
      {"isolatingValve", kind("isolating valve") + R"("K":"3","bore":"65 mm"})",
       kind("isolating valve") + "\"K\":\"3\",\"bore\":" + quoted(65 / 25.4, "in") + "}"},
      {"checkValve", kind("check valve") + R"("K":"3","bore":"65 mm"})",
       kind("check valve") + "\"K\":\"3\",\"bore\":" + quoted(0.065 / foot, "ft") + "}"},
      {"reducingValve", kind("reducing valve") + R"("set point":"1.2 bar","K":"3","bore":"65 mm"})",
       kind("reducing valve") + "\"set point\":" + quoted(1.2e5 / psi, "psi") +
           R"(,"K":"3","bore":"65 mm"})"},
      {"limitingValve", kind("limiting valve") + R"("flow at most":"2 L/s","K":"3","bore":"65 mm"})",
       kind("limiting valve") + "\"flow at most\":" + quoted(0.002 / gpm, "gpm") +
           R"(,"K":"3","bore":"65 mm"})"},
      {"strainer", kind("strainer") + R"("rated flow":"5 L/s","clean drop":"0.2 bar"})",
       kind("strainer") + "\"rated flow\":" + quoted(0.005 / gpm, "gpm") +
           ",\"clean drop\":" + quoted(2e4 / psi, "psi") + "}"},
      {"meter", kind("meter") + R"("rated flow":"5 L/s","rated drop":"0.2 bar"})",
       kind("meter") + "\"rated flow\":" + quoted(0.005 / gpm, "gpm") + R"(,"rated drop":"20 kPa"})"},
      {"exchanger", kind("exchanger") + R"("rated flow":"5 L/s","rated drop":"0.2 bar","exponent":"1.8"})",
       kind("exchanger") + R"("rated flow":"18 m3/h","rated drop":"200 mbar","exponent":"1.8"})"},
      {"orificePlate", kind("orifice plate") + R"("bore":"30 mm","pipe bore":"80 mm"})",
       kind("orifice plate") + "\"bore\":" + quoted(30 / 25.4, "in") +
           ",\"pipe bore\":" + quoted(80 / 25.4, "in") + "}"},
      {"ownLoss", kind("own loss") + R"("law":"fixed drop","drop":"0.3 bar"})",
       kind("own loss") + R"("law":"fixed drop","drop":)" + quoted(3e4 / psi, "psi") + "}"},
      {"pump",
       kind("pump") +
           R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"25 m"},{"flow":"12 L/s","head":"12 m"}]})",
       kind("pump") + "\"curve\":[{\"flow\":\"0 gpm\",\"head\":" + quoted(30 / foot, "ft") +
           "},{\"flow\":" + quoted(0.006 / gpm, "gpm") + ",\"head\":" + quoted(25 / foot, "ft") +
           "},{\"flow\":" + quoted(0.012 / gpm, "gpm") + ",\"head\":" + quoted(12 / foot, "ft") + "}]}"},
  };
}

class Units : public testing::TestWithParam<InTwoUnits> {};

TEST_P(Units, changeNothing) {
  const auto net = [&](const std::string& element, bool us) {
    const std::string b =
        us ? point("B", 2).replace(point("B", 2).find("\"2."), std::string("\"2.000000 m\"").size(),
                                   quoted(2 / foot, "ft"))
           : point("B", 2);
    return model(point("A", 0) + "," + b + "," + point("C", 1) + "," + point("D", 0),
                 held("A", 30) + "," + held("D", 4) + "," + pipe("L1", "A", "B", 60) + "," + element + "," +
                     pipe("L2", "C", "D", 90),
                 water);
  };
  const Network si = net(GetParam().si, false), us = net(GetParam().us, true);
  const Solution a = answer(si), b = answer(us);
  for (const char* line : {"L1", "X", "L2"})
    EXPECT_NEAR(flow(si, a, line), flow(us, b, line), 1e-9 * std::abs(flow(si, a, line)) + 1e-13) << line;
  for (const char* place : {"B", "C"}) EXPECT_NEAR(headAt(si, a, place), headAt(us, b, place), 1e-7) << place;
  EXPECT_GT(flow(si, a, "X"), 1e-4) << "something flows";
}
INSTANTIATE_TEST_SUITE_P(OfEveryDevice, Units, testing::ValuesIn(inTwoUnits()),
                         [](const auto& row) { return row.param.name; });

// ---- Similarity: all heads times k give all flows times k^(1/n) -----------------------------------------

struct Power {
  std::string name, job, line;  // of a pipe, without its length
  double exponent;              // of the flow in the law of loss
};
void PrintTo(const Power& p, std::ostream* out) { *out << p.name; }

// Two loops between two supplies, the loss of each line by the law.
Network twoLoopsOf(const Power& law, double times, double lengths = 1) {
  const auto line = [&](const std::string& name, const std::string& from, const std::string& to,
                        double length) {
    return R"({"kind":"pipe","name":")" + name + R"(","from":")" + from + R"(","to":")" + to +
           R"(","length":)" + quoted(length * lengths, "m") + "," + law.line + "}";
  };
  return model(
      point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0) + "," + point("E", 0),
      held("A", 20 * times) + "," + held("E", 3 * times) + "," + line("1", "A", "B", 300) + "," +
          line("2", "A", "C", 170) + "," + line("3", "B", "C", 90) + "," + line("4", "B", "D", 240) + "," +
          line("5", "C", "D", 310) + "," + line("6", "D", "E", 120),
      law.job);
}

class Similarity : public testing::TestWithParam<Power> {};

TEST_P(Similarity, headsTimesKGiveFlowsTimesItsRoot) {
  const Network one = twoLoopsOf(GetParam(), 1);
  const Solution a = answer(one);
  for (const double k : {0.01, 2.0, 30.0}) {
    const Network other = twoLoopsOf(GetParam(), k);
    const Solution b = answer(other);
    for (const char* line : {"1", "2", "3", "4", "5", "6"})
      EXPECT_NEAR(flow(other, b, line) / (flow(one, a, line) * std::pow(k, 1 / GetParam().exponent)), 1, 1e-7)
          << line << " at " << k;
    for (const char* place : {"B", "C", "D"})
      EXPECT_NEAR(headAt(other, b, place), k * headAt(one, a, place), 1e-7 * std::max(1.0, k)) << place;
  }
}

TEST_P(Similarity, lengthsTimesKLeaveHeadsAndGiveFlowsItsRoot) {
  const Network one = twoLoopsOf(GetParam(), 1), longer = twoLoopsOf(GetParam(), 1, 5);
  const Solution a = answer(one), b = answer(longer);
  for (const char* line : {"1", "3", "6"})
    EXPECT_NEAR(flow(longer, b, line) / (flow(one, a, line) * std::pow(5, -1 / GetParam().exponent)), 1, 1e-7)
        << line;
  for (const char* place : {"B", "C", "D"})
    EXPECT_NEAR(headAt(longer, b, place), headAt(one, a, place), 1e-6);
}

TEST_P(Similarity, sideBySideEqualLinesShareEqually) {
  // N equal lines side by side: each takes 1/N, the loss of all is that of one at 1/N.
  const Power& law = GetParam();
  const auto line = [&](int i) {
    return R"({"kind":"pipe","name":"L)" + std::to_string(i) + R"(","from":"A","to":"B","length":"200 m",)" +
           law.line + "}";
  };
  double alone = 0;
  for (const int n : {1, 2, 5}) {
    std::string lines;
    for (int i = 0; i < n; ++i) lines += "," + line(i);
    const Network net =
        model(point("A", 0) + "," + point("B", 0, outflow(0.0004)), held("A", 50) + lines, law.job);
    const Solution s = answer(net);
    for (int i = 0; i < n; ++i) EXPECT_NEAR(flow(net, s, "L" + std::to_string(i)), 0.0004 / n, 1e-12);
    const double loss = 50 - headAt(net, s, "B");
    if (n == 1) alone = loss;
    EXPECT_NEAR(loss / (alone * std::pow(n, -law.exponent)), 1, 1e-6) << n;
  }
}
INSTANTIATE_TEST_SUITE_P(
    OfEveryLaw, Similarity,
    testing::Values(
        Power{"laminar", syrup, R"("bore":"80 mm","roughness":"0 mm")", 1.0},
        Power{"hazenWilliams",
              water + R"(,"friction law":"Hazen-Williams","Hazen-Williams flow exponent":"1.852")",
              R"("bore":"80 mm","C":"120")", 1.852},
        Power{"manning", water + R"(,"friction law":"Manning")", R"("bore":"80 mm","n":"0.012")", 2.0}),
    [](const auto& row) { return row.param.name; });

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

// Conductances of a laminar network, Q = C (Hᵢ − Hⱼ), C = π g d⁴/(128 ν L) (Hagen 1839, Poiseuille 1846).
struct Linear {
  struct Line {
    int from, to;
    double length, bore;
  };
  int points;
  std::vector<Line> lines;
  static double conductance(const Line& l) {
    return M_PI * g * std::pow(l.bore, 4) / (128 * 0.05 * l.length);
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
                                           ? outflow(draws[static_cast<std::size_t>(i)])
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
      places += "," + point(here, 0, outflow(0.003));
      elements += "," + pipe("spoke" + std::to_string(i), "hub", here, 80) + "," +
                  pipe("rim" + std::to_string(i), here, next, 50);
    }
    const Network net = model(places, elements, water);
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
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0, outflow(0.01)),
            held("A", 60) + "," + pipe("1", "A", "B", 100) + "," + pipe("2", "B", "D", 200) + "," +
                pipe("3", "A", "C", 150) + "," + pipe("4", "C", "D", 300) + "," + pipe("5", "B", "C", 30),
            water);
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
                 water);
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

// ---- Affinity: speed times r, heads times r², in a system without static head
// --------------------------------

TEST(Affinity, flowsGoWithTheSpeedHeadsWithItsSquarePowersWithItsCube) {
  // One law of loss with Q² only (a valve by Kv), both ends at one level: every duty point lies on one
  // parabola.
  const auto net = [](const std::string& speed) {
    return model(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
        held("A", 0) + "," + held("C", 0) + "," + device("control valve", "V", "B", "C", R"("Kv":"40 Kv")") +
            "," +
            device(
                "pump", "P", "A", "B",
                R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"26 m","efficiency":"60 %"},{"flow":"12 L/s","head":"14 m","efficiency":"55 %"}],"rated speed":"1450 rpm","speed":")" +
                    speed + "\""),
        water);
  };
  const Network full = net("1450 rpm");
  const Solution a = answer(full);
  const double q = flow(full, a, "P"), h = headAt(full, a, "B");
  // By hand from the valve alone: 40 m³/h at 1 bar.
  EXPECT_NEAR(h, 1e5 * std::pow(q * 3600 / 40, 2) / (1000 * g), 1e-6);
  const auto shaft = [](const Network& n, const Solution& s) {
    const ReadingOf reading(n, s, n.byName("P"));
    for (const Outcome& o : n.at(n.byName("P")).part->outcomes)
      if (o.key == "shaft power") return o.of(*reading).value_or(NAN);
    return std::nan("");
  };
  for (const double r : {0.5, 0.8, 1.1}) {
    const Network slow = net(fmt::format("{:.17g} rpm", 1450 * r));
    const Solution b = answer(slow);
    EXPECT_NEAR(flow(slow, b, "P") / (q * r), 1, 1e-8) << r;
    EXPECT_NEAR(headAt(slow, b, "B") / (h * r * r), 1, 1e-8) << r;
    EXPECT_NEAR(shaft(slow, b) / (shaft(full, a) * r * r * r), 1, 1e-8) << r;
  }
}

TEST(Affinity, unitsInOneSymbolAreAsManyPumpsDrawn) {
  const std::string curve =
      R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"6 L/s","head":"26 m"},{"flow":"12 L/s","head":"14 m"}])";
  const std::string ends = held("A", 0) + "," + held("D", 12) + "," + pipe("L", "C", "D", 150, "100 mm");
  const std::string places = point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0);
  const auto one = [&](const std::string& name, const std::string& from, const std::string& to,
                       const std::string& more) { return device("pump", name, from, to, curve + more); };
  // No loss between A, B and C but the pumps.
  const Network apart = model(places,
                              ends + "," + one("P1", "A", "C", "") + "," + one("P2", "A", "C", "") + "," +
                                  one("P3", "A", "C", "") + "," + held("B", 0),
                              water);
  const Network together =
      model(places, ends + "," + one("P", "A", "C", R"(,"units":"3")") + "," + held("B", 0), water);
  EXPECT_NEAR(flow(apart, answer(apart), "L"), flow(together, answer(together), "L"), 1e-9);
  const Network chain =
      model(places, ends + "," + one("P1", "A", "B", "") + "," + one("P2", "B", "C", ""), water);
  const Network stacked = model(
      places, ends + "," + one("P", "A", "C", R"(,"units":"2","arrangement":"series")") + "," + held("B", 0),
      water);
  EXPECT_NEAR(flow(chain, answer(chain), "L"), flow(stacked, answer(stacked), "L"), 1e-9);
}

}  // namespace
}  // namespace conduit::test

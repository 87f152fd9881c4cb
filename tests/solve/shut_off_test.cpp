// The greatest heads with no flow, each by hand: sources at rest plus the greatest heads of pumps along the
// way; and the ratings that are held against them.
#include "solve/shut_off.h"

#include <algorithm>
#include <random>

#include "limits/limits.h"
#include "limits/not_judged.h"
#include "plain_models.h"
#include "quantity/parse.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

// A curve of 40 m at no flow; 32 m at 20 L/s, 8 m at 40 L/s (H = 40 − 0.02 Q²), and one of three quarters.
const std::string forty =
    R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"32 m"},{"flow":"40 L/s","head":"8 m"}])";
const std::string thirty =
    R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"20 L/s","head":"24 m"},{"flow":"40 L/s","head":"6 m"}])";
const std::string rising =
    R"("already running":true,"curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"8 L/s","head":"34 m"},{"flow":"20 L/s","head":"28 m"},{"flow":"40 L/s","head":"8 m"}])";
std::string line(const std::string& name, const std::string& from, const std::string& to,
                 const std::string& rating = "16 bar") {
  return device("pipe", name, from, to,
                R"("length":"10 m","bore":"150 mm","roughness":"0.1 mm","rating":")" + rating + "\"");
}
std::string pump(const std::string& name, const std::string& from, const std::string& to,
                 const std::string& about = forty) {
  return device("pump", name, from, to, about);
}
const std::string draw = R"("outflow":"10 L/s")";

struct Still {
  const char* about;
  std::string points, elements;
  std::vector<std::pair<const char*, double>> heads;  // m; NaN: nothing reaches it
};

const double bar_m = 1e5 / gamma_Nm3;

TEST(ShutOff, headsAreThoseOfTheHighestWay) {
  const std::string s = point("S", 0) + ",", a = point("A", 0, draw);
  for (const Still& t : {
           Still{"a level alone",
                 s + a,
                 tankAt("T", "S", "50 m", "0 m") + "," + line("L", "S", "A"),
                 {{"A", 50}}},
           {"a pump",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," + line("L", "D", "A"),
            {{"S", 10}, {"D", 50}, {"A", 50}}},
           {"at 80 % of its speed",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," +
                pump("P", "S", "D", forty + R"(,"rated speed":"3000 rpm","speed":"2400 rpm")") + "," +
                line("L", "D", "A"),
            {{"A", 10 + 0.64 * 40}}},
           {"one that keeps a pressure comes to full speed",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," +
                pump("P", "S", "D",
                     forty + R"(,"rated speed":"3000 rpm","keeps":"a pressure","kept pressure":"3 bar")") +
                "," + line("L", "D", "A"),
            {{"A", 50}}},
           {"a curve that rises first",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D", rising) + "," + line("L", "D", "A"),
            {{"A", 44}}},
           {"two in series",
            s + point("M", 0) + "," + point("N", 0) + "," + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "M") + "," + line("K", "M", "N") + "," +
                pump("Q", "N", "D", thirty) + "," + line("L", "D", "A"),
            {{"N", 50}, {"A", 80}}},
           {"two side by side are not added",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," + pump("Q", "S", "D", thirty) +
                "," + line("L", "D", "A"),
            {{"A", 50}}},
           {"nor are they round a circuit",
            s + point("H", 0) + "," + point("I", 0) + "," + point("D", 0) + "," + point("E", 0) + "," +
                point("R", 0),
            tankAt("T", "S", "10 m", "0 m") + "," + line("F", "S", "H") + "," + line("G", "H", "I") + "," +
                pump("P", "I", "D") + "," + pump("Q", "I", "D", thirty) + "," + line("L", "D", "E") + "," +
                kv60("V", "E", "R") + "," + line("M", "R", "H"),
            {{"H", 10}, {"I", 10}, {"D", 50}, {"R", 50}}},
           {"a pump that stands lets pass",
            s + point("D", 0) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D", forty + R"(,"running":false)") + "," +
                pump("Q", "S", "D") + "," + line("L", "D", "A"),
            {{"D", 50}, {"A", 50}}},
           {"behind a closed valve nothing stands",
            s + a + "," + point("B", 0),
            tankAt("T", "S", "50 m", "0 m") + "," + line("L", "S", "A") + "," +
                device("isolating valve", "V", "A", "B", R"("open":false)"),
            {{"A", 50}, {"B", NAN}}},
           {"a reducing valve ends it at its set point",
            s + point("D", 0) + "," + point("B", 2) + "," + a,
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," +
                device("reducing valve", "V", "D", "B", R"("set point":"2 bar","bore":"150 mm")") + "," +
                line("L", "B", "A"),
            {{"D", 50}, {"B", 2 + 2 * bar_m}, {"A", 2 + 2 * bar_m}}},
           {"a relief valve too",
            s + point("D", 0) + "," + a + "," + point("W", 0),
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," + line("L", "D", "A") + "," +
                device("relief valve", "V", "A", "W", R"("set point":"4.85 bar","Kv":"50 m3/h")") + "," +
                fixedAt("F", "W", "0 bar"),
            {{"D", 4.85 * bar_m}, {"A", 4.85 * bar_m}}},
           {"a surface ends what is pumped into it",
            s + point("D", 0) + "," + point("U", 0) + "," + point("C", 0, draw),
            tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," + line("L", "D", "U") + "," +
                tankAt("X", "U", "20 m", "0 m") + "," + line("M", "U", "C"),
            {{"D", 50}, {"U", 50}, {"C", 20}}},
           {"a check valve ends it against its direction",
            s + a + "," + point("B", 0),
            tankAt("T", "S", "50 m", "0 m") + "," + line("L", "S", "A") + "," +
                device("check valve", "V", "A", "B", R"("bore":"150 mm")") + "," +
                tankAt("X", "B", "60 m", "0 m"),
            {{"A", 50}, {"B", 60}}},
       }) {
    const Model m = plainModel(t.points, t.elements);
    const Solution answer = solve(m.drawn, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << t.about << ": " << answer.summary.full();
    ASSERT_TRUE(answer.shutOff) << t.about;
    for (const auto& [name, head] : t.heads) {
      const double is = answer.shutOff->head_m[m.drawn.byName(name)];
      if (std::isnan(head)) EXPECT_TRUE(std::isnan(is)) << t.about << ", " << name << ": " << is;
      else EXPECT_NEAR(is, head, 1e-6) << t.about << ", " << name;
    }
    EXPECT_TRUE(answer.shutOff->complete && answer.shutOff->unknown.empty()) << t.about;
    EXPECT_TRUE(answer.shutOff->unprotected.empty()) << t.about;
  }
}

std::vector<Check> shutOffOf(const Network& n, const Solution& answer, const char* name, CheckId id) {
  std::vector<Check> of;
  for (Check& c : checksOf(n, answer, n.byName(name), UnitSet::siWater()))
    if (c.id == id) of.push_back(std::move(c));
  return of;
}

// 10 m and 40 m of shut-off head stand at 50 m · 9.80665 = 4.903325 bar over a line at height 0.
TEST(ShutOff, ratingsAreHeldAgainstIt) {
  for (const auto& [rating, broken] :
       {std::pair("4.8 bar", true), {"4.903 bar", true}, {"4.904 bar", false}, {"5 bar", false}})
    for (const bool ofValve : {false, true}) {
      const std::string valve =
          device("strainer", "X", "D", "A",
                 R"("rated flow":"10 L/s","clean drop":"0.1 bar","rating":")" + std::string(rating) + "\"");
      const Model m = plainModel(point("S", 0) + "," + point("D", 0) + "," + point("A", 0, draw),
                                 tankAt("T", "S", "10 m", "0 m") + "," + pump("P", "S", "D") + "," +
                                     (ofValve ? valve : line("X", "D", "A", rating)));
      const Solution answer = solve(m.drawn, catalogue().get());
      ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
      const auto checks = shutOffOf(m.drawn, answer, "X", CheckId::shutOff);
      ASSERT_EQ(checks.size(), 1u);
      EXPECT_NEAR(checks[0].value, 50 * gamma_Nm3, 1e-3);
      EXPECT_EQ(checks[0].broken(), broken) << rating;
      EXPECT_EQ(standing(m.drawn, answer).broken, broken ? 1u : 0u) << "running it stands at 4.7 bar";
      if (broken)
        EXPECT_NE(checks[0].what.find("T at 10.00 m, P + 40.0 m"), std::string::npos) << checks[0].what;
      // The same by gauges.
      EXPECT_EQ(Gauges(m.drawn, answer).standing(m.drawn, answer).broken, broken ? 1u : 0u);
    }
}

// A displacement pump presses on: to the relief valve's set pressure, or without end. One that is not said to
// is not judged.
TEST(ShutOff, ofGivenFlowsIsNotJudgedOrWantsRelief) {
  for (const bool displaces : {false, true})
    for (const std::string at : {"", "D", "Z"}) {  // of the relief valve: at the pump, behind the check valve
      const bool relief = !at.empty();
      const Model m = plainModel(
          point("S", 0) + "," + point("D", 0) + "," + point("A", 0) + "," + point("W", 0) + "," +
              point("Z", 0),
          tankAt("T", "S", "10 m", "0 m") + "," +
              pump("P", "S", "D",
                   std::string(R"("described by":"given flow","duty flow":"5 L/s")") +
                       (displaces ? R"(,"displacement":true)" : "")) +
              "," + device("check valve", "C", "D", "Z", R"("bore":"150 mm")") + "," + line("L", "Z", "A") +
              "," + tankAt("U", "A", "30 m", "0 m") + "," + fixedAt("F", "W", "0 bar") +
              (relief ? "," + device("relief valve", "V", at, "W", R"("set point":"6 bar","Kv":"50 m3/h")")
                      : ""));
      const Solution answer = solve(m.drawn, catalogue().get());
      ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
      const auto gaps = notJudged(m.drawn, answer);
      const bool listed = std::any_of(gaps.begin(), gaps.end(),
                                      [](const NotJudged& g) { return g.check == CheckId::shutOff; });
      EXPECT_EQ(listed, !displaces);
      EXPECT_EQ(shutOffOf(m.drawn, answer, "P", CheckId::reliefValve).size(), displaces && !relief ? 1u : 0u);
      if (displaces && relief) EXPECT_NEAR(answer.shutOff->head_m[m.drawn.byName("D")], 6 * bar_m, 1e-9);
    }
}

TEST(ShutOff, aCheckValveIsNoProtection) {
  for (const auto& [rating, noted] : {std::pair("5.8 bar", true), {"5.9 bar", false}}) {
    // 60 m behind it: 5.884 bar.
    const Model m = plainModel(point("S", 0) + "," + point("A", 0, draw) + "," + point("B", 0),
                               tankAt("T", "S", "50 m", "0 m") + "," + line("L", "S", "A", rating) + "," +
                                   device("check valve", "V", "A", "B", R"("bore":"150 mm")") + "," +
                                   tankAt("X", "B", "60 m", "0 m"));
    const Solution answer = solve(m.drawn, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
    const auto notes = shutOffOf(m.drawn, answer, "V", CheckId::keptOff);
    EXPECT_EQ(notes.size() == 1 && notes[0].broken(), noted) << rating;
    EXPECT_EQ(standing(m.drawn, answer).broken, 0u) << "a note";
  }
}

// One edit after another in one workspace: what is kept from the answer before is what is worked out afresh;
// a bore changes nothing and is not worked out again.
TEST(ShutOff, isKeptWhereNothingThatItRestsOnChanges) {
  const Model m = plainModel(
      point("S", 0) + "," + point("D", 0) + "," + point("B", 2) + "," + point("A", 0, draw) + "," +
          point("C", 1) + "," + point("E", 0) + "," + point("W", 0),
      tankAt("T", "S", "10 m", "0 m") + "," +
          pump("P", "S", "D", forty + R"(,"rated speed":"3000 rpm","speed":"3000 rpm")") + "," +
          device("reducing valve", "R", "D", "B", R"("set point":"2 bar","bore":"150 mm")") + "," +
          line("L", "B", "A") + "," + line("K", "D", "C") + "," +
          device("isolating valve", "I", "C", "E", R"("bore":"150 mm")") + "," + line("M", "E", "A") + "," +
          device("relief valve", "V", "C", "W", R"("set point":"6 bar","Kv":"50 m3/h")") + "," +
          fixedAt("F", "W", "0 bar"));
  Network n = m.drawn;
  Workspace space;
  std::shared_ptr<const ShutOff> last;
  struct Edit {
    const char *element, *field;
    std::string typed;
    Measure measure;
    bool same;
  };
  for (const Edit& e : {Edit{"L", "bore", "140 mm", Measure::bore, false},
                        {"L", "bore", "130 mm", Measure::bore, true},
                        {"A", "outflow", "9 L/s", Measure::volumeFlow, true},
                        {"A", "height", "-3 m", Measure::height, false},
                        {"T", "level", "12 m", Measure::height, false},
                        {"R", "set point", "1.5 bar", Measure::gaugePressure, false},
                        {"B", "height", "3 m", Measure::height, false},
                        {"P", "speed", "2900 rpm", Measure::rotation, false},
                        {"I", "open", "no", Measure::number, false},
                        {"K", "length", "30 m", Measure::length, true},
                        {"V", "set point", "4 bar", Measure::gaugePressure, false},
                        {"I", "open", "yes", Measure::number, false},
                        {"L", "rating", "10 bar", Measure::gaugePressure, true}}) {
    Draft draft(n);
    Values& values = draft.values(n.byName(e.element));
    if (e.typed == "no" || e.typed == "yes") values.set(e.field, e.typed == "yes");
    else values.set(e.field, *parse(e.typed, e.measure));
    n = std::move(draft).finish();
    const Solution answer = solve(n, catalogue().get(), {.workspace = &space});
    ASSERT_TRUE(answer.summary.usable()) << e.element << " " << e.field << ": " << answer.summary.full();
    const auto afresh = shutOff(n, answer);
    for (Id id = 0; id < n.bound(); ++id)
      EXPECT_TRUE(answer.shutOff->head_m[id] == afresh->head_m[id] ||
                  (std::isnan(answer.shutOff->head_m[id]) && std::isnan(afresh->head_m[id])))
          << e.element << " " << e.field << " at " << (n.find(id) ? n.at(id).name : "");
    if (e.same) EXPECT_EQ(answer.shutOff, last) << e.element << " " << e.field;
    last = answer.shutOff;
  }
}

// Of random drawings of passing lines, check valves and pumps: the greatest head over every path that leads
// through no point twice, all of them tried one after another, is never more than what is told; and where no
// two ways lead round (a tree) it is the same.
struct Way {
  int to;
  double lift;
};
double longest(const std::vector<std::vector<Way>>& next, int at, int goal, std::vector<char>& on) {
  if (at == goal) return 0.0;
  double most = -INFINITY;
  on[static_cast<std::size_t>(at)] = 1;
  for (const Way& w : next[static_cast<std::size_t>(at)])
    if (!on[static_cast<std::size_t>(w.to)]) most = std::max(most, w.lift + longest(next, w.to, goal, on));
  on[static_cast<std::size_t>(at)] = 0;
  return most;
}

TEST(ShutOff, everyPathByChance) {
  std::mt19937 random(7);
  const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  int compared = 0, pumps = 0, more = 0;
  for (int trial = 0; trial < 400; ++trial) {
    const int count = 4 + below(6);
    const bool tree = trial % 2 == 0;
    std::string points, elements = tankAt("T", "N0", "10 m", "0 m");
    for (int i = 0; i < count; ++i) points += (i ? "," : "") + point("N" + std::to_string(i), 0);
    std::vector<std::vector<Way>> next(static_cast<std::size_t>(count));
    int number = 0;
    const auto join = [&](int a, int b) {
      const std::string from = "N" + std::to_string(a), to = "N" + std::to_string(b),
                        name = "E" + std::to_string(++number);
      const int kind = below(5);
      if (kind == 0) {
        elements += "," + pump(name, from, to, R"("described by":"given head","duty head":"20 m")");
        next[static_cast<std::size_t>(a)].push_back({b, 20});
        ++pumps;
      } else if (kind == 1) {
        elements += "," + device("check valve", name, from, to, R"("bore":"100 mm")");
        next[static_cast<std::size_t>(a)].push_back({b, 0});
      } else {
        elements += "," + line(name, from, to);
        next[static_cast<std::size_t>(a)].push_back({b, 0});
        next[static_cast<std::size_t>(b)].push_back({a, 0});
      }
    };
    for (int i = 1; i < count; ++i) join(below(i), i);
    if (!tree)
      for (int k = below(3) + 1; k > 0; --k)
        if (const int a = below(count), b = below(count); a != b) join(a, b);
    const Model m = plainModel(points, elements);
    const Solution answer = solve(m.drawn, catalogue().get());
    if (!answer.summary.usable()) continue;
    const auto off = shutOff(m.drawn, answer, true);
    ASSERT_TRUE(off);
    for (int i = 0; i < count; ++i) {
      std::vector<char> on(static_cast<std::size_t>(count), 0);
      const double by = 10 + longest(next, 0, i, on),
                   is = off->head_m[m.drawn.byName("N" + std::to_string(i))];
      ++compared;
      if (std::isinf(by)) EXPECT_TRUE(std::isnan(is)) << "trial " << trial << ", N" << i;
      else if (tree) EXPECT_NEAR(is, by, 1e-6) << "trial " << trial << ", N" << i;
      else EXPECT_GE(is, by - 1e-6) << "trial " << trial << ", N" << i;
      more += !tree && is > by + 1e-6;
    }
  }
  EXPECT_GT(compared, 1000);
  EXPECT_GT(pumps, 300);
  EXPECT_LT(more, compared / 50) << "told greater than any path, in meshes";
}

}  // namespace
}  // namespace conduit::test

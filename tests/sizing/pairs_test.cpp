// Flow and return: which lines carry the same flow whatever the sizes, by hand, by removing lines, and by
// solving.
#include "sizing/pairs.h"

#include <map>
#include <random>
#include <set>
#include <sstream>

#include "cases/case_edits.h"
#include "exchange/model_file.h"
#include "model/sizing_setup.h"
#include "plain_models.h"
#include "sizing/task.h"
#include "solve/solve.h"

namespace conduit::test {
namespace {

// "l 1 A B, x E B C, l 2 C D, s S A, s R D": lines, exchangers (x), control valves (c), pumps (p), strainers
// (f), own losses (o), fixed pressures (s), draw-offs of a point (d A).
Model laid(const std::string& words, const std::string& more = "") {
  std::map<std::string, std::string> points;
  std::string elements;
  std::istringstream in(words);
  for (std::string entry; std::getline(in, entry, ',');) {
    std::istringstream one(entry);
    std::string what, name, from, to;
    one >> what >> name >> from >> to;
    if (what == "d") {
      points[name] = R"("outflow":"1 L/s")";
      continue;
    }
    points.try_emplace(from, "");
    if (!to.empty()) points.try_emplace(to, "");
    elements += elements.empty() ? "" : ",";
    if (what == "l")
      elements += device("pipe", "L" + name, from, to,
                         R"("length":"20 m","size":"ASME B36.10M 2 40","roughness":"0.1 mm")");
    else if (what == "x")
      elements += device("exchanger", name, from, to, R"("rated flow":"1 L/s","rated drop":"0.2 bar")");
    else if (what == "c")
      elements += device("control valve", name, from, to, R"("Kv":"8 m3/h","bore":"40 mm")");
    else if (what == "o") elements += device("own loss", name, from, to, R"("K":"8","bore":"52 mm")");
    else if (what == "f") elements += device("strainer", name, from, to, R"("K":"2","bore":"52 mm")");
    else if (what == "p")
      elements += device("pump", name, from, to, R"("duty flow":"2 L/s","duty head":"12 m")");
    else elements += fixedAt(name, from, name == "S" ? "3 bar" : "1 bar");
  }
  std::string all;
  for (const auto& [name, fields] : points) all += (all.empty() ? "" : ",") + point(name, 0, fields);
  return plainModel(all, elements, more);
}

// "L1 L2, L3 L4", in order.
std::string groups(const Model& m, const std::vector<Id>& alone = {}) {
  std::string words;
  for (const TiedLines& t : flowAndReturn(m, alone)) {
    words += words.empty() ? "" : ", ";
    for (std::size_t i = 0; i < t.lines.size(); ++i) words += (i ? " " : "") + m.drawn.at(t.lines[i]).name;
  }
  return words;
}

const std::string ladder =  // two branches between a flow and a return header
    "s S A,s R Z,l 1 A B,l 2 Y Z,l 3 B C,x E D1 Y,c V C D1,l 4 B F,l 5 X Y,l 6 F G,x H G I,l 7 I X,l 8 F M,"
    "x K M N,l 9 N X";

TEST(FlowAndReturn, isWhatIsCutOffTogether) {
  struct Said {
    const char* about;
    std::string model, groups;
  };
  for (const Said& s :
       {Said{"both sides of a coil", "s S A,s R D,l 1 A B,x E B C,l 2 C D", "L1 L2"},
        {"headers, branches", ladder, "L1 L2, L4 L5, L6 L7, L8 L9"},
        {"reverse return: headers by hand",
         "s S A,s R Z,l 1 A B,l 2 Y Z,l 3 B C,l 4 C G,l 5 W X,l 6 X Y,x E B W,"
         "x H C X,x K G Y",
         "L1 L2"},
        {"a draw-off in between", "s S A,s R D,l 1 A B,x E B C,l 2 C D,d C", ""},
        {"a draw-off behind", "s S A,s R D,l 1 A B,x E B C,l 2 C X,l 3 X D,d X", "L1 L2"},
        {"no return", "s S A,l 1 A B,x E B C,l 2 C D,d D", "L1 L2"},
        {"a strainer uses nothing", "s S A,s R D,l 1 A B,f E B C,l 2 C D", ""},
        {"one behind the other", "s S A,s R D,l 1 A B,l 2 B C,l 3 C D", ""},
        {"two lines side by side", "s S A,s R D,l 1 A B,l 2 B C,l 3 B C,l 4 C D", ""},
        {"two pumps side by side", "s S A,s R D,l 1 A B,p P B C,p Q B C,l 4 C D", ""},
        {"a control valve in a line", "s S A,s R D,l 1 A B,c V B C,l 2 C D", ""},
        {"losses in branches", "s S A,s R D,l 1 A B,o V B C,o W B C,l 2 C D", "L1 L2"},
        {"valves in branches", "s S A,s R D,l 1 A B,c V B C,c W B C,l 2 C D", "L1 L2"},
        {"a suction stays apart", "s S A,s R D,l 1 A B,p P B C,l 2 C E,x X E F,l 3 F D", "L2 L3"},
        {"a pump in the return", "s S A,s R D,l 1 A B,x X B C,l 2 C E,p P E F,l 3 F D", "L1 L2"},
        {"a pump between two coils", "s S A,s R D,l 1 A B,x X B C,l 2 C E,p P E F,l 3 F G,x Y G H,l 4 H D",
         "L1 L4"},
        {"two coils", "s S A,s R D,l 1 A B,x X B C,l 2 C E,x Y E F,l 3 F D", "L1 L2 L3"},
        {"from the outside in", "s S A,s R F,l 1 A B,l 2 B C,x X C D,l 3 D E,l 4 E F", "L1 L4, L2 L3"},
        {"left over", "s S A,s R G,l 1 A B,l 2 B C,x X C D,l 3 D E,l 4 E F,l 5 F G", "L1 L5, L2 L3 L4"},
        {"closed, with a vessel",
         "s S A,l 1 A B,p P B C,l 2 C D,x X D E,c V D E,l 3 E F,x Boiler F G,l 4 G A", "L2 L3 L4"},
        {"closed, and nothing stands for its pressure", "l 1 A B,p P B C,l 2 C D,x X D E,l 3 E A", "L2 L3"}})
    EXPECT_EQ(groups(laid(s.model)), s.groups) << s.about;
  // Lines that are to stand apart.
  const Model m = laid(ladder);
  EXPECT_EQ(groups(m, {m.drawn.byName("L4")}), "L1 L2, L6 L7, L8 L9");
}

// A draw-off of a case that counts parts flow and return; of one that does not, nothing.
TEST(FlowAndReturn, looksAtTheCasesThatCount) {
  const std::string plain = "s S A,s R D,l 1 A B,x E B C,l 2 C D";
  for (const bool counts : {true, false}) {
    const Model m = laid(plain, std::string(R"("cases":[{"drawing":true,"name":"Base"},{"name":"Drawn",)") +
                                    R"("differs":[{"element":"C","outflow":"1 L/s"}],"counts for sizing":)" +
                                    (counts ? "true" : "false") + "}]");
    ASSERT_EQ(m.cases.others.size(), 1u);
    EXPECT_EQ(groups(m), counts ? "" : "L1 L2");
  }
}

// Of random networks each group is cut off by any two of its lines and by none alone, counted by flooding;
// and with random sizes those lines pass one flow.
TEST(FlowAndReturn, holdsOfRandomNetworks) {
  std::mt19937_64 draw(7);
  const auto upTo = [&](int n) { return static_cast<int>(draw() % static_cast<unsigned>(n)); };
  int found = 0;
  for (int round = 0; round < 300; ++round) {
    const int points = 6 + upTo(6);
    std::string words = "s S N0";
    int lines = 0;
    const auto add = [&](int a, int b, int k) {
      if (a == b) return;
      words += "," +
               std::string(k == 0   ? "x"
                           : k == 1 ? "c"
                                    : "l") +
               " " + std::to_string(++lines) + " N" + std::to_string(a) + " N" + std::to_string(b);
    };
    for (int i = 1; i < points; ++i) add(upTo(i), i, 2 + upTo(3));
    for (int i = 0; i < 4; ++i) add(upTo(points), upTo(points), upTo(5));
    const int sink = 1 + upTo(points - 1);
    words += ",s R N" + std::to_string(sink);
    Model m = laid(words);
    const Network& n = m.drawn;
    // Points that hang on no supply, without some lines.
    const auto cutOff = [&](const std::set<Id>& without) {
      std::set<Id> reached{n.byName("N0"), n.byName("N" + std::to_string(sink))};
      for (bool more = true; more;) {
        more = false;
        n.each([&](Id id, const Element& e) {
          if (e.ends.size() != 2 || without.contains(id) ||
              reached.contains(e.ends[0]) == reached.contains(e.ends[1]))
            return;
          more = true, reached.insert(e.ends.begin(), e.ends.end());
        });
      }
      std::size_t all = 0;
      n.each([&](Id, const Element& e) { all += e.part->ends == Ends::self; });
      return all - reached.size();
    };
    const auto tied = flowAndReturn(m);
    if (tied.empty()) continue;
    const std::size_t none = cutOff({});
    Draft draft(n);
    n.each([&](Id id, const Element& e) {
      if (e.part->key != "pipe") return;
      const char* sizes[] = {"1", "2", "3", "4"};
      draft.values(id).set("size", "ASME B36.10M " + std::string(sizes[upTo(4)]) + " 40");
    });
    const Network other = std::move(draft).finish();
    const Solution answer = solve(other, catalogue().get(), {});
    for (const TiedLines& t : tied)
      for (std::size_t i = 0; i < t.lines.size(); ++i)
        for (std::size_t k = i + 1; k < t.lines.size(); ++k) {
          ++found;
          EXPECT_EQ(cutOff({t.lines[i]}), none) << words;
          EXPECT_EQ(cutOff({t.lines[k]}), none) << words;
          EXPECT_GT(cutOff({t.lines[i], t.lines[k]}), none) << words;
          if (!answer.summary.usable()) continue;
          const auto one = answer.branch(t.lines[i], 0).flow_m3s, two = answer.branch(t.lines[k], 0).flow_m3s;
          if (one && two) EXPECT_NEAR(std::abs(*one), std::abs(*two), 1e-9) << words;
        }
  }
  EXPECT_GT(found, 20);
}

// Larch Court: seven rows of fifteen lines, or each for itself; what is tied by hand, fixed or of another
// standard is not tied again. Goes through the file.
TEST(FlowAndReturn, isTiedInASizing) {
  auto model = loadModel(SOURCE_DIR "/samples/larch-court.lconduit", &shippedStock());
  ASSERT_TRUE(model.has_value());
  Model m = *model;
  EXPECT_EQ(groups(m), "L-1 L-2, L-3 L-4 L-5, L-6 L-7, L-8 L-9 L-10, L-11 L-12, L-13 L-14 L-15");
  const auto rows = [&](const Model& of) {
    const auto task = sizingTask(of, optionsOf(of.of<SizingSetup>()), catalogue(), UnitSet::siWater());
    return task ? task->rows.size() : 0;
  };
  EXPECT_EQ(rows(m), 6u);
  const auto id = [&](const char* name) { return m.drawn.byName(name); };
  edit<SizingSetup>(m, [&](SizingSetup& s) { s.alone = {id("L-1"), id("L-13")}; });
  EXPECT_EQ(rows(m), 8u) << "L-1 and L-2 apart; L-14 and L-15 together";
  const auto again = readModel(writeModel(m), &shippedStock());
  ASSERT_TRUE(again.has_value());
  EXPECT_EQ(again->of<SizingSetup>().alone, m.of<SizingSetup>().alone);
  edit<SizingSetup>(m, [&](SizingSetup& s) {
    s.alone.clear(), s.left = {id("L-6")}, s.tied = {{"by hand", {id("L-1"), id("L-3")}}};
  });
  EXPECT_EQ(rows(m), 7u) << "1+3, 2, 4+5, 7, 8 to 10, 11+12, 13 to 15 less the fixed one";
  edit<SizingSetup>(m, [&](SizingSetup& s) { s.tied.clear(), s.left.clear(); });
  Draft draft(m.drawn);
  draft.values(id("L-2")).set("size", std::string("EN 10220 80 3.2"));
  m.drawn = std::move(draft).finish();
  EXPECT_EQ(rows(m), 7u) << "L-2 is of another standard";
}

}  // namespace
}  // namespace conduit::test

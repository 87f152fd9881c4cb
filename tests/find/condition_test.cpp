#include "find/condition.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "network/edits.h"

namespace conduit {
namespace {

using namespace test;

Network three() {
  return model(
      point("A", 10) + "," + point("B", 2) + "," + point("C", 3, "\"outflow\":\"5 L/s\"") +
          ",{\"name\":\"D\"}",
      held("A", 20) + "," + pipe("L-1", "A", "B", 40) + "," +
          pipe("L-2", "B", "C", 40, "80 mm", "\"note\":\"East wing\"") + "," +
          "{\"kind\":\"pipe\",\"name\":\"long pipe\",\"from\":\"C\",\"to\":\"D\",\"length\":\"5 m\"}");
}
std::vector<std::string> that(const Network& n, const char* text) {
  const Solution s = solve(n, &shippedStock());
  const auto c = readCondition(text, UnitSet::siWater());
  if (!c) return {"refused: " + c.error().what};
  std::vector<std::string> names;
  for (const Id id : elementsThat(*c, n, s)) names.push_back(n.at(id).name);
  return names;
}
using Names = std::vector<std::string>;

TEST(Condition, onWhatIsGiven) {
  const Network n = three();
  EXPECT_EQ(that(n, "pipes bore < 100 mm"), Names{"L-2"});
  EXPECT_EQ(that(n, "bore >= 100"), Names{"L-1"}) << "bare numbers in the unit shown, mm";
  EXPECT_EQ(that(n, "pipe note has east"), Names{"L-2"});
  EXPECT_EQ(that(n, "pipes bore lacks"), Names{"long pipe"});
  EXPECT_EQ(that(n, "points height <= 3 m and outflow > 10 m3/h"), Names{"C"});
  EXPECT_EQ(that(n, "name has long"), Names{"long pipe"});
  EXPECT_EQ(that(n, "incomplete"), (Names{"D", "long pipe"}));
}

TEST(Condition, onWhatIsFound) {
  Network n = three();
  const Id loose = n.byName("D");
  n = removeAll(n, std::span(&loose, 1))->network;
  // 5 L/s in 100 mm are 0.637 m/s, in 80 mm 0.995 m/s.
  EXPECT_EQ(that(n, "pipes velocity > 0.7 m/s"), Names{"L-2"});
  EXPECT_EQ(that(n, "velocity under 0.7"), Names{"L-1"});
  EXPECT_EQ(that(three(), "velocity > 0"), Names{}) << "nothing is found while the model does not balance";
}

TEST(Condition, onChoicesTablesAndFlags) {
  const Network n =
      model(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("D", 0),
            device("pump", "P-1", "A", "B",
                   R"("described by":"duty point","duty flow":"5 L/s","duty head":"20 m")") +
                "," +
                device("pump", "P-2", "B", "C",
                       R"("curve":[{"flow":"0 L/s","head":"30 m"},{"flow":"9 L/s","head":"20 m"}])") +
                "," + device("isolating valve", "V-1", "C", "D", R"("open":false)"));
  EXPECT_EQ(that(n, "pumps curve has"), Names{"P-2"});
  EXPECT_EQ(that(n, "pumps curve lacks"), Names{"P-1"});
  EXPECT_EQ(that(n, "curve has 30 m"), Names{"P-2"});
  EXPECT_EQ(that(n, "defined by is duty point"), Names{"P-1"});
  EXPECT_EQ(that(n, "described by != duty point"), Names{"P-2"}) << "a curve where nothing is said";
  // Shown "unspecified", kept as "not said": either is understood.
  EXPECT_EQ(that(n, "motor class is unspecified"), (Names{"P-1", "P-2"}));
  EXPECT_EQ(that(n, "motor class has not said"), (Names{"P-1", "P-2"}));
  EXPECT_EQ(that(n, "construction != unspecified"), Names{});
  EXPECT_EQ(that(n, "open is no"), Names{"V-1"});
  EXPECT_EQ(that(n, "running is yes"), (Names{"P-1", "P-2"}));
}

TEST(Condition, saysWhatItCannotRead) {
  for (const auto& [text, word] : {std::pair{"hoses", "hoses"},
                                   {"bore", "add a comparison after bore"},
                                   {"bore <", "a value to compare bore with"},
                                   {"bore < 3 bar", "bar"},
                                   {"pipes and pumps", "one kind"},
                                   {"pumps curve > 3", "curve is a table"},
                                   {"pipes size < 4", "size is not a number"},
                                   {"name > L", "name is not a number"},
                                   {"", "enter a kind"}}) {
    const auto c = readCondition(text, UnitSet::siWater());
    ASSERT_FALSE(c) << text;
    EXPECT_NE(c.error().what.find(word), std::string::npos) << c.error().what;
  }
}

TEST(Assignment, namesWithBlanksAndTheSelection) {
  const Network n = three();
  const auto one = readAssignment("L-2 bore 150 mm", n, {});
  ASSERT_TRUE(one);
  EXPECT_EQ(one->ids, std::vector<Id>{n.byName("L-2")});
  EXPECT_EQ(one->key, "bore");
  EXPECT_EQ(one->text, "150 mm");
  EXPECT_EQ(readAssignment("long pipe length = 7 m", n, {})->ids.front(), n.byName("long pipe"));
  EXPECT_EQ(readAssignment("bore 90 mm", n, {n.byName("L-1"), n.byName("L-2")})->ids.size(), 2u);
  EXPECT_FALSE(readAssignment("bore 90 mm", n, {}));
  EXPECT_FALSE(readAssignment("L-2", n, {}));
  EXPECT_FALSE(readAssignment("L-2 colour red", n, {}));
}

TEST(Alike, isTheKindWithTheSameSize) {
  const Network n = three();
  EXPECT_EQ(alike(n, n.byName("L-1")), std::vector<Id>{n.byName("L-1")});
  EXPECT_EQ(alike(n, n.byName("A")).size(), 4u);
}

}  // namespace
}  // namespace conduit

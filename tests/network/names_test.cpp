#include "network/names.h"

#include <gtest/gtest.h>

#include "model_text.h"
#include "parts/registry.h"

namespace conduit {
namespace {

using namespace test;

Network threeInRow() {
  Network n =
      model(point("A", 0, "\"at\":[0,0]") + "," + point("B", 0, "\"at\":[10,0]") + "," +
                point("C", 0, "\"at\":[20,0]") + "," + point("D", 0, "\"at\":[20,-30]"),
            pipe("third", "A", "B", 10) + "," + pipe("L-2", "B", "C", 10) + "," + pipe("L-1", "C", "D", 10));
  return n;
}

TEST(Names, aPatternIsSaidByItsFirstName) {
  struct Row {
    const char* first;
    int number;
    const char* name;
  };
  for (const Row& r : {Row{"W-001", 7, "W-007"}, Row{"W-001", 1234, "W-1234"}, Row{"PU100", 103, "PU103"},
                       Row{"Line", 3, "Line-3"}})
    EXPECT_EQ(patternOf(r.first).name(r.number), r.name);
  EXPECT_EQ(patternOf("PU100").first, 100);
}

TEST(Names, theEnginersPatternNamesWhatIsMade) {
  const auto job = setField(threeInRow(), jobId, "name patterns", "pipe W-001; fixed pressure Main-1",
                            &shippedStock(), nullptr);
  ASSERT_TRUE(job);
  EXPECT_EQ(job->network.freeName(*findPart("pipe")), "W-001");
  EXPECT_EQ(job->network.freeName(*findPart("fixed pressure")), "Main-1");
  EXPECT_EQ(job->network.freeName(*findPart("pump")), "P-1");
  for (const char* fault : {"pipe", "hose H-1", "pipe W\"1"}) {
    const auto refused = setField(threeInRow(), jobId, "name patterns", fault, &shippedStock(), nullptr);
    ASSERT_FALSE(refused) << fault;
    EXPECT_EQ(refused.error().place.field, "name patterns");
  }
}

TEST(Names, numberingAnewFollowsTheOrderAndKeepsWhatOthersHold) {
  const Network n = threeInRow();
  const Id ids[] = {n.byName("third"), n.byName("L-2"), n.byName("L-1")};
  const auto all = renumber(n, ids);
  ASSERT_TRUE(all);
  EXPECT_EQ(all->network.at(ids[0]).name, "L-1");
  EXPECT_EQ(all->network.at(ids[1]).name, "L-2");
  EXPECT_EQ(all->network.at(ids[2]).name, "L-3");
  const Id two[] = {ids[0], ids[2]};  // L-2 is held by one outside
  const auto some = renumber(n, two);
  ASSERT_TRUE(some);
  EXPECT_EQ(some->network.at(ids[0]).name, "L-1");
  EXPECT_EQ(some->network.at(ids[2]).name, "L-3");
  EXPECT_EQ(some->network.byName("third"), noId);
}

TEST(Names, readingOrderIsLeftToRightAndTopToBottom) {
  const Network n = threeInRow();
  const Id ids[] = {n.byName("L-1"), n.byName("L-2"), n.byName("third")};
  EXPECT_EQ(readingOrder(n, ids), (std::vector<Id>{ids[2], ids[1], ids[0]}));
}

TEST(Names, replacingLettersIsAllOrNothing) {
  const Network n = threeInRow();
  std::vector<Id> ids;
  n.each([&](Id id, const Element&) { ids.push_back(id); });
  const auto done = replaceInNames(n, ids, "L-", "Feed ");
  ASSERT_TRUE(done);
  EXPECT_NE(done->network.byName("Feed 1"), noId);
  EXPECT_NE(done->network.byName("Feed 2"), noId);
  EXPECT_EQ(done->network.byName("L-1"), noId);
  EXPECT_FALSE(replaceInNames(n, ids, "L-1", "B")) << "B is taken";
  EXPECT_FALSE(replaceInNames(n, ids, "nowhere", "x"));
  EXPECT_FALSE(replaceInNames(n, ids, "third", "thi\"rd"));
}

}  // namespace
}  // namespace conduit

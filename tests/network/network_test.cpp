#include "network/network.h"

#include <gtest/gtest.h>

#include "network/history.h"
#include "parts/registry.h"
#include "say/ensure.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

TEST(Network, aDraftNeverChangesWhatItCameFrom) {
  Draft first{Network()};
  const Id a = first.addPoint("A", {1, 2});
  const Network before = std::move(first).finish();
  Draft second(before);
  second.rename(a, "B");
  second.move(a, {5, 5});
  const Network after = std::move(second).finish();
  EXPECT_EQ(before.at(a).name, "A");
  EXPECT_EQ(before.byName("A"), a);
  EXPECT_EQ(before.byName("B"), noId);
  EXPECT_EQ(after.byName("B"), a);
  EXPECT_EQ(after.byName("A"), noId);
  EXPECT_EQ(before.at(a).at, (Spot{1, 2}));
}

TEST(Network, oneEditSharesAllButAChunk) {
  const Network big = test::gridNetwork(20000, 1);
  Draft d(big);
  d.move(big.bound() / 2, {0, 0});
  const Network edited = std::move(d).finish();
  EXPECT_LT(edited.bytesApart(big), 120000u);  // one chunk and a spine, not the 6 MB of the whole
}

TEST(Network, namesAreUniqueAndNumbersGoOn) {
  Draft d{Network()};
  EXPECT_EQ(d.network().at(d.addPoint("", {})).name, "N-1");
  (void)d.addPoint("N-7", {});
  EXPECT_EQ(d.network().at(d.addPoint("", {})).name, "N-8");
  EXPECT_THROW(d.addPoint("N-7", {}), OwnMistake);
}

TEST(Network, removingAPointTakesWhatIsJoinedToIt) {
  Draft d{Network()};
  const Id a = d.addPoint("", {}), b = d.addPoint("", {}), c = d.addPoint("", {});
  const Id ab = d.add(*findPart("pipe"), "", {a, b}), bc = d.add(*findPart("pipe"), "", {b, c});
  const Id tank = d.add(*findPart("tank"), "", {b, c});
  d.remove(b);
  const Network n = std::move(d).finish();
  EXPECT_EQ(n.find(ab), nullptr);
  EXPECT_EQ(n.find(bc), nullptr);
  ASSERT_NE(n.find(tank), nullptr);
  EXPECT_EQ(n.at(tank).ends, std::vector<Id>{c});
  EXPECT_EQ(n.count(), 3u);
}

TEST(Network, manyNamesAreAllFoundAgain) {
  Draft d{Network()};
  std::vector<Id> ids;
  for (int i = 0; i < 5000; ++i) ids.push_back(d.addPoint("", {}));
  for (std::size_t i = 0; i < ids.size(); i += 3) d.remove(ids[i]);
  const Network n = std::move(d).finish();
  for (std::size_t i = 0; i < ids.size(); ++i) EXPECT_EQ(n.byName("N-" + std::to_string(i + 1)), i % 3 ? ids[i] : noId);
}

TEST(History, stepsBackAndForthByName) {
  History h{Network()};
  Draft d(h.now());
  d.addPoint("A", {});
  h.record("Place A", std::move(d).finish());
  EXPECT_EQ(h.undoName(), "Place A");
  h.undo();
  EXPECT_FALSE(h.canUndo());
  EXPECT_EQ(h.redoName(), "Place A");
  EXPECT_EQ(h.now().count(), 0u);
  h.redo();
  EXPECT_EQ(h.now().count(), 1u);
}

TEST(History, aDragIsOneStepAndMemoryIsBounded) {
  const Network big = test::gridNetwork(2000, 1);
  History h(big, 3'000'000);
  for (int i = 0; i < 50; ++i) {
    Draft d(h.now());
    d.move(5, {static_cast<double>(i), 0});
    h.record("Move N-5", std::move(d).finish(), "drag");
  }
  h.undo();
  EXPECT_EQ(h.now().at(5).at, big.at(5).at);
  for (int i = 0; i < 500; ++i) {
    Draft d(h.now());
    for (Id id = 1; id < h.now().bound(); id += 60) d.move(id, {static_cast<double>(i), 1});
    h.record("Move all", std::move(d).finish());
  }
  int steps = 0;
  while (h.canUndo()) h.undo(), ++steps;
  EXPECT_LT(steps, 100);
  EXPECT_GT(steps, 0);
}

}  // namespace
}  // namespace conduit

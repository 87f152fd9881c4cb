#include "network/network.h"

#include <gtest/gtest.h>

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

TEST(Network, whatIsJoinedToAPointIsWhatEndsThere) {
  test::Chance c{19};
  Network network;
  for (int round = 0; round < 400; ++round) {
    Draft d(network);
    std::vector<Id> points, elements;
    network.each(
        [&](Id id, const Element& e) { (e.part->ends == Ends::self ? points : elements).push_back(id); });
    const auto any = [&](const std::vector<Id>& of) {
      return of[static_cast<std::size_t>(c.below(static_cast<int>(of.size())))];
    };
    const int what = c.below(8);
    if (what == 0 || points.size() < 3) {
      d.addPoint("", {});
    } else if (what <= 2 || elements.empty()) {
      d.add(*findPart("pipe"), "", {any(points), any(points)});  // both ends at one point now and then
    } else if (what == 3) {
      d.add(*findPart("tank"), "", {any(points)});
    } else if (const Id id = any(elements); what == 4) {
      d.remove(c.oneIn(3) ? any(points) : id);
    } else if (what == 5 && !d.network().at(id).ends.empty()) {
      d.joinEnd(id, static_cast<std::size_t>(c.below(static_cast<int>(d.network().at(id).ends.size()))),
                any(points));
    } else if (what == 6 && d.network().at(id).part->ends == Ends::many) {
      if (c.oneIn(2) && d.network().at(id).ends.size() > 1) d.removeEnd(id, 0);
      else d.addEnd(id, any(points));
    } else {
      d.reverse(id);
    }
    const Network before = network;
    network = std::move(d).finish();
    for (const Network* one : {static_cast<const Network*>(&network), &before})
      one->each([&](Id point, const Element& e) {
        std::vector<Id> ending;
        if (e.part->ends == Ends::self)
          one->each([&](Id id, const Element& other) {
            if (std::count(other.ends.begin(), other.ends.end(), point) > 0) ending.push_back(id);
          });
        EXPECT_EQ(one->elementsAt(point), ending) << e.name;
      });
  }
  EXPECT_GT(network.count(), 30u);
}

TEST(Network, manyNamesAreAllFoundAgain) {
  Draft d{Network()};
  std::vector<Id> ids;
  for (int i = 0; i < 5000; ++i) ids.push_back(d.addPoint("", {}));
  for (std::size_t i = 0; i < ids.size(); i += 3) d.remove(ids[i]);
  const Network n = std::move(d).finish();
  for (std::size_t i = 0; i < ids.size(); ++i)
    EXPECT_EQ(n.byName("N-" + std::to_string(i + 1)), i % 3 ? ids[i] : noId);
}

}  // namespace
}  // namespace conduit

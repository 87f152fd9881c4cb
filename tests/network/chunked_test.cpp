#include "network/chunked.h"

#include <gtest/gtest.h>

#include "solve/random_network.h"

namespace conduit {
namespace {

TEST(Chunked, behavesAsAVectorOfWhichCopiesNeverChange) {
  test::Chance c{11};
  Chunked<int> list;
  std::vector<int> plain;
  std::vector<std::pair<Chunked<int>, std::vector<int>>> kept;
  for (int round = 0; round < 60; ++round) {
    const std::uint64_t owner = newOwner();
    for (int k = 0; k < 50; ++k) {
      if (plain.empty() || c.oneIn(2)) {
        list.append(k, owner);
        plain.push_back(k);
      } else {
        const auto at = static_cast<std::size_t>(c.below(static_cast<int>(plain.size())));
        list.change(at, owner) = plain[at] = 1000 * round + k;
      }
    }
    kept.emplace_back(list, plain);
  }
  for (const auto& [copy, was] : kept) {
    ASSERT_EQ(copy.size(), was.size());
    for (std::size_t i = 0; i < was.size(); ++i) ASSERT_EQ(copy[i], was[i]);
  }
}

TEST(Chunked, countsWhatIsNotShared) {
  Chunked<int> a;
  const auto first = newOwner();
  for (int i = 0; i < 640; ++i) a.append(i, first);
  Chunked<int> b = a;
  EXPECT_EQ(b.chunksApart(a), 0u);
  const auto second = newOwner();
  b.change(5, second) = 7;
  b.change(6, second) = 7;
  EXPECT_EQ(b.chunksApart(a), 1u);
  b.change(600, second) = 7;
  EXPECT_EQ(b.chunksApart(a), 2u);
}

}  // namespace
}  // namespace conduit

#include "network/overlay.h"

#include <gtest/gtest.h>

#include <random>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "parts/registry.h"
#include "solve/random_network.h"
#include "solve/solve.h"

using namespace conduit;

namespace {

Given metres(double m) { return {m, Basis::direct, std::to_string(m) + " m"}; }

// Fields and given outcomes of every element, in the order of the field tables: order of entry is not
// content.
std::string contentOf(const Network& network) { return writeModel(network); }

// Values changed, released, taken away and outcomes given at random, as an engineer's cases would.
Network changedAtRandom(const Network& network, std::mt19937& chance, int changes) {
  Draft draft(network);
  for (int i = 0; i < changes; ++i) {
    const Id id = static_cast<Id>(chance() % network.bound());
    const Element* e = network.find(id);
    if (!e || e->part->fields.empty()) continue;
    const Field& field = e->part->fields[chance() % e->part->fields.size()];
    Values& values = draft.values(id);
    switch (chance() % 4) {
      case 0:
        if (field.kind == FieldKind::quantity)
          values.set(field.key, metres(1.0 + static_cast<double>(chance() % 100)));
        break;
      case 1: values.clear(field.key); break;
      case 2:
        // What is kept while it is looked for may be another value, but not come or go.
        if (field.releasable && values.find(field.key)) values.release(field.key);
        break;
      default:
        if (!e->part->outcomes.empty()) {
          const Outcome& outcome = e->part->outcomes[chance() % e->part->outcomes.size()];
          if (chance() % 2 == 0) values.give(outcome.key, metres(static_cast<double>(chance() % 50)));
          else values.ungive(outcome.key);
        }
    }
  }
  return std::move(draft).finish();
}

}  // namespace

TEST(Overlay, laysBackWhatDiffers) {
  std::mt19937 chance(20);
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    const Network drawn = changedAtRandom(test::randomNetwork(seed, 40), chance, 30);
    const Network other = changedAtRandom(drawn, chance, 25);
    const Overlay there = differences(drawn, other), back = differences(other, drawn);
    EXPECT_EQ(contentOf(derive(drawn, there)), contentOf(other)) << "seed " << seed;
    EXPECT_EQ(contentOf(derive(other, back)), contentOf(drawn)) << "seed " << seed;
    EXPECT_TRUE(differences(drawn, drawn).empty());
    EXPECT_EQ(contentOf(derive(drawn, laidOver(there, back))), contentOf(drawn)) << "the later one holds";
  }
}

TEST(Overlay, sharesWhatDoesNotDiffer) {
  const Network drawn = test::randomNetwork(7, 2000);
  Overlay one;
  Id pipe = noId;
  drawn.each([&](Id id, const Element& e) {
    if (pipe == noId && e.part->key == "pipe") pipe = id;
  });
  one.set(pipe, "length", metres(7));
  const Network derived = derive(drawn, one);
  int apart = 0;
  derived.eachApart(drawn, [&](Id) { ++apart; });
  EXPECT_EQ(apart, static_cast<int>(Chunked<Element>::chunkSize)) << "one chunk";
  EXPECT_EQ(derived.at(pipe).given("length")->value, 7.0);
  EXPECT_NE(drawn.at(pipe).given("length")->value, 7.0) << "the drawn network is as it was";
  EXPECT_TRUE(one.inherit(pipe, "length"));
  EXPECT_FALSE(one.inherit(pipe, "length")) << "it did not differ any more";
  EXPECT_TRUE(one.empty());
}

TEST(Overlay, copiesDoNotSeeOneAnother) {
  Overlay a;
  a.set(3, "length", metres(1));
  Overlay b = a;
  b.set(3, "length", metres(2));
  b.find(3, "bore");
  ASSERT_EQ(a.all().size(), 1u);
  EXPECT_EQ(std::get<Given>(a.at(3, "length")->value).value, 1.0);
  EXPECT_EQ(std::get<Given>(b.at(3, "length")->value).value, 2.0);
  EXPECT_EQ(b.at(3, "bore")->to, Difference::To::found);
  EXPECT_EQ(b.at(3, "bore", true), nullptr) << "an outcome of that name is another thing";
  EXPECT_FALSE(a == b);
}

TEST(Overlay, passesOverWhatIsGone) {
  Draft draft{Network()};
  const Id a = draft.addPoint("A", {}), b = draft.addPoint("B", {});
  const Id pipe = draft.add(*findPart("pipe"), "L", {a, b});
  Overlay overlay;
  overlay.set(pipe, "bore", metres(0.1));
  overlay.set(pipe, "set point", metres(5));  // of no pipe
  overlay.set(a, "height", metres(3));
  const Network full = std::move(draft).finish();
  Draft fewer(full);
  fewer.remove(pipe);
  const Network less = std::move(fewer).finish();
  EXPECT_EQ(derive(less, overlay).at(a).given("height")->value, 3.0);
  EXPECT_EQ(derive(less, overlay).find(pipe), nullptr);
  EXPECT_EQ(derive(full, overlay).at(pipe).value("set point"), nullptr);
}

// A derived network is balanced like one that was edited so: the same heads to the last bit.
TEST(Overlay, balancesLikeAnEdit) {
  const Network drawn = test::randomNetwork(11, 60);
  Overlay overlay;
  Draft draft(drawn);
  drawn.each([&](Id id, const Element& e) {
    if (const Given* length = e.given("length")) {
      overlay.set(id, "length", metres(length->value * 1.5));
      draft.values(id).set("length", metres(length->value * 1.5));
    }
  });
  ASSERT_FALSE(overlay.empty());
  const Solution a = solve(derive(drawn, overlay), &shippedStock()),
                 b = solve(std::move(draft).finish(), &shippedStock());
  ASSERT_TRUE(a.summary.usable());
  ASSERT_EQ(a.pointHead_m.size(), b.pointHead_m.size());
  for (std::size_t i = 0; i < a.pointHead_m.size(); ++i)
    EXPECT_TRUE(a.head(static_cast<Id>(i)) == b.head(static_cast<Id>(i))) << i;
}

#include "model/history.h"

#include <gtest/gtest.h>

#include "model/costs.h"
#include "model/sweep_setup.h"
#include "solve/random_network.h"

namespace conduit {
namespace {

TEST(History, stepsBackAndForthByName) {
  History h{Model()};
  Draft d(h.now().drawn);
  d.addPoint("A", {});
  h.record("Place A", Model{std::move(d).finish()});
  EXPECT_EQ(h.undoName(), "Place A");
  h.undo();
  EXPECT_FALSE(h.canUndo());
  EXPECT_EQ(h.redoName(), "Place A");
  EXPECT_EQ(h.now().drawn.count(), 0u);
  h.redo();
  EXPECT_EQ(h.now().drawn.count(), 1u);
}

TEST(History, aDragIsOneStepAndMemoryIsBounded) {
  const Network big = test::gridNetwork(2000, 1);
  History h(Model{big}, 3'000'000);
  for (int i = 0; i < 50; ++i) {
    Draft d(h.now().drawn);
    d.move(5, {static_cast<double>(i), 0});
    h.record("Move N-5", Model{std::move(d).finish()}, "drag");
  }
  h.undo();
  EXPECT_EQ(h.now().drawn.at(5).at, big.at(5).at);
  for (int i = 0; i < 500; ++i) {
    Draft d(h.now().drawn);
    for (Id id = 1; id < h.now().drawn.bound(); id += 60) d.move(id, {static_cast<double>(i), 1});
    h.record("Move all", Model{std::move(d).finish()});
  }
  int steps = 0;
  while (h.canUndo()) h.undo(), ++steps;
  EXPECT_LT(steps, 100);
  EXPECT_GT(steps, 0);
}

// Costs and set-ups are undone with the rest: they are of the same value.
TEST(History, goesOverTheWholeModel) {
  History h{Model()};
  Model dearer = h.now();
  dearer.costs.set(costs::tariff, Given{0.3, Basis::direct, "0.3"});
  dearer.setups.set(SweepSetup{.vary = "P-1 speed"});
  h.record("Set tariff", dearer);
  EXPECT_EQ(*costOf(h.now().costs, costs::tariff), 0.3);
  h.undo();
  EXPECT_FALSE(costOf(h.now().costs, costs::tariff));
  EXPECT_TRUE(h.now().of<SweepSetup>().empty());
  h.redo();
  EXPECT_EQ(h.now().of<SweepSetup>().vary, "P-1 speed");
}

}  // namespace
}  // namespace conduit

// A branched network as plain numbers, where it is plain enough for a proof.
#pragma once

#include "sizing/judge.h"
#include "sizing/tree.h"

namespace conduit {

/// One case of a task in which every flow is what is drawn behind it. What it leaves out (greatest pressures,
/// ratings, limits of equipment) can only make a choice dearer: one that is cheapest here and keeps every
/// limit is cheapest.
struct PlainTree {
  CaseId id = drawingCase;
  Tree tree;  // its rows are those of the task, then some of its own that cost nothing
  std::vector<std::vector<std::uint16_t>> size;  // of each row, those of its sizes that stand in the tree
  struct Line {
    Id element = noId;                     // none: it tells the tree of its own rows
    Id far = noId;                         // the point at its far end; none: an inner place of the element
    bool along = false;                    // drawn away from the source
    double flow_m3s = 0.0, shift_m = 0.0;  // outward; what the tree puts to heads at its near end
    /// What it truly loses, by the rows it goes by, where the tree has less; without any where that is by too
    /// many to be told.
    std::vector<int> rows{};
    std::vector<double> loss_m{};
    bool least = false;  // the tree has the least it can lose
  };
  std::vector<Line> lines;  // of the tree
};

struct PlainTrees {
  std::vector<PlainTree> cases;  // of those that are branched
  bool all = false;              // every case that counts is
  bool lifts = false;            // pumps run in some
  std::string none;              // a row every size of which breaks a limit by its own flow, and which
};

/// A case is branched when each part of it has one held head or level and no circle (shut lines and valves
/// open one), nothing is to be found, and no loss goes by how flows are shared at a tee. Lines may be kept,
/// tied, or cut off by the case; tanks, valves and equipment count with their loss at the flow they pass, by
/// the size of the lines they stand at where it goes by that: by more than `choicesMost` choices of them, it
/// goes by the widest line at each end. Each reading is compared with solving the case
/// for as many choices as there are sizes; where it differs, the case is left out. Nothing where the judge is
/// stopped.
[[nodiscard]] PlainTrees plainTrees(const SizingTask& task, const Judge& judge,
                                    std::size_t choicesMost = 50'000);

/// Adds the heads that points and pumps of a solved choice require: some limits appear only where they are
/// not met. False where none is new.
[[nodiscard]] bool addNeeds(PlainTree& plain, const Network& network, const Solution& answer);
/// A loss that depends on several rows counts at its lowest by one of them: that is quick, and a choice can
/// only cost more than it seems.
void takeLowestLosses(PlainTree& plain);
/// Counts such losses in full where those sizes lose more than assumed; false where there are none.
[[nodiscard]] bool takeFullLosses(PlainTree& plain, std::span<const std::size_t> size);

}  // namespace conduit

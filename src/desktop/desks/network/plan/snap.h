// Where a click would land, and what it holds on to there, in words for beside the pointer.
#pragma once

#include <QString>
#include <optional>
#include <utility>
#include <vector>

#include "network/network.h"

namespace conduit::desktop {

struct Snap {
  Spot at;
  Id on = noId;   // an element it lands on
  QString words;  // "on N-3", "level with N-2", "45°", "grid 5 m"
};

/// What there is to hold on to. Lengths in metres on the drawing; `reach_m` is how near is near.
struct SnapField {
  const std::vector<std::pair<Id, Spot>>* points = nullptr;
  std::optional<Spot> from;         // where the line being drawn begins
  std::optional<double> length_m;   // typed: the click lands that far from `from`
  std::optional<double> direction;  // typed: and in that direction, degrees from the east to the left
  double grid_m = 1.0, reach_m = 0.5;
  bool free = false;  // hold on to nothing
};

/// In this order: what was typed, multiples of 15° from the line's beginning, one line with another point,
/// the grid.
[[nodiscard]] Snap snapTo(Spot hand, const SnapField& field, const Network& network,
                          const QString& gridWords);

}  // namespace conduit::desktop

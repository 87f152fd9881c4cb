// Places for imported points and devices that have none.
#pragma once

#include <span>

#include "network/network.h"

namespace conduit {

/// Lays the points (and free-standing elements) out as a tree from what they are joined to: each step along a
/// line goes to the east, branches one below the other, pieces that are joined to nothing below all others.
/// Tanks stand at their connections.
void spreadOut(Draft& draft, std::span<const Id> unplaced, double step_m = 30.0);

}  // namespace conduit

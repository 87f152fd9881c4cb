// Order on the drawing: line up, space evenly, mirror, turn. What moves are the points and tanks of what is
// selected.
#pragma once

#include <span>

#include "network/edits.h"

namespace conduit {

enum class LineUp { left, right, top, bottom, middleAcross, middleUpright };
enum class Direction { across, upright };

/// All at the westmost, eastmost … place of them, or at their mean.
[[nodiscard]] Result<Edited> lineUp(const Network& network, std::span<const Id> ids, LineUp how);
/// Equal steps between the outermost two, in the order in which they stand.
[[nodiscard]] Result<Edited> spaceEvenly(const Network& network, std::span<const Id> ids, Direction along);
/// About the middle of their extent: `across` changes left and right, `upright` top and bottom.
[[nodiscard]] Result<Edited> mirror(const Network& network, std::span<const Id> ids, Direction how);
/// By quarter turns to the left about the middle of their extent.
[[nodiscard]] Result<Edited> quarterTurn(const Network& network, std::span<const Id> ids, int turns);

/// Points and free-standing elements that a selection moves.
[[nodiscard]] std::vector<Id> movedBy(const Network& network, std::span<const Id> ids);

/// Moves many at once. Where the drawing is to scale, a pipe whose length was that of the drawing keeps it
/// so; a length that was typed stays. `to` holds one place for each of `moved`.
[[nodiscard]] Network moveTo(const Network& network, std::span<const Id> moved, std::span<const Spot> to);

/// Equipment between two points: no pipe, and nothing that stands on the drawing only.
[[nodiscard]] bool isDevice(const Part& part);
/// True when lengths follow the drawing.
[[nodiscard]] bool toScale(const Network& network);
/// Length of a pipe as it is drawn, m: between its ends in Plan, with the rise between them. A device set
/// into the line is drawn longer than it is: beside one the length counts to its middle.
[[nodiscard]] double drawnLength_m(const Network& network, const Element& pipe);

/// Whether the length of a pipe is that of the drawing and goes on being so: to the middles of devices, or
/// from end to end.
enum class Drawn { no, toMiddles, toEnds };
[[nodiscard]] Drawn drawnAs(const Network& network, const Element& pipe);
/// Sets the length of a pipe to what is drawn now.
void followDrawing(Draft& draft, Id pipe, Drawn as);

}  // namespace conduit

// The named edits a person makes. Each looks at a network and gives back a new one with the words for undo,
// or a Problem; nothing is ever half done.
#pragma once

#include <span>

#include "network/network.h"

namespace conduit {

struct Edited {
  std::string name;  // "Set bore of L-12 to 154 mm"
  Network network;
  Id made = noId;  // what was made, if anything: to be selected
};

/// As typed into a field. An empty text clears it; fields the element does not have are a Problem.
[[nodiscard]] Result<Edited> setField(const Network& network, Id id, std::string_view key,
                                      std::string_view text, const Stock* stock, const UnitSet* units);
/// Same text into many elements.
[[nodiscard]] Result<Edited> setFieldOfAll(const Network& network, std::span<const Id> ids,
                                           std::string_view key, std::string_view text, const Stock* stock,
                                           const UnitSet* units);
/// Gives an outcome and releases its field (`text` is the outcome's value as typed), or with an empty text
/// the way back.
[[nodiscard]] Result<Edited> swapGiven(const Network& network, Id id, const Swap& swap, std::string_view text,
                                       const Stock* stock, const UnitSet* units);
[[nodiscard]] Result<Edited> applyRemedy(const Network& network, const Remedy& remedy, const Stock* stock,
                                         const UnitSet* units);
/// Why a text cannot be a name; empty when it can. Whether it is taken is another question.
[[nodiscard]] std::string nameFault(std::string_view name);
[[nodiscard]] Result<Edited> rename(const Network& network, Id id, std::string_view name);

/// A new point, tank, fixed pressure or nozzle at a spot; `height` as typed, may be empty. A tank and the
/// like bring the point they are joined to.
[[nodiscard]] Result<Edited> place(const Network& network, const Part& part, Spot at, std::string_view height,
                                   const Stock* stock, const UnitSet* units);

/// What the next piece of line is to have. Texts as typed; empty means: length from the drawing's scale, rise
/// none.
struct LineEntry {
  std::string length, rise;
  Id like = noId;  // a pipe whose size, roughness and rating the new one takes
};
/// A pipe between two points, or from a point to a new point at `to`. Ends on a tank get a connection of
/// their own.
[[nodiscard]] Result<Edited> drawPipe(const Network& network, Id from, Id to, Spot toSpot,
                                      const LineEntry& entry, const Stock* stock, const UnitSet* units);
/// A device between two new points of its own, where there is no line yet.
[[nodiscard]] Result<Edited> placeBetween(const Network& network, const Part& device, Spot from, Spot to);
/// The height of a point as typed. A device is one thing: the points that hang together by devices alone rise
/// and fall with it.
[[nodiscard]] Result<Edited> setHeight(const Network& network, Id point, std::string_view text,
                                       const Stock* stock, const UnitSet* units);
/// A pipe cut in two by a new point at `share` (0…1) of its length; a take-off is parted there too.
[[nodiscard]] Result<Edited> splitPipe(const Network& network, Id pipe, double share, const Stock* stock);
/// A device set into a pipe at `share` of its length: pipe, device, pipe. At 0 or 1 no empty pipe is made.
/// `against`: it points from the pipe's second end to its first.
[[nodiscard]] Result<Edited> setInto(const Network& network, Id pipe, double share, const Part& device,
                                     const Stock* stock, bool against = false);
/// A device between a point and a new point beside it; drawing goes on from there.
[[nodiscard]] Result<Edited> setAfter(const Network& network, Id point, Spot to, const Part& device);

/// An element of two ends between two points that are there.
[[nodiscard]] Result<Edited> joinPoints(const Network& network, const Part& part, Id from, Id to);
/// A picture under the drawing. With `bytes` it travels inside the model under `file`; without, `file` is a
/// path from it.
[[nodiscard]] Result<Edited> addPicture(const Network& network, const std::string& file, std::string bytes,
                                        Spot middle, double width_m);
/// A length of something on the drawing, and the place it then has, in one step.
[[nodiscard]] Edited scaleDrawn(const Network& network, Id id, std::string_view key, double metres, Spot to);

[[nodiscard]] Result<Edited> removeAll(const Network& network, std::span<const Id> ids);
[[nodiscard]] Edited moveAll(const Network& network, std::span<const Id> ids, double dx, double dy);
[[nodiscard]] Edited reverseAll(const Network& network, std::span<const Id> ids);

/// A part of a network taken along: elements with the points they need.
[[nodiscard]] Network cutOut(const Network& network, std::span<const Id> ids);
/// Sets `piece` into the network, shifted; names that are taken get the next free ones. `placed` receives the
/// new Ids.
[[nodiscard]] Edited insert(const Network& network, const Network& piece, double dx, double dy,
                            std::vector<Id>* placed);

/// Where an element's symbol stands: its own spot, or the middle of its ends.
[[nodiscard]] Spot spotOf(const Network& network, Id id);

}  // namespace conduit

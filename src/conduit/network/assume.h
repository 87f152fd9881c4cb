// What a new element takes where nobody has said anything, so that a drawing can be solved from its first
// line on. Such values are marked until somebody gives them.
#pragma once

#include "network/edits.h"

namespace conduit {

/// What the next line is made of and where the next point stands, as the job says or, where it does not, as
/// is usual: 4 in schedule 40 steel, clean, at 0 m.
struct PipeInHand {
  std::string size;  // a size of the catalogue or a bore as typed
  std::string wall;  // roughness, C or n as typed, by the friction law
  std::string_view wallField;
  std::string service;  // may be empty
  std::string height;
  bool sizeAssumed = true, wallAssumed = true, heightAssumed = true;
  const PipeSize* entry = nullptr;  // where `size` is one of the stock
};
/// The field of a pipe that the friction law of this job reads its wall from.
[[nodiscard]] std::string_view wallFieldOf(const Element& job);
/// What is usual for a material in that field, as typed.
[[nodiscard]] std::string usualWall(std::string_view field, std::string_view material, const Stock& stock);
[[nodiscard]] PipeInHand pipeInHand(const Network& network, const Stock& stock);

/// Gives every element of `edited` that `before` has not what it needs and does not have.
[[nodiscard]] Edited withAssumed(const Network& before, Edited edited, const Stock& stock);

/// Two lines meet at a point, and nothing else, and they are not said to be of one bore.
[[nodiscard]] bool boresDiffer(const Network& network, Id point);
/// Fields of an element whose values are marked, in the order of its table; a reducer where bores differ
/// alone.
[[nodiscard]] std::vector<std::string_view> assumedAt(const Network& network, Id id);
/// The same of all, in order of Id.
struct AssumedValue {
  Id element = noId;
  std::string_view key;
};
[[nodiscard]] std::vector<AssumedValue> assumedIn(const Network& network);
/// The same in words, an element each: "L-1: size ASME B36.10M 4 40, roughness 0.0457 mm".
[[nodiscard]] std::vector<std::string> assumedSaid(const Network& network);

}  // namespace conduit

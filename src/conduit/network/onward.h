// What goes on from a point: lines and equipment that meet there, apart from what stands on the drawing only.
#pragma once

#include "network/network.h"

namespace conduit {

/// Elements that water passes, enters or leaves by at a point, in order of Id.
[[nodiscard]] std::vector<Id> waterAt(const Network& network, Id point);
/// The one element of two ends that goes on from a bare point, seen from `from`: nothing branches off, feeds,
/// draws or ends there. noId where there is none such.
[[nodiscard]] Id onwardAt(const Network& network, Id point, Id from);
/// What lies from an element's end on up to the first point where something branches off, feeds, draws, ends
/// or lifts, in its order, and that point.
struct Lateral {
  std::vector<Id> elements;
  Id end = noId;
};
[[nodiscard]] Lateral lateralFrom(const Network& network, Id element, Id point);
/// The other of an element's two ends.
[[nodiscard]] inline Id otherEnd(const Element& element, Id point) {
  return element.ends[element.ends[0] == point ? 1 : 0];
}

}  // namespace conduit

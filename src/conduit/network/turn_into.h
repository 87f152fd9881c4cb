// Any element into another kind where it stands: connections and every value that still applies are kept.
#pragma once

#include <span>

#include "network/edits.h"

namespace conduit {

/// What a change of kind did to one element, by names of fields.
struct Turned {
  Id id = noId;  // of what stands there now
  std::string was, name;
  std::vector<std::string> kept, gone, wanted;
};

struct TurnedAll {
  Edited edited;
  std::vector<Turned> each;
  /// "V-3 (was P-1): kept bore; gone curve; wanted Kv." for one, a summary for many.
  [[nodiscard]] std::string words() const;
};

/// Two ends to two, one to one, tank with one connection to one, and back; a point where two lines meet
/// becomes a device between them, a point of its own gets what is joined at one place; a device becomes a
/// point by joining its ends. An element that cannot become `part` refuses the whole, with the reason. A name
/// of the old kind's pattern becomes the next free one of the new kind.
[[nodiscard]] Result<TurnedAll> turnInto(const Network& network, std::span<const Id> ids, const Part& part);

/// Empty when the element can become that kind, else why not.
[[nodiscard]] std::string turnFault(const Network& network, Id id, const Part& part);

}  // namespace conduit

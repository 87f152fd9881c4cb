#include "network/onward.h"
#include "fields/keys.h"

namespace conduit {

std::vector<Id> waterAt(const Network& network, Id point) {
  std::vector<Id> joined = network.elementsAt(point);
  std::erase_if(joined, [&](Id id) { return network.at(id).part->group == Group::drawing; });
  return joined;
}

Id onwardAt(const Network& network, Id point, Id from) {
  const Element& p = network.at(point);
  if (p.values.entry(key::outflow) || p.values.entry(key::inflow)) return noId;
  const std::vector<Id> joined = waterAt(network, point);
  if (joined.size() != 2) return noId;
  const Id next = joined[0] == from ? joined[1] : joined[0];
  return network.at(next).part->ends == Ends::two ? next : noId;
}

Lateral lateralFrom(const Network& network, Id element, Id point) {
  Lateral lateral{{}, point};
  Id came = element;
  for (Id at = onwardAt(network, point, came); at != noId && at != element;
       at = onwardAt(network, point, came)) {
    if (network.at(at).part->lifts) break;
    lateral.elements.push_back(at);
    lateral.end = point = otherEnd(network.at(at), point), came = at;
  }
  return lateral;
}

}  // namespace conduit

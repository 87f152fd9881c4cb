// What those who take from a network get: nozzles, draw-offs, tanks that fill, fixed pressures that take.
//
//   for (const DeliveryChange& d : deliveryChanges(before, beforeAnswer, after, afterAnswer)) …  // worst
//   first
#pragma once

#include "solve/solution.h"

namespace conduit {

/// What an element takes out of the network, m³/s; less than nothing: it gives. Empty for what does neither
/// or is not determined. A draw-off that is given counts as nothing where the pressure is below what is
/// required there (0 bar g where nothing is): it cannot be delivered.
[[nodiscard]] std::optional<double> takenBy(const Element& element, const Reading& reading);
/// It takes a given flow, whatever the pressure.
[[nodiscard]] bool takesGiven(const Element& element);

struct Delivery {
  Id taker = noId;
  double flow_m3s = 0.0;  // less than nothing: it gives
  bool given = false;     // as takesGiven
};
/// Of all that take or give, in order of Id.
[[nodiscard]] std::vector<Delivery> deliveriesOf(const Network& network, const Solution& answer);
/// What all takers take together, m³/s.
[[nodiscard]] double taken(std::span<const Delivery> deliveries);

struct DeliveryChange {
  Id taker = noId;
  double now_m3s = 0.0, then_m3s = 0.0;  // less than nothing: it gives
  /// Then over now; 1 where it takes nothing now.
  [[nodiscard]] double share() const { return now_m3s > 0 ? then_m3s / now_m3s : 1.0; }
  /// It loses no more than a fiftieth.
  [[nodiscard]] bool kept() const { return share() >= 0.98; }
};
/// Of those that take in either answer, the one that loses the greatest share first.
[[nodiscard]] std::vector<DeliveryChange> deliveryChanges(std::span<const Delivery> now,
                                                          std::span<const Delivery> then);

/// "Gun 4 gets 85 % of its present flow", of the taker that loses the greatest share; empty where all are
/// kept.
[[nodiscard]] std::string lossSaid(const Network& network, std::span<const DeliveryChange> changes);

}  // namespace conduit

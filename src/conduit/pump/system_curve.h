// The head the network asks of a pump at each flow: the pump is made to pass it and the network is balanced,
// for real.
#pragma once

#include "solve/solve.h"

namespace conduit {

struct DutyPoint {
  double flow_m3s = 0.0, head_m = 0.0;
};

/// Of any element with two ends, however it is described: `count` points from nothing to `most_m3s`; flows at
/// which the network cannot balance are left out.
[[nodiscard]] std::vector<DutyPoint> systemCurve(const Network& network, const Stock* stock, Id pump,
                                                 double most_m3s, int count, std::stop_token stop = {});

}  // namespace conduit

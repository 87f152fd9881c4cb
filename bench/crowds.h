// Networks crowded with devices or found fields, and square grids, for the benchmarks.
#pragma once

#include "network/network.h"

namespace conduit::bench {

/// Two meshed zones and a reducing valve from every place of the upper one to that below it. `spread_m`: of
/// their set points; 0: all of them act.
[[nodiscard]] Network twoZones(int valves, double spread_m);
/// A mesh, and from each place a line or a valve to a place below it, those below meshed too; each one's
/// `field` ("bore", "opening") is to be found from the pressure behind it. The pressures are those that
/// moderate values give, so there is an answer.
[[nodiscard]] Network foundFromPressures(int fields, const char* field);
/// Streets: a square grid of about so many pipes with a draw at every crossing and a tank in every corner.
[[nodiscard]] Network squareGrid(int pipes);

}  // namespace conduit::bench

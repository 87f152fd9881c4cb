// Random networks of every kind of equipment, some of them impossible on purpose. The same seed gives the
// same network.
#pragma once

#include <cstdint>

#include "network/network.h"

namespace conduit::test {

struct Chance {  // splitmix64 (Steele, Lea and Flood 2014)
  std::uint64_t state;
  std::uint64_t next();
  double between(double low, double high);
  int below(int n);
  bool oneIn(int n) { return below(n) == 0; }
};

/// The same made richer: sections that are not round, pumps of every description with units, stages and a
/// speed held, tees by shares, changes of bore, pipes without loss, dead ends behind every kind of device,
/// other liquids, now and then a ring without loss.
[[nodiscard]] Network richNetwork(std::uint64_t seed, int pipes);

/// About `pipes` pipes on a torn grid; at least one device for every 20 pipes, all kinds of the registry
/// among them.
[[nodiscard]] Network randomNetwork(std::uint64_t seed, int pipes);

/// A torn grid of pipes, 1.3 for each point as in distribution networks, with draws and one tank for every
/// 200 points: for speed and property tests.
[[nodiscard]] Network gridNetwork(int pipes, std::uint64_t seed);

}  // namespace conduit::test

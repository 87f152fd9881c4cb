// The bare parts of one iteration, each timed alone: what no solver of this kind can do without.
#pragma once

#include "solve/system.h"

namespace conduit::bench {

/// Seconds, least of several runs.
struct Floor {
  double law = 1e300, assembly = 1e300, factor = 1e300, solve = 1e300;
  const char* by = "";  // which packaged factorisation was the quicker
  [[nodiscard]] double sum() const { return law + assembly + factor + solve; }
};

/// Law: Colebrook by two Newton steps from a near start, one for each link. Assembly: a scatter into a
/// prepared matrix. Factor and solution: the quicker of CHOLMOD simplicial LDLᵀ and Eigen's, natural order on
/// the same relabelled matrix.
[[nodiscard]] Floor floorOf(const System& system);

}  // namespace conduit::bench

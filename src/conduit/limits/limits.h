// Reads a solution and hands back what is wrong or near it. Touches nothing.
#pragma once

#include "solve/solution.h"

namespace conduit {

/// Every check of one element, for its card.
[[nodiscard]] std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id,
                                          const UnitSet& units);

/// The finding's sentence of a broken check of an element.
[[nodiscard]] std::string sentenceOf(const std::string& name, const Check& check, const UnitSet& units);

/// All broken checks and all problems of the summary, worst first, each with its place and its remedies.
[[nodiscard]] std::vector<Finding> findings(const Network& network, const Solution& solution,
                                            const UnitSet& units);

/// The words beside the balance: "2 limits broken", "Solved, but physically impossible: …"; empty when all is
/// well.
struct Standing {
  bool onPaperOnly = false;
  std::size_t broken = 0, near = 0;
  std::string worst;
  std::optional<Place> where;
};
[[nodiscard]] Standing standing(const std::vector<Finding>& findings);

}  // namespace conduit

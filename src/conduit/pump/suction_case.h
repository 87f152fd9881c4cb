// The case that a suction is judged by: the source at its lowest level, the liquid at its warmest.
#pragma once

#include "cases/case_edits.h"
#include "solve/solution.h"

namespace conduit {

struct SuctionCase {
  Id tank = noId;                           // the surface it draws from
  std::optional<Given> level, temperature;  // as given; empty: nobody has said how low, how warm
  /// What would be set differs from what holds now.
  bool differs = false;
};
/// Of a pump whose way up ends at the surface of a tank with a given level; empty of others.
[[nodiscard]] std::optional<SuctionCase> suctionCaseOf(const Network& network, const Solution& solution,
                                                       Id pump);
/// A new case under `from`, "P-1: lowest level, warmest liquid", with what is known of the two.
[[nodiscard]] Result<EditedModel> addSuctionCase(const Model& model, CaseId from, Id pump,
                                                 const SuctionCase& found);

}  // namespace conduit

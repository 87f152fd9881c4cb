// What would mend a suction that leaves too little: each tried on a copy, with the margin it gives.
#pragma once

#include "pump/suction_budget.h"

namespace conduit {

struct TriedRemedy {
  Remedy remedy;
  double margin_m = 0.0;           // NPSH available less required, as it was solved
  std::optional<double> flow_m3s;  // through the pump then
};

/// The line that loses most on the way in a size wider, the pump lower, the pump slower: those that leave
/// what is asked for, else the best that was tried of each. Empty where enough is left, or nothing can be
/// tried.
[[nodiscard]] std::vector<TriedRemedy> suctionRemedies(const Network& network, const Solution& solution,
                                                       const Stock* stock, const UnitSet& units, Id pump,
                                                       std::stop_token stop = {});

}  // namespace conduit

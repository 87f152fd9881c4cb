// What `solve` prints of an answer: as text for people, as JSON for programs.
#pragma once

#include <ostream>
#include <utility>
#include <vector>

#include "network/network.h"
#include "pump/suction_budget.h"
#include "quantity/units.h"
#include "say/say.h"
#include "solve/solution.h"

namespace conduit::cli {

/// The suction budgets of pumps, in the order of the model.
using Budgets = std::vector<std::pair<Id, SuctionBudget>>;

inline constexpr const char* severityWords[] = {"refused", "on paper only", "broken", "near", "note"};

void reportText(std::ostream& out, const Network& network, const Solution& solution,
                const std::vector<Finding>& found, const UnitSet& units);
void reportSuction(std::ostream& out, const Network& network, const Budgets& budgets, const UnitSet& units);

/// One object: SI values, unit named in each key, null where nothing determines a value. `suction` may be
/// null.
void reportJson(std::ostream& out, const Network& network, const Solution& solution,
                const std::vector<Finding>& found, const Budgets* suction);

}  // namespace conduit::cli

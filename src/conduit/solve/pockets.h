// What stands where nothing flows.
#pragma once

#include "solve/states.h"

namespace conduit {

/// A device before which a head is kept passes nothing while that is all that keeps it there, so it is shut;
/// one behind which a pocket hangs fills it to its set point, or stands open into it. Each change is taken
/// only if the whole still holds with it; an answer that is none (see `found`) stays as it is. `holding`:
/// links of the devices that hold a head.
void fillPockets(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                 const std::vector<std::size_t>& holding, bool reckonsChoking, StatesFound& found);

}  // namespace conduit

// Tees whose losses follow the shares of the flow: what couples three pipes at a point.
#pragma once

#include "solve/states.h"

namespace conduit {

/// Finds states as `settle` does, with the losses of tees (Gardel 1957) besides the laws of the pipes. The
/// losses are first taken from the last answer; where that does not converge, Newton's method corrects
/// them with the response of every flow to every loss. Ends when each agrees with the flows it follows from
/// to 1e-9 m, or the rounding of greater ones.
[[nodiscard]] StatesFound settleWithTees(Newton& newton, const System& system, Iterate& x,
                                         std::stop_token stop, double gravity_ms2);

/// What a tee takes from each leg besides the pipes' own losses, in the direction of the link there, m.
/// `flow_m3s` by leg, in the direction of the link. Where the branch carries what both legs of the run share,
/// of which Gardel says nothing, each leg's loss goes straight, by its share, between what his formulas say
/// when it carries all and when it carries nothing; and where two legs carry the same to one part in a
/// hundred, what either says as the common one goes over into the other: so no loss jumps when a flow turns.
void teeLosses(const TeeAt& tee, const System& system, const double (&flow_m3s)[3], double gravity_ms2,
               double (&loss_m)[3]);

}  // namespace conduit

// The loss laws of a pipe: Darcy-Weisbach, Hazen-Williams, Manning, with its fittings and changes of bore.
#pragma once

#include "parts/pipe/line.h"

namespace conduit::pipe {

/// By the job's friction law.
[[nodiscard]] std::unique_ptr<const Law> lawOf(const Line& line, const Setting& setting);
/// Resistance of the straight pipe by Hazen and Williams, in the units of `law`.
[[nodiscard]] double hazenWilliamsResistance(const Line& line, const friction::HazenWilliams& law);
/// Hazen and Williams wrote of velocity and hydraulic radius; the form by flow takes a round section. In
/// another the flow counts as that which would run at its velocity in the round one of its hydraulic
/// diameter: Q' = Q (π D_h²/4)/A. Gives Q'/Q.
[[nodiscard]] double asRound(const Line& line);

}  // namespace conduit::pipe

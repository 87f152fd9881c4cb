// Flow and return: lines that carry the same flow whatever the sizes are, since what lies between them is
// closed.
//
//   for (const TiedLines& pair : flowAndReturn(model)) …  // "L-1, L-2"
#pragma once

#include "model/model.h"
#include "model/sizing_setup.h"

namespace conduit {

/// Lines that are of one size unless somebody says otherwise. Two lines that together, neither of them alone,
/// cut off a part without supply, draw-off, nozzle or tank, in the drawing or in a case that counts, pass
/// equal flows. They are flow and return where that part, or the way between them, uses the liquid: an
/// exchanger, or parallel branches with control valves, orifice plates, valves that limit or losses of their
/// own. Lines one behind the other on each side are paired from the outside in; those left over go with the
/// last pair. What lies beyond a pump stays apart, for its suction may be wider than its discharge. Lines
/// `apart` are left out: fixed, tied otherwise, or to have a size of their own.
[[nodiscard]] std::vector<TiedLines> flowAndReturn(const Model& model, const std::vector<Id>& apart = {});

}  // namespace conduit

#include "parts/service.h"

namespace conduit::service {
namespace {

const Field fields[] = {
    inSight(field(Key<Velocity>{"velocity at most"}, 0.01, 100, "erosion, noise")),
    inSight(field(Key<Velocity>{"velocity at least"}, 0, 100, "in flowing pipes (settling)")),
    inSight(field(Key<Ratio>{"gradient at most"}, 0, 100, "head loss per length of pipe")),
    inSight(field(Key<GaugePressure>{"pressure at least"}, -101325, 1e9, "at points")),
    inSight(field(Key<GaugePressure>{"pressure at most"}, -101325, 1e9, "at points")),
    inSight(field(Key<AbsolutePressure>{"absolute pressure at least"}, 0, 1e8,
                  "at points (air release below it)")),
    inSight(field(Key<HeadDrop>{"NPSH margin at least"}, 0, 100, "at running pumps")),
    choice(jointsKey, jointKinds, "pipe joints; thread depth is deducted from the wall for the rating"),
    text("note", "purpose of the service"),
};

}  // namespace

const Part part{
    .key = "service",
    .plural = "Services",
    .prefix = "Service",
    .ends = Ends::free,
    .symbol = "M -10 -8 L 10 -8 M -10 8 L 10 8 M 0 -8 L 0 8",
    .fields = fields,
};

}  // namespace conduit::service

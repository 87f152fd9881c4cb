#include "parts/service.h"

#include "parts/waiver.h"

namespace conduit::service {
namespace {

const auto fields = joined(
    sharedLimitFields(false),
    std::to_array<Field>({
        choice(jointsKey, jointKinds, "pipe joints; thread depth is deducted from the wall for the rating"),
        waivedField("checks that do not apply to its elements, each with its reason"),
        text("note", "purpose of the service"),
    }));

}  // namespace

const Part part{.key = "service",
                .plural = "Services",
                .prefix = "Service",
                .ends = Ends::free,
                .symbol = "M -10 -8 L 10 -8 M -10 8 L 10 8 M 0 -8 L 0 8",
                .fields = fields,
                .service = true};

}  // namespace conduit::service

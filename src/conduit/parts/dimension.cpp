#include "parts/dimension.h"

namespace conduit::dimension {
namespace {

const Field fields[] = {
    text("text", "text instead of the measured distance"),
    byDefault(
        field(Key<Length>{"offset"}, -1e6, 1e6, "offset of the dimension line, to the left of its direction"),
        0.0),
};

}  // namespace

const Part part{
    .key = "dimension",
    .plural = "Dimensions",
    .prefix = "D",
    .letter = 'D',
    .group = Group::drawing,
    .ends = Ends::two,
    .symbol =
        "M -12 -7 L -12 7 M 12 -7 L 12 7 M -12 0 L 12 0 M -12 0 L -8 -3 M -12 0 L -8 3 M 12 0 L 8 -3 M 12 0 "
        "L 8 3",
    .fields = fields,
    .paper = Paper::dimension};

}  // namespace conduit::dimension

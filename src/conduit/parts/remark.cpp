#include "parts/remark.h"

namespace conduit::remark {
namespace {

const Field fields[] = {
    need(text("text", "text of the remark")),
    byDefault(field(Key<Number>{"size"}, 0.5, 6, "text size; 1 = label size"), 1.0),
};

}  // namespace

const Part part{
    .key = "remark",
    .plural = "Remarks",
    .prefix = "M",
    .letter = 'M',
    .group = Group::drawing,
    .ends = Ends::free,
    .symbol = "M -11 -8 L 11 -8 L 11 6 L -2 6 L -7 11 L -7 6 L -11 6 Z M -6 -3 L 6 -3 M -6 1 L 3 1",
    .fields = fields,
    .paper = Paper::remark};

}  // namespace conduit::remark

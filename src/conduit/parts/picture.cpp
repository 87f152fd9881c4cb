#include "parts/picture.h"

namespace conduit::picture {
namespace {

const Field fields[] = {
    need(text("file", "path relative to the model, or the name of an embedded file")),
    byDefault(field(Key<Length>{"width"}, 1e-3, 1e7, "width of the whole picture on the drawing"), 100.0),
    byDefault(field(Key<Number>{"turned"}, -360, 360, "rotation, degrees anticlockwise"), 0.0),
    byDefault(field(Key<Ratio>{"strength"}, 0.05, 1, "opacity"), 0.5),
    byDefault(field(Key<Number>{"page"}, 1, 10000, "page of a multi-page file"), 1.0),
    flag("locked", true, "a locked picture cannot be picked or moved in Plan"),
};

}  // namespace

const Part part{.key = "picture",
                .plural = "Pictures",
                .prefix = "Picture",
                .group = Group::drawing,
                .ends = Ends::free,
                .symbol = "M -12 -9 L 12 -9 L 12 9 L -12 9 Z M -12 5 L -4 -2 L 2 4 L 6 0 L 12 6",
                .fields = fields,
                .paper = Paper::picture};

}  // namespace conduit::picture

#include "parts/strainer.h"

#include "parts/flange.h"
#include "parts/rated.h"
#include "parts/seat.h"
#include "parts/waiver.h"

namespace conduit::strainer {
namespace {

constexpr Key<PressureDrop> cleanDrop{"clean drop"};

const Field fields[] = {
    rated::flowField(),
    assume(releasable(need(field(cleanDrop, 0, 1e7, "pressure drop at rated flow, clean screen"))),
           "0.05 bar"),
    rated::foulingField(),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "strainer",
    .plural = "Strainers",
    .prefix = "S",
    .letter = 'S',
    .group = Group::inLine,
    .ends = Ends::two,
    .symbol = "M -9 -9 L 9 -9 L 9 9 L -9 9 Z M 0 -9 L 0 -5 M 0 -2 L 0 2 M 0 5 L 0 9",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = [](const Values& values, const Setting& setting,
                  std::span<const EndPlace>) { return rated::prepare(values, fields, cleanDrop, setting); },
    .story = rated::story,
};

}  // namespace conduit::strainer

#include "parts/meter.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/flange.h"
#include "parts/rated.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::meter {
namespace {

constexpr Key<PressureDrop> ratedDrop{"rated drop"};

const Field fields[] = {
    rated::flowField(),
    assume(releasable(need(field(ratedDrop, 0, 1e7, "pressure drop at rated flow"))), "0.1 bar"),
    limitField(LimitId::flowLeast, "minimum flow for a valid reading, in its direction"),
    limitField(LimitId::flowMost, "maximum flow of the meter"),
    field(seat::bore, 1e-4, 20, "bore of its body; its velocity is then judged"),
    byDefault(limitField(LimitId::bodyVelocityMost), 10.0),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Flow not determined.";
  return fmt::format("Reads {}, pressure drop {}.", withUnit(std::abs(*q), Measure::volumeFlow, units, 4),
                     withUnit(std::abs(*dp), Measure::pressureDrop, units, 3));
}

constexpr std::string_view labels[] = {"flow"};

}  // namespace

const Part part{
    .key = "meter",
    .plural = "Meters",
    .prefix = "Q",
    .letter = 'Q',
    .group = Group::inLine,
    .ends = Ends::two,
    .symbol = "O 0 0 9 M -4 5 L 4 -5 M 4 -5 L 0 -4 M 4 -5 L 4 -1",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = [](const Values& values, const Setting& setting,
                  std::span<const EndPlace>) { return rated::prepare(values, fields, ratedDrop, setting); },
    .story = story,
};

}  // namespace conduit::meter

#include "parts/exchanger.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/flange.h"
#include "parts/rated.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::exchanger {
namespace {

constexpr Key<PressureDrop> ratedDrop{"rated drop"};

const Field fields[] = {
    rated::flowField(),
    assume(releasable(need(field(ratedDrop, 0, 1e8, "pressure drop at rated flow, clean"))), "0.3 bar"),
    byDefault(
        field(
            rated::exponent, 1, 2.5,
            "flow exponent: 2 for nozzles and headers, about 1.8 for long smooth tubes, 1 for laminar flow"),
        2.0),
    rated::foulingField(),
    limitField(LimitId::dropMost),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

void check(const Reading& r, Checks& checks) {
  const Limit most = ownLimit(*r.values, LimitId::dropMost, r.setting->medium);
  const auto dp = outcome::pressureLoss(r);
  if (!most || !dp) return;
  Check& c = checks.hold(CheckId::drop, std::abs(*dp), {}, most);
  if (checks.told(c))
    c.what = fmt::format("pressure drop of {} is {}, above the {} allowed", r.name,
                         withUnit(c.value, Measure::pressureDrop, checks.units(), 3),
                         withUnit(*c.most, Measure::pressureDrop, checks.units(), 3));
}

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "exchanger",
    .plural = "Heat exchangers",
    .prefix = "E",
    .letter = 'H',
    .group = Group::inLine,
    .ends = Ends::two,
    .symbol = "O 0 0 10 M -12 0 L -5 0 L -2 -6 L 2 6 L 5 0 L 12 0",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = [](const Values& values, const Setting& setting,
                  std::span<const EndPlace>) { return rated::prepare(values, fields, ratedDrop, setting); },
    .story = rated::story,
    .check = check,
    .exchanges = true};

}  // namespace conduit::exchanger

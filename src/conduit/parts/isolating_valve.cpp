#include "parts/isolating_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::isolatingvalve {
namespace {

using seat::bore, seat::lossK;

const Field fields[] = {
    opens(inSight(flag("open", true, "no: closed, no flow")), "Open"),
    releasable(byDefault(field(lossK, 0, 1e6, "K when open, on v²/2g in its bore; 0: no loss"), 0.2)),
    field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::bodyVelocityMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  const seat::Seated seated = seat::seated(values, fields, setting, ends);
  prepared.missing.insert(prepared.missing.end(), seated.missing.begin(), seated.missing.end());
  if (!prepared.missing.empty()) return prepared;
  prepared.branches.push_back(
      {0, 1, std::make_unique<QuadraticLaw>(seated.resistance_s2m5, seated.start_m3s, false), std::nullopt,
       !flagOf(values, fields[0])});
  return prepared;
}

std::string story(const Reading& r, const UnitSet& units) {
  if (!flagOf(*r.values, fields[0])) return "Closed: no flow.";
  const auto q = outcome::flow(r), h = outcome::headLoss(r);
  if (!q || !h) return "Open; flow not determined.";
  return fmt::format("Open: passes {}, head loss {}.", withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                     withUnit(std::abs(*h), Measure::headDrop, units, 3));
}
std::string stateWord(const Reading& r) { return flagOf(*r.values, fields[0]) ? "open" : "closed"; }

}  // namespace

const Part part{
    .key = "isolating valve",
    .plural = "Isolating valves",
    .prefix = "V",
    .letter = 'V',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 10 -6 L 10 6 Z",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .prepare = prepare,
    .story = story,
    .stateWord = stateWord,
};

}  // namespace conduit::isolatingvalve

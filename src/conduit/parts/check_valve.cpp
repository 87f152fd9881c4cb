#include "parts/check_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/seat.h"
#include "quantity/format.h"

namespace conduit::checkvalve {
namespace {

using seat::bore, seat::lossK;

const Field fields[] = {
    releasable(byDefault(field(lossK, 0, 1e6, "K when open, on v²/2g in its bore"), 2.0)),
    field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    stockItem(),
    text("note", "free text"),
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  const seat::Seated seated = seat::seated(values, fields, setting, ends);
  prepared.missing.insert(prepared.missing.end(), seated.missing.begin(), seated.missing.end());
  if (!prepared.missing.empty()) return prepared;
  prepared.branches.push_back(
      {0, 1, std::make_unique<QuadraticLaw>(seated.resistance_s2m5, seated.start_m3s, true)});
  return prepared;
}

std::string stateWord(const Reading& r) {
  return !r.branches.empty() && r.branches[0].state == BranchState::shut ? "shut" : "open";
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), h = outcome::headLoss(r);
  if (!q) return "Flow not determined.";
  if (stateWord(r) == "shut")
    return h ? fmt::format("Shut: outlet head is {} above inlet head.",
                           withUnit(std::max(0.0, -*h), Measure::headDrop, units, 3))
             : "Shut: no flow.";
  return fmt::format("Open: passes {}{}.", withUnit(*q, Measure::volumeFlow, units, 3),
                     h ? fmt::format(", head loss {}", withUnit(*h, Measure::headDrop, units, 3)) : "");
}

constexpr std::string_view labels[] = {"head loss"};

}  // namespace

const Part part{
    .key = "check valve",
    .plural = "Check valves",
    .prefix = "V",
    .letter = 'K',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -8 -7 L -8 7 M 8 -7 L 8 7 M -8 7 L 8 -7 F O -8 7 2.2",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .atNoFlow = [](const Reading&) { return NoFlow{NoFlow::Way::forward}; },
    .stateWord = stateWord,
};

}  // namespace conduit::checkvalve

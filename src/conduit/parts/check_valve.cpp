#include "parts/check_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::checkvalve {
namespace {

using seat::bore, seat::lossK;

const Field fields[] = {
    releasable(byDefault(field(lossK, 0, 1e6, "K when open, on v²/2g in its bore"), 2.0)),
    field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::discVelocityLeast),
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

// A disc that is not held fully open flutters and wears. Crane TP-410 (1988), appendix A: of a swing check
// valve 35 √v̄ in ft/s with v̄ in ft³/lb, which is 42.7/√ρ in m/s.
void check(const Reading& r, Checks& checks) {
  const auto q = outcome::flow(r);
  const auto own = get(*r.values, bore, r.setting->medium);
  const auto d = seatBore(own ? std::optional(own->si()) : std::nullopt, r.ends);
  if (!q || *q < 1e-9 || !d || stateWord(r) == "shut") return;
  Limit least = ownLimit(*r.values, LimitId::discVelocityLeast, r.setting->medium);
  if (!least) least = {42.7 / std::sqrt(r.setting->medium.density_kgm3), LimitFrom::standard};
  Check& c = checks.hold(CheckId::discVelocity, *q / (pi / 4 * *d * *d), least, {},
                         least.from == LimitFrom::own ? Severity::broken : Severity::note);
  if (checks.told(c))
    c.what = fmt::format("velocity in {} is {}; {} holds {} fully open", r.name,
                         withUnit(c.value, Measure::velocity, checks.units(), 3),
                         withUnit(*c.least, Measure::velocity, checks.units(), 3),
                         least.from == LimitFrom::own ? "its disc" : "the disc of a swing check valve");
}

constexpr std::string_view labels[] = {"head loss"};

}  // namespace

const Part part{.key = "check valve",
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
                .check = check,
                .atNoFlow = [](const Reading&) { return NoFlow{NoFlow::Way::forward}; },
                .stateWord = stateWord,
                .barsBackflow = true};

}  // namespace conduit::checkvalve

#include "sizing/duties.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "fields/keys.h"
#include "limits/limits.h"
#include "parts/pump/machine.h"
#include "quantity/format.h"

namespace conduit {
namespace {

// A taker of less than this share of all is no more than a rest of rounding.
constexpr double nothing = 1e-6, roleShare = 0.01;

// Points that water of a line of assumed size reaches: what flows there may be as nobody has said.
std::vector<char> fedByAssumed(const Network& n, const Solution& answer, std::string& which) {
  std::vector<char> fed(n.bound(), 0);
  std::vector<Id> front;
  const auto onward = [&](Id id, const Element& e) {
    if (answer.branchCount(id) == 0) return;  // of the drawing only
    const auto q = answer.branch(id, 0).flow_m3s;
    if (!q || *q == 0) return;
    const Id to = e.ends[*q > 0 ? 1 : 0];
    if (!std::exchange(fed[to], 1)) front.push_back(to);
  };
  n.each([&](Id id, const Element& e) {
    if (!e.part->line || !(e.values.assumed(key::size) || e.values.assumed(key::bore))) return;
    if (which.empty()) which = e.name;
    onward(id, e);
  });
  for (std::size_t i = 0; i < front.size(); ++i)
    for (const Id id : n.elementsAt(front[i])) {
      const Element& e = n.at(id);
      if (e.part->ends != Ends::two || answer.branchCount(id) == 0) continue;
      const auto q = answer.branch(id, 0).flow_m3s;
      if (q && *q != 0 && e.ends[*q > 0 ? 0 : 1] == front[i]) onward(id, e);
    }
  return fed;
}

// The limit that a taker says of what it gets: a tank's flow in is what it takes; what a fixed pressure takes
// is its flow out of the network.
LimitId leastOf(const Part& part) {
  return part.group != Group::supply       ? LimitId::flowLeast
         : findOutcome(part, key::flowOut) ? LimitId::flowInLeast
                                           : LimitId::flowOutLeast;
}

void checkRegion(const Element& e, const Reading& r, double share, Checks& checks) {
  const pump::Region region = pump::regionOf(*r.values, *r.setting);
  const LimitFrom from = region.given ? LimitFrom::own : LimitFrom::standard;
  Check& c = checks.hold(CheckId::bestFlow, share, {region.least, from}, {region.most, from});
  c.at = 1;  // besides the pump's own, which is no more than near
  if (checks.told(c))
    c.what = fmt::format("{} would run at {} % of BEP flow; it is within {} to {} % now", e.name,
                         digits(share * 100, 3), digits(region.least * 100, 3), digits(region.most * 100, 3));
}

void checkBranch(const Element& e, const Reading& r, double design_m3s, bool balanced, Checks& checks) {
  const BranchReading& b = r.branches[0];
  if (!balanced) {
    const double flow = b.flow_m3s.value_or(0.0);
    Check& c = checks.hold(CheckId::branchFlow, flow, {design_m3s * (1 - 1e-6), LimitFrom::own}, {});
    if (checks.told(c))
      c.what = fmt::format("{} passes {}, design flow {}", e.name,
                           withUnit(flow, Measure::volumeFlow, checks.units()),
                           withUnit(design_m3s, Measure::volumeFlow, checks.units()));
    return;
  }
  // Wide open it must take no more than there is.
  Values open = *r.values;
  open.set(key::opening, Given{.value = 1.0, .typed = {}});
  const Prepared p = e.part->prepare(open, *r.setting, r.ends);
  if (!b.headFrom_m || !b.headTo_m || p.branches.empty() || !p.branches[0].law) return;
  double memory = 0.0;
  const double there = *b.headFrom_m - *b.headTo_m, needs = p.branches[0].law->at(design_m3s, memory).drop_m;
  Check& c = checks.hold(CheckId::branchHead, there, {needs - 1e-6, LimitFrom::own}, {});
  if (checks.told(c))
    c.what = fmt::format("{} is short of head for its design flow of {}: {} across it, {} needed wide open",
                         e.name, withUnit(design_m3s, Measure::volumeFlow, checks.units()),
                         withUnit(there, Measure::headDrop, checks.units(), 3),
                         withUnit(needs, Measure::headDrop, checks.units(), 3));
}

}  // namespace

CaseDuties::CaseDuties(const SizingTask& task, CaseId id, bool counts, const Network& network,
                       const Solution& answer, const std::map<Id, double>& branches,
                       const std::map<Id, double>& balanced) {
  const bool solved = answer.summary.usable();
  const std::vector<Delivery> now = deliveriesOf(network, answer);
  taken_m3s_ = taken(now);
  freeTakers_ =
      std::any_of(now.begin(), now.end(), [](const Delivery& d) { return !d.given && d.flow_m3s > 0; });
  if (!counts) return;
  for (const auto& [valve, flow] : branches)
    held_[valve].branch_m3s = flow, held_[valve].balanced = balanced.contains(valve);
  std::string unsaid;
  if (!solved) unsaid = "the case has no solution with the present sizes";
  else if (standing(network, answer).onPaperOnly)
    unsaid = "the case is physically impossible with the present sizes";
  readTakers(task, id, network, answer, now, unsaid);
  if (unsaid.empty()) readPumps(network, answer);
}

// What every taker must have, and which supplies keep their part. `unsaid`: why nothing is said by the
// present sizes.
void CaseDuties::readTakers(const SizingTask& task, CaseId id, const Network& network, const Solution& answer,
                            std::span<const Delivery> now, const std::string& unsaid) {
  std::string assumed;
  const bool solved = answer.summary.usable();
  const std::vector<char> fed = solved ? fedByAssumed(network, answer, assumed) : std::vector<char>();
  const auto isFedSo = [&](Id taker, const Element& e) {
    if (assumed.empty()) return false;
    return e.part->ends == Ends::self
               ? fed[taker] != 0
               : std::any_of(e.ends.begin(), e.ends.end(), [&](Id end) { return fed[end] != 0; });
  };
  const auto put = [&](Id taker, const Element& e, double taken_m3s, bool given) {
    Duty duty{.id = id, .taker = taker, .now_m3s = taken_m3s};
    const Limit own = ownLimit(e.values, leastOf(*e.part), answer.setting.medium);
    const auto asked = std::find_if(task.options.deliveries.begin(), task.options.deliveries.end(),
                                    [&](const DeliveryAsked& a) { return a.taker == taker; });
    const bool said = asked != task.options.deliveries.end();
    if (own) {
      duty.by = Duty::By::own, duty.least_m3s = *own.si;
    } else if (given) {
      duty.by = Duty::By::given, duty.least_m3s = taken_m3s;
    } else if (said && !asked->share) {
      duty.by = Duty::By::dropped;
    } else if (!unsaid.empty() || isFedSo(taker, e)) {
      duty.by = Duty::By::unknown;
      duty.why =
          !unsaid.empty() ? unsaid : fmt::format("it is fed through {}, whose size is assumed", assumed);
    } else {
      duty.by = said ? Duty::By::loosened : Duty::By::drawn;
      duty.least_m3s = taken_m3s * (1 - (said ? *asked->share : task.options.tolerance));
      held_[taker].least_m3s = duty.least_m3s;
    }
    all_.push_back(std::move(duty));
  };
  if (!solved)
    network.each([&](Id taker, const Element& e) {
      if (e.part->group == Group::drawOff && !isShutByGivens(e.values)) put(taker, e, 0.0, false);
    });
  for (const Delivery& d : now) {
    const Element& e = network.at(d.taker);
    if (d.flow_m3s > nothing * taken_m3s_) put(d.taker, e, d.flow_m3s, d.given);
    if (e.part->group == Group::supply && !d.given && unsaid.empty() &&
        std::abs(d.flow_m3s) > roleShare * taken_m3s_)
      held_[d.taker].role = d.flow_m3s > 0 ? -1 : 1;
  }
}

// What pumps keep to.
void CaseDuties::readPumps(const Network& network, const Solution& answer) {
  network.each([&](Id id, const Element& e) {
    if (!e.part->lifts) return;
    const ReadingOf r(network, answer, id);
    if (!pump::running(*r)) return;
    if (const auto share = pump::ofBest(*r); share && !pump::shutIn(*r)) {
      const pump::Region region = pump::regionOf(*r->values, answer.setting);
      if (*share >= region.least && *share <= region.most) held_[id].region = true;
    }
    const Medium& medium = answer.setting.medium;
    if (e.values.released(pump::speed.text) && !ownLimit(*r->values, LimitId::speedMost, medium))
      if (const auto rated = get(*r->values, pump::ratedSpeed, medium)) held_[id].fastest_perS = rated->si();
  });
}

void CaseDuties::check(Id id, const Element& e, const Reading& r, Checks& checks) const {
  const auto found = held_.find(id);
  if (found == held_.end()) return;
  const Held& held = found->second;
  const double flow = held.least_m3s || held.role != 0 ? takenBy(e, r).value_or(0.0) : 0.0;
  if (held.least_m3s) {
    Check& c = checks.hold(CheckId::delivery, flow, {*held.least_m3s, LimitFrom::law}, {});
    if (checks.told(c))
      c.what = fmt::format("{} would get {}, {} required", e.name,
                           withUnit(std::max(0.0, flow), Measure::volumeFlow, checks.units(), 3),
                           withUnit(*c.least, Measure::volumeFlow, checks.units(), 3));
  }
  if (held.role > 0 || (held.role < 0 && !held.least_m3s)) {
    Check& c = checks.hold(CheckId::role, held.role > 0 ? -flow : flow, {0.0, LimitFrom::law}, {});
    if (checks.told(c))
      c.what = fmt::format("{} would {} the network where it {} now", e.name,
                           held.role > 0 ? "take from" : "supply", held.role > 0 ? "supplies" : "takes");
  }
  if (held.region)
    if (const auto share = pump::ofBest(r); share && !pump::shutIn(r)) checkRegion(e, r, *share, checks);
  if (held.fastest_perS)
    if (const auto n = pump::runningSpeed(r)) {
      Check& c = checks.hold(CheckId::ratedSpeed, *n, {}, {*held.fastest_perS * (1 + 1e-9), LimitFrom::own});
      if (checks.told(c))
        c.what = fmt::format("{} would run at {}, above its rated {}", e.name,
                             withUnit(*n, Measure::rotation, checks.units()),
                             withUnit(*held.fastest_perS, Measure::rotation, checks.units()));
    }
  if (held.branch_m3s && !r.branches.empty()) checkBranch(e, r, *held.branch_m3s, held.balanced, checks);
}

}  // namespace conduit

#include "pump/supply_curve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "network/setting.h"
#include "parts/fixed_pressure.h"
#include "parts/registry.h"
#include "pump/system_curve.h"
#include "quantity/parse.h"

namespace conduit {
namespace {

Given exactly(double si, Measure measure) {
  static constexpr auto text = [](double v, const char* unit) { return fmt::format("{:.15g} {}", v, unit); };
  return *parse(measure == Measure::volumeFlow      ? text(si * 1000, "L/s")
                : measure == Measure::gaugePressure ? text(si, "Pa")
                                                    : text(si, "m"),
                measure);
}

Id pointOf(const Network& network, Id supply) {
  const Element& e = network.at(supply);
  return e.part->ends == Ends::self ? supply : e.ends.empty() ? noId : e.ends[0];
}
double heightOf(const Network& network, Id point) {
  const Given* z = network.at(point).given(key::height);
  return z ? z->value : 0.0;
}

// A supply that gives a flow, whatever head that takes.
void giveFlow(Draft& draft, Id supply, double flow) {
  const Element& e = draft.network().at(supply);
  const Given given = exactly(flow, Measure::volumeFlow);
  Values& v = draft.values(supply);
  if (e.part->ends == Ends::many) v.release(key::level), v.set(key::flowOut, given);
  else if (e.part->ends == Ends::self) v.set(key::inflow, given);
  else v.release(key::pressure), v.set(key::flowIn, given);
}
// A supply that holds an energy head.
void holdHead(Draft& draft, Id supply, double head, const Medium& medium) {
  const Element& e = draft.network().at(supply);
  const Id point = pointOf(draft.network(), supply);
  Values& v = draft.values(supply);
  if (e.part->ends == Ends::many) {
    const Given* over = v.get<Given>(key::surfacePressure);
    v.clear(key::flowOut);
    v.set(key::level,
          exactly(head - (over ? medium.columnOf(resolve(*over, Measure::gaugePressure, medium)) : 0.0),
                  Measure::height));
  } else if (e.part->holdsHead) {
    v.clear(key::flowIn);
    v.set(key::pressure,
          exactly(medium.pressureOf(head - heightOf(draft.network(), point)), Measure::gaugePressure));
  }
}

struct Drawn {
  std::vector<std::pair<Id, double>> outflows;
  double sum = 0.0;
};
Drawn drawnOf(const Network& network, const Medium& medium) {
  Drawn drawn;
  network.each([&](Id id, const Element& e) {
    const Given* out = e.part->ends == Ends::self ? e.given(key::outflow) : nullptr;
    if (!out || e.values.released(key::outflow)) return;
    drawn.outflows.push_back({id, resolve(*out, Measure::volumeFlow, medium)});
    drawn.sum += drawn.outflows.back().second;
  });
  return drawn;
}
void scale(Draft& draft, const Drawn& drawn, double factor) {
  for (const auto& [id, out] : drawn.outflows)
    draft.values(id).set(key::outflow, exactly(out * factor, Measure::volumeFlow));
}

// The least pressure head to spare over all points but those at the supplies, and where.
struct Spare {
  double head_m = std::numeric_limits<double>::infinity();
  Id point = noId;
};
Spare spareOf(const Network& network, const Solution& answer, const SharedSupply& shared) {
  Spare least;
  const double wanted = answer.setting.medium.columnOf(shared.least_pa);
  network.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::self || id == shared.supply) return;
    for (const Id at : network.elementsAt(id))
      if (at == shared.supply || (at == shared.other && shared.other != noId)) return;
    const auto head = answer.head(id);
    const Given* z = e.given(key::height);
    if (!head || !z) return;
    const double spare = *head - z->value - wanted;
    if (spare < least.head_m) least = {spare, id};
  });
  return least;
}

std::optional<Problem> faultOf(const Network& network, const SharedSupply& s, const Drawn& drawn) {
  const auto fault = [&](Id id, std::string what) {
    return Problem{{id == noId ? "" : network.at(id).name, ""}, std::move(what), {}};
  };
  const Element* supply = network.find(s.supply);
  if (!supply || (!supply->part->holdsHead && supply->part->ends != Ends::self))
    return fault(noId, "the supply is a tank, a fixed pressure or a point");
  if (pointOf(network, s.supply) == noId) return fault(s.supply, "this supply is not connected");
  if (s.other != noId) {
    const Element* other = network.find(s.other);
    if (!other || !other->part->holdsHead)
      return fault(noId, "the other supply is a tank or a fixed pressure");
    if (s.other == s.supply) return fault(s.other, "the other supply must be a different one");
  }
  if (!(s.share > 0) || s.share > 1 || (s.share < 1 && s.other == noId))
    return fault(s.supply, s.share > 0 && s.share < 1
                               ? "a share below 100 % needs another supply for the rest"
                               : "the share must be above 0 and at most 100 %");
  if (!(drawn.sum > 0)) return fault(noId, "no point has an outflow: there are no draw-offs to scale");
  return std::nullopt;
}

// One flow: the head of the one supply that holds any is moved until the least pressure is just kept.
Result<SharedPoint> solveAt(const Network& network, const Stock* stock, const Solution& base,
                            const SharedSupply& s, const Drawn& drawn, double flow, Workspace* space,
                            std::stop_token stop) {
  const double factor = flow / (s.share * drawn.sum);
  Draft draft(network);
  scale(draft, drawn, factor);
  // Where there is no other, this one holds the head and gives what is drawn.
  const Id holder = s.other == noId ? s.supply : s.other;
  if (s.other != noId) giveFlow(draft, s.supply, flow);
  // Without another supply all comes from this one: what else holds a head gives nothing.
  std::vector<Id> further;
  network.each([&](Id id, const Element& e) {
    if (id == s.supply || id == s.other || !e.part->holdsHead || pointOf(network, id) == noId) return;
    if (s.other == noId) giveFlow(draft, id, 0.0);
    else further.push_back(id);
  });
  const bool madeHolder = network.at(holder).part->ends == Ends::self;
  Id holding = holder;
  if (madeHolder) holding = draft.add(fixedpressure::part, "", {holder});
  const Network prepared = std::move(draft).finish();
  const auto setting = settingOf(network, stock);
  if (!setting) return tl::unexpected(setting.error());
  const Medium medium = setting->medium;
  Solution answer;
  const auto spareAt = [&](double level) -> tl::expected<Spare, Problem> {
    Draft d(prepared);
    holdHead(d, holding, level, medium);
    const Network n = std::move(d).finish();
    SolveOptions options;
    options.offers = 0;
    options.stop = stop;
    options.workspace = space;
    if (answer.summary.usable()) options.startFrom = &answer;
    else if (base.summary.usable() && base.branchBegin.size() == n.bound() + 1) options.startFrom = &base;
    Solution next = solve(n, stock, options);
    if (!next.summary.usable())
      return tl::unexpected(next.summary.problems.empty() ? Problem{{}, "no solution found", {}}
                                                          : next.summary.problems.front());
    answer = std::move(next);
    const Spare spare = spareOf(n, answer, s);
    if (spare.point == noId)
      return tl::unexpected(Problem{{}, "no point has a height, so no minimum pressure can be met", {}});
    return spare;
  };
  // Every head in the open network moves with the level; behind an acting valve none does. From where it
  // stands up or down by what is to spare, then between the two nearest.
  double level = base.summary.usable() ? base.head(pointOf(network, holder)).value_or(100.0) : 100.0;
  auto spare = spareAt(level);
  if (!spare) return tl::unexpected(spare.error());
  std::optional<std::pair<double, double>> low, high;  // level, spare: too little, enough
  std::optional<std::pair<double, double>> last;
  const double close = 2e-8;
  for (int k = 0; k < 80 && std::abs(spare->head_m) > close; ++k) {
    (spare->head_m < 0 ? low : high) = {level, spare->head_m};
    double next = level - spare->head_m;
    if (low && high) {
      const double slope = (high->second - low->second) / (high->first - low->first);
      next = slope > 0 ? low->first - low->second / slope : (low->first + high->first) / 2;
      // A kink between them makes the straight line crawl: halve every third time.
      if (k % 3 == 2) next = (low->first + high->first) / 2;
      if (std::abs(high->first - low->first) < 1e-11 * std::max(1.0, std::abs(level))) break;
    } else if (last && std::abs(last->second - spare->head_m) < 1e-9 && spare->head_m < 0) {
      const std::string where = prepared.at(spare->point).name;
      return tl::unexpected(
          Problem{{where, ""},
                  fmt::format("no head meets the pressure at {}: it does not rise with the level of {}",
                              where, network.at(holder).name),
                  {}});
    } else if (last && std::abs(spare->head_m) > 0.5 * std::abs(last->second)) {
      next = level - spare->head_m * 4;  // it moves less than the level: stride
    }
    if (std::abs(next) > 1e5)
      return tl::unexpected(Problem{
          {prepared.at(spare->point).name, ""},
          fmt::format("no head below 100 km meets the pressure at {}", prepared.at(spare->point).name),
          {}});
    last = {level, spare->head_m};
    level = next;
    spare = spareAt(level);
    if (!spare) return tl::unexpected(spare.error());
  }
  const auto here = answer.head(pointOf(network, s.supply));
  if (!here) return tl::unexpected(Problem{{}, "the head at the supply is not determined", {}});
  SharedPoint p;
  p.flow_m3s = flow, p.factor = factor;
  for (const SupplyShare& share : answer.summary.shares) {
    if (share.element == s.other) p.other_m3s = share.inflow_m3s;
    if (std::find(further.begin(), further.end(), share.element) != further.end())
      p.besides.emplace_back(share.element, share.inflow_m3s);
  }
  p.level_m = *here;
  if (s.other == noId) p.level_m = level;
  else if (network.at(s.supply).part->ends == Ends::many) {
    const BranchReading b = answer.branch(s.supply, 0);  // its surface stands over the loss of its connection
    if (b.headFrom_m && b.headTo_m)
      p.level_m =
          std::abs(*b.headFrom_m - *here) < std::abs(*b.headTo_m - *here) ? *b.headTo_m : *b.headFrom_m;
  }
  p.head_m = p.level_m - heightOf(network, pointOf(network, s.supply));
  p.otherLevel_m = s.other == noId ? 0.0 : level;
  p.governs = spare->point;
  p.states = statesOf(answer);
  return p;
}

}  // namespace

Result<SharedPoint> sharedAtFlow(const Network& network, const Stock* stock, const Solution& base,
                                 const SharedSupply& shared, double flow, Workspace* space) {
  const Drawn drawn = drawnOf(network, mediumOf(network, stock));
  if (const auto fault = faultOf(network, shared, drawn)) return tl::unexpected(*fault);
  return solveAt(network, stock, base, shared, drawn, flow, space, {});
}

Result<SharedCurve> sharedCurve(const Network& network, const Stock* stock, const Solution& base,
                                const SharedSupply& shared, const SharedOptions& options) {
  const Drawn drawn = drawnOf(network, mediumOf(network, stock));
  if (const auto fault = faultOf(network, shared, drawn)) return tl::unexpected(*fault);
  SharedCurve curve;
  curve.drawn_m3s = drawn.sum;
  const double most = options.most_m3s > 0 ? options.most_m3s : 2 * shared.share * drawn.sum;
  std::vector<Workspace> spaces(lanes(options.jobs));
  const auto probe = [&](double flow, std::size_t lane) {
    const auto at = solveAt(network, stock, base, shared, drawn, flow, &spaces[lane], options.jobs.stop);
    ProbedPoint p;
    if (!at) {
      p.why = at.error().what;
      return p;
    }
    p.head_m = at->head_m, p.governs = at->governs, p.states = at->states;
    // Another point that governs makes a kink too.
    for (int byte = 0; byte < 4; ++byte)
      p.states.push_back(static_cast<std::uint8_t>(at->governs >> (8 * byte)));
    return p;
  };
  static_cast<TracedCurve&>(curve) =
      trace(probe, {.least_m3s = 1e-3 * most, .most_m3s = most, .jobs = options.jobs});
  for (CurveBreak& b : curve.breaks) {
    const auto governs = [](const std::vector<std::uint8_t>& states) {
      Id id = 0;
      for (std::size_t i = 0; i < 4; ++i) id |= static_cast<Id>(states[states.size() - 4 + i]) << (8 * i);
      return id;
    };
    const Id was = governs(b.statesBefore), is = governs(b.statesAfter);
    if (was != is) b.what = fmt::format("{} governs, then {}", network.at(was).name, network.at(is).name);
    else if (base.summary.usable() && base.branches.size() + 4 == b.statesBefore.size())
      b.what = changeSaid(network, base, b.statesBefore, b.statesAfter);
  }
  return curve;
}

Result<SharedPoint> sharedAtHead(const Network& network, const Stock* stock, const Solution& base,
                                 const SharedSupply& shared, const SharedCurve& curve, double head) {
  const Drawn drawn = drawnOf(network, mediumOf(network, stock));
  if (const auto fault = faultOf(network, shared, drawn)) return tl::unexpected(*fault);
  Workspace space;
  for (std::size_t i = 0; i + 1 < curve.points.size(); ++i) {
    DutyPoint a = curve.points[i], b = curve.points[i + 1];
    if (!std::isfinite(a.head_m) || !std::isfinite(b.head_m) || (a.head_m - head) * (b.head_m - head) > 0)
      continue;
    double fa = a.head_m - head, fb = b.head_m - head;
    Result<SharedPoint> p = solveAt(network, stock, base, shared, drawn, b.flow_m3s, &space, {});
    for (int k = 0; k < 60 && p && std::abs(b.flow_m3s - a.flow_m3s) > 1e-11 * b.flow_m3s; ++k) {
      const double q =
          fb == fa ? (a.flow_m3s + b.flow_m3s) / 2 : b.flow_m3s - fb * (b.flow_m3s - a.flow_m3s) / (fb - fa);
      p = solveAt(network, stock, base, shared, drawn, q, &space, {});
      if (!p) break;
      const double f = p->head_m - head;
      if (std::abs(f) < 1e-7) break;
      if (f * fb < 0) a = b, fa = fb;
      else fa /= 2;
      b = {q, p->head_m}, fb = f;
    }
    return p;
  }
  return tl::unexpected(
      Problem{{network.at(shared.supply).name, ""}, "the system curve does not reach this head", {}});
}

Network withShared(const Network& network, const Stock* stock, const SharedSupply& s, const SharedPoint& p) {
  Draft draft(network);
  const Medium medium = mediumOf(network, stock);
  scale(draft, drawnOf(network, medium), p.factor);
  if (network.at(s.supply).part->ends == Ends::self) {
    draft.values(s.supply).set(key::inflow, exactly(p.flow_m3s, Measure::volumeFlow));
  } else {
    holdHead(draft, s.supply, p.level_m, medium);
  }
  if (s.other != noId) holdHead(draft, s.other, p.otherLevel_m, medium);
  return std::move(draft).finish();
}

}  // namespace conduit

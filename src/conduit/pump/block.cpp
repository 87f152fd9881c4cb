#include "pump/block.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>
#include <map>
#include <set>

#include "fields/keys.h"
#include "network/onward.h"
#include "parts/fixed_pressure.h"
#include "parts/pump/fields.h"
#include "parts/pump/machine.h"
#include "parts/registry.h"
#include "pump/system_curve.h"
#include "quantity/parse.h"
#include "solve/solve.h"

namespace conduit {
namespace {

// Loses by its own flow alone, and needs nothing from elsewhere.
bool standsByItself(const Element& e) {
  constexpr std::array<std::string_view, 9> kinds{"pipe",     "check valve", "isolating valve",
                                                  "meter",    "exchanger",   "orifice plate",
                                                  "strainer", "own loss",    "control valve"};
  if (std::find(kinds.begin(), kinds.end(), e.part->key) == kinds.end()) return false;
  const auto& entries = e.values.entries();
  return std::none_of(entries.begin(), entries.end(), [](const auto& v) { return v.released; }) &&
         e.values.goals().empty();
}

// Several ends become one where pieces of header lead from one to another; a tank that each leads to alone.
Id oneEnd(const Network& n, std::set<Id> ends, std::set<Id>& elements, bool tankToo) {
  const auto outside = [&](Id point) {
    std::vector<Id> ids = waterAt(n, point);
    std::erase_if(ids, [&](Id id) { return elements.contains(id); });
    return ids;
  };
  const auto draws = [&](Id point) {
    const Values& v = n.at(point).values;
    return v.entry(key::outflow) || v.entry(key::inflow);
  };
  for (bool more = true; more && ends.size() > 1;) {
    more = false;
    for (const Id end : ends) {
      for (const Id first : outside(end)) {
        if (n.at(first).part->ends != Ends::two) continue;
        Id point = otherEnd(n.at(first), end);
        std::vector<Id> piece{first};
        if (n.at(first).part->lifts) continue;
        if (!ends.contains(point)) {
          const Lateral on = lateralFrom(n, first, point);
          piece.insert(piece.end(), on.elements.begin(), on.elements.end()), point = on.end;
        }
        if (!ends.contains(point) || point == end) continue;
        elements.insert(piece.begin(), piece.end()), more = true;
      }
      if (more) break;
    }
    // Those that only lie within are no ends any more.
    for (auto end = ends.begin(); end != ends.end() && ends.size() > 1;)
      end = outside(*end).empty() && !draws(*end) ? ends.erase(end) : std::next(end);
  }
  if (ends.size() == 1) return *ends.begin();
  if (!tankToo) return noId;
  Id tank = noId;
  for (const Id end : ends) {
    const auto there = outside(end);
    if (there.size() != 1 || n.at(there[0]).part->ends != Ends::many || draws(end) ||
        (tank != noId && tank != there[0]))
      return noId;
    tank = there[0];
  }
  return n.at(tank).given(key::level) ? tank : noId;
}

// The block alone: `part` holds its head, the rest of the network is gone.
struct CutOut {
  Network network;
  std::vector<double> last_m3s;  // of each pump, all its units
};
std::optional<CutOut> cutOut(const Network& n, const Solution& solution, const PumpBlock& block) {
  CutOut cut;
  std::set<Id> points;
  for (const Id id : block.elements) points.insert(n.at(id).ends.begin(), n.at(id).ends.end());
  const bool tank = n.at(block.part).part->ends == Ends::many;
  Draft draft(n);
  std::vector<Id> gone;
  n.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::free || id == block.part || points.contains(id)) return;
    if (e.part->ends != Ends::self && !std::binary_search(block.elements.begin(), block.elements.end(), id))
      gone.push_back(id);
  });
  for (const Id id : gone) draft.remove(id);
  if (tank)
    for (std::size_t i = draft.network().at(block.part).ends.size(); i-- > 0;)
      if (!points.contains(draft.network().at(block.part).ends[i])) draft.removeEnd(block.part, i);
  gone.clear();
  n.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self && !points.contains(id)) gone.push_back(id);
  });
  for (const Id id : gone) draft.remove(id);
  const Medium& medium = solution.setting.medium;
  if (!tank) {
    const Given* z = n.at(block.part).given(key::height);
    const auto head = solution.head(block.part);
    const Id held = draft.add(fixedpressure::part, "", {block.part});
    const double above = head && z ? *head - resolve(*z, Measure::height, medium) : 0.0;
    draft.values(held).set(
        key::pressure, *parse(fmt::format("{:.15g} Pa", medium.pressureOf(above)), Measure::gaugePressure));
  }
  for (const Id id : block.pumps) {
    const ReadingOf r(n, solution, id);
    if (!n.at(id).part->lifts || !pump::hasCurve(*r->values)) return std::nullopt;
    const double s = pump::ratioNow(*r);
    const auto rows = pump::rowsOf(*r->values, *r->setting, s);
    if (rows.size() < 2) return std::nullopt;
    cut.last_m3s.push_back(pump::running(*r) ? pump::HeadCurve(rows, s).last() : 0.0);
    // What was found of it stands as it was found.
    for (const FoundField& f : solution.found)
      if (f.element == id) draft.values(id).set(f.field, Given{f.value, Basis::direct, ""});
    const std::vector<Values::Goal> goals = n.at(id).values.goals();
    for (const Values::Goal& g : goals) draft.values(id).ungive(g.outcome);
    if (!pump::keepsSomething(*r->values)) continue;
    // One that is controlled stays at the speed it has.
    Values& v = draft.values(id);
    const auto rated = get(*r->values, pump::ratedSpeed, medium);
    const double perSecond = rated ? rated->si() : 1000.0 / 60;
    v.clear(pump::keepsKey);
    v.set(pump::ratedSpeed.text, *parse(fmt::format("{:.15g} rpm", perSecond * 60), Measure::rotation));
    v.set(pump::speed.text, *parse(fmt::format("{:.15g} rpm", perSecond * 60 * s), Measure::rotation));
  }
  cut.network = std::move(draft).finish();
  return cut;
}

}  // namespace

std::optional<PumpBlock> blockOf(const Network& n, const Solution& solution, const std::vector<Id>& pumps) {
  if (pumps.size() < 2 || !solution.summary.usable()) return std::nullopt;
  std::set<Id> elements(pumps.begin(), pumps.end()), ups, downs;
  for (const Id pump : pumps) {
    const Lateral up = lateralFrom(n, pump, n.at(pump).ends[0]),
                  down = lateralFrom(n, pump, n.at(pump).ends[1]);
    elements.insert(up.elements.begin(), up.elements.end());
    elements.insert(down.elements.begin(), down.elements.end());
    ups.insert(up.end), downs.insert(down.end);
  }
  PumpBlock block{.pumps = pumps};
  block.part = oneEnd(n, std::move(ups), elements, true);
  block.join = oneEnd(n, std::move(downs), elements, false);
  if (block.part == noId || block.join == noId || block.part == block.join) return std::nullopt;
  block.elements.assign(elements.begin(), elements.end());
  std::set<Id> points;
  for (const Id id : block.elements) {
    const Element& e = n.at(id);
    const bool member = std::find(pumps.begin(), pumps.end(), id) != pumps.end();
    if (!member && !standsByItself(e)) return std::nullopt;
    points.insert(e.ends.begin(), e.ends.end());
  }
  for (const Id point : points) {
    const Values& v = n.at(point).values;
    const bool within = point != block.part && point != block.join;
    if (v.find(key::teeBranch) || (within && (v.entry(key::outflow) || v.entry(key::inflow))))
      return std::nullopt;
    // Nothing but the block meets within it.
    if (!within) continue;
    for (const Id id : waterAt(n, point))
      if (!elements.contains(id) && id != block.part) return std::nullopt;
  }
  return block;
}

std::optional<double> headOver(const Network& n, const Solution& solution, const PumpBlock& block) {
  const auto to = solution.head(block.join);
  std::optional<double> from;
  if (n.at(block.part).part->ends == Ends::many) {
    const std::uint32_t at = block.part < solution.vesselBegin.size()
                                 ? solution.vesselBegin[block.part]
                                 : static_cast<std::uint32_t>(solution.vesselHead_m.size());
    if (at < solution.vesselHead_m.size()) from = solution.vesselHead_m[at];
  } else {
    from = solution.head(block.part);
  }
  return from && to ? std::optional(*to - *from) : std::nullopt;
}

TracedCurve blockCurve(const Network& n, const Stock* stock, const Solution& solution, const PumpBlock& block,
                       const JobOptions& jobs) {
  const auto cut = cutOut(n, solution, block);
  if (!cut) return {};
  double most = 0.0;
  for (const double last : cut->last_m3s) most += last;
  if (!(most > 0)) return {};
  std::vector<Workspace> spaces(lanes(jobs));
  const auto at = [&](double flow, std::size_t lane) {
    Draft draft(cut->network);
    Values& v = draft.values(block.join);
    v.clear(key::inflow);
    v.set(key::outflow, *parse(fmt::format("{:.15g} m3/s", flow), Measure::volumeFlow));
    const Network there = std::move(draft).finish();
    SolveOptions options;
    options.stop = jobs.stop, options.offers = 0, options.workspace = &spaces[lane];
    const Solution answer = solve(there, stock, options);
    ProbedPoint p;
    if (answer.summary.usable()) p.head_m = headOver(there, answer, block);
    if (!p.head_m) {
      p.why = answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what;
      return std::pair(p, Solution(answer));
    }
    p.states = statesOf(answer);
    for (std::size_t i = 0; i < block.pumps.size(); ++i)
      if (cut->last_m3s[i] > 0)
        p.carried =
            std::max(p.carried, answer.branch(block.pumps[i], 0).flow_m3s.value_or(0.0) / cut->last_m3s[i]);
    return std::pair(p, Solution(answer));
  };
  // To where the first of them is at the end of its curve.
  double low = 0.0, high = most;
  for (int k = 0; k < 40 && !jobs.stop.stop_requested(); ++k) {
    const double middle = k == 0 ? most : (low + high) / 2;
    const ProbedPoint p = at(middle, 0).first;
    if (p.head_m && p.carried <= 1 + 1e-9) {
      low = middle;
      if (k == 0) break;
    } else {
      high = middle;
    }
  }
  if (!(low > 0)) return {};
  const double least = 1e-6 * low;
  TracedCurve curve =
      trace([&](double flow, std::size_t lane) { return at(flow, lane).first; },
            {.least_m3s = least, .most_m3s = low, .solves = 400, .within = 2e-4, .jobs = jobs});
  if (curve.empty()) return curve;
  if (!curve.breaks.empty()) {
    const Solution like = at(least, 0).second;
    for (CurveBreak& b : curve.breaks) b.what = changeSaid(n, like, b.statesBefore, b.statesAfter);
  }
  if (curve.points[0].flow_m3s == least) curve.points[0].flow_m3s = 0.0;
  return curve;
}

}  // namespace conduit

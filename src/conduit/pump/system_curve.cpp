#include "pump/system_curve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "network/setting.h"
#include "parts/fixed_pressure.h"
#include "parts/point.h"
#include "parts/pump/fields.h"
#include "parts/pump/machine.h"
#include "parts/pump/pump.h"
#include "parts/registry.h"
#include "pump/way.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit {
namespace {

std::optional<double> headOfGroup(const Network& network, const Solution& answer, const PumpGroup& group) {
  if (group.block) return headOver(network, answer, *group.block);
  double head = 0.0;
  for (std::size_t i = 0; i < group.members.size(); ++i) {
    const BranchReading b = answer.branch(group.members[i], 0);
    if (!b.headFrom_m || !b.headTo_m) return std::nullopt;
    head += group.weightOf(i) * (*b.headTo_m - *b.headFrom_m);
  }
  return head;
}

// Of pumps one after another the first is made to pass the flow and give all the head; what is between them
// then has one too. The others let it through.
struct Passed {
  Network network;
  PumpGroup group;
};
Passed passedThrough(const Network& network, const Stock* stock, const PumpGroup& group) {
  // One that has no curve yet is still made to pass a flow: what is asked of it is what it is chosen by.
  Draft draft(network);
  bool drafted = false;
  for (const Id id : group.members) {
    const Element& e = network.at(id);
    Values scratch;
    const Values& v = valuesOf(e, stock, scratch);
    if (!e.part->lifts || pump::curveFound(v)) continue;
    const auto setting = settingOf(network, stock);
    if (!setting || e.part->prepare(v, *setting, {}).missing.empty()) continue;
    draft.values(id).set(pump::wayKey, std::string(pump::ways[2]));
    draft.values(id).set(pump::dutyFlow.text, *parse("0 L/s", Measure::volumeFlow));
    drafted = true;
  }
  if (!group.series || group.members.size() < 2)
    return {drafted ? std::move(draft).finish() : network, group};
  for (std::size_t i = 1; i < group.members.size(); ++i) {
    Values& v = draft.values(group.members[i]);
    v.set(key::running, true);
    v.set(pump::wayKey, std::string(pump::ways[3]));
    v.set(pump::dutyHead.text, *parse("0 m", Measure::headDrop));
  }
  return {std::move(draft).finish(), PumpGroup{.members = {group.members.front()}}};
}

// The group made to pass a flow.
Solution passing(const Network& network, const Stock* stock, const Solution& base, const PumpGroup& group,
                 double flow, Workspace* space, std::stop_token stop = {}) {
  SolveOptions options;
  options.stop = stop;
  options.offers = 0;
  options.workspace = space;
  for (std::size_t i = 0; i < group.members.size(); ++i)
    options.passes[group.members[i]] = flow * group.shareOf(i);
  if (base.summary.usable()) options.startFrom = &base;
  return solve(network, stock, options);
}

std::string holderSaid(const Network& network, const Way& way, const UnitSet& units) {
  const std::string head = withUnit(way.endHead_m, Measure::height, units);
  if (way.holder != noId) return fmt::format("{} at {}", network.at(way.holder).name, head);
  const Id last = way.steps.empty() ? way.from : way.steps.back().point;
  return fmt::format("{} at {}", network.at(last).name, head);
}

}  // namespace

std::vector<std::uint8_t> statesOf(const Solution& solution) {
  std::vector<std::uint8_t> states;
  states.reserve(solution.branches.size());
  for (const Solution::BranchValue& b : solution.branches)
    states.push_back(static_cast<std::uint8_t>(b.state));
  return states;
}

std::string changeSaid(const Network& network, const Solution& like, const std::vector<std::uint8_t>& before,
                       const std::vector<std::uint8_t>& after) {
  static constexpr std::string_view words[] = {"open", "shut", "acting"};
  std::string said;
  int more = 0, said_ = 0;
  network.each([&](Id id, const Element& e) {
    for (std::uint32_t b = like.branchBegin[id]; b < like.branchBegin[id + 1]; ++b) {
      if (b >= before.size() || b >= after.size() || before[b] == after[b]) continue;
      if (++said_ > 3) ++more;
      else
        said += fmt::format("{}{} {}, then {}", said.empty() ? "" : "; ", e.name, words[before[b]],
                            words[after[b]]);
      break;
    }
  });
  return more ? said + fmt::format(" and {} more", more) : said;
}

Result<PumpGroup> groupOf(const Network& network, const Solution& solution, std::vector<Id> pumps) {
  PumpGroup group{.members = std::move(pumps)};
  for (const Id id : group.members)
    if (!network.find(id) || network.at(id).part->ends != Ends::two)
      return tl::unexpected(Problem{{}, "only two-ended elements can be in a pump group", {}});
  for (std::size_t i = 0; i < group.members.size(); ++i)
    if (std::count(group.members.begin(), group.members.end(), group.members[i]) > 1)
      return tl::unexpected(
          problemAt(network, group.members[i], network.at(group.members[i]).name + " is named twice"));
  if (group.members.size() < 2) return group;
  const auto flows = [&](Id id) { return solution.branch(id, 0).flow_m3s.value_or(0.0); };
  const auto follows = [&](Id a, Id b) {
    const Way way = wayDown(network, solution, network.at(a).ends[1]);
    return std::any_of(way.steps.begin(), way.steps.end(), [&](const Step& s) { return s.element == b; });
  };
  std::size_t chained = 0;
  for (const Id a : group.members)
    chained += std::any_of(group.members.begin(), group.members.end(),
                           [&](Id b) { return a != b && (follows(a, b) || follows(b, a)); });
  group.series = chained == group.members.size();
  if (chained && !group.series)
    return tl::unexpected(
        problemAt(network, group.members.front(),
                  "some of these pumps are in series and some are not: select either kind"));
  if (group.series) {
    const double first = flows(group.members.front());
    for (const Id id : group.members)
      if (std::abs(flows(id) - first) > 1e-6 * std::max(std::abs(first), 1e-9))
        return tl::unexpected(
            problemAt(network, id,
                      "these pumps are in series with different flows: a draw-off between them "
                      "needs its own system curve"));
    return group;
  }
  double sum = 0.0;
  for (const Id id : group.members) sum += std::max(0.0, flows(id));
  if (sum > 1e-9)
    for (const Id id : group.members) group.shares.push_back(std::max(0.0, flows(id)) / sum);
  group.block = blockOf(network, solution, group.members);
  return group;
}

Result<StandIn> standIn(const Network& network, Id place, bool drawn) {
  const Element* e = network.find(place);
  if (!e || place == jobId) return tl::unexpected(Problem{{}, "no element there", {}});
  if (e->part->ends == Ends::two) return StandIn{network, place, false};
  const Part &point = point::part, &pump = pump::part, &fixed = fixedpressure::part;
  if (e->part != &point && e->part != &fixed && e->part->ends != Ends::many)
    return tl::unexpected(
        problemAt(network, place, "a notional pump must be at a tank, a fixed pressure or a point"));
  Draft draft(network);
  Id to = place;
  if (e->part == &fixed) to = e->ends[0];
  std::size_t end = 0;
  if (e->part->ends == Ends::many) {
    // Of several connections the lowest: there it gives its liquid away.
    double lowest = std::numeric_limits<double>::infinity();
    const Rows* rows = e->rows(key::connections);
    for (std::size_t i = 0; i < e->ends.size(); ++i) {
      const double z =
          rows && i < rows->size() && !(*rows)[i].empty() && (*rows)[i][0] ? (*rows)[i][0]->value : -1e9;
      if (z < lowest) lowest = z, end = i;
    }
    if (e->ends.empty()) return tl::unexpected(problemAt(network, place, "this tank is not connected"));
    to = e->ends[end];
  }
  const Id suction = draft.addPoint("", network.at(to).at);
  if (const Value* height = network.at(to).value(key::height))
    draft.values(suction).set(key::height, *height);
  if (e->part->ends == Ends::many) {
    // The tank's connection loses by the bore of the line that meets it: a short piece like it keeps that so.
    Id mouth = suction;
    for (const Id id : network.elementsAt(to)) {
      if (!network.at(id).part->line) continue;
      mouth = draft.addPoint("", network.at(to).at);
      if (const Value* height = network.at(to).value(key::height))
        draft.values(mouth).set(key::height, *height);
      const Id piece = draft.add(*network.at(id).part, "", {mouth, suction});
      for (const std::string_view key :
           {key::bore, key::size, key::section, "section width", "section height", "inner pipe",
            key::roughness, key::hazenC, key::manningN})
        if (const Value* v = network.at(id).value(key)) draft.values(piece).set(key, *v);
      draft.values(piece).set(key::length, *parse("0.001 mm", Measure::length));
      break;
    }
    draft.joinEnd(place, end, mouth);
  } else {
    Id surface = place;
    if (e->part == &fixed) draft.joinEnd(place, 0, suction);
    else surface = draft.add(fixed, drawn ? "" : fmt::format("open surface at {}", e->name), {suction});
    Values& values = draft.values(surface);
    values.ungive(key::flowIn);
    values.clear(key::flowIn);
    values.set(key::pressure, *parse("0 bar", Measure::gaugePressure));
  }
  const Id made = draft.add(pump, drawn ? "" : fmt::format("pump at {}", e->name), {suction, to});
  draft.values(made).set(pump::wayKey, std::string(pump::ways[2]));
  draft.values(made).set(pump::dutyFlow.text, *parse("0 L/s", Measure::volumeFlow));
  return StandIn{std::move(draft).finish(), made, true};
}

std::optional<double> liftsTo(const Network& network, const Solution& base, Id pump, double head_m) {
  const auto from = base.head(network.at(pump).ends[0]);
  return from ? std::optional(*from + head_m) : std::nullopt;
}

std::string providesSaid(const Network& network, Id supply, double flow_m3s, const UnitSet& units,
                         int significant) {
  const Element* e = network.find(supply);
  return fmt::format("{} {} {}", e ? e->name : "", flow_m3s < 0 ? "takes" : "provides",
                     withUnit(std::abs(flow_m3s), Measure::volumeFlow, units, significant));
}

Network restFrom(const Network& network, const Solution& solution, Id place, Id other) {
  Draft draft(network);
  network.each([&](Id id, const Element& e) {
    if (id == place || id == other || !e.part->holdsHead) return;
    const bool tank = e.part->ends == Ends::many;
    const ReadingOf r(network, solution, id);
    const std::string_view outcome = tank ? key::flowOut : key::flowIn;
    const auto gives = outcomeOf(*e.part, outcome, *r);
    if (!gives) return;
    Values& v = draft.values(id);
    v.release(tank ? key::level : key::pressure);
    v.set(findField(*e.part, outcome)->key,
          *parse(fmt::format("{:.15g} L/s", *gives * 1000), Measure::volumeFlow));
  });
  return std::move(draft).finish();
}

SystemCurve systemCurve(const Network& drawn, const Stock* stock, const Solution& base,
                        const PumpGroup& members, const CurveOptions& options) {
  SystemCurve curve;
  if (members.members.empty() || !(options.most_m3s > 0)) return curve;
  for (const Id id : members.members)
    if (!drawn.find(id) || drawn.at(id).part->ends != Ends::two) return curve;
  const auto [network, group] = passedThrough(drawn, stock, members);
  std::vector<Workspace> spaces(lanes(options.jobs));
  const auto probe = [&](double flow, std::size_t lane) {
    const Solution answer = passing(network, stock, base, group, flow, &spaces[lane], options.jobs.stop);
    ProbedPoint p;
    if (answer.summary.usable()) p.head_m = headOfGroup(network, answer, group);
    if (p.head_m) {
      p.states = statesOf(answer);
    } else {
      p.why = answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what;
    }
    return p;
  };
  // Not quite from nothing: at rest the heads beyond a check valve may be anybody's. What is lost at a
  // millionth of the greatest flow is no more than a millionth of what is lost at that.
  const double least = 1e-6 * options.most_m3s;
  static_cast<TracedCurve&>(curve) = trace(probe, {.least_m3s = least,
                                                   .most_m3s = options.most_m3s,
                                                   .coarse = options.coarse,
                                                   .solves = options.solves,
                                                   .jobs = options.jobs});
  if (curve.empty()) return curve;
  const Solution start = passing(network, stock, base, group, least, &spaces[0], options.jobs.stop);
  for (CurveBreak& b : curve.breaks) {
    if (start.branchBegin.size() > 1) b.what = changeSaid(network, start, b.statesBefore, b.statesAfter);
  }
  if (start.summary.usable() && std::isfinite(curve.points[0].head_m) && curve.points[0].flow_m3s == least) {
    curve.static_m = curve.points[0].head_m;
    curve.points[0].flow_m3s = 0.0;
    const Id first = members.members.front(), last = members.series ? members.members.back() : first;
    curve.staticSaid = fmt::format(
        "from {} to {}", holderSaid(network, wayUp(network, start, network.at(first).ends[0]), options.units),
        holderSaid(network, wayDown(network, start, network.at(last).ends[1]), options.units));
  }
  return curve;
}

TracedCurve groupCurve(const Network& network, const Stock* stock, const Solution& solution,
                       const PumpGroup& group, const JobOptions& jobs) {
  if (group.block) return blockCurve(network, stock, solution, *group.block, jobs);
  struct Member {
    pump::HeadCurve curve;
    double share, weight;
  };
  std::vector<Member> members;
  double last = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < group.members.size(); ++i) {
    const ReadingOf r(network, solution, group.members[i]);
    if (!network.at(group.members[i]).part->lifts || !pump::hasCurve(*r->values)) return {};
    const double s = pump::ratioNow(*r), share = group.shareOf(i);
    const auto rows = pump::rowsOf(*r->values, *r->setting, s);
    if (rows.size() < 2) return {};
    members.push_back({pump::HeadCurve(rows, s), share, group.weightOf(i)});
    if (share > 0) last = std::min(last, members.back().curve.last() / share);
  }
  if (!std::isfinite(last)) return {};
  TracedCurve curve;
  for (int k = 0; k <= 60; ++k) {
    DutyPoint p{last * k / 60, 0.0};
    for (const Member& m : members) p.head_m += m.weight * m.curve.at(p.flow_m3s * m.share).value;
    curve.points.push_back(p);
  }
  return curve;
}

std::optional<DutyPoint> groupDuty(const Network& network, const Solution& answer, const PumpGroup& group) {
  const auto head = headOfGroup(network, answer, group);
  if (!head) return std::nullopt;
  DutyPoint duty{0.0, *head};
  for (std::size_t i = 0; i < group.members.size(); ++i) {
    const auto flow = answer.branch(group.members[i], 0).flow_m3s;
    if (!flow) return std::nullopt;
    if (!group.series || i == 0) duty.flow_m3s += *flow;
  }
  return duty;
}

std::optional<DutyPoint> readAtFlow(const Network& network, const Stock* stock, const Solution& base,
                                    const PumpGroup& members, double flow) {
  const auto [through, group] = passedThrough(network, stock, members);
  const Solution answer = passing(through, stock, base, group, flow, nullptr);
  const auto head = answer.summary.usable() ? headOfGroup(through, answer, group) : std::nullopt;
  return head ? std::optional(DutyPoint{flow, *head}) : std::nullopt;
}

std::optional<DutyPoint> readAtHead(const Network& drawn, const Stock* stock, const Solution& base,
                                    const PumpGroup& members, const TracedCurve& curve, double head,
                                    double near) {
  const auto [network, group] = passedThrough(drawn, stock, members);
  std::optional<std::pair<DutyPoint, DutyPoint>> bracket;
  for (std::size_t i = 0; i + 1 < curve.points.size(); ++i) {
    const DutyPoint &a = curve.points[i], &b = curve.points[i + 1];
    if (!std::isfinite(a.head_m) || !std::isfinite(b.head_m)) continue;
    if ((a.head_m - head) * (b.head_m - head) > 0) continue;
    const auto off = [&](double q) { return std::abs(q - near); };
    if (!bracket || off(a.flow_m3s) < off(bracket->first.flow_m3s)) bracket = {a, b};
  }
  if (!bracket) return std::nullopt;
  Workspace space;
  double a = bracket->first.flow_m3s, b = bracket->second.flow_m3s, fa = bracket->first.head_m - head,
         fb = bracket->second.head_m - head;
  // Regula falsi with the Illinois change: each step keeps the bracket.
  for (int k = 0; k < 60 && std::abs(b - a) > 1e-12 * std::max(std::abs(b), 1e-9); ++k) {
    const double q = fb == fa ? (a + b) / 2 : b - fb * (b - a) / (fb - fa);
    const Solution answer = passing(network, stock, base, group, q, &space);
    const auto h = answer.summary.usable() ? headOfGroup(network, answer, group) : std::nullopt;
    if (!h) return std::nullopt;
    const double f = *h - head;
    if (std::abs(f) < 1e-9 * std::max(1.0, std::abs(head))) return DutyPoint{q, *h};
    if (f * fb < 0) a = b, fa = fb;
    else fa /= 2;
    b = q, fb = f;
  }
  return DutyPoint{b, head + fb};
}

}  // namespace conduit

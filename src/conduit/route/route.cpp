#include "route/route.h"

#include "fields/keys.h"
#include "route/passage.h"
#include "say/ensure.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace conduit {
namespace {

RouteStep turned(RouteStep s) {
  std::swap(s.from, s.to);
  s.reversed = !s.reversed;
  return s;
}

// From a point with the flow (sign 1) or against it (sign −1), always by the greatest.
Route follow(const Network& network, const Solution& solution, Id point, double sign, std::set<Id>& seen,
             std::set<Id>& used) {
  Route route;
  while (point != noId && seen.insert(point).second) {
    const auto passages = passagesAt(network, solution, point);
    const Passage* best =
        greatestOf(passages, sign, 1e-12, [&](const Passage& p) { return !used.contains(p.step.element); });
    if (!best) break;
    used.insert(best->step.element);
    route.push_back(best->step);
    point = best->step.to;
  }
  return route;
}

Route through(const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  std::set<Id> seen, used;
  Route middle, up, down;
  Id first = id, last = id;
  if (e.part->ends == Ends::two) {
    if (solution.branchCount(id) == 0) return {};
    RouteStep step{id, e.ends[0], e.ends[1], solution.branchCount(id) - 1, false};
    if (solution.branch(id, step.branch).flow_m3s.value_or(0.0) < 0) step = turned(step);
    middle = {step};
    used.insert(id);
    first = step.from, last = step.to;
  } else if (e.part->ends != Ends::self) {
    if (e.ends.empty()) return {};
    first = last = e.ends[0];
  }
  up = follow(network, solution, first, -1.0, seen, used);
  seen.erase(last);
  down = follow(network, solution, last, 1.0, seen, used);
  Route route;
  for (auto it = up.rbegin(); it != up.rend(); ++it) route.push_back(turned(*it));
  route.insert(route.end(), middle.begin(), middle.end());
  route.insert(route.end(), down.begin(), down.end());
  return route;
}

}  // namespace

Route traceRoute(const Network& network, const Solution& solution, Id throughId) {
  if (!solution.summary.usable() || solution.pointHead_m.size() != network.bound()) return {};
  if (throughId != noId && throughId != jobId && network.find(throughId))
    return through(network, solution, throughId);
  Route best;
  double bestLength = -1.0;
  int tried = 0;
  network.each([&](Id id, const Element& e) {
    const bool ends = e.part->ends == Ends::one || e.part->ends == Ends::many || e.value(key::outflow);
    if (!ends || tried > 60) return;
    ++tried;
    Route route = through(network, solution, id);
    double length = static_cast<double>(route.size());
    for (const RouteStep& s : route)
      if (const Element& at = network.at(s.element); at.part->geometry)
        length += at.part->geometry(at.values, solution.setting).length_m.value_or(0.0);
    if (length > bestLength) bestLength = length, best = std::move(route);
  });
  return best;
}

namespace {

// Fewest elements from one point to all others over what joins two points.
struct Reach {
  std::vector<std::pair<Id, Id>> via;  // element and the point before, noId where it is not reached
  std::vector<Id> order;               // points as they were reached, the farthest last
};

Reach reachFrom(const Network& network, Id from, const std::set<Id>& shunned = {}) {
  std::vector<std::vector<std::pair<Id, Id>>> beside(network.bound());  // element, other point
  network.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::two || !e.part->prepare) return;
    beside[e.ends[0]].emplace_back(id, e.ends[1]);
    beside[e.ends[1]].emplace_back(id, e.ends[0]);
  });
  Reach reach{std::vector<std::pair<Id, Id>>(network.bound(), {noId, noId}), {from}};
  reach.via[from] = {jobId, from};
  for (std::size_t i = 0; i < reach.order.size(); ++i)
    for (const auto& [element, next] : beside[reach.order[i]])
      if (reach.via[next].first == noId && !shunned.contains(next))
        reach.via[next] = {element, reach.order[i]}, reach.order.push_back(next);
  return reach;
}

Route wayTo(const Network& network, const Reach& reach, Id from, Id to) {
  Route route;
  if (reach.via[to].first == noId) return route;
  for (Id at = to; at != from; at = reach.via[at].second) {
    const Element& e = network.at(reach.via[at].first);
    route.push_back({reach.via[at].first, reach.via[at].second, at, 0, e.ends[0] != reach.via[at].second});
  }
  std::reverse(route.begin(), route.end());
  return route;
}

}  // namespace

Route routeBetween(const Network& network, Id from, Id to) {
  return wayTo(network, reachFrom(network, from), from, to);
}

Route drawnRoute(const Network& network, Id through) {
  // Whatever joins two points may be passed; a point of one's own is its beginning.
  const Element* by = through == noId || through == jobId ? nullptr : network.find(through);
  Id start = noId, target = noId;
  if (by && by->part->prepare)
    target = by->part->ends == Ends::self ? through : by->ends.empty() ? noId : by->ends[0];
  network.each([&](Id, const Element& e) {
    if (e.part->group != Group::supply || e.ends.empty()) return;
    if (start == noId || (target != noId && e.ends[0] == target)) start = e.ends[0];
  });
  if (start == noId) start = target;
  if (start == noId)
    network.each([&](Id, const Element& e) {
      if (start == noId && e.part->geometry) start = e.ends[0];
    });
  if (start == noId) return {};
  Reach reach = reachFrom(network, start);
  if (target != noId && reach.via[target].first == noId) {  // on a piece without a supply
    start = target;
    reach = reachFrom(network, start);
  }
  if (target == noId || target == start) return wayTo(network, reach, start, reach.order.back());
  if (by && by->part->ends == Ends::two && reach.via[by->ends[1]].first == through) target = by->ends[1];
  Route route = wayTo(network, reach, start, target);
  std::set<Id> passed{start};
  for (const RouteStep& s : route) passed.insert(s.to);
  passed.erase(target);
  const Reach beyond = reachFrom(network, target, passed);
  const Route more = wayTo(network, beyond, target, beyond.order.back());
  route.insert(route.end(), more.begin(), more.end());
  return route;
}

std::vector<Id> elementsAlong(const Route& route) {
  std::vector<Id> ids;
  auto add = [&](Id id) {
    if (id != noId && std::find(ids.begin(), ids.end(), id) == ids.end()) ids.push_back(id);
  };
  for (const RouteStep& s : route) add(s.from), add(s.element), add(s.to);
  return ids;
}

Profile profileOf(const Network& network, const Solution& solution, const Route& route) {
  Profile p;
  const Setting& set = solution.setting;
  double along = 0.0;
  auto heightOf = [&](Id point) -> std::optional<double> {
    if (point == noId) return std::nullopt;
    const Given* z = network.at(point).given(key::height);
    return z ? std::optional(resolve(*z, Measure::height, set.medium)) : std::nullopt;
  };
  std::optional<double> firstSurface, lastSurface;
  for (std::size_t i = 0; i < route.size(); ++i) {
    const RouteStep& s = route[i];
    const Element& e = network.at(s.element);
    const bool solved = s.branch < solution.branchCount(s.element);
    BranchReading b = solved ? solution.branch(s.element, s.branch) : BranchReading{};
    auto in = s.reversed ? b.headTo_m : b.headFrom_m, out = s.reversed ? b.headFrom_m : b.headTo_m;
    const auto zf = heightOf(s.from), zt = heightOf(s.to);
    if (e.part->ends == Ends::many) {
      const ReadingOf reading(network, solution, s.element);
      const double level = outcomeOf(*e.part, key::level, *reading).value_or(0.0);
      p.tanks.push_back({s.element, along, level});
      // A step written out of the tank runs from no point; its heads are then the surface and the point.
      (i == 0 ? firstSurface : lastSurface) = s.from == noId ? in : out;
      const auto z = zf ? zf : zt;
      if (z) {
        p.stations.push_back({along, *z, in, in, {}, s.from, i});
        p.stations.push_back({along, *z, out, out, {}, s.to, i});
      }
      if (in && out) p.sum.pipes_m += *in - *out;
      continue;
    }
    if (!zf && !zt) continue;
    const Geometry g = e.part->geometry ? e.part->geometry(e.values, set) : Geometry{};
    // A pipe without a length takes the drawing's room on the way.
    const double length = g.length_m.value_or(
        e.part->geometry ? std::hypot(network.at(e.ends[0]).at.x - network.at(e.ends[1]).at.x,
                                      network.at(e.ends[0]).at.y - network.at(e.ends[1]).at.y)
                         : 0.0);
    double velocityHead = 0.0;
    if (g.bore_m && b.flow_m3s) {
      const double v = *b.flow_m3s / (pi / 4 * *g.bore_m * *g.bore_m);
      velocityHead = v * v / (2 * set.medium.gravity_ms2);
    }
    auto less = [&](std::optional<double> h) { return h ? std::optional(*h - velocityHead) : std::nullopt; };
    const auto ceiling = g.rating_pa ? std::optional(set.medium.columnOf(*g.rating_pa)) : std::nullopt;
    const double z0 = zf.value_or(zt.value_or(0.0)), z1 = zt.value_or(z0);
    p.stations.push_back(
        {along, z0, in, less(in), ceiling ? std::optional(z0 + *ceiling) : std::nullopt, s.from, i});
    along += length;
    if (s.to != noId)
      p.stations.push_back(
          {along, z1, out, less(out), ceiling ? std::optional(z1 + *ceiling) : std::nullopt, s.to, i});
    if (!firstSurface) firstSurface = in;
    lastSurface = s.to != noId ? out : in;
    if (in && out && s.to != noId) {
      const double lost = *in - *out;
      if (e.part->lifts) p.sum.pumped_m += -lost;
      else if (e.part->group == Group::line) p.sum.pipes_m += lost;
      else if (e.part->group == Group::restrain && b.state == BranchState::acting) p.sum.restrained_m += lost;
      else p.sum.equipment_m += lost;
    }
  }
  for (Station& s : p.stations)
    s.floorDepth_m = set.vapourDepth_m(s.height_m), p.floorDepth_m = std::max(p.floorDepth_m, s.floorDepth_m);
  p.length_m = along;
  if (firstSurface && lastSurface) p.sum.lift_m = *lastSurface - *firstSurface;
  return p;
}

AlongReading readingAt(const Profile& profile, const Medium& medium, double along_m) {
  const auto& st = profile.stations;
  ensure(st.size() > 1, "a profile of one station");
  AlongReading r;
  while (r.station + 2 < st.size() && st[r.station + 1].along_m < along_m) ++r.station;
  const Station &a = st[r.station], &b = st[r.station + 1];
  const double d = b.along_m - a.along_m, t = d > 0 ? std::clamp((along_m - a.along_m) / d, 0.0, 1.0) : 0.0;
  r.height_m = a.height_m + t * (b.height_m - a.height_m);
  if (a.hydraulic_m && b.hydraulic_m) {
    r.grade_m = *a.hydraulic_m + t * (*b.hydraulic_m - *a.hydraulic_m);
    r.pressure_pa = medium.pressureOf(*r.grade_m - r.height_m);
  }
  if (a.ceiling_m) r.allowed_pa = medium.pressureOf(*a.ceiling_m - a.height_m);
  return r;
}

}  // namespace conduit

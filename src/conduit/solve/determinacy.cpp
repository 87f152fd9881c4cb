#include "solve/determinacy.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <map>

#include "fields/keys.h"
#include "quantity/format.h"
#include "solve/greatest_flow.h"
#include "solve/index.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

constexpr double smallestFlow_m3s = 1e-12;

// What is known of a piece of the network.
struct Piece {
  bool holds = false;                      // a level or pressure in it
  double outflow_m3s = 0.0;                // net
  double throughput_m3s = 0.0;             // sum of sizes
  std::vector<Id> points, draws, feeds;    // points; those with given outflow, inflow
  std::vector<const KnownBranch*> bounds;  // closed devices and given flows at its edge
};

std::string list(const Network& network, const std::vector<Id>& ids) {
  std::string words;
  for (std::size_t i = 0; i < ids.size() && i < 4; ++i) words += (i ? ", " : "") + network.at(ids[i]).name;
  if (ids.size() > 4) words += fmt::format(" and {} more", ids.size() - 4);
  return words;
}

std::string_view isOrAre(const std::vector<Id>& ids) { return ids.size() == 1 ? "is" : "are"; }

// The edit that opens a closed device, made from its own flags.
std::optional<Remedy> opening(const Network& network, Id id) {
  const Element& e = network.at(id);
  for (const Field& f : e.part->fields) {
    const std::string key(f.key);
    if (f.opens.empty()) continue;
    if (f.kind != FieldKind::flag)
      return Remedy{fmt::format("{} {} fully", f.opens, e.name), {{e.name, key, "100 %"}}, {e.name, key}};
    if (!flagOf(e.values, f))
      return Remedy{fmt::format("{} {}", f.opens, e.name), {{e.name, key, "yes"}}, {e.name, key}};
  }
  return std::nullopt;
}

// A pump that draws from this point.
std::optional<Id> pumpFrom(const Network& network, Id point) {
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    if (e.part->lifts && e.ends[0] == point) return id;
  }
  return std::nullopt;
}

void spell(const Network& network, const Piece& piece, const UnitSet& units, std::vector<Problem>& problems) {
  Problem p;
  const Id where = !piece.draws.empty()   ? piece.draws.front()
                   : piece.points.empty() ? noId
                                          : piece.points.front();
  if (where != noId) p.place = {network.at(where).name, ""};
  std::vector<Id> shutBy, givenBy;
  for (const KnownBranch* b : piece.bounds) (b->shut ? shutBy : givenBy).push_back(b->of.element);
  auto unique = [](std::vector<Id>& v) {
    std::sort(v.begin(), v.end());
    v.erase(std::unique(v.begin(), v.end()), v.end());
  };
  unique(shutBy), unique(givenBy);
  const bool unbalanced = std::abs(piece.outflow_m3s) > 1e-9 * piece.throughput_m3s + smallestFlow_m3s;
  const std::string where_ = piece.points.size() == 1 ? network.at(piece.points[0]).name
                                                      : fmt::format("the {} points {}", piece.points.size(),
                                                                    list(network, piece.points));
  if (unbalanced && !shutBy.empty()) {
    const auto& concerned = piece.outflow_m3s > 0 ? piece.draws : piece.feeds;
    p.what = concerned.empty()
                 ? fmt::format("{} has no way through: {} {} shut",
                               withUnit(std::abs(piece.outflow_m3s), Measure::volumeFlow, units, 3),
                               list(network, shutBy), isOrAre(shutBy))
                 : fmt::format("{} {} cut off with {} to {}: {} {} shut", list(network, concerned),
                               isOrAre(concerned),
                               withUnit(std::abs(piece.outflow_m3s), Measure::volumeFlow, units, 3),
                               piece.outflow_m3s > 0 ? "draw off" : "feed in", list(network, shutBy),
                               isOrAre(shutBy));
  } else if (unbalanced) {
    p.what = fmt::format(
        "flows do not balance for {}: {} more is {} than {}, and no level or pressure is fixed there", where_,
        withUnit(std::abs(piece.outflow_m3s), Measure::volumeFlow, units, 3),
        piece.outflow_m3s > 0 ? "drawn off" : "fed in", piece.outflow_m3s > 0 ? "fed in" : "drawn off");
  } else {
    p.what = fmt::format("no pressure reference for {}", where_);
    if (!givenBy.empty()) p.what += fmt::format(", beyond {}", list(network, givenBy));
    else if (!shutBy.empty()) p.what += fmt::format(", beyond {}", list(network, shutBy));
  }
  // Of flows alone one says what the others say already, or the contrary: it is found where a pressure is
  // held.
  Id feed = noId;
  for (const Id id : piece.feeds)
    if (network.at(id).given(key::inflow) && (feed == noId || network.at(id).given(key::inflow)->value >
                                                                  network.at(feed).given(key::inflow)->value))
      feed = id;
  if (feed != noId && shutBy.empty() && !piece.draws.empty()) {
    const std::string& name = network.at(feed).name;
    p.what += unbalanced ? fmt::format("; the inflow of {} at {} contradicts the draw-offs",
                                       network.at(feed).given(key::inflow)->typed, name)
                         : fmt::format("; the inflow at {} is redundant with the draw-offs", name);
    p.remedies.push_back({fmt::format("Fix 2 bar g at {} and solve for its inflow", name),
                          {{name, key::inflow, ""}, {name, "+fixed pressure", "2 bar"}},
                          {name, ""}});
  }
  // A closed circuit has its expansion vessel at the suction of its pump.
  if (!unbalanced && shutBy.empty() && feed == noId) {
    for (const Id point : piece.points) {
      const auto pump = pumpFrom(network, point);
      if (!pump) continue;
      p.remedies.push_back({fmt::format("Fix 1.5 bar g at {}, the suction of {}", network.at(point).name,
                                        network.at(*pump).name),
                            {{network.at(point).name, "+fixed pressure", "1.5 bar"}},
                            {network.at(point).name, ""}});
      break;
    }
  }
  for (const Id id : shutBy)
    if (auto remedy = opening(network, id)) p.remedies.push_back(*remedy);
  if (where != noId) {
    const std::string name = network.at(where).name;
    p.remedies.push_back(
        {fmt::format("Fix a pressure at {}", name), {{name, "+fixed pressure", "2 bar"}}, {name, ""}});
  }
  problems.push_back(std::move(p));
}

// What one-way devices let arrive, with the links `without` taken out. Pieces joined both ways are one; all
// that hold a head are one world. Without a network to name things by, only that something is wrong is said.
void oneWay(const Network* named, const System& s, const UnitSet& units, std::vector<Problem>& problems,
            std::span<const std::size_t> without = {}) {
  std::vector<char> gone(s.links.size(), 0);
  for (const std::size_t i : without) gone[i] = 1;
  UnionFind both(u(s.nodeCount()) + 1);
  const int world = s.nodeCount();
  for (int n = s.freeCount; n < s.nodeCount(); ++n) both.join(n, world);
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (const Link& l = s.links[i]; !gone[i] && !l.bars && std::isinf(l.flowMost_m3s))
      both.join(l.from, l.to);
  const int worldRoot = both.find(world);
  std::map<int, double> outflow;  // by piece other than the world
  double scale = 0.0;
  bool any = false;
  for (int n = 0; n < s.freeCount; ++n)
    if (const int root = both.find(n); root != worldRoot) {
      outflow[root] += s.outflow_m3s[u(n)];
      scale += std::abs(s.outflow_m3s[u(n)]);
      any = any || s.outflow_m3s[u(n)] != 0.0;
    }
  if (!any) return;
  std::map<int, int> number;
  for (const auto& [root, flow] : outflow) number[root] = static_cast<int>(number.size());
  const int pieces = static_cast<int>(number.size()), w = pieces, source = pieces + 1, sink = pieces + 2;
  const double tolerance = 1e-12 * scale;
  auto nodeOf = [&](int n) {
    const int root = both.find(n);
    return root == worldRoot ? w : number[root];
  };
  std::vector<const Link*> ways;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (const Link& l = s.links[i]; !gone[i] && both.find(l.from) != both.find(l.to))
      ways.push_back(&l);  // each passes one way only, or only so much
  // The world gives and takes without bound. Draws must be met from it and from the feeds; feeds must find
  // their way to it or to the draws. Asked apart, since world to world would be endless; if both can be met,
  // they can be met together.
  auto ask = [&](bool draws) {
    GreatestFlow f(pieces + 3);
    double sum = 0.0;
    for (const auto& [root, flow] : outflow) {
      if (flow > tolerance) f.arc(number[root], sink, flow);
      if (flow < -tolerance) f.arc(source, number[root], -flow);
      if (draws ? flow > tolerance : flow < -tolerance) sum += std::abs(flow);
    }
    if (draws) f.arc(source, w, 1e300);
    else f.arc(w, sink, 1e300);
    for (const Link* l : ways) {
      f.arc(nodeOf(l->from), nodeOf(l->to), std::min(l->flowMost_m3s, 1e300));
      if (!l->bars) f.arc(nodeOf(l->to), nodeOf(l->from), 1e300);
    }
    const double got = f.push(source, sink, tolerance);
    if (got >= sum * (1 - 1e-9) - 1e3 * tolerance) return;
    if (!named) {
      problems.emplace_back();
      return;
    }
    const Network& network = *named;
    // The cut: for draws the side that cannot be reached, for feeds the side that is.
    Problem p;
    std::vector<Id> concerned, by, full;
    double missing = sum - got;
    for (std::size_t r = 0; r < s.rawOwner.size(); ++r) {
      if (s.rawToNode[r] < 0 || s.rawOutflow_m3s[r] == 0.0) continue;
      const int n = nodeOf(s.rawToNode[r]);
      if (n == w || f.reached(n) == draws) continue;
      if (draws ? s.rawOutflow_m3s[r] > 0 : s.rawOutflow_m3s[r] < 0) concerned.push_back(s.rawOwner[r]);
    }
    for (const Link* l : ways) {
      const bool from = f.reached(nodeOf(l->from)), to = f.reached(nodeOf(l->to));
      if (!from && to && l->bars) by.push_back(l->of.element);
      if (from && !to && std::isfinite(l->flowMost_m3s)) full.push_back(l->of.element);
    }
    for (auto* list : {&by, &full}) {
      std::sort(list->begin(), list->end());
      list->erase(std::unique(list->begin(), list->end()), list->end());
    }
    p.what = fmt::format("{} cannot {} {}", withUnit(missing, Measure::volumeFlow, units, 3),
                         draws ? "reach" : "leave",
                         concerned.empty() ? "its destination" : list(network, concerned));
    if (!by.empty())
      p.what += fmt::format(": {} {} flow only in the other direction", list(network, by),
                            by.size() == 1 ? "passes" : "pass");
    if (!full.empty())
      p.what += fmt::format(": {} {} no more", list(network, full), full.size() == 1 ? "allows" : "allow") +
                " flow";
    if (!concerned.empty()) p.place = {network.at(concerned[0]).name, ""};
    by.insert(by.end(), full.begin(), full.end());
    for (const Id id : by)
      p.remedies.push_back({fmt::format("Go to {}", network.at(id).name), {}, {network.at(id).name, ""}});
    problems.push_back(std::move(p));
  };
  ask(true);
  if (problems.empty()) ask(false);
}

}  // namespace

std::vector<Problem> determinacy(const Network& network, const System& s, const UnitSet& units) {
  std::vector<Problem> problems;
  const std::size_t rawCount = s.rawOwner.size();
  UnionFind together(rawCount);
  for (const Link& l : s.links) together.join(l.rawFrom, l.rawTo);
  for (const Join& j : s.joins) together.join(j.rawFrom, j.rawTo);
  std::vector<char> hasLink(rawCount, 0);
  for (const Link& l : s.links) hasLink[u(l.rawFrom)] = hasLink[u(l.rawTo)] = 1;
  for (const Join& j : s.joins) hasLink[u(j.rawFrom)] = hasLink[u(j.rawTo)] = 1;
  std::vector<char> holds(rawCount, 0);
  for (std::size_t r = 0; r < rawCount; ++r)
    if (s.rawHolds[r]) holds[u(together.find(static_cast<int>(r)))] = 1;
  std::map<int, Piece> pieces;  // those without a head, by root
  for (std::size_t r = 0; r < rawCount; ++r) {
    const int root = together.find(static_cast<int>(r));
    if (holds[u(root)]) continue;
    Piece& piece = pieces[root];
    piece.outflow_m3s += s.rawOutflow_m3s[r];
    piece.throughput_m3s += std::abs(s.rawOutflow_m3s[r]);
    const Id owner = s.rawOwner[r];
    if (network.at(owner).part->ends == Ends::self) piece.points.push_back(owner);
    if (s.rawOutflow_m3s[r] > 0) piece.draws.push_back(owner);
    if (s.rawOutflow_m3s[r] < 0) piece.feeds.push_back(owner);
  }
  for (const KnownBranch& b : s.known)
    for (const int r : {b.rawFrom, b.rawTo})
      if (const auto it = pieces.find(together.find(r)); it != pieces.end()) it->second.bounds.push_back(&b);
  for (auto& [root, piece] : pieces) {
    const bool unbalanced = std::abs(piece.outflow_m3s) > 1e-9 * piece.throughput_m3s + smallestFlow_m3s;
    bool linked = false, closedOff = false, fed = piece.throughput_m3s > 0;
    for (const Id point : piece.points) linked = linked || hasLink[u(s.pointRaw[point])];
    for (const KnownBranch* b : piece.bounds) {
      closedOff = closedOff || b->shut;
      fed = fed || !b->shut;
    }
    if (!unbalanced && !fed && (closedOff || !linked)) continue;  // a pocket, or a point on its own
    spell(network, piece, units, problems);
  }
  if (problems.empty()) oneWay(&network, s, units, problems);
  return problems;
}

std::optional<Problem> shortCircuit(const Network& network, const System& s, std::span<const double> flow,
                                    std::span<const char> flowing) {
  struct Way {
    int to;
    Id element;
  };
  const int world = static_cast<int>(s.rawOwner.size());
  std::vector<std::vector<Way>> ways;
  std::vector<std::size_t> unopposed;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    if (flowing[i] && !s.links[i].law->resists(flow[i] < 0) &&
        std::abs(flow[i]) > 1e-6 * s.links[i].law->startFlow_m3s())
      unopposed.push_back(i);
  if (unopposed.empty()) return std::nullopt;
  ways.resize(u(world) + 1);
  for (const std::size_t i : unopposed) {
    const Link& l = s.links[i];
    const bool forward = flow[i] > 0;
    ways[u(forward ? l.rawFrom : l.rawTo)].push_back({forward ? l.rawTo : l.rawFrom, l.of.element});
  }
  for (const Join& j : s.joins)
    ways[u(j.rawFrom)].push_back({j.rawTo, j.of.element}),
        ways[u(j.rawTo)].push_back({j.rawFrom, j.of.element});
  for (int r = 0; r < world; ++r)
    if (s.rawHolds[u(r)]) ways[u(r)].push_back({world, noId}), ways[u(world)].push_back({r, noId});
  for (const std::size_t i : unopposed) {
    const Link& l = s.links[i];
    const int from = flow[i] > 0 ? l.rawFrom : l.rawTo, to = flow[i] > 0 ? l.rawTo : l.rawFrom;
    std::vector<std::pair<int, Id>> via(ways.size(),
                                        {-1, noId});  // by place: the one before it, and through what
    std::deque<int> queue{to};
    via[u(to)].first = to;
    while (!queue.empty() && via[u(from)].first < 0) {
      const int n = queue.front();
      queue.pop_front();
      for (const Way& w : ways[u(n)])
        if (via[u(w.to)].first < 0) via[u(w.to)] = {n, w.element}, queue.push_back(w.to);
    }
    if (via[u(from)].first < 0) continue;
    std::vector<Id> ring{l.of.element};
    bool throughWorld = false;
    for (int n = from; n != to; n = via[u(n)].first) {
      if (n == world) throughWorld = true;
      if (const Id e = via[u(n)].second; e != noId && std::find(ring.begin(), ring.end(), e) == ring.end())
        ring.push_back(e);
    }
    const std::string& name = network.at(l.of.element).name;
    Problem p{{name, ""}, {}, {}};
    p.what =
        throughWorld
            ? fmt::format(
                  "flow through {} is unlimited: it joins two fixed pressures without a flow-dependent loss",
                  list(network, ring))
        : ring.size() > 1 ? fmt::format("flow round {} is unlimited: no flow-dependent loss in the loop",
                                        list(network, ring))
                          : fmt::format("flow round {} is unlimited: both its ends are the same point", name);
    for (const Id id : ring) {
      const Element& e = network.at(id);
      if (const Field* k = findField(*e.part, key::lossK); k && id != l.of.element)
        p.remedies.push_back(
            {fmt::format("Set K of {} to 1", e.name), {{e.name, key::lossK, "1"}}, {e.name, key::lossK}});
    }
    p.remedies.push_back({fmt::format("Go to {}", name), {}, {name, ""}});
    return p;
  }
  return std::nullopt;
}

std::vector<std::size_t> flowForcedOn(const System& s, std::vector<std::size_t> links) {
  const auto cannot = [&](std::span<const std::size_t> without) {
    std::vector<Problem> problems;
    oneWay(nullptr, s, UnitSet::siWater(), problems, without);
    return !problems.empty();
  };
  if (links.empty() || !cannot(links)) return {};
  for (std::size_t k = links.size();
       k-- > 0 && links.size() > 1;) {  // whoever need not be taken out for it is not at fault
    std::vector<std::size_t> fewer = links;
    fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(k));
    if (cannot(fewer)) links = std::move(fewer);
  }
  return links;
}

}  // namespace conduit

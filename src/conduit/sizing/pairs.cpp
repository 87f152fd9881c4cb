#include "sizing/pairs.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <random>
#include <unordered_map>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

// The network as points and what joins them; all that takes or gives stands for one point, the open.
struct Graph {
  struct Edge {
    Id element = noId;
    int a = 0, b = 0;
  };
  static constexpr int open = 0;
  std::vector<Edge> edges;
  std::vector<std::vector<int>> joined;  // edges, by point

  explicit Graph(const Model& model) {
    const Network& n = model.drawn;
    std::vector<char> opened(n.bound(), 0);
    const auto openAt = [&](const Network& seen) {
      seen.each([&](Id id, const Element& e) {
        if (e.part->ends == Ends::self && (e.values.entry(key::outflow) || e.values.entry(key::inflow)))
          opened[id] = 1;
        if (e.part->ends != Ends::one && e.part->ends != Ends::many) return;
        for (const Id point : e.ends)
          if (point < opened.size()) opened[point] = 1;
      });
    };
    openAt(n);
    for (const CaseId id : model.cases.ids())
      if (id != drawingCase && flagOf(*model.cases.find(id), cases::counts)) openAt(networkOf(model, id));
    std::unordered_map<Id, int> place;
    const auto placeOf = [&](Id point) {
      if (point < opened.size() && opened[point]) return open;
      return place.try_emplace(point, static_cast<int>(place.size()) + 1).first->second;
    };
    n.each([&](Id id, const Element& e) {
      if (e.part->ends != Ends::two || e.part->group == Group::drawing || e.ends.size() != 2) return;
      edges.push_back({id, placeOf(e.ends[0]), placeOf(e.ends[1])});
    });
    joined.resize(place.size() + 1);
    for (std::size_t i = 0; i < edges.size(); ++i) {
      joined[at(edges[i].a)].push_back(static_cast<int>(i));
      if (edges[i].b != edges[i].a) joined[at(edges[i].b)].push_back(static_cast<int>(i));
    }
  }
  [[nodiscard]] int other(int edge, int point) const {
    const Edge& e = edges[at(edge)];
    return e.a == point ? e.b : e.a;
  }
};

// Of each edge a mark: two edges cut the graph together, and neither alone, exactly where they have the same
// mark; 0: it cuts alone. Each edge outside a spanning tree closes one ring and draws a random number; a
// mark is the exclusive or of the rings an edge lies in (Pritchard and Thurimella, 2011). That two rings
// agree by chance has odds of 2^-64 for each pair of edges.
std::vector<std::uint64_t> ringMarks(const Graph& g) {
  std::vector<std::uint64_t> marks(g.edges.size(), 0), below(g.joined.size(), 0);
  std::vector<int> by(g.joined.size(), -1);  // edge a point was reached by
  std::vector<char> seen(g.joined.size(), 0);
  std::mt19937_64 draw(20260101);
  for (std::size_t root = 0; root < g.joined.size(); ++root) {
    if (seen[root]) continue;
    std::vector<int> order{static_cast<int>(root)};
    seen[root] = 1;
    for (std::size_t i = 0; i < order.size(); ++i)
      for (const int e : g.joined[at(order[i])]) {
        const int next = g.other(e, order[i]);
        if (!seen[at(next)]) seen[at(next)] = 1, by[at(next)] = e, order.push_back(next);
      }
    for (const int point : order)
      for (const int e : g.joined[at(point)]) {
        const Graph::Edge& edge = g.edges[at(e)];
        if (marks[at(e)] != 0 || edge.a == edge.b || by[at(edge.a)] == e || by[at(edge.b)] == e) continue;
        marks[at(e)] = draw();
        below[at(edge.a)] ^= marks[at(e)], below[at(edge.b)] ^= marks[at(e)];
      }
    for (std::size_t i = order.size(); i-- > 1;) {
      const int point = order[i], e = by[at(point)];
      marks[at(e)] = below[at(point)];
      below[at(g.other(e, point))] ^= below[at(point)];
    }
  }
  return marks;
}

// What a part between two lines, or a device on the way, is to them.
enum class Between { nothing, use, lift };

Between alongTheWay(const Element& e) {
  return e.part->lifts ? Between::lift : e.part->exchanges ? Between::use : Between::nothing;
}
bool usesInBranches(const Element& e) {
  constexpr std::array<std::string_view, 5> kinds{"own loss", "control valve", "orifice plate",
                                                  "limiting valve", "differential valve"};
  return std::find(kinds.begin(), kinds.end(), e.part->key) != kinds.end();
}

// Lines and what lies between them, once around the ring that edges of one mark make, from the open on.
struct Ring {
  std::vector<Id> lines;
  std::vector<std::pair<std::size_t, Between>> marks;  // before the line of that place
};

// `sorted`: those edges, rising.
Ring ringOf(const Network& n, const Graph& g, const std::vector<int>& sorted) {
  UnionFind parts(g.joined.size());
  for (std::size_t e = 0; e < g.edges.size(); ++e)
    if (!std::binary_search(sorted.begin(), sorted.end(), static_cast<int>(e)))
      parts.join(g.edges[e].a, g.edges[e].b);
  std::unordered_map<int, Between> within;
  for (std::size_t e = 0; e < g.edges.size(); ++e) {
    if (std::binary_search(sorted.begin(), sorted.end(), static_cast<int>(e))) continue;
    const Element& element = n.at(g.edges[e].element);
    Between& b = within[parts.find(g.edges[e].a)];
    if (const Between here = alongTheWay(element); here == Between::use || usesInBranches(element))
      b = Between::use;
    else if (here == Between::lift && b == Between::nothing) b = Between::lift;
  }
  std::unordered_map<int, std::vector<int>> meeting;  // edges of the ring, by part
  for (const int e : sorted)
    for (const int point : {g.edges[at(e)].a, g.edges[at(e)].b}) meeting[parts.find(point)].push_back(e);
  const auto partAt = [&](int part) {
    const auto found = within.find(part);
    return found == within.end() ? Between::nothing : found->second;
  };
  // From the open; in a circuit that is all closed, from a part that uses nothing.
  int begin = parts.find(Graph::open);
  if (!meeting.contains(begin)) {
    begin = parts.find(g.edges[at(sorted[0])].a);
    for (const int e : sorted)
      if (const int part = parts.find(g.edges[at(e)].a); partAt(part) == Between::nothing) {
        begin = part;
        break;
      }
  }
  Ring ring;
  int part = begin, came = -1;
  do {
    const std::vector<int>& two = meeting.at(part);
    if (two.size() != 2) return {};
    const int e = two[0] == came ? two[1] : two[0];
    const Element& element = n.at(g.edges[at(e)].element);
    if (element.part->line) ring.lines.push_back(g.edges[at(e)].element);
    else if (const Between b = alongTheWay(element); b != Between::nothing)
      ring.marks.push_back({ring.lines.size(), b});
    const int a = parts.find(g.edges[at(e)].a), b = parts.find(g.edges[at(e)].b);
    part = a == part ? b : a, came = e;
    if (part != begin)
      if (const Between inside = partAt(part); inside != Between::nothing)
        ring.marks.push_back({ring.lines.size(), inside});
  } while (part != begin && ring.lines.size() <= sorted.size());
  return ring;
}

// Before the first use and after the last, from the outside in, without what lies beyond a pump.
std::vector<std::vector<Id>> pairsOf(const Ring& ring) {
  const auto isUse = [](const auto& m) { return m.second == Between::use; };
  const auto first = std::find_if(ring.marks.begin(), ring.marks.end(), isUse);
  if (first == ring.marks.end()) return {};
  const auto last = std::prev(std::find_if(ring.marks.rbegin(), ring.marks.rend(), isUse).base());
  std::size_t from = 0, to = ring.lines.size();
  bool lifted = false;
  for (auto m = ring.marks.begin(); m != ring.marks.end(); ++m) {
    if (m->second != Between::lift) continue;
    if (m < first) from = m->first;
    else if (m > last) to = std::min(to, m->first);
    else lifted = true;
  }
  const auto line = [&](std::size_t i) { return ring.lines[i]; };
  const std::size_t out = first->first - from, back = to - last->first;
  if (out == 0 || back == 0) return {};
  std::vector<std::vector<Id>> pairs(std::min(out, back));
  for (std::size_t i = 0; i < pairs.size(); ++i) pairs[i] = {line(from + i), line(to - 1 - i)};
  for (std::size_t i = pairs.size(); i < out; ++i) pairs.back().push_back(line(from + i));
  for (std::size_t i = pairs.size(); i < back; ++i) pairs.back().push_back(line(to - 1 - i));
  if (!lifted)
    for (std::size_t i = first->first; i < last->first; ++i) pairs.back().push_back(line(i));
  return pairs;
}

}  // namespace

std::vector<TiedLines> flowAndReturn(const Model& model, const std::vector<Id>& apart) {
  const Network& n = model.drawn;
  bool uses = false;
  n.each([&](Id, const Element& e) { uses |= alongTheWay(e) == Between::use || usesInBranches(e); });
  if (!uses) return {};
  const Graph graph(model);
  const std::vector<std::uint64_t> marks = ringMarks(graph);
  std::unordered_map<std::uint64_t, std::vector<int>> rings;
  for (std::size_t e = 0; e < marks.size(); ++e)
    if (marks[e] != 0) rings[marks[e]].push_back(static_cast<int>(e));
  std::vector<TiedLines> found;
  for (const auto& [mark, edges] : rings) {
    const auto lines = std::count_if(edges.begin(), edges.end(),
                                     [&](int e) { return n.at(graph.edges[at(e)].element).part->line; });
    if (lines < 2) continue;
    for (std::vector<Id>& pair : pairsOf(ringOf(n, graph, edges))) {
      std::erase_if(pair, [&](Id id) { return std::find(apart.begin(), apart.end(), id) != apart.end(); });
      std::sort(pair.begin(), pair.end());
      if (pair.size() > 1)
        found.push_back({fmt::format("{} {} {}", n.at(pair.front()).name, pair.size() > 2 ? "…" : "and",
                                     n.at(pair.back()).name),
                         pair});
    }
  }
  std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.lines < b.lines; });
  return found;
}

}  // namespace conduit

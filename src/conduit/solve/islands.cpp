#include "solve/islands.h"

#include "solve/index.h"
#include "solve/union_find.h"

namespace conduit {
Iterate Island::take(const Iterate& whole) const {
  Iterate part;
  for (const std::size_t i : links)
    part.flow_m3s.push_back(whole.flow_m3s[i]), part.state.push_back(whole.state[i]);
  for (const int n : nodes) part.head_m.push_back(whole.head_m[u(n)]);
  return part;
}

void Island::put(const Iterate& part, Iterate& whole) const {
  for (std::size_t i = 0; i < links.size(); ++i)
    whole.flow_m3s[links[i]] = part.flow_m3s[i], whole.state[links[i]] = part.state[i];
  for (int n = 0; n < system.freeCount; ++n) whole.head_m[u(nodes[u(n)])] = part.head_m[u(n)];
}

std::vector<Island> islandsOf(const System& s, std::span<const std::size_t> wanted) {
  UnionFind together(u(s.nodeCount()));
  for (const Link& l : s.links) {
    int at = -1;
    for (const int n : {l.from, l.to, l.held, l.over}) {
      if (n < 0 || !s.isFree(n)) continue;
      if (at >= 0) together.join(at, n);
      at = n;
    }
  }
  // Of a link between two known heads nothing else depends on it; such a one is settled with the first part.
  std::vector<int> islandOfRoot(u(s.nodeCount()), -1);
  std::vector<Island> islands;
  const auto rootOf = [&](const Link& l) {
    for (const int n : {l.from, l.to, l.held, l.over})
      if (n >= 0 && s.isFree(n)) return together.find(n);
    return -1;
  };
  for (const std::size_t i : wanted)
    if (const int root = rootOf(s.links[i]); root >= 0 && islandOfRoot[u(root)] < 0) {
      islandOfRoot[u(root)] = static_cast<int>(islands.size());
      islands.emplace_back();
    }
  if (islands.empty()) return islands;
  std::vector<int> number(u(s.nodeCount()), -1);
  for (int n = 0; n < s.freeCount; ++n)
    if (const int k = islandOfRoot[u(together.find(n))]; k >= 0) {
      Island& island = islands[u(k)];
      number[u(n)] = island.system.freeCount++;
      island.nodes.push_back(n);
      island.system.outflow_m3s.push_back(s.outflow_m3s[u(n)]);
    }
  std::vector<std::vector<int>> fixedNumber(islands.size());
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const int root = rootOf(s.links[i]), k = root < 0 ? 0 : islandOfRoot[u(root)];
    if (k < 0) continue;
    Island& island = islands[u(k)];
    System& part = island.system;
    const auto placed = [&](int n) {
      if (n < 0) return -1;
      if (s.isFree(n)) return number[u(n)];
      auto& numbers = fixedNumber[u(k)];
      if (numbers.empty()) numbers.assign(s.fixedHead_m.size(), -1);
      int& here = numbers[u(n - s.freeCount)];
      if (here < 0) {
        here = part.nodeCount();
        part.fixedHead_m.push_back(s.fixedHead_m[u(n - s.freeCount)]);
        part.outflow_m3s.push_back(s.outflow_m3s[u(n)]);
        island.nodes.push_back(n);
      }
      return here;
    };
    Link link = s.links[i];
    link.from = placed(link.from), link.to = placed(link.to), link.held = placed(link.held),
    link.over = placed(link.over);
    if (part.isFree(link.from) && part.isFree(link.to) && link.from != link.to) {
      part.linkEdge.push_back(static_cast<int>(part.edges.size()));
      part.edges.emplace_back(link.from, link.to);
    } else {
      part.linkEdge.push_back(-1);
    }
    part.links.push_back(link);
    island.links.push_back(i);
  }
  return islands;
}

}  // namespace conduit

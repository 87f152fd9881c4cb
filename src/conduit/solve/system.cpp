#include "solve/system.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "solve/factor.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }

Problem lacks(const Element& e, const std::vector<Lack>& lacks) {
  std::string what = e.name + " lacks ";
  for (std::size_t i = 0; i < lacks.size(); ++i) what += (i == 0 ? "" : i + 1 == lacks.size() ? " and " : ", ") + lacks[i].words;
  Problem p{{e.name, lacks.front().field}, what, {}};
  p.remedies.push_back({fmt::format("Give {} {}", e.name, lacks.front().words), {}, {e.name, lacks.front().field}});
  return p;
}

// Flow and head of every raw node before anything is merged.
struct Raw {
  std::vector<double> head_m;  // where held
};

}  // namespace

SetUp setUp(const Network& network, const Setting& setting, const std::vector<double>& widest, const GivenInstead& instead) {
  SetUp out;
  System& s = out.system;
  const Id bound = network.bound();
  s.pointRaw.assign(bound, -1);
  s.vesselBegin.assign(bound, -1);
  s.prepared.resize(bound);
  Raw raw;
  auto addRaw = [&](Id owner) {
    s.rawOwner.push_back(owner);
    s.rawOutflow_m3s.push_back(0.0);
    s.rawHolds.push_back(0);
    raw.head_m.push_back(0.0);
    return static_cast<int>(s.rawOwner.size()) - 1;
  };
  std::vector<char> used(bound, 0);  // points that something is joined to
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) s.pointRaw[id] = addRaw(id);
    if (e.part->group != Group::drawing)
      for (const Id end : e.ends) used[end] = 1;
  });
  std::vector<std::string> holder(s.rawOwner.size());
  network.each([&](Id id, const Element& e) {
    if (!e.part->prepare) return;  // on the drawing only, or a service
    Prepared& p = s.prepared[id];
    Values scratch;
    p = e.part->prepare(valuesOf(e, setting.stock, scratch), setting, endPlaces(network, e, setting, widest));
    if (const auto* item = e.values.get<std::string>(stockItemKey); item && !item->empty() && setting.stock && !setting.stock->item(e.part->key, *item))
      p.problem = Problem{{"", std::string(stockItemKey)}, fmt::format("\"{}\" is not a {} of the stock", *item, e.part->key), {}};
    if (const auto* service = e.values.get<std::string>(serviceKey); service && !service->empty() && !setting.services.contains(*service))
      p.problem = Problem{{"", std::string(serviceKey)}, fmt::format("there is no service \"{}\"", *service), {}};
    if (p.problem) {
      Problem problem = *p.problem;
      problem.place.name = e.name;
      problem.what = e.name + ": " + problem.what;
      problem.remedies.push_back({fmt::format("Go to {}", e.name), {}, problem.place});
      out.problems.push_back(std::move(problem));
      return;
    }
    if (!p.lacks.empty()) {
      if (e.part->ends == Ends::self && !used[id]) return;  // a point that nothing is joined to may wait
      out.problems.push_back(lacks(e, p.lacks));
      return;
    }
    if (e.part->ends == Ends::self) {
      s.rawOutflow_m3s[u(s.pointRaw[id])] -= p.inflow_m3s;
      if (const auto head = instead.heads.find(id); head != instead.heads.end()) {
        const auto at = u(s.pointRaw[id]);
        s.rawHolds[at] = 1;
        raw.head_m[at] = head->second;
        holder[at] = e.name;
      }
      return;
    }
    if (p.holdsHead_m) {
      const auto at = u(s.pointRaw[e.ends[0]]);
      if (s.rawHolds[at]) {
        out.problems.push_back({{e.name, ""},
                                fmt::format("{} and {} both hold the pressure of {}", holder[at], e.name, network.at(e.ends[0]).name),
                                {{fmt::format("Go to {}", e.name), {}, {e.name, ""}}}});
      } else {
        s.rawHolds[at] = 1;
        raw.head_m[at] = *p.holdsHead_m;
        holder[at] = e.name;
      }
    } else if (p.inflow_m3s != 0.0 && !e.ends.empty()) {
      s.rawOutflow_m3s[u(s.pointRaw[e.ends[0]])] -= p.inflow_m3s;
    }
    for (const Vessel& v : p.vessels) {
      const int r = addRaw(id);
      holder.push_back(e.name);
      if (s.vesselBegin[id] < 0) s.vesselBegin[id] = r;
      if (v.head_m) {
        s.rawHolds[u(r)] = 1;
        raw.head_m[u(r)] = *v.head_m;
      }
      s.rawOutflow_m3s[u(r)] = -v.inflow_m3s;
    }
    auto place = [&](int end) { return end >= 0 ? s.pointRaw[e.ends[u(end)]] : s.vesselBegin[id] + (-1 - end); };
    for (std::size_t b = 0; b < p.branches.size(); ++b) {
      Branch& branch = p.branches[b];
      if (const auto flow = instead.flows.find(id); flow != instead.flows.end() && p.branches.size() == 1) branch.givenFlow_m3s = flow->second, branch.shut = false;
      const int from = place(branch.from), to = place(branch.to);
      const BranchOf of{id, static_cast<int>(b)};
      if (branch.shut || branch.givenFlow_m3s) {
        const double q = branch.shut ? 0.0 : *branch.givenFlow_m3s;
        s.known.push_back({from, to, q, branch.shut, of});
        s.rawOutflow_m3s[u(from)] += q;
        s.rawOutflow_m3s[u(to)] -= q;
      } else if (branch.law->lossless() && !instead.whole.contains(id)) {
        s.joins.push_back({from, to, of});
      } else {
        Link link;
        link.rawFrom = from, link.rawTo = to, link.law = branch.law.get(), link.of = of;
        link.bars = branch.law->barsBackflow();
        link.flowMost_m3s = branch.law->flowMost_m3s();
        link.choke = branch.law->choke();
        if (const auto hold = branch.law->hold()) {
          link.holds = true, link.holdsBefore = hold->before, link.held_m = hold->head_m;
          link.rawHeld = hold->before ? from : to;
          for (const auto& [name, node] : {std::pair(&branch.holdsAt, &link.rawHeld), std::pair(&branch.over, &link.rawOver)}) {
            if (name->empty()) continue;
            const Id point = network.byName(*name);
            if (point == noId || network.at(point).part->ends != Ends::self) {
              out.problems.push_back({{e.name, ""}, fmt::format("{}: there is no point \"{}\"", e.name, *name), {{fmt::format("Go to {}", e.name), {}, {e.name, ""}}}});
              return;
            }
            *node = s.pointRaw[point];
          }
          // A head elsewhere is counted from that point's height, which the part does not see.
          if (!branch.holdsAt.empty() && branch.over.empty())
            if (const Given* z = network.at(network.byName(branch.holdsAt)).values.get<Given>("height")) link.held_m += resolve(*z, Measure::height, setting.medium);
        }
        if (link.bars) {
          double memory = 0;
          link.noFlowDrop_m = branch.law->at(0.0, memory).drop_m;
        }
        s.links.push_back(link);
      }
    }
  });
  if (!out.problems.empty()) return out;

  // Merge what is joined without loss.
  const std::size_t rawCount = s.rawOwner.size();
  UnionFind groups(rawCount);
  for (const Join& j : s.joins) groups.join(j.rawFrom, j.rawTo);
  std::vector<int> heldBy(rawCount, -1);
  for (std::size_t r = 0; r < rawCount; ++r) {
    if (!s.rawHolds[r]) continue;
    const int g = groups.find(static_cast<int>(r));
    if (heldBy[u(g)] >= 0) {
      const std::string &a = holder[u(heldBy[u(g)])], &b = holder[r];
      out.problems.push_back(
          {{b, ""}, fmt::format("{} and {} both hold a level or pressure and nothing between them takes any head", a, b), {{fmt::format("Go to {}", b), {}, {b, ""}}}});
      return out;
    }
    heldBy[u(g)] = static_cast<int>(r);
  }
  // Number the free groups that a link touches; order them for the factor.
  std::vector<int> group(rawCount, -1);
  int freeGroups = 0;
  auto touch = [&](int r) {
    const int g = groups.find(r);
    if (group[u(g)] < 0 && heldBy[u(g)] < 0) group[u(g)] = freeGroups++;
  };
  for (const Link& l : s.links) {
    touch(l.rawFrom), touch(l.rawTo);
    if (l.rawHeld >= 0) touch(l.rawHeld);
    if (l.rawOver >= 0) touch(l.rawOver);
  }
  for (std::size_t r = 0; r < rawCount; ++r)  // a flow given where no link is: the determinacy check will speak of it
    if (s.rawOutflow_m3s[r] != 0.0) touch(static_cast<int>(r));
  std::vector<std::pair<int, int>> edges;
  edges.reserve(s.links.size());
  auto freeOf = [&](int r) { return group[u(groups.find(r))]; };
  for (const Link& l : s.links)
    if (const int a = freeOf(l.rawFrom), b = freeOf(l.rawTo); a >= 0 && b >= 0 && a != b) edges.emplace_back(a, b);
  const std::vector<int> order = sparseOrder(freeGroups, edges);
  std::vector<int> newNumber(u(freeGroups));
  for (int k = 0; k < freeGroups; ++k) newNumber[u(order[u(k)])] = k;
  s.freeCount = freeGroups;
  s.rawToNode.assign(rawCount, -1);
  std::vector<int> fixedNumber(rawCount, -1);
  for (std::size_t r = 0; r < rawCount; ++r) {
    const int g = groups.find(static_cast<int>(r));
    if (heldBy[u(g)] >= 0) {
      if (fixedNumber[u(g)] < 0) {
        fixedNumber[u(g)] = freeGroups + static_cast<int>(s.fixedHead_m.size());
        s.fixedHead_m.push_back(raw.head_m[u(heldBy[u(g)])]);
      }
      s.rawToNode[r] = fixedNumber[u(g)];
    } else if (group[u(g)] >= 0) {
      s.rawToNode[r] = newNumber[u(group[u(g)])];
    }
  }
  s.outflow_m3s.assign(u(s.nodeCount()), 0.0);
  for (std::size_t r = 0; r < rawCount; ++r)
    if (s.rawToNode[r] >= 0) s.outflow_m3s[u(s.rawToNode[r])] += s.rawOutflow_m3s[r];
  for (Link& l : s.links) {
    l.from = s.rawToNode[u(l.rawFrom)], l.to = s.rawToNode[u(l.rawTo)];
    if (l.rawHeld >= 0) l.held = s.rawToNode[u(l.rawHeld)];
    if (l.rawOver >= 0) l.over = s.rawToNode[u(l.rawOver)];
  }
  std::stable_sort(s.links.begin(), s.links.end(), [](const Link& a, const Link& b) { return std::max(a.from, a.to) < std::max(b.from, b.to); });
  s.laws.reserve(s.links.size());
  for (Link& l : s.links) {
    s.laws.push_back(l.law->copy());
    l.law = s.laws.back().get();
  }
  s.linkEdge.assign(s.links.size(), -1);
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    if (!s.isFree(l.from) || !s.isFree(l.to) || l.from == l.to) continue;
    s.linkEdge[i] = static_cast<int>(s.edges.size());
    s.edges.emplace_back(l.from, l.to);
  }
  // Tees: the three links of the point they are said of.
  std::vector<std::vector<std::size_t>> linksAt;
  network.each([&](Id id, const Element& e) {
    const auto* branch = e.part->ends == Ends::self ? e.values.get<std::string>("tee branch") : nullptr;
    if (!branch || branch->empty()) return;
    if (linksAt.empty()) {
      linksAt.resize(rawCount);
      for (std::size_t i = 0; i < s.links.size(); ++i) linksAt[u(s.links[i].rawFrom)].push_back(i), linksAt[u(s.links[i].rawTo)].push_back(i);
    }
    TeeAt tee;
    tee.raw = s.pointRaw[id];
    std::vector<std::size_t> legs = linksAt[u(tee.raw)];
    const auto first = std::find_if(legs.begin(), legs.end(), [&](std::size_t i) { return network.at(s.links[i].of.element).name == *branch; });
    const bool pipes = std::all_of(legs.begin(), legs.end(), [&](std::size_t i) { return network.at(s.links[i].of.element).part->geometry != nullptr; });
    if (legs.size() != 3 || first == legs.end() || !pipes || s.rawHolds[u(tee.raw)]) {
      out.problems.push_back({{e.name, "tee branch"},
                              fmt::format("{} is no tee: three pipes must meet there and nothing else, one of them {}", e.name, *branch),
                              {{fmt::format("Count no tee at {}", e.name), {{e.name, "tee branch", ""}}, {e.name, "tee branch"}}}});
      return;
    }
    std::iter_swap(legs.begin(), first);
    for (std::size_t k = 0; k < 3; ++k) {
      const Element& leg = network.at(s.links[legs[k]].of.element);
      Values scratch;
      const double d = leg.part->geometry(valuesOf(leg, setting.stock, scratch), setting).bore_m.value_or(0.1);
      tee.legs[k] = legs[k];
      tee.area_m2[k] = pi / 4 * d * d;
    }
    const Given *angle = e.values.get<Given>("tee angle"), *fillet = e.values.get<Given>("tee fillet");
    tee.shape = {1.0, angle ? angle->value : 90.0, fillet ? fillet->value : 0.0};
    s.tees.push_back(tee);
  });
  return out;
}

}  // namespace conduit

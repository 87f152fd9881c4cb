#include "solve/system.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "fields/keys.h"
#include "say/words.h"
#include "solve/factor.h"
#include "solve/index.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

Problem incomplete(const Element& e, const std::vector<MissingField>& missing) {
  std::string what = e.name + " needs ";
  for (std::size_t i = 0; i < missing.size(); ++i)
    what += (i == 0 ? "" : i + 1 == missing.size() ? " and " : ", ") + missing[i].words;
  Problem p{{e.name, missing.front().field}, what, {}};
  p.remedies.push_back(
      {fmt::format("{}: enter {}", e.name, missing.front().words), {}, {e.name, missing.front().field}});
  return p;
}

// One element made ready to be placed. False when nothing of it is: it is incomplete (a problem, unless it
// is a point that nothing is joined to) or one of its values cannot be used.
bool makeReady(const Network& network, const Element& e, const Setting& setting,
               const std::vector<double>& widest, bool used, Prepared& p, std::vector<Problem>& problems,
               std::pmr::vector<EndPlace>& places) {
  Values scratch;
  endPlaces(network, e, setting, widest, places);
  p = e.part->prepare(valuesOf(e, setting.stock, scratch), setting, places);
  if (const auto* item = e.text(stockItemKey);
      item && !item->empty() && setting.stock && !setting.stock->item(e.part->key, *item))
    p.problem = Problem{{"", std::string(stockItemKey)},
                        fmt::format("\"{}\" is not a {} in the catalogue", *item, spoken(e.part->key)),
                        {}};
  if (const auto* service = e.text(serviceKey);
      service && !service->empty() && !setting.services.contains(*service))
    p.problem =
        Problem{{"", std::string(serviceKey)}, fmt::format("there is no service \"{}\"", *service), {}};
  if (p.problem) {
    Problem problem = *p.problem;
    problem.place.name = e.name;
    problem.what = e.name + ": " + problem.what;
    problem.remedies.push_back({fmt::format("Go to {}", e.name), {}, problem.place});
    problems.push_back(std::move(problem));
    return false;
  }
  if (p.missing.empty()) return true;
  if (e.part->ends != Ends::self || used) problems.push_back(incomplete(e, p.missing));
  return false;
}

// What of a link is said by the branch, not by its place.
void readBranch(const Branch& branch, const Network& network, const Setting& setting, Link& link) {
  link.law = branch.law.get();
  link.bars = branch.law->barsBackflow();
  link.flowMost_m3s = branch.law->flowMost_m3s();
  link.choke = branch.law->choke();
  if (const auto hold = branch.law->hold()) {
    link.holds = true, link.holdsBefore = hold->before, link.held_m = hold->head_m;
    // A head elsewhere is counted from that point's height, which the part does not see.
    if (!branch.holdsAt.empty() && branch.over.empty())
      if (const Given* z = network.at(network.byName(branch.holdsAt)).given(key::height))
        link.held_m += resolve(*z, Measure::height, setting.medium);
  }
  double memory = 0;
  link.noFlowDrop_m = link.bars ? branch.law->at(0.0, memory).drop_m : 0.0;
}

double knownFlow(const Branch& branch) { return branch.shut ? 0.0 : *branch.givenFlow_m3s; }

// What leaves at every raw node, and the heads that are held, from what is prepared.
void fillRaw(const Network& network, System& s, const GivenInstead& instead) {
  std::fill(s.rawOutflow_m3s.begin(), s.rawOutflow_m3s.end(), 0.0);
  network.each([&](Id id, const Element& e) {
    const Prepared& p = s.prepared[id];
    if (!e.part->prepare || !p.missing.empty()) return;
    if (e.part->ends == Ends::self) {
      const auto at = u(s.pointRaw[id]);
      s.rawOutflow_m3s[at] -= p.inflow_m3s;
      if (const auto head = instead.heads.find(id); head != instead.heads.end())
        s.rawHead_m[at] = head->second;
      return;
    }
    if (p.holdsHead_m) s.rawHead_m[u(s.pointRaw[e.ends[0]])] = *p.holdsHead_m;
    else if (p.inflow_m3s != 0.0 && !e.ends.empty())
      s.rawOutflow_m3s[u(s.pointRaw[e.ends[0]])] -= p.inflow_m3s;
    for (std::size_t v = 0; v < p.vessels.size(); ++v) {
      const auto at = u(s.vesselBegin[id]) + v;
      if (p.vessels[v].head_m) s.rawHead_m[at] = *p.vessels[v].head_m;
      s.rawOutflow_m3s[at] = -p.vessels[v].inflow_m3s;
    }
  });
  for (const KnownBranch& k : s.known) {
    s.rawOutflow_m3s[u(k.rawFrom)] += k.flow_m3s;
    s.rawOutflow_m3s[u(k.rawTo)] -= k.flow_m3s;
  }
}

// The same by solver node.
void fillNodes(System& s) {
  s.outflow_m3s.assign(u(s.nodeCount()), 0.0);
  for (std::size_t r = 0; r < s.rawToNode.size(); ++r) {
    const int node = s.rawToNode[r];
    if (node < 0) continue;
    s.outflow_m3s[u(node)] += s.rawOutflow_m3s[r];
    if (s.rawHolds[r]) s.fixedHead_m[u(node - s.freeCount)] = s.rawHead_m[r];
  }
}

// Links in the order in which a walk along the nodes meets them; of one node in the order in which they came.
void sortByNode(System& s) {
  const auto key = [](const Link& l) { return u(std::max(l.from, l.to)); };
  std::vector<std::size_t> begin(u(s.nodeCount()) + 1, 0);
  for (const Link& l : s.links) ++begin[key(l) + 1];
  std::partial_sum(begin.begin(), begin.end(), begin.begin());
  std::vector<Link> sorted(s.links.size());
  for (const Link& l : s.links) sorted[begin[key(l)]++] = l;
  s.links = std::move(sorted);
}

}  // namespace

SetUp setUp(const Network& network, const Setting& setting, const std::vector<double>& widest,
            const GivenInstead& instead) {
  SetUp out;
  System& s = out.system;
  s.altitudeAt_m = setting.altitudeAt_m;
  const Id bound = network.bound();
  s.pointRaw.assign(bound, -1);
  s.vesselBegin.assign(bound, -1);
  s.prepared.resize(bound);
  auto addRaw = [&](Id owner) {
    s.rawOwner.push_back(owner);
    return static_cast<int>(s.rawOwner.size()) - 1;
  };
  std::vector<char> used(bound, 0);  // points that something is joined to
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) s.pointRaw[id] = addRaw(id);
    if (e.part->group != Group::drawing)
      for (const Id end : e.ends) used[end] = 1;
  });
  s.rawHolds.assign(s.rawOwner.size(), 0);
  s.links.reserve(network.count() - s.rawOwner.size());
  std::vector<std::string> holder(s.rawOwner.size());
  std::pmr::vector<EndPlace> places;
  network.each([&](Id id, const Element& e) {
    if (!e.part->prepare) return;  // on the drawing only, or a service
    Prepared& p = s.prepared[id];
    if (!makeReady(network, e, setting, widest, used[id], p, out.problems, places)) return;
    if (e.part->ends == Ends::self) {
      if (!instead.heads.contains(id)) return;
      s.rawHolds[u(s.pointRaw[id])] = 1;
      holder[u(s.pointRaw[id])] = e.name;
      return;
    }
    if (p.holdsHead_m) {
      const auto at = u(s.pointRaw[e.ends[0]]);
      if (s.rawHolds[at])
        out.problems.push_back({{e.name, ""},
                                fmt::format("{} and {} both fix the pressure of {}", holder[at], e.name,
                                            network.at(e.ends[0]).name),
                                {{fmt::format("Go to {}", e.name), {}, {e.name, ""}}}});
      s.rawHolds[at] = 1;
      holder[at] = e.name;
    }
    for (const Vessel& v : p.vessels) {
      const int r = addRaw(id);
      holder.push_back(e.name);
      s.rawHolds.push_back(v.head_m.has_value());
      if (s.vesselBegin[id] < 0) s.vesselBegin[id] = r;
    }
    auto place = [&](int end) {
      return end >= 0 ? s.pointRaw[e.ends[u(end)]] : s.vesselBegin[id] + (-1 - end);
    };
    for (std::size_t b = 0; b < p.branches.size(); ++b) {
      Branch& branch = p.branches[b];
      if (const auto flow = instead.flows.find(id); flow != instead.flows.end() && p.branches.size() == 1)
        branch.givenFlow_m3s = flow->second, branch.shut = false;
      const int from = place(branch.from), to = place(branch.to);
      const BranchOf of{id, static_cast<int>(b)};
      if (branch.shut || branch.givenFlow_m3s) {
        s.known.push_back({from, to, knownFlow(branch), branch.shut, of});
      } else if (branch.law->lossless() && !instead.whole.contains(id) && !instead.free.contains(id)) {
        s.joins.push_back({from, to, of});
      } else {
        Link link;
        link.rawFrom = from, link.rawTo = to, link.of = of;
        if (const auto hold = branch.law->hold()) {
          link.rawHeld = hold->before ? from : to;
          for (const auto& [name, node] :
               {std::pair(&branch.holdsAt, &link.rawHeld), std::pair(&branch.over, &link.rawOver)}) {
            if (name->empty()) continue;
            const Id point = network.byName(*name);
            if (point == noId || network.at(point).part->ends != Ends::self) {
              out.problems.push_back({{e.name, ""},
                                      fmt::format("{}: there is no point \"{}\"", e.name, *name),
                                      {{fmt::format("Go to {}", e.name), {}, {e.name, ""}}}});
              return;
            }
            *node = s.pointRaw[point];
          }
        }
        readBranch(branch, network, setting, link);
        if (instead.free.contains(id)) {
          link.free = true;
          link.bars = link.holds = false;
          link.rawHeld = link.rawOver = -1;
          link.flowMost_m3s = std::numeric_limits<double>::infinity();
          link.choke.reset();
        }
        s.links.push_back(link);
      }
    }
  });
  if (!out.problems.empty()) return out;
  s.rawOutflow_m3s.resize(s.rawOwner.size());
  s.rawHead_m.assign(s.rawOwner.size(), 0.0);
  fillRaw(network, s, instead);

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
          {{b, ""},
           fmt::format("{} and {} both fix a level or pressure, with no head loss between them", a, b),
           {{fmt::format("Go to {}", b), {}, {b, ""}}}});
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
  for (std::size_t r = 0; r < rawCount;
       ++r)  // a flow given where no link is: the determinacy check will speak of it
    if (s.rawOutflow_m3s[r] != 0.0) touch(static_cast<int>(r));
  std::vector<std::pair<int, int>> edges;
  edges.reserve(s.links.size());
  auto freeOf = [&](int r) { return group[u(groups.find(r))]; };
  for (const Link& l : s.links)
    if (const int a = freeOf(l.rawFrom), b = freeOf(l.rawTo); a >= 0 && b >= 0 && a != b)
      edges.emplace_back(a, b);
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
        s.fixedHead_m.push_back(0.0);
      }
      s.rawToNode[r] = fixedNumber[u(g)];
    } else if (group[u(g)] >= 0) {
      s.rawToNode[r] = newNumber[u(group[u(g)])];
    }
  }
  fillNodes(s);
  for (Link& l : s.links) {
    l.from = s.rawToNode[u(l.rawFrom)], l.to = s.rawToNode[u(l.rawTo)];
    if (l.rawHeld >= 0) l.held = s.rawToNode[u(l.rawHeld)];
    if (l.rawOver >= 0) l.over = s.rawToNode[u(l.rawOver)];
  }
  sortByNode(s);
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
    const auto* branch = e.part->ends == Ends::self ? e.text(key::teeBranch) : nullptr;
    if (!branch || branch->empty()) return;
    if (linksAt.empty()) {
      linksAt.resize(rawCount);
      for (std::size_t i = 0; i < s.links.size(); ++i)
        linksAt[u(s.links[i].rawFrom)].push_back(i), linksAt[u(s.links[i].rawTo)].push_back(i);
    }
    TeeAt tee;
    tee.raw = s.pointRaw[id];
    std::vector<std::size_t> legs = linksAt[u(tee.raw)];
    const auto first = std::find_if(legs.begin(), legs.end(), [&](std::size_t i) {
      return network.at(s.links[i].of.element).name == *branch;
    });
    const bool pipes = std::all_of(legs.begin(), legs.end(), [&](std::size_t i) {
      return network.at(s.links[i].of.element).part->geometry != nullptr;
    });
    if (legs.size() != 3 || first == legs.end() || !pipes || s.rawHolds[u(tee.raw)]) {
      out.problems.push_back(
          {{e.name, key::teeBranch},
           fmt::format("{} is not a tee: exactly three pipes must meet there, one of them {}", e.name,
                       *branch),
           {{fmt::format("Remove the tee loss at {}", e.name),
             {{e.name, key::teeBranch, ""}},
             {e.name, key::teeBranch}}}});
      return;
    }
    std::iter_swap(legs.begin(), first);
    for (std::size_t k = 0; k < 3; ++k) {
      const Element& leg = network.at(s.links[legs[k]].of.element);
      Values scratch;
      const double d =
          leg.part->geometry(valuesOf(leg, setting.stock, scratch), setting).bore_m.value_or(0.1);
      tee.legs[k] = legs[k];
      tee.area_m2[k] = pi / 4 * d * d;
    }
    const Given *angle = e.given("tee angle"), *fillet = e.given("tee fillet");
    tee.shape = {1.0, angle ? angle->value : 90.0, fillet ? fillet->value : 0.0};
    s.tees.push_back(tee);
  });
  return out;
}

bool refit(System& s, std::vector<double>& widest, const Network& before, const Network& now,
           const Setting& setting) {
  const auto changed = now.changedSince(before);
  if (!changed || s.altitudeAt_m != setting.altitudeAt_m || !s.tees.empty() ||
      now.enclosure() != before.enclosure())
    return false;
  // What an element sees: itself, the heights of its points, the bores that meet there.
  std::vector<char> again(now.bound(), 0), seen(now.bound(), 0);
  bool anyPoint = false;
  for (const Id id : *changed) {
    const Element &e = now.at(id), &old = before.at(id);
    if (id == jobId || !e.part->prepare || e.part != old.part || e.name != old.name || e.ends != old.ends)
      return false;
    again[id] = 1;
    if (e.part->ends == Ends::self) {
      if (const auto* tee = e.text(key::teeBranch); tee && !tee->empty())
        return false;  // one that was not there
      seen[id] = 1, anyPoint = true;
    }
    if (e.part->geometry)
      for (const Id end : e.ends) seen[end] = 1;
  }
  std::vector<Id> affected;
  for (Id id = 1; id < now.bound(); ++id) {
    const Element* e = now.find(id);
    if (!e || !e->part->prepare) continue;
    if (!again[id] && std::none_of(e->ends.begin(), e->ends.end(), [&](Id end) { return seen[end] != 0; }))
      continue;
    affected.push_back(id);
    again[id] = 1;
  }
  for (Id id = 0; id < now.bound(); ++id)
    if (seen[id]) widest[id] = 0.0;
  for (const Id id : affected) widenAt(now.at(id), setting, widest);
  std::vector<Problem> problems;
  std::pmr::vector<EndPlace> places;
  for (const Id id : affected) {
    Prepared fresh;
    Prepared& p = s.prepared[id];
    if (!makeReady(now, now.at(id), setting, widest, true, fresh, problems, places) || !p.missing.empty())
      return false;
    if (fresh.branches.size() != p.branches.size() || fresh.vessels.size() != p.vessels.size() ||
        fresh.holdsHead_m.has_value() != p.holdsHead_m.has_value())
      return false;
    for (std::size_t v = 0; v < p.vessels.size(); ++v)
      if (fresh.vessels[v].head_m.has_value() != p.vessels[v].head_m.has_value()) return false;
    for (std::size_t b = 0; b < p.branches.size(); ++b) {
      const Branch &f = fresh.branches[b], &o = p.branches[b];
      if (f.from != o.from || f.to != o.to || f.shut != o.shut ||
          f.givenFlow_m3s.has_value() != o.givenFlow_m3s.has_value() || f.holdsAt != o.holdsAt ||
          f.over != o.over)
        return false;
      if (f.shut || f.givenFlow_m3s) continue;
      const auto hold = f.law->hold(), held = o.law->hold();
      if (f.law->lossless() != o.law->lossless() || hold.has_value() != held.has_value() ||
          (hold && hold->before != held->before))
        return false;
    }
    p = std::move(fresh);
  }
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    Link& l = s.links[i];
    if (anyPoint && l.holds &&
        (l.over >= 0 || !s.prepared[l.of.element].branches[u(l.of.branch)].holdsAt.empty()))
      return false;
    if (!again[l.of.element]) continue;
    readBranch(s.prepared[l.of.element].branches[u(l.of.branch)], now, setting, l);
    s.laws[i] = l.law->copy();
    l.law = s.laws[i].get();
  }
  for (KnownBranch& k : s.known)
    if (again[k.of.element]) k.flow_m3s = knownFlow(s.prepared[k.of.element].branches[u(k.of.branch)]);
  const std::vector<double> outflow = s.rawOutflow_m3s;
  fillRaw(now, s, {});
  for (std::size_t r = 0; r < outflow.size(); ++r)  // a flow where there was none may want a node of its own
    if ((outflow[r] != 0.0) != (s.rawOutflow_m3s[r] != 0.0)) return false;
  fillNodes(s);
  return true;
}

}  // namespace conduit

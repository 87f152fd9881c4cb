#include "solve/read_out.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "solve/index.h"

namespace conduit {

void throughJoins(const System& s, std::vector<double>& excess, std::vector<double>& joinFlow) {
  const std::size_t count = s.rawOwner.size();
  std::vector<std::vector<std::pair<int, std::size_t>>> beside(count);
  for (std::size_t j = 0; j < s.joins.size(); ++j) {
    beside[u(s.joins[j].rawFrom)].emplace_back(s.joins[j].rawTo, j);
    beside[u(s.joins[j].rawTo)].emplace_back(s.joins[j].rawFrom, j);
  }
  std::vector<char> seen(count, 0);
  auto tree = [&](int root) {
    std::vector<std::tuple<int, int, std::size_t>> order;  // node, parent, join
    order.emplace_back(root, -1, 0);
    seen[u(root)] = 1;
    for (std::size_t k = 0; k < order.size(); ++k)
      for (const auto& [next, join] : beside[u(std::get<0>(order[k]))])
        if (!seen[u(next)]) {
          seen[u(next)] = 1;
          order.emplace_back(next, std::get<0>(order[k]), join);
        }
    for (std::size_t k = order.size(); k-- > 1;) {
      const auto& [node, parent, join] = order[k];
      joinFlow[join] = s.joins[join].rawFrom == node ? excess[u(node)] : -excess[u(node)];
      excess[u(parent)] += excess[u(node)];
      excess[u(node)] = 0.0;
    }
  };
  for (std::size_t r = 0; r < count; ++r)
    if (s.rawHolds[r] && !seen[r] && !beside[r].empty()) tree(static_cast<int>(r));
  for (std::size_t r = 0; r < count; ++r)
    if (!seen[r] && !beside[r].empty()) tree(static_cast<int>(r));
}

void readOut(const Network& network, const System& s, const Iterate& x, const std::vector<char>& hanging,
             Solution& out) {
  const Id bound = network.bound();
  // What a balance that counts as met does not tell from nothing: rounding, not a flow.
  double nothing_m3s = Newton::smallestFlow_m3s;
  for (const double q : x.flow_m3s) nothing_m3s = std::max(nothing_m3s, Newton::smallestShare * std::abs(q));
  nothing_m3s *= Newton::massTolerance;
  // Beside the largest flow a thousand millionth of it is none either.
  out.still_m3s = nothing_m3s;
  for (const double q : x.flow_m3s) out.still_m3s = std::max(out.still_m3s, 1e-9 * std::abs(q));
  std::vector<double> rawHead(s.rawOwner.size(), NAN);
  for (std::size_t r = 0; r < s.rawOwner.size(); ++r)
    if (const int n = s.rawToNode[r]; n >= 0 && !hanging[u(n)]) rawHead[r] = x.head_m[u(n)];
  for (Id id = 0; id < bound; ++id)
    if (s.pointRaw[id] >= 0) {
      out.pointHead_m[id] = rawHead[u(s.pointRaw[id])];
      if (std::isnan(out.pointHead_m[id])) ++out.summary.undetermined;
    }
  std::vector<double> excess(s.rawOwner.size());
  for (std::size_t r = 0; r < excess.size(); ++r) excess[r] = -s.rawOutflow_m3s[r];
  auto put = [&](BranchOf of, double q, int rawFrom, int rawTo, BranchState state) {
    out.branches[out.branchBegin[of.element] + static_cast<std::uint32_t>(of.branch)] = {
        q, rawHead[u(rawFrom)], rawHead[u(rawTo)], state};
  };
  std::map<Id, const char*> notOpen;
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    excess[u(l.rawTo)] += x.flow_m3s[i];
    excess[u(l.rawFrom)] -= x.flow_m3s[i];
    LinkState state = x.state[i];
    // Shut at rest with nothing pressing on it is the same as open: it is called that whatever way the solver
    // came.
    if (state == LinkState::shut && !hanging[u(l.from)] && !hanging[u(l.to)] &&
        std::abs(x.head_m[u(l.from)] - x.head_m[u(l.to)] - l.noFlowDrop_m) <= 1e-6) {
      const double over =
          l.holds ? x.head_m[u(l.held)] - (l.over < 0 ? 0.0 : x.head_m[u(l.over)]) - l.held_m : 0.0;
      if (!l.holds || (l.holdsBefore ? -over : over) <= 1e-6) state = LinkState::flowing;
    }
    put(l.of, std::abs(x.flow_m3s[i]) <= nothing_m3s ? 0.0 : x.flow_m3s[i], l.rawFrom, l.rawTo,
        state == LinkState::shut      ? BranchState::shut
        : state == LinkState::flowing ? BranchState::open
                                      : BranchState::acting);
    if (state == LinkState::shut) ++out.summary.shut;
    if (state == LinkState::acting || state == LinkState::limiting) ++out.summary.acting;
    if (state != LinkState::flowing) notOpen[l.of.element] = state == LinkState::shut ? "shut" : "acting";
  }
  for (const KnownBranch& k : s.known)
    if (k.shut) notOpen[k.of.element] = "closed";
  for (const auto& [id, word] : notOpen) out.summary.states.push_back(network.at(id).name + " " + word);
  for (const KnownBranch& k : s.known)
    put(k.of, k.flow_m3s, k.rawFrom, k.rawTo, k.shut ? BranchState::shut : BranchState::open);
  std::vector<double> joinFlow(s.joins.size(), 0.0);
  throughJoins(s, excess, joinFlow);
  for (std::size_t j = 0; j < s.joins.size(); ++j)
    put(s.joins[j].of, joinFlow[j], s.joins[j].rawFrom, s.joins[j].rawTo, BranchState::open);

  // Who gives and who takes: held raw nodes what the balance leaves to them, others what was given.
  std::vector<double> shares(bound, NAN);
  const auto give = [&](Id id, double inflow) {
    shares[id] = (std::isnan(shares[id]) ? 0.0 : shares[id]) + inflow;
  };
  for (std::size_t r = 0; r < s.rawOwner.size(); ++r)
    if (s.rawHolds[r] && network.at(s.rawOwner[r]).part->ends != Ends::self) give(s.rawOwner[r], -excess[r]);
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self && s.pointRaw[id] >= 0 && !std::isnan(s.prepared[id].inflow_m3s) &&
        s.prepared[id].inflow_m3s != 0.0)
      give(id, s.prepared[id].inflow_m3s);
    if (e.part->ends == Ends::one && !e.ends.empty()) {
      if (s.prepared[id].holdsHead_m) {
        out.heldInflow_m3s[id] = -excess[u(s.pointRaw[e.ends[0]])];
        give(id, out.heldInflow_m3s[id]);
      } else if (s.prepared[id].inflow_m3s != 0.0) {
        give(id, s.prepared[id].inflow_m3s);
      }
    }
    if (e.part->ends == Ends::many && !s.prepared[id].vessels.empty() && !s.prepared[id].vessels[0].head_m)
      give(id, s.prepared[id].vessels[0].inflow_m3s);
  });
  for (Id id = 0; id < bound; ++id)
    if (!std::isnan(shares[id])) out.summary.shares.push_back({id, shares[id]});
  out.summary.sumShares();
  for (Id id = 0; id < bound; ++id)
    if (s.vesselBegin[id] >= 0)
      for (std::uint32_t v = out.vesselBegin[id]; v < out.vesselBegin[id + 1]; ++v)
        out.vesselHead_m[v] = rawHead[u(s.vesselBegin[id]) + (v - out.vesselBegin[id])];
}

void checkBoundary(Solution& solution) {
  Summary& sum = solution.summary;
  const double slack_m3s = 1e-6 * std::max(sum.inflow_m3s, sum.outflow_m3s) +
                           static_cast<double>(sum.unknowns + 1) * solution.still_m3s;
  if (sum.verdict == Verdict::balanced && !(std::abs(sum.inflow_m3s - sum.outflow_m3s) <= slack_m3s)) {
    sum.verdict = Verdict::notConverged;
    sum.problems.push_back(
        {{}, fmt::format("{:.9g} m³/s flow in and {:.9g} m³/s out", sum.inflow_m3s, sum.outflow_m3s), {}});
  }
}

std::optional<Problem> liftsWithoutDrive(const Network& network, const System& s, const Solution& solution,
                                         const std::map<Id, double>& passes) {
  constexpr double slack_m = 1e-4;
  std::optional<Problem> problem;
  network.each([&](Id id, const Element& e) {
    if (problem || !e.part->prepare || e.part->ends == Ends::self || e.part->lifts || passes.contains(id))
      return;
    for (std::size_t b = solution.branchBegin[id]; b < solution.branchBegin[id + 1]; ++b) {
      const auto& v = solution.branches[b];
      if (std::abs(v.flow_m3s) < 1e-9 ||
          !(v.flow_m3s * (v.headTo_m - v.headFrom_m) > slack_m * std::abs(v.flow_m3s)))
        continue;
      const bool atTee = std::any_of(s.tees.begin(), s.tees.end(), [&](const TeeAt& t) {
        return std::any_of(t.legs, t.legs + 3, [&](std::size_t i) { return s.links[i].of.element == id; });
      });
      if (atTee) continue;
      problem = Problem{{e.name, ""},
                        e.name + " would have to add head, and is not a pump",
                        {{"Go to " + e.name, {}, {e.name, ""}}}};
      return;
    }
  });
  return problem;
}

void startFrom(const Solution& last, const System& s, Iterate& x) {
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const BranchOf of = s.links[i].of;
    if (u(of.branch) >= last.branchCount(of.element)) continue;
    const BranchReading b = last.branch(of.element, u(of.branch));
    if (b.flow_m3s) x.flow_m3s[i] = *b.flow_m3s;
    if (s.links[i].holds || s.links[i].choke)
      x.state[i] = b.state == BranchState::acting ? LinkState::acting
                   : b.state == BranchState::shut ? LinkState::shut
                                                  : LinkState::flowing;
  }
  for (std::size_t id = 0; id < s.pointRaw.size(); ++id)
    if (const int raw = s.pointRaw[id]; raw >= 0)
      if (const int node = s.rawToNode[u(raw)]; node >= 0 && s.isFree(node))
        if (const auto h = last.head(static_cast<Id>(id))) x.head_m[u(node)] = *h;
  x.guessed = false;
}

void makeRoom(const Network& network, const System& s, Solution& out) {
  const Id bound = network.bound();
  out.pointHead_m.assign(bound, NAN);
  out.heldInflow_m3s.assign(bound, NAN);
  out.branchBegin.assign(bound + 1, 0);
  out.vesselBegin.assign(bound + 1, 0);
  for (Id id = 0; id < bound; ++id) {
    const bool there = id < s.prepared.size();
    out.branchBegin[id + 1] =
        out.branchBegin[id] + static_cast<std::uint32_t>(there ? s.prepared[id].branches.size() : 0);
    out.vesselBegin[id + 1] =
        out.vesselBegin[id] + static_cast<std::uint32_t>(there ? s.prepared[id].vessels.size() : 0);
  }
  out.branches.assign(out.branchBegin.back(), {});
  out.vesselHead_m.assign(out.vesselBegin.back(), NAN);
}

}  // namespace conduit

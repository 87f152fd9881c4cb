#include "solve/newton.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>

#include "say/ensure.h"
#include "solve/index.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

// Head that presses a moderate flow back through a barring link, m.
constexpr double stiffness = 1e6;

class Clock {
 public:
  explicit Clock(double& into) : into_(into), begin_(std::chrono::steady_clock::now()) {}
  ~Clock() { into_ += std::chrono::duration<double>(std::chrono::steady_clock::now() - begin_).count(); }
  Clock(const Clock&) = delete;
  Clock& operator=(const Clock&) = delete;

 private:
  double& into_;
  std::chrono::steady_clock::time_point begin_;
};

// How far upstream head and flow are from the choked relation, as a head: (q − f)/f'.
double chokeMiss_m(const Choke& c, double q, double from_m, double to_m) {
  const Choked f = choked(c, q, from_m, to_m);
  return (q - f.flow_m3s) / f.slope_m2s;
}

}  // namespace

Choked choked(const Choke& c, double q, double from_m, double to_m) {
  const bool forward = q >= 0;
  const double over = std::max(forward ? from_m - c.baseFrom_m : to_m - c.baseTo_m, 1e-6),
               flow = (forward ? c.coefficient : c.backward) * std::sqrt(over);
  return {forward ? flow : -flow, (forward ? flow : -flow) / (2 * over), forward};
}

Newton::Newton(const System& system, Factor factor) : s_(system), factor_(std::move(factor)) {
  if (factor_.nodes() == 0) {
    Clock clock(times_.order);
    factor_ = Factor(s_.freeCount, s_.edges);
  }
  const std::size_t links = s_.links.size(), nodes = u(s_.nodeCount());
  slim_.reserve(links);
  for (std::size_t i = 0; i < links; ++i) {
    const Link& l = s_.links[i];
    slim_.push_back({l.law, l.from, l.to, s_.linkEdge[i] < 0 ? -1 : factor_.slot(u(s_.linkEdge[i])),
                     l.bars || std::isfinite(l.flowMost_m3s)});
  }
  drop_.resize(links);
  across_.resize(links);
  memory_.assign(links, 0.0);
  stiff_.resize(links);
  conductance_.resize(links);
  direction_.resize(links);
  actingGroup_.assign(links, -1);
  sum_.resize(nodes);
  rhs_.resize(nodes);
  deltaHead_.resize(nodes);
  pinned_.assign(nodes, 0);
  hanging_.assign(nodes, 0);
  wasZero_.assign(nodes, 0);
  UnionFind together(nodes);
  for (const Link& l : s_.links) together.join(l.from, l.to);
  std::vector<char> held(nodes, 0);
  for (int n = s_.freeCount; n < s_.nodeCount(); ++n) held[u(together.find(n))] = 1;
  for (int n = 0; n < s_.freeCount && !pockets_; ++n) pockets_ = !held[u(together.find(n))];
  // Backflow of a millionth of a moderate flow for each metre: stiff, and still far from upsetting the
  // factor.
  for (std::size_t i = 0; i < links; ++i) stiff_[i] = stiffness / s_.links[i].law->startFlow_m3s();
}

Iterate Newton::coldStart() const {
  Iterate x;
  x.guessed = true;
  x.flow_m3s.resize(s_.links.size());
  x.state.assign(s_.links.size(), LinkState::flowing);
  for (std::size_t i = 0; i < s_.links.size(); ++i) x.flow_m3s[i] = s_.links[i].law->startFlow_m3s();
  double mean = 0.0;
  for (const double h : s_.fixedHead_m) mean += h / static_cast<double>(s_.fixedHead_m.size());
  x.head_m.assign(u(s_.nodeCount()), mean);
  std::copy(s_.fixedHead_m.begin(), s_.fixedHead_m.end(), x.head_m.begin() + s_.freeCount);
  x.inflow_m3s.assign(free_.size(), 0.0);
  return x;
}

// The law of a link as its state and bounds have it.
Loss Newton::lossInState(const Iterate& x, std::size_t i, Mode mode) {
  const double q = x.flow_m3s[i], stiff = stiff_[i];
  const Link& l = s_.links[i];
  if (x.state[i] == LinkState::shut) return {stiff * q, stiff};
  if (l.bars && q < 0 && mode == Mode::soft) return {l.noFlowDrop_m + stiff * q, stiff};
  if (q > l.flowMost_m3s && mode == Mode::soft)
    return {l.law->at(l.flowMost_m3s, memory_[i]).drop_m + stiff * (q - l.flowMost_m3s), stiff};
  return l.law->at(q, memory_[i]);
}

// Which nodes are pinned (held by an acting device, or the base of a hanging piece), and who shares their
// flow.
void Newton::prepareStates(Iterate& x, Mode mode) {
  std::fill(pinned_.begin(), pinned_.end(), 0);
  std::fill(hanging_.begin(), hanging_.end(), 0);
  anyPinned_ = false;
  std::fill(actingGroup_.begin(), actingGroup_.end(), -1);
  acting_.clear();
  x.inflow_m3s.resize(free_.size(), 0.0);
  for (std::size_t f = 0; f < free_.size(); ++f)
    if (free_[f].kind == Free::Kind::flow) x.state[free_[f].link] = LinkState::acting;
  bool anyFixed = false;
  std::vector<int> pinnedBy;
  for (std::size_t i = 0; i < s_.links.size(); ++i) {
    const Link& l = s_.links[i];
    anyFixed = anyFixed || x.state[i] == LinkState::shut || x.state[i] == LinkState::limiting;
    if (x.state[i] != LinkState::acting || l.free) continue;
    const bool pins = l.holds && l.over < 0;
    if (pins && pinnedBy.empty()) pinnedBy.assign(u(s_.nodeCount()), -1);
    int group = pins ? pinnedBy[u(l.held)] : -1;
    if (group < 0) {
      group = static_cast<int>(acting_.size());
      acting_.push_back({});
      if (pins) {
        acting_.back().node = l.held;
        pinnedBy[u(l.held)] = group;
        pinned_[u(l.held)] = 1;
        anyPinned_ = true;
      }
    }
    acting_[u(group)].links.push_back(i);
    actingGroup_[i] = group;
  }
  for (std::size_t f = 0; f < free_.size(); ++f) {
    ActingGroup group;
    group.free = static_cast<int>(f);
    if (free_[f].kind == Free::Kind::flow)
      group.links.push_back(free_[f].link), actingGroup_[free_[f].link] = static_cast<int>(acting_.size());
    acting_.push_back(std::move(group));
  }
  for (ActingGroup& g : acting_) {  // equal devices share by size
    double sum = 0.0;
    for (const std::size_t i : g.links) sum += s_.links[i].law->startFlow_m3s();
    for (const std::size_t i : g.links) g.shares.push_back(s_.links[i].law->startFlow_m3s() / sum);
    double whole = 0.0;
    for (const std::size_t i : g.links) whole += x.flow_m3s[i];
    for (std::size_t k = 0; k < g.links.size(); ++k) x.flow_m3s[g.links[k]] = whole * g.shares[k];
  }
  if (anyPinned_) {
    for (std::size_t i = 0; i < slim_.size(); ++i)
      for (const int n : {slim_[i].from, slim_[i].to})
        if (pinnedBy[u(n)] >= 0) acting_[u(pinnedBy[u(n)])].beside.push_back(i);
  }
  // Pieces without any head: those between closed devices in either mode, those that shutting makes in the
  // exact one.
  if (!pockets_ && acting_.empty() && (mode == Mode::soft || !anyFixed)) return;
  if (mode == Mode::exact)
    for (std::size_t i = 0; i < s_.links.size(); ++i) {
      if (x.state[i] == LinkState::shut) x.flow_m3s[i] = 0.0;
      if (x.state[i] == LinkState::limiting) x.flow_m3s[i] = s_.links[i].flowMost_m3s;
    }
  UnionFind together(u(s_.nodeCount()));
  for (std::size_t i = 0; i < s_.links.size(); ++i) {
    const bool relation = x.state[i] == LinkState::acting && acting_[u(actingGroup_[i])].node < 0 && !frozen_;
    if (x.state[i] == LinkState::flowing || relation ||
        (x.state[i] != LinkState::acting && mode == Mode::soft))
      together.join(s_.links[i].from, s_.links[i].to);
  }
  std::vector<char> held(u(s_.nodeCount()), 0);
  for (int n = 0; n < s_.nodeCount(); ++n)
    if (!s_.isFree(n) || pinned_[u(n)]) held[u(together.find(n))] = 1;
  for (int n = 0; n < s_.freeCount; ++n) {
    const int root = together.find(n);
    if (held[u(root)]) continue;
    hanging_[u(n)] = 1;
    anyPinned_ = true;
    if (root == n) pinned_[u(n)] = 1;  // the lowest number of its piece: its head is only a base
  }
}

// One walk over the links gathers all that a step needs of the present flows and heads: losses and their
// slopes, residuals, the matrix and the right-hand side.
void Newton::look(const Iterate& x, Mode mode) {
  Clock clock(times_.laws);
  factor_.clear();
  for (std::size_t n = 0; n < sum_.size(); ++n)
    sum_[n] = {-s_.outflow_m3s[n], std::abs(s_.outflow_m3s[n]), 0.0, 0.0};
  double headSize = 0.0, worst = 0.0;
  // Places by plain pointers: after a law has been called the compiler would look each of them up again.
  const double *const flows = x.flow_m3s.data(), *const heads = x.head_m.data(),
                      *const besides = beside_.empty() ? nullptr : beside_.data();
  const LinkState* const states = x.state.data();
  double *const drops = drop_.data(), *const acrosses = across_.data(),
                *const conductances = conductance_.data(), *const memories = memory_.data();
  Sum* const sums = sum_.data();
  const Slim* const slims = slim_.data();
  const bool guessed = x.guessed;
  for (std::size_t f = 0; f < free_.size(); ++f)
    if (free_[f].kind == Free::Kind::inflow)
      sum_[u(free_[f].node)].mass += x.inflow_m3s[f],
          sum_[u(free_[f].node)].throughput += std::abs(x.inflow_m3s[f]);
  for (std::size_t i = 0, links = slim_.size(); i < links; ++i) {
    const Slim l = slims[i];
    const bool flowing = states[i] == LinkState::flowing;
    const double q = flows[i], size = std::abs(q), hf = heads[u(l.from)], ht = heads[u(l.to)];
    Loss loss = flowing && !l.bounded ? l.law->at(q, memories[i]) : lossInState(x, i, mode);
#ifndef NDEBUG
    ensure(std::isfinite(loss.drop_m) && loss.slope_sm2 > 0, "a law gave no loss or no rising slope");
#endif
    if (besides && flowing) loss.drop_m += besides[i];
    const double across = hf - ht, miss = across - loss.drop_m;
    if (guessed && loss.drop_m * q > 0) loss.slope_sm2 = std::min(loss.slope_sm2, loss.drop_m / q);
    headSize = std::max(headSize, std::max(std::abs(hf), std::abs(loss.drop_m)));
    double c = 1.0 / loss.slope_sm2;
    if (flowing) {  // what is pressed against its bar or its most is told by the flow that leaks: 1 m for a
                    // moderate one
      worst = std::max(worst, l.bounded && loss.slope_sm2 == stiff_[i] ? std::abs(miss) / (stiffness * ease_)
                                                                       : std::abs(miss));
    } else if (states[i] == LinkState::acting) {
      const Link& whole = s_.links[i];
      if (!frozen_ && !whole.free) {
        const double by = whole.choke ? chokeMiss_m(*whole.choke, q, hf, ht)
                                      : x.head_m[u(whole.held)] -
                                            (whole.over < 0 ? 0.0 : x.head_m[u(whole.over)]) - whole.held_m;
        worst = std::max(worst, std::abs(by));
      }
      if (frozen_ || acting_[u(actingGroup_[i])].node >= 0) c = 0.0;  // its flow is an unknown of its own
    } else if (mode == Mode::exact) {
      c = 0.0;
    }
    // Less than the rounding of two heads is no residual: through a link of next to no loss it would push
    // flows about.
    const double rounding = 4 * std::numeric_limits<double>::epsilon() * (std::abs(hf) + std::abs(ht));
    drops[i] = loss.drop_m;
    acrosses[i] = std::abs(miss) <= rounding ? loss.drop_m : across;
    conductances[i] = c;
    const double push = c * (acrosses[i] - loss.drop_m);
    const double felt =
        l.from == l.to ? 0.0 : c;  // a link beside a branch without loss runs in a ring: no head feels it
    Sum &from = sums[u(l.from)], &to = sums[u(l.to)];
    from.mass -= q, from.throughput += size, from.push -= push, from.diagonal += felt;
    to.mass += q, to.throughput += size, to.push += push, to.diagonal += felt;
    if (l.slot >= 0 && !(anyPinned_ && (pinned_[u(l.from)] | pinned_[u(l.to)])))
      factor_.offDiagonal(l.slot) -= c;
  }
  if (!free_.empty()) {
    terms_.clear();
    for (const Free& f : free_) {
      terms_.push_back(f.relation->at(x));
      if (!frozen_)
        worst = std::max(worst, std::isfinite(terms_.back().miss) ? std::abs(terms_.back().miss) : 1e300);
    }
  }
  last_ = {};
  last_.head_m = worst;
  last_.headTolerance_m = std::max(headTolerance_m, 64 * std::numeric_limits<double>::epsilon() * headSize);
  closeNodes();
}

// What follows for the nodes once every link has been seen.
void Newton::closeNodes() {
  double smallest = smallestFlow_m3s;
  for (const Sum& sum : sum_) smallest = std::max(smallest, smallestShare * sum.throughput);
  for (std::size_t n = 0; n < sum_.size(); ++n) {
    const Sum& sum = sum_[n];
    rhs_[n] = sum.mass + sum.push;
    if (n >= u(s_.freeCount)) continue;
    wasZero_[n] = !pinned_[n] && sum.diagonal == 0.0;  // nothing but an acting device is joined to it
    factor_.diagonal(static_cast<int>(n)) = pinned_[n] || wasZero_[n] ? 1.0 : sum.diagonal;
    if (frozen_ && pinned_[n]) continue;
    const double size = std::abs(sum.mass);
    last_.mass_m3s = std::max(last_.mass_m3s, size);
    last_.massShare = std::max(last_.massShare, size / std::max(sum.throughput, smallest));
  }
}

// Pinned and fixed nodes: their change is known; it goes to the right-hand side of their neighbours.
void Newton::spreadPinned(const std::vector<double>& change, std::span<double> b) const {
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim l = slim_[i];
    const double c = conductance_[i];
    if (c == 0.0) continue;
    const auto known = [&](int n) { return !s_.isFree(n) || pinned_[u(n)]; };
    if (known(l.from) && !known(l.to)) b[u(l.to)] += c * change[u(l.from)];
    if (known(l.to) && !known(l.from)) b[u(l.from)] += c * change[u(l.to)];
  }
  for (int n = 0; n < s_.freeCount; ++n)
    if (pinned_[u(n)]) b[u(n)] = change[u(n)];
    else if (wasZero_[u(n)]) b[u(n)] = 0.0;
}

// What the relation of group g misses, before any change of heads.
double Newton::missOf(const Iterate& x, std::size_t g) const {
  const ActingGroup& group = acting_[g];
  if (group.node >= 0) return rhs_[u(group.node)];
  if (group.free >= 0) {
    double sum = terms_[u(group.free)].miss;
    for (const auto& [i, by] : terms_[u(group.free)].byFlow)
      sum += by * conductance_[i] * (across_[i] - drop_[i]);
    return sum;
  }
  const std::size_t i = group.links[0];
  const Link& l = s_.links[i];
  if (!l.choke) return x.head_m[u(l.held)] - x.head_m[u(l.over)] - l.held_m;
  return x.flow_m3s[i] + conductance_[i] * (across_[i] - drop_[i]) -
         choked(*l.choke, x.flow_m3s[i], x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s;
}

// One linear system from what was last looked at: the change of every head, and of every flow.
bool Newton::step(const Iterate& x) {
  Clock clock(times_.factor);
  std::copy(rhs_.begin(), rhs_.begin() + s_.freeCount, deltaHead_.begin());
  std::fill(deltaHead_.begin() + s_.freeCount, deltaHead_.end(), 0.0);
  std::vector<double> known;
  if (anyPinned_ || !acting_.empty()) {
    known.assign(deltaHead_.size(), 0.0);
    for (const ActingGroup& g : acting_)
      if (g.node >= 0) known[u(g.node)] = s_.links[g.links[0]].held_m - x.head_m[u(g.node)];
  }
  const auto miss = [&](std::size_t g) { return missOf(x, g); };
  if (wide()) {
    if (!factorWide(x)) return false;
    solveWide(x, known, miss, deltaHead_);
  } else {
    const std::span<double> b(deltaHead_.data(), u(s_.freeCount));
    if (!known.empty()) spreadPinned(known, b);
    if (!factor_.factorAndSolve(b)) return false;
    for (ActingGroup& g : acting_) g.change_m3s = 0.0;
    if (!acting_.empty() && !frozen_) {
      borderColumns(x);
      if (!border(x, deltaHead_, miss)) return false;
    }
  }
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim& l = slim_[i];
    direction_[i] = conductance_[i] * (across_[i] - drop_[i] + deltaHead_[u(l.from)] - deltaHead_[u(l.to)]);
  }
  for (const ActingGroup& g : acting_)
    for (std::size_t k = 0; k < g.links.size(); ++k) direction_[g.links[k]] += g.change_m3s * g.shares[k];
  return true;
}

bool Newton::linearise(Iterate& x, Mode mode) {
  prepareStates(x, mode);
  look(x, mode);
  if (wide()) return factorWide(x);
  if (!factor_.factorise()) return false;
  borderColumns(x);
  return true;
}

void Newton::respond(const Iterate& x, const Change& change, std::vector<double>& head,
                     std::vector<double>& flow) {
  std::vector<double> brought(rhs_.size(), 0.0), known(rhs_.size(), 0.0);
  flow.assign(slim_.size(), 0.0);
  for (const auto& [i, d] : change.drop) {
    flow[i] = -conductance_[i] * d;
    brought[u(slim_[i].from)] += conductance_[i] * d;
    brought[u(slim_[i].to)] -= conductance_[i] * d;
  }
  for (const auto& [i, d] : change.limit) {
    if (x.state[i] != LinkState::limiting) continue;
    flow[i] = d;
    brought[u(slim_[i].from)] -= d;
    brought[u(slim_[i].to)] += d;
  }
  for (const auto& [n, d] : change.outflow) brought[u(n)] -= d;
  for (const auto& [n, d] : change.head) known[u(n)] = d;
  std::vector<double> heldBy(acting_.size(), 0.0);
  for (const auto& [i, d] : change.held) {
    if (x.state[i] != LinkState::acting) continue;
    const int g = actingGroup_[i];
    if (acting_[u(g)].node >= 0) known[u(acting_[u(g)].node)] = d;
    else heldBy[u(g)] = d;
  }
  head = known;
  std::copy(brought.begin(), brought.begin() + s_.freeCount, head.begin());
  const auto miss = [&](std::size_t g) {
    const ActingGroup& group = acting_[g];
    if (group.node >= 0) return brought[u(group.node)];
    if (group.free >= 0) {
      double sum = 0.0;
      for (const auto& [i, by] : terms_[u(group.free)].byFlow) sum += by * flow[i];
      return sum;
    }
    return s_.links[group.links[0]].choke ? flow[group.links[0]] : -heldBy[g];
  };
  if (wide()) {
    solveWide(x, known, miss, head);
  } else {
    const std::span<double> b(head.data(), u(s_.freeCount));
    if (anyPinned_ || !change.head.empty() || !acting_.empty()) spreadPinned(known, b);
    factor_.solve(b);
    for (ActingGroup& g : acting_) g.change_m3s = 0.0;
    if (!acting_.empty()) (void)border(x, head, miss);
  }
  for (std::size_t i = 0; i < slim_.size(); ++i)
    flow[i] += conductance_[i] * (head[u(slim_[i].from)] - head[u(slim_[i].to)]);
  for (const ActingGroup& g : acting_)
    for (std::size_t k = 0; k < g.links.size(); ++k) flow[g.links[k]] += g.change_m3s * g.shares[k];
}

// A link that hardly flowed seems to pass anything for next to no head: a step then drives a flow through it
// that costs a hundred times the head which the same step leaves across it, and every later one takes only a
// quarter of that away. Such a flow is drawn back to what that head drives, by the square law that losses
// follow there; the next step sees to the balance.
bool Newton::drawBack(Iterate& x) {
  constexpr double tooFar = 2.0, least_m = 0.1;
  bool any = false;
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    if (x.state[i] != LinkState::flowing) continue;
    const Link& l = s_.links[i];
    double& q = x.flow_m3s[i];
    if (slim_[i].bounded && ((l.bars && q < 0) || q > l.flowMost_m3s)) continue;
    const double across = across_[i] - l.noFlowDrop_m, drop = drop_[i] - l.noFlowDrop_m;
    if (std::abs(drop - across) < least_m || !(drop * across > 0) || drop * q <= 0 ||
        std::abs(drop) < tooFar * std::abs(across))
      continue;
    q *= std::sqrt(across / drop);
    any = true;
  }
  return any;
}

namespace {

// When a run ends, each rule as a question.
class StopRules {
 public:
  explicit StopRules(double enough_m)
      : enough_m_(enough_m), enoughMass_(std::max(Newton::massTolerance, 1e-4 * std::min(enough_m, 1.0))) {}
  // As far as the tolerance and, as Newton doubles its digits in each step, once more to the floor if the
  // last step still gained.
  [[nodiscard]] bool converged(const Residuals& r) const {
    const double floor = std::max(1e-10, r.headTolerance_m * 1e-6);
    return r.head_m <= r.headTolerance_m && r.massShare <= Newton::massTolerance &&
           (r.head_m <= floor || sinceBest_ > 0);
  }
  [[nodiscard]] bool nearEnough(const Residuals& r) const {
    return r.head_m <= enough_m_ && r.massShare <= enoughMass_;
  }
  // With every law met a piece that depends on no head is still out of balance: in these states nothing can
  // give it.
  [[nodiscard]] bool staysCutOff(const Residuals& r, bool wholeStep, const std::vector<char>& hanging) {
    return r.head_m <= r.headTolerance_m && wholeStep &&
           std::find(hanging.begin(), hanging.end(), 1) != hanging.end() && ++cutOff_ > 3;
  }
  // Where heads are right and yet there is no balance it is rounding. `steady`: no device acts.
  [[nodiscard]] bool gainsNoMore(const Residuals& r, bool steady) {
    if (r.head_m < 0.5 * best_) {
      best_ = r.head_m, sinceBest_ = 0;
      return false;
    }
    return ++sinceBest_ > (r.head_m <= r.headTolerance_m ? 6 : steady ? 60 : 20);
  }
  [[nodiscard]] bool gainsLittle() const { return sinceBest_ > 8; }
  // At one bound after another.
  [[nodiscard]] bool cutShortTooOften(double taken) { return taken < 0.05 && ++cutShort_ > 8; }

 private:
  double enough_m_, enoughMass_, best_ = std::numeric_limits<double>::infinity();
  int sinceBest_ = 0, cutShort_ = 0, cutOff_ = 0;
};

}  // namespace

Newton::End Newton::run(Iterate& x, Mode mode, std::stop_token stop, double enough_m,
                        const std::function<bool()>& breakOff) {
  prepareStates(x, mode);
  look(x, mode);
  x.guessed = false;
  bool balanced = false;  // the flows keep every node's balance, so that the line search may lean on it
  StopRules rules(enough_m);
  ++runs_;
  double taken = 0.0;
  std::vector<double> flowBefore(x.flow_m3s), headBefore(x.head_m), acrossBefore(slim_.size());
  for (int round = 0; round < 200; ++round) {
    if (stop.stop_requested()) return End::stopped;
    const Residuals& r = last_;
    const bool steady = acting_.empty() || frozen_;
    if (record_) {
      record_->push_back({runs_, round, r.head_m, r.massShare, taken, mode == Mode::exact, {}});
      for (std::size_t i = 0; round == 0 && i < slim_.size(); ++i)
        if (x.state[i] != LinkState::flowing)
          record_->back().notOpen.emplace_back(s_.links[i].of.element, x.state[i] == LinkState::shut
                                                                           ? BranchState::shut
                                                                           : BranchState::acting);
    }
    if (rules.converged(r) || rules.nearEnough(r)) return End::converged;
    if (breakOff && round > 0 && breakOff()) return End::broken;
    if (mode == Mode::exact && rules.staysCutOff(r, taken == 1.0, hanging_)) return End::cutOff;
    if (rules.gainsNoMore(r, steady)) return End::stalled;
    ++iterations_;
    if (!step(x)) return End::notDefinite;
    // Line search on the slope of the content function along the step: with every node in balance it is Σ (h
    // − ΔH) d, it begins below zero and rises (each law rises), so a step that ends far above zero went too
    // far.
    const bool lean =
        balanced && r.head_m > r.headTolerance_m && steady;  // with the heads right, only rounding is left
    const auto slope = [&](const std::vector<double>& across) {
      double sum = 0.0;
      for (std::size_t i = 0; i < slim_.size(); ++i) sum += (drop_[i] - across[i]) * direction_[i];
      return sum;
    };
    const double slope0 = lean ? slope(across_) : 0.0, headMiss = r.head_m;
    flowBefore.swap(x.flow_m3s);
    headBefore.swap(x.head_m);
    acrossBefore.swap(across_);
    const std::vector<double> inflowBefore = x.inflow_m3s;
    for (std::size_t n = u(s_.freeCount); n < headBefore.size(); ++n) x.head_m[n] = headBefore[n];
    const auto take = [&](double share) {
      for (std::size_t i = 0; i < slim_.size(); ++i) x.flow_m3s[i] = flowBefore[i] + share * direction_[i];
      for (std::size_t n = 0; n < u(s_.freeCount); ++n) x.head_m[n] = headBefore[n] + share * deltaHead_[n];
      for (const ActingGroup& g : acting_) {
        if (g.free < 0 || frozen_) continue;
        const Free& f = free_[u(g.free)];
        if (f.kind == Free::Kind::head) x.head_m[u(f.node)] = headBefore[u(f.node)] + share * g.change_m3s;
        if (f.kind == Free::Kind::inflow)
          x.inflow_m3s[u(g.free)] = inflowBefore[u(g.free)] + share * g.change_m3s;
      }
      if (share == 1.0)
        for (const ActingGroup& g : acting_)
          if (g.node >= 0) x.head_m[u(g.node)] = s_.links[g.links[0]].held_m;
      look(x, mode);
      taken = share;
    };
    take(1.0);
    if (breakOff && round < 4 && drawBack(x)) {
      look(x, mode);
      balanced = false;
      taken = 0.0;
      continue;
    }
    double slope1 = lean ? slope(acrossBefore) : 0.0;
    if (lean && slope0 < 0.0 && slope1 > -0.9 * slope0) {
      double low = 0.0, lowSlope = slope0, high = 1.0, highSlope = slope1;
      for (int trial = 0; trial < 8; ++trial) {
        const double share = std::clamp(low - lowSlope * (high - low) / (highSlope - lowSlope),
                                        low + 0.1 * (high - low), high - 0.1 * (high - low));
        take(share);
        slope1 = slope(acrossBefore);
        if (std::abs(slope1) <= 0.5 * std::abs(slope0)) break;
        if (slope1 > 0) high = share, highSlope = slope1;
        else low = share, lowSlope = slope1;
      }
    } else if (!lean && balanced && rules.gainsLittle() && last_.head_m > 0.5 * headMiss) {
      take(0.5);  // devices act and the whole step gains nothing any more: go half way
    }
    balanced = balanced || taken == 1.0;
    if (mode == Mode::soft && ease_ == 1.0 && rules.cutShortTooOften(taken)) return End::stalled;
  }
  return End::stalled;
}

void Newton::ease(double share) {
  ease_ = share;
  for (std::size_t i = 0; i < s_.links.size(); ++i)
    stiff_[i] = stiffness * ease_ / s_.links[i].law->startFlow_m3s();
}

Newton::End Newton::runEased(Iterate& x, std::stop_token stop, double enough_m) {
  End end = End::stalled;
  for (const double share : {1e-6, 1e-5, 1e-4, 1e-3, 1e-2, 1e-1, 1.0}) {
    ease(share);
    end = run(x, Mode::soft, stop, share == 1.0 ? enough_m : std::max(enough_m, 1e-2));
    if (end != End::converged) break;
  }
  if (ease_ != 1.0) ease(1.0);
  return end;
}

Newton::End Newton::runNested(Iterate& x, Mode mode, std::stop_token stop) {
  const auto inner = [&] {
    frozen_ = true;
    const End end = run(x, mode, stop);
    frozen_ = false;
    return end;
  };
  // What acting devices still miss, as a share of a moderate flow of theirs.
  const auto miss = [&] {
    double worst = 0.0;
    for (const ActingGroup& g : acting_) {
      if (g.free >= 0) {
        worst =
            std::max(worst, std::isfinite(terms_[u(g.free)].miss) ? std::abs(terms_[u(g.free)].miss) : 1e30);
        continue;
      }
      const std::size_t i = g.links[0];
      const Link& l = s_.links[i];
      double by = 0.0;
      if (g.node >= 0) by = sum_[u(g.node)].mass;
      else if (l.choke)
        by = x.flow_m3s[i] - choked(*l.choke, x.flow_m3s[i], x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s;
      else by = l.law->startFlow_m3s() * (x.head_m[u(l.held)] - x.head_m[u(l.over)] - l.held_m);
      worst = std::max(worst, std::abs(by) / l.law->startFlow_m3s());
    }
    return worst;
  };
  if (const End end = inner(); end != End::converged) return end;
  double now = miss(), share = 1.0;
  for (int round = 0; round < 40; ++round) {
    if (now < 1e-6 || acting_.empty()) return run(x, mode, stop);  // near enough for both together
    const Iterate before = x;
    prepareStates(x, mode);
    look(x, mode);
    if (!step(x)) return End::notDefinite;
    const std::vector<double> full = direction_, heads = deltaHead_;
    const std::vector<ActingGroup> groups = acting_;
    bool better = false;
    for (int trial = 0; trial < 7 && !better; ++trial, share *= 0.5) {
      x = before;
      for (std::size_t i = 0; i < s_.links.size(); ++i) x.flow_m3s[i] += share * full[i];
      for (int n = 0; n < s_.freeCount; ++n) x.head_m[u(n)] += share * heads[u(n)];
      for (const ActingGroup& g : groups) {
        if (g.free < 0) continue;
        const Free& f = free_[u(g.free)];
        if (f.kind == Free::Kind::head) x.head_m[u(f.node)] += share * g.change_m3s;
        if (f.kind == Free::Kind::inflow) x.inflow_m3s[u(g.free)] += share * g.change_m3s;
      }
      if (const End end = inner(); end != End::converged) return end;
      const double then = miss();
      better = then < now * (1 - 0.1 * share) || then < 1e-6;
      if (better) now = then;
    }
    if (!better) return End::stalled;
    share = std::min(1.0, share * 4);
  }
  return End::stalled;
}

}  // namespace conduit

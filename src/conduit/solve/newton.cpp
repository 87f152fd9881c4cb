#include "solve/newton.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>

#include "solve/dense.h"
#include "solve/union_find.h"

namespace conduit {
namespace {

std::size_t u(int i) { return static_cast<std::size_t>(i); }

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
  const double over = std::max(forward ? from_m - c.baseFrom_m : to_m - c.baseTo_m, 1e-6), flow = c.coefficient * std::sqrt(over);
  return {forward ? flow : -flow, (forward ? flow : -flow) / (2 * over), forward};
}

Newton::Newton(const System& system) : s_(system) {
  {
    Clock clock(times_.order);
    factor_ = Factor(s_.freeCount, s_.edges);
  }
  const std::size_t links = s_.links.size(), nodes = u(s_.nodeCount());
  slim_.reserve(links);
  for (std::size_t i = 0; i < links; ++i) slim_.push_back({s_.links[i].from, s_.links[i].to, s_.linkEdge[i], s_.links[i].bars, s_.links[i].flowMost_m3s});
  drop_.resize(links);
  across_.resize(links);
  slope_.resize(links);
  memory_.assign(links, 0.0);
  stiff_.resize(links);
  conductance_.resize(links);
  newFlow_.resize(links);
  actingGroup_.assign(links, -1);
  mass_.resize(nodes);
  rhs_.resize(nodes);
  throughput_.resize(nodes);
  deltaHead_.resize(nodes);
  pinned_.assign(nodes, 0);
  hanging_.assign(nodes, 0);
  wasZero_.assign(nodes, 0);
  UnionFind together(nodes);
  for (const Link& l : s_.links) together.join(l.from, l.to);
  std::vector<char> held(nodes, 0);
  for (int n = s_.freeCount; n < s_.nodeCount(); ++n) held[u(together.find(n))] = 1;
  for (int n = 0; n < s_.freeCount && !pockets_; ++n) pockets_ = !held[u(together.find(n))];
  // Backflow of a millionth of a moderate flow for each metre: stiff, and still far from upsetting the factor.
  for (std::size_t i = 0; i < links; ++i) stiff_[i] = 1e6 / s_.links[i].law->startFlow_m3s();
}

Iterate Newton::coldStart() const {
  Iterate x;
  x.flow_m3s.resize(s_.links.size());
  x.state.assign(s_.links.size(), LinkState::flowing);
  for (std::size_t i = 0; i < s_.links.size(); ++i) x.flow_m3s[i] = s_.links[i].law->startFlow_m3s();
  double mean = 0.0;
  for (const double h : s_.fixedHead_m) mean += h / static_cast<double>(s_.fixedHead_m.size());
  x.head_m.assign(u(s_.nodeCount()), mean);
  std::copy(s_.fixedHead_m.begin(), s_.fixedHead_m.end(), x.head_m.begin() + s_.freeCount);
  return x;
}

void Newton::evaluate(const Iterate& x, Mode mode) {
  Clock clock(times_.law);
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const double q = x.flow_m3s[i];
    if (x.state[i] == LinkState::shut) {
      drop_[i] = stiff_[i] * q;
      slope_[i] = stiff_[i];
    } else if (slim_[i].bars && q < 0 && mode == Mode::soft) {
      drop_[i] = s_.links[i].noFlowDrop_m + stiff_[i] * q;
      slope_[i] = stiff_[i];
    } else if (q > slim_[i].flowMost && mode == Mode::soft) {
      drop_[i] = s_.links[i].law->at(slim_[i].flowMost, memory_[i]).drop_m + stiff_[i] * (q - slim_[i].flowMost);
      slope_[i] = stiff_[i];
    } else {
      const Loss loss = s_.links[i].law->at(q, memory_[i]);
      drop_[i] = loss.drop_m;
      slope_[i] = loss.slope_sm2;
    }
  }
  for (const auto& [i, loss] : beside_)
    if (x.state[i] == LinkState::flowing) drop_[i] += loss;
}

// Which nodes are pinned (held by an acting device, or the base of a hanging piece), and who shares their flow.
void Newton::prepareStates(Iterate& x, Mode mode) {
  std::fill(pinned_.begin(), pinned_.end(), 0);
  std::fill(hanging_.begin(), hanging_.end(), 0);
  anyPinned_ = false;
  std::fill(actingGroup_.begin(), actingGroup_.end(), -1);
  acting_.clear();
  bool anyFixed = false;
  for (std::size_t i = 0; i < s_.links.size(); ++i) {
    const Link& l = s_.links[i];
    anyFixed = anyFixed || x.state[i] == LinkState::shut || x.state[i] == LinkState::limiting;
    if (x.state[i] != LinkState::acting) continue;
    const bool pins = l.holds && l.over < 0;
    auto group = pins ? std::find_if(acting_.begin(), acting_.end(), [&](const ActingGroup& g) { return g.node == l.held; }) : acting_.end();
    if (group == acting_.end()) {
      acting_.push_back({});
      group = acting_.end() - 1;
      if (pins) {
        group->node = l.held;
        pinned_[u(l.held)] = 1;
        anyPinned_ = true;
      }
    }
    group->links.push_back(i);
    actingGroup_[i] = static_cast<int>(group - acting_.begin());
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
    std::vector<int> pinnedBy(u(s_.nodeCount()), -1);
    for (std::size_t g = 0; g < acting_.size(); ++g)
      if (acting_[g].node >= 0) pinnedBy[u(acting_[g].node)] = static_cast<int>(g);
    for (std::size_t i = 0; i < slim_.size(); ++i)
      for (const int n : {slim_[i].from, slim_[i].to})
        if (pinnedBy[u(n)] >= 0) acting_[u(pinnedBy[u(n)])].beside.push_back(i);
  }
  // Pieces without any head: those between closed devices in either mode, those that shutting makes in the exact one.
  if (!pockets_ && acting_.empty() && (mode == Mode::soft || !anyFixed)) return;
  if (mode == Mode::exact)
    for (std::size_t i = 0; i < s_.links.size(); ++i) {
      if (x.state[i] == LinkState::shut) x.flow_m3s[i] = 0.0;
      if (x.state[i] == LinkState::limiting) x.flow_m3s[i] = s_.links[i].flowMost_m3s;
    }
  UnionFind together(u(s_.nodeCount()));
  for (std::size_t i = 0; i < s_.links.size(); ++i) {
    const bool relation = x.state[i] == LinkState::acting && acting_[u(actingGroup_[i])].node < 0 && !frozen_;
    if (x.state[i] == LinkState::flowing || relation || (x.state[i] != LinkState::acting && mode == Mode::soft)) together.join(s_.links[i].from, s_.links[i].to);
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

Residuals Newton::residuals(const Iterate& x) {
  Residuals r;
  for (std::size_t n = 0; n < mass_.size(); ++n) {
    mass_[n] = -s_.outflow_m3s[n];
    throughput_[n] = std::abs(s_.outflow_m3s[n]);
  }
  double headSize = 0.0;
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim l = slim_[i];
    const double q = x.flow_m3s[i], size = std::abs(q), hf = x.head_m[u(l.from)], ht = x.head_m[u(l.to)];
    mass_[u(l.from)] -= q;
    mass_[u(l.to)] += q;
    throughput_[u(l.from)] += size;
    throughput_[u(l.to)] += size;
    // Less than the rounding of two heads is no residual: through a link of next to no loss it would push flows about.
    const double across = hf - ht, rounding = 4 * std::numeric_limits<double>::epsilon() * (std::abs(hf) + std::abs(ht));
    across_[i] = std::abs(across - drop_[i]) <= rounding ? drop_[i] : across;
    headSize = std::max(headSize, std::max(std::abs(hf), std::abs(drop_[i])));
    if (x.state[i] == LinkState::flowing) r.head_m = std::max(r.head_m, std::abs(across - drop_[i]));
    if (x.state[i] == LinkState::acting && !frozen_) {
      const Link& whole = s_.links[i];
      const double miss = whole.choke ? chokeMiss_m(*whole.choke, q, hf, ht) : x.head_m[u(whole.held)] - (whole.over < 0 ? 0.0 : x.head_m[u(whole.over)]) - whole.held_m;
      r.head_m = std::max(r.head_m, std::abs(miss));
    }
  }
  double smallest = smallestFlow_m3s;
  for (const double size : throughput_) smallest = std::max(smallest, smallestShare * size);
  for (std::size_t n = 0; n < u(s_.freeCount); ++n) {
    if (frozen_ && pinned_[n]) continue;
    const double size = std::abs(mass_[n]);
    r.mass_m3s = std::max(r.mass_m3s, size);
    r.massShare = std::max(r.massShare, size / std::max(throughput_[n], smallest));
  }
  r.headTolerance_m = std::max(headTolerance_m, 64 * std::numeric_limits<double>::epsilon() * headSize);
  return r;
}

// The matrix of the present slopes and states.
void Newton::assemble(const Iterate& x, Mode mode) {
  Clock clock(times_.assembly);
  factor_.clear();
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim l = slim_[i];
    if (x.state[i] != LinkState::flowing) [[unlikely]] {
      const bool pins = x.state[i] == LinkState::acting && (frozen_ || acting_[u(actingGroup_[i])].node >= 0);  // its flow is an unknown of its own
      if (pins || (x.state[i] != LinkState::acting && mode == Mode::exact)) {
        conductance_[i] = 0.0;
        continue;
      }
    }
    const double c = 1.0 / slope_[i];
    conductance_[i] = c;
    if (s_.isFree(l.from)) factor_.diagonal(l.from) += c;
    if (s_.isFree(l.to)) factor_.diagonal(l.to) += c;
    if (l.edge >= 0 && !(anyPinned_ && (pinned_[u(l.from)] | pinned_[u(l.to)]))) factor_.offDiagonal(u(l.edge)) -= c;
  }
  std::fill(wasZero_.begin(), wasZero_.end(), 0);
  for (int n = 0; n < s_.freeCount; ++n) {
    if (pinned_[u(n)]) factor_.diagonal(n) = 1.0;
    else if (factor_.diagonal(n) == 0.0) factor_.diagonal(n) = 1.0, wasZero_[u(n)] = 1;  // nothing but an acting device is joined to it
  }
}

// Pinned and fixed nodes: their change is known; it goes to the right-hand side of their neighbours.
void Newton::spreadPinned(std::vector<double>& b) const {
  for (std::size_t i = 0; i < slim_.size(); ++i) {
    const Slim l = slim_[i];
    const double c = conductance_[i];
    if (c == 0.0) continue;
    const auto known = [&](int n) { return !s_.isFree(n) || pinned_[u(n)]; };
    if (known(l.from) && !known(l.to)) b[u(l.to)] += c * deltaHead_[u(l.from)];
    if (known(l.to) && !known(l.from)) b[u(l.from)] += c * deltaHead_[u(l.to)];
  }
  for (int n = 0; n < s_.freeCount; ++n)
    if (pinned_[u(n)]) b[u(n)] = deltaHead_[u(n)];
    else if (wasZero_[u(n)]) b[u(n)] = 0.0;
}

// One linear system from the residuals as `residuals` left them.
bool Newton::step(Iterate& x, Mode mode) {
  assemble(x, mode);
  const std::size_t links = slim_.size();
  {
    Clock clock(times_.assembly);
    std::copy(mass_.begin(), mass_.end(), rhs_.begin());
    for (std::size_t i = 0; i < links; ++i) {
      const double push = conductance_[i] * (across_[i] - drop_[i]);
      rhs_[u(slim_[i].from)] -= push;
      rhs_[u(slim_[i].to)] += push;
    }
  }
  std::vector<double> b(rhs_.begin(), rhs_.begin() + s_.freeCount);
  if (anyPinned_ || !acting_.empty()) {
    std::fill(deltaHead_.begin(), deltaHead_.end(), 0.0);
    for (const ActingGroup& g : acting_)
      if (g.node >= 0) deltaHead_[u(g.node)] = s_.links[g.links[0]].held_m - x.head_m[u(g.node)];
    spreadPinned(b);
  }
  {
    Clock clock(times_.factor);
    if (!factor_.factorise()) return false;
  }
  Clock clock(times_.solve);
  factor_.solve(b);
  for (ActingGroup& g : acting_) g.change_m3s = 0.0;
  if (!acting_.empty() && !frozen_) {
    const auto base = [&](std::size_t g) {  // what the relation of group g misses
      const ActingGroup& group = acting_[g];
      if (group.node >= 0) return rhs_[u(group.node)];
      const std::size_t i = group.links[0];
      const Link& l = s_.links[i];
      if (!l.choke) return x.head_m[u(l.held)] - x.head_m[u(l.over)] - l.held_m;
      return x.flow_m3s[i] + conductance_[i] * (across_[i] - drop_[i]) - choked(*l.choke, x.flow_m3s[i], x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s;
    };
    if (!borderColumns(x) || !border(x, b, base)) return false;
  }
  std::copy(b.begin(), b.end(), deltaHead_.begin());
  for (std::size_t i = 0; i < links; ++i) {
    const Slim l = slim_[i];
    newFlow_[i] = x.flow_m3s[i] + conductance_[i] * (across_[i] - drop_[i] + deltaHead_[u(l.from)] - deltaHead_[u(l.to)]);
    if (x.state[i] == LinkState::shut && mode == Mode::exact) newFlow_[i] = 0.0;
  }
  for (const ActingGroup& g : acting_)
    for (std::size_t k = 0; k < g.links.size(); ++k) newFlow_[g.links[k]] += g.change_m3s * g.shares[k];
  return true;
}

bool Newton::linearise(Iterate& x, Mode mode) {
  prepareStates(x, mode);
  evaluate(x, mode);
  (void)residuals(x);
  assemble(x, mode);
  return factor_.factorise() && (acting_.empty() || borderColumns(x));
}

void Newton::respond(const Iterate& x, Mode mode, const Change& change, std::vector<double>& head, std::vector<double>& flow) {
  (void)mode;
  std::fill(rhs_.begin(), rhs_.end(), 0.0);
  std::fill(deltaHead_.begin(), deltaHead_.end(), 0.0);
  flow.assign(slim_.size(), 0.0);
  for (const auto& [i, d] : change.drop) {
    flow[i] = -conductance_[i] * d;
    rhs_[u(slim_[i].from)] += conductance_[i] * d;
    rhs_[u(slim_[i].to)] -= conductance_[i] * d;
  }
  for (const auto& [i, d] : change.limit) {
    if (x.state[i] != LinkState::limiting) continue;
    flow[i] = d;
    rhs_[u(slim_[i].from)] -= d;
    rhs_[u(slim_[i].to)] += d;
  }
  for (const auto& [n, d] : change.outflow) rhs_[u(n)] -= d;
  for (const auto& [n, d] : change.head) deltaHead_[u(n)] = d;
  std::vector<double> heldBy(acting_.size(), 0.0);
  for (const auto& [i, d] : change.held) {
    if (x.state[i] != LinkState::acting) continue;
    const int g = actingGroup_[i];
    if (acting_[u(g)].node >= 0) deltaHead_[u(acting_[u(g)].node)] = d;
    else heldBy[u(g)] = d;
  }
  const std::vector<double> known = deltaHead_;
  std::vector<double> b(rhs_.begin(), rhs_.begin() + s_.freeCount);
  if (anyPinned_ || !change.head.empty() || !acting_.empty()) spreadPinned(b);
  factor_.solve(b);
  for (ActingGroup& g : acting_) g.change_m3s = 0.0;
  if (!acting_.empty()) {
    const auto base = [&](std::size_t g) {
      const ActingGroup& group = acting_[g];
      if (group.node >= 0) return rhs_[u(group.node)];
      return s_.links[group.links[0]].choke ? flow[group.links[0]] : -heldBy[g];
    };
    (void)border(x, b, base);
  }
  head = known;
  std::copy(b.begin(), b.end(), head.begin());
  for (std::size_t i = 0; i < slim_.size(); ++i) flow[i] += conductance_[i] * (head[u(slim_[i].from)] - head[u(slim_[i].to)]);
  for (const ActingGroup& g : acting_)
    for (std::size_t k = 0; k < g.links.size(); ++k) flow[g.links[k]] += g.change_m3s * g.shares[k];
}

namespace {

// Row g of the small system of acting flows: what a change of heads (`of`, by node) does to the relation of that group.
template <class Of>
double relation(const System& s, const Iterate& x, std::size_t link, const std::vector<double>& conductance, const Of& of) {
  const Link& l = s.links[link];
  if (!l.choke) return of(l.held) - of(l.over);
  const Choked f = choked(*l.choke, x.flow_m3s[link], x.head_m[u(l.from)], x.head_m[u(l.to)]);
  return conductance[link] * (of(l.from) - of(l.to)) - f.slope_m2s * of(f.forward ? l.from : l.to);
}

}  // namespace

// The flows that acting devices pass besides what the matrix knows: one solve for each, then a small dense system from
// one relation for each.
bool Newton::borderColumns(const Iterate& x) {
  const std::size_t m = acting_.size();
  borderHeads_.assign(m, {});
  const auto column = [&](std::size_t k, int node) {  // what a unit of group k's flow brings to a node
    double sum = 0.0;
    for (std::size_t j = 0; j < acting_[k].links.size(); ++j) {
      const Slim& l = slim_[acting_[k].links[j]];
      sum += acting_[k].shares[j] * ((l.to == node) - (l.from == node));
    }
    return sum;
  };
  for (std::size_t k = 0; k < m; ++k) {
    std::vector<double>& y = borderHeads_[k];
    y.assign(u(s_.freeCount), 0.0);
    for (std::size_t j = 0; j < acting_[k].links.size(); ++j) {
      const Slim& l = slim_[acting_[k].links[j]];
      if (s_.isFree(l.from) && !pinned_[u(l.from)]) y[u(l.from)] -= acting_[k].shares[j];
      if (s_.isFree(l.to) && !pinned_[u(l.to)]) y[u(l.to)] += acting_[k].shares[j];
    }
    factor_.solve(y);
    for (int n = 0; n < s_.freeCount; ++n)
      if (pinned_[u(n)]) y[u(n)] = 0.0;
  }
  borderMatrix_.assign(m, std::vector<double>(m, 0.0));
  for (std::size_t g = 0; g < m; ++g)
    for (std::size_t k = 0; k < m; ++k) {
      const auto of = [&](int n) { return s_.isFree(n) ? borderHeads_[k][u(n)] : 0.0; };
      double& v = borderMatrix_[g][k];
      if (acting_[g].node >= 0) {  // the pinned node is in balance
        v = column(k, acting_[g].node);
        for (const std::size_t i : acting_[g].beside) v += conductance_[i] * of(slim_[i].from == acting_[g].node ? slim_[i].to : slim_[i].from);
      } else {
        v = relation(s_, x, acting_[g].links[0], conductance_, of) + (s_.links[acting_[g].links[0]].choke && g == k ? 1.0 : 0.0);
      }
    }
  return true;
}

template <class Base>
bool Newton::border(const Iterate& x, std::vector<double>& b, const Base& base) {
  const std::size_t m = acting_.size();
  const auto of = [&](int n) { return s_.isFree(n) ? b[u(n)] : deltaHead_[u(n)]; };
  std::vector<std::vector<double>> matrix = borderMatrix_;
  for (std::size_t g = 0; g < m; ++g) {
    double sum = base(g), most = 0.0;
    if (acting_[g].node >= 0) {
      for (const std::size_t i : acting_[g].beside) {
        const int node = acting_[g].node, other = slim_[i].from == node ? slim_[i].to : slim_[i].from;
        sum += conductance_[i] * (of(other) - of(node));
      }
    } else {
      sum += relation(s_, x, acting_[g].links[0], conductance_, of);
    }
    for (const double v : matrix[g]) most = std::max(most, std::abs(v));
    if (most == 0.0) return false;
    for (double& v : matrix[g]) v /= most;
    matrix[g].push_back(-sum / most);
  }
  if (!solveDense(matrix)) return false;
  for (std::size_t k = 0; k < m; ++k) {
    acting_[k].change_m3s = matrix[k][m];
    for (int n = 0; n < s_.freeCount; ++n) b[u(n)] += matrix[k][m] * borderHeads_[k][u(n)];
  }
  return true;
}

Newton::End Newton::run(Iterate& x, Mode mode, std::stop_token stop, double enough_m) {
  prepareStates(x, mode);
  evaluate(x, mode);
  balanced_ = false;
  double best = std::numeric_limits<double>::infinity();
  int sinceBest = 0;
  ++runs_;
  double taken = 0.0;
  std::vector<double> direction(s_.links.size()), before(s_.links.size());
  for (int round = 0; round < 200; ++round) {
    if (stop.stop_requested()) return End::stopped;
    // Converged: as far as the tolerance and, as Newton doubles its digits in each step, once more to the floor if the
    // last step still gained.
    const Residuals r = residuals(x);
    if (record_) record_->push_back({runs_, round, r.head_m, r.massShare, taken, mode == Mode::exact});
    const double floor = std::max(1e-10, r.headTolerance_m * 1e-6);
    const bool good = r.head_m <= r.headTolerance_m && r.massShare <= massTolerance;
    if (good && (r.head_m <= floor || sinceBest > 0)) return End::converged;
    if (r.head_m <= enough_m && r.massShare <= massTolerance) return End::converged;
    if (r.head_m < 0.5 * best) {
      best = r.head_m;
      sinceBest = 0;
    } else if (++sinceBest > (acting_.empty() || frozen_ ? 60 : 20)) {
      return End::stalled;
    }
    ++iterations_;
    if (!step(x, mode)) return End::notDefinite;
    // Line search on the slope of the content function along the step: with every node in balance it is Σ (h − ΔH) d,
    // it begins below zero and rises (each law rises), so a step that ends far above zero went too far.
    double slope0 = 0.0, slope1 = 0.0;
    const bool lean = balanced_ && (acting_.empty() || frozen_);
    before = x.flow_m3s;
    for (std::size_t i = 0; i < s_.links.size(); ++i) {
      direction[i] = newFlow_[i] - x.flow_m3s[i];
      if (lean && conductance_[i] != 0.0) slope0 += (drop_[i] - across_[i]) * direction[i];
    }
    double t = 1.0;
    auto take = [&](double share) {
      for (std::size_t i = 0; i < s_.links.size(); ++i) x.flow_m3s[i] = share == 1.0 ? newFlow_[i] : before[i] + share * direction[i];
      evaluate(x, mode);
      double slope = 0.0;
      if (lean)
        for (std::size_t i = 0; i < s_.links.size(); ++i)
          if (conductance_[i] != 0.0) slope += (drop_[i] - across_[i]) * direction[i];
      return slope;
    };
    slope1 = take(1.0);
    if (lean && slope0 < 0.0 && slope1 > -0.9 * slope0) {
      double low = 0.0, lowSlope = slope0, high = 1.0, highSlope = slope1;
      for (int trial = 0; trial < 8; ++trial) {
        t = std::clamp(low - lowSlope * (high - low) / (highSlope - lowSlope), low + 0.1 * (high - low), high - 0.1 * (high - low));
        const double slope = take(t);
        if (std::abs(slope) <= 0.5 * std::abs(slope0)) break;
        if (slope > 0) high = t, highSlope = slope;
        else low = t, lowSlope = slope;
      }
    } else if (!lean && balanced_ && sinceBest > 8) {
      t = 0.5;  // devices act and the plain step runs in a circle: go half way
      take(t);
    }
    for (int n = 0; n < s_.freeCount; ++n) x.head_m[u(n)] += t * deltaHead_[u(n)];
    if (t == 1.0)
      for (const ActingGroup& g : acting_)
        if (g.node >= 0) x.head_m[u(g.node)] = s_.links[g.links[0]].held_m;
    taken = t;
    balanced_ = balanced_ || t == 1.0;
  }
  return End::stalled;
}

Newton::End Newton::runNested(Iterate& x, Mode mode, std::stop_token stop) {
  const auto inner = [&] {
    frozen_ = true;
    const End end = run(x, mode, stop);
    (void)residuals(x);
    frozen_ = false;
    return end;
  };
  // What acting devices still miss, as a share of a moderate flow of theirs.
  const auto miss = [&] {
    double worst = 0.0;
    for (const ActingGroup& g : acting_) {
      const std::size_t i = g.links[0];
      const Link& l = s_.links[i];
      double by = 0.0;
      if (g.node >= 0) by = mass_[u(g.node)];
      else if (l.choke) by = x.flow_m3s[i] - choked(*l.choke, x.flow_m3s[i], x.head_m[u(l.from)], x.head_m[u(l.to)]).flow_m3s;
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
    evaluate(x, mode);
    (void)residuals(x);
    if (!step(x, mode)) return End::notDefinite;
    const std::vector<double> full = newFlow_, heads = deltaHead_;
    bool better = false;
    for (int trial = 0; trial < 7 && !better; ++trial, share *= 0.5) {
      x = before;
      for (std::size_t i = 0; i < s_.links.size(); ++i) x.flow_m3s[i] += share * (full[i] - before.flow_m3s[i]);
      for (int n = 0; n < s_.freeCount; ++n) x.head_m[u(n)] += share * heads[u(n)];
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

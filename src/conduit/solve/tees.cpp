#include "solve/tees.h"

#include <algorithm>
#include <cmath>

#include "solve/dense.h"

namespace conduit {
namespace {

constexpr double agreed_m = 1e-9;
constexpr double closeEnough_m = 1e-8;  // a tenth of what is left in a balance: its flows need not tell more
constexpr std::size_t teesMost = 12;    // from each of which other beginnings are made
constexpr double nearlySame = 0.01;     // share by which two legs must differ to be told apart

// Losses of all tees, three a tee, at the flows of an iterate.
std::vector<double> lossesAt(const System& s, const Iterate& x, double gravity_ms2) {
  std::vector<double> losses;
  for (const TeeAt& tee : s.tees) {
    const double flow[3] = {x.flow_m3s[tee.legs[0]], x.flow_m3s[tee.legs[1]], x.flow_m3s[tee.legs[2]]};
    double loss[3];
    teeLosses(tee, s, flow, gravity_ms2, loss);
    losses.insert(losses.end(), std::begin(loss), std::end(loss));
  }
  return losses;
}

class Tees {
 public:
  Tees(Newton& newton, const System& s, Iterate& x, std::stop_token stop, double gravity_ms2)
      : newton_(newton), s_(s), x_(x), stop_(std::move(stop)), g_(gravity_ms2) {
    taken_.assign(3 * s.tees.size(), 0.0);
  }

  StatesFound run() {
    const Iterate start = x_;
    if (!balance(taken_)) return found_;
    const Iterate withoutLosses = x_;
    if (agree() || found_.end == Newton::End::stopped) return found_;
    const std::vector<int> apart = teesApart();
    // Between that answer and the one there is the losses may lie nearer to each other than on the way: a run
    // that draws a branch along has an answer with the branch turned round. So from every sort of flow that a
    // tee can have, one tee after the other.
    for (std::size_t t = 0; t < s_.tees.size() && t < teesMost; ++t)
      for (int common = 0; common < 3; ++common)
        for (const bool joining : {true, false})
          for (const double share : {0.2, 0.5, 0.8}) {
            x_ = start;
            newtons_ = false;
            if (balance(lossesOf(t, withoutLosses, common, joining, share)) && agree()) return found_;
            if (found_.end == Newton::End::stopped) return found_;
          }
    found_ = {};
    found_.consistent = false;
    found_.teesApart = apart;
    return found_;
  }

 private:
  static double worst(const std::vector<double>& v) {
    double most = 0.0;
    for (const double d : v) most = std::max(most, std::abs(d));
    return most;
  }
  // Those whose losses the flows do not bear out; all where the flows themselves were not found.
  [[nodiscard]] std::vector<int> teesApart() const {
    std::vector<int> some, all;
    for (std::size_t t = 0; t < s_.tees.size(); ++t) {
      const auto mine = miss_.begin() + static_cast<std::ptrdiff_t>(3 * t);
      all.push_back(s_.tees[t].raw);
      if (worst({mine, mine + 3}) > std::max(tolerance(), closeEnough_m)) some.push_back(all.back());
    }
    return some.empty() ? all : some;
  }
  // From the losses taken on; true when an answer has been found.
  bool agree() {
    double last = 1e300;
    int dents = 0;
    for (int round = 0; round < 80; ++round) {
      const double miss = worst(miss_);
      if (miss <= tolerance()) return true;
      const bool gains = round < 4 || miss < 0.6 * last;
      if (!gains && miss <= closeEnough_m) return true;
      last = miss;
      if (!gains && newtons_ && follow(true)) continue;
      if (!gains) newtons_ = true;
      if (newtons_ ? !correct() && (found_.end == Newton::End::stopped || ++dents > 3 || !follow(false))
                   : !follow(false))
        break;  // out of a dent by the plain way
    }
    return worst(miss_) <= std::max(tolerance(), closeEnough_m) && found_.end == Newton::End::converged &&
           found_.consistent && found_.fighting.empty();
  }

  // Those of one tee with all that passes it in one leg, shared by the others; of the other tees none.
  [[nodiscard]] std::vector<double> lossesOf(std::size_t t, const Iterate& x, int common, bool joining,
                                             double share) const {
    const TeeAt& tee = s_.tees[t];
    double passing = 0.0, flow[3], loss[3];
    for (const std::size_t i : tee.legs) passing = std::max(passing, std::abs(x.flow_m3s[i]));
    for (int k = 0; k < 3; ++k) {
      const int first = common == 0 ? 1 : 0;
      const double part = k == common  ? -1.0
                          : k == first ? share
                                       : 1 - share,
                   in = (joining ? passing : -passing) * part;
      flow[k] = s_.links[tee.legs[k]].rawTo == tee.raw ? in : -in;
    }
    teeLosses(tee, s_, flow, g_, loss);
    std::vector<double> losses(taken_.size(), 0.0);
    std::copy(std::begin(loss), std::end(loss), losses.begin() + static_cast<std::ptrdiff_t>(3 * t));
    return losses;
  }

  [[nodiscard]] double tolerance() const { return std::max(agreed_m, 1e-13 * worst(taken_)); }

  // Balances with these losses taken; false when that has no answer. `miss_` is then what they lack.
  bool balance(const std::vector<double>& losses) {
    std::vector<double> byLink(s_.links.size(), 0.0);
    for (std::size_t t = 0; t < s_.tees.size(); ++t)
      for (std::size_t k = 0; k < 3; ++k) byLink[s_.tees[t].legs[k]] += losses[3 * t + k];
    for (const TeeAt& tee : s_.tees)
      for (const std::size_t i : tee.legs) newton_.setBeside(i, byLink[i]);
    taken_ = losses;
    if (!settleAgain(newton_, s_, x_, stop_, found_)) found_ = settle(newton_, s_, x_, stop_);
    if (found_.end != Newton::End::converged || !found_.consistent || !found_.fighting.empty()) return false;
    miss_ = lossesAt(s_, x_, g_);
    for (std::size_t k = 0; k < miss_.size(); ++k) miss_[k] -= taken_[k];
    return true;
  }

  // Takes the losses that follow from the flows as they are. `onlyIfBetter`: else all is as before, and
  // false.
  bool follow(bool onlyIfBetter) {
    const std::vector<double> from = taken_;
    const Iterate start = x_;
    const double before = worst(miss_);
    std::vector<double> next = taken_;
    for (std::size_t k = 0; k < next.size(); ++k) next[k] += miss_[k];
    const bool found = balance(next);
    if (!onlyIfBetter || (found && worst(miss_) < 0.9 * before)) return found;
    x_ = start;
    (void)balance(from);
    return false;
  }

  // One step of Newton's method on losses(flows(taken)) = taken, cut back until it gains.
  bool correct() {
    const std::size_t m = taken_.size();
    if (!newton_.linearise(x_, Newton::Mode::exact)) return false;
    // d loss / d flow of each tee, central.
    std::vector<double> byFlow(9 * s_.tees.size());
    for (std::size_t t = 0; t < s_.tees.size(); ++t) {
      const TeeAt& tee = s_.tees[t];
      double flow[3] = {x_.flow_m3s[tee.legs[0]], x_.flow_m3s[tee.legs[1]], x_.flow_m3s[tee.legs[2]]};
      const double h =
          1e-6 * std::max({std::abs(flow[0]), std::abs(flow[1]), std::abs(flow[2]), 1e-9 * tee.area_m2[0]});
      for (std::size_t j = 0; j < 3; ++j) {
        const double kept = flow[j];
        double up[3], down[3];
        flow[j] = kept + h;
        teeLosses(tee, s_, flow, g_, up);
        flow[j] = kept - h;
        teeLosses(tee, s_, flow, g_, down);
        flow[j] = kept;
        for (std::size_t k = 0; k < 3; ++k) byFlow[9 * t + 3 * k + j] = (up[k] - down[k]) / (2 * h);
      }
    }
    std::vector<std::vector<double>> rows(m, std::vector<double>(m + 1, 0.0));
    std::vector<double> head, flow;
    for (std::size_t c = 0; c < m; ++c) {
      Newton::Change change;
      change.drop.emplace_back(s_.tees[c / 3].legs[c % 3], 1.0);
      newton_.respond(x_, change, head, flow);
      for (std::size_t r = 0; r < m; ++r) {
        const TeeAt& tee = s_.tees[r / 3];
        for (std::size_t j = 0; j < 3; ++j)
          rows[r][c] += byFlow[9 * (r / 3) + 3 * (r % 3) + j] * flow[tee.legs[j]];
        if (r == c) rows[r][c] -= 1.0;
      }
    }
    for (std::size_t r = 0; r < m; ++r) rows[r][m] = -miss_[r];
    if (!solveDense(rows)) return false;
    const std::vector<double> from = taken_;
    const Iterate start = x_;
    const double before = worst(miss_);
    for (double share = 1.0; share > 1e-4; share *= 0.35) {
      std::vector<double> next = from;
      for (std::size_t k = 0; k < m; ++k) next[k] += share * rows[k][m];
      if (balance(next) && worst(miss_) < before * (1 - 0.05 * share)) return true;
      if (found_.end == Newton::End::stopped) return false;
      x_ = start;
    }
    (void)balance(from);
    return false;
  }

  Newton& newton_;
  const System& s_;
  Iterate& x_;
  std::stop_token stop_;
  double g_;
  bool newtons_ = false;
  std::vector<double> taken_, miss_;
  StatesFound found_{Newton::End::stalled};
};

}  // namespace

namespace {

// The losses with one leg taken as the common one, whose flow the other two share; by leg, in the direction
// of the flow: into the tee when joining, out of it when dividing.
void lossesBy(const TeeAt& tee, const double (&in)[3], int common, double gravity_ms2, double (&loss)[3]) {
  for (double& l : loss) l = 0.0;
  const double q = std::abs(in[common]);
  if (q == 0.0) return;
  const bool joining = in[common] < 0;
  const auto head = [&](int leg) {
    return q * q / (2 * gravity_ms2 * tee.area_m2[leg] * tee.area_m2[leg]);
  };                                 // of all the flow, there
  const auto shape = [&](int run) {  // of the tee whose common leg that of the run is
    fittingk::Tee t = tee.shape;
    t.phi = std::min(tee.area_m2[0] / tee.area_m2[run], 1.0);
    return t;
  };
  if (common == 0) {
    for (int k = 1; k < 3; ++k) {
      const int other = 3 - k;
      const double share = std::clamp(std::abs(in[k]) / q, 0.0, 1.0);
      const auto mine = shape(k), its = shape(other);
      const double all =
          (joining ? fittingk::dividingBranch(mine, 1.0) : fittingk::joiningBranch(mine, 1.0)) * head(k);
      const double none = (joining ? fittingk::dividingBranch(its, 1.0) - fittingk::dividingRun(its, 1.0)
                                   : fittingk::joiningBranch(its, 1.0) - fittingk::joiningRun(its, 1.0)) *
                          head(other);
      loss[k] = share * all + (1 - share) * none;
    }
  } else {
    const double share = std::clamp(std::abs(in[0]) / q, 0.0, 1.0);
    const auto t = shape(common);
    for (int k = 0; k < 3; ++k) {
      if (k == common) continue;
      const double branch = joining ? fittingk::joiningBranch(t, share) : fittingk::dividingBranch(t, share);
      const double run = joining ? fittingk::joiningRun(t, share) : fittingk::dividingRun(t, share);
      loss[k] = (k == 0 ? branch : run) * head(common);
    }
  }
  if (!joining)  // as what the flow into the tee loses: what leaves it loses the other way round
    for (double& l : loss) l = -l;
}

}  // namespace

void teeLosses(const TeeAt& tee, const System& s, const double (&flow)[3], double gravity_ms2,
               double (&loss)[3]) {
  bool endsHere[3];
  double in[3];  // flow into the tee
  for (int k = 0; k < 3; ++k) {
    endsHere[k] = s.links[tee.legs[k]].rawTo == tee.raw;
    in[k] = endsHere[k] ? flow[k] : -flow[k];
  }
  // The common leg carries what the other two share. Where two carry nearly the same (next to nothing in the
  // third, or a draw at the point itself) either may be called common: one goes over into the other.
  int common = 0;
  for (int k = 1; k < 3; ++k)
    if (std::abs(in[k]) > std::abs(in[common])) common = k;
  int next = common == 0 ? 1 : 0;
  for (int k = 0; k < 3; ++k)
    if (k != common && std::abs(in[k]) > std::abs(in[next])) next = k;
  lossesBy(tee, in, common, gravity_ms2, loss);
  const double apart = in[common] != 0.0 ? 1 - std::abs(in[next] / in[common]) : 1.0;
  if (apart < nearlySame) {
    double other[3];
    lossesBy(tee, in, next, gravity_ms2, other);
    const double x = apart / nearlySame, own = 0.5 + 0.5 * x * x * (3 - 2 * x);
    for (int k = 0; k < 3; ++k) loss[k] = own * loss[k] + (1 - own) * other[k];
  }
  for (int k = 0; k < 3; ++k)  // from the flow into the tee to the link's direction
    if (!endsHere[k]) loss[k] = -loss[k];
}

StatesFound settleWithTees(Newton& newton, const System& s, Iterate& x, std::stop_token stop,
                           double gravity_ms2) {
  if (s.tees.empty()) return settle(newton, s, x, stop);
  return Tees(newton, s, x, stop, gravity_ms2).run();
}

}  // namespace conduit

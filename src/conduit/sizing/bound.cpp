#include "sizing/bound.h"

#include <Eigen/SparseCholesky>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "limits/limits.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "parts/pipe/line.h"
#include "quantity/format.h"
#include "solve/index.h"
#include "solve/solve.h"
#include "solve/system.h"

namespace conduit {
namespace {

constexpr int places = 240;              // of the flow at which a line is looked at
constexpr std::size_t linesMost = 3000;  // beyond that it takes longer than ten seconds

// One line as the bound sees it: what each size costs and loses at each place of the flow (less than that it
// can never lose), and up to which place its velocity allows it.
struct BoundLine {
  int from = 0, to = 0;
  struct Size {
    double cost = 0.0;
    std::vector<double> loss;  // m, at each place
    int last = places;         // place up to which it may be used
  };
  std::vector<Size> sizes;
};

struct BoundCase {
  std::vector<BoundLine> lines;
  std::vector<double> outflow;  // by node; the source has none
  std::vector<double> need;     // energy head at least
  int source = 0;
  double head_m = 0.0, most_m3s = 0.0;
  std::string lacking;  // the point that lacks most head even without any loss, and how much
};

// Grows quadratically: small flows are looked at closely.
double flowAt(double most, int place) {
  const double share = static_cast<double>(place) / places;
  return most * share * share;
}

// What stands against a bound is said.
tl::expected<BoundCase, std::string> setUpBound(const SizingTask& task, const Judge& judge, CaseId id) {
  // Any sizes will do to read off what is drawn and what is to be kept: neither depends on them.
  SizeChoice widest;
  for (const SizingRow& r : task.rows) widest.push_back(static_cast<std::uint16_t>(r.sizes.size() - 1));
  const Network n = judge.network(id, widest);
  std::string why;
  std::size_t pipes = 0;
  n.each([&](Id, const Element& x) {
    pipes += x.part->line;
    if (!x.values.goals().empty()) why = x.name + " has a given result";
    for (const Values::Entry& e : x.values.entries())
      if (e.released) why = x.name + " has a value to solve for";
    if (x.part->lifts) why = "the network contains " + x.name + ", a pump";
  });
  if (why.empty() && pipes > linesMost) why = "too many lines for this method";
  if (!why.empty()) return tl::unexpected(why);
  const Solution answer = solve(n, task.stock.get(), {.units = task.units, .offers = 0, .notes = false});
  if (!answer.summary.usable()) return tl::unexpected(std::string("no solution with the largest sizes"));
  const Setting& setting = answer.setting;
  const SetUp set = setUp(n, setting, answer.widestBore_m);
  const System& s = set.system;
  if (!set.problems.empty()) return tl::unexpected(std::string("the job is incomplete"));
  if (!s.tees.empty())
    return tl::unexpected(n.at(s.rawOwner[u(s.tees[0].raw)]).name +
                          " has tee losses that depend on the flow split");
  for (const KnownBranch& k : s.known)
    if (!k.shut) return tl::unexpected("the flow of " + n.at(k.of.element).name + " is given");
  BoundCase c;
  c.source = -1;
  for (std::size_t r = 0; r < s.rawOwner.size(); ++r) {
    c.outflow.push_back(s.rawOutflow_m3s[r]), c.need.push_back(-1e300);
    if (!s.rawHolds[r]) continue;
    if (c.source >= 0)
      return tl::unexpected("the network contains more than lines, valves and one fixed head: " +
                            n.at(s.rawOwner[r]).name);
    c.source = static_cast<int>(r), c.head_m = s.rawHead_m[r];
  }
  if (c.source < 0) return tl::unexpected(std::string("no fixed head"));
  n.each([&](Id e, const Element& x) {
    if (s.pointRaw[e] < 0 || !answer.head(e)) return;
    double& need = c.need[u(s.pointRaw[e])];
    // What is drawn comes out only against a pressure that is no less than the open air's.
    if (const Given* z = x.given(key::height); z && c.outflow[u(s.pointRaw[e])] > 0)
      need = resolve(*z, Measure::height, setting.medium);
    for (const Check& k : checksOf(n, answer, e)) {
      if (k.severity > Severity::broken || !k.least || k.spoken) continue;
      if (k.measure() != Measure::gaugePressure && k.measure() != Measure::absolutePressure) continue;
      const double head = *answer.head(e) + setting.medium.columnOf(*k.least - k.value);
      need = std::max(need, head);
    }
  });
  double lacks = 1e-6 * std::max(1.0, std::abs(c.head_m));
  for (std::size_t i = 0; i < c.need.size(); ++i)
    if (c.need[i] - c.head_m > lacks) {
      lacks = c.need[i] - c.head_m;
      c.lacking = fmt::format("{} is {} short of head", n.at(s.rawOwner[i]).name,
                              withUnit(lacks, Measure::headDrop, task.units, 3));
    }
  for (std::size_t i = 0; i < c.outflow.size(); ++i) {
    if (static_cast<int>(i) == c.source) continue;
    if (c.outflow[i] < 0) return tl::unexpected(std::string("there is another inflow"));
    if (c.outflow[i] > 0 && c.need[i] < -1e299)
      return tl::unexpected(std::string("a draw-off has no minimum pressure"));
    c.most_m3s += c.outflow[i];
  }
  if (!(c.most_m3s > 0)) return tl::unexpected(std::string("there is no draw-off"));
  std::vector<std::size_t> rowOf(n.bound(), task.rows.size());
  for (std::size_t r = 0; r < task.rows.size(); ++r)
    for (const Id line : task.rows[r].lines) rowOf[line] = r;
  // What else stands in a way only takes head from the flow, at no cost: told as taking none.
  const auto free = [&](int from, int to) {
    BoundLine line{.from = from, .to = to, .sizes = {}};
    line.sizes.push_back({.cost = 0.0, .loss = std::vector<double>(places + 1, 0.0)});
    c.lines.push_back(std::move(line));
  };
  for (const Link& l : s.links)
    if (!n.at(l.of.element).part->line) free(l.rawFrom, l.rawTo);
  for (const Join& j : s.joins)
    if (!n.at(j.of.element).part->line) free(j.rawFrom, j.rawTo);
  n.each([&](Id e, const Element& x) {
    if (!x.part->line || !why.empty()) return;
    BoundLine line{.from = s.pointRaw[x.ends[0]], .to = s.pointRaw[x.ends[1]], .sizes = {}};
    const SizingRow* row = rowOf[e] < task.rows.size() ? &task.rows[rowOf[e]] : nullptr;
    const auto add = [&](const Element& sized, double cost) {
      BoundLine::Size of{.cost = cost, .loss = {}};
      const Values& values = sized.values;
      if (const bool* laid = values.get<bool>(pipe::laidKey); laid && !*laid) {
        of.loss.assign(places + 1, 0.0), of.last = 0;
        line.sizes.push_back(std::move(of));
        return;
      }
      const std::vector<EndPlace> ends(2);
      const Prepared p = sized.part->prepare(values, setting, ends);
      if (p.branches.empty() || !p.branches[0].law) {
        why = x.name + " has no loss law";
        return;
      }
      const double bore = sized.part->geometry(values, setting).bore_m.value_or(0.0),
                   most = limitsFor(values, setting)[LimitId::velocityMost].si.value_or(1e300) * M_PI * bore *
                          bore / 4;
      for (int k = 0; k <= places; ++k) {
        const double q = flowAt(c.most_m3s, k);
        double forth = 0.0, back = 0.0;  // where laws remember
        of.loss.push_back(std::max(
            0.0, std::min(p.branches[0].law->at(q, forth).drop_m, -p.branches[0].law->at(-q, back).drop_m)));
        if (q <= most * (1 + 1e-9)) of.last = k;
      }
      line.sizes.push_back(std::move(of));
    };
    if (!row) {
      add(x, 0.0);
    } else {
      const Geometry g = x.part->geometry(x.values, setting);
      for (const PipeSize* size : row->sizes) {
        Draft draft(n);
        // A case that has a size of its own for the line keeps it, whatever is laid.
        if (!judge.keepsOwn(id, e)) giveSize(draft, e, *size);
        const double each = task.options.objective == Objective::mass
                                ? size->mass_kgm.value_or(0.0)
                                : costOfMetre(task.model.of<SizingSetup>(), e, *size);
        add(std::move(draft).finish().at(e), g.length_m.value_or(0.0) * each);
      }
    }
    c.lines.push_back(std::move(line));
  });
  if (!why.empty()) return tl::unexpected(why);
  return c;
}

// Where a convex function below a line's least cost bends.
struct Bend {
  double flow_m3s = 0.0, value = 0.0;
  double power = 0.0;  // flow times head lost there, m4/s: how the value grows with the price
  double slope = 0.0;  // up to the next bend
};
using Hull = std::vector<Bend>;

// A convex function below a line's least cost at each flow: the least over the sizes on each stretch is that
// at its beginning, for losses rise with the flow and sizes only fall out. Empty where nothing is allowed.
Hull below(const BoundLine& line, double most, double price) {
  Hull corners, hull;
  for (int k = 0; k < places; ++k) {
    double least = 1e300, power = 0.0;
    for (const BoundLine::Size& s : line.sizes) {
      if (k > s.last) continue;
      const double lost = flowAt(most, k) * s.loss[static_cast<std::size_t>(k)];
      if (s.cost + price * lost < least) least = s.cost + price * lost, power = lost;
    }
    // No size lets so much pass: such flows cannot be, and what holds before them holds on.
    if (least > 1e299) break;
    if (corners.empty()) corners.push_back({0.0, least, power});
    corners.push_back({flowAt(most, k + 1), least, power});
  }
  for (const Bend& point : corners) {
    while (hull.size() > 1) {
      const Bend &a = hull[hull.size() - 2], &b = hull.back();
      if ((b.value - a.value) * (point.flow_m3s - a.flow_m3s) <=
          (point.value - a.value) * (b.flow_m3s - a.flow_m3s))
        break;
      hull.pop_back();
    }
    hull.push_back(point);
  }
  for (std::size_t k = 0; k + 1 < hull.size(); ++k)
    hull[k].slope = (hull[k + 1].value - hull[k].value) / (hull[k + 1].flow_m3s - hull[k].flow_m3s);
  return hull;
}

// The least cost of flows at a price of power, from below. A value y for water at each node (any) gives a
// bound: Σ y · drawn + Σ over lines of the least of f(q) − Δy · q (weak duality; Ahuja, Magnanti and Orlin,
// Network Flows, 1993, chapter 14). The values are climbed to by Newton steps on the same with ε q²/2 added
// to each line's cost, which makes of the bends something smooth; ε is brought down from step to step. What
// it comes to is reckoned without ε and is a bound wherever the climb ends.
class FlowDual {
 public:
  explicit FlowDual(const BoundCase& c) : c_(c), y_(Eigen::VectorXd::Zero(size())) {}

  struct At {
    double value = -1e300, slope = 0.0;  // the bound, and how it grows with the price
    bool settled = false;                // the flows of these values balance
  };
  // Nothing where a line allows nothing. `near`: to the price asked for before, from which it begins.
  std::optional<At> at(double price, bool near) {
    hulls_.clear();
    double steepest = 0.0;  // of a free price no line's cost may grow at all: then some measure of costs
    for (const BoundLine& line : c_.lines)
      for (const BoundLine::Size& of : line.sizes)
        steepest = std::max(steepest, 1e-6 * of.cost / c_.most_m3s);
    for (const BoundLine& line : c_.lines) {
      hulls_.push_back(below(line, c_.most_m3s, price));
      const Hull& hull = hulls_.back();
      if (hull.empty()) return std::nullopt;
      if (hull.size() > 1)
        steepest = std::max(steepest, (hull.back().value - hull.front().value) / hull.back().flow_m3s);
    }
    double had = 0.0;  // power that the source gives over what is asked for
    for (std::size_t i = 0; i < c_.outflow.size(); ++i)
      if (static_cast<int>(i) != c_.source && c_.outflow[i] > 0)
        had += c_.outflow[i] * (c_.head_m - c_.need[i]);
    At best;
    if (!near) y_.setZero();
    for (double share = near ? 1e-3 : 1.0; share > 1e-7; share /= 5) {
      epsilon_ = share * steepest / c_.most_m3s;
      for (int k = 0; k < 30 && climb(); ++k) {}
      const double value = exact() - price * had;
      if (value > best.value) best = {value, power_ - had, left_ < 1e-3};
    }
    return best;
  }

 private:
  [[nodiscard]] Eigen::Index size() const { return static_cast<Eigen::Index>(c_.outflow.size()); }
  [[nodiscard]] double drawn(std::size_t i) const {
    return static_cast<int>(i) == c_.source ? -c_.most_m3s : c_.outflow[i];
  }

  struct Flow {
    double q = 0.0, perValue = 0.0, gain = 0.0, power = 0.0;
  };
  // The flow that gains most at a difference `s` ≥ 0 of the values at its ends, and how it grows with s.
  [[nodiscard]] Flow best(const Hull& hull, double s) const {
    std::size_t low = 0, high = hull.size() - 1;  // edges: the first whose end is not yet worth while
    while (low < high) {
      const std::size_t mid = (low + high) / 2;
      if (s < hull[mid].slope + epsilon_ * hull[mid + 1].flow_m3s) high = mid;
      else low = mid + 1;
    }
    Flow f;
    f.q = hull[low].flow_m3s;
    double value = hull[low].value;
    f.power = hull[low].power;
    if (low + 1 < hull.size() && s > hull[low].slope + epsilon_ * f.q) {
      const double along = (s - hull[low].slope) / epsilon_ - f.q;
      const double part = along / (hull[low + 1].flow_m3s - f.q);
      value += hull[low].slope * along, f.power += part * (hull[low + 1].power - f.power);
      f.q += along, f.perValue = 1 / epsilon_;
    }
    f.gain = s * f.q - value - epsilon_ * f.q * f.q / 2;
    return f;
  }
  // What a step goes by.
  struct Slopes {
    Eigen::VectorXd left;         // at each node, what is drawn less what flows in
    std::vector<double> weights;  // of each line, how its flow grows with the difference of its values
  };
  // Σ y · drawn.
  [[nodiscard]] double worth(const Eigen::VectorXd& y) const {
    double sum = 0.0;
    for (std::size_t i = 0; i < c_.outflow.size(); ++i) sum += y[static_cast<Eigen::Index>(i)] * drawn(i);
    return sum;
  }
  // The smoothed bound at these values, and what a step from them goes by where that is asked for.
  double smooth(const Eigen::VectorXd& y, Slopes* slopes = nullptr) {
    double value = worth(y);
    if (slopes) {
      slopes->left.resize(size());
      for (std::size_t i = 0; i < c_.outflow.size(); ++i)
        slopes->left[static_cast<Eigen::Index>(i)] = drawn(i);
      slopes->weights.clear();
      power_ = 0.0;
    }
    for (std::size_t l = 0; l < c_.lines.size(); ++l) {
      const BoundLine& line = c_.lines[l];
      const double between = y[line.to] - y[line.from];
      const Flow f = best(hulls_[l], std::abs(between));
      value -= f.gain;
      if (!slopes) continue;
      const double forth = between < 0 ? -f.q : f.q;
      slopes->left[line.to] -= forth, slopes->left[line.from] += forth;
      slopes->weights.push_back(std::max(f.perValue, 0.01 / epsilon_));
      power_ += f.power;
    }
    return value;
  }
  // One step; false when there is nothing more to gain.
  bool climb() {
    Slopes slopes;
    const double now = smooth(y_, &slopes);
    Eigen::VectorXd& left = slopes.left;
    left[c_.source] = 0.0;  // its value stays nothing: only differences count
    left_ = left.cwiseAbs().maxCoeff() / c_.most_m3s;
    if (left_ < 1e-7) return false;
    std::vector<Eigen::Triplet<double>> entries;
    for (Eigen::Index i = 0; i < size(); ++i)
      entries.emplace_back(i, i, i == c_.source ? 1.0 / epsilon_ : 1e-9 / epsilon_);
    for (std::size_t l = 0; l < c_.lines.size(); ++l) {
      const BoundLine& line = c_.lines[l];
      if (line.from == line.to) continue;
      for (const auto& [i, j] : {std::pair{line.from, line.to}, std::pair{line.to, line.from}}) {
        if (i == c_.source) continue;
        entries.emplace_back(i, i, slopes.weights[l]);
        if (j != c_.source) entries.emplace_back(i, j, -slopes.weights[l]);
      }
    }
    Eigen::SparseMatrix<double> matrix(size(), size());
    matrix.setFromTriplets(entries.begin(), entries.end());
    if (!analysed_) factor_.analyzePattern(matrix), analysed_ = true;
    factor_.factorize(matrix);
    if (factor_.info() != Eigen::Success) return false;
    const Eigen::VectorXd step = factor_.solve(left);
    const double rise = left.dot(step);
    if (!(rise > 1e-12 * std::max(1.0, std::abs(now)))) return false;
    for (double part = 1.0; part > 1e-3; part /= 2) {
      Eigen::VectorXd to = y_ + part * step;
      if (smooth(to) < now + 1e-4 * part * rise) continue;
      y_ = std::move(to);
      return true;
    }
    return false;
  }
  // The bound at the values come to, without ε.
  [[nodiscard]] double exact() const {
    double value = worth(y_);
    for (std::size_t l = 0; l < c_.lines.size(); ++l) {
      const double s = std::abs(y_[c_.lines[l].to] - y_[c_.lines[l].from]);
      double least = 1e300;
      for (const Bend& bend : hulls_[l]) least = std::min(least, bend.value - s * bend.flow_m3s);
      value += least;
    }
    return value;
  }

  const BoundCase& c_;
  std::vector<Hull> hulls_;
  Eigen::VectorXd y_;
  double epsilon_ = 1.0, power_ = 0.0;
  double left_ = 1.0;  // greatest imbalance, as a share of all that is drawn
  Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> factor_;
  bool analysed_ = false;
};

}  // namespace

CostBound costBound(const SizingTask& task, const Judge& judge, std::stop_token stop) {
  CostBound out;
  for (const CaseId id : task.cases) {
    const auto c = setUpBound(task, judge, id);
    if (!c) {
      out.why = c.error();
      continue;
    }
    const Case* which = task.model.cases.find(id);
    const std::string in = which && task.cases.size() > 1 ? " in " + which->name : "";
    if (!c->lacking.empty()) {
      out.noneCan = fmt::format("even with no losses{}, {}", in, c->lacking);
      break;
    }
    double best = 0.0, scale = 0.0, dearest = 0.0;
    for (const BoundLine& l : c->lines) {
      double most = 0.0;
      for (const BoundLine::Size& s : l.sizes) most = std::max(most, s.cost);
      scale = std::max(scale, most), dearest += most;
    }
    if (!(scale > 0)) continue;
    // Dearer than the dearest there is: what is asked cannot be.
    const auto none = [&] { return best > dearest * (1 + 1e-6); };
    // The bound is a concave function of the price: between one at which it rises and one at which it falls
    // the middle is tried.
    const double unit = scale / (c->most_m3s * std::max(1.0, std::abs(c->head_m)));
    FlowDual dual(*c);
    double low = 1e-4 * unit, high = 1e7 * unit;
    // Where the smallest sizes lose less than there is, power is worth nothing.
    if (const auto free = dual.at(0.0, false)) {
      best = std::max(best, free->value);
      if (free->settled && free->slope <= 0) high = low;
      if (none())
        out.noneCan =
            fmt::format("the velocity limits do not allow the required flow{}, whatever the split", in);
    }
    while (high > 1.0001 * low && !none() && !stop.stop_requested()) {
      const double price = std::sqrt(low * high);
      const auto at = dual.at(price, high < 2 * low);
      if (!at) break;
      best = std::max(best, at->value);
      (at->slope > 0 ? low : high) = price;
    }
    if (none()) {
      if (out.noneCan.empty())
        out.noneCan = fmt::format(
            "at the allowed velocities the losses exceed the available head{}, whatever the split", in);
      break;
    }
    // Rounding is not held for a proof.
    best *= 1 - 1e-9;
    if (task.options.objective == Objective::wholeLife)
      best *= 1 + task.prices.upkeep * task.prices.upkeepWorth;
    if (!out.cost || best > *out.cost) out.cost = best;
  }
  if (!out.noneCan.empty()) out.cost.reset();
  if (out.cost || !out.noneCan.empty()) out.why.clear();
  return out;
}

}  // namespace conduit

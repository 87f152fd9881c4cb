#include "solve/judge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>

#include "exchange/stock_files.h"
#include "parts/registry.h"
namespace conduit::test {
namespace {

double num(const Element& e, const char* key, double fallback) {
  const Given* g = e.given(key);
  return g ? g->value : fallback;
}
bool flag(const Element& e, const char* key, bool fallback) {
  const bool* b = e.values.get<bool>(key);
  return b ? *b : fallback;
}

// Colebrook by halving the interval of 1/√f: plain, and no relation of the solver's Newton.
double colebrookPlain(double re, double rel) {
  double low = 0.5, high = 60;
  for (int i = 0; i < 200; ++i) {
    const double x = (low + high) / 2;
    (x + 2 * std::log10(rel / 3.7 + 2.51 * x / re) < 0 ? low : high) = x;
  }
  return 4 / ((low + high) * (low + high));
}

double frictionPlain(double re, double rel) {
  if (re <= 2000) return 64 / re;
  if (re >= 4000) return colebrookPlain(re, rel);
  const double f4 = colebrookPlain(4000, rel), h = 1e-4;
  const double m =
      (std::log(colebrookPlain(4000 * (1 + h), rel)) - std::log(colebrookPlain(4000 * (1 - h), rel))) /
      (std::log(1 + h) - std::log(1 - h));
  const double s = std::log(re / 2000) / std::log(2.0);
  return std::exp((2 * s * s * s - 3 * s * s + 1) * std::log(0.032) -
                  (s * s * s - 2 * s * s + s) * std::log(2.0) + (3 * s * s - 2 * s * s * s) * std::log(f4) +
                  (s * s * s - s * s) * m * std::log(2.0));
}

double area(double d) { return M_PI * d * d / 4; }

// Area, hydraulic diameter and the factor on its Reynolds number of a pipe's section (f Re of Shah and London
// 1978).
struct Inside {
  double area = 0, hydraulic = 0, phi = 1;
  double equal() const { return std::sqrt(4 * area / M_PI); }
};
Inside inside(const Element& e) {
  const auto* word = e.text("section");
  if (word && *word == "rectangular") {
    const double w = num(e, "section width", 0), h = num(e, "section height", 0),
                 s = std::min(w, h) / std::max(w, h);
    return {w * h, 2 * w * h / (w + h),
            64 / (96 * (1 - 1.3553 * s + 1.9467 * s * s - 1.7012 * std::pow(s, 3) + 0.9564 * std::pow(s, 4) -
                        0.2537 * std::pow(s, 5)))};
  }
  const double d = num(e, "bore", 0);
  if (word && *word == "annular") {
    const double i = num(e, "inner pipe", 0), r = i / d;
    return {area(d) - area(i), d - i, (1 + r * r - (1 - r * r) / std::log(1 / r)) / ((1 - r) * (1 - r))};
  }
  return {area(d), d, 1};
}

// Gardel 1957, on the velocity in the common leg: q the branch's share, phi its area over that of the common
// leg, square and without a fillet.
double gardel(bool joins, bool branch, double phi, double q) {
  if (joins && branch)
    return -0.92 * (1 - q) * (1 - q) - q * q * (-1.2 + 0.8 * (1 - 1 / (phi * phi))) + (2 - phi) * q * (1 - q);
  if (joins)
    return 0.03 * (1 - q) * (1 - q) - q * q * (1 - 1.62 - 0.38 * (1 - phi)) + (2 - phi) * q * (1 - q);
  if (branch)
    return 0.95 * (1 - q) * (1 - q) + q * q * (1.0 + (0.4 - 0.1 * phi) / (phi * phi)) +
           0.4 * q * (1 - q) * (1 + phi) / phi;
  return 0.03 * (1 - q) * (1 - q) + 0.35 * q * q - 0.2 * q * (1 - q);
}

struct Bench {
  const Network& net;
  const Solution& sol;
  std::map<Id, double> widest;
  double g = 9.80665, lowest = 1e300;  // height of the lowest point

  explicit Bench(const Network& n, const Solution& s) : net(n), sol(s) {
    net.each([&](Id, const Element& e) {
      if (e.part->key == "point") lowest = std::min(lowest, num(e, "height", 0));
      if (e.part->key == "pipe")
        for (const Id end : e.ends) widest[end] = std::max(widest[end], inside(e).equal());
    });
  }
  double seat(const Element& e) const {
    double own = num(e, "bore", 0);
    if (own > 0) return own;
    double best = 0;
    for (const Id end : e.ends)
      if (widest.contains(end) && widest.at(end) > 0 && (best == 0 || widest.at(end) < best))
        best = widest.at(end);
    return best;
  }
  // A drop given as a column of the liquid or as a pressure.
  double column(const Element& e, const char* key) const {
    const Given& given = *e.given(key);
    return given.basis == Basis::column ? given.value
                                        : given.value / (sol.setting.medium.density_kgm3 * 9.80665);
  }
  double velocityHead(double q, double d) const { return q * std::abs(q) / (2 * g * area(d) * area(d)); }

  // Head lost by a two-ended element open at flow q.
  double loss(const Element& e, double q) const {
    const std::string_view k = e.part->key;
    if (k == "pipe") {
      const Inside in = inside(e);
      const double re = in.phi * std::abs(q) / in.area * in.hydraulic / sol.setting.viscosity_m2s,
                   vh = q * std::abs(q) / (2 * g * in.area * in.area);
      if (re == 0) return tees(e, q);
      const double length = num(e, "length", 0),
                   friction = length > 0 ? frictionPlain(re, num(e, "roughness", 0) / in.hydraulic) * length /
                                               in.hydraulic
                                         : 0.0;
      return (friction + num(e, "K", 0) + changes(e, q)) * vh + tees(e, q);
    }
    if (k == "isolating valve") return num(e, "K", 0.2) * velocityHead(q, seat(e));
    if (k == "check valve") return num(e, "K", 2) * velocityHead(q, seat(e));
    if (k == "reducing valve") return num(e, "K", 4) * velocityHead(q, seat(e));
    if (k == "sustaining valve" || k == "differential valve")
      return num(e, "K", 4) * velocityHead(q, seat(e));
    if (k == "limiting valve") return num(e, "K", 2) * velocityHead(q, seat(e));
    if (k == "relief valve")
      return (q < 0 ? -1 : 1) * std::pow(q * 3600 / num(e, "Kv", 1), 2) * 1e5 / (1000 * g);
    if (k == "own loss") {
      const auto* word = e.text("law");
      if (!word || *word == "K") return num(e, "K", 0) * velocityHead(q, seat(e));
      if (*word == "power law")
        return (q < 0 ? -1 : 1) * column(e, "rated drop") *
               std::pow(std::abs(q) / num(e, "rated flow", 1), num(e, "exponent", 2));
      if (*word == "fixed drop") return column(e, "drop");
      return NAN;  // a table: its curve is checked at its points elsewhere
    }
    if (k == "orifice plate") {
      const double big = num(e, "pipe bore", 0), beta = num(e, "bore", 0) / big;
      const auto* word = e.text("tappings");
      const bool corner = word && *word == "corner";
      const double least = beta <= 0.56 ? 5000 : 16000 * beta * beta;
      const double re = std::max(std::abs(q) * 4 / (M_PI * big * sol.setting.viscosity_m2s), least);
      const double l1 = corner ? 0 : 1, m2 = corner ? 0 : 0.94 / (1 - beta),
                   a = std::pow(19000 * beta / re, 0.8), b4 = std::pow(beta, 4);
      const double c =
          0.5961 + 0.0261 * beta * beta - 0.216 * b4 * b4 + 0.000521 * std::pow(1e6 * beta / re, 0.7) +
          (0.0188 + 0.0063 * a) * std::pow(beta, 3.5) * std::pow(1e6 / re, 0.3) +
          (0.043 + 0.08 * std::exp(-10 * l1) - 0.123 * std::exp(-7 * l1)) * (1 - 0.11 * a) * b4 / (1 - b4) -
          0.031 * (m2 - 0.8 * std::pow(m2, 1.1)) * std::pow(beta, 1.3);
      return std::pow(std::sqrt(1 - b4 * (1 - c * c)) / (c * beta * beta) - 1, 2) * velocityHead(q, big);
    }
    if (k == "strainer")
      return num(e, "clean drop", 0) / (sol.setting.medium.density_kgm3 * 9.80665) * q * std::abs(q) /
             std::pow(num(e, "rated flow", 1), 2);
    if (k == "control valve") {
      const auto* word = e.text("characteristic");
      const double h = num(e, "opening", 1);
      double kv = num(e, "Kv", 1) * (word && *word == "equal percentage" ? std::pow(50.0, h - 1)
                                     : word && *word == "quick opening"  ? std::sqrt(h)
                                                                         : h);
      const double bar = std::pow(q * 3600 / kv, 2) * sol.setting.medium.density_kgm3 / 1000;
      return (q < 0 ? -1 : 1) * bar * 1e5 / (sol.setting.medium.density_kgm3 * 9.80665);
    }
    return NAN;
  }
  // K of the changes of bore at a pipe's ends, counted with the narrower pipe, by the direction of the flow.
  double changes(const Element& e, double q) const {
    double k = 0;
    for (std::size_t i = 0; i < 2; ++i) {
      const Element& p = net.at(e.ends[i]);
      const auto* how = p.text("change of bore");
      if (!how || *how == "not counted") continue;
      const auto there = net.elementsAt(e.ends[i]);
      if (there.size() != 2) continue;
      const Element& other = net.at(&net.at(there[0]) == &e ? there[1] : there[0]);
      if (other.part->key != "pipe") continue;
      const double b = inside(e).equal() / inside(other).equal(),
                   angle = *how == "sudden" ? 180 : num(p, "cone angle", 30),
                   half = std::sin(angle / 2 * M_PI / 180);
      if (b >= 1 - 1e-9) continue;
      const bool narrows = (q >= 0) == (i == 0);  // the flow comes out of the wider pipe
      k += narrows ? (angle >= 180  ? 0.5
                      : angle <= 45 ? 0.8 * half
                                    : 0.5 * std::sqrt(half)) *
                         (1 - b * b)
                   : (angle <= 45 ? 2.6 * half : 1.0) * (1 - b * b) * (1 - b * b);
    }
    return k;
  }
  // What tees at a pipe's ends take from it, in the direction from its start to its end.
  double tees(const Element& e, double) const {
    double sum = 0;
    for (std::size_t i = 0; i < 2; ++i) {
      const auto* branch = net.at(e.ends[i]).text("tee branch");
      if (!branch || branch->empty()) continue;
      double in[3], a[3];
      int mine = -1, count = 1;
      for (const Id id : net.elementsAt(e.ends[i])) {
        const Element& leg = net.at(id);
        const int k = leg.name == *branch ? 0 : count++;
        in[k] = *sol.branch(id, 0).flow_m3s * (leg.ends[1] == e.ends[i] ? 1 : -1), a[k] = inside(leg).area;
        if (&leg == &e) mine = k;
      }
      // What flows into the tee along `mine` loses, with one leg or the other as the common one.
      const auto by = [&](int common) {
        if (common == mine || in[common] == 0) return 0.0;
        const bool joins = in[common] < 0;
        const double q = std::abs(in[common]);
        const auto head = [&](int k) { return q * q / (2 * g * a[k] * a[k]); };
        double loss = 0;
        if (common == 0) {
          const int other = 3 - mine;
          const double share = std::min(std::abs(in[mine]) / q, 1.0), pm = std::min(a[0] / a[mine], 1.0),
                       po = std::min(a[0] / a[other], 1.0);
          loss = share * gardel(!joins, true, pm, 1) * head(mine) +
                 (1 - share) * (gardel(!joins, true, po, 1) - gardel(!joins, false, po, 1)) * head(other);
        } else {
          loss =
              gardel(joins, mine == 0, std::min(a[0] / a[common], 1.0), std::min(std::abs(in[0]) / q, 1.0)) *
              head(common);
        }
        return joins ? loss : -loss;
      };
      int order[3] = {0, 1, 2};
      std::stable_sort(order, order + 3, [&](int x, int y) { return std::abs(in[x]) > std::abs(in[y]); });
      const double apart = in[order[0]] != 0
                               ? std::min(1.0, (1 - std::abs(in[order[1]] / in[order[0]])) / 0.01)
                               : 1.0,
                   own = 0.5 + 0.5 * apart * apart * (3 - 2 * apart);
      const double loss = own * by(order[0]) + (1 - own) * by(order[1]);
      sum += i == 1 ? loss : -loss;
    }
    return sum;
  }
  // Head a three-point pump gives, or NaN for a table (whose curve is checked at its points elsewhere).
  double pumpHead(const Element& e, double q) const {
    const auto* how = e.text("described by");
    const auto* arranged = e.text("arrangement");
    const double units = num(e, "units", 1), side = arranged && *arranged == "series" ? 1 : units,
                 after = units / side;
    if (how && *how == "given head") return num(e, "duty head", 0) * after;
    if (how && *how == "given power")
      return q > 0 ? std::min(1000.0, num(e, "power to the liquid", 0) * units /
                                          ((sol.setting.medium.density_kgm3 * 9.80665) * q))
                   : 1000.0;
    if (how && *how == "duty point") {
      const double q0 = num(e, "duty flow", 0), h0 = num(e, "duty head", 0), stage = h0 / num(e, "stages", 1),
                   n = num(e, "rated speed", 0) * 60;
      const double nq = std::clamp(n > 0 ? n * std::sqrt(q0) / std::pow(stage, 0.75) : 30.0, 10.0, 200.0);
      static constexpr double at[] = {10, 20, 30, 40, 60, 80, 100, 150, 200},
                              top[] = {1.14, 1.18, 1.24, 1.30, 1.42, 1.57, 1.75, 2.25, 2.80},
                              power[] = {2.2, 2.1, 2.0, 1.9, 1.75, 1.6, 1.5, 1.25, 1.1};
      std::size_t i = 0;
      while (i < 7 && nq > at[i + 1]) ++i;
      const double t = std::log(nq / at[i]) / std::log(at[i + 1] / at[i]),
                   rest = top[i] + t * (top[i + 1] - top[i]), b = power[i] + t * (power[i + 1] - power[i]);
      const double fall = h0 * (rest - 1) * std::pow(std::abs(q) / side / q0, b);
      return (h0 * rest - (q < 0 ? -fall : fall)) * after;
    }
    const Rows& rows = *e.rows("curve");
    if (rows.size() != 3) return NAN;
    q /= side;
    const double s = e.value("speed") ? num(e, "speed", 1) / num(e, "rated speed", 1) : 1.0;
    const double h0 = rows[0][1]->value, h1 = rows[1][1]->value, h2 = rows[2][1]->value,
                 q1 = rows[1][0]->value, q2 = rows[2][0]->value;
    const double b = std::log((h0 - h2) / (h0 - h1)) / std::log(q2 / q1), a = (h0 - h1) / std::pow(q1, b);
    const double fall = a * std::pow(s, 2 - b) * std::pow(std::abs(q), b);
    return (s * s * h0 - (q < 0 ? -fall : fall)) * after;
  }
};

}  // namespace

std::vector<std::string> judge(const Network& net, const Solution& sol) {
  std::vector<std::string> wrong;
  const Bench bench(net, sol);
  constexpr double headSlack = 2e-6;
  std::map<Id, double> into, through;
  std::set<Id> held;
  auto say = [&](const Element& e, const std::string& what) {
    if (wrong.size() < 10) wrong.push_back(e.name + ": " + what);
  };
  net.each([&](Id id, const Element& e) {
    const std::string_view k = e.part->key;
    if (k == "point") {
      into[id] += num(e, "inflow", 0) - num(e, "outflow", 0);
      through[id] += std::abs(num(e, "inflow", 0)) + std::abs(num(e, "outflow", 0));
      return;
    }
    if (k == "fixed pressure") {
      held.insert(e.ends[0]);
      const Given& p = *e.given("pressure");
      const double want =
          num(net.at(e.ends[0]), "height", 0) +
          (p.basis == Basis::column ? p.value : p.value / (sol.setting.medium.density_kgm3 * 9.80665));
      if (std::abs(*sol.head(e.ends[0]) - want) > headSlack) say(e, "does not hold its pressure");
      return;
    }
    if (k == "tank") {
      const Rows* rows = e.rows("connections");
      for (std::size_t i = 0; i < e.ends.size(); ++i) {
        const BranchReading b = sol.branch(id, i);
        const double z = rows && i < rows->size() && (*rows)[i][0] ? (*rows)[i][0]->value
                                                                   : num(net.at(e.ends[i]), "height", 0);
        const double level = num(e, "level", 0),
                     bore = bench.widest.contains(e.ends[i]) ? bench.widest.at(e.ends[i]) : 0;
        const auto h = sol.head(e.ends[i]);
        const double q = *b.flow_m3s, vh = bore > 0 ? bench.velocityHead(q, bore) : 0;
        const bool wetted = z <= level;
        into[e.ends[i]] += wetted ? q : -q;
        through[e.ends[i]] += std::abs(q);
        if (!h) continue;
        if (wetted && std::abs(level - *h - (q >= 0 ? 0.5 : 1.0) * vh) > headSlack)
          say(e, "entrance or exit loss is wrong");
        if (!wetted && q > 1e-12 && std::abs(*h - z - vh) > headSlack) say(e, "free discharge is wrong");
        if (!wetted && q < -1e-12) say(e, "a connection above the liquid supplies");
        if (!wetted && q <= 1e-12 && *h > z + 1e-5) say(e, "dry although the head is above the connection");
      }
      return;
    }
    if (k == "nozzle") {
      const BranchReading b = sol.branch(id, 0);
      const double q = *b.flow_m3s;
      into[e.ends[0]] -= q;
      through[e.ends[0]] += std::abs(q);
      const auto h = sol.head(e.ends[0]);
      if (!flag(e, "open", true)) {
        if (q != 0) say(e, "closed and still throws");
        return;
      }
      if (!h) return;
      const double p = (*h - num(net.at(e.ends[0]), "height", 0)) *
                       (sol.setting.medium.density_kgm3 * 9.80665),
                   want = p > 0 ? num(e, "K-factor", 0) * std::sqrt(p) : 0;
      if (std::abs(q - want) >
          1e-7 * std::max(want, 1e-4) + num(e, "K-factor", 0) * std::sqrt(headSlack * 1e4))
        say(e, fmt::format("throws {} where {} is due", q, want));
      return;
    }
    const BranchReading b = sol.branch(id, 0);
    const double q = *b.flow_m3s;
    into[e.ends[0]] -= q;
    into[e.ends[1]] += q;
    through[e.ends[0]] += std::abs(q);
    through[e.ends[1]] += std::abs(q);
    const auto ha = sol.head(e.ends[0]), hb = sol.head(e.ends[1]);
    const bool known = ha && hb;
    const double drop = known ? *ha - *hb : NAN;
    const bool closed = (k == "isolating valve" && !flag(e, "open", true)) ||
                        (k == "pump" && !flag(e, "running", true)) ||
                        (k == "control valve" && num(e, "opening", 1) == 0);
    if (closed) {
      if (q != 0) say(e, "closed and still passes");
      return;
    }
    if (k == "pump") {
      const auto* how = e.text("described by");
      const auto* keeps = e.text("keeps");
      const bool holds = keeps && *keeps == "a pressure", limits = keeps && *keeps == "a flow";
      const bool check = flag(e, "check valve", true) || holds || (how && *how != "duty point");
      if (check && q < -1e-11) say(e, "flows back through its check valve");
      const double shutOff = bench.pumpHead(e, 0), head = bench.pumpHead(e, q);
      if (!known || std::isnan(head)) return;
      if (check && b.state == BranchState::shut) {
        const bool enough =
            holds && *hb >= num(net.at(e.ends[1]), "height", 0) + bench.column(e, "kept pressure") - 1e-5;
        if (-drop < shutOff - 1e-5 && !enough)
          say(e, "shut in although the network stands below its shut-off head");
      } else if (limits && b.state == BranchState::acting) {
        if (std::abs(q - num(e, "kept flow", 0)) > 1e-11 || -drop > head + 1e-5)
          say(e, "does not keep its flow, or by more than its speed gives");
      } else if (holds && b.state == BranchState::acting) {
        const double kept = num(net.at(e.ends[1]), "height", 0) + bench.column(e, "kept pressure");
        if (std::abs(*hb - kept) > 1e-5 || -drop > head + 1e-5)
          say(e, "does not keep its pressure, or by more than its speed gives");
      } else if (limits && q > num(e, "kept flow", 0) + 1e-10) {
        say(e, "passes more than it keeps");
      } else if (std::abs(-drop - head) > headSlack + (how && *how == "given power" ? 1e-6 * head : 0)) {
        say(e, fmt::format("gives {} m where its curve has {} m", -drop, head));
      }
      return;
    }
    if (k == "check valve") {
      if (q < -1e-11) say(e, "passes backward");
      if (!known) return;
      if (b.state == BranchState::shut ? drop > 1e-5 : std::abs(drop - bench.loss(e, q)) > headSlack)
        say(e, "its state does not fit its heads");
      return;
    }
    if (k == "reducing valve") {
      if (q < -1e-11) say(e, "passes backward");
      const double set = num(net.at(e.ends[1]), "height", 0) + num(e, "set point", 0);
      if (ha && !hb) say(e, "the pocket behind it is left undetermined");
      if (!known) return;
      if (b.state == BranchState::acting && (std::abs(*hb - set) > 1e-5 || drop < bench.loss(e, q) - 1e-5))
        say(e, "acting, and does not hold its set point or cannot");
      if (b.state == BranchState::open && (std::abs(drop - bench.loss(e, q)) > headSlack || *hb > set + 1e-5))
        say(e, "open, and above its set point or with a wrong loss");
      if (b.state == BranchState::shut && (q != 0 || (*hb < set - 1e-5 && drop > 1e-5)))
        say(e, "shut although it should pass");
      return;
    }
    if (k == "sustaining valve" || k == "relief valve") {
      if (q < -1e-11) say(e, "passes backward");
      if (!known) return;
      const double set = num(net.at(e.ends[0]), "height", 0) + bench.column(e, "set point");
      if (ha && !hb && *ha > set + 1e-5) say(e, "the pocket behind it is left undetermined");
      if (b.state == BranchState::acting && q < 1e-13) say(e, "acts although nothing passes it");
      if (b.state == BranchState::acting && (std::abs(*ha - set) > 1e-5 || drop < bench.loss(e, q) - 1e-5))
        say(e, "acting, and does not keep what it should or cannot");
      if (b.state == BranchState::open && (std::abs(drop - bench.loss(e, q)) > headSlack || *ha < set - 1e-5))
        say(e, "open, and below its set point or with a wrong loss");
      if (b.state == BranchState::shut && (q != 0 || (*ha > set + 1e-5 && drop > 1e-5)))
        say(e, "shut although it should pass");
      return;
    }
    if (k ==
        "differential valve") {  // across itself: nothing below its difference, that until it is wide open
      const double set = bench.column(e, "difference");
      if (q < -1e-11) say(e, "passes backward");
      if (known &&
          (b.state == BranchState::shut ? drop > set + 1e-5
                                        : std::abs(drop - std::max(set, bench.loss(e, q))) > headSlack))
        say(e, "its drop does not fit");
      return;
    }
    if (k == "limiting valve") {
      const double most = num(e, "flow at most", 0);
      if (q > most * (1 + 1e-8) + 1e-11) say(e, "passes more than its most");
      if (!known) return;
      if (b.state == BranchState::acting ? std::abs(q - most) > 1e-11 || drop < bench.loss(e, q) - 1e-5
                                         : std::abs(drop - bench.loss(e, q)) > headSlack)
        say(e, "its state does not fit");
      return;
    }
    if (k == "own loss" && num(e, "drop", 0) > 0) {
      if (q < -1e-11) say(e, "passes backward");
      if (known && (b.state == BranchState::shut ? drop > bench.loss(e, 0) + 1e-5
                                                 : std::abs(drop - bench.loss(e, q)) > headSlack))
        say(e, "its fixed drop does not fit");
      return;
    }
    if (k == "own loss" && std::isnan(bench.loss(e, q))) return;
    if (k == "control valve" && num(e, "FL", 0) > 0) {
      if (!known) return;
      // Q = FL Kv √((p1 − FF pv)/(ρ/1000)), bar absolute.
      const std::size_t up = q >= 0 ? 0 : 1;
      const double p1 =
          ((q >= 0 ? *ha : *hb) - num(net.at(e.ends[up]), "height", 0)) *
              (sol.setting.medium.density_kgm3 * 9.80665) +
          101325 * std::pow(1 - 2.25577e-5 *
                                    (num(net.job(), "altitude", 0) + num(net.at(e.ends[up]), "height", 0) -
                                     num(net.job(), "altitude holds at", bench.lowest)),
                            5.25588) -
          sol.setting.medium.density_kgm3 * std::pow(q / area(bench.widest.at(e.ends[up])), 2) /
              2;  // what the wall of the pipe feels
      const double ff = 0.96 - 0.28 * std::sqrt(sol.setting.vapour_pa / 22.064e6),
                   bar = std::max(0.0, (p1 - ff * sol.setting.vapour_pa) / 1e5);
      const double unitBar = std::abs(bench.loss(e, 1.0 / 3600)) *
                             (sol.setting.medium.density_kgm3 * 9.80665) / 1e5;  // Δp at 1 m3/h
      const double most = num(e, "FL", 0) * std::sqrt(bar / unitBar) / 3600;
      if (b.state == BranchState::acting
              ? std::abs(std::abs(q) - most) > 1e-7 * most + 1e-9 ||
                    std::abs(drop) < std::abs(bench.loss(e, q)) - 1e-5
              : std::abs(drop - bench.loss(e, q)) > headSlack + 1e-8 * std::abs(drop) ||
                    (std::abs(q) > most * (1 + 1e-7) + 1e-9 && bar > 0 && !sol.summary.overChoked))
        say(e, fmt::format("choking does not fit: {} against {}", q, most));
      return;
    }
    if (known && std::abs(drop - bench.loss(e, q)) > headSlack + 1e-8 * std::abs(drop))
      say(e, fmt::format("loses {} m where its law has {} m", drop, bench.loss(e, q)));
  });
  double greatest = 0;  // the rounding of great flows is felt in small ones
  for (const auto& [id, size] : through) greatest = std::max(greatest, size);
  for (const auto& [id, sum] : into)
    if (!held.contains(id) && std::abs(sum) > 1e-8 * std::max({through[id], 1e-6, 1e-4 * greatest}))
      say(net.at(id), fmt::format("does not balance by {} m3/s", sum));
  return wrong;
}

bool neverAtItsSetPoint(const Network& net, Id valve) {
  const Element& device = net.at(valve);
  const bool behind = device.part->key == "reducing valve";
  if (!behind && device.part->key != "sustaining valve" && device.part->key != "relief valve") return false;
  constexpr int steps = 60;
  for (int step = 0; step < steps; ++step) {
    Draft d(net);
    d.remove(valve);
    const Id plain = d.add(*findPart("own loss"), "", device.ends);
    d.values(plain).set("law", std::string("K"));
    d.values(plain).set("bore", Given{0.1, Basis::direct, "100 mm"});
    d.values(plain).set("K", Given{std::pow(10.0, -2.0 + 10.0 * step / (steps - 1)), Basis::direct, ""});
    const Network turned = std::move(d).finish();
    const Solution s = solve(turned, &shippedStock());
    if (!s.summary.usable()) return false;
    const std::optional<double> head = s.head(device.ends[behind ? 1 : 0]);
    if (!head) return false;
    const double over = *head - num(net.at(device.ends[behind ? 1 : 0]), "height", 0) -
                        Bench(turned, s).column(device, "set point");
    if (behind ? over < 1e-6 : over > -1e-6) return false;
  }
  return true;
}

bool feasible(const Network& net) {
  // Arcs of the plain graph; node 0 is the world of all held heads.
  struct Arc {
    Id to;
    double left;
    std::size_t back;
  };
  std::vector<std::vector<Arc>> out(net.bound() + 2);
  const Id world = 0, source = net.bound(), sink = net.bound() + 1;
  auto arc = [&](Id a, Id b, double most) {
    out[a].push_back({b, most, out[b].size()});
    out[b].push_back({a, 0.0, out[a].size() - 1});
  };
  std::map<Id, double> draw;
  std::map<Id, std::vector<std::pair<Id, bool>>> beside;  // point: neighbour, closed between?
  net.each([&](Id id, const Element& e) {
    const std::string_view k = e.part->key;
    if (k == "point") {
      draw[id] = num(e, "outflow", 0) - num(e, "inflow", 0);
    } else if (k == "fixed pressure") {
      arc(e.ends[0], world, 1e9), arc(world, e.ends[0], 1e9);
      beside[e.ends[0]].emplace_back(world, false);
    } else if (k == "nozzle") {
      if (flag(e, "open", true)) arc(e.ends[0], world, 1e9);
      beside[e.ends[0]].emplace_back(world, !flag(e, "open", true));
    } else if (k == "tank") {
      const Rows* rows = e.rows("connections");
      for (std::size_t i = 0; i < e.ends.size(); ++i) {
        const double z = rows && i < rows->size() && (*rows)[i][0] ? (*rows)[i][0]->value
                                                                   : num(net.at(e.ends[i]), "height", 0);
        arc(e.ends[i], world, 1e9);
        if (z <= num(e, "level", 0)) arc(world, e.ends[i], 1e9);
        beside[e.ends[i]].emplace_back(world, false);
      }
    } else {
      const bool closed = (k == "isolating valve" && !flag(e, "open", true)) ||
                          (k == "pump" && !flag(e, "running", true)) ||
                          (k == "control valve" && num(e, "opening", 1) == 0);
      beside[e.ends[0]].emplace_back(e.ends[1], closed);
      beside[e.ends[1]].emplace_back(e.ends[0], closed);
      if (closed) return;
      const auto *how = e.text("described by"), *keeps = e.text("keeps");
      const bool keepsFlow =
          k == "pump" && keeps && *keeps == "a flow" && (!how || *how == "duty point" || *how == "curve");
      arc(e.ends[0], e.ends[1],
          k == "limiting valve" ? num(e, "flow at most", 0)
          : keepsFlow           ? num(e, "kept flow", 0)
                                : 1e9);
      const auto* law = e.text("law");
      const bool oneWay = k == "check valve" || k == "reducing valve" || k == "sustaining valve" ||
                          k == "relief valve" || k == "differential valve" || (law && *law == "fixed drop") ||
                          (k == "pump" && (flag(e, "check valve", true) || (how && *how != "duty point") ||
                                           (keeps && *keeps == "a pressure")));
      if (!oneWay) arc(e.ends[1], e.ends[0], 1e9);
    }
  });
  // A piece that hangs together (whatever the one-way devices) without the world: nothing may flow in it, and
  // something closed must part it from the rest; a lone point may be anywhere.
  std::set<Id> seen;
  for (const auto& [start, q] : draw) {
    if (seen.contains(start)) continue;
    std::vector<Id> piece{start};
    seen.insert(start);
    bool world_ = false, closed = false, flows = false, linked = false;
    for (std::size_t i = 0; i < piece.size(); ++i) {
      flows = flows || draw[piece[i]] != 0;
      for (const auto& [next, shut] : beside[piece[i]]) {
        if (shut) closed = true;
        else if (next == world) world_ = true;
        else {
          linked = true;
          if (seen.insert(next).second) piece.push_back(next);
        }
      }
    }
    if (!world_ && (flows || (linked && !closed))) return false;
  }
  // Draws from the world and the feeds; feeds to the world and the draws. Depth-first augmenting (Ford and
  // Fulkerson 1956).
  auto met = [&](bool draws) {
    auto graph = out;
    auto link = [&](Id a, Id b, double most) {
      graph[a].push_back({b, most, graph[b].size()});
      graph[b].push_back({a, 0.0, graph[a].size() - 1});
    };
    double wanted = 0;
    for (const auto& [id, q] : draw) {
      if (q > 0) link(id, sink, q);
      if (q < 0) link(source, id, -q);
      if (draws ? q > 0 : q < 0) wanted += std::abs(q);
    }
    if (draws) link(source, world, 1e9);
    else link(world, sink, 1e9);
    double got = 0;
    for (;;) {
      std::vector<std::pair<Id, std::size_t>> via(graph.size(), {noId, 0});
      std::vector<Id> stack{source};
      via[source] = {source, 0};
      while (!stack.empty() && via[sink].first == noId) {
        const Id n = stack.back();
        stack.pop_back();
        for (std::size_t a = 0; a < graph[n].size(); ++a)
          if (graph[n][a].left > 1e-13 && via[graph[n][a].to].first == noId)
            via[graph[n][a].to] = {n, a}, stack.push_back(graph[n][a].to);
      }
      if (via[sink].first == noId) break;
      double most = 1e300;
      for (Id n = sink; n != source; n = via[n].first)
        most = std::min(most, graph[via[n].first][via[n].second].left);
      for (Id n = sink; n != source; n = via[n].first) {
        Arc& a = graph[via[n].first][via[n].second];
        a.left -= most;
        graph[n][a.back].left += most;
      }
      got += most;
    }
    return got >= wanted * (1 - 1e-9) - 1e-12;
  };
  return met(true) && met(false);
}

}  // namespace conduit::test

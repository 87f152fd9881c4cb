#include "sizing/bound.h"

#include <algorithm>
#include <cmath>
#include <memory>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "network/setting.h"
#include "parts/pipe.h"
#include "sizing/programme.h"
#include "solve/index.h"
#include "solve/solve.h"
#include "solve/system.h"

namespace conduit {
namespace {

constexpr int places = 240;              // of the flow at which a line is looked at
constexpr std::size_t linesMost = 1500;  // beyond that the programmes take too long

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
    pipes += x.part->key == "pipe";
    if (!x.values.goals().empty()) why = x.name + " has a given that something is found for";
    for (const Values::Entry& e : x.values.entries())
      if (e.released) why = x.name + " has something that is to be found";
    if (x.part->group == Group::lift) why = "there is " + x.name + ", which lifts";
  });
  if (why.empty() && pipes > linesMost) why = "there are more lines than it is worked out for";
  if (!why.empty()) return tl::unexpected(why);
  const Solution answer = solve(n, task.stock.get(), {.units = task.units, .offers = 0, .notes = false});
  if (!answer.summary.usable())
    return tl::unexpected(std::string("it does not balance with the widest sizes"));
  const Setting& setting = answer.setting;
  const SetUp set = setUp(n, setting, answer.widestBore_m);
  const System& s = set.system;
  if (!set.problems.empty()) return tl::unexpected(std::string("the job is not complete"));
  if (!s.tees.empty())
    return tl::unexpected(n.at(s.rawOwner[u(s.tees[0].raw)]).name +
                          " counts losses that go by how flows are shared");
  for (const KnownBranch& k : s.known)
    if (!k.shut) return tl::unexpected("the flow of " + n.at(k.of.element).name + " is given");
  BoundCase c;
  c.source = -1;
  for (std::size_t r = 0; r < s.rawOwner.size(); ++r) {
    c.outflow.push_back(s.rawOutflow_m3s[r]), c.need.push_back(-1e300);
    if (!s.rawHolds[r]) continue;
    if (c.source >= 0)
      return tl::unexpected("besides lines, valves and one held head there is " + n.at(s.rawOwner[r]).name);
    c.source = static_cast<int>(r), c.head_m = s.rawHead_m[r];
  }
  if (c.source < 0) return tl::unexpected(std::string("no head is held"));
  n.each([&](Id e, const Element& x) {
    if (s.pointRaw[e] < 0 || !answer.head(e)) return;
    double& need = c.need[u(s.pointRaw[e])];
    // What is drawn comes out only against a pressure that is no less than the open air's.
    if (const Given* z = x.given("height"); z && c.outflow[u(s.pointRaw[e])] > 0)
      need = resolve(*z, Measure::height, setting.medium);
    for (const Check& k : checksOf(n, answer, e, task.units)) {
      if (k.severity > Severity::broken || !k.least || k.spoken) continue;
      const double head = *answer.head(e) + setting.medium.columnOf(*k.least - k.value);
      need = std::max(need, head);
    }
  });
  for (std::size_t i = 0; i < c.outflow.size(); ++i) {
    if (static_cast<int>(i) == c.source) continue;
    if (c.outflow[i] < 0) return tl::unexpected(std::string("something is fed in besides"));
    if (c.outflow[i] > 0 && c.need[i] < -1e299)
      return tl::unexpected(std::string("a draw-off has no least pressure"));
    c.most_m3s += c.outflow[i];
  }
  if (!(c.most_m3s > 0)) return tl::unexpected(std::string("nothing is drawn"));
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
    if (n.at(l.of.element).part->key != "pipe") free(l.rawFrom, l.rawTo);
  for (const Join& j : s.joins)
    if (n.at(j.of.element).part->key != "pipe") free(j.rawFrom, j.rawTo);
  n.each([&](Id e, const Element& x) {
    if (x.part->key != "pipe" || !why.empty()) return;
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
        why = x.name + " has no law";
        return;
      }
      const double bore = sized.part->geometry(values, setting).bore_m.value_or(0.0),
                   most = limitsFor(values, setting).velocityMost_ms.value_or(1e300) * M_PI * bore * bore / 4;
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
        const double each = task.options.wanted == Wanted::mass ? size->mass_kgm.value_or(0.0)
                                                                : costOfMetre(task.model.sizing, e, *size);
        add(std::move(draft).finish().at(e), g.length_m.value_or(0.0) * each);
      }
    }
    c.lines.push_back(std::move(line));
  });
  if (!why.empty()) return tl::unexpected(why);
  return c;
}

// A convex function below a line's least cost at each flow, as places where it bends: the least over the
// sizes on each stretch is that at its beginning, for losses rise with the flow and sizes only fall out.
std::vector<std::pair<double, double>> below(const BoundLine& line, double most, double price) {
  std::vector<std::pair<double, double>> corners;
  for (int k = 0; k < places; ++k) {
    double least = 1e300;
    for (const BoundLine::Size& s : line.sizes)
      if (k <= s.last)
        least = std::min(least, s.cost + price * flowAt(most, k) * s.loss[static_cast<std::size_t>(k)]);
    // No size lets so much pass: such flows cannot be, and what holds before them holds on.
    if (least > 1e299) break;
    if (corners.empty()) corners.push_back({0.0, least});
    corners.push_back({flowAt(most, k + 1), least});
  }
  // The lower hull.
  std::vector<std::pair<double, double>> hull;
  for (const auto& point : corners) {
    while (hull.size() > 1) {
      const auto &a = hull[hull.size() - 2], &b = hull.back();
      if ((b.second - a.second) * (point.first - a.first) <= (point.second - a.second) * (b.first - a.first))
        break;
      hull.pop_back();
    }
    hull.push_back(point);
  }
  // Fewer bends, and still below: a convex function lies above each of its edges drawn on, so the highest of
  // some of them will do.
  constexpr std::size_t edgesMost = 28;
  if (hull.size() <= edgesMost + 1) return hull;
  struct Edge {
    double slope, at0;
  };
  std::vector<Edge> edges;
  const std::size_t all = hull.size() - 1;
  for (std::size_t k = 0; k < edgesMost; ++k) {
    const std::size_t e = k * (all - 1) / (edgesMost - 1);
    const double slope = (hull[e + 1].second - hull[e].second) / (hull[e + 1].first - hull[e].first);
    if (edges.empty() || slope > edges.back().slope)
      edges.push_back({slope, hull[e].second - slope * hull[e].first});
  }
  std::vector<std::pair<double, double>> bends{{0.0, edges.front().at0}};
  for (std::size_t k = 0; k + 1 < edges.size(); ++k) {
    const double x = (edges[k].at0 - edges[k + 1].at0) / (edges[k + 1].slope - edges[k].slope);
    if (x > bends.back().first) bends.push_back({x, edges[k].at0 + edges[k].slope * x});
  }
  const double end = hull.back().first;
  if (end > bends.back().first) bends.push_back({end, edges.back().at0 + edges.back().slope * end});
  return bends;
}

// The bound at one price of the power; less than nothing where the programme has no answer.
std::optional<double> boundAt(const BoundCase& c, double price) {
  const Programme lp = emptyProgramme();
  glp_set_obj_dir(lp.get(), GLP_MIN);
  glp_add_rows(lp.get(), static_cast<int>(c.outflow.size()));
  double standing = 0.0;
  for (std::size_t i = 0; i < c.outflow.size(); ++i) {
    const int row = static_cast<int>(i) + 1;
    // What flows in less what flows out is what is drawn; the source gives all of it.
    const double drawn = static_cast<int>(i) == c.source ? -c.most_m3s : c.outflow[i];
    glp_set_row_bnds(lp.get(), row, GLP_FX, drawn, drawn);
    if (static_cast<int>(i) != c.source && c.outflow[i] > 0)
      standing -= price * c.outflow[i] * (c.head_m - c.need[i]);
  }
  for (const BoundLine& line : c.lines) {
    const auto hull = below(line, c.most_m3s, price);
    if (hull.empty()) return std::nullopt;
    standing += hull.front().second;
    for (std::size_t k = 0; k + 1 < hull.size(); ++k)
      for (const bool forth : {true, false}) {
        const int column = glp_add_cols(lp.get(), 1);
        const double width = hull[k + 1].first - hull[k].first;
        glp_set_col_bnds(lp.get(), column, GLP_DB, 0, width);
        glp_set_obj_coef(lp.get(), column, (hull[k + 1].second - hull[k].second) / width);
        const int rows[] = {0, line.from + 1, line.to + 1};
        const double values[] = {0, forth ? -1.0 : 1.0, forth ? 1.0 : -1.0};
        if (line.from != line.to) glp_set_mat_col(lp.get(), column, 2, rows, values);
      }
  }
  glp_smcp simplex;
  glp_init_smcp(&simplex);
  simplex.msg_lev = GLP_MSG_OFF;
  simplex.presolve = GLP_ON;
  if (glp_simplex(lp.get(), &simplex) != 0 || glp_get_status(lp.get()) != GLP_OPT) return std::nullopt;
  return glp_get_obj_val(lp.get()) + standing;
}

}  // namespace

CostBound costBound(const SizingTask& task, const Judge& judge, std::stop_token stop) {
  CostBound out;
  for (const CaseId id : task.cases) {
    const auto c = setUpBound(task, judge, id);
    if (!c) {
      out.why = c.error();
      continue;
    }
    // The bound is a concave function of the price: up in decades as long as it rises, then closed in on.
    double best = 0.0, at = 0.0;
    double scale = 0.0;
    for (const BoundLine& l : c->lines)
      for (const BoundLine::Size& s : l.sizes) scale = std::max(scale, s.cost);
    if (!(scale > 0)) continue;
    const double unit = scale / (c->most_m3s * std::max(1.0, std::abs(c->head_m)));
    for (double price = 1e-4 * unit; price < 1e7 * unit && !stop.stop_requested(); price *= 4) {
      const auto bound = boundAt(*c, price);
      if (!bound) break;
      if (*bound > best) best = *bound, at = price;
      else if (at > 0) break;
    }
    if (at > 0) {
      double low = at / 4, high = at * 4;
      for (int k = 0; k < 14 && !stop.stop_requested(); ++k) {
        const double a = low + 0.382 * (high - low), b = low + 0.618 * (high - low);
        const auto va = boundAt(*c, a), vb = boundAt(*c, b);
        if (!va || !vb) break;
        best = std::max({best, *va, *vb});
        (*va < *vb ? low : high) = *va < *vb ? a : b;
      }
    }
    // Rounding of the programme is not held for a proof.
    best *= 1 - 1e-9;
    if (task.options.wanted == Wanted::wholeLife) best *= 1 + task.prices.upkeep * task.prices.upkeepWorth;
    if (!out.cost || best > *out.cost) out.cost = best;
  }
  if (out.cost) out.why.clear();
  return out;
}

}  // namespace conduit

#include "sizing/plain_tree.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <utility>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "sizing/words.h"
#include "solve/index.h"
#include "solve/solve.h"
#include "solve/system.h"

namespace conduit {
namespace {

// Choices of sizes that all losses may go by that go by several; beyond that they are told at their least.
constexpr std::size_t choicesOfAll = 4'000'000;
// How far a head may stand from what solving says, m: ten times what is asked of a solution.
constexpr double agrees_m = 1e-5;

SizeChoice allOf(const SizingTask& task, std::size_t size) {
  SizeChoice c;
  for (const SizingRow& r : task.rows)
    c.push_back(static_cast<std::uint16_t>(std::min(size, r.sizes.size() - 1)));
  return c;
}

// One case, read.
class CaseRead {
 public:
  CaseRead(const SizingTask& task, const Judge& judge, CaseId id, std::size_t widest, std::size_t choicesMost)
      : task_(task),
        choicesMost_(choicesMost),
        judge_(judge),
        network_(judge.network(id, allOf(task, widest))),
        answer_(solve(network_, task.stock.get(),
                      {.units = task.units, .stop = judge.stop(), .offers = 0, .notes = false})) {
    plain_.id = id;
    rowOf_.assign(network_.bound(), -1);
    for (std::size_t r = 0; r < task.rows.size(); ++r)
      for (const Id line : task.rows[r].lines)
        if (!judge.keepsOwn(id, line)) rowOf_[line] = static_cast<int>(r);
    for (const SizingRow& r : task.rows) plain_.tree.cost.emplace_back(r.sizes.size(), 0.0);
  }

  // False where it is not branched, or goes by something that is not read here.
  bool read() {
    if (!answer_.summary.usable()) return false;
    bool fixed = true;
    network_.each([&](Id, const Element& e) {
      fixed = fixed && e.values.goals().empty();
      for (const Values::Entry& entry : e.values.entries()) fixed = fixed && !entry.released;
      lifts_ = lifts_ || e.part->lifts;
    });
    if (!fixed) return false;
    const SetUp set = setUp(network_, answer_.setting, answer_.widestBore_m);
    if (!set.problems.empty() || !set.system.tees.empty()) return false;
    for (const KnownBranch& k : set.system.known)
      if (!k.shut) return false;
    return walk(set.system);
  }

  // With every row at the same of its sizes: does solving say what is read? Notes the sizes that break a
  // limit by the flow of their line alone, and the heads that are wanted. False where it says otherwise.
  bool compare(std::size_t size, bool needs, std::vector<std::vector<char>>& broken) {
    const SizeChoice choice = allOf(task_, size);
    const Network n = judge_.network(plain_.id, choice);
    const Solution s = solve(n, task_.stock.get(),
                             {.units = task_.units, .stop = judge_.stop(), .offers = 0, .notes = false});
    if (s.summary.verdict == Verdict::stopped) return false;
    if (!s.summary.usable()) {
      // It says nothing of heads; velocities are known all the same.
      for (const PlainTree::Line& line : plain_.lines) {
        const int r = line.element == noId ? -1 : rowOf_[line.element];
        if (r < 0 || size >= task_.rows[u(r)].sizes.size()) continue;
        const Element& e = n.at(line.element);
        const double bore = e.part->geometry(e.values, answer_.setting).bore_m.value_or(0.0),
                     most = limitsFor(e.values, answer_.setting)[LimitId::velocityMost].si.value_or(1e300);
        if (4 * std::abs(line.flow_m3s) > most * M_PI * bore * bore * (1 + 1e-9)) broken[u(r)][size] = 1;
      }
      return true;
    }
    const Tree& tree = plain_.tree;
    const std::vector<std::size_t> sizes = withWidest(choice);
    std::vector<double> far(tree.lines.size());
    for (std::size_t l = 0; l < tree.lines.size(); ++l) {
      const TreeLine& line = tree.lines[l];
      const double before = line.from < 0 ? tree.head_m : far[u(line.from)];
      far[l] = std::min(before - line.loss_m[placeOf(tree, line.rows, sizes)], line.most_m);
      const Id end = plain_.lines[l].far;
      if (end == noId) continue;
      const auto head = s.head(end);
      if (!head || (plain_.lines[l].least ? *head - far[l] : std::abs(*head - far[l])) > agrees_m)
        return false;
      far[l] = *head;
    }
    for (std::size_t l = 0; l < tree.lines.size(); ++l) {
      const PlainTree::Line& line = plain_.lines[l];
      if (line.element == noId) continue;
      // A gradient may go by the bore of a neighbour too.
      const bool alone = tree.lines[l].rows.size() < 2 && !line.least;
      if (const int r = rowOf_[line.element]; r >= 0 && size < task_.rows[u(r)].sizes.size())
        for (const Check& c : checksOf(n, s, line.element))
          if (c.severity <= Severity::broken && c.broken() &&
              (c.id == CheckId::velocity || (alone && c.id == CheckId::gradient)))
            broken[u(r)][size] = 1;
    }
    if (needs) (void)addNeeds(plain_, n, s);
    return true;
  }

  [[nodiscard]] bool lifts() const { return lifts_; }
  PlainTree& plain() { return plain_; }

 private:
  // Rows of the lines that meet at a point, each with the bores of its sizes there, and the widest of those
  // that have none to choose from.
  struct Meeting {
    double fixed_m = 0.0;
    std::vector<std::pair<int, std::vector<double>>> rows;
  };
  struct Edge {
    int a, b;  // raw nodes
    BranchOf of;
    const Link* link;  // none: without loss
  };

  bool walk(const System& s) {
    std::vector<Edge> edges;
    for (const Link& l : s.links) {
      if (l.rawOver >= 0 || (l.holds && l.rawHeld != (l.holdsBefore ? l.rawFrom : l.rawTo))) return false;
      edges.push_back({l.rawFrom, l.rawTo, l.of, &l});
    }
    for (const Join& j : s.joins) edges.push_back({j.rawFrom, j.rawTo, j.of, nullptr});
    const std::size_t nodes = s.rawOwner.size();
    std::vector<std::vector<std::size_t>> at(nodes);
    for (std::size_t e = 0; e < edges.size(); ++e)
      at[u(edges[e].a)].push_back(e), at[u(edges[e].b)].push_back(e);
    // Outward from what holds a head. Of several, each must have a part of its own.
    std::vector<int> lineTo(nodes, -1), near, far;
    std::vector<std::size_t> by;
    std::vector<char> seen(nodes, 0);
    std::vector<double> held;  // of each line that begins at a source
    for (std::size_t source = 0; source < nodes; ++source) {
      if (!s.rawHolds[source]) continue;
      if (seen[source]) return false;
      seen[source] = 1;
      std::vector<std::pair<int, std::size_t>> front{{static_cast<int>(source), edges.size()}};
      for (std::size_t i = 0; i < front.size(); ++i) {
        const auto [node, came] = front[i];
        for (const std::size_t e : at[u(node)]) {
          if (e == came) continue;
          const int other = edges[e].a == node ? edges[e].b : edges[e].a;
          if (seen[u(other)]) return false;  // a circle, or two heads that are held
          seen[u(other)] = 1;
          lineTo[u(other)] = static_cast<int>(by.size());
          near.push_back(node), far.push_back(other), by.push_back(e);
          held.push_back(s.rawHead_m[source]);
          front.push_back({other, e});
        }
      }
    }
    // What is drawn where no head is held cannot be.
    for (std::size_t node = 0; node < nodes; ++node)
      if (!seen[node] && s.rawOutflow_m3s[node] != 0) return false;
    std::vector<double> flow(by.size());
    for (std::size_t l = by.size(); l-- > 0;) {
      flow[l] += s.rawOutflow_m3s[u(far[l])];
      if (const int before = lineTo[u(near[l])]; before >= 0) flow[u(before)] += flow[l];
    }
    plain_.tree.head_m = held.empty() ? 0.0 : held.front();
    std::vector<TreeLine> lines;
    std::vector<PlainTree::Line> said;
    std::vector<std::vector<std::size_t>> hangs(nodes);  // lines that begin at a node
    for (std::size_t l = 0; l < by.size(); ++l) {
      if (judge_.stop().stop_requested()) return false;
      const Edge& edge = edges[by[l]];
      TreeLine line{.from = lineTo[u(near[l])], .loss_m = {0.0}};
      least_ = false;
      // Sums of what is drawn leave a rest of rounding where nothing flows.
      if (std::abs(flow[l]) < 1e-15) flow[l] = 0.0;
      if (edge.link && !fill(*edge.link, edge.a == near[l], flow[l], line)) return false;
      lines.push_back(std::move(line));
      const Id owner = s.rawOwner[u(far[l])];
      const bool point = network_.at(owner).part->ends == Ends::self;
      said.push_back({.element = edge.of.element, .far = point ? owner : noId, .along = edge.a == near[l]});
      said.back().least = least_, said.back().flow_m3s = flow[l];
      hangs[u(near[l])].push_back(l);
    }
    // Into the tree, outward; where it goes by the widest of many lines, with what tells which that is.
    std::vector<std::pair<std::size_t, int>> next;  // a line, and the one it hangs from there
    const auto hang = [&](int node, int from) {
      const Id owner = s.rawOwner[u(node)];
      const auto widest = widest_.find(network_.at(owner).part->ends == Ends::self ? owner : noId);
      std::vector<char> hung(by.size(), 0);
      if (widest != widest_.end())
        from = tellWidest(widest->second, from, [&](int row, int there) {
          for (const std::size_t l : hangs[u(node)])
            if (std::find(lines[l].rows.begin(), lines[l].rows.end(), row) != lines[l].rows.end() &&
                !std::exchange(hung[l], 1))
              next.push_back({l, there});
        });
      for (const std::size_t l : hangs[u(node)])
        if (!hung[l]) next.push_back({l, from});
    };
    for (std::size_t source = 0; source < nodes; ++source)
      if (s.rawHolds[source]) hang(static_cast<int>(source), -1);
    for (std::size_t i = 0; i < next.size(); ++i) {
      const auto [l, from] = next[i];
      // Sources have heads of their own: told as a loss at their first lines.
      const double shift = lines[l].from < 0 ? plain_.tree.head_m - held[l] : 0.0;
      for (double& loss : lines[l].loss_m) loss += shift;
      if (lines[l].needNear_m > -1e299) lines[l].needNear_m += shift;
      lines[l].from = from;
      plain_.tree.lines.push_back(std::move(lines[l]));
      plain_.lines.push_back(std::move(said[l]));
      plain_.lines.back().shift_m = shift;
      hang(far[l], static_cast<int>(plain_.tree.lines.size()) - 1);
    }
    return true;
  }

  // The widest of many lines at a point as rows of their own that cost nothing: each is the wider of the one
  // before it and the next line. Two lines make the first, the last stands for all.
  struct Widest {
    Meeting of;
    std::vector<double> bores;  // that it can be
    std::vector<int> told;      // rows of the tree
  };
  const Widest& widestAt(Id point, const Meeting& meeting) {
    Widest& w = widest_[point];
    if (!w.told.empty()) return w;
    w.of = meeting, w.bores = {meeting.fixed_m};
    for (const auto& [row, sizes] : w.of.rows) w.bores.insert(w.bores.end(), sizes.begin(), sizes.end());
    std::sort(w.bores.begin(), w.bores.end());
    w.bores.erase(std::unique(w.bores.begin(), w.bores.end()), w.bores.end());
    for (std::size_t k = 1; k < w.of.rows.size(); ++k) {
      w.told.push_back(static_cast<int>(plain_.tree.cost.size()));
      plain_.tree.cost.emplace_back(w.bores.size(), 0.0);
    }
    return w;
  }
  // Puts the lines that tell it behind a line; those that hang on the point as soon as their row is told of.
  // Gives the line on which all else hangs.
  template <class Hang>
  int tellWidest(const Widest& w, int from, const Hang& hang) {
    const auto sizesOf = [&](int row) { return plain_.tree.cost[u(row)].size(); };
    for (std::size_t k = w.told.size(); k-- > 0;) {
      const int before = k == 0 ? w.of.rows[0].first : w.told[k - 1], row = w.of.rows[k + 1].first;
      TreeLine line{.from = from, .rows = {before, row, w.told[k]}, .loss_m = {}};
      for (std::size_t a = 0; a < sizesOf(before); ++a)
        for (const double bore : w.of.rows[k + 1].second)
          for (const double widest : w.bores) {
            const double there = k == 0 ? std::max(w.of.fixed_m, w.of.rows[0].second[a]) : w.bores[a];
            line.loss_m.push_back(widest == std::max(there, bore) ? 0.0 : 1e300);
          }
      plain_.tree.lines.push_back(std::move(line));
      plain_.lines.push_back({});
      from = static_cast<int>(plain_.tree.lines.size()) - 1;
      hang(w.told[k], from), hang(row, from);
    }
    return from;
  }
  // The sizes of all rows of the tree: those that tell of a widest line by what it is.
  [[nodiscard]] std::vector<std::size_t> withWidest(const SizeChoice& choice) const {
    std::vector<std::size_t> sizes(choice.begin(), choice.end());
    sizes.resize(plain_.tree.cost.size(), 0);
    for (const auto& [point, w] : widest_) {
      double widest = std::max(w.of.fixed_m, w.of.rows[0].second[choice[u(w.of.rows[0].first)]]);
      for (std::size_t k = 0; k < w.told.size(); ++k) {
        widest = std::max(widest, w.of.rows[k + 1].second[choice[u(w.of.rows[k + 1].first)]]);
        sizes[u(w.told[k])] = static_cast<std::size_t>(
            std::lower_bound(w.bores.begin(), w.bores.end(), widest) - w.bores.begin());
      }
    }
    return sizes;
  }

  [[nodiscard]] double boreOf(const Element& pipe, const PipeSize* size) const {
    Values scratch;
    if (size) {
      Values values = pipe.values;
      giveSize(values, *size);
      return pipe.part->geometry(values, answer_.setting).bore_m.value_or(0.0);
    }
    return pipe.part->geometry(valuesOf(pipe, answer_.setting.stock, scratch), answer_.setting)
        .bore_m.value_or(0.0);
  }
  [[nodiscard]] std::vector<double> boresOf(Id pipe) const {
    std::vector<double> bores;
    for (const PipeSize* size : task_.rows[u(rowOf_[pipe])].sizes)
      bores.push_back(boreOf(network_.at(pipe), size));
    return bores;
  }
  [[nodiscard]] Meeting meetingAt(Id point) const {
    Meeting m;
    for (const Id id : network_.elementsAt(point)) {
      const Element& e = network_.at(id);
      if (!e.part->geometry) continue;
      const int row = rowOf_[id];
      if (row < 0) m.fixed_m = std::max(m.fixed_m, boreOf(e, nullptr));
      else if (std::none_of(m.rows.begin(), m.rows.end(), [&](const auto& r) { return r.first == row; }))
        m.rows.push_back({row, boresOf(id)});
    }
    return m;
  }

  // What a branch loses by the sizes it goes by, and what else its law says. False where it says something
  // that cannot be told so.
  bool fill(const Link& link, bool along, double flow_m3s, TreeLine& line) {
    const Element& e = network_.at(link.of.element);
    const double q = along ? flow_m3s : -flow_m3s;  // as it is drawn
    if (e.part->lifts && link.holds && task_.options.objective == Objective::wholeLife)
      return false;  // its speed, and with it what it takes, goes by the sizes
    std::pmr::vector<EndPlace> places;
    endPlaces(network_, e, answer_.setting, answer_.widestBore_m, places);
    Values scratch;
    Values values = valuesOf(e, answer_.setting.stock, scratch);
    std::vector<int>& rows = line.rows;
    const auto sizesOf = [&](int row) { return plain_.tree.cost[u(row)].size(); };
    const auto choices = [&] {
      std::size_t count = 1;
      for (const int r : rows) count = std::min(count * sizesOf(r), choicesMost_ + 1);
      return count;
    };
    bool first = true;
    double needFar = -1e300;
    // One law: its loss; what it wants of heads is told at the least over the choices.
    const auto lossBy = [&]() -> std::optional<double> {
      const Prepared p = e.part->prepare(values, answer_.setting, places);
      const auto b = u(link.of.branch);
      if (p.problem || !p.missing.empty() || b >= p.branches.size() || !p.branches[b].law ||
          p.branches[b].shut || p.branches[b].givenFlow_m3s)
        return std::nullopt;
      const Law& law = *p.branches[b].law;
      // What shuts, does not start or lets no more pass is plain only where it is well away from that.
      if (law.barsBackflow() && !(q > 1e-12)) return std::nullopt;
      if (law.mayNotStart() || q > law.flowMost_m3s() * (1 - 1e-6)) return std::nullopt;
      double near = -1e300, far = -1e300, most = 1e300;
      if (const auto hold = law.hold()) {
        if (!along) return std::nullopt;
        if (hold->before) near = link.held_m;
        else most = link.held_m;
      }
      if (const auto choke = law.choke(); choke && q != 0) {
        const double c = q > 0 ? choke->coefficient : choke->backward,
                     base = q > 0 ? choke->baseFrom_m : choke->baseTo_m;
        if (!(c > 0)) return std::nullopt;
        double& upstream = flow_m3s > 0 ? near : far;
        upstream = std::max(upstream, base + q * q / (c * c));
      }
      line.needNear_m = first ? near : std::min(line.needNear_m, near);
      needFar = first ? far : std::min(needFar, far);
      line.most_m = first ? most : std::max(line.most_m, most);
      first = false;
      double memory = 0.0;
      const double drop = law.at(q, memory).drop_m;
      return along ? drop : -drop;
    };
    line.loss_m.clear();
    if (e.part->geometry) {
      // A line: its own size, and those of its neighbours where a change of bore is counted.
      struct Neighbour {
        std::size_t end;
        int row;
        std::vector<double> bores;
      };
      std::vector<Neighbour> neighbours;
      const int own = rowOf_[link.of.element];
      if (own >= 0) rows.push_back(own);
      for (std::size_t i = 0; i < places.size(); ++i) {
        if (!places[i].change) continue;
        for (const Id id : network_.elementsAt(e.ends[i])) {
          if (id == link.of.element || !network_.at(id).part->geometry || rowOf_[id] < 0) continue;
          neighbours.push_back({i, rowOf_[id], boresOf(id)});
          if (std::find(rows.begin(), rows.end(), rowOf_[id]) == rows.end()) rows.push_back(rowOf_[id]);
        }
      }
      if (choices() > std::min(choicesMost_, left_)) {
        // Without the change of bore it loses least.
        least_ = true;
        rows.clear(), neighbours.clear();
        if (own >= 0) rows.push_back(own);
        for (EndPlace& place : places) place.change.reset();
      }
      const std::size_t count = choices();
      if (rows.size() > 1) left_ -= count;
      for (std::size_t i = 0; i < count; ++i) {
        std::size_t rest = i;
        for (std::size_t k = rows.size(); k-- > 0;) {
          const std::size_t s = rest % sizesOf(rows[k]);
          rest /= sizesOf(rows[k]);
          if (rows[k] == own) giveSize(values, *task_.rows[u(own)].sizes[s]);
          for (const Neighbour& n : neighbours)
            if (n.row == rows[k]) places[n.end].change->other_m = n.bores[s];
        }
        const auto loss = lossBy();
        if (!loss) return false;
        line.loss_m.push_back(*loss);
      }
      line.need_m = needFar;
      return true;
    }
    // Anything else goes by the bores at its own ends, if by any size.
    const Branch* branch = nullptr;
    const Prepared now = e.part->prepare(values, answer_.setting, places);
    if (u(link.of.branch) < now.branches.size()) branch = &now.branches[u(link.of.branch)];
    if (!branch) return false;
    std::vector<std::size_t> ends;
    for (const int end : {branch->from, branch->to})
      if (end >= 0) ends.push_back(u(end));
    std::vector<Meeting> meetings;
    std::vector<std::vector<double>> bores;  // that there can be at each of the ends
    for (const std::size_t end : ends) {
      meetings.push_back(meetingAt(e.ends[end]));
      double least = meetings.back().fixed_m;
      std::vector<double> of{least};
      for (const auto& [row, sizes] : meetings.back().rows) {
        least = std::max(least, *std::min_element(sizes.begin(), sizes.end()));
        of.insert(of.end(), sizes.begin(), sizes.end());
      }
      std::sort(of.begin(), of.end());
      of.erase(std::unique(of.begin(), of.end()), of.end());
      std::erase_if(of, [&](double bore) { return bore < least; });
      bores.push_back(std::move(of));
    }
    std::map<std::vector<double>, double> known;
    const auto at = [&](const std::vector<double>& there) -> std::optional<double> {
      if (const auto k = known.find(there); k != known.end()) return k->second;
      for (std::size_t k = 0; k < ends.size(); ++k)
        places[ends[k]].bore_m = there[k] > 0 ? std::optional(there[k]) : std::nullopt;
      const auto loss = lossBy();
      if (loss) known.emplace(there, *loss);
      return loss;
    };
    std::vector<char> matters(ends.size(), 0);
    const std::size_t firsts = bores.empty() ? 1 : bores[0].size(),
                      seconds = bores.size() < 2 ? 1 : bores[1].size();
    if (firsts * seconds > choicesMost_) return false;
    std::vector<std::vector<double>> table(firsts, std::vector<double>(seconds));
    for (std::size_t i = 0; i < firsts; ++i)
      for (std::size_t j = 0; j < seconds; ++j) {
        std::vector<double> there;
        if (!bores.empty()) there.push_back(bores[0][i]);
        if (bores.size() > 1) there.push_back(bores[1][j]);
        const auto loss = at(there);
        if (!loss) return false;
        table[i][j] = *loss;
        if (table[i][j] != table[0][j]) matters[0] = 1;
        if (table[i][j] != table[i][0]) matters[1] = 1;
      }
    const auto goBy = [&](int row) {
      if (std::find(rows.begin(), rows.end(), row) == rows.end()) rows.push_back(row);
    };
    for (std::size_t k = 0; k < ends.size(); ++k)
      if (matters[k])
        for (const auto& [row, sizes] : meetings[k].rows) goBy(row);
    // Of many lines the widest alone is gone by.
    std::vector<const Widest*> widest(ends.size(), nullptr);
    if (choices() > choicesMost_) {
      rows.clear();
      for (std::size_t k = 0; k < ends.size(); ++k) {
        if (!matters[k]) continue;
        if (meetings[k].rows.size() > 1) {
          widest[k] = &widestAt(e.ends[ends[k]], meetings[k]);
          goBy(widest[k]->told.back());
        } else {
          goBy(meetings[k].rows[0].first);
        }
      }
    }
    if (choices() > std::min(choicesMost_, left_)) {
      least_ = true;
      rows.clear();
      double least = table[0][0];
      for (const auto& of : table) least = std::min(least, *std::min_element(of.begin(), of.end()));
      line.loss_m = {least}, line.need_m = needFar;
      return true;
    }
    const std::size_t count = choices();
    if (rows.size() > 1) left_ -= count;
    std::vector<std::size_t> size(plain_.tree.cost.size(), 0);
    for (std::size_t i = 0; i < count; ++i) {
      std::size_t rest = i;
      for (std::size_t k = rows.size(); k-- > 0;) {
        size[u(rows[k])] = rest % sizesOf(rows[k]);
        rest /= sizesOf(rows[k]);
      }
      std::vector<double> there;
      for (std::size_t k = 0; k < ends.size(); ++k) {
        double bore = meetings[k].fixed_m;
        if (widest[k])
          // Narrower than the least there can be it never is.
          bore = std::max(bores[k].front(), widest[k]->bores[size[u(widest[k]->told.back())]]);
        else
          for (const auto& [row, sizes] : meetings[k].rows) bore = std::max(bore, sizes[size[u(row)]]);
        there.push_back(matters[k] ? bore : bores[k].front());
      }
      const auto loss = at(there);
      if (!loss) return false;
      line.loss_m.push_back(*loss);
    }
    line.need_m = needFar;
    return true;
  }

  const SizingTask& task_;
  std::size_t choicesMost_;
  const Judge& judge_;
  Network network_;
  Solution answer_;
  PlainTree plain_;
  std::map<Id, Widest> widest_;  // by point
  std::vector<double> shift_;    // of each line, what is put to heads at its near end
  std::vector<int> rowOf_;       // by Id; −1: none, or the case has a size of its own for it
  std::size_t left_ = choicesOfAll;
  bool lifts_ = false, least_ = false;
};

// The sizes that are left of each row.
void leave(PlainTree& plain, std::vector<std::vector<std::uint16_t>> sizes,
           std::vector<std::vector<double>> cost) {
  // Rows of the tree's own keep all.
  for (std::size_t r = cost.size(); r < plain.tree.cost.size(); ++r) {
    cost.push_back(plain.tree.cost[r]);
    sizes.emplace_back(cost.back().size());
    std::iota(sizes.back().begin(), sizes.back().end(), std::uint16_t{0});
  }
  for (TreeLine& line : plain.tree.lines) {
    std::vector<double> left;
    for (std::size_t i = 0; i < line.loss_m.size(); ++i) {
      std::size_t rest = i;
      bool stands = true;
      for (std::size_t k = line.rows.size(); k-- > 0;) {
        const auto r = u(line.rows[k]);
        const auto s = static_cast<std::uint16_t>(rest % plain.tree.cost[r].size());
        rest /= plain.tree.cost[r].size();
        stands = stands && std::binary_search(sizes[r].begin(), sizes[r].end(), s);
      }
      if (stands) left.push_back(line.loss_m[i]);
    }
    line.loss_m = std::move(left);
  }
  plain.tree.cost = std::move(cost);
  plain.size = std::move(sizes);
}

}  // namespace

PlainTrees plainTrees(const SizingTask& task, const Judge& judge, std::size_t choicesMost) {
  PlainTrees out;
  std::size_t widest = 0;
  for (const SizingRow& r : task.rows) {
    if (r.sizes.front() == &notLaid()) return out;
    widest = std::max(widest, r.sizes.size());
  }
  std::vector<std::vector<char>> broken;
  for (const SizingRow& r : task.rows) broken.emplace_back(r.sizes.size(), 0);
  for (const CaseId id : task.cases) {
    if (judge.stop().stop_requested()) return {};
    CaseRead read(task, judge, id, widest, choicesMost);
    out.lifts = out.lifts || read.lifts();
    bool plain = read.read();
    auto noted = broken;
    for (std::size_t s = 0; plain && s < widest; ++s)
      plain = read.compare(s, s == 0 || s + 1 == widest, noted);
    if (!plain) continue;
    broken = std::move(noted);
    out.cases.push_back(std::move(read.plain()));
  }
  if (judge.stop().stop_requested()) return {};
  out.all = out.cases.size() == task.cases.size();
  // What runs beside them was not looked at: with pumps it may cost by the sizes.
  for (const CaseId id : task.alsoRun)
    networkOf(task.model, id).each([&](Id, const Element& e) { out.lifts = out.lifts || e.part->lifts; });
  out.all = out.all && (task.alsoRun.empty() || !out.lifts);
  if (out.cases.empty()) return out;
  std::vector<std::vector<std::uint16_t>> sizes;
  std::vector<std::vector<double>> cost;
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    const SizingRow& row = task.rows[r];
    sizes.emplace_back(), cost.emplace_back();
    for (std::size_t s = 0; s < row.sizes.size(); ++s) {
      if (broken[r][s]) continue;
      sizes.back().push_back(static_cast<std::uint16_t>(s));
      // What pumps take and cost goes by no size here: it is the same for every choice.
      cost.back().push_back(
          judge.objectiveOf(row.laid[s], row.length_m * row.sizes[s]->mass_kgm.value_or(0), 0.0, 0.0));
    }
    if (sizes.back().empty()) {
      out.none = fmt::format("no size of {} meets its velocity and gradient limits", linesSaid(task, row, 2));
      out.cases.clear();
      return out;
    }
  }
  for (PlainTree& plain : out.cases) leave(plain, sizes, cost);
  return out;
}

bool addNeeds(PlainTree& plain, const Network& n, const Solution& s) {
  bool any = false;
  const auto note = [&](double& need, double now) {
    any = any || now > need + 1e-9;
    need = std::max(need, now);
  };
  for (std::size_t l = 0; l < plain.lines.size(); ++l) {
    const PlainTree::Line& line = plain.lines[l];
    if (line.element == noId) continue;
    // A least pressure is a least head: what is short now, more. So is a margin over NPSH before a pump.
    if (const auto head = line.far == noId ? std::nullopt : s.head(line.far))
      for (const Check& c : checksOf(n, s, line.far)) {
        if (c.severity > Severity::broken || !c.least || c.spoken) continue;
        if (c.measure() != Measure::gaugePressure && c.measure() != Measure::absolutePressure) continue;
        note(plain.tree.lines[l].need_m, *head + s.setting.medium.columnOf(*c.least - c.value));
      }
    if (!line.along || !n.at(line.element).part->lifts) continue;
    if (const auto head = s.head(n.at(line.element).ends[0]))
      for (const Check& c : checksOf(n, s, line.element))
        if (c.severity <= Severity::broken && c.least && c.id == CheckId::npshMargin)
          note(plain.tree.lines[l].needNear_m, *head + line.shift_m + *c.least - c.value);
  }
  return any;
}

void takeLowestLosses(PlainTree& plain) {
  for (std::size_t l = 0; l < plain.lines.size(); ++l) {
    TreeLine& line = plain.tree.lines[l];
    if (line.rows.size() < 2) continue;
    // By the row that tells most.
    int by = line.rows.front();
    std::vector<double> told;
    double most = -1e300;
    for (const int r : line.rows) {
      auto least = leastBy(plain.tree, line, r);
      const double sum = std::accumulate(least.begin(), least.end(), 0.0) / static_cast<double>(least.size());
      if (sum > most) by = r, told = std::move(least), most = sum;
    }
    plain.lines[l].rows = std::exchange(line.rows, {by});
    plain.lines[l].loss_m = std::exchange(line.loss_m, std::move(told));
    plain.lines[l].least = true;
  }
}

bool takeFullLosses(PlainTree& plain, std::span<const std::size_t> size) {
  std::vector<std::size_t> wanted;
  bool own = false;
  for (std::size_t l = 0; l < plain.lines.size(); ++l) {
    const PlainTree::Line& full = plain.lines[l];
    if (!full.least || full.rows.empty()) continue;
    const TreeLine& line = plain.tree.lines[l];
    if (full.loss_m[placeOf(plain.tree, full.rows, size)] <= line.loss_m[size[u(line.rows.front())]] + 1e-9)
      continue;
    wanted.push_back(l);
    own = own || full.element == noId;
  }
  // What tells of a widest line is told whole, else it gives way elsewhere.
  if (own)
    for (std::size_t l = 0; l < plain.lines.size(); ++l)
      if (plain.lines[l].element == noId && plain.lines[l].least) wanted.push_back(l);
  for (const std::size_t l : wanted) {
    PlainTree::Line& full = plain.lines[l];
    if (!std::exchange(full.least, false)) continue;
    plain.tree.lines[l].rows = std::exchange(full.rows, {});
    plain.tree.lines[l].loss_m = std::exchange(full.loss_m, {});
  }
  return !wanted.empty();
}

}  // namespace conduit

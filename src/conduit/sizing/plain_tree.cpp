#include "sizing/plain_tree.h"

#include <algorithm>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "solve/solve.h"

namespace conduit {

std::optional<PlainTree> plainTree(const SizingTask& task, const Judge& judge) {
  if (task.cases.size() != 1) return std::nullopt;
  for (const SizingRow& r : task.rows)
    if (r.lines.size() != 1 || r.sizes.front() == &notLaid()) return std::nullopt;
  const Network n = networkOf(task.model, task.cases.front());
  // Pipes and points, one that holds a head, nothing else: then the flow of each line is what is drawn behind
  // it.
  Id source = noId;
  std::size_t points = 0, pipes = 0;
  bool plain = true;
  n.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) {
      ++points;
      plain = plain && !e.values.released("outflow") && !e.values.released("inflow") &&
              !e.text("tee branch") && !e.value("change of bore");
    } else if (e.part->key == "pipe") {
      ++pipes;
    } else if (e.part->key == "fixed pressure" && source == noId && !e.values.released("pressure")) {
      source = id;
    } else if (e.part->ends != Ends::free && e.part->ends != Ends::none) {
      plain = false;
    }
    plain = plain && e.values.goals().empty();
  });
  if (!plain || source == noId || pipes + 1 != points || pipes != task.rows.size()) return std::nullopt;
  std::vector<std::size_t> rowOf(n.bound(), 0);
  std::size_t widest = 0;
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    rowOf[task.rows[r].lines.front()] = r;
    widest = std::max(widest, task.rows[r].sizes.size());
  }
  // Outward from the source.
  PlainTree m;
  std::vector<int> lineTo(n.bound(), -1);
  std::vector<Id> front{n.at(source).ends[0]};
  std::vector<char> seen(n.bound(), 0);
  std::vector<Id> near, far, line;
  seen[front[0]] = 1;
  for (std::size_t i = 0; i < front.size(); ++i)
    for (const Id id : n.elementsAt(front[i])) {
      const Element& e = n.at(id);
      if (e.part->key != "pipe") continue;
      const Id other = e.ends[0] == front[i] ? e.ends[1] : e.ends[0];
      if (seen[other]) continue;
      seen[other] = 1;
      m.tree.lines.push_back({.from = lineTo[front[i]]});
      m.row.push_back(rowOf[id]);
      m.along.push_back(e.ends[0] == front[i]);
      lineTo[other] = static_cast<int>(m.tree.lines.size()) - 1;
      near.push_back(front[i]), far.push_back(other), line.push_back(id), front.push_back(other);
    }
  if (m.tree.lines.size() != pipes) return std::nullopt;
  m.size.resize(pipes);
  for (std::size_t s = 0; s < widest; ++s) {
    SizeChoice choice;
    for (const SizingRow& r : task.rows)
      choice.push_back(static_cast<std::uint16_t>(std::min(s, r.sizes.size() - 1)));
    const Network with = judge.network(task.cases.front(), choice);
    const Solution answer = solve(with, task.stock.get(), {.units = task.units, .offers = 0});
    if (!answer.summary.usable()) return std::nullopt;
    m.tree.head_m = *answer.head(n.at(source).ends[0]);
    for (std::size_t l = 0; l < pipes; ++l) {
      if (s >= task.rows[m.row[l]].sizes.size()) continue;
      // Outward: where something is fed in behind a line, its flow may come the other way.
      const auto before = answer.head(near[l]), after = answer.head(far[l]);
      if (!before || !after) return std::nullopt;
      if (s == 0)
        for (const Check& c : checksOf(with, answer, far[l], task.units)) {
          if (c.severity > Severity::broken || !c.least) continue;
          // A least pressure is a least head: what is short now, more.
          const double head = *answer.head(far[l]) + answer.setting.medium.columnOf(*c.least - c.value);
          m.tree.lines[l].need_m = std::max(m.tree.lines[l].need_m, head);
        }
      bool broken = false;
      for (const Check& c : checksOf(with, answer, line[l], task.units))
        broken = broken || (c.severity <= Severity::broken && c.broken() &&
                            (c.measure == Measure::velocity || c.label.find("radient") != std::string::npos));
      if (broken) continue;
      const PipeSize& size = *task.rows[m.row[l]].sizes[s];
      m.tree.lines[l].loss_m.push_back(*before - *after);
      // Without a pump a whole life is what is laid, and its upkeep.
      const double length_m = task.rows[m.row[l]].length_m;
      m.tree.lines[l].cost.push_back(
          judge.objectiveOf(task.rows[m.row[l]].laid[s], length_m * size.mass_kgm.value_or(0), 0.0, 0.0));
      m.size[l].push_back(static_cast<std::uint16_t>(s));
    }
  }
  for (const TreeLine& l : m.tree.lines)
    if (l.cost.empty()) return std::nullopt;
  return m;
}

}  // namespace conduit

#include "sizing/runs.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "network/onward.h"
#include "network/setting.h"
#include "parts/pipe/line.h"
#include "sizing/choices.h"

namespace conduit {
namespace {

// What goes by the name of the size: the outside, or the bore where a catalogue has none.
double outsideOf(const PipeSize& size) { return size.outside_m > 0 ? size.outside_m : size.bore_m; }

std::vector<double> outsides(const SizingTask& task, const Run& run, const SizeChoice& choice) {
  std::vector<double> all;
  for (const RunLine& l : run)
    all.push_back(l.row < 0 ? l.outside_m
                            : outsideOf(*task.rows[static_cast<std::size_t>(l.row)]
                                             .sizes[choice[static_cast<std::size_t>(l.row)]]));
  return all;
}

// Of each place the lower of the widest before and behind it.
std::vector<double> shoulders(const std::vector<double>& d) {
  std::vector<double> low(d.size());
  double most = 0.0;
  for (std::size_t i = 0; i < d.size(); ++i) most = std::max(most, d[i]), low[i] = most;
  most = 0.0;
  for (std::size_t i = d.size(); i-- > 0;) most = std::max(most, d[i]), low[i] = std::min(low[i], most);
  return low;
}

constexpr double same_m = 1e-6;

bool narrows(const std::vector<double>& d) {
  const auto low = shoulders(d);
  for (std::size_t i = 0; i < d.size(); ++i)
    if (d[i] < low[i] - same_m) return true;
  return false;
}

}  // namespace

std::vector<Run> runsOf(const SizingTask& task) {
  const Network& n = task.model.drawn;
  std::map<Id, int> rowOf;
  for (std::size_t r = 0; r < task.rows.size(); ++r)
    for (const Id line : task.rows[r].lines) rowOf[line] = static_cast<int>(r);
  std::vector<Run> runs;
  std::set<Id> seen;
  n.each([&](Id id, const Element& e) {
    if (!e.part->geometry || seen.contains(id)) return;
    std::vector<Id> lines = pipesFrom(n, id, e.ends[0]);
    std::reverse(lines.begin(), lines.end());
    lines.push_back(id);
    const auto after = pipesFrom(n, id, e.ends[1]);
    for (const Id line : after)
      if (std::find(lines.begin(), lines.end(), line) == lines.end()) lines.push_back(line);
    seen.insert(lines.begin(), lines.end());
    if (lines.size() < 3) return;
    Run run;
    bool optional = false;
    for (const Id line : lines) {
      RunLine l{.line = line};
      const Element& pipe = n.at(line);
      optional = optional || pipe.values.entry(pipe::laidKey);
      if (const auto row = rowOf.find(line); row != rowOf.end()) {
        l.row = row->second;
      } else {
        const std::string* name = pipe.text(key::size);
        const PipeSize* size = name ? task.stock->pipe(*name) : nullptr;
        const Given* bore = pipe.given(key::bore);
        // A bore alone has no nominal size to go by.
        if (!size || bore) optional = true;
        else l.outside_m = outsideOf(*size);
      }
      run.push_back(l);
    }
    if (!optional) runs.push_back(std::move(run));
  });
  return runs;
}

std::size_t narrowings(const SizingTask& task, std::span<const Run> runs, const SizeChoice& choice) {
  return static_cast<std::size_t>(std::count_if(
      runs.begin(), runs.end(), [&](const Run& run) { return narrows(outsides(task, run, choice)); }));
}

std::vector<SizeChoice> straightened(const SizingTask& task, std::span<const Run> runs,
                                     const SizeChoice& choice) {
  std::vector<SizeChoice> all;
  // Each row as wide as that at least.
  const auto put = [&](SizeChoice& c, int row, double outside_m) {
    if (row < 0) return;
    const auto& sizes = task.rows[static_cast<std::size_t>(row)].sizes;
    std::size_t s = 0;
    while (s + 1 < sizes.size() && outsideOf(*sizes[s]) < outside_m - same_m) ++s;
    c[static_cast<std::size_t>(row)] = static_cast<std::uint16_t>(s);
  };
  for (const int way : {0, 1, 2}) {
    SizeChoice c = choice;
    // Filling one run may open another where rows are shared.
    for (int again = 0; again < 4; ++again)
      for (const Run& run : runs) {
        std::vector<double> d = outsides(task, run, c);
        if (!narrows(d)) continue;
        if (way == 0) {
          d = shoulders(d);
        } else {
          std::sort(d.begin(), d.end());
          if (way == 2) std::reverse(d.begin(), d.end());
        }
        for (std::size_t i = 0; i < run.size(); ++i) put(c, run[i].row, d[i]);
      }
    if (narrowings(task, runs, c) < narrowings(task, runs, choice) &&
        std::find(all.begin(), all.end(), c) == all.end())
      all.push_back(std::move(c));
  }
  return all;
}

std::vector<SizeChoice> straightNear(const SizingTask& task, const Run& run, const SizeChoice& choice) {
  constexpr int within = 2;
  constexpr std::size_t most = 20'000;
  std::set<int> rows;
  for (const RunLine& l : run)
    if (l.row >= 0) rows.insert(l.row);
  std::vector<SizeChoice> all{choice};
  for (const int row : rows) {
    const auto r = static_cast<std::size_t>(row);
    const int last = static_cast<int>(task.rows[r].sizes.size()) - 1, here = choice[r];
    std::vector<SizeChoice> next;
    for (const SizeChoice& c : all)
      for (int s = std::max(0, here - within); s <= std::min(last, here + within); ++s) {
        next.push_back(c);
        next.back()[r] = static_cast<std::uint16_t>(s);
      }
    if (next.size() > most) return {};
    all = std::move(next);
  }
  std::erase_if(all, [&](const SizeChoice& c) { return narrows(outsides(task, run, c)); });
  const auto laid = [&](const SizeChoice& c) {
    double cost = 0.0;
    for (const int row : rows)
      cost += task.rows[static_cast<std::size_t>(row)].laid[c[static_cast<std::size_t>(row)]];
    return cost;
  };
  std::stable_sort(all.begin(), all.end(),
                   [&](const SizeChoice& a, const SizeChoice& b) { return laid(a) < laid(b); });
  return all;
}

std::vector<Staying> stayingIn(const SizingTask& task, const SizeChoice& choice) {
  const Network& n = task.model.drawn;
  std::map<Id, double> bores;
  for (std::size_t r = 0; r < choice.size(); ++r) {
    const SizingRow& row = task.rows[r];
    if (row.now == choice[r] || row.sizes[choice[r]] == &notLaid()) continue;
    for (const Id line : row.lines) bores[line] = row.sizes[choice[r]]->bore_m;
  }
  std::vector<Staying> all;
  n.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::two || e.part->geometry || e.part->lifts) return;
    Values scratch;
    const Values& values = valuesOf(e, task.stock.get(), scratch);
    const Given* own = values.get<Given>(key::bore);
    if (!own && !e.text(stockItemKey)) return;  // it takes the bore of its line
    for (const Id end : e.ends)
      for (const Id line : n.elementsAt(end)) {
        const auto bore = bores.find(line);
        if (bore == bores.end()) continue;
        if (own && std::abs(own->value / bore->second - 1) < 0.03) continue;
        all.push_back({id, line, own ? std::optional(own->value) : std::nullopt});
        return;
      }
  });
  return all;
}

std::vector<Id> changesNotCounted(const SizingTask& task, const SizeChoice& choice) {
  const Network& n = task.model.drawn;
  std::map<Id, double> bores;
  for (std::size_t r = 0; r < choice.size(); ++r)
    for (const Id line : task.rows[r].lines) bores[line] = task.rows[r].sizes[choice[r]]->bore_m;
  std::vector<Id> points;
  n.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::self) return;
    const std::string* how = e.text(key::changeOfBore);
    if (how && *how != "not counted") return;
    const auto joined = waterAt(n, id);
    if (joined.size() != 2) return;
    std::vector<double> there;
    for (const Id line : joined) {
      const Element& pipe = n.at(line);
      if (!pipe.part->geometry) return;
      const auto bore = bores.find(line);
      Values scratch;
      Setting plain;
      plain.stock = task.stock.get();
      there.push_back(
          bore != bores.end()
              ? bore->second
              : pipe.part->geometry(valuesOf(pipe, task.stock.get(), scratch), plain).bore_m.value_or(0.0));
    }
    if (there[0] > 0 && there[1] > 0 && std::abs(there[0] / there[1] - 1) > 0.01) points.push_back(id);
  });
  return points;
}

Model withCones(Model model, std::span<const Id> points) {
  Draft draft(model.drawn);
  for (const Id id : points)
    if (draft.network().find(id)) draft.values(id).set(key::changeOfBore, std::string("cone"));
  return withEdit(model, drawingCase, std::move(draft).finish());
}

}  // namespace conduit

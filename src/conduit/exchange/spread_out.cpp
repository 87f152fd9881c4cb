#include "exchange/spread_out.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace conduit {

void spreadOut(Draft& draft, std::span<const Id> unplaced, double step_m) {
  if (unplaced.empty()) return;
  const Id bound = draft.network().bound();
  std::vector<char> wants(bound, 0), done(bound, 0);
  for (const Id id : unplaced) wants[id] = 1;
  std::vector<std::vector<Id>> next(bound);
  double bottom = 1e300, west = 1e300;
  bool anything = false;
  draft.network().each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self && !wants[id]) {
      bottom = std::min(bottom, e.at.y), west = std::min(west, e.at.x);
      anything = true;
    }
    for (std::size_t i = 1; i < e.ends.size(); ++i) {
      next[e.ends[i - 1]].push_back(e.ends[i]);
      next[e.ends[i]].push_back(e.ends[i - 1]);
    }
  });
  double row = anything ? bottom - 2 * step_m : 0.0;
  const double column = anything ? west : 0.0;
  // A tree over what is reached from `root` without places, depth first without recursion; leaves take rows,
  // what they depend on stands at the middle of them.
  struct Visit {
    Id id;
    int depth;
    std::size_t child = 0;
    double first = 0.0, last = 0.0;
    bool any = false;
  };
  auto tree = [&](Id root, double x0, double& y, bool rootHasPlace) {
    std::vector<Visit> stack{{root, 0}};
    done[root] = 1;
    while (!stack.empty()) {
      Visit& v = stack.back();
      if (v.child < next[v.id].size()) {
        const Id child = next[v.id][v.child++];
        if (!wants[child] || done[child]) continue;
        done[child] = 1;
        stack.push_back({child, v.depth + 1});
        continue;
      }
      double at = 0.0;
      if (v.any) {
        at = (v.first + v.last) / 2;
      } else {
        at = y;
        y -= step_m;
      }
      const Visit left = v;
      stack.pop_back();
      if (!(left.depth == 0 && rootHasPlace)) draft.move(left.id, {x0 + left.depth * step_m, at});
      if (!stack.empty()) {
        Visit& parent = stack.back();
        if (!parent.any) parent.first = at;
        parent.last = at;
        parent.any = true;
      }
    }
  };
  // First what depends on points that have a place.
  for (Id id = 1; id < bound; ++id) {
    if (wants[id] || next[id].empty() || !draft.network().find(id)) continue;
    if (std::none_of(next[id].begin(), next[id].end(), [&](Id n) { return wants[n] && !done[n]; })) continue;
    const Spot at = draft.network().at(id).at;
    double y = at.y;
    tree(id, at.x, y, true);
  }
  // Then the rest, from an end of each piece.
  for (const bool endsOnly : {true, false})
    for (const Id id : unplaced) {
      if (done[id] || draft.network().at(id).part->ends != Ends::self || (endsOnly && next[id].size() > 1))
        continue;
      tree(id, column, row, false);
      row -= step_m;
    }
  for (const Id id : unplaced)
    if (draft.network().at(id).part->ends != Ends::self) {
      const Element& e = draft.network().at(id);
      if (!e.ends.empty()) {
        const Spot at = draft.network().at(e.ends[0]).at;
        draft.move(id, {at.x - step_m / 2, at.y});
      } else {
        draft.move(id, {column, row});
        row -= step_m;
      }
    }
  // Trees that grow from places of their own may meet: whoever comes later makes way to the south.
  const double cell = step_m / 6;
  std::set<std::pair<long long, long long>> taken;
  auto cellOf = [&](Spot at) { return std::pair{std::llround(at.x / cell), std::llround(at.y / cell)}; };
  draft.network().each([&](Id id, const Element& e) {
    if (!wants[id] && e.part->ends == Ends::self) taken.insert(cellOf(e.at));
  });
  for (const Id id : unplaced) {
    Spot at = draft.network().at(id).at;
    const Spot first = at;
    while (!taken.insert(cellOf(at)).second) at.y -= 2 * cell;
    if (!(at == first)) draft.move(id, at);
  }
}

}  // namespace conduit

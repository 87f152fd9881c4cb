#include "sizing/two_sizes.h"

#include <algorithm>
#include <cmath>

#include "cases/case_edits.h"
#include "limits/limits.h"
#include "model/sizing_setup.h"
#include "network/edits.h"
#include "sizing/search.h"
#include "solve/index.h"
#include "solve/solve.h"

namespace conduit {
namespace {

constexpr double step_m = 0.1;  // to which a length is set out

// The programme's shares as lengths, drawn; of what is left of a line's hard part `more` is easy too.
// `lineOf`: the line of the tree of each row that may be cut. Empty where none is, or a line cannot be cut.
std::optional<TwoSizes> drawn(const SizingTask& task, const PlainTree& plain,
                              std::span<const std::size_t> one, std::span<const int> lineOf,
                              const SplitAnswer& split, double more) {
  TwoSizes out;
  std::vector<char> along;  // of each line of two sizes: drawn away from the source
  for (std::size_t r = 0; r < task.rows.size(); ++r) {
    const std::vector<double>& cost = plain.tree.cost[r];
    if (lineOf[r] < 0) {
      out.choice.push_back(plain.size[r][one[r]]);
      out.objective += cost[one[r]];
      continue;
    }
    const TreeLine& line = plain.tree.lines[u(lineOf[r])];
    const double length_m = task.rows[r].length_m;
    // The easier of the two stands first: it has the upper end, where the pressure is. Its length is rounded
    // up.
    std::vector<std::size_t> used;
    for (std::size_t s = 0; s < split.share[r].size(); ++s)
      if (split.share[r][s] * length_m > step_m / 2) used.push_back(s);
    if (used.empty()) return std::nullopt;
    std::sort(used.begin(), used.end(),
              [&](std::size_t a, std::size_t b) { return line.loss_m[a] < line.loss_m[b]; });
    const std::size_t easy = used.front(), hard = used.back();
    double easy_m =
        easy == hard ? length_m : std::ceil(split.share[r][easy] * length_m / step_m - 1e-6) * step_m;
    easy_m += std::ceil(more * (length_m - easy_m) / step_m - 1e-6) * step_m;
    // A cut is made between a hundredth and 99 of a line.
    if (easy_m < 0.01 * length_m) easy_m = std::ceil(0.01 * length_m / step_m) * step_m;
    if (easy_m > 0.99 * length_m) easy_m = length_m;
    out.choice.push_back(plain.size[r][easy]);
    out.objective += (easy_m * cost[easy] + (length_m - easy_m) * cost[hard]) / length_m;
    if (easy_m == length_m) continue;
    out.lines.push_back({r, plain.size[r][easy], plain.size[r][hard], easy_m});
    along.push_back(plain.lines[u(lineOf[r])].along);
  }
  if (out.lines.empty()) return std::nullopt;
  Model taken = withSizes(task, out.choice);
  SizingSetup setup = taken.of<SizingSetup>();
  Network n = taken.drawn;
  for (std::size_t k = 0; k < out.lines.size(); ++k) {
    const TwoSizeLine& line = out.lines[k];
    const SizingRow& row = task.rows[line.row];
    const Id pipe = row.lines.front(), end = n.at(pipe).ends[1];
    const double share = line.nearer_m / row.length_m;
    const auto cut = splitPipe(n, pipe, along[k] ? share : 1 - share, task.stock.get());
    if (!cut) return std::nullopt;
    // The first part keeps its Id and begins where the whole did.
    Id second = noId;
    for (const Id id : cut->network.elementsAt(cut->made))
      if (id != pipe && cut->network.at(id).ends[1] == end) second = id;
    if (second == noId) return std::nullopt;
    Draft draft(cut->network);
    giveSize(draft, along[k] ? second : pipe, *row.sizes[line.farther]);
    giveSize(draft, along[k] ? pipe : second, *row.sizes[line.nearer]);
    n = std::move(draft).finish();
    for (LayingClass& c : setup.laying)
      if (std::find(c.lines.begin(), c.lines.end(), pipe) != c.lines.end()) c.lines.push_back(second);
  }
  taken.setups.set(std::move(setup));
  out.model = withEdit(taken, drawingCase, std::move(n));
  return out;
}

bool meetsAllLimits(const SizingTask& task, const Model& model, CaseId in) {
  const Network now = networkOf(model, in);
  const Solution answer = solve(now, task.stock.get(), {.units = task.units, .offers = 0});
  return answer.summary.usable() && standing(now, answer).broken == 0;
}

bool meetsAllLimits(const SizingTask& task, const Model& model) {
  return std::all_of(task.cases.begin(), task.cases.end(),
                     [&](CaseId id) { return meetsAllLimits(task, model, id); });
}

// A line that differs in some case would have the difference in one of its parts only.
bool differsSomewhere(const Model& model, Id line) {
  for (const CaseId id : model.cases.ids()) {
    if (id == drawingCase) continue;
    const Overlay whole = model.cases.whole(id);
    for (const Difference& d : whole.all())
      if (d.element == line) return true;
  }
  return false;
}

}  // namespace

std::optional<TwoSizes> twoSizes(const SizingTask& task, const PlainTree& plain, const TreeAnswer& best,
                                 std::stop_token stop) {
  const std::span<const std::size_t> one = best.size;
  // The line of each row by whose size nothing else loses.
  std::vector<int> lineOf(plain.tree.cost.size(), -1);
  std::vector<int> held(one.begin(), one.end());
  std::vector<std::size_t> uses(plain.tree.cost.size(), 0);
  for (std::size_t l = 0; l < plain.tree.lines.size(); ++l) {
    for (const int r : plain.lines[l].rows) uses[u(r)] += 2;
    for (const int r : plain.tree.lines[l].rows) {
      const SizingRow* row = u(r) < task.rows.size() ? &task.rows[u(r)] : nullptr;
      const bool own = row && row->lines.size() == 1 && row->lines.front() == plain.lines[l].element &&
                       plain.tree.lines[l].rows.size() == 1;
      if (own) lineOf[u(r)] = static_cast<int>(l);
      uses[u(r)] += own ? 1 : 2;
    }
  }
  for (std::size_t r = 0; r < uses.size(); ++r)
    if (uses[r] != 1 || (lineOf[r] >= 0 && differsSomewhere(task.model, plain.lines[u(lineOf[r])].element)))
      lineOf[r] = -1;
  bool any = false, all = true;
  for (std::size_t r = 0; r < held.size(); ++r) {
    if (lineOf[r] >= 0) held[r] = -1, any = true;
    else all = false;
  }
  if (!any) return std::nullopt;
  // Where no row is held it is the programme that was gone by already.
  const SplitAnswer split = all ? best.split : cheapestSplit(plain.tree, held, std::move(stop));
  if (!split.found) return std::nullopt;
  auto out = drawn(task, plain, one, lineOf, split, 0.0);
  if (!out || meetsAllLimits(task, out->model)) return out;
  // Fittings do not go with the length: as little more of the easy sizes as keeps the limits.
  double less = 0.0, enough = 1.0;
  out.reset();
  for (int k = 0; k < 8; ++k) {
    const double more = (less + enough) / 2;
    auto tried = drawn(task, plain, one, lineOf, split, more);
    if (!tried || meetsAllLimits(task, tried->model)) enough = more;
    else less = more;
    if (tried && enough == more) out = std::move(tried);
  }
  return out;
}

}  // namespace conduit

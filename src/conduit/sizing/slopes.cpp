#include "sizing/slopes.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "fields/keys.h"
#include "limits/limits.h"
#include "solve/probe.h"
#include "solve/response.h"

namespace conduit {
// Types of Slopes::Case, so with a name outside this file.
namespace slopes {

using Terms = std::vector<std::pair<std::uint32_t, double>>;  // place, by its number

// How a limit follows the answer.
struct Gradient {
  std::uint64_t which;
  double by;
  Id element;
  Terms terms;
};

}  // namespace slopes

namespace {

using slopes::Gradient, slopes::Terms;

double along(const Terms& terms, const std::vector<double>& shift) {
  double sum = 0.0;
  for (const auto& [place, by] : terms) sum += by * shift[place];
  return sum;
}

}  // namespace

// One case about its answer.
class Slopes::Case {
 public:
  Case(const SizingTask& task, const Judge& judge, std::size_t k, SolvedCase solved,
       std::unique_ptr<Response> response)
      : task_(task),
        judge_(judge),
        k_(k),
        c_(std::move(solved)),
        response_(std::move(response)),
        scratch_(c_.answer) {
    c_.network.each([&](Id id, const Element& e) { follow(id, e); });
    hours_ = judge.hoursAt(k, taken_m3s_);
  }

  // Adds what the lines of a row do with another size; false where there is no first order.
  bool add(const SizingRow& row, const Judge& judge, const PipeSize& size, Part& part) {
    lines_.clear();
    shift_.assign(response_->numbers(), 0.0);
    Draft draft(c_.network);
    for (const Id line : row.lines)
      if (!judge.keepsOwn(c_.id, line)) giveSize(draft, line, size), lines_.push_back(line);
    const Network changed = std::move(draft).finish();
    for (const Id line : lines_)
      if (!shiftBy(changed, line)) return false;
    for (std::size_t i = 0; i < gradients_.size();) {
      const Id id = gradients_[i].element;
      if (std::find(lines_.begin(), lines_.end(), id) == lines_.end()) {
        note(part, gradients_[i], along(gradients_[i].terms, shift_)), ++i;
      } else {
        own(changed, id, i, part);
        while (i < gradients_.size() && gradients_[i].element == id) ++i;
      }
    }
    if (wire_.empty()) return true;
    part.energy_j += along(wire_, shift_) * hours_.s + wire_w_ * hours_.more * along(takenMore_, shift_);
    part.shaft_w.push_back({k_, along(shaft_, shift_)});
    return true;
  }

 private:
  // Of thousands of changes none could break a limit that is so far away.
  static void note(Part& part, const Gradient& g, double more) {
    if (std::abs(more) > std::max(1e-7, -1e-4 * g.by)) part.limits.push_back({g.which, more});
  }

  // The excess of every limit of an element by its own numbers, one after the other a little more.
  void follow(Id id, const Element& e) {
    Probe probe(c_.network, c_.answer, id);
    std::vector<Check> base, checks;
    std::vector<LimitReading> now, then;
    const auto look = [&](std::vector<Check>& into, std::vector<LimitReading>& weighed) {
      into.clear();
      Checks put(into);
      checkElement(*e.part, probe.reading(), put);
      if (c_.counts) judge_.dutiesIn(k_).check(id, e, probe.reading(), put);
      weigh(into, weighed);
      if (!c_.counts) weighed.clear();
    };
    look(base, now);
    const bool lifts = e.part->lifts;
    const PumpPower power = lifts ? powerOf(task_, e, probe.reading()) : PumpPower{};
    wire_w_ += power.wire_w;
    const bool takes = e.part->group == Group::drawOff || e.part->group == Group::supply;
    const auto taking = [&] { return std::max(0.0, takenBy(e, probe.reading()).value_or(0.0)); };
    const double gets = takes ? taking() : e.part->ends == Ends::self ? fixedTake(id, e) : 0.0;
    taken_m3s_ += gets;
    if (now.empty() && !lifts && !takes) return;
    const std::size_t first = gradients_.size();
    for (std::size_t i = 0; i < now.size(); ++i)
      gradients_.push_back({Judge::limitOf(k_, id, now[i].key), now[i].by, id, {}});
    // Looked at with one number, that of `place`, more by h.
    const auto again = [&](std::size_t place, double h) {
      look(checks, then);
      bool same = then.size() == now.size();
      for (std::size_t i = 0; same && i < now.size(); ++i) same = then[i].key == now[i].key;
      for (std::size_t i = 0; same && i < now.size(); ++i)
        if (const double slope = (then[i].by - now[i].by) / h; std::isfinite(slope) && slope != 0.0)
          gradients_[first + i].terms.push_back({static_cast<std::uint32_t>(place), slope});
      if (lifts) {
        const PumpPower p = powerOf(task_, e, probe.reading());
        wire_.push_back({static_cast<std::uint32_t>(place), (p.wire_w - power.wire_w) / h});
        shaft_.push_back({static_cast<std::uint32_t>(place), (p.shaft_w - power.shaft_w) / h});
      }
      if (takes) takenMore_.push_back({static_cast<std::uint32_t>(place), (taking() - gets) / h});
    };
    const auto by = [&](std::optional<double>& number, std::size_t place, double h) {
      if (!number) return;
      const double kept = *number;
      number = kept + h;
      again(place, h);
      number = kept;
    };
    Reading& r = probe.reading();
    const Places& places = response_->places();
    probe.eachNumber(c_.network, c_.answer, id, places,
                     [&](std::optional<double>& number, std::size_t place, bool flow) {
                       by(number, place, flow ? std::max(1e-7, 1e-4 * std::abs(number.value_or(0.0))) : 1e-3);
                     });
    for (std::size_t k = 0; k < c_.answer.found.size(); ++k)
      if (const FoundField& f = c_.answer.found[k]; f.element == id) {
        const double h = std::max(1e-9, 1e-4 * std::abs(f.value));
        Values more = *r.values;
        more.set(f.field, Given{f.value + h, Basis::direct, ""});
        const Values* kept = std::exchange(r.values, &more);
        again(places.count() + k, h);
        r.values = kept;
      }
  }

  // What is drawn off at a point.
  [[nodiscard]] double fixedTake(Id id, const Element& e) const {
    if (!e.values.entry(key::outflow)) return 0.0;
    return std::max(0.0, takenBy(e, *ReadingOf(c_.network, c_.answer, id)).value_or(0.0));
  }

  // What the new law of a line does to everything; false where there is no telling.
  bool shiftBy(const Network& changed, Id line) {
    const std::size_t b = c_.answer.branchBegin[line];
    const auto law = lawOf(changed, c_.answer, line);
    std::optional<double> times;
    if (response_->ofLoss({line, 0}, unit_)) {
      times = response_->lossMore({line, 0}, law.get(), unit_);
    } else if (c_.answer.branches[b].state == BranchState::shut) {
      if (!law) return true;  // closed: its size does nothing
      if (!response_->ofPassing({line, 0}, unit_)) return false;
      times = response_->flowPassing({line, 0}, *law, unit_);
    }
    if (!times) return false;
    for (std::size_t i = 0; i < shift_.size(); ++i) shift_[i] += *times * unit_[i];
    return true;
  }

  // The limits of the line itself, with its new size at its new flow; `first` is its first one here.
  void own(const Network& changed, Id line, std::size_t first, Part& part) {
    const std::size_t b = c_.answer.branchBegin[line];
    const Places& places = response_->places();
    const Solution::BranchValue kept = scratch_.branches[b];
    Solution::BranchValue& v = scratch_.branches[b];
    v.flow_m3s += shift_[places.flow(b)];
    v.headFrom_m += shift_[places.headFrom(b)], v.headTo_m += shift_[places.headTo(b)];
    const std::vector<Check> found = checksOf(changed, scratch_, line);
    weigh(found, weighed_);
    // Laid no more, or not before, it has other limits than it had: those it had it keeps.
    auto now = weighed_.begin();
    for (std::size_t i = first; i < gradients_.size() && gradients_[i].element == line; ++i) {
      const Gradient& g = gradients_[i];
      while (now != weighed_.end() && Judge::limitOf(k_, line, now->key) < g.which) ++now;
      const bool still = now != weighed_.end() && Judge::limitOf(k_, line, now->key) == g.which;
      note(part, g, (still ? now->by : -1.0) - g.by);
    }
    scratch_.branches[b] = kept;
  }

  const SizingTask& task_;
  const Judge& judge_;
  std::size_t k_;
  SolvedCase c_;
  std::unique_ptr<Response> response_;
  Solution scratch_;
  std::vector<Gradient> gradients_;
  Terms wire_, shaft_, takenMore_;
  double wire_w_ = 0.0, taken_m3s_ = 0.0;
  Judge::Hours hours_;
  std::vector<double> shift_, unit_;
  std::vector<Id> lines_;
  std::vector<LimitReading> weighed_;
};

bool resize(const SizingTask& task, SizeChoice& c, std::size_t row, int by) {
  const int to = static_cast<int>(c[row]) + by;
  if (to < 0 || to >= static_cast<int>(task.rows[row].sizes.size())) return false;
  c[row] = static_cast<std::uint16_t>(to);
  return true;
}

Slopes::Part Slopes::solvedPart(const Judged& at, std::span<const LimitExcess> limits, std::size_t row,
                                int by, std::size_t lane) const {
  Part part;
  SizeChoice c = at.choice;
  (void)resize(task_, c, row, by);
  std::vector<LimitExcess> now;
  for (std::size_t k = 0; k < judge_.cases(); ++k) {
    if (!unknown_[row] && std::find(solvedCases_.begin(), solvedCases_.end(), k) == solvedCases_.end())
      continue;
    const CaseVerdict v = judge_.inCase(k, c, lane, {.limits = &now});
    part.there = part.there && v.balanced;
    part.energy_j += v.energy_j - at.verdict.energyOf[k];
    part.shaft_w.push_back({k, v.shaft_w - at.verdict.shaft_w[k]});
  }
  std::size_t k = 0;
  for (const LimitExcess& l : now) {
    while (k < limits.size() && limits[k].which < l.which) ++k;
    if (k == limits.size() || limits[k].which != l.which) continue;
    if (const double more = l.by - limits[k].by; std::abs(more) > 1e-12)
      part.limits.push_back({l.which, more});
  }
  return part;
}

Slope Slopes::together(const Judged& at, std::size_t row, int by, Part linear, const Part& solved) const {
  Slope slope;
  SizeChoice to = at.choice;
  if (!resize(task_, to, row, by) || !linear.there || !solved.there) return slope;
  slope.there = true;
  const SizingRow& r = task_.rows[row];
  const PipeSize &from = *r.sizes[at.choice[row]], &size = *r.sizes[to[row]];
  const SizingVerdict& v = at.verdict;
  double shaft_w = 0.0, now_w = 0.0;
  for (std::size_t k = 0; k < v.shaft_w.size(); ++k) {
    double more = 0.0;
    for (const Part* part : {static_cast<const Part*>(&linear), &solved})
      for (const auto& [at_, w] : part->shaft_w)
        if (at_ == k) more += w;
    shaft_w = std::max(shaft_w, v.shaft_w[k] + more), now_w = std::max(now_w, v.shaft_w[k]);
  }
  slope.objective =
      judge_.objectiveOf(r.laid[to[row]] - r.laid[at.choice[row]],
                         r.length_m * (size.mass_kgm.value_or(0.0) - from.mass_kgm.value_or(0.0)),
                         linear.energy_j + solved.energy_j, shaft_w - now_w);
  if (solved.limits.empty()) {
    slope.limits = std::move(linear.limits);
  } else {
    slope.limits.reserve(linear.limits.size() + solved.limits.size());
    std::merge(linear.limits.begin(), linear.limits.end(), solved.limits.begin(), solved.limits.end(),
               std::back_inserter(slope.limits));
  }
  return slope;
}

void Slopes::about(const Judged& at, std::span<const LimitExcess> limits,
                   std::span<const std::size_t> changed, const JobOptions* jobs) {
  const std::size_t n = at.choice.size();
  std::vector<Case> cases;
  cases.reserve(judge_.cases());
  std::vector<std::size_t> solvedCases;
  for (std::size_t k = 0; k < judge_.cases(); ++k) {
    SolvedCase c = judge_.solved(k, at.choice, lane_);
    if (auto response = Response::about(c.network, task_.stock.get(), c.answer, c.passes))
      cases.emplace_back(task_, judge_, k, std::move(c), std::move(response));
    else solvedCases.push_back(k);
  }
  ++judged_;
  std::vector<Part> linear[2];
  std::vector<char> unknown(n, 0);
  for (auto& parts : linear) parts.assign(n, {});
  for (std::size_t r = 0; r < n; ++r)
    for (const int way : {0, 1}) {
      SizeChoice to = at.choice;
      if (!resize(task_, to, r, way ? 1 : -1)) continue;
      for (Case& c : cases)
        if (!unknown[r] && !c.add(task_.rows[r], judge_, *task_.rows[r].sizes[to[r]], linear[way][r]))
          unknown[r] = 1;
    }
  std::vector<char> solve(n, 0);
  for (const std::size_t r : changed) solve[r] = 1;
  fresh_ = true;
  const bool others = solvedCases != solvedCases_ || solved_[0].size() != n;
  if (others) solved_[0].assign(n, {}), solved_[1].assign(n, {});
  std::vector<std::size_t> rows;
  for (std::size_t r = 0; r < n; ++r) {
    if (solvedCases.empty() && !unknown[r]) {
      solved_[0][r] = solved_[1][r] = {};
      continue;
    }
    if (others || solve[r] || unknown[r] != unknown_[r]) rows.push_back(r);
    else fresh_ = false;
  }
  anySolved_ = !rows.empty() || !fresh_;
  solvedCases_ = std::move(solvedCases), unknown_ = std::move(unknown);
  const auto part = [&](std::size_t i, std::size_t lane) {
    const std::size_t row = rows[i / 2];
    SizeChoice to = at.choice;
    if (stop_.stop_requested() || !resize(task_, to, row, i % 2 ? 1 : -1)) return Part{.there = false};
    return solvedPart(at, limits, row, i % 2 ? 1 : -1, lane);
  };
  const auto keep = [&](std::size_t i, Part found) {
    judged_ += found.there;
    solved_[i % 2][rows[i / 2]] = std::move(found);
  };
  if (!jobs) {
    for (std::size_t i = 0; i < 2 * rows.size(); ++i) keep(i, part(i, lane_));
  } else {
    auto all = runJobs(
        2 * rows.size(), [&](std::size_t i, std::size_t lane, std::stop_token) { return part(i, lane); },
        *jobs);
    for (std::size_t i = 0; i < all.size(); ++i) keep(i, all[i] ? std::move(*all[i]) : Part{.there = false});
  }
  for (const int way : {0, 1}) {
    slopes_[way].resize(n);
    for (std::size_t r = 0; r < n; ++r)
      slopes_[way][r] =
          together(at, r, way ? 1 : -1, unknown_[r] ? Part{} : std::move(linear[way][r]), solved_[way][r]);
  }
}

}  // namespace conduit

#include "solve/solution.h"

#include <fmt/format.h>

#include <algorithm>

#include "fields/keys.h"
#include "quantity/format.h"

namespace conduit {
namespace {

std::optional<double> known(double v) { return std::isnan(v) ? std::nullopt : std::optional(v); }

}  // namespace

void Summary::setShare(Id element, double q) {
  const auto at = std::lower_bound(shares.begin(), shares.end(), element,
                                   [](const SupplyShare& s, Id id) { return s.element < id; });
  if (at != shares.end() && at->element == element) at->inflow_m3s = q;
  else shares.insert(at, {element, q});
  sumShares();
}

void Summary::sumShares() {
  inflow_m3s = outflow_m3s = 0.0;
  for (const SupplyShare& s : shares) (s.inflow_m3s > 0 ? inflow_m3s : outflow_m3s) += std::abs(s.inflow_m3s);
}

std::string Summary::brief(const UnitSet& units) const {
  switch (verdict) {
    case Verdict::empty: return "Nothing to solve yet.";
    case Verdict::balanced:
      return fmt::format("Solved: {} in, {} out, largest residual {:.0e} m.",
                         withUnit(inflow_m3s, Measure::volumeFlow, units, 3),
                         withUnit(outflow_m3s, Measure::volumeFlow, units, 3), headResidual_m);
    case Verdict::cannotYet:
      if (problems.empty()) return "Cannot be solved yet.";
      return fmt::format("Cannot be solved yet: {}.{}", problems.front().what,
                         problems.size() > 1 ? fmt::format(" And {} more.", problems.size() - 1) : "");
    case Verdict::noStates:
      return fmt::format("No solution: {}.",
                         problems.empty() ? "no consistent device states" : problems.front().what);
    case Verdict::notConverged:
      if (!problems.empty())
        return fmt::format("Not converged: {}. This is a program error.", problems.front().what);
      return fmt::format("Not converged: stopped after {} steps, residual {:.1e} m. This is a program error.",
                         iterations, headResidual_m);
    case Verdict::stopped: return "Stopped.";
  }
  return {};
}

std::vector<SummaryRow> Summary::rows() const {
  std::string notOpen;
  for (std::size_t i = 0; i < states.size() && i < 40; ++i) notOpen += (i ? ", " : "") + states[i];
  if (states.size() > 40) notOpen += fmt::format(" and {} more", states.size() - 40);
  if (states.empty()) notOpen = "all open";
  static constexpr const char* words[] = {
      "empty", "balanced", "cannot balance yet", "no consistent states", "not converged", "stopped"};
  auto n = [](std::size_t v) { return fmt::format("{}", v); };
  auto ms = [](double s) { return fmt::format("{:.3f}", s * 1e3); };
  return {{"outcome", words[static_cast<int>(verdict)], ""},
          {"points", n(points), ""},
          {"elements", n(elements), ""},
          {"unknown heads", n(unknowns), ""},
          {"links", n(links), ""},
          {"entries of the factor", n(factorEntries), ""},
          {"start", warm ? "last answer" : "cold", ""},
          {"set-up", refitted ? "of the last answer, with other numbers" : "anew", ""},
          {"iterations", fmt::format("{}", iterations), ""},
          {"changes of device states", fmt::format("{}", flips), ""},
          {"device states", notOpen, ""},
          {"devices shut", n(shut), ""},
          {"devices acting", n(acting), ""},
          {"points without a determined head", n(undetermined), ""},
          {"largest head residual", fmt::format("{:.2e}", headResidual_m), "m"},
          {"head tolerance", fmt::format("{:.2e}", headTolerance_m), "m"},
          {"largest mass residual", fmt::format("{:.2e}", massResidual_m3s), "m³/s"},
          {"largest mass residual over throughput", fmt::format("{:.2e}", massResidualShare), ""},
          {key::inflow, fmt::format("{:.9g}", inflow_m3s), "m³/s"},
          {key::outflow, fmt::format("{:.9g}", outflow_m3s), "m³/s"},
          {"time: set-up", ms(seconds.setUp), "ms"},
          {"time: ordering", ms(seconds.order), "ms"},
          {"time: laws and assembly", ms(seconds.laws), "ms"},
          {"time: factor and solution", ms(seconds.factor), "ms"},
          {"time: in all", ms(seconds.total), "ms"}};
}

std::string Summary::full() const {
  std::string text;
  for (const SummaryRow& r : rows()) text += fmt::format("{:<40} {} {}\n", r.name, r.value, r.unit);
  for (const Problem& p : problems) text += fmt::format("problem: {}\n", p.what);
  return text;
}

const Solution& Solution::none() {
  static const Solution empty;
  return empty;
}

std::optional<double> Solution::head(Id point) const {
  return point < pointHead_m.size() ? known(pointHead_m[point]) : std::nullopt;
}

std::size_t Solution::branchCount(Id element) const {
  return element + 1 < branchBegin.size() ? branchBegin[element + 1] - branchBegin[element] : 0;
}

BranchReading Solution::branch(Id element, std::size_t i) const {
  const BranchValue& v = branches[branchBegin[element] + i];
  return {known(v.flow_m3s), known(v.headFrom_m), known(v.headTo_m), v.state};
}

std::optional<double> Solution::foundFor(Id element, std::string_view field) const {
  for (const FoundField& f : found)
    if (f.element == element && f.field == field) return f.value;
  return std::nullopt;
}

namespace {
constexpr double quarterPi = 0.78539816339744830962;
// A third of a metre in a year: nothing that an engineer would call a flow.
constexpr double stillVelocity_ms = 1e-8;
}  // namespace

double Solution::stillBelow(double bore_m) const {
  return std::max(still_m3s, stillVelocity_ms * quarterPi * bore_m * bore_m);
}

BranchReading Solution::branchAsRead(Id element, std::size_t i, double bore_m) const {
  BranchReading read = branch(element, i);
  if (read.flow_m3s && std::abs(*read.flow_m3s) <= stillBelow(bore_m)) {
    read.flow_m3s = 0.0;
    if (read.headFrom_m && read.headTo_m &&
        std::abs(*read.headFrom_m - *read.headTo_m) <= summary.headTolerance_m)
      read.headTo_m = read.headFrom_m;
  }
  return read;
}

const Values& valuesWithFound(const Element& e, Id id, const Solution& solution, Values& scratch) {
  const Values* values = &valuesOf(e, solution.setting.stock, scratch);
  for (const FoundField& f : solution.found) {
    if (f.element != id) continue;
    if (values != &scratch) scratch = *values, values = &scratch;
    scratch.set(f.field, Given{f.value, Basis::direct, ""});
  }
  return *values;
}

ReadingOf::ReadingOf(const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  endPlaces(network, e, solution.setting, solution.widestBore_m, ends_);
  branches_.reserve(solution.branchCount(id));
  endNames_.reserve(e.ends.size());
  double bore = 0;
  for (const EndPlace& end : ends_) bore = std::max(bore, end.bore_m.value_or(0.0));
  const double still = solution.stillBelow(bore);
  for (std::size_t i = 0; i < solution.branchCount(id); ++i)
    branches_.push_back(solution.branchAsRead(id, i, bore));
  if (id + 1 < solution.vesselBegin.size())
    for (std::uint32_t v = solution.vesselBegin[id]; v < solution.vesselBegin[id + 1]; ++v)
      vessels_.push_back(known(solution.vesselHead_m[v]));
  for (const Id end : e.ends) endNames_.push_back(network.at(end).name);
  reading_.name = e.name;
  reading_.endNames = endNames_;
  reading_.values = &valuesWithFound(e, id, solution, scratch_);
  reading_.setting = &solution.setting;
  reading_.ends = ends_;
  reading_.branches = branches_;
  reading_.vesselHeads = vessels_;
  if (e.part->ends == Ends::self) reading_.head_m = solution.head(id);
  if (e.part->ends == Ends::one && !e.ends.empty()) reading_.head_m = solution.head(e.ends[0]);
  if (id < solution.heldInflow_m3s.size()) {
    reading_.inflow_m3s = known(solution.heldInflow_m3s[id]);
    if (reading_.inflow_m3s && std::abs(*reading_.inflow_m3s) <= still) reading_.inflow_m3s = 0.0;
  }
}

}  // namespace conduit

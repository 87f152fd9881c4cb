#include "limits/limits.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "jobs/by_parts.h"
#include "quantity/format.h"

namespace conduit {
namespace {

std::string sentence(const std::string& name, const Check& c, const UnitSet& units) {
  if (!c.what.empty()) return c.what;
  const bool low = c.least && c.value < *c.least;
  return fmt::format("{}: {} is {}, {} {}", name, c.label, withUnit(c.value, c.measure, units),
                     low ? "under" : "over", withUnit(low ? *c.least : *c.most, c.measure, units));
}

}  // namespace

std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id, const UnitSet& units) {
  std::vector<Check> checks;
  const Element* e = network.find(id);
  if (!e || !e->part->check || !solution.summary.usable() || id + 1 >= solution.branchBegin.size())
    return checks;
  const ReadingOf reading(network, solution, id);
  e->part->check(*reading, units, checks);
  return checks;
}

std::vector<Finding> findings(const Network& network, const Solution& solution, const UnitSet& units) {
  std::vector<Finding> out;
  for (const Problem& p : solution.summary.problems)
    out.push_back({Severity::refused, p.place, p.what, p.remedies});
  if (!solution.summary.usable()) return out;
  struct Weighed {
    Finding finding;
    double by = 0.0;
  };
  std::vector<Id> ids;
  network.each([&](Id id, const Element&) { ids.push_back(id); });
  std::vector<Weighed> weighed;
  for (std::vector<Weighed>&part : byParts(ids.size(), [&](std::size_t begin, std::size_t end) {
         std::vector<Weighed> here;
         for (std::size_t i = begin; i < end; ++i)
           for (Check& c : checksOf(network, solution, ids[i], units)) {
             if (!c.broken()) continue;
             const std::string& name = network.at(ids[i]).name;
             const double limit = c.spoken ? 0.0 : c.least && c.value < *c.least ? *c.least : *c.most;
             Finding f{c.severity, {name, ""}, sentence(name, c, units), std::move(c.remedies)};
             // What cannot be weighed against others stands before them.
             here.push_back({std::move(f),
                             c.spoken ? 1e300 : std::abs(c.value - limit) / std::max(std::abs(limit), 1e-9)});
           }
         return here;
       }))
    std::move(part.begin(), part.end(), std::back_inserter(weighed));
  std::stable_sort(weighed.begin(), weighed.end(), [](const Weighed& a, const Weighed& b) {
    return a.finding.severity != b.finding.severity ? a.finding.severity < b.finding.severity : a.by > b.by;
  });
  for (Weighed& w : weighed) out.push_back(std::move(w.finding));
  for (const Problem& p : solution.summary.notes)
    out.push_back({Severity::note, p.place, p.what, p.remedies});
  return out;
}

Standing standing(const std::vector<Finding>& findings) {
  Standing s;
  for (const Finding& f : findings) {
    if (f.severity == Severity::paper) s.onPaperOnly = true;
    if (f.severity <= Severity::broken) ++s.broken;
    if (f.severity == Severity::near) ++s.near;
  }
  if (!findings.empty()) s.worst = findings.front().what, s.where = findings.front().place;
  return s;
}

}  // namespace conduit

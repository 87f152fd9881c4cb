// What is said when a search does not end at one answer: each sentence with its remedies.
#include <fmt/format.h>

#include <algorithm>

#include "fields/keys.h"
#include "quantity/format.h"
#include "say/words.h"
#include "solve/index.h"
#include "solve/released.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

std::string valueText(double si, Measure measure, const UnitSet& units) {
  const Unit& unit = units.unitFor(measure);
  return unit.symbol.empty() ? digits(inUnit(si, unit), 5)
                             : fmt::format("{} {}", digits(inUnit(si, unit), 5), unit.symbol);
}

// Two values in so many digits that they can be told apart.
std::pair<std::string, std::string> apart(double a, double b, Measure measure, const UnitSet& units) {
  int n = 3;
  while (n < 9 && withUnit(a, measure, units, n) == withUnit(b, measure, units, n)) ++n;
  return {withUnit(a, measure, units, n), withUnit(b, measure, units, n)};
}

}  // namespace

Problem contradiction(const StatesFound& found, const Network& network, const System& s) {
  Problem p;
  if (!found.teesApart.empty()) {
    for (std::size_t k = 0; k < found.teesApart.size() && k < 6; ++k) {
      const std::string& name = network.at(s.rawOwner[u(found.teesApart[k])]).name;
      p.what += (k ? ", " : "") + name;
      p.remedies.push_back({fmt::format("Remove the tee loss at {}", name),
                            {{name, key::teeBranch, ""}},
                            {name, key::teeBranch}});
    }
    p.place = {network.at(s.rawOwner[u(found.teesApart[0])]).name, key::teeBranch};
    p.what = fmt::format(
        "no flows found that agree with the tee loss at {}; some may exist beyond the search", p.what);
    return p;
  }
  const bool one = found.fighting.size() == 1;
  for (std::size_t k = 0; k < found.fighting.size(); ++k) {
    const Link& link = s.links[found.fighting[k]];
    const Element& e = network.at(link.of.element);
    if (k < 6) p.what += (k == 0 ? "" : k + 1 == found.fighting.size() ? " and " : ", ") + e.name;
    if (k < 6)
      if (const Given* kept = e.given(key::setPoint)) p.what += fmt::format(" (set to {})", kept->typed);
    p.remedies.push_back({fmt::format("Go to {}", e.name), {}, {e.name, ""}});
    if ((found.forced || found.mustPass) && findField(*e.part, key::setPoint)) {
      const std::string open = link.holdsBefore ? "0 bara" : "1000 bar";  // a set point that never throttles
      p.remedies.push_back({fmt::format("Set {} to stay open", e.name),
                            {{e.name, key::setPoint, open}},
                            {e.name, key::setPoint}});
    }
  }
  if (found.fighting.size() > 6) p.what += fmt::format(" and {} more", found.fighting.size() - 6);
  if (found.forced) {
    p.what = fmt::format("the only flow path is through {}, and {} block{} the flow", p.what,
                         one ? "its set point" : "their set points", one ? "s" : "");
    if (one && found.shortOf_m) {
      const bool before = s.links[found.fighting[0]].holdsBefore;
      p.what += fmt::format(": at that flow its {} is {} {} the set point", before ? "inlet" : "outlet",
                            withUnit(*found.shortOf_m, Measure::headDrop, UnitSet::siWater(), 3),
                            before ? "below" : "above");
    }
  } else if (found.mustPass) {
    p.what = fmt::format(
        "the only flow path is through {}; none of the {} state combinations tried allows flow; one may "
        "exist "
        "beyond the search",
        p.what, found.setsTried);
  } else if (found.exhausted) {
    p.what = fmt::format(
        "no consistent states for {}: all combinations were tried; their set points conflict", p.what);
  } else {
    p.what =
        fmt::format("no consistent states found for {} in {} combinations; one may exist beyond the search",
                    p.what, found.setsTried);
  }
  if (!found.fighting.empty()) p.place = {network.at(s.links[found.fighting[0]].of.element).name, ""};
  return p;
}

std::vector<Problem> couldRun(const StatesFound& found, const Network& network, const System& s,
                              const UnitSet& units) {
  std::vector<Problem> notes;
  for (const auto& [link, flow] : found.couldRun) {
    const std::string& name = network.at(s.links[link].of.element).name;
    notes.push_back(
        {{name, "already running"},
         fmt::format(
             "second solution: {} cannot start against the system head, but once running it would deliver {}",
             name, withUnit(flow, Measure::volumeFlow, units, 3)),
         {{fmt::format("Treat {} as already running", name),
           {{name, "already running", "yes"}},
           {name, "already running"}}}});
  }
  return notes;
}

// Of several fields that were searched together in vain: how near the search came, and what could be given
// up.
Problem Released::notFound(Trial& nearest, const std::vector<Unknown>& unknowns, std::size_t worst) {
  const Goal& goal = wanted_.goals[worst];
  std::string fields;
  for (std::size_t k = 0; k < unknowns.size() && k < 6; ++k)
    fields += fmt::format("{}the {} of {}",
                          k == 0                     ? ""
                          : k + 1 == unknowns.size() ? " and "
                                                     : ", ",
                          spoken(unknowns[k].field->key), network_.at(unknowns[k].element).name);
  if (unknowns.size() > 6) fields += fmt::format(" and {} more", unknowns.size() - 6);
  const std::string about = network_.at(goal.element).name, key(goal.outcome->key);
  const double reached = read(goal, nearest.solution, *nearest.network);
  const auto [is, wanted] = apart(reached, goal.target, goal.outcome->measure, options_.units);
  Problem p{{about, key},
            fmt::format(
                "no values of {} meet all targets in {} trials; at the closest the {} of {} is {}, target {}",
                fields, trials_, spoken(key), about, is, wanted),
            {}};
  p.remedies.push_back({fmt::format("Change the target to {}", is),
                        {{about, "given " + key, valueText(reached, goal.outcome->measure, options_.units)}},
                        {about, key}});
  std::size_t most = 0;  // the field that moves this one most
  if (const auto rows = slopes(nearest, unknowns); !rows.empty())
    for (std::size_t k = 0; k < unknowns.size(); ++k)
      if (std::abs(rows[worst][k]) * unit(*unknowns[k].field) >
          std::abs(rows[worst][most]) * unit(*unknowns[most].field))
        most = k;
  const std::string name = network_.at(unknowns[most].element).name, field(unknowns[most].field->key);
  p.remedies.push_back({fmt::format("Restore the given {} of {} and clear the {} of {}", spoken(field), name,
                                    spoken(key), about),
                        {{name, "found " + field, "no"}, {about, "given " + key, ""}},
                        {name, field}});
  return p;
}

// All that is wanted is met, and a field may be moved without a change of it.
Problem Released::decidesNothing(const Unknown& unknown) const {
  const std::string name = network_.at(unknown.element).name, key(unknown.field->key);
  std::string goals;
  for (std::size_t g = 0; g < wanted_.goals.size() && g < 4; ++g)
    goals += fmt::format("{}the {} of {}", g == 0 ? "" : ", ", spoken(wanted_.goals[g].outcome->key),
                         network_.at(wanted_.goals[g].element).name);
  if (wanted_.goals.size() > 4) goals += fmt::format(" and {} more", wanted_.goals.size() - 4);
  const std::string value = valueText(unknown.value, unknown.field->measure, options_.units);
  return {{name, key},
          fmt::format("the target ({}) is met by many values of the {} of {}, such as {}: it is not unique",
                      goals, spoken(key), name, value),
          {{fmt::format("Set {} as the {} of {}", value, spoken(key), name),
            {{name, "found " + key, "no"}, {name, key, value}},
            {name, key}}}};
}

Problem Released::outOfReach(const Unknown& unknown, std::optional<double> needed, const Goal& goal,
                             double atLeast, double atMost) {
  const Field& f = *unknown.field;
  const std::string name = network_.at(unknown.element).name, key(f.key),
                    about = network_.at(goal.element).name;
  const UnitSet& units = options_.units;
  // The bound that comes nearest to what is wanted.
  const bool upper =
      std::abs(atMost - goal.target) < std::abs(atLeast - goal.target) || !std::isfinite(atLeast);
  const double bound = upper ? f.most : f.least, reached = upper ? atMost : atLeast;
  Problem p{{name, key}, {}, {}};
  const auto [is, wanted] = apart(reached, goal.target, goal.outcome->measure, units);
  p.what = needed ? fmt::format("{} would need {} of {}", name, spokenOne(key),
                                withUnit(*needed, f.measure, units, 3))
                  : fmt::format("no {} of {} gives the target of {} for {} {}", spoken(key), name, wanted,
                                about, spoken(goal.outcome->key));
  if (needed)
    p.what += fmt::format(", but {} is the {}", withUnit(bound, f.measure, units, 3),
                          upper ? "maximum" : "minimum");
  const double scale = std::max(std::abs(goal.target), 1e-12);
  const bool same = std::isfinite(atLeast) && std::isfinite(atMost) &&
                    std::abs(atMost - atLeast) <= 1e-9 * scale,
             there = std::isfinite(reached) && is == wanted;
  if (there) {
    p.what = fmt::format("the {} of {} reaches its target of {} with {} as the {} of {}, the {} allowed{}",
                         spoken(goal.outcome->key), about, wanted, withUnit(bound, f.measure, units, 3),
                         spoken(key), name, upper ? "maximum" : "minimum",
                         same ? ", and with every other value tried" : "");
    p.remedies.push_back(
        {fmt::format("Set {} as the {} of {}", valueText(bound, f.measure, units), spoken(key), name),
         {{name, "found " + key, "no"},
          {about, "given " + std::string(goal.outcome->key), ""},
          {name, key, valueText(bound, f.measure, units)}},
         {name, key}});
    return p;
  }
  if (same && !needed) {
    p.what += fmt::format(": every value tried gives {}", is);
  } else if (std::isfinite(reached))
    p.what += fmt::format(": at {} the {} of {} is {}, target {}", withUnit(bound, f.measure, units, 3),
                          spoken(goal.outcome->key), about, is, wanted);
  if (std::isfinite(reached))
    p.remedies.push_back(
        {fmt::format("Change the target to {}", is),
         {{about, "given " + std::string(goal.outcome->key),
           valueText(reached + (upper ? -1 : 1) * 1e-3 *
                                   (reached - (std::isfinite(atLeast) && std::isfinite(atMost)
                                                   ? (upper ? atLeast : atMost)
                                                   : reached)),
                     goal.outcome->measure, units)}},
         {about, std::string(goal.outcome->key)}});
  p.remedies.push_back(
      {fmt::format("Restore the given {} of {} and clear the {} of {}", spoken(key), name,
                   spoken(goal.outcome->key), about),
       {{name, "found " + key, "no"}, {about, "given " + std::string(goal.outcome->key), ""}},
       {name, key}});
  return p;
}

// A goal that is nowhere met and comes nearest not at an end of the range but within it.
Problem Released::withinRange(const Unknown& unknown, const Goal& goal, double value, double reached) const {
  const Field& f = *unknown.field;
  const std::string name = network_.at(unknown.element).name, key(f.key),
                    about = network_.at(goal.element).name, outcome(goal.outcome->key);
  const auto [is, wanted] = apart(reached, goal.target, goal.outcome->measure, options_.units);
  const std::string ask =
      valueText(reached + 1e-3 * (reached - goal.target), goal.outcome->measure, options_.units);
  return {
      {name, key},
      fmt::format("no {} of {} gives the target of {} for {} {}: closest at {}, with {}", spoken(key), name,
                  wanted, about, spoken(outcome), withUnit(value, f.measure, options_.units, 3), is),
      {{fmt::format("Change the target to {}", ask), {{about, "given " + outcome, ask}}, {about, outcome}},
       {fmt::format("Restore the given {} of {} and clear the {} of {}", spoken(key), name, spoken(outcome),
                    about),
        {{name, "found " + key, "no"}, {about, "given " + outcome, ""}},
        {name, key}}}};
}

Problem Released::alsoMetBy(const Unknown& unknown, double other) const {
  const Field& f = *unknown.field;
  const std::string name = network_.at(unknown.element).name, key(f.key),
                    text = valueText(other, f.measure, options_.units);
  return {
      {name, key},
      fmt::format(
          "second solution: {} of {} also gives the target {} of {}; the one shown, {}, is reached from {}",
          spokenOne(key), text, spoken(wanted_.goals[0].outcome->key),
          network_.at(wanted_.goals[0].element).name, valueText(unknown.value, f.measure, options_.units),
          valueText(unknown.start, f.measure, options_.units)),
      {{fmt::format("Search from {}", text),
        {{name, key, text}, {name, "found " + key, "yes"}},
        {name, key}}}};
}

}  // namespace conduit

#include "limits/limits.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <nlohmann/json.hpp>
#include <set>

#include "fields/keys.h"
#include "jobs/by_parts.h"
#include "network/arrange.h"
#include "network/onward.h"
#include "parts/flange.h"
#include "quantity/format.h"
#include "solve/shut_off.h"

namespace conduit {

Limit ratingOf(const Element& e, const Setting& setting) {
  Values scratch;
  const Values& values = valuesOf(e, setting.stock, scratch);
  const Limit own = ownLimit(values, LimitId::ratingMost, setting.medium);
  return flange::lesser(e.part->geometry && !own
                            ? Limit{e.part->geometry(values, setting).rating_pa, LimitFrom::catalogue}
                            : own,
                        values, setting);
}

namespace {

// A device is one thing: what is joined at two heights far apart is mostly a slip of the drawing.
constexpr double mostApart_m = 3.0;

void checkHeights(const Network& network, const Element& e, Checks& checks) {
  if (!isDevice(*e.part)) return;
  const Element &a = network.at(e.ends[0]), &b = network.at(e.ends[1]);
  const Given *za = a.given(key::height), *zb = b.given(key::height);
  if (!za || !zb || std::abs(za->value - zb->value) <= mostApart_m) return;
  const auto level = [&](const Element& from, const Given& at, const Element& to) {
    return Remedy{fmt::format("Set {} to the height of {}, {}", to.name, from.name, at.typed),
                  {{to.name, key::height, at.typed}},
                  {to.name, key::height}};
  };
  Check& c = checks.say(CheckId::endHeights, Severity::near);
  if (!checks.told(c)) return;
  c.what = fmt::format("the ends of {} differ in height by {}; check the heights", e.name,
                       withUnit(std::abs(za->value - zb->value), Measure::headDrop, checks.units(), 3));
  c.remedies = {level(a, *za, b), level(b, *zb, a)};
}

Remedy reversed(const Element& e) {
  return {fmt::format("Reverse {}", e.name), {{e.name, std::string(reversedKey), "yes"}}, {e.name, ""}};
}

// A check valve may well be shut, as behind a pump that stands by or in a bypass. Alone in its line, with
// nothing there that could be stopped or closed, it may also stand the wrong way round: a note, not a fault.
void checkWay(const Network& network, const Solution& solution, Id id, Checks& checks) {
  const Element& e = network.at(id);
  if (!e.part->barsBackflow || solution.branches[solution.branchBegin[id]].state != BranchState::shut) return;
  std::size_t walked = 0;
  for (std::size_t side = 0; side < 2; ++side) {
    Id at = e.ends[side], came = id;
    while (++walked < 10000) {
      const Id next = onwardAt(network, at, came);
      if (next == noId) break;
      if (!network.at(next).part->geometry) return;
      at = otherEnd(network.at(next), at), came = next;
      if (next == id) break;
    }
  }
  Check& c = checks.say(CheckId::direction, Severity::note);
  if (!checks.told(c)) return;
  c.what = fmt::format("{} is shut: downstream head exceeds upstream head; check its direction", e.name);
  c.remedies = {reversed(e)};
}

// Another pump that runs feeds what this one discharges into: it is held up, not drawn the wrong way round.
bool anotherFeeds(const Network& network, Id pump) {
  std::vector<Id> front{network.at(pump).ends[1]};
  std::set<Id> seen(front.begin(), front.end());
  while (!front.empty()) {
    const Id point = front.back();
    front.pop_back();
    for (const Id id : waterAt(network, point)) {
      const Element& e = network.at(id);
      if (id == pump || e.part->ends != Ends::two) continue;
      if (e.part->lifts) {
        const bool* runs = e.values.get<bool>(key::running);
        if (e.ends[1] == point && (!runs || *runs)) return true;
        continue;
      }
      if (const Id next = otherEnd(e, point); seen.insert(next).second) front.push_back(next);
    }
  }
  return false;
}

// `from`: its own checks begin there.
void offerReversal(const Network& network, Id id, std::size_t from, Checks& checks) {
  const Element& e = network.at(id);
  if (!e.part->lifts || e.ends.size() < 2) return;
  for (const CheckId stuck : {CheckId::deadHead, CheckId::reverseFlow})
    if (Check* c = checks.find(stuck, from); c && checks.told(*c) && !anotherFeeds(network, id))
      c->remedies.push_back(reversed(e));
}

// The greatest pressure at either end with no flow against the rating, and a displacement pump without
// relief.
void checkShutOff(const Network& network, const Solution& solution, Id id, const Element& e, Limit rating,
                  Checks& checks) {
  const ShutOff* off = solution.shutOff.get();
  if (!off || e.part->ends != Ends::two) return;
  if (rating) {
    Id worst = noId;
    for (const Id end : e.ends)
      if (const double p = off->pressure_pa[end];
          std::isfinite(p) && (worst == noId || p > off->pressure_pa[worst]))
        worst = end;
    if (worst != noId) {
      Check& c = checks.hold(CheckId::shutOff, off->pressure_pa[worst], {}, rating);
      if (checks.told(c))
        c.what = fmt::format("with no flow the pressure in {} is {}, above its rating of {} ({})", e.name,
                             withUnit(c.value, Measure::gaugePressure, checks.units()),
                             withUnit(*c.most, Measure::gaugePressure, checks.units()),
                             wordsOf(off->ways[off->by[worst]], network, checks.units()));
    }
  }
  if (std::find(off->unprotected.begin(), off->unprotected.end(), id) != off->unprotected.end()) {
    Check& c = checks.say(CheckId::reliefValve, Severity::broken);
    if (checks.told(c))
      c.what = fmt::format(
          "no relief valve is joined to the discharge of {}: against a shut valve nothing limits its "
          "pressure",
          e.name);
  }
}

// A check valve is no protection: what would stand above its rating if it leaked is told, the worst of it.
void checkKeptOff(const Network& network, const Solution& solution, Id id, Checks& checks) {
  for (const ShutOff::Kept& kept : solution.shutOff->kept) {
    if (kept.valve != id) continue;
    Id worst = noId;
    double by = 0.0, pressure = 0.0, rating = 0.0;
    for (const Id point : kept.points) {
      const Given* z = network.at(point).given(key::height);
      if (!z) continue;
      const double p = solution.setting.medium.pressureOf(kept.head_m - z->value);
      for (const Id one : network.at(point).joined) {
        const Limit most = ratingOf(network.at(one), solution.setting);
        if (most && p - *most.si > by) by = p - *most.si, worst = one, pressure = p, rating = *most.si;
      }
    }
    if (worst == noId) return;
    Check& c = checks.hold(CheckId::keptOff, pressure, {}, {rating, LimitFrom::own}, Severity::note);
    if (checks.told(c))
      c.what =
          fmt::format("{} alone keeps {} off {}, rated {}: a check valve does not protect against pressure",
                      network.at(id).name, withUnit(pressure, Measure::gaugePressure, checks.units()),
                      network.at(worst).name, withUnit(rating, Measure::gaugePressure, checks.units()));
  }
}

// A key that is misspelt must not be passed over in silence. Those of the job come in two objects, of the
// file and of the job itself.
void checkUnknownKeys(const Element& e, Id id, Checks& checks) {
  if (e.extra.empty()) return;
  Check& c = checks.say(CheckId::unknownKeys, Severity::note);
  if (!checks.told(c)) return;
  std::vector<std::string> keys;
  const auto extra = nlohmann::json::parse(e.extra, nullptr, false);
  for (const auto& [key, value] : extra.items())
    if (id != jobId) keys.push_back(fmt::format("\"{}\"", key));
    else
      for (const auto& [inner, unused] : value.items()) keys.push_back(fmt::format("\"{}\"", inner));
  const std::string named =
      keys.size() > 4
          ? fmt::format("{} and {} more", fmt::join(keys.begin(), keys.begin() + 4, ", "), keys.size() - 4)
          : fmt::format("{}", fmt::join(keys, ", "));
  c.what = fmt::format(
      "the file has {} for {}, which this program does not know: kept, not used; check the spelling", named,
      id == jobId ? "the job" : e.name);
}

void judge(const Network& network, const Solution& solution, Id id, const Element& e, Checks& checks) {
  const std::size_t before = checks.count();
  checkUnknownKeys(e, id, checks);
  checkHeights(network, e, checks);
  if (solution.branchBegin[id] < solution.branchBegin[id + 1]) checkWay(network, solution, id, checks);
  // Of what is on the drawing alone nothing is judged.
  if (!e.part->prepare && !e.part->check) return;
  const ReadingOf reading(network, solution, id);
  checkElement(*e.part, *reading, checks);
  offerReversal(network, id, before, checks);
  if (!solution.shutOff) return;
  checkShutOff(network, solution, id, e, ratingOf(e, solution.setting), checks);
  if (!solution.shutOff->kept.empty()) checkKeptOff(network, solution, id, checks);
}

}  // namespace

void checksOf(const Network& network, const Solution& solution, Id id, Checks& checks) {
  const Element* e = network.find(id);
  if (!e || !solution.summary.usable() || id + 1 >= solution.branchBegin.size()) return;
  const std::size_t before = checks.count();
  judge(network, solution, id, *e, checks);
  if (const CheckSet waived = waivedFor(e->values, solution.setting); waived.any())
    checks.leaveOut(waived, before);
}

namespace {

void count(std::span<const Check> checks, Standing& s) {
  for (const Check& c : checks) {
    if (!c.broken()) continue;
    if (c.severity == Severity::paper) s.onPaperOnly = true;
    if (c.severity <= Severity::broken) ++s.broken;
    if (c.severity == Severity::near) ++s.near;
  }
}

}  // namespace

std::string sentenceOf(const std::string& name, const Check& c, const UnitSet& units) {
  if (!c.what.empty()) return c.what;
  return fmt::format("{}: {} is {}, {} {}", name, c.label(), withUnit(c.value, c.measure(), units),
                     c.low() ? "below" : "above", withUnit(c.low() ? *c.least : *c.most, c.measure(), units));
}

std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id, const UnitSet& units) {
  std::vector<Check> found;
  Checks checks(found, units);
  checksOf(network, solution, id, checks);
  return found;
}

std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id) {
  std::vector<Check> found;
  Checks checks(found);
  checksOf(network, solution, id, checks);
  return found;
}

namespace {

// Said once of all: a network of oil may be laminar throughout.
std::string laminarSaid(const Network& network, const Solution& solution) {
  if (solution.setting.hazenWilliams || solution.setting.manning) return {};
  std::vector<std::string_view> names;
  std::size_t count = 0;
  network.each([&](Id id, const Element& e) {
    if (!e.part->geometry || id + 1 >= solution.branchBegin.size()) return;
    const ReadingOf reading(network, solution, id);
    const auto re = outcomeOf(*e.part, "Reynolds number", *reading);
    if (!re || *re <= 0 || std::abs(outcome::flow(*reading).value_or(0)) < 1e-9 ||
        *re > friction::laminarEnd_re)
      return;
    if (++count <= 5) names.push_back(e.name);
  });
  if (count == 0) return {};
  return fmt::format("the flow is laminar in {} {} ({}{}): friction by viscosity alone", count,
                     count == 1 ? "line" : "lines", fmt::join(names, ", "),
                     count > names.size() ? ", …" : "");
}

}  // namespace

std::vector<Finding> findings(const Network& network, const Solution& solution, const UnitSet& units) {
  std::vector<Finding> out;
  for (const Problem& p : solution.summary.problems)
    out.push_back({Severity::refused, p.place, p.what, p.remedies});
  if (!solution.summary.usable()) return out;
  struct Ranked {
    Finding finding;
    double by = 0.0;
  };
  std::vector<Id> ids;
  eachWithJob(network, [&](Id id, const Element&) { ids.push_back(id); });
  std::vector<Ranked> ranked;
  for (std::vector<Ranked>&part : byParts(ids.size(), [&](std::size_t begin, std::size_t end) {
         std::vector<Ranked> here;
         for (std::size_t i = begin; i < end; ++i)
           for (Check& c : checksOf(network, solution, ids[i], units)) {
             if (!c.broken()) continue;
             const std::string name = nameOf(network, ids[i]);
             const double limit = c.spoken ? 0.0 : c.low() ? *c.least : *c.most;
             Finding f{c.severity, {name, ""},  sentenceOf(name, c, units), std::move(c.remedies),
                       c.label(),  c.doubtful()};
             // What cannot be ranked against others stands before them.
             here.push_back({std::move(f),
                             c.spoken ? 1e300 : std::abs(c.value - limit) / std::max(std::abs(limit), 1e-9)});
           }
         return here;
       }))
    std::move(part.begin(), part.end(), std::back_inserter(ranked));
  std::stable_sort(ranked.begin(), ranked.end(), [](const Ranked& a, const Ranked& b) {
    return a.finding.severity != b.finding.severity ? a.finding.severity < b.finding.severity : a.by > b.by;
  });
  for (Ranked& w : ranked) out.push_back(std::move(w.finding));
  if (auto laminar = laminarSaid(network, solution); !laminar.empty())
    out.push_back({Severity::note, {}, std::move(laminar), {}});
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

Standing standing(const Network& network, const Solution& solution) {
  Standing s;
  s.broken = solution.summary.problems.size();
  std::vector<Check> found;
  Checks checks(found);
  eachWithJob(network, [&](Id id, const Element&) {
    found.clear();
    checksOf(network, solution, id, checks);
    count(found, s);
  });
  return s;
}

Gauges::Gauges(Network network, const Solution& answer)
    : network_(std::move(network)), setting_(answer.setting) {
  eachWithJob(network_, [&](Id id, const Element& e) {
    if (!e.part->gauge) {
      others_.push_back(id);
      return;
    }
    double bore = 0.0;
    for (const Id end : e.ends) bore = std::max(bore, answer.widestBore_m[end]);
    const ReadingOf reading(network_, answer, id);
    read_.push_back({id, bore, ratingOf(e, setting_), waivedFor(e.values, setting_),
                     e.part->gauge(*reading->values, setting_, reading->ends)});
  });
}

// The elements that may be judged by something else than what was read; none at all where everything may.
std::optional<std::vector<char>> Gauges::apartFrom(const Network& network, const Solution& answer) const {
  const auto changed = network.changedSince(network_);
  const Setting& s = answer.setting;
  if (!changed || s.medium.density_kgm3 != setting_.medium.density_kgm3 ||
      s.medium.atmosphere_pa != setting_.medium.atmosphere_pa || s.vapour_pa != setting_.vapour_pa ||
      s.altitudeAt_m != setting_.altitudeAt_m)
    return std::nullopt;
  std::vector<char> apart(network.bound(), 0);
  const auto around = [&](Id point) {
    for (const Id id : network.at(point).joined) apart[id] = 1;
  };
  for (const Id id : *changed) {
    if (id == jobId) return std::nullopt;
    const Element& e = network.at(id);
    if (e.part->service) return std::nullopt;
    apart[id] = 1;
    // A height is seen by all that meet there; so is a bore.
    if (e.part->ends == Ends::self) around(id);
    for (const Id end : e.ends) around(end);
  }
  for (const FoundField& f : answer.found) apart[f.element] = 1;
  return apart;
}

Standing Gauges::standing(const Network& network, const Solution& answer) const {
  Standing s;
  s.broken = answer.summary.problems.size();
  if (!answer.summary.usable()) return s;
  const auto apart = apartFrom(network, answer);
  std::vector<Check> found;
  Checks checks(found);
  const auto whole = [&](Id id) {
    found.clear();
    checksOf(network, answer, id, checks);
    count(found, s);
  };
  for (const Id id : others_) whole(id);
  Reading reading;
  reading.setting = &answer.setting;
  BranchReading branch;
  for (const Read& r : read_) {
    if (!apart || (*apart)[r.id]) {
      whole(r.id);
      continue;
    }
    reading.head_m = answer.head(r.id);
    reading.branches = {};
    if (answer.branchCount(r.id) > 0) {
      branch = answer.branchAsRead(r.id, 0, r.bore_m);
      reading.branches = {&branch, 1};
    }
    found.clear();
    r.gauge->look(reading, checks);
    if (answer.shutOff && r.rating) checkShutOff(network, answer, r.id, network.at(r.id), r.rating, checks);
    if (r.waived.any()) checks.leaveOut(r.waived, 0);
    count(found, s);
  }
  return s;
}

}  // namespace conduit

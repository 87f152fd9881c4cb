// The value of a field that lets its element do what it does in an answer, and the judgement of it with that
// value in place.
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "solve/index.h"
#include "solve/released.h"
#include "solve/search_place.h"

namespace conduit {
namespace {

// A flow and heads of a branch, with the head that its device would hold somewhere.
struct Seen {
  double flow_m3s, from_m, to_m;
  double drop() const { return from_m - to_m; }
};

// A place where a function of the search place changes its sign, looked for all over the range (a law may
// know only a part of it: outside it gives no number), closed in by the secant and by halves; one within the
// legal range before one beyond it.
template <class F>
std::optional<double> rootOver(const Field& f, const F& miss) {
  constexpr int places = 96;
  struct Place {
    double at, miss;
  };
  std::vector<double> at;
  const double low = toSearch(f, lowest(f)), high = toSearch(f, highest(f));
  for (int k = 0; k <= places; ++k) at.push_back(low + (high - low) * k / places);
  at.push_back(toSearch(f, std::max(f.least, lowest(f))));
  at.push_back(toSearch(f, f.most));
  std::sort(at.begin(), at.end());
  std::optional<Place> last;
  std::optional<double> beyond;
  for (const double here : at) {
    const double m = miss(fromSearch(f, here));
    if (!std::isfinite(m)) {
      last.reset();
      continue;
    }
    if (m == 0.0) return fromSearch(f, here);
    if (last && (last->miss < 0) != (m < 0)) {
      Place a = *last, b{here, m};
      for (int step = 0; step < 200 && b.at - a.at > 1e-15 * std::max(std::abs(a.at), std::abs(b.at));
           ++step) {
        double middle = (a.at + b.at) / 2;
        if (step % 3 != 2 && std::abs(b.miss - a.miss) > 0 && std::abs(a.miss) < 1e29 &&
            std::abs(b.miss) < 1e29)
          middle = std::clamp(a.at - a.miss * (b.at - a.at) / (b.miss - a.miss), a.at + 1e-3 * (b.at - a.at),
                              b.at - 1e-3 * (b.at - a.at));
        const double by = miss(fromSearch(f, middle));
        if (!std::isfinite(by)) break;
        if (by == 0.0) {
          a = b = {middle, by};
          break;
        }
        ((by < 0) == (a.miss < 0) ? a : b) = {middle, by};
      }
      const double root = fromSearch(f, (a.at + b.at) / 2), slack = 1e-9 * (f.most - f.least);
      if (root >= f.least - slack && root <= f.most + slack) return std::clamp(root, f.least, f.most);
      if (!beyond) beyond = root;
    }
    last = Place{here, m};
  }
  return beyond;
}

}  // namespace

bool within(const Unknown& k, double value) {
  const double slack = 1e-7 * std::max(std::abs(value), unit(*k.field) * 1e-3);
  return value >= k.field->least - slack && value <= k.field->most + slack;
}

// What a field moves, seen by preparing its element at two values.
std::optional<Released::Lever> Released::leverOf(const Unknown& k,
                                                 const std::vector<EndPlace>& places) const {
  const Element& e = network_.at(k.element);
  const Field& f = *k.field;
  const double at = toSearch(f, k.value),
               step = at + 0.01 * unit(f) <= toSearch(f, f.most) ? 0.01 * unit(f) : -0.01 * unit(f);
  const Prepared a = e.part->prepare(valuesWith(e, setting_.stock, k, k.value), setting_, places),
                 b = e.part->prepare(valuesWith(e, setting_.stock, k, fromSearch(f, at + step)), setting_,
                                     places);
  if (!a.missing.empty() || !b.missing.empty() || a.problem || b.problem ||
      a.branches.size() != b.branches.size() || a.vessels.size() != b.vessels.size())
    return std::nullopt;
  if (a.holdsHead_m && b.holdsHead_m && *a.holdsHead_m != *b.holdsHead_m)
    return Lever{Free::Kind::head, false};
  if (a.vessels.size() == 1 && a.vessels[0].head_m && b.vessels[0].head_m &&
      *a.vessels[0].head_m != *b.vessels[0].head_m)
    return Lever{Free::Kind::head, e.part->ends == Ends::many};
  if (a.inflow_m3s != b.inflow_m3s) return Lever{Free::Kind::inflow, false};
  if (a.branches.size() == 1 && a.vessels.size() < 2 && a.branches[0].law && !a.branches[0].shut &&
      !a.branches[0].givenFlow_m3s)
    return Lever{Free::Kind::flow, f.feltBeside};
  return std::nullopt;
}

// The value of a field with which its element does what it does in an answer. Empty when none does, beyond
// the legal range too.
std::optional<double> Released::fieldFor(const Trial& t, const Unknown& k) const {
  const Element& e = t.network->at(k.element);
  const Field& f = *k.field;
  const System& s = *t.system;
  const auto places = endPlaces(*t.network, e, setting_, t.solution.widestBore_m);
  const auto prepared = [&](double value) {
    return e.part->prepare(valuesWith(e, setting_.stock, k, value), setting_, places);
  };
  const auto lever = leverOf(k, places);
  if (!lever) return std::nullopt;
  if (lever->kind == Free::Kind::head) {
    const int raw = s.prepared[k.element].holdsHead_m ? s.pointRaw[e.ends[0]] : s.vesselBegin[k.element];
    const double head = t.x.head_m[u(s.rawToNode[u(raw)])];
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      const auto its = p.holdsHead_m ? p.holdsHead_m : p.vessels.empty() ? std::nullopt : p.vessels[0].head_m;
      return its ? *its - head : NAN;
    });
  }
  if (lever->kind == Free::Kind::inflow)
    return rootOver(
        f, [&](double value) { return prepared(value).inflow_m3s - s.prepared[k.element].inflow_m3s; });
  const BranchReading b = t.solution.branch(k.element, 0);
  if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) return std::nullopt;
  const Seen seen{*b.flow_m3s, *b.headFrom_m, *b.headTo_m};
  // By what it holds if the field says that, else by the most it lets pass if the field says that, else by
  // its loss.
  const Prepared one = prepared(k.value),
                 other = prepared(
                     fromSearch(f, toSearch(f, k.value) + (k.value < f.most ? 0.01 : -0.01) * unit(f)));
  const Law *first = one.branches[0].law.get(),
            *second = other.branches.empty() ? nullptr : other.branches[0].law.get();
  if (!first || !second) return std::nullopt;
  const auto hold = first->hold(), moved = second->hold();
  if (hold && moved && hold->head_m != moved->head_m) {
    const auto held = heldBy(t, one.branches[0], *hold, seen.from_m, seen.to_m);
    if (!held) return std::nullopt;
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      const auto its = p.branches.empty() || !p.branches[0].law ? std::nullopt : p.branches[0].law->hold();
      return its ? its->head_m - *held : NAN;
    });
  }
  if (std::isfinite(first->flowMost_m3s()) && first->flowMost_m3s() != second->flowMost_m3s())
    return rootOver(f, [&](double value) {
      const Prepared p = prepared(value);
      return p.branches.empty() || !p.branches[0].law ? NAN
                                                      : p.branches[0].law->flowMost_m3s() - seen.flow_m3s;
    });
  return rootOver(f, [&](double value) -> double {
    const Prepared p = prepared(value);
    if (p.branches.size() != 1) return NAN;
    if (p.branches[0].shut) return seen.flow_m3s > 0 ? 1e30 : seen.flow_m3s < 0 ? -1e30 : 0.0;
    if (!p.branches[0].law) return NAN;
    const Law& law = *p.branches[0].law;
    double memory = 0;
    const double sign = seen.flow_m3s < 0 ? -1.0 : 1.0;
    double miss = sign * (law.at(seen.flow_m3s, memory).drop_m - seen.drop());
    if (const auto choke = law.choke()) {  // or by the flow at which it chokes, whichever asks for more
      const Choked most = choked(*choke, seen.flow_m3s, seen.from_m, seen.to_m);
      miss = std::max(miss, (std::abs(seen.flow_m3s) - std::abs(most.flow_m3s)) / std::abs(most.slope_m2s));
    }
    return sign * miss;
  });
}

// The head that a branch's device would hold to hold what it sees: its law's own number, without the height
// of a point elsewhere that the set-up adds.
std::optional<double> Released::heldBy(const Trial& t, const Branch& branch, const Hold& hold, double from_m,
                                       double to_m) const {
  double seen = hold.before ? from_m : to_m, less = 0.0;
  for (const auto& [name, over] : {std::pair(&branch.holdsAt, false), std::pair(&branch.over, true)}) {
    if (name->empty()) continue;
    const Id point = network_.byName(*name);
    const auto head = point == noId ? std::nullopt : t.solution.head(point);
    if (!head) return std::nullopt;
    if (over) less += *head;
    else seen = *head;
  }
  if (!branch.holdsAt.empty() && branch.over.empty())
    if (const Given* z = network_.at(network_.byName(branch.holdsAt)).given(key::height))
      less += resolve(*z, Measure::height, setting_.medium);
  return seen - less;
}

// The state in which a device with its found value does what the answer says, if there is one: its law, what
// it holds, what it lets pass and which way all as they must be.
std::optional<BranchState> Released::stateWith(const Trial& t, const Unknown& k) const {
  const Element& e = t.network->at(k.element);
  const Prepared p = e.part->prepare(valuesWith(e, setting_.stock, k, k.value), setting_,
                                     endPlaces(*t.network, e, setting_, t.solution.widestBore_m));
  if (!p.missing.empty() || p.problem || p.branches.size() != 1) return std::nullopt;
  const BranchReading b = t.solution.branch(k.element, 0);
  if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) return std::nullopt;
  const double q = *b.flow_m3s, drop = *b.headFrom_m - *b.headTo_m;
  if (p.branches[0].shut) return q == 0.0 ? std::optional(BranchState::shut) : std::nullopt;
  const Law& law = *p.branches[0].law;
  constexpr double slack_m = 1e-5;
  double memory = 0;
  const double flowSlack = 1e-8 * law.startFlow_m3s(), loss = law.at(q, memory).drop_m,
               atRest = law.at(0.0, memory).drop_m;
  const bool fits = std::abs(drop - loss) <= 2e-6 + 1e-9 * (std::abs(*b.headFrom_m) + std::abs(*b.headTo_m)),
             rests = std::abs(q) <= flowSlack;
  if (law.barsBackflow() && q < -flowSlack) return std::nullopt;
  const auto hold = law.hold();
  const auto seen = hold ? heldBy(t, p.branches[0], *hold, *b.headFrom_m, *b.headTo_m) : std::nullopt;
  if (hold && !seen) return std::nullopt;
  const double excess = hold ? (hold->before ? hold->head_m - *seen : *seen - hold->head_m) : -1.0;
  if (hold && std::abs(excess) <= slack_m && drop >= loss - slack_m)
    return hold->before && rests ? BranchState::shut : fits ? BranchState::open : BranchState::acting;
  if (hold && excess > 0) return rests ? std::optional(BranchState::shut) : std::nullopt;
  if (const double most = law.flowMost_m3s(); std::isfinite(most)) {
    if (std::abs(q - most) <= 1e-9 * most + 1e-12 && drop >= loss - slack_m) return BranchState::acting;
    if (q > most) return std::nullopt;
  }
  if (const auto choke = law.choke()) {
    const double upstream = q >= 0 ? *b.headFrom_m - choke->baseFrom_m : *b.headTo_m - choke->baseTo_m;
    const double most = std::abs(choked(*choke, q, *b.headFrom_m, *b.headTo_m).flow_m3s),
                 sign = q < 0 ? -1.0 : 1.0;
    if (upstream > 0 && std::abs(std::abs(q) - most) <= 1e-7 * most && sign * drop >= sign * loss - slack_m)
      return BranchState::acting;
    if (upstream > 0 && std::abs(q) > most * (1 + 1e-9)) return std::nullopt;
  }
  if (fits) return BranchState::open;
  return law.barsBackflow() && rests && drop <= atRest + slack_m ? std::optional(BranchState::shut)
                                                                 : std::nullopt;
}

// Whether another device holds the head that a found one is to hold: who of them acts is then for the network
// to say.
bool Released::sharesItsHead(const Trial& t, const Unknown& k) const {
  const Prepared& p = t.system->prepared[k.element];
  if (p.branches.size() != 1 || !p.branches[0].law || !p.branches[0].law->hold()) return false;
  const Hold hold = *p.branches[0].law->hold();
  const Branch& branch = p.branches[0];
  const Element& e = t.network->at(k.element);
  const Id point = branch.holdsAt.empty() ? e.ends[hold.before ? 0 : 1] : network_.byName(branch.holdsAt);
  const int raw = point == noId ? -1 : t.system->pointRaw[point];
  if (raw < 0) return false;
  const int node = t.system->rawToNode[u(raw)];
  return std::any_of(t.system->links.begin(), t.system->links.end(),
                     [&](const Link& l) { return l.holds && l.held == node; });
}

// What is left over at a point whose head is given: it leaves there (or enters).
double Released::leftOver(const Trial& t, const Unknown& k) const {
  const System& s = *t.system;
  const int raw = s.pointRaw[k.element];
  // What else leaves there (a flow given through a branch, fed in at a fixed pressure), without the point's
  // own.
  double over = -s.rawOutflow_m3s[u(raw)] - s.prepared[k.element].inflow_m3s;
  for (std::size_t i = 0; i < s.links.size(); ++i)
    over += t.x.flow_m3s[i] * ((s.links[i].rawTo == raw) - (s.links[i].rawFrom == raw));
  for (const Join& j : s.joins)
    over += t.solution.branch(j.of.element, u(j.of.branch)).flow_m3s.value_or(0.0) *
            ((j.rawTo == raw) - (j.rawFrom == raw));
  const auto given = [&](std::string_view key) {
    const Given* g = network_.at(k.element).given(key);
    return g ? resolve(*g, Measure::volumeFlow, setting_.medium) : 0.0;
  };
  return k.field->key == key::inflow ? -(over - given(key::outflow)) : over + given(key::inflow);
}

// The state of a device whose field was found, in the answer and in its summary.
void mark(Solution& solution, const Network& network, Id id, BranchState state) {
  auto& was = solution.branches[solution.branchBegin[id]].state;
  Summary& sum = solution.summary;
  const std::string& name = network.at(id).name;
  std::erase_if(sum.states,
                [&](const std::string& s) { return s == name + " acting" || s == name + " shut"; });
  if (was == BranchState::acting) sum.acting -= sum.acting > 0;
  if (was == BranchState::shut) sum.shut -= sum.shut > 0;
  was = state;
  if (state == BranchState::acting) ++sum.acting, sum.states.push_back(name + " acting");
  if (state == BranchState::shut) ++sum.shut, sum.states.push_back(name + " shut");
}

// The fields of the local pairs, from the flows and heads that are now known. False with a problem when one
// is beyond its range, or does not hold with its device's own inequalities.
bool Released::settleLocal(Trial& t, std::vector<Problem>& problems) {
  for (Local& l : local_) {
    const Element& e = t.network->at(l.unknown.element);
    const Field& f = *l.unknown.field;
    if (e.part->ends == Ends::self) {
      l.unknown.value = leftOver(t, l.unknown);
      if (l.unknown.value < f.least || l.unknown.value > f.most)
        problems.push_back(outOfReach(l.unknown, l.unknown.value, l.goal, NAN, NAN));
      continue;
    }
    const BranchReading b = t.solution.branch(l.unknown.element, 0);
    if (!b.flow_m3s || !b.headFrom_m || !b.headTo_m) {
      problems.push_back({{e.name, std::string(f.key)},
                          "the heads on both sides of " + e.name + " are not determined, so its " +
                              std::string(f.key) + " cannot be solved for",
                          {}});
      continue;
    }
    const auto needed = fieldFor(t, l.unknown);
    if (needed && within(l.unknown, *needed)) {
      l.unknown.value = std::clamp(*needed, f.least, f.most);
      if (const auto state = stateWith(t, l.unknown)) {
        mark(t.solution, network_, l.unknown.element, *state);
        continue;
      }
    }
    // At the ends of its range, what would the outcome be?
    GivenInstead without = instead_;
    without.flows.erase(l.unknown.element);
    const auto at = [&](double value) {
      const Local kept = l;
      l.unknown.value = value;
      const Trial end = attempt(wanted_.unknowns, nullptr, without, {});
      l = kept;
      return end.good ? read(l.goal, end.solution, *end.network) : NAN;
    };
    problems.push_back(outOfReach(l.unknown, needed && !within(l.unknown, *needed) ? needed : std::nullopt,
                                  l.goal, at(std::max(f.least, lowest(f))), at(f.most)));
  }
  return problems.empty();
}

}  // namespace conduit

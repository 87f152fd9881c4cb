#include "solve/goals.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "fields/keys.h"
#include "say/words.h"
#include "solve/index.h"

namespace conduit {
namespace {

// A common size, for a search that begins without any value kept.
double common(Measure measure) {
  switch (measure) {
    case Measure::bore: return 0.1;
    case Measure::length: return 100;
    case Measure::roughness: return 1e-4;
    case Measure::flowCoefficient: return 50;
    case Measure::nozzleFactor: return 4e-6;
    case Measure::gaugePressure: return 2e5;
    case Measure::pressureDrop: return 5e4;
    case Measure::volumeFlow: return 0.01;
    case Measure::ratio: return 0.5;
    case Measure::rotation: return 24;
    case Measure::height:
    case Measure::head: return 20;
    default: return 1.0;
  }
}

std::string nameOf(const Network& network, const Unknown& k) {
  return fmt::format("the {} of {}", spoken(k.field->key), network.at(k.element).name);
}
std::string nameOf(const Network& network, const Goal& g) {
  return fmt::format("the {} of {}", spoken(g.outcome->key), network.at(g.element).name);
}
std::string joined(const std::vector<std::string>& names, const char* last) {
  std::string words;
  for (std::size_t i = 0; i < names.size() && i < 6; ++i)
    words += (i == 0 ? "" : i + 1 == names.size() ? last : ", ") + names[i];
  if (names.size() > 6) words += fmt::format(" and {} more", names.size() - 6);
  return words;
}

// Where an element stands: its own height, or that of its first point.
std::optional<double> heightOf(const Network& network, const Element& e, const Setting& setting) {
  const Element& at = e.part->ends == Ends::self || e.ends.empty() ? e : network.at(e.ends[0]);
  const Given* z = at.given(key::height);
  return z ? std::optional(resolve(*z, Measure::height, setting.medium)) : std::nullopt;
}

Remedy giveAgain(const Network& network, const Unknown& k) {
  const std::string& name = network.at(k.element).name;
  return {fmt::format("Restore the given {} of {}", spoken(k.field->key), name),
          {{name, "found " + std::string(k.field->key), "no"}},
          {name, std::string(k.field->key)}};
}
Remedy dropGoal(const Network& network, const Goal& g) {
  const std::string& name = network.at(g.element).name;
  return {fmt::format("Clear the given {} of {}", spoken(g.outcome->key), name),
          {{name, "given " + std::string(g.outcome->key), ""}},
          {name, std::string(g.outcome->key)}};
}

}  // namespace

Wanted wantedOf(const Network& network, const Setting& setting) {
  Wanted w;
  network.each([&](Id id, const Element& e) {
    for (const Values::Goal& g : e.values.goals())
      if (const Outcome* o = findOutcome(*e.part, g.outcome))
        w.goals.push_back(
            {id, o, resolve(g.given, o->measure, setting.mediumAt(heightOf(network, e, setting)))});
    for (const Values::Entry& entry : e.values.entries()) {
      if (!entry.released) continue;
      const Field* f = findField(*e.part, entry.key);
      if (!f || f->kind != FieldKind::quantity) continue;
      const bool byItself = std::any_of(e.part->swaps.begin(), e.part->swaps.end(), [&](const Swap& s) {
        return s.release == entry.key && e.value(s.give);
      });
      if (byItself) continue;
      double start = f->fallback && *f->fallback > 0 ? *f->fallback : common(f->measure);
      if (const auto* given = std::get_if<Given>(&entry.value))
        start = resolve(*given, f->measure, setting.medium);
      start = std::clamp(start, f->least > 0 ? f->least : f->least, f->most);
      if (f->least >= 0 && start == 0) start = common(f->measure);
      w.unknowns.push_back({id, f, start, start});
    }
  });
  return w;
}

std::vector<Local> takeLocal(const Network& network, const Setting& setting, Wanted& wanted,
                             GivenInstead& given) {
  std::vector<Local> local;
  const auto take = [&](std::size_t goal, std::size_t unknown) {
    local.push_back({wanted.unknowns[unknown], wanted.goals[goal]});
    wanted.goals.erase(wanted.goals.begin() + static_cast<std::ptrdiff_t>(goal));
    wanted.unknowns.erase(wanted.unknowns.begin() + static_cast<std::ptrdiff_t>(unknown));
  };
  for (std::size_t g = wanted.goals.size(); g-- > 0;) {
    const Goal goal = wanted.goals[g];
    const Element& e = network.at(goal.element);
    for (std::size_t k = wanted.unknowns.size(); k-- > 0;) {
      const Unknown& unknown = wanted.unknowns[k];
      if (unknown.element != goal.element) continue;
      if (e.part->ends == Ends::self) {
        if (unknown.field->measure != Measure::volumeFlow) continue;
        const auto z = e.given(key::height);
        double head = goal.target;  // of the outcome "head"
        if (goal.outcome->measure == Measure::gaugePressure)
          head =
              setting.medium.columnOf(goal.target) + (z ? resolve(*z, Measure::height, setting.medium) : 0.0);
        else if (goal.outcome->measure == Measure::absolutePressure)
          head = setting.medium.columnOf(goal.target -
                                         setting.mediumAt(heightOf(network, e, setting)).atmosphere_pa) +
                 (z ? resolve(*z, Measure::height, setting.medium) : 0.0);
        else if (goal.outcome->measure != Measure::head) continue;
        given.heads[goal.element] = head;
        take(g, k);
        break;
      }
      const bool single = (e.part->ends == Ends::two || e.part->ends == Ends::one) &&
                          goal.outcome->key == key::flow && goal.outcome->measure == Measure::volumeFlow;
      if (!single) continue;
      given.flows[goal.element] = goal.target;
      take(g, k);
      break;
    }
  }
  std::reverse(local.begin(), local.end());
  for (const Goal& g : wanted.goals) given.whole.insert(g.element);
  for (const Unknown& k : wanted.unknowns) given.whole.insert(k.element);
  return local;
}

Network filled(const Network& network, std::span<const Unknown> unknowns) {
  Draft draft(network);
  for (const Unknown& k : unknowns)
    draft.values(k.element).set(k.field->key, Given{k.value, Basis::direct, ""});
  return std::move(draft).finish();
}

namespace {

// Equations: balance of each free node, law of each link, each goal. Unknowns: head of each free node, flow
// of each link, each released field.
class Matching {
 public:
  Matching(const Network& network, const System& s, const Wanted& w)
      : s_(s), nodes_(s.freeCount), links_(static_cast<int>(s.links.size())) {
    goals_ = static_cast<int>(w.goals.size()), fields_ = static_cast<int>(w.unknowns.size());
    touching_.resize(u(s.nodeCount()));
    for (int i = 0; i < links_; ++i)
      for (const int n : {s.links[u(i)].from, s.links[u(i)].to}) touching_[u(n)].push_back(i);
    lawFields_.resize(u(links_));
    balanceFields_.resize(u(nodes_));
    equationsOfField_.resize(u(fields_));
    for (int k = 0; k < fields_; ++k) {
      const Id id = w.unknowns[u(k)].element;
      for (const int i : linksOf(id)) attach(k, i);
      if (w.unknowns[u(k)].field->feltBeside)  // what is set into the pipes it meets feels its bore
        for (const Id end : network.at(id).ends)
          for (const Id other : network.elementsAt(end))
            if (other != id &&
                (!network.at(other).part->geometry || network.at(end).value(key::changeOfBore) ||
                 network.at(end).value(key::teeBranch)))
              for (const int i : linksOf(other)) attach(k, i);
      const Prepared& p = s.prepared[id];
      if (const int raw = s.pointRaw[id]; raw >= 0 && s.rawToNode[u(raw)] >= 0)
        attachNode(k, s.rawToNode[u(raw)]);
      if (p.holdsHead_m)
        if (const int n = s.rawToNode[u(s.pointRaw[network.at(id).ends[0]])]; n >= 0) attachNode(k, n);
      for (std::size_t v = 0; v < p.vessels.size(); ++v)
        if (const int n = s.rawToNode[u(s.vesselBegin[id]) + v]; n >= 0) attachNode(k, n);
    }
    goalUnknowns_.resize(u(goals_));
    for (int g = 0; g < goals_; ++g) {
      const Id id = w.goals[u(g)].element;
      auto& sees = goalUnknowns_[u(g)];
      const bool flowOnly = w.goals[u(g)].outcome->measure == Measure::volumeFlow;
      for (const int i : linksOf(id)) {
        sees.push_back(nodes_ + i);
        if (flowOnly) continue;
        for (const int n : {s.links[u(i)].from, s.links[u(i)].to})
          if (s.isFree(n)) sees.push_back(n);
      }
      for (const KnownBranch& k : s.known)  // closed, or of given flow: the heads beside it
        if (k.of.element == id && !flowOnly)
          for (const int raw : {k.rawFrom, k.rawTo})
            if (const int n = s.rawToNode[u(raw)]; n >= 0 && s.isFree(n)) sees.push_back(n);
      if (s.prepared[id].holdsHead_m)  // what it feeds in its links carry away
        if (const int n = s.rawToNode[u(s.pointRaw[network.at(id).ends[0]])]; n >= 0)
          for (const int i : touching_[u(n)]) sees.push_back(nodes_ + i);
      if (const int raw = s.pointRaw[id]; raw >= 0 && s.rawToNode[u(raw)] >= 0) {
        const int n = s.rawToNode[u(raw)];
        if (s.isFree(n)) sees.push_back(n);
      }
      for (int k = 0; k < fields_; ++k)
        if (w.unknowns[u(k)].element == id) sees.push_back(nodes_ + links_ + k);
    }
    byEquation_.assign(u(nodes_ + links_ + goals_), -1);
    byUnknown_.assign(u(nodes_ + links_ + fields_), -1);
    forest();
  }

  // Finds a place for goal g; false when there is none: then `reached` marks the equations that are too many.
  bool place(int g) {
    reached_.assign(byEquation_.size(), 0);
    std::vector<int> from(byUnknown_.size(), -1), stack{nodes_ + links_ + g};
    reached_[u(stack[0])] = 1;
    while (!stack.empty()) {
      const int equation = stack.back();
      stack.pop_back();
      int end = -1;
      each(equation, [&](int unknown) {
        if (end >= 0 || from[u(unknown)] >= 0) return;
        from[u(unknown)] = equation;
        const int next = byUnknown_[u(unknown)];
        if (next < 0) end = unknown;
        else if (!reached_[u(next)]) reached_[u(next)] = 1, stack.push_back(next);
      });
      while (end >= 0) {  // hand every equation on the way its new unknown
        const int e = from[u(end)], before = byEquation_[u(e)];
        byEquation_[u(e)] = end;
        byUnknown_[u(end)] = e;
        if (before < 0 || e == nodes_ + links_ + g) return true;
        end = before;
      }
    }
    return false;
  }
  [[nodiscard]] bool reachedGoal(int g) const { return reached_[u(nodes_ + links_ + g)]; }
  [[nodiscard]] bool reachedLink(int i) const { return reached_[u(nodes_ + i)]; }
  // Links from the place of goal g to every node; 1000 where none leads.
  [[nodiscard]] std::vector<int> stepsFrom(int g) const {
    std::vector<int> steps(touching_.size(), 1000), queue;
    const auto begin = [&](int n) {
      if (steps[u(n)] != 0) steps[u(n)] = 0, queue.push_back(n);
    };
    for (const int v : goalUnknowns_[u(g)]) {
      if (v < nodes_) begin(v);
      else if (v < nodes_ + links_) begin(s_.links[u(v - nodes_)].from), begin(s_.links[u(v - nodes_)].to);
    }
    for (std::size_t k = 0; k < queue.size(); ++k)
      for (const int i : touching_[u(queue[k])]) {
        const Link& l = s_.links[u(i)];
        const int other = l.from == queue[k] ? l.to : l.from;
        if (steps[u(other)] > steps[u(queue[k])] + 1)
          steps[u(other)] = steps[u(queue[k])] + 1, queue.push_back(other);
      }
    return steps;
  }
  [[nodiscard]] bool reachedBeside(int node) const {
    return std::any_of(touching_[u(node)].begin(), touching_[u(node)].end(),
                       [&](int i) { return reachedLink(i); });
  }
  [[nodiscard]] bool hasPlace(int field) const { return byUnknown_[u(nodes_ + links_ + field)] >= 0; }

  // What could be given to decide field k: heads and flows on the way from it (unknowns that are too many).
  void loose(int k, std::set<int>& heads, std::set<int>& flows, std::set<int>& fields) const {
    std::vector<char> seen(byUnknown_.size(), 0);
    std::vector<int> stack{nodes_ + links_ + k};
    seen[u(stack[0])] = 1;
    while (!stack.empty()) {
      const int unknown = stack.back();
      stack.pop_back();
      if (unknown < nodes_) heads.insert(unknown);
      else if (unknown < nodes_ + links_) flows.insert(unknown - nodes_);
      else fields.insert(unknown - nodes_ - links_);
      if (heads.size() > 400) return;
      eachEquation(unknown, [&](int equation) {
        const int next = byEquation_[u(equation)];
        if (next >= 0 && !seen[u(next)]) seen[u(next)] = 1, stack.push_back(next);
      });
    }
  }

 private:
  std::vector<int> linksOf(Id id) {
    if (byElement_.empty()) {
      byElement_.resize(s_.prepared.size());
      for (int i = 0; i < links_; ++i) byElement_[s_.links[u(i)].of.element].push_back(i);
    }
    return byElement_[id];
  }
  void attach(int field, int link) {
    lawFields_[u(link)].push_back(field);
    equationsOfField_[u(field)].push_back(nodes_ + link);
  }
  // A field that moves a node: its outflow if the node is free, its head if it is fixed.
  void attachNode(int field, int node) {
    if (s_.isFree(node)) {
      balanceFields_[u(node)].push_back(field);
      equationsOfField_[u(field)].push_back(node);
    } else {
      for (const int i : touching_[u(node)]) attach(field, i);
    }
  }
  // The plain network decides itself: along a spanning forest from the fixed heads each law decides a head,
  // each balance a flow; every other law its own flow.
  void forest() {
    std::vector<char> seen(u(s_.nodeCount()), 0), used(u(links_), 0);
    std::vector<int> queue;
    for (int n = s_.freeCount; n < s_.nodeCount(); ++n) seen[u(n)] = 1, queue.push_back(n);
    for (std::size_t k = 0; k < queue.size(); ++k)
      for (const int i : touching_[u(queue[k])]) {
        const Link& l = s_.links[u(i)];
        const int other = l.from == queue[k] ? l.to : l.from;
        if (seen[u(other)]) continue;
        seen[u(other)] = used[u(i)] = 1;
        match(nodes_ + i, other);
        match(other, nodes_ + i);
        queue.push_back(other);
      }
    for (int i = 0; i < links_; ++i)
      if (!used[u(i)]) match(nodes_ + i, nodes_ + i);
  }
  void match(int equation, int unknown) {
    byEquation_[u(equation)] = unknown, byUnknown_[u(unknown)] = equation;
  }
  template <class F>
  void each(int equation, const F& f) const {
    if (equation < nodes_) {
      for (const int i : touching_[u(equation)]) f(nodes_ + i);
      for (const int k : balanceFields_[u(equation)]) f(nodes_ + links_ + k);
    } else if (equation < nodes_ + links_) {
      const Link& l = s_.links[u(equation - nodes_)];
      f(equation);
      for (const int n : {l.from, l.to})
        if (s_.isFree(n)) f(n);
      for (const int k : lawFields_[u(equation - nodes_)]) f(nodes_ + links_ + k);
    } else {
      for (const int v : goalUnknowns_[u(equation - nodes_ - links_)]) f(v);
    }
  }
  template <class F>
  void eachEquation(int unknown, const F& f) const {
    if (unknown < nodes_) {
      for (const int i : touching_[u(unknown)]) f(nodes_ + i);
    } else if (unknown < nodes_ + links_) {
      const Link& l = s_.links[u(unknown - nodes_)];
      f(unknown);
      for (const int n : {l.from, l.to})
        if (s_.isFree(n)) f(n);
    } else {
      for (const int e : equationsOfField_[u(unknown - nodes_ - links_)]) f(e);
    }
    for (int g = 0; g < goals_; ++g)
      if (std::find(goalUnknowns_[u(g)].begin(), goalUnknowns_[u(g)].end(), unknown) !=
          goalUnknowns_[u(g)].end())
        f(nodes_ + links_ + g);
  }

  const System& s_;
  int nodes_, links_, goals_ = 0, fields_ = 0;
  std::vector<std::vector<int>> touching_, lawFields_, balanceFields_, equationsOfField_, goalUnknowns_,
      byElement_;
  std::vector<int> byEquation_, byUnknown_;
  std::vector<char> reached_;
};

}  // namespace

std::vector<Problem> undecided(const Network& network, const System& s, const Wanted& w, std::size_t offers) {
  std::vector<Problem> problems;
  Matching matching(network, s, w);
  std::set<int> said;
  for (int g = 0; g < static_cast<int>(w.goals.size()); ++g) {
    if (said.contains(g) || matching.place(g)) continue;
    Problem p{{network.at(w.goals[u(g)].element).name, std::string(w.goals[u(g)].outcome->key)}, {}, {}};
    std::vector<std::string> names;
    for (int other = 0; other < static_cast<int>(w.goals.size()); ++other)
      if (matching.reachedGoal(other)) {
        said.insert(other);
        names.push_back(nameOf(network, w.goals[u(other)]));
        p.remedies.push_back(dropGoal(network, w.goals[u(other)]));
      }
    // What could be found instead: fields of the equations that are too many, nearest first.
    std::vector<Id> could;
    for (int i = 0; i < static_cast<int>(s.links.size()); ++i)
      if (matching.reachedLink(i)) could.push_back(s.links[u(i)].of.element);
    network.each([&](Id id, const Element& e) {
      if (!s.prepared[id].holdsHead_m || e.part->ends != Ends::one) return;
      if (const int n = s.rawToNode[u(s.pointRaw[e.ends[0]])]; n >= 0 && matching.reachedBeside(n))
        could.push_back(id);
    });
    // What an engineer would turn first: what is made to be turned, near the place; then what is further;
    // sizes of what stands there last.
    const std::vector<int> steps = matching.stepsFrom(g);
    std::vector<std::pair<int, Remedy>> ranked;
    std::sort(could.begin(), could.end());
    could.erase(std::unique(could.begin(), could.end()), could.end());
    for (const Id id : could) {
      const Element& e = network.at(id);
      int away = 1000;
      for (const Id end : e.ends)
        if (const int n = s.rawToNode[u(s.pointRaw[end])]; n >= 0) away = std::min(away, steps[u(n)]);
      for (const Field& f : e.part->fields) {
        if (!f.releasable || f.kind != FieldKind::quantity || !(e.value(f.key) || f.inSight) ||
            e.values.released(f.key) || (f.applies && !f.applies(e.values)))
          continue;
        ranked.emplace_back(away + (f.adjusts            ? 0
                                    : f.key == key::bore ? 12
                                                         : 30),
                            Remedy{fmt::format("Solve for the {} of {}", spoken(f.key), e.name),
                                   {{e.name, "found " + std::string(f.key), "yes"}},
                                   {e.name, std::string(f.key)}});
      }
    }
    std::stable_sort(ranked.begin(), ranked.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<Remedy> found;
    for (std::size_t k = 0; k < ranked.size() && k < offers; ++k)
      found.push_back(std::move(ranked[k].second));
    p.remedies.insert(p.remedies.begin(), found.begin(), found.end());
    p.what = names.size() == 1
                 ? fmt::format("{} is given, but nothing that affects it is free to be solved for", names[0])
                 : fmt::format("overdetermined: {} are given; clear one of them or solve for another value",
                               joined(names, " and "));
    problems.push_back(std::move(p));
  }
  // Too much here and too little there: a remedy fixes both.
  for (Problem& problem : problems)
    for (Remedy& r : problem.remedies)
      for (int k = 0; k < static_cast<int>(w.unknowns.size()) && !r.edits.empty(); ++k)
        if (!matching.hasPlace(k)) {
          const Remedy again = giveAgain(network, w.unknowns[u(k)]);
          r.words += fmt::format(", and restore the given {} of {}", spoken(w.unknowns[u(k)].field->key),
                                 network.at(w.unknowns[u(k)].element).name);
          r.edits.insert(r.edits.end(), again.edits.begin(), again.edits.end());
        }
  if (!problems.empty()) return problems;
  std::vector<std::string> idle;
  std::set<int> heads, flows, fields;
  Problem p;
  for (int k = 0; k < static_cast<int>(w.unknowns.size()); ++k)
    if (!matching.hasPlace(k)) matching.loose(k, heads, flows, fields);
  for (const int k : fields) {
    if (idle.empty())
      p.place = {network.at(w.unknowns[u(k)].element).name, std::string(w.unknowns[u(k)].field->key)};
    idle.push_back(nameOf(network, w.unknowns[u(k)]));
    p.remedies.push_back(giveAgain(network, w.unknowns[u(k)]));
  }
  if (idle.empty()) return problems;
  std::vector<std::string> could;
  const auto offer = [&](Id id, std::string_view outcome) {
    const Element& e = network.at(id);
    std::string words = fmt::format("the {} of {}", spoken(outcome), e.name);
    if (could.size() >= 4 || !findOutcome(*e.part, outcome) || e.values.goal(outcome) ||
        std::find(could.begin(), could.end(), words) != could.end())
      return;
    could.push_back(std::move(words));
    p.remedies.push_back(
        {fmt::format("Set the {} of {}", spoken(outcome), e.name), {}, {e.name, std::string(outcome)}});
  };
  for (const int k : fields)
    offer(w.unknowns[u(k)].element,
          network.at(w.unknowns[u(k)].element).part->ends == Ends::self ? key::pressure : key::flow);
  for (std::size_t r = 0; r < s.rawOwner.size() && could.size() < 4; ++r)
    if (const int n = s.rawToNode[r]; n >= 0 && heads.contains(n)) offer(s.rawOwner[r], key::pressure);
  for (const int i : flows) offer(s.links[u(i)].of.element, key::flow);
  p.what =
      fmt::format("{} {} to be solved for, but the given values do not determine {}{}", joined(idle, " and "),
                  idle.size() == 1 ? "is" : "are", idle.size() == 1 ? "it" : "them",
                  could.empty() ? "" : fmt::format(": set {}", joined(could, " or ")));
  problems.push_back(std::move(p));
  return problems;
}

}  // namespace conduit

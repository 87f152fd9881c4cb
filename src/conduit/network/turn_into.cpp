#include "network/turn_into.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "fields/keys.h"
#include "network/names.h"
#include "parts/registry.h"
#include "say/words.h"

namespace conduit {
namespace {

std::string joined(const std::vector<std::string>& words) {
  std::string out;
  for (const std::string& w : words) out += (out.empty() ? "" : ", ") + w;
  return out;
}

bool ofPattern(const Network& network, const Element& e) {
  const NamePattern pattern = patternFor(network, *e.part);
  if (!e.name.starts_with(pattern.stem) || e.name.size() == pattern.stem.size()) return false;
  return std::all_of(e.name.begin() + static_cast<std::ptrdiff_t>(pattern.stem.size()), e.name.end(),
                     [](char c) { return c >= '0' && c <= '9'; });
}

bool atOnePlace(Ends ends) { return ends == Ends::one || ends == Ends::many; }

// Points where exactly two things meet lie between them.
std::vector<Id> meeting(const Network& network, Id point) {
  std::vector<Id> met = network.elementsAt(point);
  std::erase_if(met, [&](Id id) { return network.at(id).part->group == Group::drawing; });
  return met;
}

void compare(const Part& before, const Values& old, const Part& after, const Values& now, Turned& turned) {
  for (const Field& f : before.fields)
    if (old.find(f.key) && !now.find(f.key)) turned.gone.emplace_back(f.key);
  for (const Field& f : after.fields) {
    if (now.find(f.key)) turned.kept.emplace_back(f.key);
    else if (f.needed && (!f.applies || f.applies(now))) turned.wanted.emplace_back(f.key);
  }
}

// The values that both kinds have, into the element that takes the place of `old`.
void carryOver(Draft& draft, const Element& old, Id made) {
  const Part& part = *draft.network().at(made).part;
  for (const Values::Entry& entry : old.values.entries()) {
    const Field *before = findField(*old.part, entry.key), *after = findField(part, entry.key);
    if (before && after && before->kind == after->kind && before->measure == after->measure &&
        !entry.released)
      draft.values(made).set(after->key, entry.value, entry.assumed);
  }
}

Id turnOne(Draft& draft, Id id, const Part& part, Turned& turned) {
  const Element old = draft.network().at(id);
  const bool rename = ofPattern(draft.network(), old);
  Id made = id;
  if (old.part->ends == part.ends || (atOnePlace(old.part->ends) && atOnePlace(part.ends))) {
    draft.become(id, part);
    if (old.part->ends == Ends::one && part.ends == Ends::many) {
      const Spot at = draft.network().at(old.ends[0]).at;
      draft.move(id, {at.x, at.y});
    }
    if (rename) draft.rename(id, draft.network().freeName(part));
  } else if (old.part->ends == Ends::self && atOnePlace(part.ends)) {
    made = draft.add(part, "", {id}, old.at);
    for (const std::string_view key : {key::outflow, key::inflow})  // what stands there now says what flows
      if (const Field* f = findField(*old.part, key)) draft.values(id).clear(f->key);
  } else if (old.part->ends == Ends::self) {  // between the two that meet here
    const std::vector<Id> two = meeting(draft.network(), id);
    const Element after = draft.network().at(two[1]);
    const Id second = draft.addPoint("", old.at);
    if (const Value* z = old.value(key::height))
      draft.values(second).set(findField(*old.part, key::height)->key, *z);
    for (std::size_t i = 0; i < after.ends.size(); ++i)
      if (after.ends[i] == id) draft.joinEnd(two[1], i, second);
    // A little room for the symbol, towards what follows.
    for (const Id end : after.ends)
      if (end != id) {
        const Spot to = draft.network().at(end).at;
        draft.move(second, {old.at.x + (to.x - old.at.x) * 0.15, old.at.y + (to.y - old.at.y) * 0.15});
      }
    const bool away = after.ends[0] == id || draft.network().at(two[0]).ends.back() == id;
    made = draft.add(part, "", away ? std::vector<Id>{id, second} : std::vector<Id>{second, id});
  } else if (part.ends == Ends::self && old.part->ends == Ends::two) {  // the ends become one point
    const Id keep = old.ends[0], gone = old.ends[1];
    draft.remove(id);
    for (const Id joined : draft.network().elementsAt(gone))
      for (std::size_t i = 0; i < draft.network().at(joined).ends.size(); ++i)
        if (draft.network().at(joined).ends[i] == gone) draft.joinEnd(joined, i, keep);
    carryOver(draft, draft.network().at(gone), keep);
    draft.remove(gone);
    made = keep;
  } else {  // a supply or draw-off goes, its point stays
    made = old.ends[0];
    draft.remove(id);
  }
  const Element& now = draft.network().at(made);
  turned = {made, old.name, now.name, {}, {}, {}};
  compare(*old.part, old.values, part, now.values, turned);
  return made;
}

}  // namespace

std::string TurnedAll::words() const {
  auto of = [](const Turned& t) {
    std::string words = t.was == t.name ? t.name : fmt::format("{} (was {})", t.name, t.was);
    words += t.kept.empty() ? "" : ": keeps " + joined(t.kept);
    if (!t.gone.empty()) words += (t.kept.empty() ? ": loses " : "; loses ") + joined(t.gone);
    if (!t.wanted.empty())
      words += (t.kept.empty() && t.gone.empty() ? ": needs " : "; needs ") + joined(t.wanted);
    return words;
  };
  if (each.size() == 1) return of(each.front());
  std::set<std::string> gone, wanted;
  std::size_t lacking = 0;
  for (const Turned& t : each) {
    gone.insert(t.gone.begin(), t.gone.end());
    wanted.insert(t.wanted.begin(), t.wanted.end());
    lacking += !t.wanted.empty();
  }
  std::string words = fmt::format("{} changed", each.size());
  if (!gone.empty()) words += "; loses " + joined({gone.begin(), gone.end()});
  if (lacking) words += fmt::format("; {} now need {}", lacking, joined({wanted.begin(), wanted.end()}));
  return words;
}

std::string turnFault(const Network& network, Id id, const Part& part) {
  const Element* e = network.find(id);
  if (!e || id == jobId || part.ends == Ends::none) return "the job cannot be changed to another kind";
  const Ends from = e->part->ends, to = part.ends;
  if (e->part == &part) return fmt::format("{} is already a {}", e->name, spoken(part.key));
  if (from == Ends::free || to == Ends::free || part.group == Group::drawing ||
      e->part->group == Group::drawing)
    return fmt::format("{} cannot be changed to or from a drawing note", e->name);
  if (from == Ends::many && e->ends.size() > 1 && to != Ends::many)
    return fmt::format("{} has {} connections; a {} has one. Remove the others first", e->name,
                       e->ends.size(), spoken(part.key));
  if (from == Ends::many && e->ends.empty() && to != Ends::many)
    return fmt::format("{} is not connected yet", e->name);
  if (from == to || (atOnePlace(from) && atOnePlace(to)) || (from == Ends::self && atOnePlace(to)) ||
      (atOnePlace(from) && to == Ends::self))
    return {};
  if (from == Ends::self && to == Ends::two) {
    const std::vector<Id> met = meeting(network, id);
    if (met.size() != 2 || network.at(met[0]).part->ends != Ends::two ||
        network.at(met[1]).part->ends != Ends::two)
      return fmt::format("{} is not between two lines: {} must be in a line", e->name, spokenOne(part.key));
    return {};
  }
  if (from == Ends::two && to == Ends::self) {
    const Id a = e->ends[0], b = e->ends[1];
    for (const Id joined : network.elementsAt(b)) {
      const auto& ends = network.at(joined).ends;
      if (joined != id && std::find(ends.begin(), ends.end(), a) != ends.end())
        return fmt::format("{} is in parallel with {}: its ends cannot merge", e->name,
                           network.at(joined).name);
    }
    return {};
  }
  return fmt::format("{} connects two points; a {} connects to one",
                     from == Ends::two ? e->name : std::string(part.key),
                     from == Ends::two ? std::string(part.key) : e->name);
}

Result<TurnedAll> turnInto(const Network& network, std::span<const Id> ids, const Part& part) {
  Draft draft(network);
  TurnedAll all;
  std::set<Id> done;
  for (const Id id : ids) {
    if (!draft.network().find(id) || draft.network().at(id).part == &part || !done.insert(id).second)
      continue;
    if (const std::string fault = turnFault(draft.network(), id, part); !fault.empty())
      return Refused(Problem{{network.at(id).name, ""}, fault, {}});
    Turned turned;
    done.insert(turnOne(draft, id, part, turned));
    all.each.push_back(std::move(turned));
  }
  if (all.each.empty())
    return Refused(
        Problem{{}, fmt::format("nothing selected can be changed to {}", spokenOne(part.key)), {}});
  all.edited.name = all.each.size() == 1
                        ? fmt::format("Change {} to {}", all.each.front().was, spokenOne(part.key))
                        : fmt::format("Change {} elements to {}", all.each.size(), part.plural);
  all.edited.network = std::move(draft).finish();
  all.edited.made = all.each.size() == 1 ? all.each.front().id : noId;
  return all;
}

}  // namespace conduit

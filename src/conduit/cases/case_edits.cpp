#include "cases/case_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "fields/entry.h"
#include "model/costs.h"
#include "model/pump_request.h"
#include "model/sizing_setup.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "parts/registry.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

Refused noSuchCase() { return refused("this case no longer exists"); }

bool ofAllCases(const Part& part, std::string_view key) {
  const Field* f = findField(part, key);
  return part.group == Group::drawing || (f && f->ofDrawing);
}

// One field or one given outcome of an element.
struct Spotted {
  Id element;
  std::string_view key;
  bool outcome;
  auto operator<=>(const Spotted&) const = default;
};
std::vector<Spotted> touchedBy(const Network& before, const Network& after) {
  std::vector<Spotted> all;
  const Overlay overlay = differences(before, after);
  for (const Difference& d : overlay.all()) all.push_back({d.element, d.key, d.ofOutcome()});
  return all;
}

// The field as it stands in `from`, with its marks.
void copy(Values& into, const Values& from, const Spotted& s) {
  if (s.outcome) {
    if (const Given* g = from.goal(s.key)) into.give(s.key, *g);
    else into.ungive(s.key);
    return;
  }
  into.clear(s.key);
  const Values::Entry* e = from.entry(s.key);
  if (!e) return;
  into.set(e->key, e->value, e->assumed);
  if (e->released) into.release(e->key);
}

// What `to` says of it, as a difference from `from`; none where both say the same.
std::optional<Difference> differenceOf(const Network& from, const Network& to, const Spotted& s) {
  const Element *a = from.find(s.element), *b = to.find(s.element);
  if (!a || !b || a->part != b->part) return std::nullopt;
  if (s.outcome) {
    const Given *was = a->values.goal(s.key), *is = b->values.goal(s.key);
    if (is && was && *is == *was) return std::nullopt;
    if (is) return Difference{s.element, s.key, Difference::To::goal, *is};
    if (was) return Difference{s.element, s.key, Difference::To::noGoal};
    return std::nullopt;
  }
  const Values::Entry *was = a->values.entry(s.key), *is = b->values.entry(s.key);
  if (was && is && was->value == is->value && was->released == is->released) return std::nullopt;
  if (is && is->released) return Difference{s.element, s.key, Difference::To::found, is->value};
  if (is) return Difference{s.element, s.key, Difference::To::value, is->value};
  if (was) return Difference{s.element, s.key, Difference::To::none};
  return std::nullopt;
}

// The case's own differences so that, of what is named, it has what `wanted` has.
void settle(Case& c, const Network& parent, const Network& wanted, const std::vector<Spotted>& what) {
  for (const Spotted& s : what) {
    if (auto d = differenceOf(parent, wanted, s)) c.differs.put(std::move(*d));
    else c.differs.inherit(s.element, s.key, s.outcome);
  }
}

// Names in overlays follow those of the network; what speaks of elements that are gone, or of fields that
// their new kind does not have, goes too. Likewise what studies keep.
void follow(const Network& before, Model& model) {
  const Followed what = followed(before, model.drawn);
  if (!what.any()) return;
  model.setups.follow(what);
  const Network& after = model.drawn;
  CaseSet& cases = model.cases;
  for (Case& c : cases.others) {
    Overlay next;
    for (Difference d : c.differs.all()) {
      const Element* e = after.find(d.element);
      if (!e) continue;
      const Field* field = d.ofOutcome() ? nullptr : findField(*e->part, d.key);
      if (what.isGone(d.element)) {
        // Another kind now: a field of the same key and measure means the same.
        const Part& was = *before.at(d.element).part;
        const Field* old = d.ofOutcome() ? nullptr : findField(was, d.key);
        if (!field || !old || field->kind != old->kind || field->measure != old->measure) continue;
        d.key = field->key;
      }
      if (auto* text = std::get_if<std::string>(&d.value); text && field && !field->names.empty())
        if (const auto to = what.renamed.find({field->names, *text}); to != what.renamed.end())
          *text = to->second;
      next.put(std::move(d));
    }
    if (!(next == c.differs)) c.differs = std::move(next);
  }
}

std::string nameFaultOf(const Model& model, std::string_view name, CaseId except) {
  if (const std::string why = nameFault(name); !why.empty())
    return fmt::format("\"{}\" is not a valid case name: {}", name.substr(0, 60), why);
  const Case* there = model.cases.byName(name);
  return there && there->id != except ? fmt::format("case \"{}\" already exists", there->name)
                                      : std::string();
}

CaseId freeId(const CaseSet& cases) {
  CaseId next = 1;
  for (const Case& c : cases.others) next = std::max(next, c.id + 1);
  return next;
}

const Field* aboutField(std::span<const Field> fields, std::string_view key) {
  const auto at = std::find_if(fields.begin(), fields.end(), [&](const Field& f) { return f.key == key; });
  return at == fields.end() ? nullptr : &*at;
}

Result<bool> putInto(Values& values, const Field& field, std::string_view text, const UnitSet* units) {
  if (trimmed(text, " \t").empty()) return values.clear(field.key), true;
  auto value = readField(field, text, nullptr, units);
  if (!value) return Refused(value.error());
  values.set(field.key, std::move(*value));
  return true;
}

std::string shortened(std::string_view text) { return std::string(text.substr(0, 40)); }

}  // namespace

Network networkOf(const Model& model, CaseId id) {
  if (id == drawingCase || !model.cases.find(id)) return model.drawn;
  const Overlay whole = model.cases.whole(id);
  return whole.empty() ? model.drawn : derive(model.drawn, whole);
}

bool isStructural(const Network& before, const Network& edited) {
  if (before.bound() != edited.bound()) return true;
  bool structural = false;
  edited.eachApart(before, [&](Id id) {
    const Element *a = before.find(id), *b = edited.find(id);
    if (!a && !b) return;
    structural = structural || !a || !b || a->part != b->part || a->name != b->name || a->ends != b->ends ||
                 !(a->at == b->at);
  });
  return structural;
}

Model withEdit(const Model& model, CaseId id, const Network& edited) {
  Model next = model;
  const Case* which = model.cases.find(id);
  if (!which || id == drawingCase) {
    next.drawn = edited;
    follow(model.drawn, next);
    return next;
  }
  const Network before = networkOf(model, id);
  const std::vector<Spotted> touched = touchedBy(before, edited);
  const bool forAll = isStructural(before, edited);
  // The drawing: as edited, but with its own fields wherever the edit did not mean all cases.
  std::vector<Spotted> stay = touchedBy(before, model.drawn);
  std::set<Spotted> own;
  const auto meansAll = [&](const Spotted& s) {
    return forAll || ofAllCases(*edited.at(s.element).part, s.key);
  };
  for (const Spotted& s : touched) {
    if (meansAll(s)) own.insert(s);
    else stay.push_back(s);
  }
  Draft draft(edited);
  for (const Spotted& s : stay) {
    const Element *is = draft.network().find(s.element), *was = model.drawn.find(s.element);
    if (is && was && is->part == was->part && !own.contains(s)) copy(draft.values(s.element), was->values, s);
  }
  next.drawn = std::move(draft).finish();
  follow(model.drawn, next);
  if (Case* c = next.cases.find(id)) settle(*c, networkOf(next, c->parent), edited, touched);
  return next;
}

Result<EditedModel> addCase(const Model& model, std::string_view typed, CaseId parent) {
  const Case* from = model.cases.find(parent);
  if (!from) return noSuchCase();
  std::string name(trimmed(typed, " \t"));
  for (std::size_t n = model.cases.count() + 1; name.empty(); ++n)
    if (const std::string free = fmt::format("Case {}", n); !model.cases.byName(free)) name = free;
  if (const std::string why = nameFaultOf(model, name, noCase); !why.empty()) return refused(why);
  EditedModel edited{fmt::format("Add case {}", name), model, freeId(model.cases)};
  edited.model.cases.others.push_back({.id = edited.made, .name = name, .parent = parent});
  return edited;
}

Result<EditedModel> copyCase(const Model& model, CaseId like) {
  const Case* from = model.cases.find(like);
  if (!from) return noSuchCase();
  std::string name;
  for (int n = 2; name.empty(); ++n)
    if (const std::string free = fmt::format("{} {}", from->name, n); !model.cases.byName(free)) name = free;
  EditedModel edited{fmt::format("Add case {} like {}", name, from->name), model, freeId(model.cases)};
  Case made = *from;
  made.id = edited.made, made.name = name, made.extra.clear();
  const auto at = std::find_if(edited.model.cases.others.begin(), edited.model.cases.others.end(),
                               [&](const Case& c) { return c.id == like; });
  edited.model.cases.others.insert(at == edited.model.cases.others.end() ? at : at + 1, std::move(made));
  return edited;
}

Result<EditedModel> removeCase(const Model& model, CaseId id) {
  const Case* gone = model.cases.find(id);
  if (!gone) return noSuchCase();
  if (id == drawingCase) return refused("the base case cannot be removed");
  EditedModel edited{fmt::format("Remove case {}", gone->name), model};
  for (Case& c : edited.model.cases.others)
    if (c.parent == id) c.parent = gone->parent, c.differs = laidOver(gone->differs, c.differs);
  std::erase_if(edited.model.cases.others, [&](const Case& c) { return c.id == id; });
  return edited;
}

Result<EditedModel> renameCase(const Model& model, CaseId id, std::string_view typed) {
  const Case* which = model.cases.find(id);
  if (!which) return noSuchCase();
  const std::string name(trimmed(typed, " \t"));
  if (const std::string why = nameFaultOf(model, name, id); !why.empty()) return refused(why);
  EditedModel edited{fmt::format("Rename case {} to {}", which->name, name), model};
  edited.model.cases.find(id)->name = name;
  return edited;
}

Result<EditedModel> setParent(const Model& model, CaseId id, CaseId parent) {
  const Case *which = model.cases.find(id), *above = model.cases.find(parent);
  if (!which || !above) return noSuchCase();
  if (id == drawingCase) return refused("the base case has no parent");
  if (parent != drawingCase && model.cases.derives(parent, id))
    return refused(fmt::format("{} is itself based on {}", above->name, which->name));
  EditedModel edited{fmt::format("Base {} on {}", which->name, above->name), model};
  edited.model.cases.find(id)->parent = parent;
  return edited;
}

Result<EditedModel> setAbout(const Model& model, CaseId id, std::string_view key, std::string_view text,
                             const UnitSet* units) {
  const Case* which = model.cases.find(id);
  if (!which) return noSuchCase();
  const Field* field = aboutField(caseFields(), key);
  if (!field) return refused(fmt::format("a case has no field \"{}\"", key));
  EditedModel edited{fmt::format("Set {} of {} to {}", spoken(key), which->name, shortened(text)), model};
  Values& values =
      id == drawingCase && key == cases::hours ? edited.model.costs : edited.model.cases.find(id)->about;
  if (const auto put = putInto(values, *field, text, units); !put)
    return refused(fmt::format("{}: {}", spoken(field->key), put.error().what));
  return edited;
}

Result<EditedModel> setCost(const Model& model, std::string_view key, std::string_view text,
                            const UnitSet* units) {
  const Field* field = aboutField(costFields(), key);
  if (!field) return refused(fmt::format("there is no cost \"{}\"", key));
  EditedModel edited{fmt::format("Set {} to {}", spoken(key), shortened(text)), model};
  if (const auto put = putInto(edited.model.costs, *field, text, units); !put)
    return refused(fmt::format("{}: {}", spoken(field->key), put.error().what));
  return edited;
}

Result<EditedModel> setAsked(const Model& model, Id at, std::string_view key, std::string_view text,
                             const UnitSet* units) {
  const Field* field = aboutField(pumpRequestFields(), key);
  if (!field || !model.drawn.find(at))
    return refused(fmt::format("pump requirements have no field \"{}\"", key));
  EditedModel edited{
      fmt::format("Require {} {} at {}", shortened(text), spoken(key), model.drawn.at(at).name), model};
  PumpRequests requests = model.of<PumpRequests>();
  auto& all = requests.all;
  auto request = std::find_if(all.begin(), all.end(), [&](const PumpRequest& r) { return r.at == at; });
  if (request == all.end()) request = all.insert(all.end(), {.at = at});
  if (const auto put = putInto(request->about, *field, text, units); !put)
    return refused(fmt::format("{}: {}", spoken(field->key), put.error().what));
  if (request->about.entries().empty() && request->extra.empty()) all.erase(request);
  edited.model.setups.set(std::move(requests));
  return edited;
}

Result<EditedModel> setSizing(const Model& model, std::string_view key, std::string_view text,
                              const UnitSet* units) {
  const Field* field = aboutField(sizingFields(), key);
  if (!field) return refused(fmt::format("the sizing set-up has no field \"{}\"", key));
  SizingSetup setup = model.of<SizingSetup>();
  if (const auto put = putInto(setup.about, *field, text, units); !put)
    return refused(fmt::format("{}: {}", spoken(field->key), put.error().what));
  return withSizing(model, fmt::format("Set sizing {} to {}", spoken(key), shortened(text)),
                    std::move(setup));
}

EditedModel withSizing(const Model& model, std::string name, SizingSetup setup) {
  EditedModel edited{std::move(name), model};
  edited.model.setups.set(std::move(setup));
  return edited;
}

Result<EditedModel> moveCase(const Model& model, CaseId id, std::size_t to) {
  const Case* which = model.cases.find(id);
  if (!which || id == drawingCase) return noSuchCase();
  EditedModel edited{fmt::format("Move case {}", which->name), model};
  auto& list = edited.model.cases.others;
  const auto at = std::find_if(list.begin(), list.end(), [&](const Case& c) { return c.id == id; });
  Case moved = std::move(*at);
  list.erase(at);
  list.insert(list.begin() + static_cast<std::ptrdiff_t>(std::min(to, list.size())), std::move(moved));
  return edited;
}

Result<EditedModel> inherit(const Model& model, CaseId id, std::span<const Id> elements, std::string_view key,
                            bool outcome) {
  const Case* which = model.cases.find(id);
  if (!which) return noSuchCase();
  EditedModel edited{{}, model};
  Case& c = *edited.model.cases.find(id);
  std::size_t done = 0;
  for (const Id e : elements) done += c.differs.inherit(e, key, outcome) ? 1 : 0;
  if (done == 0) return refused(fmt::format("{} does not differ there", which->name));
  const Element* first = model.drawn.find(elements.front());
  edited.name = fmt::format("Reset {} of {} in {}", spoken(key),
                            elements.size() > 1 ? fmt::format("{} elements", elements.size())
                            : first             ? first->name
                                                : std::string(),
                            which->name);
  return edited;
}

Result<EditedModel> giveToAll(const Model& model, CaseId id, Id element, std::string_view key, bool outcome) {
  const Case* which = model.cases.find(id);
  const Element* e = model.drawn.find(element);
  if (!which || !e) return noSuchCase();
  const Network mine = networkOf(model, id);
  EditedModel edited{{}, model};
  Draft draft(model.drawn);
  std::size_t done = 0;
  const Overlay whole = model.cases.whole(id);
  for (const Difference& d : whole.all()) {
    if (d.element != element || (!key.empty() && (d.key != key || d.ofOutcome() != outcome))) continue;
    const Spotted s{element, d.key, d.ofOutcome()};
    copy(draft.values(element), mine.at(element).values, s);
    for (Case& c : edited.model.cases.others)
      if (model.cases.derives(id, c.id)) c.differs.inherit(element, d.key, d.ofOutcome());
    ++done;
  }
  if (done == 0) return refused(fmt::format("{} does not differ in {}", e->name, which->name));
  edited.model.drawn = std::move(draft).finish();
  edited.name = key.empty()
                    ? fmt::format("Copy {} from {} to all cases", e->name, which->name)
                    : fmt::format("Copy {} of {} from {} to all cases", spoken(key), e->name, which->name);
  return edited;
}

Result<EditedModel> makeDrawing(const Model& model, CaseId id) {
  const Case* which = model.cases.find(id);
  if (!which) return noSuchCase();
  if (id == drawingCase) return refused("this is the base case");
  EditedModel edited{fmt::format("Copy the values of {} to the base case", which->name), model};
  edited.model.drawn = networkOf(model, id);
  const std::vector<Spotted> moved = touchedBy(model.drawn, edited.model.drawn);
  // Parents first, whatever the order in which they stand.
  std::vector<CaseId> order;
  for (const Case& c : model.cases.others)
    for (const Case* up : model.cases.chain(c.id))
      if (std::find(order.begin(), order.end(), up->id) == order.end()) order.push_back(up->id);
  for (const CaseId each : order) {
    Case& c = *edited.model.cases.find(each);
    settle(c, networkOf(edited.model, c.parent), networkOf(model, each), moved);
  }
  return edited;
}

Result<EditedModel> setSweep(const Model& model, SweepSetup sweep) {
  EditedModel edited{"Set up the sweep", model};
  edited.model.setups.set(std::move(sweep));
  return edited;
}

Result<EditedModel> watch(const Model& model, Watched watched) {
  WatchedResults results = model.of<WatchedResults>();
  if (std::find(results.all.begin(), results.all.end(), watched) != results.all.end())
    return refused("already watched");
  EditedModel edited{fmt::format("Watch {}", spoken(watched.outcome)), model};
  results.all.push_back(std::move(watched));
  edited.model.setups.set(std::move(results));
  return edited;
}

Result<EditedModel> unwatch(const Model& model, std::size_t which) {
  WatchedResults results = model.of<WatchedResults>();
  if (which >= results.all.size()) return refused("no longer watched");
  EditedModel edited{fmt::format("Stop watching {}", spoken(results.all[which].outcome)), model};
  results.all.erase(results.all.begin() + static_cast<std::ptrdiff_t>(which));
  edited.model.setups.set(std::move(results));
  return edited;
}

}  // namespace conduit

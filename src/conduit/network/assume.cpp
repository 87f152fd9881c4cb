#include "network/assume.h"

#include <fmt/format.h>

#include <algorithm>

#include "fields/entry.h"
#include "fields/keys.h"
#include "network/arrange.h"
#include "network/onward.h"
#include "network/put.h"
#include "network/setting.h"
#include "parts/registry.h"
#include "say/words.h"
#include "stock/said.h"

namespace conduit {
namespace {

constexpr std::string_view usualSize = "ASME B36.10M 4 40", usualBore = "102.3 mm";

void fill(Draft& draft, Id id, std::string_view key, const std::string& text, bool assumed,
          const Stock& stock) {
  const Field* field = findField(*draft.network().at(id).part, key);
  if (!field) return;
  if (auto value = readField(*field, text, &stock, nullptr))
    draft.values(id).set(field->key, std::move(*value), assumed);
}

// Bore, wall, length: whatever of them is neither given nor asked for.
void fillPipe(Draft& draft, Id id, const PipeInHand& hand, const Stock& stock) {
  const Values& values = draft.network().at(id).values;
  const auto said = [&](std::string_view key) { return values.entry(key) != nullptr; };
  const auto* section = values.get<std::string>(key::section);
  if (!said(key::bore) && !said(key::size) && (!section || *section == "round"))
    fill(draft, id, hand.entry ? key::size : key::bore, hand.size, hand.sizeAssumed, stock);
  const Values& now = draft.network().at(id).values;
  if (!now.entry(hand.wallField)) fill(draft, id, hand.wallField, hand.wall, hand.wallAssumed, stock);
  if (!hand.service.empty() && !draft.network().at(id).values.entry(key::service))
    fill(draft, id, key::service, hand.service, false, stock);
  const Values& last = draft.network().at(id).values;
  if (!last.entry(key::length) && !last.entry(key::takeOff))
    fill(draft, id, key::length,
         metresGiven(std::max(0.01, drawnLength_m(draft.network(), draft.network().at(id)))).typed, true,
         stock);
}

bool meetsPipe(const Network& n, const Element& device) {
  for (const Id end : device.ends)
    for (const Id id : n.elementsAt(end))
      if (n.at(id).part->geometry) return true;
  return false;
}

// A device that no pipe meets has the bore of the line in hand, until one does.
void fillSeat(Draft& draft, Id id, const PipeInHand& hand, const Setting& setting, const Stock& stock) {
  const Element& e = draft.network().at(id);
  const Field* bore = findField(*e.part, key::bore);
  if (!isDevice(*e.part) || !bore || e.values.entry(key::bore) || meetsPipe(draft.network(), e)) return;
  // Only where it cannot do without: a control valve without a bore has no reducers.
  Values scratch;
  const Prepared trial = e.part->prepare(
      valuesOf(e, &stock, scratch), setting,
      endPlaces(draft.network(), e, setting, std::vector<double>(draft.network().bound(), 0.0)));
  if (std::none_of(trial.missing.begin(), trial.missing.end(),
                   [](const MissingField& m) { return m.field == key::bore; }))
    return;
  fill(draft, id, key::bore, hand.entry ? fmt::format("{:.4g} mm", hand.entry->bore_m * 1000) : hand.size,
       true, stock);
}

// A pipe that comes to such a device says the bore from then on.
void releaseSeats(Draft& draft, Id pipe) {
  const std::vector<Id> ends = draft.network().at(pipe).ends;
  for (const Id end : ends)
    for (const Id id : draft.network().elementsAt(end)) {
      const Element& e = draft.network().at(id);
      const Field* bore = findField(*e.part, key::bore);
      // A plate's bore is its own and no seat's: it has a value to be assumed of its own.
      if (isDevice(*e.part) && bore && bore->assumed.empty() && e.values.assumed(bore->key))
        draft.values(id).clear(bore->key);
    }
}

}  // namespace

std::string_view wallFieldOf(const Element& job) {
  const auto* law = job.text(key::frictionLaw);
  return law && *law == "Hazen-Williams" ? key::hazenC
         : law && *law == "Manning"      ? key::manningN
                                         : key::roughness;
}

std::string usualWall(std::string_view field, std::string_view material, const Stock& stock) {
  if (field == key::manningN) return fmt::format("{}", manningOf(material));
  if (field == key::hazenC) {
    const CoefficientEntry* entry = coefficientOf(material, stock);
    return fmt::format("{}", entry ? entry->typical : 130.0);
  }
  const RoughnessEntry* entry = wallOf(material, stock);
  return fmt::format("{:.4g} mm", (entry ? entry->typical_m : 0.0457e-3) * 1000);
}

PipeInHand pipeInHand(const Network& network, const Stock& stock) {
  PipeInHand hand;
  const Element& job = network.job();
  hand.wallField = wallFieldOf(job);
  const auto* size = job.text("size of new lines");
  hand.sizeAssumed = !size || size->empty();
  hand.size = hand.sizeAssumed ? std::string(stock.pipe(usualSize) ? usualSize : usualBore) : *size;
  hand.entry = stock.pipe(hand.size);
  const auto* wall = job.text("wall of new lines");
  hand.wallAssumed = !wall || wall->empty();
  hand.wall = hand.wallAssumed
                  ? usualWall(hand.wallField,
                              hand.entry ? std::string_view(hand.entry->material) : "carbon steel", stock)
                  : *wall;
  if (const auto* service = job.text("service of new lines"))
    if (network.byName(*service) != noId) hand.service = *service;
  const Given* height = job.given("height of new points");
  hand.heightAssumed = !height;
  hand.height = height ? height->typed : "0 m";
  return hand;
}

Edited withAssumed(const Network& before, Edited edited, const Stock& stock) {
  const Id first = before.bound(), end = edited.network.bound();
  if (first >= end) return edited;
  const PipeInHand hand = pipeInHand(edited.network, stock);
  Draft draft(std::move(edited.network));
  for (const bool lines : {false, true})  // a line's drawn length goes by the heights of its ends
    for (Id id = first; id < end; ++id) {
      const Element* e = draft.network().find(id);
      if (!e || (e->part->geometry != nullptr) != lines) continue;
      if (lines) {
        fillPipe(draft, id, hand, stock);
        releaseSeats(draft, id);
        continue;
      }
      for (const Field& field : e->part->fields) {
        const Values& values = draft.network().at(id).values;
        if (field.assumed.empty() || values.entry(field.key) || (field.applies && !field.applies(values)))
          continue;
        const bool height = field.measure == Measure::height && field.kind == FieldKind::quantity;
        fill(draft, id, field.key, height ? hand.height : std::string(field.assumed),
             height ? hand.heightAssumed : true, stock);
      }
    }
  if (const auto setting = settingOf(draft.network(), &stock))
    for (Id id = first; id < end; ++id)
      if (draft.network().find(id)) fillSeat(draft, id, hand, *setting, stock);
  edited.network = std::move(draft).finish();
  return edited;
}

bool boresDiffer(const Network& network, Id point) {
  const std::vector<Id> joined = waterAt(network, point);
  if (joined.size() != 2) return false;
  const Element &a = network.at(joined[0]), &b = network.at(joined[1]);
  if (!a.part->geometry || !b.part->geometry) return false;
  const auto same = [&](std::string_view key) {
    const Values::Entry *x = a.values.entry(key), *y = b.values.entry(key);
    return x && y ? !x->released && !y->released && x->value == y->value : !x && !y;
  };
  return !std::all_of(a.part->fields.begin(), a.part->fields.end(),
                      [&](const Field& f) { return !f.feltBeside || same(f.key); });
}

std::vector<std::string_view> assumedAt(const Network& network, Id id) {
  std::vector<std::string_view> keys;
  const Element& e = network.at(id);
  const auto& entries = e.values.entries();
  if (std::none_of(entries.begin(), entries.end(), [](const auto& entry) { return entry.assumed; }))
    return keys;
  for (const Field& f : e.part->fields)
    if (e.values.assumed(f.key) && (!f.applies || f.applies(e.values)) &&
        (f.key != key::changeOfBore || boresDiffer(network, id)))
      keys.push_back(f.key);
  return keys;
}

std::vector<AssumedValue> assumedIn(const Network& network) {
  std::vector<AssumedValue> assumed;
  network.each([&](Id id, const Element&) {
    for (const std::string_view key : assumedAt(network, id)) assumed.push_back({id, key});
  });
  return assumed;
}

std::vector<std::string> assumedSaid(const Network& network) {
  std::vector<std::string> lines;
  Id last = noId;
  for (const AssumedValue& a : assumedIn(network)) {
    const Element& e = network.at(a.element);
    const std::string said =
        fmt::format("{} {}", spoken(a.key), sayField(*findField(*e.part, a.key), *e.value(a.key)));
    if (a.element == last) lines.back() += ", " + said;
    else lines.push_back(fmt::format("{}: {}", a.element == jobId ? "Job" : e.name, said));
    last = a.element;
  }
  return lines;
}

}  // namespace conduit

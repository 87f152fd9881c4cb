#include "network/network.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "fields/keys.h"
#include "network/names.h"
#include "network/setting.h"
#include "parts/job.h"
#include "parts/point.h"
#include "parts/registry.h"
#include "say/ensure.h"

namespace conduit {
namespace {

// "L-12" is number 12 of the stem "L-"; 0 where no number ends the name.
struct Numbered {
  std::string_view stem;
  std::uint32_t number = 0;
};
Numbered numbered(std::string_view name) {
  std::size_t digits = 0;
  while (digits < name.size() && digits < 8 && name[name.size() - 1 - digits] >= '0' &&
         name[name.size() - 1 - digits] <= '9')
    ++digits;
  Numbered parts{name.substr(0, name.size() - digits)};
  for (const char c : name.substr(parts.stem.size()))
    parts.number = parts.number * 10 + static_cast<std::uint32_t>(c - '0');
  return parts;
}

// Where a name is entered, and what tells it from most others there. Numbers that follow each other are
// entered side by side, for whoever asks for one of a large network soon asks for its neighbours: found where
// the memory has just been looked at.
struct Hashed {
  std::uint64_t place;
  std::uint32_t mark;
};
Hashed hashOf(std::string_view name) {
  const auto [stem, number] = numbered(name);
  // FNV-1a: the same on every machine, so that nothing depends on a library's hash.
  std::uint64_t h = 1469598103934665603ULL;
  for (const char c : stem) h = (h ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
  // Noughts before a number ("07") count with the length.
  return {h + number, static_cast<std::uint32_t>((h >> 32) + number * 2654435761U + name.size())};
}

std::size_t enclosedBytes(const Enclosed& enclosed) {
  std::size_t bytes = 300 * (enclosed.stock.pipes.size() + enclosed.stock.items.size() +
                             enclosed.stock.fittings.size() + enclosed.stock.liquids.size());
  for (const auto& [name, content] : enclosed.files) bytes += content.size();
  return bytes;
}

}  // namespace

Network::Network() {
  const auto owner = newOwner();
  names_.assign(64, {}, owner);
  elements_.append(
      Element{
          .part = &job::part, .name = "job", .ends = {}, .values = {}, .at = {}, .extra = {}, .joined = {}},
      owner);
}

const Element& Network::at(Id id) const {
  const Element* e = find(id);
  ensure(e != nullptr, "no element of that number");
  return *e;
}

Id Network::byName(std::string_view name) const {
  const auto [place, mark] = hashOf(name);
  for (const Named& one : names_[place % names_.size()])
    if (one.mark == mark && elements_[one.id].name == name) return one.id;
  return noId;
}

std::optional<std::vector<Id>> Network::changedSince(const Network& before) const {
  if (bound() != before.bound()) return std::nullopt;
  std::vector<Id> changed;
  bool same = true;
  elements_.eachApart(before.elements_, [&](std::size_t i) {
    const Element &a = elements_[i], &b = before.elements_[i];
    if (!a.part != !b.part) same = false;
    else if (a.part && (a.part != b.part || a.name != b.name || a.ends != b.ends || !(a.values == b.values)))
      changed.push_back(static_cast<Id>(i));
  });
  return same ? std::optional(changed) : std::nullopt;
}

std::vector<Id> Network::elementsAt(Id point) const {
  const Element* e = find(point);
  return e ? e->joined : std::vector<Id>();
}

std::size_t Network::bytesApart(const Network& other) const {
  constexpr std::size_t elementBytes = 400;  // measured for a pipe with four givens
  return elements_.chunksApart(other.elements_) * Chunked<Element>::chunkSize * elementBytes +
         16 * (elements_.size() + names_.size()) / Chunked<Element>::chunkSize +
         names_.chunksApart(other.names_) * Chunked<Element>::chunkSize * 48 +
         (enclosed_ && enclosed_ != other.enclosed_ ? enclosedBytes(*enclosed_) : 0);
}

std::string Network::freeName(const Part& part) const {
  const NamePattern pattern = patternFor(*this, part);
  const auto at = nextNumber_.find(pattern.stem);
  for (int n = at == nextNumber_.end() ? pattern.first : std::max(pattern.first, at->second);; ++n)
    if (std::string name = pattern.name(n); byName(name) == noId) return name;
}

const Enclosed& Network::enclosed() const {
  static const Enclosed nothing;
  return enclosed_ ? *enclosed_ : nothing;
}

std::shared_ptr<const Stock> stockFor(const Network& network, const Stock& base) {
  if (network.enclosed().stock.empty()) return {std::shared_ptr<const Stock>(), &base};
  return readAndShared(laidOver(base, network.enclosed().stock));
}

Draft::Draft(Network start) : network_(std::move(start)), owner_(newOwner()) {}

Element& Draft::change(Id id) {
  ensure(network_.find(id) != nullptr, "no element of that number to change");
  return network_.elements_.change(id, owner_);
}

void Draft::meet(Id element, Id point) {
  std::vector<Id>& joined = change(point).joined;
  if (joined.capacity() == 0) joined.reserve(4);  // few points have more
  if (const auto at = std::lower_bound(joined.begin(), joined.end(), element);
      at == joined.end() || *at != element)
    joined.insert(at, element);
}

void Draft::part(Id element, Id point) {
  const std::vector<Id>& ends = network_.elements_[element].ends;
  if (std::find(ends.begin(), ends.end(), point) == ends.end()) std::erase(change(point).joined, element);
}

void Draft::reserve(std::size_t elements) {
  network_.elements_.reserve(elements, owner_);
  if (elements > 6 * network_.names_.size()) rehash(elements / 4 + 64);
}

void Draft::rehash(std::size_t buckets) {
  network_.names_.assign(buckets, {}, owner_);
  for (Id id = 1; id < network_.bound(); ++id)
    if (network_.elements_[id].part) {
      const auto [place, mark] = hashOf(network_.elements_[id].name);
      network_.names_.change(place % buckets, owner_).push_back({mark, id});
    }
}

void Draft::enter(Id id, const std::string& name) {
  if (network_.count_ > 6 * network_.names_.size()) rehash(network_.names_.size() * 4);
  const auto [place, mark] = hashOf(name);
  network_.names_.change(place % network_.names_.size(), owner_).push_back({mark, id});
  const auto [stem, number] = numbered(name);
  if (stem.size() == name.size()) return;
  const auto at = network_.nextNumber_.find(stem);
  int& next = at != network_.nextNumber_.end() ? at->second : network_.nextNumber_[std::string(stem)];
  next = std::max(next, static_cast<int>(number) + 1);
}

void Draft::leave(Id id, const std::string& name) {
  std::erase_if(network_.names_.change(hashOf(name).place % network_.names_.size(), owner_),
                [&](const Network::Named& one) { return one.id == id; });
}

Id Draft::add(const Part& part, std::string name, std::vector<Id> ends, Spot at) {
  if (name.empty()) name = network_.freeName(part);
  ensure(network_.byName(name) == noId, "a name is taken twice");
  return addNew(part, std::move(name), std::move(ends), at);
}

Id Draft::addNew(const Part& part, std::string name, std::vector<Id> ends, Spot at) {
  Element element;
  element.part = &part;
  element.name = std::move(name);
  element.ends = std::move(ends);
  element.at = at;
  return addNew(std::move(element));
}

Id Draft::addNew(Element element) {
  for (const Id end : element.ends)
    ensure(network_.find(end) && network_.at(end).part->ends == Ends::self, "an end must be a point");
  const Id id = network_.bound();
  enter(id, element.name);
  network_.elements_.append(std::move(element), owner_);
  for (const Id end : network_.elements_[id].ends) meet(id, end);
  ++network_.count_;
  return id;
}

Id Draft::addPoint(std::string name, Spot at) { return add(point::part, std::move(name), {}, at); }

void Draft::remove(Id id) {
  ensure(id != jobId, "the job stays");
  const Element& gone = network_.at(id);
  if (gone.part->ends == Ends::self) {
    for (const Id joined : network_.elementsAt(id)) {
      const Element& e = network_.at(joined);
      if (e.part->ends == Ends::many) {
        for (std::size_t i = e.ends.size(); i-- > 0;)
          if (network_.at(joined).ends[i] == id) removeEnd(joined, i);
      } else {
        remove(joined);
      }
    }
  }
  leave(id, network_.at(id).name);
  const std::vector<Id> ends = std::exchange(change(id).ends, {});
  for (const Id end : ends) part(id, end);
  change(id) = Element{};
  --network_.count_;
}

void Draft::rename(Id id, std::string name) {
  ensure(network_.byName(name) == noId, "a name is taken twice");
  leave(id, network_.at(id).name);
  change(id).name = name;
  enter(id, name);
}

void Draft::move(Id id, Spot to) { change(id).at = to; }

void Draft::joinEnd(Id id, std::size_t end, Id point) {
  const Id before = std::exchange(change(id).ends.at(end), point);
  part(id, before);
  meet(id, point);
}

void Draft::addEnd(Id id, Id point) {
  change(id).ends.push_back(point);
  meet(id, point);
}

void Draft::removeEnd(Id id, std::size_t end) {
  const Id left = network_.at(id).ends.at(end);
  Element& e = change(id);
  e.ends.erase(e.ends.begin() + static_cast<std::ptrdiff_t>(end));
  part(id, left);
  if (const Rows* rows = e.rows(key::connections); rows && end < rows->size()) {
    Rows kept = *rows;
    kept.erase(kept.begin() + static_cast<std::ptrdiff_t>(end));
    for (const Field& f : e.part->fields)
      if (f.key == key::connections) e.values.set(f.key, std::move(kept));
  }
}

void Draft::become(Id id, const Part& part) {
  Element& e = change(id);
  Values kept;
  for (const Values::Entry& entry : e.values.entries()) {
    const Field* before = findField(*e.part, entry.key);
    const Field* after = findField(part, entry.key);
    if (before && after && before->kind == after->kind && before->measure == after->measure &&
        !entry.released)
      kept.set(after->key, entry.value, entry.assumed);
  }
  e.values = std::move(kept);
  e.part = &part;
}

void Draft::reverse(Id id) {
  Element& e = change(id);
  std::reverse(e.ends.begin(), e.ends.end());
  // The flow asked of a pipe is the same flow seen from its other end; a device is turned with what it is to
  // pass.
  if (const Given* flow = e.part->group == Group::line ? e.values.goal(key::flow) : nullptr) {
    Given turned = *flow;
    turned.value = -turned.value;
    turned.typed = turned.typed.starts_with('-') ? turned.typed.substr(1) : "-" + turned.typed;
    e.values.give(findOutcome(*e.part, key::flow)->key, std::move(turned));
  }
}

void Draft::enclose(Enclosed enclosed) {
  network_.enclosed_ = std::make_shared<const Enclosed>(std::move(enclosed));
}

void Draft::keepExtra(Id id, std::string json) { change(id).extra = std::move(json); }

Values& Draft::values(Id id) { return change(id).values; }

}  // namespace conduit

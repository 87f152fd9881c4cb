// A network as a value: looked at freely, changed only through a Draft, which gives back a new one.
//
//   Draft draft(network);
//   Id n = draft.addPoint("", {12.0, 4.0});
//   Network edited = std::move(draft).finish();
//
// Copies are cheap and share what did not change; a thread that holds one never sees it change.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>

#include "network/chunked.h"
#include "parts/part.h"
#include "stock/stock.h"

namespace conduit {

/// Number of an element or point within its network. Stable through edits; 0 is the job.
using Id = std::uint32_t;
inline constexpr Id noId = 0xffffffff, jobId = 0;

/// Where something stands in Plan, m to the east and north of the drawing's corner.
struct Spot {
  double x = 0.0, y = 0.0;
  friend bool operator==(Spot, Spot) = default;
};

/// A point, a piece of equipment or the job. `part` says which; null for a place whose element was removed.
/// Who reads one field asks here, by its key; null where it is not given (or given and to be found).
struct Element {
  [[nodiscard]] const Value* value(std::string_view key) const { return values.find(key); }
  [[nodiscard]] const Given* given(std::string_view key) const { return values.get<Given>(key); }
  [[nodiscard]] const std::string* text(std::string_view key) const { return values.get<std::string>(key); }
  [[nodiscard]] const Rows* rows(std::string_view key) const { return values.get<Rows>(key); }

  const Part* part = nullptr;
  std::string name;
  std::vector<Id> ends;  // points, as many as the part wants
  Values values;
  Spot at;            // points and tanks; elsewhere it follows from the ends
  std::string extra;  // keys of the file that this version does not know, as JSON text, passed on
  std::vector<Id>
      joined;  // of a point: what ends there, in order of Id. Kept by Draft; asked for by elementsAt
};

/// What travels with a model beside its elements: entries of the engineer's own stock, and whole files such
/// as pictures.
struct Enclosed {
  Stock stock;
  std::map<std::string, std::string> files;  // name → bytes
};

class Network {
 public:
  /// An empty network has the job alone.
  Network();

  /// One more than the greatest Id.
  [[nodiscard]] Id bound() const { return static_cast<Id>(elements_.size()); }
  /// Null when there is no such element (any more).
  [[nodiscard]] const Element* find(Id id) const {
    if (id >= elements_.size() || !elements_[id].part) return nullptr;
    return &elements_[id];
  }
  [[nodiscard]] const Element& at(Id id) const;  // must be there
  [[nodiscard]] const Element& job() const { return at(jobId); }
  [[nodiscard]] Id byName(std::string_view name) const;  // noId when there is none
  /// In order of Id, without the job.
  template <class Visit>
  void each(Visit visit) const {
    elements_.each([&](std::size_t i, const Element& e) {
      if (e.part && i != jobId) visit(static_cast<Id>(i), e);
    });
  }
  /// Ids whose elements may not be those of `other`; the rest is shared with it.
  template <class Visit>
  void eachApart(const Network& other, Visit visit) const {
    elements_.eachApart(other.elements_, [&](std::size_t i) { visit(static_cast<Id>(i)); });
  }
  [[nodiscard]] std::vector<Id> elementsAt(Id point) const;   // in order of Id
  [[nodiscard]] std::size_t count() const { return count_; }  // without the job
  /// Memory this network does not share with `other`, roughly, bytes.
  [[nodiscard]] std::size_t bytesApart(const Network& other) const;
  /// Elements whose kind, name, ends or values are not those of `before` (where they stand is not looked at),
  /// the job among them; empty when elements have come or gone.
  [[nodiscard]] std::optional<std::vector<Id>> changedSince(const Network& before) const;
  [[nodiscard]] std::string freeName(const Part& part) const;
  [[nodiscard]] const Enclosed& enclosed() const;
  /// The same pointer means the same enclosure.
  [[nodiscard]] const std::shared_ptr<const Enclosed>& enclosure() const { return enclosed_; }

 private:
  friend class Draft;
  struct Named {
    std::uint32_t mark;  // the name is looked at only where this is the same
    Id id;
  };
  using Bucket = std::vector<Named>;
  Chunked<Element> elements_;
  Chunked<Bucket> names_;
  std::map<std::string, int, std::less<>> nextNumber_;
  std::size_t count_ = 0;
  std::shared_ptr<const Enclosed> enclosed_;
};

/// The job too, before all others.
template <class Do>
void eachWithJob(const Network& network, Do&& what) {
  what(jobId, network.job());
  network.each(what);
}
/// "job", or the name of an element that is there.
[[nodiscard]] inline std::string nameOf(const Network& network, Id id) {
  return id == jobId ? "job" : network.at(id).name;
}

/// A problem of an element; of none where `id` is not in the network.
[[nodiscard]] inline Problem problemAt(const Network& network, Id id, std::string what) {
  const Element* e = network.find(id);
  return {{e ? e->name : "", ""}, std::move(what), {}};
}

/// The stock a network is read with: `base` with what the network encloses laid over it. Shares `base` where
/// it encloses none; `base` must outlive the result.
[[nodiscard]] std::shared_ptr<const Stock> stockFor(const Network& network, const Stock& base);

/// A network being changed. Precondition slips (an Id that is not there) are mistakes of our own.
class Draft {
 public:
  explicit Draft(Network start);
  [[nodiscard]] const Network& network() const { return network_; }

  /// An empty name is replaced by the next free one of the part's pattern. A name must be free.
  Id add(const Part& part, std::string name, std::vector<Id> ends, Spot at = {});
  Id addPoint(std::string name, Spot at);
  /// The same under a name that is known to be free: it is not looked up once more.
  Id addNew(const Part& part, std::string name, std::vector<Id> ends, Spot at);
  /// One with all that it holds.
  Id addNew(Element element);
  /// Makes room for so many in all.
  void reserve(std::size_t elements);
  /// Takes away an element. A point goes with everything joined to it; points left with nothing joined stay.
  void remove(Id id);
  void rename(Id id, std::string name);
  void move(Id id, Spot to);
  void joinEnd(Id id, std::size_t end, Id point);
  void addEnd(Id id, Id point);            // of a part with many ends
  void removeEnd(Id id, std::size_t end);  // with its row of the connections table
  void become(Id id, const Part& part);    // values whose key and measure the new kind has are kept
  void reverse(Id id);
  void keepExtra(Id id, std::string json);
  [[nodiscard]] Values& values(Id id);
  void enclose(Enclosed enclosed);

  [[nodiscard]] Network finish() && { return std::move(network_); }

 private:
  Element& change(Id id);
  void meet(Id element, Id point);  // now ends there
  void part(Id element, Id point);  // no longer, unless another of its ends is there
  void enter(Id id, const std::string& name);
  void leave(Id id, const std::string& name);
  void rehash(std::size_t buckets);

  Network network_;
  std::uint64_t owner_;
};

}  // namespace conduit

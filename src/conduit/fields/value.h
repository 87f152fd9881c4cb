// What an element holds: values by key, each of the kind its part's field table says.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "quantity/units.h"

namespace conduit {

/// Rows of a table field; a cell may be left out where its column allows.
using Rows = std::vector<std::vector<std::optional<Given>>>;
using Value = std::variant<Given, std::string, bool, Rows>;

/// A typed key: `inline constexpr Key<VolumeFlow> ratedFlow{"rated flow"};` storage is generic, use is typed.
template <class Q>
struct Key {
  std::string_view text;
};

/// Few entries, kept in the order in which they were given; the file writes them in the order of the field
/// table.
class Values {
 public:
  struct Entry {
    std::string_view key;  // points into the part's field table, which lives for ever
    Value value;
    bool released = false;  // kept, but to be found: an outcome is given in its place
    bool assumed = false;   // nobody has said it: it stands there so that the network can be solved
    friend bool operator==(const Entry&, const Entry&) = default;
  };

  [[nodiscard]] const Entry* entry(std::string_view key) const {
    for (const Entry& e : entries_)
      if (e.key == key) return &e;
    return nullptr;
  }
  [[nodiscard]] const Value* find(std::string_view key) const {
    const Entry* e = entry(key);
    return e && !e->released ? &e->value : nullptr;
  }
  template <class T>
  [[nodiscard]] const T* get(std::string_view key) const {
    const Value* v = find(key);
    return v ? std::get_if<T>(v) : nullptr;
  }
  [[nodiscard]] bool released(std::string_view key) const {
    const Entry* e = entry(key);
    return e && e->released;
  }
  [[nodiscard]] bool assumed(std::string_view key) const {
    const Entry* e = entry(key);
    return e && e->assumed && !e->released;
  }
  void set(std::string_view key, Value value, bool assumed = false) {
    for (Entry& e : entries_)
      if (e.key == key) {
        e.value = std::move(value);
        e.released = false;
        e.assumed = assumed;
        return;
      }
    entries_.push_back({key, std::move(value), false, assumed});
  }
  /// Marks a value that is there as assumed; false when there is none.
  bool assume(std::string_view key) {
    for (Entry& e : entries_)
      if (e.key == key) return e.assumed = true;
    return false;
  }
  /// Marks a value as to be found; a value never given is marked too (with nothing kept).
  void release(std::string_view key) {
    for (Entry& e : entries_)
      if (e.key == key) {
        e.released = true;
        return;
      }
    entries_.push_back({key, std::string(), true, false});
  }
  void clear(std::string_view key) {
    std::erase_if(entries_, [&](const Entry& e) { return e.key == key; });
  }
  void reserve(std::size_t entries) { entries_.reserve(entries); }
  [[nodiscard]] const std::vector<Entry>& entries() const { return entries_; }

  /// An outcome that is given, so that something released can be found.
  struct Goal {
    std::string_view outcome;  // a key of the part's outcomes
    Given given;
    friend bool operator==(const Goal&, const Goal&) = default;
  };
  void give(std::string_view outcome, Given given) {
    for (Goal& g : goals_)
      if (g.outcome == outcome) {
        g.given = std::move(given);
        return;
      }
    goals_.push_back({outcome, std::move(given)});
  }
  void ungive(std::string_view outcome) {
    std::erase_if(goals_, [&](const Goal& g) { return g.outcome == outcome; });
  }
  [[nodiscard]] const Given* goal(std::string_view outcome) const {
    for (const Goal& g : goals_)
      if (g.outcome == outcome) return &g.given;
    return nullptr;
  }
  [[nodiscard]] const std::vector<Goal>& goals() const { return goals_; }
  friend bool operator==(const Values&, const Values&) = default;

 private:
  std::vector<Entry> entries_;
  std::vector<Goal> goals_;
};

/// The value under a typed key in the field's own SI unit, if it is given.
template <class Q>
[[nodiscard]] std::optional<Q> get(const Values& values, Key<Q> key, const Medium& medium) {
  const Given* given = values.get<Given>(key.text);
  if (!given) return std::nullopt;
  return Q::fromSi(resolve(*given, Q::measure, medium));
}

}  // namespace conduit

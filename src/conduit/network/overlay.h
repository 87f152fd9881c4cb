// What differs from a network, field by field: another value, found instead of given, not given. Structure
// (what is joined to what, names, places) is never of an overlay.
//
//   Overlay night;
//   night.set(pump, "running", false);
//   night.find(valve, "set point");
//   Network cold = derive(drawn, night);   // shares with `drawn` whatever does not differ
#pragma once

#include <memory>

#include "network/network.h"

namespace conduit {

/// One field, or one outcome that may be given, of one element.
struct Difference {
  enum class To {
    value,   // given, as `value`
    found,   // released: to be found; `value` is kept meanwhile
    none,    // not given
    goal,    // an outcome given, as `value`, which is a Given
    noGoal,  // an outcome that is not given
  };
  Id element = noId;
  std::string_view key;  // of the part's field or outcome; points into its table, which lives for ever
  To to = To::value;
  Value value{};
  [[nodiscard]] bool ofOutcome() const { return to == To::goal || to == To::noGoal; }
  friend bool operator==(const Difference&, const Difference&) = default;
};

/// A value like a Network: copies share their content until one of them changes.
class Overlay {
 public:
  /// `key` must live as long as the program, as the keys of field tables do.
  void set(Id element, std::string_view key, Value value) {
    put({element, key, Difference::To::value, std::move(value)});
  }
  /// `kept`: what stands there while it is looked for, and where the search begins; an empty text: what
  /// stands there already.
  void find(Id element, std::string_view key, Value kept = std::string()) {
    put({element, key, Difference::To::found, std::move(kept)});
  }
  void clear(Id element, std::string_view key) { put({element, key, Difference::To::none}); }
  void give(Id element, std::string_view outcome, Given given) {
    put({element, outcome, Difference::To::goal, std::move(given)});
  }
  void ungive(Id element, std::string_view outcome) { put({element, outcome, Difference::To::noGoal}); }
  void put(Difference difference);
  /// As in the network again. False when it did not differ.
  bool inherit(Id element, std::string_view key, bool outcome = false);
  /// What differs of one field or outcome; null: nothing.
  [[nodiscard]] const Difference* at(Id element, std::string_view key, bool outcome = false) const;
  /// In order of element, fields before outcomes, by key.
  [[nodiscard]] const std::vector<Difference>& all() const;
  [[nodiscard]] bool empty() const { return all().empty(); }
  [[nodiscard]] std::size_t bytes() const { return all().size() * 150; }  // roughly, for undo's memory
  friend bool operator==(const Overlay& a, const Overlay& b) {
    return a.entries_ == b.entries_ || a.all() == b.all();
  }

 private:
  std::vector<Difference>& own();
  std::shared_ptr<std::vector<Difference>> entries_;  // changed only while nobody else holds them
};

/// The network with the overlay laid over it. Passed over: differences of elements that are gone, and of
/// fields and outcomes that an element's kind does not have.
[[nodiscard]] Network derive(const Network& network, const Overlay& overlay);
/// What must be laid over `from` so that it has the fields and given outcomes of `to`, for the elements that
/// both have under the same number and of the same kind.
[[nodiscard]] Overlay differences(const Network& from, const Network& to);
/// `over` laid over `under`: where both differ, `over` holds.
[[nodiscard]] Overlay laidOver(const Overlay& under, const Overlay& over);

}  // namespace conduit

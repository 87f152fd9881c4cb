// What everybody says: where something is, what is wrong there, and which edit would fix it. Plain data.
#pragma once

#include <optional>
#include <string>
#include <tl/expected.hpp>
#include <utility>
#include <vector>

#include "quantity/quantity.h"

namespace conduit {

/// An element (or point) by name, and one of its fields. Both may be empty: the job as a whole.
struct Place {
  std::string name;
  std::string field;
  friend bool operator==(const Place&, const Place&) = default;
};

/// One step of a remedy: field `field` of `name` gets `text`, as if typed there. An empty text clears the
/// field. `field` "+kind" makes a new element of that kind at the point `name` and gives its first field the
/// text.
struct FieldEdit {
  std::string name;
  std::string field;
  std::string text;
};

/// In place of a field: turns an element of two ends the other way round. The text is not looked at.
inline constexpr std::string_view reversedKey = "reversed";

/// Something one click can do. The words are made from the edits' purpose: "Give L-3 a bore", "Open V-2".
/// Without edits it only leads to the place: `goTo`.
struct Remedy {
  std::string words;
  std::vector<FieldEdit> edits;
  Place goTo;
};

struct Problem {
  Place place;
  std::string what;
  std::vector<Remedy> remedies;
};

template <class T>
using Result = tl::expected<T, Problem>;

/// What takes the place of a Result that is refused.
using Refused = tl::unexpected<Problem>;
/// A refusal that belongs to no one place.
[[nodiscard]] inline Refused refused(std::string what) { return Refused(Problem{{}, std::move(what), {}}); }

/// Worst first. `refused`: there is no answer. `paper`: the answer cannot be real (below zero absolute, past
/// the curve, outflow that cannot be).
enum class Severity { refused, paper, broken, near, note };

struct Finding {
  Severity severity = Severity::note;
  Place place;
  std::string what;
  std::vector<Remedy> remedies;
  std::string_view check{};  // its label; empty of what is no check
  bool doubtful = false;     // a law is used outside its range
};

/// How a found number came about, so that it can be followed by hand. `numbers` is `formula` with the numbers
/// put in; evaluated it gives `value` (a test does so for every working printed).
struct WorkingLine {
  std::string symbol;   // "v"
  std::string formula;  // "4·Q/(π·D²)"
  std::string numbers;  // "4·0.0183/(π·0.1023²)"
  double value = 0.0;
  std::string unit;    // "m/s"
  std::string source;  // where the formula comes from; empty for plain arithmetic
};

struct Working {
  std::string title;
  std::vector<WorkingLine> lines;
  std::string remark;
};

}  // namespace conduit

// Elements by a condition that a person types: on kind, on what is given, on what is found.
//
//   auto c = readCondition("pipes bore < 100 mm and velocity > 2 m/s", units);
//   std::vector<Id> ids = elementsThat(*c, network, solution);
#pragma once

#include <vector>

#include "solve/solution.h"

namespace conduit {

enum class Compare { less, atMost, equal, notEqual, atLeast, more, has, lacks };

/// One test of a field or outcome. A quantity is compared in SI, to one part in a million for equality; a
/// text by what it contains, without regard to capitals.
struct Test {
  std::string key;  // of a field or an outcome
  Compare compare = Compare::equal;
  double value = 0.0;
  std::string text;
};

struct Condition {
  const Part* kind = nullptr;  // null: any
  bool incomplete = false;     // still needs something
  bool assumed = false;        // holds a value that nobody has given
  std::vector<Test> tests;     // all must hold
};

/// "pipes", "valves" (every kind whose name ends so), "bore < 100 mm", "note has east", "size lacks",
/// "incomplete", "assumed", joined by "and" or commas. Units are those of the field, bare numbers in the
/// set's unit. The Problem names the word not understood.
[[nodiscard]] Result<Condition> readCondition(std::string_view text, const UnitSet& units);

/// In order of Id. Without a usable answer a test of a found number holds for nothing.
[[nodiscard]] std::vector<Id> elementsThat(const Condition& condition, const Network& network,
                                           const Solution& solution);

/// The same kind, and the same text in its first given that is no number: size, else bore (else the kind
/// alone).
[[nodiscard]] std::vector<Id> alike(const Network& network, Id id);

/// "L-12 bore 150 mm" or, with something selected, "bore 150 mm": which edit that is. Empty when it is none;
/// the value may still be refused when it is applied.
struct Assignment {
  std::vector<Id> ids;
  std::string key, text, words;  // "L-12: bore 150 mm"
};
[[nodiscard]] std::optional<Assignment> readAssignment(std::string_view text, const Network& network,
                                                       const std::vector<Id>& selection);

}  // namespace conduit

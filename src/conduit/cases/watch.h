// What is followed through all cases: read as typed, said, and worked out for a solved network.
//
//   auto watched = readWatched("nozzles pressure minimum", network, units);
//   WatchedValue v = valueOf(*watched, network, solution, units);   // v.si, v.where, v.least
#pragma once

#include "model/case_set.h"
#include "model/watched.h"
#include "solve/solution.h"

namespace conduit {

/// "P-1 NPSH margin", "nozzles pressure minimum", "sum of shaft power of pumps", "Gun 1, Gun 2 pressure
/// mean", "pipes service has Mains velocity maximum". `selection` is meant where neither an element nor a
/// condition is named. The Problem says which word was not understood.
[[nodiscard]] Result<Watched> readWatched(std::string_view text, const Network& network, const UnitSet& units,
                                          std::span<const Id> selection = {});

/// Whose outcome it is, and which: {"Nozzles", "minimum pressure"}.
struct WatchedWords {
  std::string whose, what;
  [[nodiscard]] std::string all() const { return whose + " " + what; }
};
[[nodiscard]] WatchedWords wordsOf(const Watched& watched, const Network& network);
/// As it is typed, to be edited.
[[nodiscard]] std::string typedText(const Watched& watched, const Network& network);

/// The measure of the outcome; empty where no kind in the network finds it.
[[nodiscard]] std::optional<Measure> measureOf(const Watched& watched, const Network& network);

struct WatchedValue {
  std::optional<double> si;           // empty: nothing determines it, or nothing is open that counts
  std::string shown;                  // "10.8 L/s" without its unit; "takes 10.8"
  Id where = noId;                    // the element that sets it; noId for a sum or mean
  std::size_t of = 0;                 // elements that counted
  std::optional<double> least, most;  // the limit held against that outcome there, SI
  [[nodiscard]] bool broken() const { return si && ((least && *si < *least) || (most && *si > *most)); }
};
/// In a solved network. Over several elements those that are closed or off do not count, flows count by their
/// size, and what no balance determines is passed over.
[[nodiscard]] WatchedValue valueOf(const Watched& watched, const Network& network, const Solution& solution,
                                   const UnitSet& units);

/// Of the values of one watched outcome in several cases the worst: nearest to its limit or furthest beyond,
/// else the least of a least, the greatest of a greatest or of a power. Empty where no value is worse than
/// another.
[[nodiscard]] std::optional<std::size_t> worstOf(const Watched& watched, std::optional<Measure> measure,
                                                 std::span<const WatchedValue> values);

}  // namespace conduit

// Reads a solution and hands back what is wrong or near it. Touches nothing.
#pragma once

#include <memory>

#include "solve/solution.h"

namespace conduit {

/// Every check of one element, for its card.
[[nodiscard]] std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id,
                                          const UnitSet& units);

/// Without words: many times as quick.
[[nodiscard]] std::vector<Check> checksOf(const Network& network, const Solution& solution, Id id);
/// The same put behind what is there, with words or without.
void checksOf(const Network& network, const Solution& solution, Id id, Checks& checks);

/// The greatest gauge pressure that an element may stand at: its own, or its size's at this temperature.
[[nodiscard]] Limit ratingOf(const Element& element, const Setting& setting);

/// The finding's sentence of a broken check of an element.
[[nodiscard]] std::string sentenceOf(const std::string& name, const Check& check, const UnitSet& units);

/// All broken checks and all problems of the summary, worst first, each with its place and its remedies.
[[nodiscard]] std::vector<Finding> findings(const Network& network, const Solution& solution,
                                            const UnitSet& units);

/// The words beside the balance: "2 limits broken", "Solved, but physically impossible: …"; empty when all is
/// well.
struct Standing {
  bool onPaperOnly = false;
  std::size_t broken = 0, near = 0;
  std::string worst;
  std::optional<Place> where;
};
[[nodiscard]] Standing standing(const std::vector<Finding>& findings);
/// The counts that the findings of an answer give, without their words.
[[nodiscard]] Standing standing(const Network& network, const Solution& solution);

/// What the elements of a network are judged by, read once, for the answers of many networks that differ from
/// it in a few fields: the points of a sweep. May be looked at by several threads.
class Gauges {
 public:
  Gauges(Network network, const Solution& answer);
  /// As `standing(network, answer)`.
  [[nodiscard]] Standing standing(const Network& network, const Solution& answer) const;

 private:
  [[nodiscard]] std::optional<std::vector<char>> apartFrom(const Network& network,
                                                           const Solution& answer) const;
  Network network_;
  Setting setting_;
  struct Read {
    Id id;
    double bore_m;  // the widest at its ends
    Limit rating;
    CheckSet waived;
    std::unique_ptr<const Gauge> gauge;
  };
  std::vector<Read> read_;
  std::vector<Id> others_;  // that are read each time
};

}  // namespace conduit

// What a sizing is asked for, with the proposals that were kept.
#pragma once

#include <span>

#include "model/setups.h"

namespace conduit {

/// Sizes to choose from: of a standard and schedule, between two nominal sizes (empty: all).
struct SizeRange {
  std::string standard, schedule, from, to,
      service;  // service: of its lines, or the one line of that name, alone; empty: of all others
  friend bool operator==(const SizeRange&, const SizeRange&) = default;
};
/// "ASME B36.10M 40 from 2 to 10 for Mains", as it is said and read.
[[nodiscard]] std::string said(const SizeRange& range);

/// Lines that share one size.
struct TiedLines {
  std::string name;
  std::vector<Id> lines;
  friend bool operator==(const TiedLines&, const TiedLines&) = default;
};

/// What lines cost more to lay than their sizes do: a trench in a road, supports in a hall.
struct LayingClass {
  std::string name;
  double perMetre = 0.0;    // money more for a metre
  double byDiameter = 0.0;  // and for a metre of pipe of 1 m outside diameter
  std::vector<Id> lines{};
  friend bool operator==(const LayingClass&, const LayingClass&) = default;
};
/// "road 40 + 12": 40 for a metre and 12 more for every 100 mm of outside diameter. The name alone: what
/// stands of it. Empty where it is not understood.
[[nodiscard]] std::optional<LayingClass> layingFrom(std::string_view text,
                                                    std::span<const LayingClass> known);
[[nodiscard]] std::string said(const LayingClass& laying);

/// What a branch should pass: through a control valve, as it is drawn. Sizes are to let it pass at least so
/// much.
struct BranchGoal {
  Id valve = noId;
  Given flow{};  // m3/s
  friend bool operator==(const BranchGoal&, const BranchGoal&) = default;
};

/// What is asked of a taker in place of what it takes as drawn: less by another share, or nothing at all.
struct DeliveryAsked {
  Id taker = noId;
  std::optional<double> share{};  // less by so much is enough; empty: it may take anything
  friend bool operator==(const DeliveryAsked&, const DeliveryAsked&) = default;
};

/// A proposal kept to be compared: of each line the name of its size.
struct KeptSizes {
  std::string name;
  std::vector<std::pair<Id, std::string>> sizes;
  friend bool operator==(const KeptSizes&, const KeptSizes&) = default;
};

struct SizingSetup {
  static constexpr std::string_view study = "sizing";
  Values about{};                   // see sizingFields
  std::vector<SizeRange> ranges{};  // none: each line's own standard and schedule
  std::vector<Id> left{};           // lines left as they are
  std::vector<TiedLines> tied{};
  std::vector<Id> alone{};            // flow and return lines that are not tied, see flowAndReturn
  std::vector<LayingClass> laying{};  // a line is in one of them at most
  std::vector<BranchGoal> branches{};
  std::vector<DeliveryAsked> deliveries{};  // one of a taker at most
  std::vector<KeptSizes> kept{};
  std::string extra{};  // keys of the file that this version does not know, as JSON text
  [[nodiscard]] bool empty() const;
  /// The class a line is laid in; null: none.
  [[nodiscard]] const LayingClass* layingOf(Id line) const;
  [[nodiscard]] std::size_t bytes() const;
  /// Lines, valves and takers that are gone, or are none any more, are dropped; kept proposals stay as they
  /// were.
  void follow(const Followed& what);
  friend bool operator==(const SizingSetup& a, const SizingSetup& b) {
    return a.about.entries() == b.about.entries() && a.ranges == b.ranges && a.left == b.left &&
           a.tied == b.tied && a.alone == b.alone && a.laying == b.laying && a.branches == b.branches &&
           a.deliveries == b.deliveries && a.kept == b.kept && a.extra == b.extra;
  }
};

[[nodiscard]] std::span<const Field> sizingFields();

namespace sizing {
inline constexpr std::string_view least = "least", trials = "trials", seed = "seed", seconds = "seconds",
                                  tolerance = "delivery tolerance", equalVolume = "energy at equal volume";
/// Choices of `least`, the first if nothing is said.
inline constexpr std::string_view wanted[] = {"whole-life cost", "cost to lay", "mass"};
}  // namespace sizing

/// A number of the set-up, as given or what stands for it.
[[nodiscard]] double sizingNumber(const Values& about, std::string_view key);

}  // namespace conduit

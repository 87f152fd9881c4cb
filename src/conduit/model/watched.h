// What is followed through all cases and sweeps.
#pragma once

#include "model/setups.h"

namespace conduit {

/// An outcome of one element, or the least, greatest, sum or mean of it over several.
struct Watched {
  enum class Over { one, least, greatest, sum, mean };
  Over over = Over::one;
  std::string outcome;       // its key
  std::vector<Id> elements;  // these; empty: those of the condition
  std::string condition;     // as the finder takes it: "nozzles", "pipes service has Mains"
  friend bool operator==(const Watched&, const Watched&) = default;
};
/// "least", "sum" … as in the file; of one element: empty.
[[nodiscard]] std::string_view overWord(Watched::Over over);

struct WatchedResults {
  static constexpr std::string_view study = "watched outcomes";
  std::vector<Watched> all{};
  [[nodiscard]] bool empty() const { return all.empty(); }
  [[nodiscard]] std::size_t bytes() const { return 100 * all.size(); }
  /// What has no element left that has the outcome is dropped.
  void follow(const Followed& what);
  friend bool operator==(const WatchedResults&, const WatchedResults&) = default;
};

}  // namespace conduit

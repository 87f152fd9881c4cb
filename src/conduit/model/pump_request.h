// What is asked of a pump that is to be chosen, and how candidates are weighed against one another.
#pragma once

#include <span>

#include "fields/keys.h"
#include "model/setups.h"

namespace conduit {

/// At one place: a pump, or a supply that might be one.
struct PumpRequest {
  Id at = noId;
  Values about{};       // see pumpRequestFields
  std::string extra{};  // keys of the file that this version does not know, as JSON text
  friend bool operator==(const PumpRequest& a, const PumpRequest& b) {
    return a.at == b.at && a.about.entries() == b.about.entries() && a.extra == b.extra;
  }
};

struct PumpRequests {
  static constexpr std::string_view study = "pump requests";
  std::vector<PumpRequest> all{};
  [[nodiscard]] bool empty() const { return all.empty(); }
  [[nodiscard]] std::size_t bytes() const { return 1000 * all.size(); }
  /// What is asked where no element is any more is dropped.
  void follow(const Followed& what);
  friend bool operator==(const PumpRequests&, const PumpRequests&) = default;
};

[[nodiscard]] std::span<const Field> pumpRequestFields();

namespace request {
inline constexpr std::string_view flow = key::flow, head = "head", driver = "driver at most",
                                  margin = "NPSH margin at least", units = "units running",
                                  construction = "construction", solids = "solids passage at least",
                                  speed = "speed at most", shortBy = "flow short by at most",
                                  overBy = "flow over by at most", nearness = "weight of nearness",
                                  efficiency = "weight of efficiency", suction = "weight of NPSH margin",
                                  driverSize = "weight of driver size";
}

/// In SI, as given in this liquid or what stands for it; empty where nothing does.
[[nodiscard]] std::optional<double> askedOf(const Values& about, std::string_view key,
                                            const Medium& medium = {});
/// That of a place among them; null: nothing is asked there yet.
[[nodiscard]] const PumpRequest* requestAt(std::span<const PumpRequest> requests, Id at);

}  // namespace conduit

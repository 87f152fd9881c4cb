// Where a pump's NPSH comes from and goes to, item by item, and how far it will go.
#pragma once

#include "say/page.h"
#include "solve/solve.h"

namespace conduit {

struct SuctionBudget {
  /// What adds head (a surface, the air) and what takes it (each loss on the way, the height of the pump), m;
  /// all together are the NPSH available.
  struct Item {
    std::string what;
    double head_m = 0.0;
    Id element = noId;
  };
  std::vector<Item> items;  // from the source to the pump, then its datum and the air
  double available_m = 0.0;
  std::optional<double> required_m, margin_m, ratio;  // ANSI/HI 9.6.1
  double leastMargin_m = 0.0;                         // that is asked for
  std::optional<double> higher_m;  // the pump could stand so much higher before less than that is left
  std::optional<double>
      greatestLift_m;  // of its datum over the surface it draws from, then; negative: it must be flooded
  /// Job temperature at which just that margin is left, °C.
  std::optional<double> temperature_c;
  /// How deep the mouth of the suction lies under the surface it draws from, and the least against drawing
  /// air: D (1 + 2.3 v/√(g D)), ANSI/HI 9.8, D the bore of the connection (a bellmouth's would be its own).
  std::optional<double> submergence_m, leastSubmergence_m;
  std::optional<double> flowLeft_m3s;  // flow at which just that margin is left, the network balanced for it
};

/// The budget as a table, item by item.
[[nodiscard]] Page pageOf(const SuctionBudget& budget, const std::string& pump, const UnitSet& units);

/// Of a pump in a solved network; the way from its source is followed up the greatest flow at every point.
/// Empty when the head at its suction is not determined or the element is no pump. `flowLeft_m3s` costs some
/// twenty solves of the network.
[[nodiscard]] std::optional<SuctionBudget> suctionBudget(const Network& network, const Solution& solution,
                                                         const Stock* stock, Id pump,
                                                         std::stop_token stop = {});

}  // namespace conduit

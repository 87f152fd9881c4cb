// Branches set to the flows they should have by their control valves: how far each opens, which one is least
// favoured, and what the pump could give less.
#pragma once

#include "cases/balance.h"
#include "limits/deliveries.h"

namespace conduit {

struct BranchFlow {
  Id valve = noId;        // a control valve
  double flow_m3s = 0.0;  // that should pass it, as it is drawn
};

struct BalancedBranch {
  Id valve = noId;
  double flow_m3s = 0.0;
  double there_m = 0.0;               // head there is for the valve at these flows
  double wideOpen_m = 0.0;            // it takes at its flow when it is wide open
  double spare_m = 0.0;               // the difference; less than nothing: it cannot pass its flow
  std::optional<double> opening, kv;  // that gives the flow; Kv of the valve at it
  /// Drop wide open at its flow over what it bears when it alone is shut, all else as balanced (VDI/VDE 2173,
  /// CIBSE Guide H; recalled, to be checked).
  std::optional<double> authority;
  /// Of a square-edged plate that takes what is to spare, the valve wide open: its bore (ISO 5167-2, by the
  /// law of the kind). Empty where none within the ratios of that standard does.
  std::optional<double> orifice_m;
  std::optional<double> platePipe_m;  // bore of the pipe it is for: that of the valve's own branch
  /// A reducing valve in its place, wide open as this one, that holds so much behind it lets the flow pass.
  std::optional<double> setPoint_pa;
  std::string stockValve;  // the smallest control valve of the stock that passes its flow at 90 % of its Kv
  std::optional<double> without_m3s;  // flow with every valve wide open
  std::optional<double> again_m3s;    // flow of the plain re-solve with the openings found
};

struct FlowBalance {
  std::vector<BalancedBranch> branches;
  Id index = noId;  // the least favoured: the least to spare
  double save_m =
      0.0;  // head the supply could give less with the index wide open; less than nothing: it must give more
  bool balanced = false;
  double worst = 0.0;  // of the flows found again, how far off as a share
  std::string why;     // where there is no answer
  /// Then, if some do: valves whose flow, let go, leaves the others theirs; each was tried, as many as
  /// `triedToLetGo`.
  std::vector<Id> letGo;
  std::size_t triedToLetGo = 0;
  std::vector<Remedy> remedies;            // of a network that does not balance without the flows either
  std::vector<DeliveryChange> deliveries;  // what takers got before, and get then; none in a closed circuit
  Network network;                         // with the openings
};

/// In one network. Flows are given at every branch at once, so what is behind must be able to take them:
/// beside the branches a tank or a fixed pressure makes up the rest.
[[nodiscard]] FlowBalance balanceFlows(const Network& network, std::span<const BranchFlow> flows,
                                       const std::shared_ptr<const Stock>& stock, const UnitSet& units,
                                       std::stop_token stop = {});

}  // namespace conduit

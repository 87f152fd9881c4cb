#include "pump/system_curve.h"

#include <fmt/format.h>

#include "network/edits.h"

namespace conduit {

std::vector<DutyPoint> systemCurve(const Network& network, const Stock* stock, Id pump, double most_m3s, int count, std::stop_token stop) {
  std::vector<DutyPoint> curve;
  const Element& e = network.at(pump);
  if (e.part->swaps.empty() || most_m3s <= 0 || count < 2) return curve;
  const Swap& swap = e.part->swaps[0];
  Solution last;
  bool warm = false;
  for (int i = 0; i < count && !stop.stop_requested(); ++i) {
    // Not quite from nothing: at rest the heads beyond a check valve may be anybody's.
    const double q = most_m3s * std::max(static_cast<double>(i) / (count - 1), 1e-3);
    const auto edited = swapGiven(network, pump, swap, fmt::format("{:.12g} m3/s", q), stock, nullptr);
    if (!edited) continue;
    SolveOptions options;
    options.stop = stop;
    if (warm) options.startFrom = &last;
    Solution answer = solve(edited->network, stock, options);
    if (!answer.summary.usable()) continue;
    const BranchReading b = answer.branch(pump, 0);
    if (b.headFrom_m && b.headTo_m) curve.push_back({q, *b.headTo_m - *b.headFrom_m});
    last = std::move(answer);
    warm = true;
  }
  return curve;
}

}  // namespace conduit

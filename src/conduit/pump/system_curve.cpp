#include "pump/system_curve.h"

namespace conduit {

std::vector<DutyPoint> systemCurve(const Network& network, const Stock* stock, Id pump, double most_m3s,
                                   int count, std::stop_token stop) {
  std::vector<DutyPoint> curve;
  if (network.at(pump).part->ends != Ends::two || most_m3s <= 0 || count < 2) return curve;
  Solution last;
  bool warm = false;
  for (int i = 0; i < count && !stop.stop_requested(); ++i) {
    // Not quite from nothing: at rest the heads beyond a check valve may be anybody's.
    const double q = most_m3s * std::max(static_cast<double>(i) / (count - 1), 1e-3);
    SolveOptions options;
    options.stop = stop;
    options.passes[pump] = q;
    if (warm) options.startFrom = &last;
    Solution answer = solve(network, stock, options);
    if (!answer.summary.usable()) continue;
    const BranchReading b = answer.branch(pump, 0);
    if (b.headFrom_m && b.headTo_m) curve.push_back({q, *b.headTo_m - *b.headFrom_m});
    last = std::move(answer);
    warm = true;
  }
  return curve;
}

}  // namespace conduit

// A reading whose numbers may be altered one by one: how an outcome follows flows and heads.
#pragma once

#include <cmath>

#include "solve/solution.h"

namespace conduit {

// A reading that may be altered number by number.
class Probe {
 public:
  Probe(const Network& network, const Solution& solution, Id id)
      : of_(network, solution, id), reading_(*of_) {
    branches_.assign(reading_.branches.begin(), reading_.branches.end());
    vessels_.assign(reading_.vesselHeads.begin(), reading_.vesselHeads.end());
    reading_.branches = branches_;
    reading_.vesselHeads = vessels_;
  }
  Probe(const Probe&) = delete;
  Probe& operator=(const Probe&) = delete;
  [[nodiscard]] double of(const Outcome& outcome) const { return outcome.of(reading_).value_or(NAN); }
  std::vector<BranchReading>& branches() { return branches_; }
  std::vector<std::optional<double>>& vessels() { return vessels_; }
  Reading& reading() { return reading_; }
  // Every number of the reading with its place among those of the answer; whether it is a flow.
  template <class Places, class Visit>
  void eachNumber(const Network& network, const Solution& answer, Id id, const Places& places,
                  const Visit& visit) {
    const Element& e = network.at(id);
    for (std::size_t i = 0; i < branches_.size(); ++i) {
      const std::size_t at = answer.branchBegin[id] + i;
      visit(branches_[i].flow_m3s, places.flow(at), true);
      visit(branches_[i].headFrom_m, places.headFrom(at), false);
      visit(branches_[i].headTo_m, places.headTo(at), false);
    }
    if (e.part->ends == Ends::self || e.part->ends == Ends::one)
      visit(reading_.head_m, places.head(e.part->ends == Ends::self || e.ends.empty() ? id : e.ends[0]),
            false);
    visit(reading_.inflow_m3s, places.inflow(id), true);
    for (std::size_t v = 0; v < vessels_.size(); ++v)
      visit(vessels_[v], places.vessel(answer.vesselBegin[id] + v), false);
  }
  // d outcome / d number, central.
  double slope(const Outcome& outcome, std::optional<double>& number, double h) {
    if (!number) return 0.0;
    const double kept = *number;
    number = kept + h;
    const double up = of(outcome);
    number = kept - h;
    const double down = of(outcome);
    number = kept;
    return std::isfinite(up) && std::isfinite(down) ? (up - down) / (2 * h) : 0.0;
  }

 private:
  ReadingOf of_;
  Reading reading_;
  std::vector<BranchReading> branches_;
  std::vector<std::optional<double>> vessels_;
};

/// The scale of a goal: a miss of 1e-9 of it is none.
[[nodiscard]] inline double scaleOf(const Outcome& outcome, double target) {
  switch (outcome.measure) {
    case Measure::gaugePressure:
    case Measure::absolutePressure:
    case Measure::pressureDrop: return 1e4;
    case Measure::volumeFlow: return std::max(std::abs(target), 1e-5);
    default: return std::max(std::abs(target), 1e-2);
  }
}

}  // namespace conduit

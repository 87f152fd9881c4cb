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

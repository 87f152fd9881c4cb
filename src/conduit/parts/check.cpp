#include "parts/check.h"

#include <algorithm>
#include <cmath>

namespace conduit {
double Check::beyond() const {
  if (spoken) return 1.0;
  const Measure m = measure();
  const double usual =
      m == Measure::gaugePressure || m == Measure::absolutePressure || m == Measure::pressureDrop ? 1e5
      : m == Measure::volumeFlow                                                                  ? 1e-3
                                                                                                  : 1.0;
  // A height is counted from wherever the heights of the model begin: no share of it says anything.
  const auto whole = [&](double limit) {
    return m == Measure::height ? usual : std::max(std::abs(limit), 0.1 * usual);
  };
  double by = -1e9;
  if (least) by = (*least - value) / whole(*least);
  if (most) by = std::max(by, (value - *most) / whole(*most));
  return by;
}

Check& Checks::hold(CheckId id, double value, Limit least, Limit most, Severity severity) {
  into_.push_back({.id = id,
                   .value = value,
                   .least = least.si,
                   .most = most.si,
                   .leastFrom = least.from,
                   .mostFrom = most.from,
                   .severity = severity,
                   .what = {}});
  return into_.back();
}

Check& Checks::say(CheckId id, Severity severity) {
  into_.push_back({.id = id, .severity = severity, .spoken = true, .what = {}});
  return into_.back();
}

Check* Checks::find(CheckId id, std::size_t from) const {
  for (std::size_t i = from; i < into_.size(); ++i)
    if (into_[i].id == id) return &into_[i];
  return nullptr;
}

void Checks::leaveOut(const CheckSet& waived, std::size_t from) {
  into_.erase(std::remove_if(into_.begin() + static_cast<std::ptrdiff_t>(from), into_.end(),
                             [&](const Check& c) {
                               return c.severity > Severity::paper && waived[static_cast<std::size_t>(c.id)];
                             }),
              into_.end());
}

}  // namespace conduit

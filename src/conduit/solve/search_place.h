// Over what a released field is searched: its logarithm, something like it, or the value itself.
#pragma once

#include <cmath>

#include "fields/field.h"

namespace conduit {

// Sizes are searched over their logarithm; what may be nothing or negative, as it is.
[[nodiscard]] inline bool overLogarithm(const Field& f) {
  switch (f.measure) {
    case Measure::gaugePressure:
    case Measure::absolutePressure:
    case Measure::height:
    case Measure::head:
    case Measure::volumeFlow:
    case Measure::ratio:
    case Measure::temperature: return false;
    default: return f.least >= 0;
  }
}
// Those, and flows, which may be large either way, are searched over something like their logarithm.
[[nodiscard]] inline bool usesLogScale(const Field& f) {
  return overLogarithm(f) || f.measure == Measure::volumeFlow;
}
// A little beyond the legal range the search may still go, to be able to say by how much it would be left.
[[nodiscard]] inline double lowest(const Field& f) {
  return overLogarithm(f)              ? f.least / 10
         : f.measure == Measure::ratio ? f.least + 1e-4 * (f.most - f.least)
                                       : f.least;
}
[[nodiscard]] inline double highest(const Field& f) {
  return f.most * (f.measure == Measure::ratio ? 4 : overLogarithm(f) ? 10 : 1);
}
// What may be nothing goes over a function that is straight near nothing and a logarithm far from it.
[[nodiscard]] inline double bend(const Field& f) {
  return f.measure == Measure::roughness    ? 1e-4
         : f.measure == Measure::volumeFlow ? 1e-3
         : f.measure == Measure::number     ? 100.0
                                            : 10.0;
}
[[nodiscard]] inline double toSearch(const Field& f, double value) {
  return !usesLogScale(f) ? value : f.least > 0 ? std::log(value) : std::asinh(value / bend(f));
}
[[nodiscard]] inline double fromSearch(const Field& f, double at) {
  return !usesLogScale(f) ? at : f.least > 0 ? std::exp(at) : bend(f) * std::sinh(at);
}
// A step of the search that is neither nothing nor wild.
[[nodiscard]] inline double unit(const Field& f) {
  if (usesLogScale(f)) return 1.0;
  switch (f.measure) {
    case Measure::gaugePressure:
    case Measure::absolutePressure: return 1e5;
    case Measure::height:
    case Measure::head: return 10;
    case Measure::ratio: return 0.2;
    default: return 1.0;
  }
}

}  // namespace conduit

// The lines of a working that read a value off a monotone curve.
#pragma once

#include "curve/monotone.h"
#include "say/say.h"

namespace conduit {

/// t = (x − x₀)/(x₁ − x₀) and the cubic with the slopes of Fritsch and Butland; beyond an end its straight
/// line. The last line is the value at x, times `factor` where that is not 1.
void addCurveLines(Working& working, const MonotoneCurve& curve, double x, const std::string& symbol,
                   const std::string& unit, double factor = 1.0, const std::string& factorSource = "");

}  // namespace conduit

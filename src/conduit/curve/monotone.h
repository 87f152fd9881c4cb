// A smooth curve through given points that never overshoots between them.
#pragma once

#include <vector>

namespace conduit {

struct CurvePoint {
  double x = 0.0, y = 0.0;
};

struct CurveValue {
  double value = 0.0, slope = 0.0;
};

/// Piecewise cubic through the points with slopes after Fritsch and Butland (SIAM J. Sci. Stat. Comput. 5,
/// 1984, 300): monotone wherever the points are. Two points: a straight line. Beyond both ends: the straight
/// line of the end slope. Points must be at least two, finite, with x strictly rising (checked by `ensure`;
/// readers refuse it earlier).
class MonotoneCurve {
 public:
  explicit MonotoneCurve(std::vector<CurvePoint> points);
  [[nodiscard]] CurveValue at(double x) const;
  [[nodiscard]] const std::vector<CurvePoint>& points() const { return points_; }
  /// The cubic between two points (or the straight line beyond an end, then both are that end), with the
  /// slopes at them: for a working.
  struct Piece {
    CurvePoint from, to;
    double slopeFrom = 0.0, slopeTo = 0.0;
    bool beyond = false;
  };
  [[nodiscard]] Piece pieceAt(double x) const;

 private:
  std::vector<CurvePoint> points_;
  std::vector<double> slopes_;
};

}  // namespace conduit

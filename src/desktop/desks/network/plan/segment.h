// How far a point on the screen is from a line drawn there.
#pragma once

#include <QPointF>
#include <algorithm>
#include <cmath>

namespace conduit::desktop {

/// Pixels from `p` to the nearest place between `a` and `b`; `share` receives where that is, 0 at a, 1 at b.
inline double segmentDistance(QPointF p, QPointF a, QPointF b, double* share = nullptr) {
  const QPointF d = b - a;
  const double l2 = d.x() * d.x() + d.y() * d.y();
  const double t =
      l2 > 0 ? std::clamp(((p.x() - a.x()) * d.x() + (p.y() - a.y()) * d.y()) / l2, 0.0, 1.0) : 0.0;
  if (share) *share = t;
  const QPointF q = a + d * t;
  return std::hypot(p.x() - q.x(), p.y() - q.y());
}

}  // namespace conduit::desktop

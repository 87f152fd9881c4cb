#include "plan/snap.h"

#include <cmath>

namespace conduit::desktop {
namespace {

double away(Spot a, Spot b) { return std::hypot(a.x - b.x, a.y - b.y); }
Spot along(Spot from, double degrees, double metres) {
  return {from.x + std::cos(degrees * M_PI / 180) * metres, from.y + std::sin(degrees * M_PI / 180) * metres};
}
double onGrid(double v, double step) { return std::round(v / step) * step; }

}  // namespace

Snap snapTo(Spot hand, const SnapField& field, const Network& network, const QString& gridWords) {
  Snap snap{hand, noId, {}};
  if (field.from && (field.length_m || field.direction)) {
    const Spot from = *field.from;
    const double d = away(hand, from), own = std::atan2(hand.y - from.y, hand.x - from.x) * 180 / M_PI;
    // A typed length in a direction of the hand's takes the nearest 15° when it is near enough.
    const double near = onGrid(own, 15);
    const double degrees =
        field.direction ? *field.direction
        : !field.free && std::abs(own - near) * M_PI / 180 * std::max(d, 1e-9) < field.reach_m ? near
                                                                                               : own;
    snap.at = along(from, degrees, field.length_m ? *field.length_m : std::max(d, field.grid_m));
    snap.words = QString("%1°").arg(std::round(degrees < 0 ? degrees + 360 : degrees));
    return snap;
  }
  if (field.free) {
    snap.words = QString();
    return snap;
  }
  if (field.from) {
    const Spot from = *field.from;
    const double d = away(hand, from);
    if (d > 2 * field.reach_m) {
      const double own = std::atan2(hand.y - from.y, hand.x - from.x) * 180 / M_PI, near = onGrid(own, 15);
      const Spot ray = along(from, near, d);
      if (away(ray, hand) < field.reach_m) {
        // Along the ray by steps of the grid, so that round lengths come by themselves; in line with a point
        // if one is near.
        snap.at = along(from, near, std::max(field.grid_m, onGrid(d, field.grid_m)));
        const auto degrees = static_cast<int>(std::lround(near < 0 ? near + 360 : near)) % 360;
        snap.words = QString("%1°").arg(degrees);
        for (const auto& [id, spot] : *field.points) {
          const bool across = degrees % 180 == 0, upright = degrees % 180 == 90;
          if (across && std::abs(spot.x - hand.x) < field.reach_m / 2)
            return {{spot.x, from.y},
                    noId,
                    QString("%1°, vertical with %2")
                        .arg(degrees)
                        .arg(QString::fromStdString(network.at(id).name))};
          if (upright && std::abs(spot.y - hand.y) < field.reach_m / 2)
            return {{from.x, spot.y},
                    noId,
                    QString("%1°, horizontal with %2")
                        .arg(degrees)
                        .arg(QString::fromStdString(network.at(id).name))};
        }
        return snap;
      }
    }
  }
  snap.at = {onGrid(hand.x, field.grid_m), onGrid(hand.y, field.grid_m)};
  snap.words = gridWords;
  double bestX = field.reach_m / 2, bestY = field.reach_m / 2;
  Id plumb = noId, level = noId;
  for (const auto& [id, spot] : *field.points) {
    if (std::abs(spot.x - hand.x) < bestX) bestX = std::abs(spot.x - hand.x), snap.at.x = spot.x, plumb = id;
    if (std::abs(spot.y - hand.y) < bestY) bestY = std::abs(spot.y - hand.y), snap.at.y = spot.y, level = id;
  }
  if (plumb != noId || level != noId) {
    snap.words.clear();
    if (level != noId)
      snap.words = QString("horizontal with %1").arg(QString::fromStdString(network.at(level).name));
    if (plumb != noId)
      snap.words += (snap.words.isEmpty() ? "" : ", ") +
                    QString("vertical with %1").arg(QString::fromStdString(network.at(plumb).name));
  }
  return snap;
}

}  // namespace conduit::desktop

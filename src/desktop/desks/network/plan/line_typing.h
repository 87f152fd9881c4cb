// What has been typed of the piece of line being drawn: length, rise, direction, in any order.
#pragma once

#include <QString>
#include <optional>

#include "quantity/units.h"

namespace conduit::desktop {

enum class LinePart { length, rise, direction };

class LineTyping {
 public:
  /// Takes an entry: "12.4", "40 ft" (a length), "3.1 up", "2 down" (a rise), "45°", "45 deg" (from the east,
  /// to the left), or several of them: "12.4 3 up 45°". A bare number is what `as` says. Returns why not, or
  /// an empty text.
  [[nodiscard]] QString take(const QString& entry, LinePart as, const UnitSet& units);
  void clear();
  /// Changes the rise by a step, as typed in metres or feet of the set.
  void stepRise(double by_m, const UnitSet& units);

  [[nodiscard]] const QString& length() const { return length_; }  // as typed
  [[nodiscard]] const QString& rise() const { return rise_; }      // as typed, negative downward
  [[nodiscard]] std::optional<double> length_m(const UnitSet& units) const;
  [[nodiscard]] double rise_m(const UnitSet& units) const;
  [[nodiscard]] std::optional<double> direction_deg() const { return direction_; }
  [[nodiscard]] bool empty() const { return length_.isEmpty() && rise_.isEmpty() && !direction_; }

 private:
  QString length_, rise_;
  std::optional<double> direction_;
};

}  // namespace conduit::desktop

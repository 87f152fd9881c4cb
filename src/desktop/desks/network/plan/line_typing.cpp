#include "plan/line_typing.h"

#include <QRegularExpression>
#include <cmath>

#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {

QString LineTyping::take(const QString& entry, LinePart as, const UnitSet& units) {
  LineTyping next = *this;
  QString rest = entry.trimmed();
  // Directions and rises are known by their words; what is left is the bare entry.
  static const QRegularExpression angle(R"((-?\d+(?:[.,]\d+)?)\s*(?:°|deg\b))"),
      climb(R"((?:^|\s)([^\s]+(?:\s+(?:m|mm|cm|ft|in))?)\s*(up|down)\b)");
  if (const auto m = angle.match(rest); m.hasMatch()) {
    next.direction_ = QString(m.captured(1)).replace(',', '.').toDouble();
    rest.remove(m.capturedStart(), m.capturedLength());
  }
  auto readable = [&](const QString& text, Measure measure) {
    const auto given = parse(text.toStdString(), measure, &units.unitFor(measure));
    return given && given->basis == Basis::direct && std::isfinite(given->value);
  };
  if (const auto m = climb.match(rest); m.hasMatch()) {
    const QString height = m.captured(1);
    if (!readable(height, Measure::headDrop)) return QString("\"%1\" is not a height").arg(height);
    next.rise_ = m.captured(2) == "down" ? "-" + height : height;
    rest.remove(m.capturedStart(), m.capturedLength());
  }
  rest = rest.trimmed();
  if (!rest.isEmpty()) {
    if (as == LinePart::direction) {
      bool number = false;
      next.direction_ = QString(rest).replace(',', '.').toDouble(&number);
      if (!number) return QString("\"%1\" is not a direction in degrees").arg(rest);
    } else if (!readable(rest, as == LinePart::rise ? Measure::headDrop : Measure::length)) {
      return QString("\"%1\" is not a valid %2").arg(rest, as == LinePart::rise ? "height" : "length");
    } else if (as == LinePart::length && rest.startsWith('-')) {
      return QString("a length cannot be negative; type a fall as \"%1 down\"").arg(rest.mid(1));
    } else {
      (as == LinePart::rise ? next.rise_ : next.length_) = rest;
    }
  }
  *this = next;
  return {};
}

void LineTyping::clear() { *this = LineTyping(); }

void LineTyping::stepRise(double by_m, const UnitSet& units) {
  const double now = std::round((rise_m(units) + by_m) * 1000) / 1000;
  rise_ = std::abs(now) < 1e-9 ? QString() : QString::fromStdString(exactText(now, Measure::headDrop, units));
}

std::optional<double> LineTyping::length_m(const UnitSet& units) const {
  if (length_.isEmpty()) return std::nullopt;
  const auto given = parse(length_.toStdString(), Measure::length, &units.unitFor(Measure::length));
  return given ? std::optional(given->value) : std::nullopt;
}

double LineTyping::rise_m(const UnitSet& units) const {
  if (rise_.isEmpty()) return 0.0;
  const auto given = parse(rise_.toStdString(), Measure::headDrop, &units.unitFor(Measure::headDrop));
  return given ? given->value : 0.0;
}

}  // namespace conduit::desktop

// Round numbers for scales, bars and grids.
#pragma once

#include <QString>
#include <algorithm>
#include <cmath>

#include "quantity/format.h"

namespace conduit::desktop {

/// A round number at or above v: 1, 1.5, 2, 2.5, 3, 4, 5, 6, 8 times a power of ten; 1 where v is not
/// positive.
[[nodiscard]] inline double roundUp(double v) {
  if (!(v > 0)) return 1.0;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double f : {1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0})
    if (f * power >= v * 0.999) return f * power;
  return 10 * power;
}

/// Digits without zeros at the end that say nothing: "60", "0.14", "3 573".
[[nodiscard]] inline QString shortNumber(double v, int significant = 4) {
  QString words = QString::fromStdString(digits(v, significant));
  if (words.contains('.') && !words.contains('e')) {
    while (words.endsWith('0')) words.chop(1);
    if (words.endsWith('.')) words.chop(1);
  }
  return words;
}

/// A number as it is written, its thousands apart: "1000" is "1 000".
[[nodiscard]] inline QString withThousands(QString written) {
  const qsizetype point = written.indexOf('.');
  qsizetype first = 0;
  while (first < written.size() && !written[first].isDigit()) ++first;
  if (written.contains('e')) return written;
  for (qsizetype at = (point < 0 ? written.size() : point) - 3; at > first; at -= 3)
    written.insert(at, QChar(0x202f));
  return written;
}

/// A step of 1, 2 or 5 times a power of ten that goes at most `about` times into the span.
[[nodiscard]] inline double niceStep(double span, int about) {
  const double raw = span / about, power = std::pow(10.0, std::floor(std::log10(std::max(raw, 1e-9))));
  for (const double f : {1.0, 2.0, 5.0, 10.0})
    if (f * power >= raw) return f * power;
  return 10 * power;
}

}  // namespace conduit::desktop

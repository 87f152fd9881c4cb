#include "quantity/format.h"

#include <fmt/format.h>

#include <cmath>

#include "quantity/parse.h"

namespace conduit {

std::string digits(double number, int significant, double noise) {
  if (!std::isfinite(number)) return "–";
  if (std::abs(number) < noise) return "0";
  const int whole = static_cast<int>(std::floor(std::log10(std::abs(number)))) + 1;
  if (whole > 9 || whole < -4) return fmt::format("{:.{}g}", number, significant);
  std::string text = fmt::format("{:.{}f}", number, std::max(0, significant - whole));
  // Rounding may have lengthened the number ("99.995" -> "100.00"): one figure too many is then taken off.
  const auto point = text.find('.');
  std::size_t end = point == std::string::npos ? text.size() : point;
  const std::size_t begin = text[0] == '-' ? 1 : 0;
  for (std::size_t i = end; i > begin + 3 && end - begin > 3;) {
    i -= 3;
    text.insert(i, "\u202f");
  }
  if (text[0] == '-') text.replace(0, 1, "−");
  return text;
}

double inUnit(double si, const Unit& unit) { return (si - unit.offset) / unit.factor; }

std::string asNumber(double si, Measure measure, const UnitSet& units, int significant) {
  return digits(inUnit(si, units.unitFor(measure)), significant);
}

std::string withUnit(double si, Measure measure, const UnitSet& units, int significant) {
  const Unit& unit = units.unitFor(measure);
  const std::string text = asNumber(si, measure, units, significant);
  return unit.symbol.empty() ? text : fmt::format("{} {}", text, unit.symbol);
}

std::string exactText(double si, Measure measure, const UnitSet& units) {
  const Unit& unit = units.unitFor(measure);
  for (int precision = 4; precision <= 17; ++precision) {
    std::string text = fmt::format("{:.{}g}", inUnit(si, unit), precision);
    if (!unit.symbol.empty()) text += fmt::format(" {}", unit.symbol);
    if (const auto back = parse(text, measure); back && (back->value == si || precision == 17)) return text;
  }
  return fmt::format("{:.17g}", si);
}

std::string sayBack(const Given& given, Measure measure) {
  if (measure != Measure::gaugePressure || given.basis != Basis::direct) return given.typed;
  for (std::string_view bare : {"bar", "kPa", "MPa", "psi", "Pa", "mbar", "atm"})
    if (given.typed.size() > bare.size() && given.typed.ends_with(bare)) return given.typed + " g";
  return given.typed;
}

}  // namespace conduit

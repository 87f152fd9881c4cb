#include "quantity/format.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <string_view>

#include "quantity/parse.h"
#include "quantity/tens.h"

namespace conduit {

namespace {

// `size` · 10^decimals, rounded as the exact number is. Where the product is so near to a half that its own
// rounding could decide, the library is asked for exact decimals: a report of a million numbers spends most
// of its time here.
std::uint64_t roundedAt(double size, int decimals) {
  const double scaled = size * tens[static_cast<std::size_t>(decimals)];
  const double down = std::floor(scaled), above = scaled - down;
  if (scaled < 1e14 && std::abs(above - 0.5) > scaled * 4e-16)
    return static_cast<std::uint64_t>(down) + (above > 0.5 ? 1 : 0);
  std::string text = fmt::format("{:.{}f}", size, decimals);
  std::erase(text, '.');
  std::uint64_t whole = 0;
  std::from_chars(text.data(), text.data() + text.size(), whole);
  return whole;
}

}  // namespace

std::string digits(double number, int significant, double noise) {
  if (!std::isfinite(number)) return "–";
  const double size = std::abs(number);
  if (size < noise) return "0";
  if (!(size >= 1e-5 && size < 1e9)) return fmt::format("{:.{}g}", number, significant);
  // Digits before the point; below 0.1 the noughts behind it, counted down.
  int whole = size >= 1 ? 1 : 0;
  while (whole > 0 && size >= tens[static_cast<std::size_t>(whole)]) ++whole;
  static constexpr std::array<double, 5> parts{1e-1, 1e-2, 1e-3, 1e-4, 1e-5};
  while (whole <= 0 && size < parts[static_cast<std::size_t>(-whole)]) --whole;
  significant = std::min(significant, 13);
  int decimals = std::max(0, significant - whole);
  std::uint64_t scaled = roundedAt(size, decimals);
  // Rounding may have lengthened the number ("99.995" -> "100.00"): the nought too many is taken off.
  if (decimals > 0 && scaled >= static_cast<std::uint64_t>(tens[static_cast<std::size_t>(significant)]))
    scaled /= 10, --decimals;
  std::array<char, 64> text;
  auto at = text.end();
  const auto put = [&](std::string_view mark) { at = std::copy_backward(mark.begin(), mark.end(), at); };
  for (int k = -decimals; scaled > 0 || k <= 0; ++k) {
    if (k == 0 && decimals > 0) *--at = '.';
    if (k > 0 && k % 3 == 0) put("\u202f");
    *--at = static_cast<char>('0' + scaled % 10);
    scaled /= 10;
  }
  if (number < 0) put("−");
  return {at, text.end()};
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

std::string counted(std::size_t things) { return digits(static_cast<double>(things), 1); }

std::string withoutZeros(std::string number) {
  if (number.find('.') == std::string::npos) return number;
  number.erase(number.find_last_not_of('0') + 1);
  if (number.ends_with('.')) number.pop_back();
  return number;
}
std::string givenNumber(double si, Measure measure, const UnitSet& units) {
  return withoutZeros(asNumber(si, measure, units, 5));
}
std::string givenWithUnit(double si, Measure measure, const UnitSet& units) {
  const auto symbol = units.unitFor(measure).symbol;
  return symbol.empty() ? givenNumber(si, measure, units)
                        : fmt::format("{} {}", givenNumber(si, measure, units), symbol);
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

Given exactGiven(double si, Measure measure, const UnitSet& units) {
  return {.value = si, .typed = exactText(si, measure, units)};
}

namespace {

// A single number with its unit, of more figures than anybody types: rounded.
std::string inFewFigures(const std::string& typed) {
  const std::size_t end = std::min(typed.find(' '), typed.size());
  double value = 0.0;
  const auto [stop, fault] = std::from_chars(typed.data(), typed.data() + end, value);
  const auto figures = std::count_if(typed.data(), typed.data() + std::min(end, typed.find('e')),
                                     [](char c) { return c >= '0' && c <= '9'; });
  if (fault != std::errc() || stop != typed.data() + end || figures <= 9) return typed;
  return fmt::format("{:.6g}", value) + typed.substr(end);
}

}  // namespace

std::string sayBack(const Given& given, Measure measure) {
  const std::string said = inFewFigures(given.typed);
  if (measure != Measure::gaugePressure || given.basis != Basis::direct) return said;
  for (std::string_view bare : {"bar", "kPa", "MPa", "psi", "Pa", "mbar", "atm"})
    if (said.size() > bare.size() && said.ends_with(bare)) return said + " g";
  return said;
}

}  // namespace conduit

#include "parts/rated.h"

#include <fmt/format.h>

#include <cmath>

#include "quantity/format.h"

namespace conduit::rated {

Prepared prepare(const Values& values, std::span<const Field> fields, Key<PressureDrop> drop,
                 const Setting& setting) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (!prepared.missing.empty()) return prepared;
  const auto& m = setting.medium;
  const double q = get(values, flow, m)->si(),
               n = getOrFallback(values, fields, exponent, m).value_or(Number::fromSi(2.0)).si();
  const double h = m.columnOf(get(values, drop, m)->si()) *
                   getOrFallback(values, fields, fouling, m).value_or(Number::fromSi(1.0)).si();
  prepared.branches.push_back({0, 1, std::make_unique<PowerLaw>(h / std::pow(q, n), n, q)});
  return prepared;
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Flow not determined.";
  return fmt::format("Pressure drop {} at {}, {} % of rated flow.",
                     withUnit(std::abs(*dp), Measure::pressureDrop, units, 3),
                     withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                     digits(std::abs(*q) / get(*r.values, flow, r.setting->medium)->si() * 100, 3));
}

}  // namespace conduit::rated

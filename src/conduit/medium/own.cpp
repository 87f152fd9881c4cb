// The engineer's own liquid: at one state, or by a table over temperature.
#include <fmt/format.h>

#include <cmath>

#include "fields/keys.h"
#include "medium/family.h"

namespace conduit {
namespace {

constexpr std::string_view ofOne[] = {key::density, key::viscosity, key::vapourPressure,
                                      key::criticalPressure};
constexpr std::string_view ofTable[] = {key::temperature, key::properties};

Result<Liquid> oneState(const Asked& asked) {
  const auto rho = asked.value(key::density), nu = asked.value(key::viscosity);
  if (!rho || !nu) {
    const std::string field = rho ? key::viscosity : key::density;
    return tl::unexpected(Problem{{"job", field},
                                  fmt::format("the user-defined liquid needs a {}", field),
                                  {{fmt::format("Enter the liquid's {}", field), {}, {"job", field}}}});
  }
  Liquid liquid;
  liquid.density_kgm3 = *rho;
  liquid.viscosity_m2s = *nu;
  const auto vapour = asked.value(key::vapourPressure);
  liquid.vapour_pa = vapour.value_or(0.0), liquid.vapourKnown = vapour.has_value();
  liquid.critical_pa = asked.value(key::criticalPressure);
  liquid.name = "user-defined liquid";
  return liquid;
}

Result<Liquid> byTable(const Asked& asked) {
  const std::vector<PropertyRow>& rows = asked.properties;
  const auto refused = [&](const std::string& field, const std::string& what) {
    return tl::unexpected(Problem{{"job", field}, what, {{"Go to the liquid", {}, {"job", field}}}});
  };
  if (rows.size() < 2) return refused(key::properties, "the property table needs at least two rows");
  for (std::size_t i = 0; i + 1 < rows.size(); ++i)
    if (rows[i + 1].temperature_c <= rows[i].temperature_c)
      return refused(key::properties,
                     fmt::format("temperatures in the property table must increase: see row {}", i + 2));
  const double t = *asked.value(key::temperature), least = rows.front().temperature_c,
               most = rows.back().temperature_c;
  if (t < least || t > most)
    return refused(key::temperature, fmt::format("the property table covers {} to {} °C, not {} °C",
                                                 shortly(least), shortly(most), shortly(t)));
  std::size_t i = 0;
  while (i + 2 < rows.size() && t > rows[i + 1].temperature_c) ++i;
  const PropertyRow &a = rows[i], &b = rows[i + 1];
  const double share = (t - a.temperature_c) / (b.temperature_c - a.temperature_c);
  const auto straight = [&](double x, double y) { return x + share * (y - x); };
  Liquid liquid;
  liquid.density_kgm3 = straight(a.density_kgm3, b.density_kgm3);
  liquid.viscosity_m2s = std::exp(straight(std::log(a.viscosity_m2s), std::log(b.viscosity_m2s)));
  liquid.vapourKnown = a.vapour_pa || b.vapour_pa;
  const double va = a.vapour_pa.value_or(b.vapour_pa.value_or(0.0)), vb = b.vapour_pa.value_or(va);
  liquid.vapour_pa = va > 0 && vb > 0 ? std::exp(straight(std::log(va), std::log(vb))) : straight(va, vb);
  liquid.temperature_c = t;
  liquid.name = fmt::format("user-defined liquid at {} °C", shortly(t));
  liquid.source = "user-defined table";
  return liquid;
}

}  // namespace

extern const Family ownLiquidFamily, ownTableFamily;
constinit const Family ownLiquidFamily{"own liquid", ofOne, oneState};
constinit const Family ownTableFamily{"own table", ofTable, byTable};

}  // namespace conduit

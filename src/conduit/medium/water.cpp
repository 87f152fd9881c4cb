#include "fluid/water.h"

#include <fmt/format.h>

#include "fields/keys.h"
#include "medium/family.h"

namespace conduit {
namespace {

constexpr std::string_view reads[] = {key::temperature};

Result<Liquid> at(const Asked& asked) {
  const auto given = temperatureWithin(asked, "water", water::least_c, water::most_c);
  if (!given) return tl::unexpected(given.error());
  const auto t = Temperature::fromSi(*given);
  Liquid liquid;
  liquid.density_kgm3 = water::density(t).si();
  liquid.viscosity_m2s = water::viscosity(t).si();
  liquid.vapour_pa = water::vapourPressure(t).si();
  liquid.critical_pa = water::critical_pa;
  liquid.temperature_c = t.si();
  liquid.molarMass_kgkmol = 18.015268;  // IAPWS
  liquid.name = fmt::format("water at {} °C", shortly(t.si()));
  liquid.source =
      "density Kell 1975 (0.02 %), viscosity IAPWS R12-08 (1 %), vapour pressure Wagner and Pruss 2002 (0.1 "
      "%)";
  return liquid;
}

}  // namespace

extern const Family waterFamily;
constinit const Family waterFamily{"water", reads, at};

}  // namespace conduit

#include "quantity/units.h"

#include <array>

#include "quantity/words.h"

namespace conduit {
namespace {

// Exact by definition unless noted: inch 25.4 mm, US gallon 231 in3, pound 0.45359237 kg, psi = lbf/in2 (NIST
// SP 811).
constexpr double inch = 0.0254, foot = 0.3048, gallon = 231 * inch * inch * inch, imperialGallon = 4.54609e-3;
constexpr double pound = 0.45359237, psi = pound * standardGravity_ms2 / (inch * inch), barrel = 42 * gallon;
constexpr double waterColumn = 1000.0 * standardGravity_ms2;  // conventional metre of water, Pa
constexpr double mercuryMm = 133.322387415;                   // conventional, ISO 80000-4

constexpr std::array volumeFlow{Unit{"L/s", "l/s lps", 1e-3},
                                Unit{"m³/h", "m3/h cmh", 1.0 / 3600},
                                Unit{"m³/s", "m3/s cms", 1.0},
                                Unit{"L/min", "l/min lpm", 1e-3 / 60},
                                Unit{"L/h", "l/h", 1e-3 / 3600},
                                Unit{"m³/d", "m3/d m3/day", 1.0 / 86400},
                                Unit{"ML/d", "Ml/d Mld", 1000.0 / 86400},
                                Unit{"mL/s", "ml/s", 1e-6},
                                Unit{"gpm", "gal/min usgpm", gallon / 60},
                                Unit{"gpd", "gal/d", gallon / 86400},
                                Unit{"mgd", "MGD", 1e6 * gallon / 86400},
                                Unit{"ft³/s", "ft3/s cfs", foot* foot* foot},
                                Unit{"ft³/min", "ft3/min cfm", foot* foot* foot / 60},
                                Unit{"bbl/d", "bpd bbl/day", barrel / 86400},
                                Unit{"bbl/h", "bph", barrel / 3600},
                                Unit{"igpm", "imp-gal/min", imperialGallon / 60},
                                Unit{"kg/s", "", 1.0, 0.0, Basis::mass},
                                Unit{"kg/h", "", 1.0 / 3600, 0.0, Basis::mass},
                                Unit{"t/h", "tonne/h", 1.0 / 3.6, 0.0, Basis::mass},
                                Unit{"lb/h", "lbm/h pph", pound / 3600, 0.0, Basis::mass},
                                Unit{"lb/s", "lbm/s", pound, 0.0, Basis::mass},
                                Unit{"kmol/h", "", 1.0 / 3600, 0.0, Basis::molar},
                                Unit{"kmol/s", "", 1.0, 0.0, Basis::molar},
                                Unit{"mol/s", "", 1e-3, 0.0, Basis::molar},
                                Unit{"lbmol/h", "", pound / 3600, 0.0, Basis::molar}};

#define CONDUIT_PRESSURE_SIZES(suffix, alias, basis)                                                    \
  Unit{"bar" suffix, "bar" alias, 1e5, 0.0, basis}, Unit{"kPa" suffix, "kpa" alias, 1e3, 0.0, basis},   \
      Unit{"MPa" suffix, "mpa" alias, 1e6, 0.0, basis}, Unit{"Pa" suffix, "pa" alias, 1.0, 0.0, basis}, \
      Unit{"mbar" suffix, "mbar" alias, 100.0, 0.0, basis},                                             \
      Unit{"psi" suffix, "psi" alias, psi, 0.0, basis},                                                 \
      Unit{"atm" suffix, "atm" alias, 101325.0, 0.0, basis}, Unit {                                     \
    "kgf/cm²" suffix, "kgf/cm2" alias, 1e4 * standardGravity_ms2, 0.0, basis                            \
  }

constexpr std::array gaugePressure{CONDUIT_PRESSURE_SIZES(" g", "g", Basis::direct),
                                   CONDUIT_PRESSURE_SIZES("", "", Basis::direct),
                                   CONDUIT_PRESSURE_SIZES(" a", "a", Basis::absolute),
                                   Unit{"m", "metre metres", 1.0, 0.0, Basis::column},
                                   Unit{"ft", "feet", foot, 0.0, Basis::column},
                                   Unit{"mH2O", "mwc", waterColumn},
                                   Unit{"inH2O", "", inch* waterColumn},
                                   Unit{"mmHg", "torr", mercuryMm},
                                   Unit{"inHg", "", 25.4 * mercuryMm}};
constexpr std::array absolutePressure{CONDUIT_PRESSURE_SIZES(" a", "a", Basis::direct),
                                      CONDUIT_PRESSURE_SIZES("", "", Basis::direct),
                                      CONDUIT_PRESSURE_SIZES(" g", "g", Basis::gauge),
                                      Unit{"mmHg", "torr", mercuryMm}, Unit{"inHg", "", 25.4 * mercuryMm}};
constexpr std::array pressureDrop{
    CONDUIT_PRESSURE_SIZES("", "", Basis::direct), Unit{"m", "metre metres", 1.0, 0.0, Basis::column},
    Unit{"ft", "feet", foot, 0.0, Basis::column},  Unit{"mH2O", "mwc", waterColumn},
    Unit{"inH2O", "", inch* waterColumn},          Unit{"mmHg", "torr", mercuryMm}};
constexpr std::array headDrop{
    Unit{"m", "metre metres", 1.0}, Unit{"ft", "feet", foot},
    Unit{"mm", "", 1e-3},           Unit{"cm", "", 1e-2},
    Unit{"in", "inch", inch},       CONDUIT_PRESSURE_SIZES("", "", Basis::columnPressure)};
#undef CONDUIT_PRESSURE_SIZES

constexpr std::array height{Unit{"m", "metre metres masl", 1.0},
                            Unit{"ft", "feet '", foot},
                            Unit{"in", "inch inches \"", inch},
                            Unit{"mm", "", 1e-3},
                            Unit{"cm", "", 1e-2},
                            Unit{"km", "", 1e3}};
constexpr std::array length{Unit{"m", "metre metres meter", 1.0},
                            Unit{"mm", "", 1e-3},
                            Unit{"cm", "", 1e-2},
                            Unit{"km", "", 1e3},
                            Unit{"ft", "feet foot '", foot},
                            Unit{"in", "inch inches \"", inch},
                            Unit{"yd", "yard", 0.9144},
                            Unit{"mi", "mile miles", 1609.344}};
constexpr std::array bore{Unit{"mm", "", 1e-3}, Unit{"in", "inch inches \"", inch}, Unit{"m", "metre", 1.0},
                          Unit{"cm", "", 1e-2}, Unit{"ft", "feet '", foot}};
constexpr std::array roughness{Unit{"mm", "", 1e-3},         Unit{"µm", "um micron", 1e-6},
                               Unit{"m", "", 1.0},           Unit{"in", "inch \"", inch},
                               Unit{"mil", "", inch / 1000}, Unit{"ft", "", foot}};
constexpr std::array area{
    Unit{"m²", "m2", 1.0},    Unit{"ft²", "ft2 sqft", foot* foot}, Unit{"ha", "", 1e4},
    Unit{"mm²", "mm2", 1e-6}, Unit{"in²", "in2", inch* inch},      Unit{"acre", "acres", 4046.8564224}};
constexpr std::array velocity{Unit{"m/s", "mps", 1.0}, Unit{"ft/s", "fps", foot}, Unit{"mm/s", "", 1e-3},
                              Unit{"m/h", "", 1.0 / 3600}, Unit{"ft/min", "fpm", foot / 60}};
constexpr std::array viscosity{Unit{"mm²/s", "mm2/s cSt cst", 1e-6}, Unit{"m²/s", "m2/s", 1.0},
                               Unit{"St", "stokes", 1e-4}, Unit{"ft²/s", "ft2/s", foot* foot}};
constexpr std::array density{Unit{"kg/m³", "kg/m3", 1.0}, Unit{"g/cm³", "g/cm3 g/mL kg/L", 1000.0},
                             Unit{"lb/ft³", "lb/ft3", pound / (foot * foot * foot)}};
constexpr std::array power{Unit{"kW", "kw", 1e3}, Unit{"W", "w", 1.0}, Unit{"MW", "", 1e6},
                           Unit{"hp", "bhp", 550 * foot* pound* standardGravity_ms2}};
constexpr std::array temperature{Unit{"°C", "C degC celsius", 1.0}, Unit{"°F", "F degF", 5.0 / 9, -160.0 / 9},
                                 Unit{"K", "kelvin", 1.0, -273.15}};
// Kv = 0.865 Cv, IEC 60534-2-1:2011 (N1).
constexpr std::array flowCoefficient{Unit{"Kv", "kv m3/h", 1.0}, Unit{"Cv", "cv", 0.865}};
constexpr std::array nozzleFactor{
    Unit{"L/min/√bar", "l/min/bar^0.5 L/min/bar^0.5 L/min/bar0.5 lpm/bar0.5", 1e-3 / 60 / 316.22776601683795},
    Unit{"gpm/√psi", "gpm/psi^0.5 gpm/psi0.5", gallon / 60 / 83.03467524571979},
    Unit{"m³/s/√Pa", "m3/s/Pa^0.5 m3/s/pa^0.5 m3/s/Pa0.5", 1.0}};
constexpr std::array ratio{Unit{"%", "percent", 0.01}, Unit{"", "", 1.0}};
constexpr std::array rotation{Unit{"rpm", "1/min r/min min-1", 1.0 / 60}, Unit{"Hz", "1/s rps", 1.0}};
constexpr std::array mass{Unit{"kg", "", 1.0}, Unit{"t", "tonne", 1000.0}, Unit{"lb", "lbm", pound},
                          Unit{"g", "", 1e-3}};
constexpr std::array duration{Unit{"h", "hour hours hr", 3600.0}, Unit{"min", "minute minutes", 60.0},
                              Unit{"s", "sec second seconds", 1.0}, Unit{"d", "day days", 86400.0}};
constexpr std::array number{Unit{"", "", 1.0}};

}  // namespace

std::span<const Unit> unitsOf(Measure measure) {
  switch (measure) {
    case Measure::volumeFlow: return volumeFlow;
    case Measure::gaugePressure: return gaugePressure;
    case Measure::absolutePressure: return absolutePressure;
    case Measure::pressureDrop: return pressureDrop;
    case Measure::headDrop: return headDrop;
    case Measure::head:
    case Measure::height: return height;
    case Measure::length: return length;
    case Measure::bore: return bore;
    case Measure::roughness: return roughness;
    case Measure::area: return area;
    case Measure::velocity: return velocity;
    case Measure::viscosity: return viscosity;
    case Measure::density: return density;
    case Measure::power: return power;
    case Measure::temperature: return temperature;
    case Measure::flowCoefficient: return flowCoefficient;
    case Measure::nozzleFactor: return nozzleFactor;
    case Measure::ratio: return ratio;
    case Measure::rotation: return rotation;
    case Measure::mass: return mass;
    case Measure::duration: return duration;
    case Measure::number: return number;
  }
  return number;
}

std::string_view nameOf(Measure measure) {
  switch (measure) {
    case Measure::volumeFlow: return "flow";
    case Measure::gaugePressure: return "gauge pressure";
    case Measure::absolutePressure: return "absolute pressure";
    case Measure::pressureDrop: return "pressure drop";
    case Measure::head: return "head";
    case Measure::headDrop: return "head";
    case Measure::height: return "height";
    case Measure::length: return "length";
    case Measure::bore: return "bore";
    case Measure::roughness: return "roughness";
    case Measure::area: return "area";
    case Measure::velocity: return "velocity";
    case Measure::viscosity: return "viscosity";
    case Measure::density: return "density";
    case Measure::power: return "power";
    case Measure::temperature: return "temperature";
    case Measure::flowCoefficient: return "valve flow coefficient";
    case Measure::nozzleFactor: return "nozzle K-factor";
    case Measure::ratio: return "percentage";
    case Measure::rotation: return "rotational speed";
    case Measure::mass: return "mass";
    case Measure::duration: return "time";
    case Measure::number: return "plain number";
  }
  return "number";
}

double resolve(const Given& given, Measure measure, const Medium& medium) {
  switch (given.basis) {
    case Basis::direct: return given.value;
    case Basis::mass: return medium.volumeFlowOf(given.value);
    case Basis::molar: return medium.volumeFlowOfMoles(given.value);
    case Basis::column: return medium.pressureOf(given.value);
    case Basis::columnPressure: return medium.columnOf(given.value);
    case Basis::absolute: return given.value - medium.atmosphere_pa;
    case Basis::gauge: return given.value + medium.atmosphere_pa;
  }
  (void)measure;
  return given.value;
}

UnitSet::UnitSet(std::string name, std::vector<std::pair<Measure, std::string_view>> choice)
    : name_(std::move(name)) {
  for (int m = 0; m <= static_cast<int>(Measure::number); ++m) {
    const auto units = unitsOf(static_cast<Measure>(m));
    const Unit* chosen = &units.front();
    for (const auto& [measure, symbol] : choice)
      if (measure == static_cast<Measure>(m))
        for (const Unit& unit : units)
          if (unit.symbol == symbol) chosen = &unit;
    units_.push_back(chosen);
  }
}

const Unit& UnitSet::unitFor(Measure measure) const { return *units_[static_cast<std::size_t>(measure)]; }

namespace {

const Unit* directUnit(Measure measure, std::string_view name) {
  const std::string padded = " " + std::string(name) + " ";
  for (const Unit& unit : unitsOf(measure))
    if (unit.basis == Basis::direct &&
        (unit.symbol == name || (" " + std::string(unit.aliases) + " ").find(padded) != std::string::npos))
      return &unit;
  return nullptr;
}

// "flow gpm": the measures of that name and the unit for each. "pressure kPa" means all three kinds of
// pressure.
std::vector<std::pair<Measure, const Unit*>> readOwn(std::string_view entry) {
  std::vector<std::pair<Measure, const Unit*>> found;
  std::size_t longest = 0;
  for (int m = 0; m <= static_cast<int>(Measure::number); ++m) {
    const auto measure = static_cast<Measure>(m);
    std::vector<std::string_view> names{nameOf(measure)};
    const bool pressure = measure == Measure::gaugePressure || measure == Measure::absolutePressure ||
                          measure == Measure::pressureDrop;
    if (pressure) names.emplace_back("pressure");
    for (const std::string_view name : names) {
      if (!entry.starts_with(name) || entry.size() <= name.size() || entry[name.size()] != ' ') continue;
      const std::string_view wanted = trimmed(entry.substr(name.size()));
      // Gauge and absolute are always said.
      const Unit* unit =
          pressure && measure != Measure::pressureDrop
              ? directUnit(measure, std::string(wanted) + (measure == Measure::gaugePressure ? " g" : " a"))
              : nullptr;
      if (!unit) unit = directUnit(measure, wanted);
      if (!unit || name.size() < longest) continue;
      if (name.size() > longest) found.clear();
      longest = name.size();
      found.emplace_back(measure, unit);
    }
  }
  return found;
}

template <class Visit>
void eachOwn(std::string_view own, Visit visit) {
  while (!own.empty()) {
    const auto end = own.find(';');
    if (const auto entry = trimmed(own.substr(0, end)); !entry.empty()) visit(entry);
    if (end == std::string_view::npos) return;
    own.remove_prefix(end + 1);
  }
}

}  // namespace

UnitSet UnitSet::with(std::string_view own) const {
  UnitSet set = *this;
  eachOwn(own, [&](std::string_view entry) {
    for (const auto& [measure, unit] : readOwn(entry)) set.units_[static_cast<std::size_t>(measure)] = unit;
  });
  return set;
}

std::string ownUnitsFault(std::string_view own) {
  std::string fault;
  eachOwn(own, [&](std::string_view entry) {
    if (fault.empty() && readOwn(entry).empty())
      fault = "\"" + std::string(entry) +
              "\" is not a quantity and a unit of it, such as \"flow gpm; pressure kPa\"";
  });
  return fault;
}

std::span<const UnitSet> UnitSet::all() {
  static const std::vector<UnitSet> sets{
      UnitSet("SI water", {}),
      UnitSet("SI process", {{Measure::volumeFlow, "m³/h"}, {Measure::pressureDrop, "bar"}}),
      UnitSet("US", {{Measure::volumeFlow, "gpm"},
                     {Measure::gaugePressure, "psi g"},
                     {Measure::absolutePressure, "psi a"},
                     {Measure::pressureDrop, "psi"},
                     {Measure::head, "ft"},
                     {Measure::headDrop, "ft"},
                     {Measure::height, "ft"},
                     {Measure::length, "ft"},
                     {Measure::bore, "in"},
                     {Measure::roughness, "in"},
                     {Measure::area, "ft²"},
                     {Measure::velocity, "ft/s"},
                     {Measure::density, "lb/ft³"},
                     {Measure::power, "hp"},
                     {Measure::temperature, "°F"},
                     {Measure::flowCoefficient, "Cv"},
                     {Measure::nozzleFactor, "gpm/√psi"}})};
  return sets;
}

const UnitSet* UnitSet::find(std::string_view name) {
  for (const UnitSet& set : all())
    if (set.name() == name) return &set;
  return nullptr;
}

const UnitSet& UnitSet::siWater() { return all().front(); }

}  // namespace conduit

// What can flow: one file for each family, which turns what the job says into the properties of a liquid.
//
//   const Result<Liquid> liquid = familyOf("sea water").at(asked);
//
// A new family is a file with its `at` and one line in families.cpp; the job's choice and its fields follow
// from that.
#pragma once

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "say/say.h"
#include "stock/stock.h"

namespace conduit {

/// A row of the engineer's own table of properties, SI and °C.
struct PropertyRow {
  double temperature_c, density_kgm3, viscosity_m2s;
  std::optional<double> vapour_pa;
};

/// What a family may ask of the job.
struct Asked {
  std::function<std::optional<double>(std::string_view)>
      value;                                          // of a field, SI; its default where none is given
  std::function<std::string(std::string_view)> text;  // of a field; empty where there is none
  std::vector<PropertyRow> properties;                // complete rows alone
  const Stock* stock = nullptr;
};

/// A liquid as it flows.
struct Liquid {
  double density_kgm3 = 0.0, viscosity_m2s = 0.0;  // kinematic
  double vapour_pa = 0.0;                          // absolute
  bool vapourKnown = true;                         // false: nobody has said it
  std::optional<double> critical_pa, temperature_c, molarMass_kgkmol;
  std::string name;    // "water at 10 °C"
  std::string source;  // whose equations, and how good they are
};

struct Family {
  std::string_view word;                    // the job's choice
  std::span<const std::string_view> reads;  // fields of the job that it asks for and others do not
  /// A given outside the range of its law, or one that is missing, is a Problem with its place in the job.
  Result<Liquid> (*at)(const Asked&);
};

/// In the order in which the job offers them; the first is what flows where nothing is said.
[[nodiscard]] std::span<const Family* const> families();
[[nodiscard]] std::span<const std::string_view> familyWords();
/// The first where there is none of that word.
[[nodiscard]] const Family& familyOf(std::string_view word);

/// The temperature asked for, refused outside what is known of `liquid`.
[[nodiscard]] Result<double> temperatureWithin(const Asked& asked, std::string_view liquid, double least_c,
                                               double most_c);
/// Refused below the freezing point, with the temperature at which it flows.
[[nodiscard]] Problem frozen(std::string_view liquid, double freezes_c, double at_c);
[[nodiscard]] std::string shortly(double v);  // four digits

}  // namespace conduit

// What the flanges of an element may stand: its class, of one material group, at the liquid's temperature.
#pragma once

#include "parts/part.h"

namespace conduit::flange {

inline constexpr std::string_view classKey = "flange class", materialKey = "flange material";
/// The first is taken where none is given.
inline constexpr std::string_view materials[] = {"carbon steel",           "stainless 304", "stainless 316",
                                                 "stainless 304L or 316L", "ductile iron",  "grey iron"};

/// Pressure that flanges of a class ("PN 16", "Class 150") may stand at a temperature, Pa gauge, straight
/// between rows: steel of ASME B16.5 (groups 1.1, 2.1, 2.2, 2.3) and EN 1092-1 (3E0), iron of ASME B16.42 and
/// EN 1092-2. All tables recalled, to be checked. Empty where the class is not one, has no table with that
/// material, or it is too warm for it.
[[nodiscard]] std::optional<double> rating_pa(std::string_view flangeClass, std::string_view material,
                                              double t_c);
/// Why it is no class; empty when it is one.
[[nodiscard]] std::string classFault(std::string_view text);
/// Rating by its class, of an element that says one; empty where none is said or it cannot be told.
[[nodiscard]] Limit ratingOf(const Values& values, const Setting& setting);
/// It says a class of which nothing can be told at the liquid's temperature.
[[nodiscard]] bool unknown(const Values& values, const Setting& setting);
/// The lesser of a rating and that of the flanges.
[[nodiscard]] Limit lesser(Limit rating, const Values& values, const Setting& setting);

[[nodiscard]] constexpr Field classField() {
  Field f = text(classKey, "PN 6 to PN 400 or Class 150 to 2500; the lower of it and the rating counts");
  f.fault = classFault;
  return f;
}
[[nodiscard]] constexpr Field materialField() {
  return onlyWhen(choice(materialKey, materials, "material group of the flanges"),
                  [](const Values& v) { return v.find(classKey) != nullptr; });
}

}  // namespace conduit::flange

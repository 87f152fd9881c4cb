// What a pipe's values say of it: its section, its take-off, and everything the loss needs.
#pragma once

#include "friction/section.h"
#include "parts/part.h"
#include "parts/take_off.h"

namespace conduit::pipe {

inline constexpr Key<Length> length{"length"};
inline constexpr Key<Bore> bore{"bore"}, innerPipe{"inner pipe"};
inline constexpr Key<Roughness> roughness{"roughness"};
inline constexpr Key<Number> hazenC{"C"}, manningN{"n"}, extraK{"K"};
inline constexpr Key<Length> sectionWidth{"section width"}, sectionHeight{"section height"};
inline constexpr std::string_view sections[] = {"round", "rectangular", "annular"};
/// Said of a pipe either way: a sizing may lay it or not.
inline constexpr std::string_view laidKey = "laid";
inline constexpr std::string_view sectionKey = "section", takeOffKey = "take-off", sizeKey = "size";

[[nodiscard]] bool isSection(const Values& values, std::size_t which);  // of `sections`
[[nodiscard]] bool isLaid(const Values& values);

/// Everything the loss needs, SI.
struct Line {
  double length_m = 0, bore_m = 0, roughness_m = 0, c = 0, n = 0, k = 0;
  double added_m = 0;                  // of length_m: equivalent lengths and allowance
  friction::Section section;           // bore_m is its hydraulic diameter
  double perRe = 0;                    // what fittings lose besides their K, as a K of this over Re
  double forwardK = 0, backwardK = 0;  // changes of bore at its ends, by the direction of the flow
};

/// Empty where its sizes are not given, or the inner pipe of an annulus does not fit.
[[nodiscard]] std::optional<friction::Section> sectionOf(const Values& values, const Setting& setting);
/// The bore, or the hydraulic diameter of a section that is not round, m.
[[nodiscard]] std::optional<double> boreOf(const Values& values, const Setting& setting);
/// Null when none is given.
[[nodiscard]] std::shared_ptr<const TakeOffRead> readTakeOff(const Values& values, const Setting& setting);
/// Null when none is given or it cannot be read.
[[nodiscard]] std::shared_ptr<const TakeOff> takeOffOf(const Values& values, const Setting& setting);
/// Empty where section or length is not given.
[[nodiscard]] std::optional<Line> lineOf(const Values& values, const Setting& setting,
                                         std::span<const EndPlace> ends);

}  // namespace conduit::pipe

// Reads a quantity as a person types it.
//
//   parse("250 m3/h", Measure::volumeFlow)   -> 0.06944 m3/s
//   parse("52 ft 6 in", Measure::length)     -> 16.002 m
//   parse("1,100 gpm", Measure::volumeFlow)  -> refused: both readings are offered
//
// Accepted: decimal point or comma, groups of three parted by blanks (also thin ones) or by the sign that is
// not the decimal one, exponents (1e-3), fractions (1/4, 1 1/2), superscripts (m³/h), compounds of one kind
// (52 ft 6 in).
#pragma once

#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "quantity/units.h"

namespace conduit {

/// Why a text is not a quantity. `word` is the part that could not be read; `could` what it might have been.
struct ParseError {
  std::string what;
  std::string word;
  std::vector<std::string> could;
  std::size_t at = 0;  // of the word in the text, bytes, where the reader knows it
};

/// `assumed` is the unit a bare number takes (null: a bare number is refused unless the measure has no unit).
[[nodiscard]] tl::expected<Given, ParseError> parse(std::string_view text, Measure measure,
                                                    const Unit* assumed = nullptr);
/// The number it is in this liquid, SI: what is typed as mass, moles, a column or a pressure is converted.
/// Refused too where that needs a molar mass that is not known.
[[nodiscard]] tl::expected<double, ParseError> parseIn(const Medium& medium, std::string_view text,
                                                       Measure measure, const Unit* assumed = nullptr);

}  // namespace conduit

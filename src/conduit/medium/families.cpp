#include <fmt/format.h>

#include <cmath>

#include "fields/keys.h"
#include "medium/family.h"

namespace conduit {

extern const Family waterFamily, stockFamily, ownLiquidFamily, seaWaterFamily, ethyleneGlycolFamily,
    propyleneGlycolFamily, ownTableFamily;

std::span<const Family* const> families() {
  static const Family* const all[] = {&waterFamily,    &stockFamily,          &ownLiquidFamily,
                                      &seaWaterFamily, &ethyleneGlycolFamily, &propyleneGlycolFamily,
                                      &ownTableFamily};
  return all;
}

std::span<const std::string_view> familyWords() {
  static const std::vector<std::string_view> words = [] {
    std::vector<std::string_view> all;
    for (const Family* f : families()) all.push_back(f->word);
    return all;
  }();
  return words;
}

const Family& familyOf(std::string_view word) {
  for (const Family* f : families())
    if (f->word == word) return *f;
  return *families().front();
}

std::string shortly(double v) { return fmt::format("{:.4g}", v); }

Result<double> temperatureWithin(const Asked& asked, std::string_view liquid, double least_c, double most_c) {
  const double t = *asked.value(key::temperature);
  if (t >= least_c && t <= most_c) return t;
  return tl::unexpected(Problem{{"job", key::temperature},
                                fmt::format("data for {} cover {} to {} °C, not {} °C", liquid,
                                            shortly(least_c), shortly(most_c), shortly(t)),
                                {}});
}

Problem frozen(std::string_view liquid, double freezes_c, double at_c) {
  const std::string to = fmt::format("{} °C", shortly(std::ceil(freezes_c * 10 + 1) / 10));
  return {{"job", key::temperature},
          fmt::format("{} freezes at {} °C; {} °C is below that", liquid, shortly(freezes_c), shortly(at_c)),
          {{fmt::format("Set the temperature to {}", to),
            {{"job", key::temperature, to}},
            {"job", key::temperature}}}};
}

}  // namespace conduit

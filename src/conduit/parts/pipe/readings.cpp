#include "parts/pipe/readings.h"

#include <cmath>

namespace conduit::pipe {

std::optional<double> velocity(const Reading& r) {
  if (!isLaid(*r.values)) return std::nullopt;
  const auto q = outcome::flow(r);
  const auto section = sectionOf(*r.values, *r.setting);
  return q && section ? std::optional(std::abs(*q) / section->area_m2) : std::nullopt;
}

std::optional<double> reynolds(const Reading& r) {
  const auto v = velocity(r);
  const auto d = boreOf(*r.values, *r.setting);
  return v ? std::optional(*v * *d / r.setting->viscosity_m2s) : std::nullopt;
}

std::optional<double> gradient(const Reading& r) {
  if (!isLaid(*r.values)) return std::nullopt;
  const auto h = outcome::headLoss(r);
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  return h && line && line->length_m > 0 ? std::optional(std::abs(*h) / line->length_m) : std::nullopt;
}

std::optional<double> wallPressure(const Reading& r, std::size_t i) {
  const auto p = endPressure_pa(r, i), v = velocity(r);
  return p && v ? std::optional(*p - r.setting->medium.dynamicPressure(*v)) : std::nullopt;
}

std::optional<double> greatestPressure(const Reading& r) {
  const auto a = wallPressure(r, 0), b = wallPressure(r, 1);
  return a && b ? std::optional(std::max(*a, *b)) : std::nullopt;
}

std::optional<double> sumOfK(const Reading& r) {
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  const auto q = outcome::flow(r), re = reynolds(r);
  if (!line) return std::nullopt;
  return line->k + (q && *q < 0 ? line->backwardK : line->forwardK) +
         (re && *re > 0 ? line->perRe / *re : 0.0);
}

}  // namespace conduit::pipe

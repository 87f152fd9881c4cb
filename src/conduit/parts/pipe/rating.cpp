#include "parts/pipe/rating.h"

#include <iterator>
#include <span>

#include "parts/flange.h"
#include "parts/pipe/line.h"
#include "stock/stock.h"

namespace conduit::pipe {

double threadDepth_m(double outside_m) {
  const double perInch = outside_m < 10.4e-3   ? 27
                         : outside_m < 17.3e-3 ? 18
                         : outside_m < 27e-3   ? 14
                         : outside_m < 61e-3   ? 11.5
                                               : 8;
  return 0.8 * 0.0254 / perInch;
}

namespace {

struct Warmth {
  double t_c, factor;
};
constexpr Warmth polyethylene[] = {{20, 1.0}, {30, 0.87}, {40, 0.74}},
                 pvcIso[] = {{25, 1.0}, {35, 0.8}, {45, 0.63}},
                 pvcAstm[] = {{73, 1.0},   {80, 0.88},  {90, 0.75},  {100, 0.62},
                              {110, 0.51}, {120, 0.40}, {130, 0.31}, {140, 0.22}};  // °F
constexpr double celsiusOf(double f) { return (f - 32) / 1.8; }
bool byAstm(const PipeSize& size) { return size.standard.starts_with("ASTM D1785"); }

}  // namespace

std::optional<double> derating(const PipeSize& size, double t_c) {
  const bool astm = byAstm(size);
  const std::span<const Warmth> rows = size.material == "polyethylene" ? std::span<const Warmth>(polyethylene)
                                       : size.material != "PVC-U"      ? std::span<const Warmth>()
                                       : astm                          ? std::span<const Warmth>(pvcAstm)
                                                                       : std::span<const Warmth>(pvcIso);
  const double t = astm ? t_c * 1.8 + 32 : t_c;
  if (rows.empty() || t <= rows.front().t_c) return 1.0;
  for (std::size_t i = 0; i + 1 < rows.size(); ++i)
    if (t <= rows[i + 1].t_c)
      return rows[i].factor +
             (t - rows[i].t_c) / (rows[i + 1].t_c - rows[i].t_c) * (rows[i + 1].factor - rows[i].factor);
  return std::nullopt;
}

double warmest_c(const PipeSize& size) {
  return size.material == "polyethylene" ? std::rbegin(polyethylene)->t_c
         : byAstm(size)                  ? celsiusOf(std::rbegin(pvcAstm)->t_c)
                                         : std::rbegin(pvcIso)->t_c;
}

const PipeSize* sizeOf(const Values& values, const Setting& setting) {
  const auto* name = values.get<std::string>(sizeKey);
  return name && setting.stock && !values.find(bore.text) ? setting.stock->pipe(*name) : nullptr;
}

namespace {

// Of the pipe alone.
Limit wallRating(const Values& values, const Setting& setting, const Limits& limits) {
  if (const Limit own = ownLimit(values, LimitId::ratingMost, setting.medium)) return own;
  const PipeSize* size = sizeOf(values, setting);
  if (!size || !size->rating_pa) return {};
  double most = *size->rating_pa;
  if (limits.threaded.value_or(false) && size->material.ends_with("steel")) {
    const double t = 0.875 * size->wall_m, left = t - threadDepth_m(size->outside_m);
    if (left <= 0) return {};
    most *= left / t * (size->outside_m - 0.8 * t) / (size->outside_m - 0.8 * left);
  }
  if (limits.threaded.value_or(false) && byAstm(*size)) {
    if (size->schedule != "80" && size->schedule != "120") return {};
    most /= 2;
  }
  const auto factor = derating(*size, setting.temperature_c.value_or(20.0));
  return factor ? Limit{most * *factor, LimitFrom::catalogue} : Limit{};
}

}  // namespace

Limit ratingOf(const Values& values, const Setting& setting, const Limits& limits) {
  return flange::lesser(wallRating(values, setting, limits), values, setting);
}

}  // namespace conduit::pipe

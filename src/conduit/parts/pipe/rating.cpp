#include "parts/pipe/rating.h"

#include <span>

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

std::optional<double> derating(std::string_view material, double t_c) {
  struct Row {
    double t_c, factor;
  };
  static constexpr Row polyethylene[] = {{20, 1.0}, {30, 0.87}, {40, 0.74}},
                       pvc[] = {{25, 1.0}, {35, 0.8}, {45, 0.63}};
  const std::span<const Row> rows = material == "polyethylene" ? std::span<const Row>(polyethylene)
                                    : material == "PVC-U"      ? std::span<const Row>(pvc)
                                                               : std::span<const Row>();
  if (rows.empty() || t_c <= rows.front().t_c) return 1.0;
  for (std::size_t i = 0; i + 1 < rows.size(); ++i)
    if (t_c <= rows[i + 1].t_c)
      return rows[i].factor +
             (t_c - rows[i].t_c) / (rows[i + 1].t_c - rows[i].t_c) * (rows[i + 1].factor - rows[i].factor);
  return std::nullopt;
}

const PipeSize* sizeOf(const Values& values, const Setting& setting) {
  const auto* name = values.get<std::string>(sizeKey);
  return name && setting.stock && !values.find(bore.text) ? setting.stock->pipe(*name) : nullptr;
}

Limit ratingOf(const Values& values, const Setting& setting, const Limits& limits) {
  if (const Limit own = ownLimit(values, LimitId::ratingMost, setting.medium)) return own;
  const PipeSize* size = sizeOf(values, setting);
  if (!size || !size->rating_pa) return {};
  double most = *size->rating_pa;
  if (limits.threaded.value_or(false) && size->material.ends_with("steel")) {
    const double t = 0.875 * size->wall_m, left = t - threadDepth_m(size->outside_m);
    if (left <= 0) return {};
    most *= left / t * (size->outside_m - 0.8 * t) / (size->outside_m - 0.8 * left);
  }
  const auto factor = derating(size->material, setting.temperature_c.value_or(20.0));
  return factor ? Limit{most * *factor, LimitFrom::catalogue} : Limit{};
}

}  // namespace conduit::pipe

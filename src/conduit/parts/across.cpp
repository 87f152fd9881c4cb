#include "parts/across.h"

#include <fmt/format.h>

#include <cmath>

#include "quantity/format.h"

namespace conduit::across {

std::optional<Across> of(const Reading& r) {
  // By the wall of the pipes, which is what the standard counts with; without a pipe as still water.
  const auto q = outcome::flow(r);
  const auto wall = [&](std::size_t i) {
    const auto reading = gaugeReading_pa(r, i), still = endPressure_pa(r, i);
    return still ? std::optional((reading ? *reading : *still) + r.setting->atmosphereAt(*r.ends[i].height_m))
                 : std::nullopt;
  };
  const auto a = r.ends.size() == 2 ? wall(0) : std::nullopt, b = r.ends.size() == 2 ? wall(1) : std::nullopt;
  if (!q || !a || !b) return std::nullopt;
  return *q >= 0 ? Across{*a, *b} : Across{*b, *a};
}

std::optional<double> cavitationIndex(const Reading& r) {
  const auto p = r.setting->vapourKnown ? of(r) : std::nullopt;
  return p && p->before_pa - p->after_pa > 1.0
             ? std::optional((p->before_pa - r.setting->vapour_pa) / (p->before_pa - p->after_pa))
             : std::nullopt;
}

std::optional<double> pressureRatio(const Reading& r) {
  const auto p = of(r);
  return p && p->after_pa > 0 && p->before_pa - p->after_pa > 1.0 ? std::optional(p->before_pa / p->after_pa)
                                                                  : std::nullopt;
}

namespace {

bool flows(const Reading& r) {
  const auto q = outcome::flow(r);
  return q && std::abs(*q) > 1e-9;
}

}  // namespace

void check(const Reading& r, std::span<const Field> fields, Checks& checks) {
  if (!flows(r)) return;
  const Limit least = ownOrUsual(*r.values, fields, LimitId::cavitationIndexLeast, r.setting->medium);
  if (const auto index = least ? cavitationIndex(r) : std::nullopt) {
    Check& c = checks.hold(CheckId::cavitationIndex, *index, least, {}, severityOf(least));
    if (checks.told(c))
      c.what = fmt::format("cavitation index of {} is {}, below {}", r.name, digits(*index, 3),
                           digits(*c.least, 3));
  }
  const Limit most = ownOrUsual(*r.values, fields, LimitId::dropRatioMost, r.setting->medium);
  if (const auto ratio = most ? pressureRatio(r) : std::nullopt) {
    Check& c = checks.hold(CheckId::dropRatio, *ratio, {}, most, severityOf(most));
    if (checks.told(c))
      c.what = fmt::format("{} takes {} : 1 of absolute pressure in one stage, above {} : 1", r.name,
                           digits(*ratio, 3), digits(*c.most, 3));
  }
}

std::vector<Lack> lacks(const Reading& r, std::span<const Field> fields) {
  if (r.setting->vapourKnown || !flows(r) ||
      !ownOrUsual(*r.values, fields, LimitId::cavitationIndexLeast, r.setting->medium))
    return {};
  return {{CheckId::cavitationIndex, "vapour pressure", true}};
}

std::optional<Working> working(const Reading& r, std::string_view key) {
  const auto p = of(r);
  if (!p) return std::nullopt;
  Working w;
  if (const auto index = cavitationIndex(r); key == "cavitation index" && index) {
    w.title = fmt::format("Cavitation index of {}", r.name);
    w.lines.push_back({"σ", "(p₁ − p_v)/(p₁ − p₂)",
                       fmt::format("({0:.12g} − {1:.12g})/({0:.12g} − {2:.12g})", p->before_pa,
                                   r.setting->vapour_pa, p->after_pa),
                       *index, "", "ISA-RP75.23; absolute static pressures in the adjacent pipes"});
    return w;
  }
  if (const auto ratio = pressureRatio(r); key == "pressure ratio" && ratio) {
    w.title = fmt::format("Pressure ratio of {}", r.name);
    w.lines.push_back({"r", "p₁/p₂", fmt::format("{:.12g}/{:.12g}", p->before_pa, p->after_pa), *ratio, "",
                       "absolute static pressures in the adjacent pipes"});
    return w;
  }
  return std::nullopt;
}

}  // namespace conduit::across

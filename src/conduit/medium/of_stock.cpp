// A liquid of the stock, between the temperatures that its two points of viscosity cover.
#include <fmt/format.h>

#include "fields/keys.h"
#include "fluid/stock_liquid.h"
#include "medium/family.h"

namespace conduit {
namespace {

constexpr std::string_view reads[] = {key::temperature, "liquid of the stock"};

Result<Liquid> at(const Asked& asked) {
  const std::string name = asked.text("liquid of the stock");
  const LiquidEntry* entry = asked.stock ? asked.stock->liquid(name) : nullptr;
  if (!entry)
    return tl::unexpected(Problem{
        {"job", "liquid of the stock"},
        name.empty() ? "no catalogue liquid chosen" : fmt::format("\"{}\" is not a catalogue liquid", name),
        {{"Choose the liquid", {}, {"job", "liquid of the stock"}}}});
  const auto given =
      temperatureWithin(asked, entry->liquid, stockliquid::least_c(*entry), stockliquid::most_c(*entry));
  if (!given) return tl::unexpected(given.error());
  if (entry->freezesAt_c && *given < *entry->freezesAt_c)
    return tl::unexpected(frozen(entry->liquid, *entry->freezesAt_c, *given));
  const auto t = Temperature::fromSi(*given);
  Liquid liquid;
  liquid.density_kgm3 = stockliquid::density(*entry, t).si();
  liquid.viscosity_m2s = stockliquid::viscosity(*entry, t).si();
  liquid.vapour_pa = stockliquid::vapourPressure(*entry, t).si();
  liquid.vapourKnown = entry->vapour_pa || entry->waterActivity;
  liquid.critical_pa = entry->critical_pa;
  liquid.temperature_c = t.si();
  liquid.name = fmt::format("{} at {} °C", entry->liquid, shortly(t.si()));
  liquid.source = fmt::format(
      "{}; viscosity by ASTM D341 or Andrade through two points (5 to 10 %), vapour pressure {}",
      entry->source,
      entry->waterActivity   ? "by the activity of its water (errs to the high side)"
      : !entry->reid.empty() ? "from the Reid vapour pressure by AP-42, 7.1 (recalled, to be checked)"
      : entry->vapour_pa     ? "by Clausius–Clapeyron (5 to 10 %)"
                             : "not known");
  return liquid;
}

}  // namespace

extern const Family stockFamily;
constinit const Family stockFamily{"stock liquid", reads, at};

}  // namespace conduit

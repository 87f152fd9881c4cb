// Sea water and the glycols: water with a share of something in it.
#include "fluid/mixtures.h"

#include <fmt/format.h>

#include "fields/keys.h"
#include "fluid/water.h"
#include "medium/family.h"

namespace conduit {
namespace {

constexpr std::string_view reads[] = {key::temperature, "share"};

struct Mixture {
  std::string_view word, other, in;  // "sea water", of "salt", in "sea water" or "water"
  double least_c, most_c, mostShare;
  std::function<double(double)> freezing_c;  // by share
};

// Temperature and share, both in range and above freezing.
Result<std::pair<Temperature, double>> within(const Asked& asked, const Mixture& m) {
  const auto share = asked.value("share");
  const std::string_view kind = m.word == "sea water" ? "salt" : "glycol";
  if (!share)
    return tl::unexpected(Problem{{"job", "share"},
                                  fmt::format("the concentration of {} is not given", kind),
                                  {{"Enter the concentration", {}, {"job", "share"}}}});
  if (*share > m.mostShare)
    return tl::unexpected(Problem{{"job", "share"},
                                  fmt::format("data for {} cover concentrations up to {} %, not {} %", m.word,
                                              shortly(m.mostShare * 100), shortly(*share * 100)),
                                  {}});
  const auto t = temperatureWithin(asked, m.word, m.least_c, m.most_c);
  if (!t) return tl::unexpected(t.error());
  if (const double freezes = m.freezing_c(*share); *t < freezes)
    return tl::unexpected(
        frozen(fmt::format("{} with {} % of {}", m.in, shortly(*share * 100), m.other), freezes, *t));
  return std::pair{Temperature::fromSi(*t), *share};
}

Liquid named(std::string_view word, Temperature t, double share) {
  Liquid liquid;
  liquid.critical_pa = water::critical_pa;
  liquid.temperature_c = t.si();
  liquid.name = fmt::format("{}, {} %, at {} °C", word, shortly(share * 100), shortly(t.si()));
  return liquid;
}

Result<Liquid> seaWater(const Asked& asked) {
  const auto given = within(asked, {"sea water", "salt", "sea water", seawater::least_c, seawater::most_c,
                                    seawater::mostShare, seawater::freezing_c});
  if (!given) return tl::unexpected(given.error());
  const auto [t, share] = *given;
  Liquid liquid = named("sea water", t, share);
  liquid.density_kgm3 = seawater::density(t, share).si();
  liquid.viscosity_m2s = seawater::viscosity(t, share).si();
  liquid.vapour_pa = seawater::vapourPressure(t, share).si();
  liquid.source = "Sharqawy, Lienhard and Zubair 2010: density 0.1 %, viscosity 1.5 %";
  return liquid;
}

template <glycol::Kind kind>
Result<Liquid> glycolAt(const Asked& asked) {
  constexpr bool ethylene = kind == glycol::Kind::ethylene;
  constexpr std::string_view word = ethylene ? "ethylene glycol" : "propylene glycol";
  const auto given =
      within(asked, {word, word, "water", glycol::least_c, glycol::most_c(kind), glycol::mostShare,
                     [](double share) { return glycol::freezing_c(kind, share); }});
  if (!given) return tl::unexpected(given.error());
  const auto [t, share] = *given;
  Liquid liquid = named(word, t, share);
  liquid.density_kgm3 = glycol::density(kind, t, share).si();
  liquid.viscosity_m2s = glycol::viscosity(kind, t, share).si();
  liquid.vapour_pa = glycol::vapourPressure(kind, t, share).si();
  liquid.source = fmt::format(
      "viscosity after Conde 2011 ({} %), density by the program's own mixing rule (0.4 %, inhibited blends "
      "up to 1 %), vapour pressure by Raoult's law (a few % high)",
      ethylene ? 10 : 15);
  return liquid;
}

}  // namespace

extern const Family seaWaterFamily, ethyleneGlycolFamily, propyleneGlycolFamily;
constinit const Family seaWaterFamily{"sea water", reads, seaWater};
constinit const Family ethyleneGlycolFamily{"ethylene glycol", reads, glycolAt<glycol::Kind::ethylene>};
constinit const Family propyleneGlycolFamily{"propylene glycol", reads, glycolAt<glycol::Kind::propylene>};

}  // namespace conduit

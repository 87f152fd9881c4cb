#include "network/setting.h"

#include <fmt/format.h>

#include <algorithm>

#include "fluid/mixtures.h"
#include "fluid/stock_liquid.h"
#include "fluid/water.h"
#include "network/entry.h"
#include "quantity/format.h"

namespace conduit {
namespace {

std::string shortly(double v) { return fmt::format("{:.4g}", v); }

Problem frozen(const std::string& liquid, double freezes_c, double at_c) {
  const std::string to = fmt::format("{} °C", shortly(std::ceil(freezes_c * 10 + 1) / 10));
  return {{"job", "temperature"},
          fmt::format("{} freezes at {} °C: at {} °C it does not flow", liquid, shortly(freezes_c), shortly(at_c)),
          {{fmt::format("Give a temperature of {}", to), {{"job", "temperature", to}}, {"job", "temperature"}}}};
}

}  // namespace

Result<Setting> settingOf(const Network& network, const Stock* stock) {
  const Element& job = network.job();
  const auto fields = job.part->fields;
  Setting s;
  s.stock = stock;
  const Medium plain;  // the job's own fields need no liquid to be understood
  auto value = [&](std::string_view key) -> std::optional<double> {
    const Field* f = findField(*job.part, key);
    if (const Given* g = job.values.get<Given>(key)) return resolve(*g, f->measure, plain);
    return f->fallback;
  };
  auto word = [&](std::string_view key) { return choiceOf(job.values, *findField(*job.part, key)); };
  s.altitude_m = *value("altitude");
  if (const auto at = value("altitude holds at")) {
    s.altitudeAt_m = *at;
  } else {  // heights over the sea or over the site alike: the site's altitude is that of its foot
    std::optional<double> lowest;
    network.each([&](Id, const Element& e) {
      if (const Given* z = e.part->ends == Ends::self ? e.values.get<Given>("height") : nullptr) lowest = std::min(lowest.value_or(1e300), resolve(*z, Measure::height, plain));
    });
    s.altitudeAt_m = lowest.value_or(0.0);
  }
  s.medium.atmosphere_pa = air::pressureAt(Height::fromSi(s.altitude_m)).si();
  if (word("liquid") == "own liquid") {
    const auto rho = value("density"), nu = value("viscosity");
    if (!rho || !nu) {
      const std::string field = rho ? "viscosity" : "density";
      return tl::unexpected(Problem{{"job", field}, fmt::format("the own liquid lacks a {}", field), {{fmt::format("Give the liquid a {}", field), {}, {"job", field}}}});
    }
    s.medium.density_kgm3 = *rho;
    s.viscosity_m2s = *nu;
    s.vapour_pa = *value("vapour pressure");
    s.critical_pa = value("critical pressure");
    s.liquid = "own liquid";
  } else if (word("liquid") == "stock liquid") {
    const auto* name = job.values.get<std::string>("liquid of the stock");
    const LiquidEntry* liquid = name && stock ? stock->liquid(*name) : nullptr;
    if (!liquid)
      return tl::unexpected(Problem{{"job", "liquid of the stock"},
                                    name && !name->empty() ? fmt::format("\"{}\" is not a liquid of the stock", *name) : "the job does not say which liquid of the stock",
                                    {{"Choose the liquid", {}, {"job", "liquid of the stock"}}}});
    const auto t = Temperature::fromSi(*value("temperature"));
    const double least = stockliquid::least_c(*liquid), most = stockliquid::most_c(*liquid);
    if (t.si() < least || t.si() > most)
      return tl::unexpected(
          Problem{{"job", "temperature"}, fmt::format("{} is known here from {} to {} °C, not at {} °C", liquid->liquid, shortly(least), shortly(most), digits(t.si())), {}});
    if (liquid->freezesAt_c && t.si() < *liquid->freezesAt_c) return tl::unexpected(frozen(liquid->liquid, *liquid->freezesAt_c, t.si()));
    s.critical_pa = liquid->critical_pa;
    s.temperature_c = t.si();
    s.medium.density_kgm3 = stockliquid::density(*liquid, t).si();
    s.viscosity_m2s = stockliquid::viscosity(*liquid, t).si();
    s.vapour_pa = stockliquid::vapourPressure(*liquid, t).si();
    s.liquid = fmt::format("{} at {} °C", liquid->liquid, shortly(t.si()));
    s.liquidSource = fmt::format("{}; viscosity by ASTM D341 or Andrade through two points (5 to 10 %), vapour pressure by Clausius and Clapeyron (5 to 10 %)", liquid->source);
  } else if (word("liquid") == "sea water" || word("liquid").ends_with("glycol")) {
    const auto t = Temperature::fromSi(*value("temperature"));
    const auto share = value("share");
    const bool sea = word("liquid") == "sea water";
    const auto kind = word("liquid") == "ethylene glycol" ? glycol::Kind::ethylene : glycol::Kind::propylene;
    const double least = sea ? seawater::least_c : glycol::least_c, most = sea ? seawater::most_c : glycol::most_c(kind), mostShare = sea ? seawater::mostShare : glycol::mostShare;
    if (!share) return tl::unexpected(Problem{{"job", "share"}, fmt::format("the share of {} is not given", sea ? "salt" : "glycol"), {{"Give the share", {}, {"job", "share"}}}});
    if (*share > mostShare)
      return tl::unexpected(
          Problem{{"job", "share"}, fmt::format("{} is known here to a share of {} %, not at {} %", word("liquid"), shortly(mostShare * 100), shortly(*share * 100)), {}});
    if (t.si() < least || t.si() > most)
      return tl::unexpected(
          Problem{{"job", "temperature"}, fmt::format("{} is known here from {} to {} °C, not at {} °C", word("liquid"), shortly(least), shortly(most), shortly(t.si())), {}});
    const double freezes = sea ? seawater::freezing_c(*share) : glycol::freezing_c(kind, *share);
    if (t.si() < freezes)
      return tl::unexpected(frozen(fmt::format("{} with {} % of {}", sea ? "sea water" : "water", shortly(*share * 100), sea ? "salt" : word("liquid")), freezes, t.si()));
    s.temperature_c = t.si();
    s.medium.density_kgm3 = (sea ? seawater::density(t, *share) : glycol::density(kind, t, *share)).si();
    s.viscosity_m2s = (sea ? seawater::viscosity(t, *share) : glycol::viscosity(kind, t, *share)).si();
    s.vapour_pa = (sea ? seawater::vapourPressure(t, *share) : glycol::vapourPressure(kind, t, *share)).si();
    s.critical_pa = water::critical_pa;
    s.liquid = fmt::format("{}, {} %, at {} °C", word("liquid"), shortly(*share * 100), shortly(t.si()));
    s.liquidSource =
        sea ? "Sharqawy, Lienhard and Zubair 2010: density 0.1 %, viscosity 1.5 %"
            : fmt::format("viscosity in the form of Conde 2011 ({} %), density by an own rule of mixing (0.4 %, inhibited blends to 1 %), vapour pressure by Raoult (a few % high)",
                          kind == glycol::Kind::ethylene ? 10 : 15);
  } else if (word("liquid") == "own table") {
    struct Row {
      double t, density, viscosity;
      std::optional<double> vapour;
    };
    std::vector<Row> rows;
    if (const Rows* given = job.values.get<Rows>("properties"))
      for (const auto& r : *given)
        if (r.size() > 2 && r[0] && r[1] && r[2])
          rows.push_back({r[0]->value, r[1]->value, r[2]->value, r.size() > 3 && r[3] ? std::optional(resolve(*r[3], Measure::absolutePressure, plain)) : std::nullopt});
    const auto refused = [&](const std::string& field, const std::string& what) {
      return tl::unexpected(Problem{{"job", field}, what, {{"Go to the liquid", {}, {"job", field}}}});
    };
    if (rows.size() < 2) return refused("properties", "the own liquid wants two rows of properties at least");
    for (std::size_t i = 0; i + 1 < rows.size(); ++i)
      if (rows[i + 1].t <= rows[i].t) return refused("properties", fmt::format("the temperatures of the properties must rise: row {} does not", i + 2));
    const double t = *value("temperature");
    if (t < rows.front().t || t > rows.back().t)
      return refused("temperature", fmt::format("the own liquid is known from {} to {} °C, not at {} °C", shortly(rows.front().t), shortly(rows.back().t), shortly(t)));
    std::size_t i = 0;
    while (i + 2 < rows.size() && t > rows[i + 1].t) ++i;
    const Row &a = rows[i], &b = rows[i + 1];
    const double share = (t - a.t) / (b.t - a.t);
    const auto straight = [&](double x, double y) { return x + share * (y - x); };
    s.medium.density_kgm3 = straight(a.density, b.density);
    s.viscosity_m2s = std::exp(straight(std::log(a.viscosity), std::log(b.viscosity)));
    const double va = a.vapour.value_or(b.vapour.value_or(0.0)), vb = b.vapour.value_or(va);
    s.vapour_pa = va > 0 && vb > 0 ? std::exp(straight(std::log(va), std::log(vb))) : straight(va, vb);
    s.temperature_c = t;
    s.liquid = fmt::format("own liquid at {} °C", shortly(t));
    s.liquidSource = "the engineer's own table";
  } else {
    const auto t = Temperature::fromSi(*value("temperature"));
    if (t.si() < water::least_c || t.si() > water::most_c)
      return tl::unexpected(Problem{{"job", "temperature"}, fmt::format("water is known here from 0 to 150 °C, not at {} °C", digits(t.si())), {}});
    s.medium.density_kgm3 = water::density(t).si();
    s.viscosity_m2s = water::viscosity(t).si();
    s.vapour_pa = water::vapourPressure(t).si();
    s.critical_pa = water::critical_pa;
    s.temperature_c = t.si();
    s.liquid = fmt::format("water at {} °C", shortly(t.si()));
    s.liquidSource = "density Kell 1975 (0.02 %), viscosity IAPWS R12-08 (1 %), vapour pressure Wagner and Pruss 2002 (0.1 %)";
  }
  if (const auto solids = value("solids share"); solids && *solids > 0) {
    const auto grains = value("solids density");
    if (!grains)
      return tl::unexpected(Problem{{"job", "solids density"}, "the density of the solids is not given", {{"Give the density of the solids", {}, {"job", "solids density"}}}});
    const double dynamic = s.viscosity_m2s * s.medium.density_kgm3 * slurry::relativeViscosity(*solids);
    s.medium.density_kgm3 = slurry::density(s.medium.density_kgm3, *grains, *solids);
    s.viscosity_m2s = dynamic / s.medium.density_kgm3;
    s.liquid += fmt::format(" with {} % of solids by volume", shortly(*solids * 100));
    s.liquidSource += "; viscosity with solids by Thomas 1965, as a Newtonian liquid";
  }
  if (word("liquid") != "water") {
    if (const auto mass = value("molar mass")) {
      s.medium.molarMass_kgkmol = *mass;
    } else {
      // A flow in moles says nothing of a liquid whose molar mass is not known.
      std::optional<Problem> problem;
      network.each([&](Id, const Element& e) {
        if (problem) return;
        for (const Values::Entry& entry : e.values.entries())
          if (const auto* given = std::get_if<Given>(&entry.value); given && given->basis == Basis::molar && !entry.released)
            problem = Problem{{"job", "molar mass"},
                              fmt::format("{} of {} is given in moles ({}), and the liquid's molar mass is not known", entry.key, e.name, given->typed),
                              {{"Give the liquid a molar mass", {}, {"job", "molar mass"}}}};
      });
      if (problem) return tl::unexpected(std::move(*problem));
    }
  }
  s.hazenWilliams = word("friction law") == "Hazen-Williams";
  s.manning = word("friction law") == "Manning";
  s.hazenWilliamsLaw = {*value("Hazen-Williams coefficient"), *value("Hazen-Williams flow exponent"), *value("Hazen-Williams bore exponent")};
  s.limits.velocityMost_ms = value("velocity at most");  // those that have a default
  s.limits.npshMargin_m = value("NPSH margin at least");
  readLimits(job.values, s.medium, s.limits);
  network.each([&](Id, const Element& e) {
    if (e.part->key != serviceKey) return;
    Limits limits = s.limits;
    readLimits(e.values, s.medium, limits);
    s.services.emplace(e.name, limits);
  });
  return s;
}

const Values& valuesOf(const Element& element, const Stock* stock, Values& scratch) {
  const auto* name = stock ? element.values.get<std::string>(stockItemKey) : nullptr;
  const StockItem* item = name ? stock->item(element.part->key, *name) : nullptr;
  if (!item) return element.values;
  scratch = element.values;
  for (const auto& [key, text] : item->fields) {
    const Field* field = findField(*element.part, key);
    if (!field || scratch.entry(field->key)) continue;  // what the element says itself, or wants found, comes first
    if (auto value = readField(*field, text, stock, nullptr)) scratch.set(field->key, std::move(*value));
  }
  return scratch;
}

void widenAt(const Element& e, const Setting& setting, std::vector<double>& widest) {
  if (!e.part->geometry) return;
  Values scratch;
  const auto bore = e.part->geometry(valuesOf(e, setting.stock, scratch), setting).bore_m;
  if (!bore) return;
  for (const Id end : e.ends) widest[end] = std::max(widest[end], *bore);
}

std::vector<double> widestBores(const Network& network, const Setting& setting) {
  std::vector<double> widest(network.bound(), 0.0);
  network.each([&](Id, const Element& e) { widenAt(e, setting, widest); });
  return widest;
}

std::vector<EndPlace> endPlaces(const Network& network, const Element& element, const Setting& setting, const std::vector<double>& widest) {
  std::vector<EndPlace> places;
  places.reserve(element.ends.size());
  for (const Id end : element.ends) {
    EndPlace place;
    const Element& point = network.at(end);
    if (const Given* z = point.values.get<Given>("height")) place.height_m = resolve(*z, Measure::height, setting.medium);
    if (end < widest.size() && widest[end] > 0) place.bore_m = widest[end];
    if (const auto* how = point.values.get<std::string>("change of bore"); how && *how != "not counted" && element.part->geometry) {
      // The other pipe, where there is just one and nothing else.
      const auto there = network.elementsAt(end);
      Values scratch;
      if (there.size() == 2)
        for (const Id id : there)
          if (const Element& other = network.at(id); &other != &element && other.part->geometry)
            if (const auto bore = other.part->geometry(valuesOf(other, setting.stock, scratch), setting).bore_m) {
              const Given* angle = point.values.get<Given>("cone angle");
              place.change = EndPlace::Change{*bore, *how == "sudden" ? 180.0 : angle ? angle->value : 30.0};
            }
    }
    places.push_back(place);
  }
  return places;
}

}  // namespace conduit

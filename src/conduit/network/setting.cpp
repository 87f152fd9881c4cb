#include "network/setting.h"

#include <fmt/format.h>

#include <algorithm>

#include "fluid/stock_liquid.h"
#include "fluid/water.h"
#include "network/entry.h"
#include "quantity/format.h"

namespace conduit {

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
  s.medium.atmosphere_pa = air::pressureAt(Height::fromSi(*value("altitude"))).si();
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
          Problem{{"job", "temperature"}, fmt::format("{} is known here from {} to {} °C, not at {} °C", liquid->liquid, digits(least, 3), digits(most, 3), digits(t.si())), {}});
    s.medium.density_kgm3 = stockliquid::density(*liquid, t).si();
    s.viscosity_m2s = stockliquid::viscosity(*liquid, t).si();
    s.vapour_pa = stockliquid::vapourPressure(*liquid, t).si();
    s.liquid = fmt::format("{} at {} °C", liquid->liquid, digits(t.si(), 3));
  } else {
    const auto t = Temperature::fromSi(*value("temperature"));
    if (t.si() < water::least_c || t.si() > water::most_c)
      return tl::unexpected(Problem{{"job", "temperature"}, fmt::format("water is known here from 0 to 150 °C, not at {} °C", digits(t.si())), {}});
    s.medium.density_kgm3 = water::density(t).si();
    s.viscosity_m2s = water::viscosity(t).si();
    s.vapour_pa = water::vapourPressure(t).si();
    s.critical_pa = water::critical_pa;
    s.liquid = fmt::format("water at {} °C", digits(t.si(), 3));
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

std::vector<double> widestBores(const Network& network, const Setting& setting) {
  std::vector<double> widest(network.bound(), 0.0);
  network.each([&](Id, const Element& e) {
    if (!e.part->geometry) return;
    Values scratch;
    const auto bore = e.part->geometry(valuesOf(e, setting.stock, scratch), setting).bore_m;
    if (!bore) return;
    for (const Id end : e.ends) widest[end] = std::max(widest[end], *bore);
  });
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

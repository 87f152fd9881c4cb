#include "network/setting.h"

#include <fmt/format.h>

#include <algorithm>

#include "fields/entry.h"
#include "fields/keys.h"
#include "fluid/mixtures.h"
#include "medium/family.h"
#include "network/onward.h"
#include "parts/registry.h"
#include "say/words.h"

namespace conduit {
namespace {

// What the job says, as a family of liquids asks for it.
Asked askedOf(const Element& job, const Stock* stock) {
  const Medium plain;  // the job's own fields need no liquid to be understood
  Asked asked;
  asked.stock = stock;
  asked.value = [&job, plain](std::string_view key) -> std::optional<double> {
    const Field* f = findField(*job.part, key);
    if (const Given* g = job.given(key)) return resolve(*g, f->measure, plain);
    return f->fallback;
  };
  asked.text = [&job](std::string_view key) {
    const auto* text = job.text(key);
    return text ? *text : std::string();
  };
  if (const Rows* given = job.rows(key::properties))
    for (const auto& r : *given)
      if (r.size() > 2 && r[0] && r[1] && r[2])
        asked.properties.push_back({r[0]->value, r[1]->value, r[2]->value,
                                    r.size() > 3 && r[3]
                                        ? std::optional(resolve(*r[3], Measure::absolutePressure, plain))
                                        : std::nullopt});
  return asked;
}

}  // namespace

Result<Setting> settingOf(const Network& network, const Stock* stock) {
  const Element& job = network.job();
  Setting s;
  s.stock = stock;
  const Asked asked = askedOf(job, stock);
  const auto& value = asked.value;
  auto word = [&](std::string_view key) { return choiceOf(job.values, *findField(*job.part, key)); };
  s.altitude_m = *value("altitude");
  if (const auto at = value("altitude holds at")) {
    s.altitudeAt_m = *at;
  } else {  // heights over the sea or over the site alike: the site's altitude is that of its foot
    std::optional<double> lowest;
    network.each([&](Id, const Element& e) {
      if (const Given* z = e.part->ends == Ends::self ? e.given(key::height) : nullptr)
        lowest = std::min(lowest.value_or(1e300), resolve(*z, Measure::height, Medium()));
    });
    s.altitudeAt_m = lowest.value_or(0.0);
  }
  s.medium.atmosphere_pa = air::pressureAt(Height::fromSi(s.altitude_m)).si();
  const Result<Liquid> liquid = familyOf(word(key::liquid)).at(asked);
  if (!liquid) return tl::unexpected(liquid.error());
  s.medium.density_kgm3 = liquid->density_kgm3;
  s.viscosity_m2s = liquid->viscosity_m2s;
  s.vapour_pa = liquid->vapour_pa, s.vapourKnown = liquid->vapourKnown;
  s.critical_pa = liquid->critical_pa;
  s.temperature_c = liquid->temperature_c;
  s.liquid = liquid->name;
  s.liquidSource = liquid->source;
  if (const auto solids = value("solids share"); solids && *solids > 0) {
    const auto grains = value(key::solidsDensity);
    if (!grains)
      return tl::unexpected(Problem{{"job", key::solidsDensity},
                                    "the density of the solids is not given",
                                    {{"Enter the density of the solids", {}, {"job", key::solidsDensity}}}});
    const double dynamic = s.viscosity_m2s * s.medium.density_kgm3 * slurry::relativeViscosity(*solids);
    s.medium.density_kgm3 = slurry::density(s.medium.density_kgm3, *grains, *solids);
    s.viscosity_m2s = dynamic / s.medium.density_kgm3;
    s.liquid += fmt::format(" with {} % solids by volume", shortly(*solids * 100));
    s.liquidSource += "; viscosity with solids by Thomas 1965, as a Newtonian liquid";
  }
  if (const auto mass = liquid->molarMass_kgkmol ? liquid->molarMass_kgkmol : value(key::molarMass)) {
    s.medium.molarMass_kgkmol = *mass;
  } else {
    // A flow in moles says nothing of a liquid whose molar mass is not known; nor does a row of a curve.
    std::optional<Problem> problem;
    network.each([&](Id, const Element& e) {
      const auto look = [&](std::string_view key, const Given& given) {
        if (given.basis != Basis::molar || problem) return;
        problem =
            Problem{{"job", key::molarMass},
                    fmt::format("{} of {} is given in moles ({}), and the liquid's molar mass is not known",
                                spoken(key), e.name, given.typed),
                    {{"Enter the molar mass of the liquid", {}, {"job", key::molarMass}}}};
      };
      for (const Values::Goal& goal : e.values.goals()) look(goal.outcome, goal.given);
      for (const Values::Entry& entry : e.values.entries()) {
        if (entry.released) continue;
        if (const auto* given = std::get_if<Given>(&entry.value)) look(entry.key, *given);
        if (const auto* rows = std::get_if<Rows>(&entry.value))
          for (const auto& row : *rows)
            for (const auto& cell : row)
              if (cell) look(entry.key, *cell);
      }
    });
    if (problem) return tl::unexpected(std::move(*problem));
    s.medium.molarMass_kgkmol = 0.0;
  }
  s.hazenWilliams = word(key::frictionLaw) == "Hazen-Williams";
  s.manning = word(key::frictionLaw) == "Manning";
  s.mains_hz = word("motor mains") == "60 Hz" ? 60.0 : 50.0;
  s.hazenWilliamsLaw = {*value("Hazen-Williams coefficient"), *value("Hazen-Williams flow exponent"),
                        *value("Hazen-Williams bore exponent")};
  for (const Field& f : job.part->fields)  // those that have a default
    if (const LimitRow* row = f.fallback ? limitOfField(f.key) : nullptr)
      s.limits.set(row->id, *f.fallback, LimitFrom::fallback);
  s.limits.read(job.values, s.medium, LimitFrom::job);
  network.each([&](Id, const Element& e) {
    if (!e.part->service) return;
    Limits limits = s.limits;
    limits.read(e.values, s.medium, LimitFrom::service);
    s.services.emplace(e.name, limits);
  });
  return s;
}

Medium mediumOf(const Network& network, const Stock* stock) {
  const auto setting = settingOf(network, stock);
  return setting ? setting->medium : Medium{};
}

namespace {

// A text that cannot be read gives nothing, as an element without that field.
Values read(const StockItem& item, const Part& part, const Stock& stock) {
  Values values;
  for (const auto& [key, text] : item.fields) {
    const Field* field = findField(part, key);
    if (!field || values.entry(field->key)) continue;
    if (auto value = readField(*field, text, &stock, nullptr)) values.set(field->key, std::move(*value));
  }
  return values;
}

bool isRead(const StockItem& item) { return item.read && item.read->from == item.fields; }

}  // namespace

void readItems(Stock& stock) {
  for (StockItem& item : stock.items) {
    const Part* part = isRead(item) ? nullptr : findPart(item.kind);
    if (part)
      item.read = std::make_shared<const ItemValues>(ItemValues{item.fields, read(item, *part, stock)});
  }
}

std::shared_ptr<const Stock> readAndShared(Stock stock) {
  readItems(stock);
  return std::make_shared<const Stock>(std::move(stock));
}

const Values& valuesOf(const Element& element, const Stock* stock, Values& scratch) {
  const auto* name = stock ? element.text(stockItemKey) : nullptr;
  const StockItem* item = name ? stock->item(element.part->key, *name) : nullptr;
  if (!item) return element.values;
  scratch = element.values;
  Values own;
  const bool known = isRead(*item);
  if (!known) own = read(*item, *element.part, *stock);
  // What the element says itself, or wants found, comes first.
  for (const Values::Entry& e : (known ? item->read->values : own).entries())
    if (!scratch.entry(e.key)) scratch.set(e.key, e.value);
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

std::vector<EndPlace> endPlaces(const Network& network, const Element& element, const Setting& setting,
                                const std::vector<double>& widest) {
  std::pmr::vector<EndPlace> places;
  endPlaces(network, element, setting, widest, places);
  return {places.begin(), places.end()};
}

void endPlaces(const Network& network, const Element& element, const Setting& setting,
               const std::vector<double>& widest, std::pmr::vector<EndPlace>& places) {
  places.clear();
  places.reserve(element.ends.size());
  for (const Id end : element.ends) {
    EndPlace place;
    const Element& point = network.at(end);
    if (const Given* z = point.given(key::height))
      place.height_m = resolve(*z, Measure::height, setting.medium);
    if (end < widest.size() && widest[end] > 0) place.bore_m = widest[end];
    if (const auto* how = point.text(key::changeOfBore);
        how && *how != "not counted" && element.part->geometry) {
      // The other pipe, where there is just one and nothing else.
      const auto there = waterAt(network, end);
      Values scratch;
      if (there.size() == 2)
        for (const Id id : there)
          if (const Element& other = network.at(id); &other != &element && other.part->geometry)
            if (const auto bore =
                    other.part->geometry(valuesOf(other, setting.stock, scratch), setting).bore_m) {
              const Given* angle = point.given("cone angle");
              place.change = EndPlace::Change{*bore, *how == "sudden" ? 180.0 : angle ? angle->value : 30.0};
            }
    }
    places.push_back(place);
  }
}

}  // namespace conduit

#include "network/setting.h"

#include <fmt/format.h>

#include <algorithm>

#include "fluid/water.h"
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
    s.liquid = "own liquid";
  } else {
    const auto t = Temperature::fromSi(*value("temperature"));
    if (t.si() < water::least_c || t.si() > water::most_c)
      return tl::unexpected(Problem{{"job", "temperature"}, fmt::format("water is known here from 0 to 150 °C, not at {} °C", digits(t.si())), {}});
    s.medium.density_kgm3 = water::density(t).si();
    s.viscosity_m2s = water::viscosity(t).si();
    s.vapour_pa = water::vapourPressure(t).si();
    s.liquid = fmt::format("water at {} °C", digits(t.si(), 3));
  }
  s.hazenWilliams = word("friction law") == "Hazen-Williams";
  s.hazenWilliamsLaw = {*value("Hazen-Williams coefficient"), *value("Hazen-Williams flow exponent"), *value("Hazen-Williams bore exponent")};
  s.velocityMost_ms = value("velocity at most");
  s.velocityLeast_ms = value("velocity at least");
  s.pressureLeast_pa = value("pressure at least");
  s.npshMargin_m = value("NPSH margin at least");
  return s;
}

std::vector<double> widestBores(const Network& network, const Setting& setting) {
  std::vector<double> widest(network.bound(), 0.0);
  network.each([&](Id, const Element& e) {
    if (!e.part->geometry) return;
    const auto bore = e.part->geometry(e.values, setting).bore_m;
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
    places.push_back(place);
  }
  return places;
}

}  // namespace conduit

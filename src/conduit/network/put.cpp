#include "network/put.h"

#include <fmt/format.h>

#include <cmath>

#include "network/entry.h"

namespace conduit {

Given metresGiven(double m) {
  const double rounded = std::round(m * 100) / 100;
  return {rounded, Basis::direct, fmt::format("{} m", rounded)};
}

std::optional<double> givenSi(const Values& values, std::string_view key) {
  const Given* g = values.get<Given>(key);
  return g ? std::optional(g->value) : std::nullopt;
}

Result<bool> putText(Draft& draft, Id id, std::string_view key, std::string_view text, const Stock* stock, const UnitSet* units) {
  const Element& e = draft.network().at(id);
  const Field* field = findField(*e.part, key);
  if (!field) return tl::unexpected(Problem{{e.name, std::string(key)}, fmt::format("{} has no field \"{}\"", e.name, key), {}});
  if (text.find_first_not_of(" \t") == std::string_view::npos) {
    draft.values(id).clear(field->key);
    return true;
  }
  auto value = readField(*field, text, stock, units);
  if (!value) {
    Problem problem = value.error();
    problem.place.name = e.name;
    for (Remedy& remedy : problem.remedies) {
      remedy.goTo.name = e.name;
      for (FieldEdit& edit : remedy.edits) edit.name = e.name;
    }
    return tl::unexpected(std::move(problem));
  }
  draft.values(id).set(field->key, std::move(*value));
  return true;
}

}  // namespace conduit

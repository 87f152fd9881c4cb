#include "network/put.h"

#include <fmt/format.h>

#include <cmath>

#include "network/entry.h"
#include "quantity/parse.h"

namespace conduit {

Given metresGiven(double m) {
  const double rounded = std::round(m * 100) / 100;
  return {rounded, Basis::direct, fmt::format("{} m", rounded)};
}

std::optional<double> givenSi(const Values& values, std::string_view key) {
  const Given* g = values.get<Given>(key);
  return g ? std::optional(g->value) : std::nullopt;
}

namespace {

// "given pressure" gives an outcome, "found bore" lets a field be found ("yes") or gives it again ("no").
Result<bool> putGoal(Draft& draft, Id id, std::string_view key, std::string_view text, const UnitSet* units) {
  const Element& e = draft.network().at(id);
  const Outcome* outcome = findOutcome(*e.part, key);
  const auto refused = [&](const std::string& what) {
    return tl::unexpected(Problem{{e.name, fmt::format("given {}", key)}, what, {}});
  };
  if (!outcome) return refused(fmt::format("{} finds no \"{}\"", e.name, key));
  if (text.find_first_not_of(" \t") == std::string_view::npos) {
    draft.values(id).ungive(outcome->key);
    return true;
  }
  auto given = parse(text, outcome->measure, units ? &units->unitFor(outcome->measure) : nullptr);
  if (!given) return refused(fmt::format("{} of {}: {}", key, e.name, given.error().what));
  draft.values(id).give(outcome->key, std::move(*given));
  return true;
}
Result<bool> putFound(Draft& draft, Id id, std::string_view key, std::string_view text) {
  const Element& e = draft.network().at(id);
  const Field* field = findField(*e.part, key);
  const auto refused = [&](const std::string& what) {
    return tl::unexpected(Problem{{e.name, std::string(key)}, what, {}});
  };
  if (!field) return refused(fmt::format("{} has no field \"{}\"", e.name, key));
  if (!field->releasable)
    return refused(
        fmt::format("the {} of {} cannot be found from an outcome: it is a choice, not a size", key, e.name));
  Values& values = draft.values(id);
  if (text == "yes") {
    values.release(field->key);
    return true;
  }
  const Values::Entry* kept = values.entry(field->key);
  const auto* words = kept ? std::get_if<std::string>(&kept->value) : nullptr;
  if (kept && !(words && words->empty())) values.set(field->key, Value(kept->value));
  else values.clear(field->key);
  return true;
}

}  // namespace

Result<bool> putText(Draft& draft, Id id, std::string_view key, std::string_view text, const Stock* stock,
                     const UnitSet* units) {
  if (key.starts_with(givenPrefix)) return putGoal(draft, id, key.substr(givenPrefix.size()), text, units);
  if (key.starts_with(foundPrefix)) return putFound(draft, id, key.substr(foundPrefix.size()), text);
  const Element& e = draft.network().at(id);
  const Field* field = findField(*e.part, key);
  if (!field)
    return tl::unexpected(
        Problem{{e.name, std::string(key)}, fmt::format("{} has no field \"{}\"", e.name, key), {}});
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

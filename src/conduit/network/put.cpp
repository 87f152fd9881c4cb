#include "network/put.h"

#include <fmt/format.h>

#include <cmath>

#include "fields/entry.h"
#include "fields/keys.h"
#include "network/assume.h"
#include "parts/pipe/pipe.h"
#include "parts/registry.h"
#include "quantity/parse.h"
#include "say/words.h"
#include "stock/said.h"

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
  if (!outcome) return refused(fmt::format("{} has no result \"{}\"", e.name, key));
  if (text.find_first_not_of(" \t") == std::string_view::npos) {
    draft.values(id).ungive(outcome->key);
    return true;
  }
  auto given = parse(text, outcome->measure, units ? &units->unitFor(outcome->measure) : nullptr);
  if (!given) return refused(fmt::format("{} of {}: {}", spoken(key), e.name, given.error().what));
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
        fmt::format("the {} of {} cannot be solved for: it is a choice, not a number", spoken(key), e.name));
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

bool isLength(std::string_view text, const Unit* bare) {
  const auto read = parse(text, Measure::bore, bare);
  return read && (text.find("in") == std::string_view::npos && text.find('"') == std::string_view::npos);
}

// The usual roughness or C of a material named, as it would be typed; empty where none is meant.
std::optional<std::string> wallByMaterial(std::string_view field, std::string_view text, const Stock& stock) {
  if (field == key::roughness)
    if (const auto walls = wallsSaid(text, stock); !walls.empty())
      return fmt::format("{:.4g} mm", walls.front()->typical_m * 1000);
  if (field == key::hazenC)
    if (const auto walls = coefficientsSaid(text, stock); !walls.empty())
      return fmt::format("{}", walls.front()->typical);
  return std::nullopt;
}

// What an engineer may say in place of the figure: a size where a bore is asked for, a material where a
// roughness is. `key` and `text` become those of the field it then belongs to; true when it was so.
void takeWords(const Draft& draft, Id id, std::string& key, std::string& text, const Stock& stock,
               const UnitSet* units) {
  const Element& e = draft.network().at(id);
  const Unit* bare = units ? &units->unitFor(Measure::bore) : nullptr;
  const auto* now = e.text(id == jobId ? "size of new lines" : key::size);
  const PipeSize* like = now ? stock.pipe(*now) : nullptr;
  if (key == key::bore) {
    if (parse(text, Measure::bore, bare)) return;
    if (const auto sizes = sizesSaid(text, stock, like); !sizes.empty())
      key = key::size, text = sizes.front()->name();
  } else if (key == key::size || key == "size of new lines") {
    if (!stock.pipe(text) && isLength(text, bare)) {
      if (key == key::size) key = key::bore;
    } else if (const auto sizes = sizesSaid(text, stock, like); !sizes.empty()) {
      text = sizes.front()->name();
    }
  } else if (key == key::roughness || key == key::hazenC) {
    const Measure measure = findField(*e.part, key)->measure;
    if (parse(text, measure, units ? &units->unitFor(measure) : nullptr)) return;
    if (auto said = wallByMaterial(key, text, stock)) text = std::move(*said);
  }
}

// A size stands in place of a bore, and the wall that was only assumed is that of its material.
void tookSize(Draft& draft, Id id, const Stock& stock) {
  const Part& part = *draft.network().at(id).part;
  draft.values(id).clear(findField(part, key::bore)->key);
  const auto* name = draft.network().at(id).text(key::size);
  const PipeSize* size = name ? stock.pipe(*name) : nullptr;
  if (!size) return;
  for (const std::string_view key : {key::roughness, key::hazenC, key::manningN}) {
    const Field& wall = *findField(part, key);
    if (!draft.network().at(id).values.assumed(key)) continue;
    if (auto value = readField(wall, usualWall(key, size->material, stock), &stock, nullptr))
      draft.values(id).set(wall.key, std::move(*value), true);
  }
}

// The job's own fields for new lines are texts that must be understood.
std::string newLineFault(const Element& job, std::string_view key, std::string& text, const Stock& stock,
                         const UnitSet* units) {
  if (key == "size of new lines") {
    if (stock.pipe(text)) return {};
    const auto bore = parse(text, Measure::bore, units ? &units->unitFor(Measure::bore) : nullptr);
    if (bore && bore->value >= 1e-4 && bore->value <= 20) return text = bore->typed, std::string();
    return fmt::format(
        "\"{}\" is not a catalogue size or bore: type 4 in sch 40, DN 100, 110 PE SDR 11 or 102.3 mm", text);
  }
  if (key != "wall of new lines") return {};
  const std::string_view field = wallFieldOf(job);
  const Field& wall = *findField(pipe::part, field);
  if (auto value = readField(wall, text, &stock, units))
    return text = writeField(wall, *value), std::string();
  if (auto said = wallByMaterial(field, text, stock)) return text = std::move(*said), std::string();
  return fmt::format("\"{}\" is not a {} or a catalogue material", text,
                     field == key::roughness ? key::roughness : field);
}

}  // namespace

Result<bool> putText(Draft& draft, Id id, std::string_view wantedKey, std::string_view wantedText,
                     const Stock* stock, const UnitSet* units) {
  std::string key(wantedKey), text(wantedText);
  if (key.starts_with(givenPrefix))
    return putGoal(draft, id, wantedKey.substr(givenPrefix.size()), text, units);
  if (key.starts_with(foundPrefix)) return putFound(draft, id, wantedKey.substr(foundPrefix.size()), text);
  const Element& e = draft.network().at(id);
  const Part& part = *e.part;
  const bool line = part.geometry != nullptr, said = text.find_first_not_of(" \t") != std::string::npos;
  if (said && stock && (line || id == jobId)) takeWords(draft, id, key, text, *stock, units);
  if (said && stock && id == jobId)
    if (const std::string fault = newLineFault(e, key, text, *stock, units); !fault.empty())
      return tl::unexpected(Problem{{"job", key}, fault, {}});
  const Field* field = findField(*e.part, key);
  if (!field)
    return tl::unexpected(Problem{{e.name, key}, fmt::format("{} has no field \"{}\"", e.name, key), {}});
  if (!said) {
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
  if (line && field->key == key::size && stock) tookSize(draft, id, *stock);
  // An item of the catalogue says what was only assumed.
  if (field->key == stockItemKey && stock && stock->item(part.key, text)) {
    std::vector<std::string_view> gone;
    for (const Values::Entry& entry : draft.network().at(id).values.entries())
      if (entry.assumed) gone.push_back(entry.key);
    for (const std::string_view assumed : gone) draft.values(id).clear(assumed);
  }
  if (line && field->key == key::bore && draft.network().at(id).values.assumed(key::size))
    draft.values(id).clear(findField(part, key::size)->key);
  return true;
}

}  // namespace conduit

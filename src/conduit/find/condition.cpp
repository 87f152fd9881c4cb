#include "find/condition.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "fields/entry.h"
#include "fields/keys.h"
#include "network/assume.h"
#include "network/setting.h"
#include "parts/pipe/pipe.h"
#include "parts/registry.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

// Commas may stand about a piece of a condition.
std::string_view bareWords(std::string_view text) { return trimmed(text, " \t,"); }

// True when `text` begins with `word` as a word of its own; what follows is left in `rest`.
bool begins(std::string_view text, std::string_view word, std::string_view& rest) {
  if (word.empty() || lowered(text.substr(0, word.size())) != lowered(word)) return false;
  if (text.size() > word.size() && std::isalnum(static_cast<unsigned char>(text[word.size()])) &&
      std::isalnum(static_cast<unsigned char>(word.back())))
    return false;
  rest = bareWords(text.substr(word.size()));
  return true;
}

struct Known {
  std::string_view key;
  std::string word;  // the key, or its display name
  Measure measure = Measure::number;
  enum class Is { number, text, table } is = Is::number;
};

// Every field and outcome there is, the longest words first, so that "rated flow" is not taken for "flow".
std::vector<Known> knownKeys(const Part* kind) {
  std::vector<Known> keys;
  auto add = [&](std::string_view key, Measure measure, Known::Is is) {
    for (std::string word : {std::string(key), spoken(key)})
      if (std::none_of(keys.begin(), keys.end(), [&](const Known& other) { return other.word == word; }))
        keys.push_back({key, std::move(word), measure, is});
  };
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none || (kind && part != kind)) continue;
    for (const Outcome& o : part->outcomes) add(o.key, o.measure, Known::Is::number);
    for (const Field& f : part->fields)
      add(f.key, f.measure,
          f.kind == FieldKind::quantity ? Known::Is::number
          : f.kind == FieldKind::table  ? Known::Is::table
                                        : Known::Is::text);
  }
  add("name", Measure::number, Known::Is::text);
  std::stable_sort(keys.begin(), keys.end(),
                   [](const Known& a, const Known& b) { return a.word.size() > b.word.size(); });
  return keys;
}

// Parts a condition into pieces at "and" and commas.
std::vector<std::string_view> piecesOf(std::string_view text) {
  std::vector<std::string_view> pieces;
  std::size_t from = 0;
  const std::string small = lowered(text);
  for (std::size_t i = 0; i <= text.size(); ++i) {
    const bool end = i == text.size(),
               comma = !end && text[i] == ',' && (i + 1 == text.size() || text[i + 1] == ' '),
               word = !end && small.compare(i, 5, " and ") == 0;
    if (!end && !comma && !word) continue;
    if (const auto piece = bareWords(text.substr(from, i - from)); !piece.empty()) pieces.push_back(piece);
    from = i + (word ? 5 : 1);
  }
  return pieces;
}

bool compares(const Test& t, double v) {
  const double near = 1e-6 * std::max(std::abs(v), std::abs(t.value));
  switch (t.compare) {
    case Compare::less: return v < t.value - near;
    case Compare::atMost: return v <= t.value + near;
    case Compare::equal: return std::abs(v - t.value) <= near;
    case Compare::notEqual: return std::abs(v - t.value) > near;
    case Compare::atLeast: return v >= t.value - near;
    case Compare::more: return v > t.value + near;
    case Compare::has: return true;
    case Compare::lacks: return false;
  }
  return false;
}
// A text by itself, or by the display name that it has.
bool compares(const Test& t, const std::string& v, const std::string& shown) {
  const std::string wanted = lowered(t.text);
  const auto contains = [&](const std::string& in) { return lowered(in).find(wanted) != std::string::npos; };
  const bool holds = contains(v) || contains(shown), same = lowered(v) == wanted || lowered(shown) == wanted;
  return t.compare == Compare::has        ? holds
         : t.compare == Compare::equal    ? same
         : t.compare == Compare::notEqual ? !same
         : t.compare == Compare::lacks    ? !holds
                                          : false;
}

bool holds(const Test& t, const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  if (t.key == "name") return compares(t, e.name, e.name);
  if (const Field* f = findField(*e.part, t.key)) {
    Values scratch;
    const Value* v = valuesOf(e, solution.setting.stock, scratch).find(f->key);
    if (!v && f->fallback && t.compare != Compare::has && t.compare != Compare::lacks)
      return compares(t, *f->fallback);
    if (t.text.empty() && (t.compare == Compare::has || t.compare == Compare::lacks))
      return (v != nullptr) == (t.compare == Compare::has);
    if (v) {
      if (const auto* given = std::get_if<Given>(v))
        return compares(t, resolve(*given, f->measure, solution.setting.medium));
      const std::string written = writeField(*f, *v);
      return compares(t, written, f->kind == FieldKind::choice ? spoken(written) : written);
    }
    if (f->kind == FieldKind::choice) {
      const std::string word = choiceOf(e.values, *f);
      return compares(t, word, spoken(word));
    }
    if (f->kind == FieldKind::flag) {
      const std::string word = flagOf(e.values, *f) ? "yes" : "no";
      return compares(t, word, word);
    }
  }
  if (!findOutcome(*e.part, t.key) || !solution.summary.usable()) return false;
  const ReadingOf reading(network, solution, id);
  const auto v = outcomeOf(*e.part, t.key, *reading);
  if (!v) return t.compare == Compare::lacks;
  return t.compare == Compare::has || (t.compare != Compare::lacks && compares(t, *v));
}

bool lacksSomething(const Network& network, const Solution& solution, Id id,
                    const std::vector<double>& widest) {
  const Element& e = network.at(id);
  if (!e.part->prepare) return false;
  if (e.part->ends == Ends::self && network.elementsAt(id).empty()) return false;
  Values scratch;
  const Prepared p = e.part->prepare(valuesOf(e, solution.setting.stock, scratch), solution.setting,
                                     endPlaces(network, e, solution.setting, widest));
  return !p.missing.empty() || p.problem;
}

}  // namespace

Result<Condition> readCondition(std::string_view text, const UnitSet& units) {
  Condition condition;
  for (std::string_view piece : piecesOf(text)) {
    std::string_view rest;
    // A kind, alone or before its test.
    const Part* best = nullptr;
    std::size_t length = 0;
    for (const Part* part : allParts())
      for (const std::string& word :
           {std::string(part->plural), std::string(part->key), spoken(part->key), spoken(part->key) + "s"})
        if (part->ends != Ends::none && word.size() > length && begins(piece, word, rest))
          best = part, length = word.size();
    if (!best && begins(piece, "pipes", rest)) best = &pipe::part, length = 5;
    if (best) {
      if (condition.kind && condition.kind != best)
        return refused(fmt::format("one kind at a time: {} and {}", condition.kind->plural, best->plural));
      condition.kind = best;
      piece = bareWords(piece.substr(length));
      for (const std::string_view filler : {"where", "with", "whose", "that"})
        if (begins(piece, filler, rest)) piece = rest;
      if (piece.empty()) continue;
    }
    if (begins(piece, "incomplete", rest) && rest.empty()) {
      condition.incomplete = true;
      continue;
    }
    if (begins(piece, "assumed", rest) && rest.empty()) {
      condition.assumed = true;
      continue;
    }
    const auto keys = knownKeys(condition.kind);
    const Known* key = nullptr;
    for (const Known& k : keys)
      if (begins(piece, k.word, rest)) {
        key = &k;
        break;
      }
    if (!key) return refused(fmt::format("\"{}\" is not a kind, field or result", piece));
    Test test{std::string(key->key), Compare::equal, 0.0, {}};
    static constexpr std::pair<std::string_view, Compare> signs[] = {
        {"<=", Compare::atMost}, {">=", Compare::atLeast}, {"!=", Compare::notEqual}, {"<", Compare::less},
        {">", Compare::more},    {"=", Compare::equal},    {"under", Compare::less},  {"over", Compare::more},
        {"is", Compare::equal},  {"has", Compare::has},    {"lacks", Compare::lacks}};
    bool compared = false;
    for (const auto& [sign, compare] : signs)
      if (!compared && (std::isalpha(static_cast<unsigned char>(sign[0])) ? begins(rest, sign, rest)
                                                                          : rest.starts_with(sign))) {
        if (!std::isalpha(static_cast<unsigned char>(sign[0]))) rest = bareWords(rest.substr(sign.size()));
        test.compare = compare;
        compared = true;
      }
    if (!compared)
      return refused(
          fmt::format("add a comparison after {}: <, <=, =, >=, >, has or lacks", spoken(key->key)));
    const bool plain = test.compare == Compare::has || test.compare == Compare::lacks;
    if (rest.empty() && !plain)
      return refused(fmt::format("add a value to compare {} with", spoken(key->key)));
    const bool equality = test.compare == Compare::equal || test.compare == Compare::notEqual;
    if (key->is == Known::Is::table && !plain)
      return refused(fmt::format("{} is a table: only has and lacks apply", spoken(key->key)));
    if (key->is == Known::Is::text && !plain && !equality)
      return refused(fmt::format("{} is not a number: only =, !=, has and lacks apply", spoken(key->key)));
    if (key->is != Known::Is::number || plain) {
      test.text = std::string(rest);
    } else {
      const auto value = parse(rest, key->measure, &units.unitFor(key->measure));
      if (!value) return refused(fmt::format("{}: {}", spoken(key->key), value.error().what));
      test.value = resolve(*value, key->measure, Medium{});
    }
    condition.tests.push_back(std::move(test));
  }
  if (!condition.kind && !condition.incomplete && !condition.assumed && condition.tests.empty())
    return refused("enter a kind, or a field with a comparison: bore < 100 mm");
  return condition;
}

std::vector<Id> elementsThat(const Condition& condition, const Network& network, const Solution& solution) {
  std::vector<Id> ids;
  const auto widest = condition.incomplete ? widestBores(network, solution.setting) : std::vector<double>();
  network.each([&](Id id, const Element& e) {
    if (condition.kind && e.part != condition.kind) return;
    for (const Test& t : condition.tests)
      if (!holds(t, network, solution, id)) return;
    if (condition.assumed && assumedAt(network, id).empty()) return;
    if (condition.incomplete && !lacksSomething(network, solution, id, widest)) return;
    ids.push_back(id);
  });
  return ids;
}

std::vector<Id> alike(const Network& network, Id id) {
  const Element& model = network.at(id);
  std::vector<Id> ids;
  auto text = [](const Element& e, std::string_view key) {
    const Field* f = findField(*e.part, key);
    const Value* v = f ? e.value(f->key) : nullptr;
    return v ? writeField(*f, *v) : std::string();
  };
  network.each([&](Id other, const Element& e) {
    if (e.part != model.part) return;
    for (const std::string_view key : {key::size, key::bore, key::stockItem})
      if (text(e, key) != text(model, key)) return;
    ids.push_back(other);
  });
  return ids;
}

std::optional<Assignment> readAssignment(std::string_view text, const Network& network,
                                         const std::vector<Id>& selection) {
  text = bareWords(text);
  Assignment a;
  std::string_view rest = text;
  // The longest beginning that is a name; names may hold blanks.
  for (std::size_t end = text.size(); end > 0 && a.ids.empty(); end = text.rfind(' ', end - 1)) {
    if (const Id id = network.byName(bareWords(text.substr(0, end))); id != noId) {
      a.ids = {id};
      rest = bareWords(text.substr(end));
    }
    if (text.find(' ') == std::string_view::npos || end <= text.find(' ')) break;
  }
  if (a.ids.empty()) a.ids = selection;
  if (a.ids.empty() || !network.find(a.ids.front())) return std::nullopt;
  const Field* best = nullptr;
  std::string_view value;
  std::size_t longest = 0;
  for (const Field& f : network.at(a.ids.front()).part->fields)
    for (const std::string& word : {std::string(f.key), spoken(f.key)}) {
      std::string_view behind;
      if (f.kind != FieldKind::table && word.size() > longest && begins(rest, word, behind) &&
          !behind.empty())
        best = &f, value = behind, longest = word.size();
    }
  if (!best) return std::nullopt;
  while (value.starts_with('=')) value = bareWords(value.substr(1));
  a.key = std::string(best->key);
  a.text = std::string(value);
  a.words = fmt::format(
      "{}: {} {}",
      a.ids.size() == 1 ? network.at(a.ids.front()).name : fmt::format("{} selected", a.ids.size()),
      spoken(a.key), a.text);
  return a;
}

}  // namespace conduit
